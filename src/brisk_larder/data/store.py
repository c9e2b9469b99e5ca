"""The open file: engines for reading and writing, one writer at a time, what readers share."""

from __future__ import annotations

import json
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any, TypeVar, cast

from sqlalchemy import URL, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.pool import QueuePool
from sqlmodel import Session

from ..core.base.errors import CannotWrite, LarderError
from .files import APPLICATION_ID, Hold, copy_database, damaged, head_revision, migrate, open_raw

__all__ = ["Shared", "Store", "copy_database", "migrate"]
V = TypeVar("V")
PATIENCE_MS = 10_000  # an act waits so long for another program's lock
CACHE_PATIENCE_MS = 300  # what is only kept for speed does not
QUIET_S = 5.0  # after such a failure, so long nothing is kept: rooms would wait for it one by one


class _Next:
    """How long the next write waits for another program's lock. Writes come one at a time."""

    patience_ms = PATIENCE_MS


def _engine(path: Path, how: _Next | None = None) -> Engine:
    """The engine of readers, or with ``how`` that of the one writer."""
    write = how is not None
    engine = create_engine(
        URL.create("sqlite", database=str(path)),
        poolclass=QueuePool,
        pool_size=1 if write else 6,
        connect_args={"check_same_thread": False, "timeout": 10},
        hide_parameters=True,  # names and notes stay out of errors, and so out of the log
    )

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        # the driver must not begin by itself: a deferred read-then-write fails at once with "locked"
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.execute("PRAGMA synchronous=NORMAL")
        cursor.execute(f"PRAGMA busy_timeout={PATIENCE_MS}")
        if not write:
            cursor.execute("PRAGMA query_only=ON")
        cursor.close()

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        if how is None:
            connection.exec_driver_sql("BEGIN")
            return
        connection.exec_driver_sql(f"PRAGMA busy_timeout={how.patience_ms}")
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    return engine


class Shared:
    """What read sessions make of one state of the file and may use together, whoever made it.

    The caller names the state: everything that what is made depends on. Another state drops it all.
    """

    def __init__(self) -> None:
        self._lock = threading.RLock()
        self._state: object = None
        self._kept: dict[object, Any] = {}

    def get(self, state: object, name: object, make: Callable[[], V]) -> V:
        """What was made under a name for an equal state, or what ``make`` returns now."""
        with self._lock:  # rooms that ask at once wait for one making instead of making it each
            if state != self._state:
                self._state, self._kept = state, {}
            if name not in self._kept:
                value = make()
                if state != self._state:  # another state was asked for on the way
                    return value
                self._kept[name] = value
            return cast(V, self._kept[name])


def said(error: BaseException, path: Path) -> LarderError | None:
    """What SQLite's refusal means for the keeper; None when it says nothing about the file."""
    cause = getattr(error, "orig", error)
    if not isinstance(cause, sqlite3.DatabaseError):
        return None
    code = getattr(cause, "sqlite_errorcode", 0) & 0xFF
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return CannotWrite(
            f"Another program holds {path.name}: nothing was saved. Try again in a moment"
        )
    if code == sqlite3.SQLITE_FULL:
        return CannotWrite("The disk is full: nothing was saved. Make room, then try again")
    if code in (sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN):
        return CannotWrite(
            f"The disk does not take it ({cause}): nothing was saved. Is it full or gone?"
        )
    if code == sqlite3.SQLITE_READONLY:
        return CannotWrite(f"{path.name} may only be read: nothing was saved. Check its rights")
    if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
        return damaged(path, cause)
    return None


COMING = "coming:"  # of readings on their way in, see services.storage.coming


def process_mark(pid: int) -> str:
    """A process by its number and the time it began; empty when there is none such."""
    try:
        return f"{pid}:{Path(f'/proc/{pid}/stat').read_text().rsplit(')', 1)[1].split()[19]}"
    except OSError:
        return ""


def sweep_coming(run: Callable[..., Any], key: str) -> None:
    """Remove readings that were on their way in under a key of ``meta``; none when they arrived."""
    row = run("SELECT value FROM meta WHERE key = ?", (key,)).fetchone()
    if row is None:
        return
    told = json.loads(row[0])
    for table in ("d_hour", "d_day", "reading"):
        run(f"DELETE FROM {table} WHERE series_id = ?", (told["series"],))
    run("DELETE FROM import_batch WHERE id = ?", (told["batch"],))
    run("DELETE FROM series WHERE id = ?", (told["series"],))
    run("DELETE FROM meta WHERE key = ?", (key,))


class Store:
    """One household's file. Reads go through pooled read-only sessions; writes one at a time.

    ``trouble``: why what is derived could not be kept the last time it was tried, else empty.
    ``notes``: what was found in the file and set right since it was opened.
    Raises as ``files.migrate``.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        self._hold = Hold(path)
        try:
            self.saved_before_migration = migrate(path, self._hold)
            self._hold.share()
            self._mark_as_ours()
        except BaseException:
            self._hold.close()
            raise
        self._inode = path.stat().st_ino
        self._next = _Next()
        self._reader = _engine(path)
        self._writer = _engine(path, self._next)
        self._lock = threading.RLock()
        # sees every commit, also those of other programs; never writes
        self._watch = sqlite3.connect(path, check_same_thread=False, isolation_level=None)
        self._watch_lock = threading.Lock()
        self._commits: int | None = None
        self._stamp: tuple[object, ...] | None = None
        self._changes = 0
        self._making: dict[str, threading.RLock] = {}
        self._memo: dict[str, tuple[tuple[int, int], Any]] = {}
        self._within = threading.local()
        self._shared = Shared()
        self.schema_rev = head_revision()
        self.trouble = ""
        self.notes: list[str] = []
        self._troubled_at = 0.0

    def _mark_as_ours(self) -> None:
        """Whose file it is (those of earlier releases did not say), and a log that readers share."""
        try:
            with closing(open_raw(self.path, write=True)) as connection:
                if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
                    connection.execute(f"PRAGMA application_id={APPLICATION_ID}")
                connection.execute("PRAGMA journal_mode=WAL")
                self._sweep(connection)
        except sqlite3.OperationalError as error:
            raise said(error, self.path) or error from error

    @staticmethod
    def _sweep(connection: sqlite3.Connection) -> None:
        """Readings that a killed program was bringing in when it ended."""
        for key, value in connection.execute(
            "SELECT key, value FROM meta WHERE key LIKE ? || '%'", (COMING,)
        ).fetchall():
            told = json.loads(value)
            if process_mark(told["pid"]) != told["mark"]:
                connection.execute("BEGIN IMMEDIATE")
                sweep_coming(connection.execute, key)
                connection.execute("COMMIT")

    def version(self) -> int:
        """A number that changes with all that rooms are made of, whoever wrote it: acts, readings and
        this program's own writes; not with what is only kept for speed, nor with a file on its way in.
        """
        with self._watch_lock:
            commits = self._watch.execute("PRAGMA data_version").fetchone()[0]
            if commits != self._commits:
                stamp = self._watch.execute(
                    "SELECT (SELECT max(rowid) FROM act), "
                    "(SELECT value FROM meta WHERE key = 'climate')"
                ).fetchone()
                self._changes += stamp != self._stamp
                self._commits, self._stamp = commits, stamp
            return self._changes

    def acts(self) -> int:
        """The number of the last act in the file; 0 before the first."""
        with self._watch_lock:
            return int(self._watch.execute("SELECT max(rowid) FROM act").fetchone()[0] or 0)

    def remembered(
        self,
        name: str,
        now_s: int,
        make: Callable[[], V],
        lasting: Callable[[V], bool] = lambda value: True,
    ) -> V:
        """What ``make`` returns, kept until the file changes or the minute is over; not what is only
        for now (``lasting``).

        What is asked for while something else is being made is made once for it, even when the file
        changes meanwhile: a room is of one piece, and a file that comes in does not make it anew
        at each of its shares.
        """
        within: dict[str, Any] | None = getattr(self._within, "made", None)
        if within is not None and name in within:
            return cast(V, within[name])
        with self._watch_lock:
            lock = self._making.setdefault(name, threading.RLock())
        with lock:  # several rooms ask for the same at once: it is made once
            key = (self.version(), now_s // 60)
            kept = self._memo.get(name)
            if kept is not None and kept[0] == key:
                return cast(V, kept[1])
            if within is None:
                self._within.made = {}
            try:
                value = make()
            finally:
                if within is None:
                    self._within.made = None
            if within is not None:
                within[name] = value
            if lasting(value) and self.version() == key[0]:  # else something was written meanwhile
                self._memo[name] = (key, value)
            return value

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A read-only session on one consistent snapshot; ``session.info["shared"]``: see Shared."""
        with self._in_words(), Session(self._reader, info={"shared": self._shared}) as session:
            yield session

    @contextmanager
    def write(self, *, cache: bool = False) -> Iterator[Session]:
        """One write transaction (BEGIN IMMEDIATE): commits at the end, rolls back on any error.

        ``cache``: of what is only kept for speed; it gives up soon, and rooms need not look again.
        Raises CannotWrite when the disk, a lock or the file's rights do not let it.
        """
        with self._in_words(), self._lock, Session(self._writer, expire_on_commit=False) as session:
            self._next.patience_ms = CACHE_PATIENCE_MS if cache else PATIENCE_MS
            try:
                if self._replaced():
                    raise CannotWrite(
                        f"{self.path.name} was moved or replaced while it was open here: nothing "
                        "was saved. Start the larder anew"
                    )
                yield session
                session.commit()
                if not cache:
                    with self._watch_lock:
                        self._changes += 1
            except BaseException:
                session.rollback()
                raise

    @contextmanager
    def keep(self) -> Iterator[Session]:
        """A write of what is derived: gives up soon, and for a while after it could not be had.

        Raises CannotWrite; ``trouble`` says why until one succeeds.
        """
        if self.trouble and time.monotonic() - self._troubled_at < QUIET_S:
            raise CannotWrite(self.trouble)
        try:
            with self.write(cache=True) as session:
                yield session
            self.trouble = ""
        except CannotWrite as error:
            self.trouble, self._troubled_at = error.message, time.monotonic()
            raise

    @contextmanager
    def _in_words(self) -> Iterator[None]:
        try:
            yield
        except (DatabaseError, sqlite3.DatabaseError) as error:
            words = said(error, self.path)
            if words is None:
                raise
            raise words from error

    def _replaced(self) -> bool:
        try:
            return self.path.stat().st_ino != self._inode
        except FileNotFoundError:
            return True

    def close(self) -> None:
        """Release the file."""
        self._watch.close()
        self._reader.dispose()
        self._writer.dispose()
        self._hold.close()
