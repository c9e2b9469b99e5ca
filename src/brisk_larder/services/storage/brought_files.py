"""Files brought in, looked at, taken in by a worker with progress, cancelled, cleared away."""

from __future__ import annotations

import logging
import os
import shutil
import tempfile
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field
from pathlib import Path
from secrets import token_hex
from typing import Any, BinaryIO

from ...core.base.errors import BadFile, Conflict, LarderError, NotFound
from ...data.acts import ActRef
from ..household.larder import Larder
from .import_helper import FOLDER
from .imports import Preview, import_file, preview

log = logging.getLogger("brisk_larder")
MOST_BYTES = 512 * 1024 * 1024
KEEP_S = 3600.0  # a file nobody takes in is cleared away after an hour


def _sweep() -> None:
    """Remove what servers that were killed left on their desks."""
    for rest in Path(tempfile.gettempdir()).glob(f"{FOLDER}*"):
        owner = rest.name.removeprefix(FOLDER).split("-")[0]
        if not (owner.isdecimal() and Path(f"/proc/{owner}").exists()):
            shutil.rmtree(rest, ignore_errors=True)


class _Cancelled(LarderError):
    """The keeper stopped it: the transaction is rolled back, nothing is left behind."""


@dataclass(frozen=True)
class ImportState:
    """Where a file stands: waiting, reading, done, failed, cancelled; share done 0-1."""

    token: str
    node_id: int
    state: str
    share: float
    preview: Preview
    result: dict[str, Any] | None
    message: str
    problems: list[dict[str, Any]]
    act_id: str | None


@dataclass
class _File:
    token: str
    node_id: int
    path: Path
    preview: Preview
    brought: float
    state: str = "waiting"
    share: float = 0.0
    stop: bool = False
    result: dict[str, Any] | None = None
    message: str = ""
    problems: list[dict[str, Any]] = field(default_factory=list)
    act_id: str | None = None


class BroughtFiles:
    """The files of one server. Nothing of it survives a restart; an import is one transaction."""

    def __init__(self, larder: Larder) -> None:
        self._larder = larder
        _sweep()
        self._folder = Path(tempfile.mkdtemp(prefix=f"{FOLDER}{os.getpid()}-"))
        self._files: dict[str, _File] = {}
        self._lock = threading.Lock()
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="import")

    def bring(self, node_id: int, name: str, stream: BinaryIO) -> ImportState:
        """Keep a copy of a file and look at it. Raises BadFile for what is no table or too large."""
        self._clear()
        token = token_hex(8)
        path = self._folder / token
        try:
            self._copy(name, stream, path)
            seen = preview(self._larder, node_id, path, name)
        except BaseException:
            path.unlink(missing_ok=True)
            raise
        made = _File(token, node_id, path, seen, time.monotonic())
        with self._lock:
            self._files[token] = made
        return self._shown(made)

    @staticmethod
    def _copy(name: str, stream: BinaryIO, path: Path) -> None:
        size = 0
        with path.open("wb") as out:
            while piece := stream.read(1024 * 1024):
                size += len(piece)
                if size > MOST_BYTES:
                    raise BadFile(f"{name} is larger than {MOST_BYTES // 2**20} MB: split it")
                out.write(piece)

    @contextmanager
    def copied(self, name: str, stream: BinaryIO) -> Iterator[Path]:
        """A copy of a file on the disk for a while, made piece by piece. Raises BadFile as ``bring``."""
        path = self._folder / token_hex(8)
        try:
            self._copy(name, stream, path)
            yield path
        finally:
            path.unlink(missing_ok=True)

    def take(self, token: str, ref: ActRef, answers: dict[str, Any], partial: bool) -> ImportState:
        """Begin to take a file in. Raises Conflict when it is under way or done."""
        found = self._find(token)
        with self._lock:
            if found.state in ("reading", "done"):
                raise Conflict("That file is being taken in already")
            found.state, found.share, found.stop = "reading", 0.0, False
            found.message, found.problems, found.act_id = "", [], ref.id
        self._pool.submit(self._work, found, ref, answers, partial)
        return self._shown(found)

    def _work(self, found: _File, ref: ActRef, answers: dict[str, Any], partial: bool) -> None:
        def progress(share: float) -> None:
            found.share = share
            if found.stop:
                raise _Cancelled("Stopped: nothing was taken in")

        try:
            found.result = asdict(
                import_file(
                    self._larder,
                    ref,
                    found.node_id,
                    found.path,
                    found.preview.file_name,
                    answers=answers,
                    partial=partial,
                    progress=progress,
                )
            )
            found.state = "done"
            found.path.unlink(missing_ok=True)
        except _Cancelled as stopped:
            found.state, found.message = "cancelled", stopped.message
        except BadFile as error:
            found.state, found.message, found.problems = "failed", error.message, error.problems
        except LarderError as error:
            found.state, found.message = "failed", error.message
        except Exception as error:  # noqa: BLE001 (a worker: said, and logged with where)
            found.state = "failed"
            found.message = f"That went wrong inside ({type(error).__name__}); nothing was taken in"
            where = "".join(traceback.format_tb(error.__traceback__))
            log.error(
                "unforeseen error while taking in a file: %s\n%s", type(error).__name__, where
            )

    def state(self, token: str) -> ImportState:
        """Where a file stands. Raises NotFound."""
        return self._shown(self._find(token))

    def stop(self, token: str) -> ImportState:
        """Stop an import, or clear away a file that waits."""
        found = self._find(token)
        found.stop = True
        if found.state in ("waiting", "failed"):
            found.state = "cancelled"
            found.path.unlink(missing_ok=True)
        return self._shown(found)

    def wait(
        self, token: str, until: Callable[[ImportState], bool], seconds: float = 60.0
    ) -> ImportState:
        """Wait for a state (for scripts and checks). Raises NotFound for an unknown file."""
        end = time.monotonic() + seconds
        while not until(now := self.state(token)) and time.monotonic() < end:
            time.sleep(0.02)
        return now

    def close(self) -> None:
        """Stop what is under way and clear them all away."""
        for found in list(self._files.values()):
            found.stop = True
        self._pool.shutdown(wait=True, cancel_futures=True)
        shutil.rmtree(self._folder, ignore_errors=True)

    def _find(self, token: str) -> _File:
        found = self._files.get(token)
        if found is None:
            raise NotFound("That file is not here any more: choose it again")
        return found

    def _clear(self) -> None:
        with self._lock:
            for token, f in list(self._files.items()):
                if f.state != "reading" and time.monotonic() - f.brought > KEEP_S:
                    f.path.unlink(missing_ok=True)
                    del self._files[token]

    def _shown(self, f: _File) -> ImportState:
        return ImportState(
            token=f.token,
            node_id=f.node_id,
            state=f.state,
            share=round(f.share, 3),
            preview=f.preview,
            result=f.result,
            message=f.message,
            problems=f.problems,
            act_id=f.act_id,
        )
