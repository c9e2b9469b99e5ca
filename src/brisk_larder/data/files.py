"""What lies on the disk: whose file it is, copies made aside and verified, migration, restore.

Nothing is ever written over the household's file in place. A new one is made beside it, checked,
and renamed over it; a process killed on the way leaves the old file, and a rest that the next
start sweeps away.
"""

from __future__ import annotations

import fcntl
import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from secrets import token_hex
from tempfile import TemporaryDirectory
from typing import IO, TYPE_CHECKING

from ..core.base.errors import BadFile, CannotWrite
from .cramped import copied_plainly, why_nothing_is_taken

if TYPE_CHECKING:
    from alembic.config import Config

MIGRATIONS = Path(__file__).parent / "migrations"
APPLICATION_ID = 0x62724C61  # in SQLite's header: says that a file is a larder
MAGIC = b"SQLite format 3\x00"
# what a larder held before files carried the id above
OUR_TABLES = {"alembic_version", "household", "act", "lot", "reading"}
QUICK_CHECK_BYTES = 48 * 2**20  # checked whole at every opening; larger ones only when copied


def alembic_config(path: Path) -> Config:
    """Alembic's configuration for one file."""
    from alembic.config import Config  # loaded only when a file is made or brought up to date

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["path"] = str(path)
    return config


def _known_revisions() -> list[str]:
    """All schema revisions this program knows, the newest first: their files are numbered in order,
    each named after its revision's number (a test asks alembic the same)."""
    found = sorted((MIGRATIONS / "versions").glob("[0-9]*.py"), reverse=True)
    return [path.name.split("_")[0] for path in found]


def head_revision() -> str:
    """The newest schema revision this program knows."""
    return _known_revisions()[0]


def open_raw(path: Path, *, write: bool = False) -> sqlite3.Connection:
    """The driver's own connection to a file that is there; without ``write`` it changes nothing."""
    mode = "rw" if write else "ro"
    where = path.absolute().as_uri()
    return sqlite3.connect(f"{where}?mode={mode}", uri=True, timeout=10, isolation_level=None)


def newest_backup(path: Path) -> Path | None:
    """The newest copy that was kept beside a file and can be opened."""
    kept = sorted(
        path.parent.glob(f"{path.stem}-before-*.sqlite3"), key=lambda p: p.stat().st_mtime
    )
    for copy in reversed(kept):
        with suppress(BadFile):
            if revision_of(copy, name_backup=False) is not None:
                return copy
    return None


def _not_ours(path: Path, why: str, name_backup: bool = True) -> BadFile:
    copy = newest_backup(path) if name_backup else None
    hint = f" The newest backup is {copy}: put it back with 'larder restore'." if copy else ""
    return BadFile(f"{path.name} is not a Brisk Larder file{why}.{hint}")


def damaged(path: Path, why: object, name_backup: bool = True) -> BadFile:
    """A file of ours that cannot be read, in words, with the newest backup."""
    copy = newest_backup(path) if name_backup else None
    hint = (
        f"The newest backup is {copy}: put it back with 'larder restore'"
        if copy
        else "No backup lies beside it"
    )
    return BadFile(f"{path.name} is damaged ({why}); it was left as it is. {hint}")


def revision_of(path: Path, *, name_backup: bool = True) -> str | None:
    """Schema revision of a larder's file; None for a missing or empty one.

    Raises BadFile, in words and with the newest backup beside it, for a folder, another kind of
    file, another program's database, a file of a newer program, or a damaged one; CannotWrite when
    it may not be read or another program holds it.
    """
    if path.is_dir():
        raise BadFile(f"{path} is a folder: name a file in it")
    if not path.exists() or path.stat().st_size == 0:
        return None
    try:
        with path.open("rb") as raw:
            start = raw.read(len(MAGIC))
        if start != MAGIC:
            raise _not_ours(path, " (it is no database at all)", name_backup)
        with closing(open_raw(path)) as connection:
            return _looked_at(path, connection, name_backup)
    except PermissionError:
        raise CannotWrite(f"{path} may not be read by you: check its rights") from None
    except sqlite3.OperationalError as error:
        if error.sqlite_errorcode & 0xFF in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            raise CannotWrite(f"{path.name} is held by another program: try again") from None
        if error.sqlite_errorcode & 0xFF == sqlite3.SQLITE_CANTOPEN:
            raise _takes_nothing(path) or CannotWrite(
                f"{path} cannot be opened: check its rights"
            ) from error
        raise _takes_nothing(path) or damaged(path, error, name_backup) from error
    except sqlite3.DatabaseError as error:
        raise damaged(path, error, name_backup) from error


def _takes_nothing(path: Path) -> CannotWrite | None:
    why = why_nothing_is_taken(path.parent)
    return CannotWrite(f"Nothing can be written in {path.parent} ({why})") if why else None


def _looked_at(path: Path, connection: sqlite3.Connection, name_backup: bool) -> str | None:
    ours = connection.execute("PRAGMA application_id").fetchone()[0]
    tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
    if ours == 0 and not tables:
        return None
    if ours not in (0, APPLICATION_ID) or not tables >= OUR_TABLES:
        raise _not_ours(path, " (it is another program's database)", name_backup)
    pages = connection.execute("PRAGMA page_count").fetchone()[0]
    size = connection.execute("PRAGMA page_size").fetchone()[0]
    if path.stat().st_size < QUICK_CHECK_BYTES:
        found = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        if found != "ok":
            raise damaged(path, str(found).splitlines()[0], name_backup)
    elif not _log_of(path).exists() and pages * size > path.stat().st_size:
        raise damaged(path, "its end is missing", name_backup)
    row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    if row is None:
        raise damaged(path, "it does not say its schema", name_backup)
    if row[0] not in _known_revisions():
        raise BadFile(
            f"{path.name} was written by a newer Brisk Larder (schema {row[0]}); "
            "update the program first"
        )
    return str(row[0])


def _log_of(path: Path) -> Path:
    return path.with_name(path.name + "-wal")


def remove_database(path: Path) -> None:
    """Remove a file with its write-ahead log, and nothing else beside it."""
    for suffix in ("", "-wal", "-shm", "-journal"):
        path.with_name(path.name + suffix).unlink(missing_ok=True)


class Hold:
    """That a program has a file open, told to all others by a lock on a small file beside it.

    The lock ends with the process, however it ends.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._file: IO[bytes] | None = None
        beside = path.with_name(f".{path.name}.lock")
        try:
            self._file = beside.open("ab")
        except OSError as error:
            raise CannotWrite(
                f"Nothing can be written in {path.parent} ({error.strerror}): check its rights"
            ) from error

    def share(self) -> None:
        """Hold it open beside others. Raises CannotWrite while it is being replaced."""
        self._lock(fcntl.LOCK_SH, "is being put back or brought up to date: try again in a moment")

    def alone(self) -> None:
        """Hold it alone. Raises CannotWrite while any program has it open."""
        self._lock(
            fcntl.LOCK_EX, "is open in a Brisk Larder that is running: end that one first (Ctrl-C)"
        )

    def _lock(self, how: int, refused: str) -> None:
        assert self._file is not None, "closed only once"
        try:
            fcntl.flock(self._file, how | fcntl.LOCK_NB)
        except BlockingIOError:
            raise CannotWrite(f"{self._path.name} {refused}") from None

    def close(self) -> None:
        """Let go."""
        if self._file is not None:
            self._file.close()
            self._file = None


@contextmanager
def _aside(target: Path) -> Iterator[Path]:
    """A path beside a file to make its successor at; what is left of it is removed."""
    target.parent.mkdir(parents=True, exist_ok=True)
    sweep_asides(target)
    path = target.with_name(f".{target.name}.{os.getpid()}-{token_hex(4)}.part")
    try:
        yield path
    finally:
        remove_database(path)


def sweep_asides(target: Path) -> None:
    """Remove what processes that are gone left beside a file."""
    for rest in target.parent.glob(f".{target.name}.*.part*"):
        owner = rest.name.removeprefix(f".{target.name}.").split("-")[0]
        alive = owner.isdigit() and Path(f"/proc/{owner}").exists()
        if not alive:
            rest.unlink(missing_ok=True)


def _words(error: sqlite3.DatabaseError, source: Path, target: Path) -> BadFile | CannotWrite:
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code in (sqlite3.SQLITE_FULL, sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN):
        return CannotWrite(f"{target} cannot be written ({error}): is the disk full?")
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return CannotWrite(f"{source.name} is held by another program: try again")
    return damaged(source, error)


def _copied(source: Path, aside: Path) -> None:
    """A consistent copy in one self-contained file; the source may be in use."""
    with closing(open_raw(source)) as one, closing(sqlite3.connect(aside)) as two:
        one.backup(two)
        two.execute("PRAGMA journal_mode=DELETE")


def verify(path: Path) -> None:
    """Open a file and check all of it. Raises BadFile when it is not whole."""
    if revision_of(path, name_backup=False) is None:
        raise BadFile(f"{path.name} holds nothing")
    with closing(open_raw(path)) as connection:
        found = connection.execute("PRAGMA integrity_check(1)").fetchone()[0]
        loose = connection.execute("PRAGMA foreign_key_check").fetchone()
    if found != "ok":
        raise damaged(path, str(found).splitlines()[0])
    if loose is not None:
        raise damaged(path, f"a row of {loose[0]} refers to nothing")


def _in_its_place(aside: Path, target: Path) -> None:
    """Rename a finished file over another, both safe on the disk."""
    with aside.open("rb") as made:
        os.fsync(made.fileno())
    os.replace(aside, target)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def copy_database(source: Path, target: Path) -> None:
    """A verified copy of a larder's file, which may be in use, or lie where nothing can be written.

    Raises BadFile when the source is none or not whole, CannotWrite for a full disk.
    """
    try:
        return _copy(source, target)
    except CannotWrite:
        if why_nothing_is_taken(source.parent) is None:
            raise
    try:
        with TemporaryDirectory() as elsewhere:
            _copy(copied_plainly(source, Path(elsewhere)), target)
    except OSError as error:
        raise CannotWrite(f"{source} cannot be copied: {error.strerror}") from error


def _copy(source: Path, target: Path) -> None:
    if revision_of(source) is None:
        raise BadFile(f"{source.name} is not a Brisk Larder file (it is missing or empty)")
    if target.exists() and target.samefile(source):
        raise BadFile(f"{target} is the file itself")
    try:
        with _aside(target) as aside:
            _copied(source, aside)
            verify(aside)
            _in_its_place(aside, target)
    except sqlite3.DatabaseError as error:
        raise _words(error, source, target) from error
    except OSError as error:
        raise CannotWrite(f"{target} cannot be written: {error.strerror}") from error


def _kept_name(path: Path, before: str) -> Path:
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    plain = path.with_name(f"{path.stem}-before-{before}-{stamp}.sqlite3")
    number = 2
    found = plain
    while found.exists():
        found = plain.with_name(f"{plain.stem}-{number}.sqlite3")
        number += 1
    return found


def _settle(path: Path) -> None:
    """Bring a write-ahead log home, so that the file may be renamed over: a log of another file must
    never lie beside it."""
    with suppress(sqlite3.DatabaseError), closing(open_raw(path, write=True)) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        connection.execute("PRAGMA journal_mode=DELETE")
    for suffix in ("-wal", "-shm"):
        path.with_name(path.name + suffix).unlink(missing_ok=True)


def migrate(path: Path, hold: Hold | None = None) -> Path | None:
    """Bring a file to the newest schema; returns the verified backup taken before, if there was a need.

    A copy is brought up and put in its place once it is whole, so a process killed on the way leaves
    the file as it was. Raises BadFile and CannotWrite as ``revision_of``, and CannotWrite while
    another program has the file open.
    """
    current, head = revision_of(path), head_revision()
    if current == head:
        return None
    mine = hold or Hold(path)
    try:
        mine.alone()
        current = revision_of(path)  # another program may have done it meanwhile
        if current == head:
            return None
        saved = None
        if current is not None:
            saved = _kept_name(path, head)
            copy_database(path, saved)
        with _aside(path) as aside:
            if saved is not None:
                _copied(saved, aside)
            _upgrade(aside, path)
            verify(aside)
            if path.exists():
                _settle(path)
            _in_its_place(aside, path)
        return saved
    except sqlite3.DatabaseError as error:
        raise _words(error, path, path) from error
    finally:
        if hold is None:
            mine.close()


def _upgrade(aside: Path, path: Path) -> None:
    try:
        from alembic import command

        command.upgrade(alembic_config(aside), "head")
    except Exception as error:
        # a file that an older program left half changed: nothing of it is touched, the copy goes
        cause = getattr(error, "orig", error)
        raise damaged(path, f"it cannot be brought up to date: {cause}") from error
    with closing(open_raw(aside, write=True)) as connection:
        connection.execute(f"PRAGMA application_id={APPLICATION_ID}")
        connection.execute("PRAGMA journal_mode=DELETE")


def restore(source: Path, target: Path) -> Path | None:
    """Put a backup in the place of a larder's file; returns where the present one is kept.

    Raises CannotWrite while the present one is open in any program, BadFile for a source that is
    none, or the file itself.
    """
    if revision_of(source) is None:
        raise BadFile(f"{source} is not a Brisk Larder file (it is missing or empty)")
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.is_dir():
        raise BadFile(f"{target} is a folder: name a file in it")
    if target.exists() and target.samefile(source):
        raise BadFile(f"{source} is the present file itself: there is nothing to put back")
    hold = Hold(target)
    try:
        hold.alone()
        with _aside(target) as aside:
            _copied(source, aside)
            verify(aside)
            kept = _keep_present(target)
            _in_its_place(aside, target)
        return kept
    except sqlite3.DatabaseError as error:
        raise _words(error, source, target) from error
    except OSError as error:
        raise CannotWrite(f"{target} cannot be written: {error.strerror}") from error
    finally:
        hold.close()


def _keep_present(target: Path) -> Path | None:
    """A copy of what is about to be replaced, even if it is damaged or something else."""
    if not target.exists() or target.stat().st_size == 0:
        return None
    kept = _kept_name(target, "restore")
    try:
        copy_database(target, kept)
    except BadFile:  # nobody can read it; kept to the byte all the same
        for suffix in ("", "-wal"):
            present = target.with_name(target.name + suffix)
            if present.exists():
                kept.with_name(kept.name + suffix).write_bytes(present.read_bytes())
    _settle(target)
    return kept
