"""What all commands of ``larder`` share: the file, the clock, and errors as one line."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import date as Day
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Annotated

import platformdirs
import typer

from .clock import ShiftedClock, SystemClock
from .core.base.errors import CannotWrite, LarderError

if TYPE_CHECKING:
    from .data.acts import Clock
    from .data.store import Store
    from .services.household.larder import Larder

FIRST_YEAR, LAST_YEAR = 1990, 2150
DataOption = Annotated[
    Path | None, typer.Option("--data", help="The household's file (default: the user data folder)")
]
TodayOption = Annotated[
    str | None, typer.Option("--today", help="Pretend it is this day (YYYY-MM-DD)")
]
PlaceOption = Annotated[str | None, typer.Option(help="Name of the place or container it is in")]
KindOption = Annotated[str, typer.Option(help="Kind of that place if it is new, e.g. larder")]


OPEN = ExitStack()  # what a command has opened; let go when it ends, however it ends


def fail(message: str) -> typer.Exit:
    """Say what is wrong in one line and end with exit code 1."""
    typer.echo(message, err=True)
    return typer.Exit(1)


def data_file(data: Path | None, name: str = "household.sqlite3") -> Path:
    """The file to work on."""
    return data or Path(platformdirs.user_data_dir("brisk-larder", appauthor=False)) / name


def clock_of(today: str | None) -> Clock:
    """The real clock, or one set to a day at eight in the morning UTC."""
    from .core.base.units import day_start_s

    if today is None:
        return SystemClock()
    try:
        day = Day.fromisoformat(today)
    except ValueError:
        raise fail(f"--today {today!r} is not a day such as 2026-03-01") from None
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise fail(f"--today {today!r}: a day from {FIRST_YEAR} to {LAST_YEAR}")
    return ShiftedClock(day_start_s(day, "UTC") + 8 * 3600)


def local_zone() -> str:
    """The machine's time zone by name, UTC when it has none."""
    link = Path("/etc/localtime")
    parts = link.resolve().parts if link.is_symlink() else ()
    return "/".join(parts[parts.index("zoneinfo") + 1 :]) if "zoneinfo" in parts else "UTC"


def _looked_at(path: Path) -> Store:
    """The file, or where it lies in a folder that takes nothing a copy of it elsewhere."""
    from .data.cramped import copied_plainly, why_nothing_is_taken
    from .data.store import Store

    try:
        return Store(path)
    except CannotWrite:
        why = why_nothing_is_taken(path.parent)
        if why is None:
            raise
    with in_words():
        elsewhere = Path(OPEN.enter_context(TemporaryDirectory()))
        store = Store(copied_plainly(path, elsewhere))
    typer.echo(f"Nothing can be written in {path.parent} ({why}): a copy is looked at", err=True)
    return store


def open_larder(data: Path | None, clock: Clock, only_look: bool = False) -> Larder:
    """Open (and if need be make or migrate) the household's file; who only looks at one makes none."""
    from .data.store import Store
    from .services.forecast.rebuild import ensure_model_rev
    from .services.household import home
    from .services.household.larder import Larder
    from .services.papers.mending import mend

    if only_look and not data_file(data).exists():
        raise fail(f"There is no household file at {data_file(data)}")
    try:
        store = _looked_at(data_file(data)) if only_look else Store(data_file(data))
        OPEN.callback(store.close)
        ensure_model_rev(store)
        larder = Larder(store, clock)
        home.ensure_household(larder, tz=local_zone())
        for note in mend(larder):
            typer.echo(f"Set right in {store.path.name}: {note}", err=True)
    except LarderError as error:
        raise fail(error.message) from None
    return larder


@contextmanager
def in_words() -> Iterator[None]:
    """Ends the command with one line for whatever may be said to a user."""
    try:
        yield
    except LarderError as error:
        raise fail(error.message) from None
    except OSError as error:
        what = f"{error.filename}: {error.strerror}" if error.filename else str(error)
        raise fail(what) from None


@contextmanager
def taking_in(file: Path) -> Iterator[None]:
    """Ends the command in words when a file is not there or cannot be taken in."""
    if not file.exists():
        raise fail(f"There is no file {file}")
    if file.is_dir():
        raise fail(f"{file} is a folder: name a file")
    with in_words():
        yield
