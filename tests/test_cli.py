"""The larder command, as the README uses it, and what it says when something is wrong."""

import contextlib
import json
import os
import shlex
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest
import typer
from typer.testing import CliRunner

from brisk_larder import cli

ROOT = Path(__file__).resolve().parents[1]
EXAMPLES = ROOT / "examples"
TODAY = "2026-11-24"
PORT = 18_931


@pytest.fixture
def run(tmp_path):
    """Runs a command on a file of its own; returns (exit code, output)."""
    runner = CliRunner()

    def command(*words, data="household.sqlite3", day=True):
        line = [*map(str, words), "--data", str(tmp_path / data)]
        if day:
            line += ["--today", TODAY]
        result = runner.invoke(cli.app, line)
        assert result.exception is None or isinstance(result.exception, SystemExit), (
            result.exception
        )
        return result.exit_code, result.output

    return command


@pytest.fixture
def filled(run):
    """The README's main job on the two example files."""
    assert (
        run(
            "import",
            "packets",
            EXAMPLES / "packets.csv",
            "--place",
            "Stone larder",
            "--kind",
            "larder",
        )[0]
        == 0
    )
    assert (
        run("import", "readings", EXAMPLES / "larder-logger.csv", "--place", "Stone larder")[0] == 0
    )
    assert run("want", "onions, cured and stored", "--per-week", 1, "--weeks", 30)[0] == 0
    assert run("want", "peas, shelled, frozen", "--per-week", 0.3, "--weeks", 26)[0] == 0
    return run


def test_the_main_job_of_the_readme_prints_this_years_list(filled):
    code, text = filled("year")
    assert code == 0
    for words in (
        "Tests:",
        "Regrow:",
        "Short for the table: 2",
        "Copper Kettle",
        "onions, cured and stored:",
    ):
        assert words in text
    for line in text.splitlines():
        if line.startswith("  - "):
            reason = text.splitlines()[text.splitlines().index(line) + 1]
            assert reason.startswith("      "), line  # each thing with its reason


def test_the_list_for_programs_is_the_same_list(filled):
    data = json.loads(filled("year", "--json")[1])
    text = filled("year")[1]
    for part in ("tests", "regrow", "shortfalls"):
        assert data[part]
        for item in data[part]:
            assert item["title"] in text
            assert item["why"]


def test_the_readme_names_every_command_and_only_true_ones():
    readme = (ROOT / "README.md").read_text()
    names = {c.name or c.callback.__name__ for c in cli.app.registered_commands}
    for name in names:
        assert f"`{name}" in readme or f"larder {name}" in readme, name
    for name in ("import packets", "import readings", "./run demo", "./run test"):
        assert name in readme


def test_the_same_files_twice_add_readings_once(filled):
    code, text = filled(
        "import", "readings", EXAMPLES / "larder-logger.csv", "--place", "stone larder"
    )
    assert code == 0
    assert "0 readings taken in" in text
    assert "2880 known already" in text


def test_what_was_assumed_of_a_sheet_is_said_line_by_line(run):
    text = run("import", "packets", EXAMPLES / "packets.csv")[1]
    assert "line 7, Valley Amber: no year" in text
    assert "line 11, Barrow: no quantity" in text
    assert "line 13, yellow, tall, by the sluice: no known kind" in text


def test_the_stock_and_everything_go_out_and_into_another_larder(filled, tmp_path):
    stock, whole = tmp_path / "stock.csv", tmp_path / "all.json"
    assert filled("export", "stock", "-o", stock)[0] == 0
    assert filled("export", "everything", "-o", whole)[0] == 0
    code, text = filled("import", "packets", stock, data="second.sqlite3")
    assert (code, text) == (0, "stock.csv: 12 packets brought in\n")
    assert filled("export", "stock", data="second.sqlite3")[1] == stock.read_text()
    code, text = filled("import", "everything", whole, data="third.sqlite3")
    assert code == 0
    assert filled("export", "everything", data="third.sqlite3")[1] == whole.read_text()
    code, text = filled("import", "everything", whole, data="third.sqlite3")
    assert (code, "an empty larder" in text) == (1, True)
    parcel = tmp_path / "parcel.json"
    parcel.write_text("{}")
    code, text = filled("import", "parcel", parcel)
    assert (code, "not a parcel of seed" in text) == (1, True)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("import", "parcel", "nowhere.json"), "There is no file nowhere.json"),
        (("import", "everything", "nowhere.json"), "There is no file nowhere.json"),
        (("import", "packets", "nowhere.csv"), "There is no file nowhere.csv"),
        (("import", "readings", "nowhere.csv", "--place", "x"), "There is no file"),
        (("want", "pickled moon", "--per-week", 1, "--weeks", 4), "the kind of plant"),
        (
            ("want", "onions", "--per-week", 1, "--weeks", 4),
            "Known: fresh spring onions; onions, chopped",
        ),
        (("want", "sauerkraut", "--per-week", -1, "--weeks", 4), "per week"),
        (("export", "dreams"), "lots, readings or everything"),
        (("serve", "--host", "0.0.0.0"), "no access control yet"),
    ],
)
def test_errors_are_one_clear_line(run, words, says):
    code, text = run(*words)
    assert code == 1
    assert says in text
    assert "Traceback" not in text


def test_a_bad_file_is_refused_by_line(run, tmp_path):
    bad = tmp_path / "bad.csv"
    bad.write_text("time,temperature_c\n2026-01-01 10:00,12\n2026-01-01 11:00,warm\n")
    code, text = run("import", "readings", bad, "--place", "cellar", "--kind", "cellar")
    assert code == 1
    assert "bad.csv, line 3, temperature: 'warm' is not a number" in text


def test_a_bad_day_is_refused(run):
    code, text = run("year", "--today", "soon", day=False)
    assert code == 1
    assert "2026-03-01" in text


def test_a_busy_port_is_explained(run, tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        for command in ("serve", "demo"):
            code, text = run(command, "--port", port, data="untouched.sqlite3")
            assert code == 1
            assert f"Port {port} is taken" in text
            assert f"--port {port + 1}" in text
    assert not (tmp_path / "untouched.sqlite3").exists()  # found out before anything is made


def test_exports_are_open_formats(filled, tmp_path):
    lots = filled("export", "lots")[1].splitlines()
    assert lots[0].startswith("code,kind,variety,origin,seeds")
    assert len(lots) == 13
    out = tmp_path / "all.json"
    filled("export", "everything", "-o", out)
    data = json.loads(out.read_text())
    assert data["format"] == "brisk-larder"
    assert len(data["lot"]) == 12
    assert len(data["reading"]) == 2880


def test_backup_and_restore_keep_the_present_file(filled, tmp_path):
    copy = tmp_path / "copy.sqlite3"
    assert filled("backup", copy, day=False)[0] == 0
    assert filled("backup", copy, day=False)[0] == 1  # never over an existing file
    filled("want", "sauerkraut", "--per-week", 1, "--weeks", 4)
    assert filled("restore", copy, day=False)[0] == 0
    assert "sauerkraut" not in filled("year")[1]
    kept = list(tmp_path.glob("household-before-restore-*.sqlite3"))
    assert len(kept) == 1
    with sqlite3.connect(kept[0]) as raw:
        assert raw.execute("SELECT count(*) FROM food_target").fetchone() == (3,)
    raw.close()


def test_a_restore_of_something_else_is_refused_and_changes_nothing(filled, tmp_path):
    other = tmp_path / "letter.txt"
    other.write_text("dear aunt, " * 500)
    before = filled("year")[1]
    code, text = filled("restore", other, day=False)
    assert code == 1
    assert "not a Brisk Larder file" in text
    assert filled("year")[1] == before
    assert filled("backup", tmp_path / "x.sqlite3", data="none.sqlite3", day=False)[0] == 1


def test_the_simulated_logger_feeds_the_import(run, tmp_path):
    out = tmp_path / "sim.csv"
    result = CliRunner().invoke(
        cli.app, ["simulate-logger", str(out), "--kind", "porch", "--days", "3", "--today", TODAY]
    )
    assert result.exit_code == 0
    text = run("import", "readings", out, "--place", "porch", "--kind", "porch")[1]
    assert "72 readings taken in" in text
    bad = CliRunner().invoke(cli.app, ["simulate-logger", str(out), "--kind", "moon"])
    assert bad.exit_code == 1
    assert "heated_room" in bad.output


def test_the_demo_never_touches_another_file(filled, tmp_path):
    before = filled("year")[1]
    code, text = filled("demo", "--port", 8999)
    assert code == 1
    assert "left alone" in text
    assert filled("year")[1] == before
    letter = tmp_path / "letter.txt"
    letter.write_text("dear aunt, " * 500)
    assert filled("demo", "--port", 8999, data="letter.txt")[0] == 1
    assert letter.read_text().startswith("dear aunt")


@pytest.mark.parametrize("words", [["year"], ["export", "stock"], ["export", "everything"]])
def test_who_only_looks_makes_no_larder(run, tmp_path, words):
    code, text = run(*words, data="no-such/typed-wrong.sqlite3")
    assert code == 1
    assert "There is no household file at" in text.replace("\n", " ")
    assert not (tmp_path / "no-such").exists()


@pytest.fixture(params=["read only", "full"])
def cramped(request, tmp_path):
    """A folder with a larder in it that takes nothing more: a small disk of its own where one may be had
    (rights do not bind root), else one without the right to write."""
    folder = tmp_path / "disk"
    folder.mkdir()
    disk = ["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(folder)]
    mounted = os.geteuid() == 0 and subprocess.run(disk, capture_output=True).returncode == 0
    if not mounted and (os.geteuid() == 0 or request.param == "full"):
        pytest.skip("no small disk may be had here")

    def fill():
        if request.param == "full":
            (folder / "full").write_bytes(b"\0")
            with contextlib.suppress(OSError), (folder / "full").open("ab", buffering=0) as rest:
                while rest.write(b"\0" * 4096):
                    pass
        elif mounted:
            subprocess.run(["mount", "-o", "remount,ro", str(folder)], check=True)
        else:
            folder.chmod(0o555)

    yield folder, fill
    if mounted:
        subprocess.run(["umount", str(folder)], check=True)
    else:
        folder.chmod(0o755)


def test_a_larder_where_nothing_can_be_written_can_be_read_taken_out_and_backed_up(
    run, cramped, tmp_path
):
    folder, fill = cramped
    packets = str(EXAMPLES / "packets.csv")
    own = "disk/own.sqlite3"
    assert run("import", "packets", packets, "--place", "Larder", data=own)[0] == 0
    before = run("export", "stock", data=own)[1]
    fill()
    code, text = run("export", "stock", data=own)
    assert code == 0
    assert text.endswith(before)
    assert f"Nothing can be written in {folder}" in text
    assert run("year", data=own)[0] == 0
    assert run("backup", tmp_path / "kept.sqlite3", data=own, day=False)[0] == 0
    assert run("export", "stock", data="kept.sqlite3")[1] == before
    for words in (["backup", folder / "kept.sqlite3"], ["import", "packets", packets]):
        code, text = run(*words, data=own, day=words[0] != "backup")
        assert code == 1
        assert "damaged" not in text
        assert "written" in text


def test_the_server_ends_in_time_whatever_is_reckoned(tmp_path):
    slow = f"""
import time
from pathlib import Path
from brisk_larder import cli
import brisk_larder.api.needs as rooms
from brisk_larder.cli_base import clock_of, open_larder
rooms.basket_page.basket_room = lambda larder: time.sleep(60)
cli.run_server(open_larder(Path({str(tmp_path / "h.sqlite3")!r}), clock_of(None)), {PORT})
"""
    child = subprocess.Popen([sys.executable, "-c", slow], stdout=subprocess.PIPE)
    try:
        assert b"Brisk Larder is at" in child.stdout.readline()
        for _ in range(100):
            with (
                contextlib.suppress(OSError),
                socket.create_connection(("127.0.0.1", PORT), 1) as ask,
            ):
                ask.sendall(b"GET /api/needs/basket HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
                time.sleep(0.5)
                child.send_signal(signal.SIGTERM)
                break
            time.sleep(0.1)
        assert child.wait(20) == 0  # not the minute that is still being reckoned
    finally:
        child.kill()
        child.stdout.close()


def commands(group, said=()):
    for name, one in group.commands.items():
        yield from (
            commands(one, (*said, name)) if hasattr(one, "commands") else [((*said, name), one)]
        )


@pytest.mark.parametrize(("said", "command"), [*commands(typer.main.get_command(cli.app))])
def test_each_command_has_an_example_that_it_understands(said, command):
    words = shlex.split(command.epilog.removeprefix("Example: "))
    assert words[: 1 + len(said)] == ["larder", *said]
    with command.make_context(" ".join(said), words[1 + len(said) :]) as context:
        assert context.params
