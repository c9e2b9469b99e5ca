"""The other end of ``import_worker``: starts it, tells it what to do, passes its progress on."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from ...core.base.errors import BadFile, CannotWrite
from ...formats.readings_csv import Columns
from ...formats.readings_layout import Layout

# in the system's folder for such things, with the owner's number after it
FOLDER = "larder-import-"
LARGE_BYTES = 4 * 2**20  # smaller files are read at once: starting a process would take longer
Progress = Callable[[float], None]


class Helper:
    """One process for one file. ``pid``: its number."""

    def __init__(self, folder: Path) -> None:
        self._arrays = folder / "columns.npz"
        self._process = subprocess.Popen(
            [sys.executable, "-m", "brisk_larder.services.storage.import_worker"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        self.pid = self._process.pid

    def _ask(self, progress: Progress, **told: Any) -> dict[str, Any]:
        assert self._process.stdin is not None and self._process.stdout is not None, "piped"  # noqa: PT018
        self._process.stdin.write(json.dumps({**told, "arrays": str(self._arrays)}) + "\n")
        self._process.stdin.flush()
        for line in self._process.stdout:
            said = json.loads(line)
            if "share" in said:
                progress(said["share"])
            elif "failed" in said:
                kind = BadFile if told["do"] == "read" else CannotWrite
                raise kind(said["failed"])
            else:
                return dict(said)
        raise CannotWrite("The process that reads the file ended early: is there memory enough?")

    def read(
        self, path: Path, name: str, layout: Layout, header: Sequence[str], progress: Progress
    ) -> Columns:
        """The file as columns. Raises BadFile; ``progress`` may raise to stop."""
        said = self._ask(
            progress,
            do="read",
            path=str(path),
            name=name,
            layout=asdict(layout),
            header=list(header),
        )
        with np.load(self._arrays) as a:
            arrays = [a[name] for name in ("at_s", "temperature_c", "erh", "lines")]
        said.pop("done")
        return Columns(*arrays, **said)

    def write(
        self, file: Path, series_id: int, batch_id: int, columns: Columns, progress: Progress
    ) -> None:
        """Write columns into a series that stands nowhere. Raises CannotWrite."""
        np.savez(
            self._arrays, at_s=columns.at_s, temperature_c=columns.temperature_c, erh=columns.erh
        )
        self._ask(progress, do="write", file=str(file), series=series_id, batch=batch_id)

    def close(self) -> None:
        """End it, whatever it is doing."""
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                pipe.close()


@contextmanager
def helper_for(path: Path) -> Iterator[Helper | None]:
    """A process for a large file, ended afterwards; none for a small one."""
    if path.stat().st_size < LARGE_BYTES:
        yield None
        return
    with TemporaryDirectory(prefix=f"{FOLDER}{os.getpid()}-columns-") as folder:
        helper = Helper(Path(folder))
        try:
            yield helper
        finally:
            helper.close()
