"""The household itself: settings, people, one tap for where they live."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import uuid4

from sqlmodel import Session, select

from ...core.base.units import local_day, zone
from ...data.queries import live
from ...data.tables import Household, Meta, Person, Series
from .kinds import UNKNOWN, figures, load_kinds
from .larder import Larder, household, household_year
from .naming import Candidate, candidates, guess_kind


@dataclass(frozen=True)
class Home:
    """The household as the app shows it, with its local day and household year.

    ``trouble``: why the file cannot be written at present, else empty. ``notes``: what was found in
    the file and set right since it was opened. ``file_id``: which file this is.
    """

    household: Household
    today: str
    year: int
    people: list[Person]
    model_figures: dict[str, float]
    trouble: str
    notes: list[str]
    file_id: str


def describe(larder: Larder) -> Home:
    """The household's settings. Raises NotFound before it was set up."""
    with larder.store.read() as session:
        home = household(session)
        day = local_day(larder.now_s(), home.tz)
        people = list(session.exec(live(Person)))
        wanted = ("dry_below_erh", "crisp_below_erh", "middling_below_erh", "wet_from_erh")
        shown = {key: getattr(figures().moisture, key) for key in wanted}
        return Home(
            household=home,
            today=day.isoformat(),
            year=household_year(day, home),
            people=people,
            model_figures=shown,
            trouble=larder.store.trouble,
            notes=list(larder.store.notes),
            file_id=file_id(session),
        )


def file_id(session: Session) -> str:
    """What tells this household's file from every other one; a copy keeps it."""
    row = session.exec(select(Meta).where(Meta.key == "file_id")).first()
    return row.value if row is not None else ""


def ensure_household(larder: Larder, name: str = "Our larder", tz: str = "UTC") -> None:
    """Make the household of a new file; nothing happens when there is one."""
    zone(tz)
    with larder.store.read() as session:
        made, known = session.get(Household, 1) is not None, file_id(session) != ""
    if made and known:
        return
    with larder.store.write() as session:
        if not known:
            session.add(Meta(key="file_id", value=uuid4().hex))
        if not made:
            session.add(Household(id=1, name=name, tz=tz))
            session.add(Series(name="read by eye", origin="dial"))


@dataclass(frozen=True)
class KindChoice:
    """A kind as a choice in a list."""

    key: str
    name: str
    season: str
    known: bool
    grade: str


def meant(larder: Larder, word: str) -> list[Candidate]:
    """The kinds that a word may mean, the best first; one alone when it is its name."""
    with larder.store.read() as session:
        found = load_kinds(session)
    sure = guess_kind(word, found)
    if sure is not None:
        return [Candidate(sure, found.get(sure).name, "same", word.strip())]
    return candidates(word, found)


def kinds(larder: Larder) -> list[KindChoice]:
    """All kinds, own ones first, then by name."""
    with larder.store.read() as session:
        found = load_kinds(session).by_key.values()
        out = [
            KindChoice(k.key, k.name, k.season, k.known, k.grade) for k in found if k.key != UNKNOWN
        ]
    return sorted(out, key=lambda k: (k.known, k.name.lower()))
