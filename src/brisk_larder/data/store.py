"""The file: engines for reading and writing, migration with a backup before it, backup, restore."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar, cast

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.pool import QueuePool
from sqlmodel import Session

from ..core.errors import BadFile

V = TypeVar("V")
MIGRATIONS = Path(__file__).parent / "migrations"


def _engine(path: Path, *, write: bool) -> Engine:
    engine = create_engine(
        f"sqlite:///{path}",
        poolclass=QueuePool,
        pool_size=1 if write else 6,
        connect_args={"check_same_thread": False, "timeout": 10},
    )

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, record: Any) -> None:
        # the driver must not begin by itself: a deferred read-then-write fails at once with "locked"
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.execute("PRAGMA synchronous=NORMAL")
        cursor.execute("PRAGMA busy_timeout=10000")
        if not write:
            cursor.execute("PRAGMA query_only=ON")
        cursor.close()

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE" if write else "BEGIN")

    return engine


def _alembic(path: Path) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("sqlalchemy.url", f"sqlite:///{path}")
    config.attributes["path"] = path
    return config


def head_revision() -> str:
    """The newest schema revision this program knows."""
    head = ScriptDirectory.from_config(_alembic(Path("x"))).get_current_head()
    assert head is not None, "the package ships at least one migration"
    return head


def current_revision(path: Path) -> str | None:
    """Schema revision of a file; None for an empty or missing one."""
    if not path.exists():
        return None
    engine = create_engine(f"sqlite:///{path}")
    try:
        with engine.connect() as connection:
            return MigrationContext.configure(connection).get_current_revision()
    finally:
        engine.dispose()


def remove_database(path: Path) -> None:
    """Remove a file with its write-ahead log, and nothing else beside it."""
    for suffix in ("", "-wal", "-shm"):
        path.with_name(path.name + suffix).unlink(missing_ok=True)


def copy_database(source: Path, target: Path) -> None:
    """A consistent copy of a live file through SQLite's own backup. Raises BadFile if it is none."""
    target.parent.mkdir(parents=True, exist_ok=True)
    try:
        with sqlite3.connect(source) as one, sqlite3.connect(target) as two:
            one.backup(two)
    except sqlite3.DatabaseError as error:
        raise BadFile(f"{source.name} is not a Brisk Larder file: {error}") from error
    finally:
        for connection in (locals().get("one"), locals().get("two")):
            if connection is not None:
                connection.close()


def migrate(path: Path) -> Path | None:
    """Bring a file to the newest schema; returns the backup taken before, if there was a need.

    Raises BadFile when the file was made by a newer program.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    current = current_revision(path)
    head = head_revision()
    if current == head:
        return None
    if current is not None:
        known = {s.revision for s in ScriptDirectory.from_config(_alembic(path)).walk_revisions()}
        if current not in known:
            raise BadFile(
                f"{path.name} was written by a newer Brisk Larder (schema {current}); "
                "update the program first"
            )
    saved = None
    if current is not None:
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
        saved = path.with_name(f"{path.stem}-before-{head}-{stamp}.sqlite3")
        copy_database(path, saved)
    command.upgrade(_alembic(path), "head")
    return saved


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


class Store:
    """One household's file. Reads go through pooled read-only sessions; writes one at a time."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.saved_before_migration = migrate(path)
        self._reader = _engine(path, write=False)
        self._writer = _engine(path, write=True)
        self._lock = threading.RLock()
        # sees every commit, also those of other programs; never writes
        self._watch = sqlite3.connect(path, check_same_thread=False, isolation_level=None)
        self._watch_lock = threading.Lock()
        self._making: dict[str, threading.RLock] = {}
        self._memo: dict[str, tuple[tuple[int, int], Any]] = {}
        self._shared = Shared()
        self.schema_rev = head_revision()

    def version(self) -> int:
        """A number that changes with every commit to the file by anybody."""
        with self._watch_lock:
            return int(self._watch.execute("PRAGMA data_version").fetchone()[0])

    def remembered(self, name: str, now_s: int, make: Callable[[], V]) -> V:
        """What ``make`` returns, kept until the file changes or the minute is over."""
        with self._watch_lock:
            lock = self._making.setdefault(name, threading.RLock())
        with lock:  # several rooms ask for the same at once: it is made once
            key = (self.version(), now_s // 60)
            kept = self._memo.get(name)
            if kept is not None and kept[0] == key:
                return cast(V, kept[1])
            value = make()
            if self.version() == key[0]:  # else something was written meanwhile, if only caches
                self._memo[name] = (key, value)
            return value

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A read-only session on one consistent snapshot; ``session.info["shared"]``: see Shared."""
        with Session(self._reader, info={"shared": self._shared}) as session:
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """One write transaction (BEGIN IMMEDIATE): commits at the end, rolls back on any error."""
        with self._lock, Session(self._writer, expire_on_commit=False) as session:
            try:
                yield session
                session.commit()
            except BaseException:
                session.rollback()
                raise

    def close(self) -> None:
        """Release the file."""
        self._watch.close()
        self._reader.dispose()
        self._writer.dispose()
