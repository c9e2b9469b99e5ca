"""The one file to install elsewhere: built, put into an environment of its own without Node, it serves."""

import os
import signal
import socket
import subprocess
import sysconfig
import time
import venv
import zipfile
from pathlib import Path
from urllib.request import urlopen

import pytest
from hatchling.builders.wheel import WheelBuilder

from brisk_larder import __version__

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="module")
def larder(tmp_path_factory) -> Path:
    """The command of an installed larder. What it depends on is lent by the environment of the tests (there
    is no network here); Brisk Larder itself is not: that one is of the wheel."""
    folder = tmp_path_factory.mktemp("elsewhere")
    wheel = Path(next(WheelBuilder(str(ROOT)).build(directory=str(folder), versions=["standard"])))
    venv.create(folder / "env", symlinks=True)
    packages = next((folder / "env" / "lib").glob("python3*")) / "site-packages"
    zipfile.ZipFile(wheel).extractall(packages)
    (packages / "lent.pth").write_text(sysconfig.get_path("purelib"))
    command = folder / "env" / "bin" / "larder"
    command.write_text(
        f"#!{folder / 'env' / 'bin' / 'python'}\nfrom brisk_larder.cli import app\napp()\n"
    )
    command.chmod(0o755)
    return command


def alone(folder: Path) -> dict[str, str]:
    """An environment that knows neither Node nor this checkout."""
    kept = {k: v for k, v in os.environ.items() if k in ("LANG", "TZ")}
    return {**kept, "PATH": "/usr/bin:/bin", "HOME": str(folder), "PYTHONDONTWRITEBYTECODE": "1"}


def test_it_says_its_release_and_runs_from_its_own_files(larder, tmp_path):
    done = subprocess.run(
        [larder, "--version"], capture_output=True, text=True, check=True, env=alone(tmp_path)
    )
    assert done.stdout.strip() == f"Brisk Larder {__version__}"
    where = subprocess.run(
        [larder.parent / "python", "-c", "import brisk_larder; print(brisk_larder.__file__)"],
        capture_output=True, text=True, check=True, env=alone(tmp_path), cwd=tmp_path,
    )  # fmt: skip
    assert Path(where.stdout.strip()).is_relative_to(larder.parents[1])


def test_an_own_larder_is_served_with_pages_and_documents_of_the_api(larder, tmp_path):
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    own = ["--data", str(tmp_path / "own.sqlite3"), "--port", str(port)]
    served = subprocess.Popen(
        [larder, "serve", *own], env=alone(tmp_path), cwd=tmp_path, stdout=subprocess.DEVNULL
    )

    def read(path: str) -> str:
        with urlopen(f"http://127.0.0.1:{port}{path}") as answer:
            return answer.read().decode()

    try:
        for _ in range(300):
            with socket.socket() as knock:
                if knock.connect_ex(("127.0.0.1", port)) == 0:
                    break
            assert served.poll() is None
            time.sleep(0.1)
        page = read("/")
        script = page.split('src="')[1].split('"')[0]
        assert "Brisk Larder" in page
        assert len(read(script)) > 1000
        assert "api-docs" in read("/docs")
        assert '"name"' in read("/api/household")
    finally:
        served.terminate()
        assert served.wait(20) in (0, -signal.SIGTERM)
