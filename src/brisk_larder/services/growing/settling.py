"""What the keeper settles of the years: when a line is grown, how true it comes, what flowers next door."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import TypeVar, cast

from sqlmodel import Session

from ...core.base.errors import Conflict, InvalidValue, NotFound
from ...core.lines.regrow_plan import PURITY, possible
from ...data.acts import ActRef, expect_version
from ...data.queries import key, live
from ...data.tables import Neighbour, PlanCell, Variety
from ..acts.acting import Doing, Done, act
from ..acts.ask_before import heed
from ..air.look import looking_at
from ..forecast.current import whole_outlook
from ..forecast.glance import REGROW_YEARS
from ..forecast.lines import lot_lines
from ..household.kinds import reference
from ..household.larder import Larder, today
from ..household.possible_values import get_live, whole
from ..household.settings import read_setting
from ..household.wording import all_of, percent
from .kept_lines import Kept
from .regrow_page import Planned, planned


def _planned(larder: Larder) -> Planned:
    lines, look = [x for x in lot_lines(larder) if not x.form], whole_outlook(larder)
    with looking_at(larder) as v:
        return planned(v, lines, look)


def _of(p: Planned, variety_id: int) -> Kept:
    found = next((k for k in p.kept if k.variety_id == variety_id), None)
    if found is None:
        raise NotFound("This is no line that is kept here")
    return found


def weighed(
    larder: Larder, variety_id: int, year: int, apart: bool, from_year: int | None = None
) -> list[str]:
    """What speaks against growing a line in a year (``from_year``: instead of that one), to be asked about
    once.

    Raises Conflict where it would flower beside a line that it crosses with and is not kept apart, NotFound
    for a line that is not kept, InvalidValue for a year outside the plan or one whose sowing is over.
    """
    p = _planned(larder)
    k = _of(p, variety_id)
    first, last = p.start, p.start + REGROW_YEARS - 1
    if not first <= year <= last:
        raise InvalidValue("year", year, f"{first} to {last}")
    line, i = k.line, year - p.start
    if line is None:
        raise InvalidValue("line", k.name, "one with counted, living seed")
    flowers = line.flowers(i)
    if i < line.late and i not in line.agreed:
        raise InvalidValue("year", year, f"a later one: its sowing in {year} is over")
    moved = set() if from_year is None else {from_year - p.start}
    asked = replace(line, agreed=frozenset({*(line.agreed - moved), i}), barred=line.barred - {i})
    clash = sorted(asked.agreed - possible(asked))
    if clash:
        named = all_of([str(p.start + y) for y in sorted(line.agreed - moved - {i})])
        flowers = p.start + line.flowers(min(asked.agreed))
        raise Conflict(
            f"{k.name} is settled for {named} already; sown in {year} too it would be sown anew before it "
            f"has flowered ({flowers}). Take another year, or leave {named} to the plan first."
        )
    partners = [x for x in p.partners(line, flowers) if not apart]
    # where both welcome surprises they may meet
    spoilt = [x for x in partners if k.purity != "any" or x.purity != "any"]
    if spoilt:
        names = ", ".join(x.name for x in spoilt)
        raise Conflict(
            f"{k.name} would flower in {p.start + flowers} beside {names}, and the two cross. Take another "
            "year, or keep them apart.",
            crosses_with=[x.variety_id for x in spoilt],
        )
    said = []
    others = (s for s in p.plan.chosen[line.key] if p.start + s != from_year)
    before = [s for s in others if line.flowers(s) < i]
    chance = line.fresh[i - line.flowers(before[-1])] if before else line.chances[i]
    if chance < p.limits.promised and i not in p.plan.chosen[line.key]:  # the plan itself knows it
        said.append(
            f"In {year} its seed gives enough mothers with a chance of {percent(chance)} only; you want "
            f"{percent(p.limits.promised)}"
        )
    return said


class Meanwhile(Exception):
    """Something else was done between weighing and writing."""


def _seen(session: Session) -> int:
    """Stands for all that was done so far."""
    found = session.connection().exec_driver_sql("SELECT max(rowid) FROM act").scalar()
    return int(found or 0)


def _unchanged(a: Doing, seen: int | None) -> None:
    if seen is not None and _seen(a.session) != seen:
        raise Meanwhile


W = TypeVar("W")
TRIES = 40


def _weighed_and_written(larder: Larder, write: Callable[[int], W]) -> W:
    """What is weighed is what is written: weighed again when something was done in between. ``write`` weighs,
    then acts on what had been seen before."""
    for _ in range(TRIES):
        with larder.store.read() as session:
            seen = _seen(session)
        with suppress(Meanwhile):
            return write(seen)
    raise Conflict("Too much is being done at once: try again in a moment")


def settle(
    larder: Larder,
    ref: ActRef,
    variety_id: int,
    year: int,
    from_year: int | None = None,
    apart: bool = False,
    anyway: bool = False,
) -> Done:
    """Weigh a year for growing a line anew, and settle on it. Raises as ``weighed``, and Conflict with what
    speaks against it until the keeper does it ``anyway``."""

    def write(seen: int) -> Done:
        heed(weighed(larder, variety_id, year, apart, from_year), anyway)
        return settle_year(larder, ref, variety_id, year, from_year, apart, seen)

    return _weighed_and_written(larder, write)


def settle_whole(larder: Larder, ref: ActRef, year: int) -> Settled:
    """Settle on all that the plan has for a year."""
    return _weighed_and_written(
        larder, lambda seen: settle_all(larder, ref, year, proposed(larder, year), seen)
    )


@act("settle_year")
def settle_year(
    a: Doing,
    variety_id: int,
    year: int,
    from_year: int | None = None,
    apart: bool = False,
    seen: int | None = None,
) -> Done:
    """Settle on a year for growing a line anew; ``from_year``: moved from there. ``settle`` weighs it first,
    and ``seen`` stands for what had been done by then. Raises Meanwhile."""
    _unchanged(a, seen)
    _within_reach(a, year)
    variety = get_live(a.session, Variety, variety_id, "variety")
    if from_year is not None and from_year != year:
        _let_go(a, variety_id, from_year)
    _cell(a, variety_id, year, "agreed", apart)
    a.about(f"variety:{variety_id}")
    a.summary = f"Grow {variety.name} anew in {year}" + (", kept apart" if apart else "")
    return Done()


@act("bar_year")
def bar_year(a: Doing, variety_id: int, year: int) -> Done:
    """Rule a year out for a line."""
    _within_reach(a, year)
    variety = get_live(a.session, Variety, variety_id, "variety")
    _cell(a, variety_id, year, "barred", False)
    a.about(f"variety:{variety_id}")
    a.summary = f"Not in {year}: {variety.name}"
    return Done()


@act("free_year")
def free_year(a: Doing, variety_id: int, year: int) -> Done:
    """Leave a year to the plan again."""
    variety = get_live(a.session, Variety, variety_id, "variety")
    if not _let_go(a, variety_id, year):
        raise NotFound(f"Nothing was settled for {variety.name} in {year}")
    a.about(f"variety:{variety_id}")
    a.summary = f"{variety.name} in {year}: left to the plan"
    return Done()


AHEAD = 30  # years that anybody plans for


def _within_reach(a: Doing, year: int) -> None:
    """Raises InvalidValue for a year that is over or that nobody plans for."""
    now = today(a.of, a.home).year
    whole("year", year, now - 1, now + AHEAD)


@dataclass(frozen=True)
class Settled:
    """How many lines were settled."""

    lines: int


@act("settle_all")
def settle_all(
    a: Doing, year: int, cells: list[tuple[int, bool]], seen: int | None = None
) -> Settled:
    """Settle on all that the plan has for a year: (variety, kept apart). Raises Meanwhile."""
    _unchanged(a, seen)
    _within_reach(a, year)
    for variety_id, apart in cells:
        get_live(a.session, Variety, variety_id, "variety")
        _cell(a, variety_id, year, "agreed", apart)
        a.about(f"variety:{variety_id}")
    a.summary = f"Settled on what is grown anew in {year}: {len(cells)}"
    return Settled(len(cells))


def proposed(larder: Larder, year: int) -> list[tuple[int, bool]]:
    """What the plan has for a year that is not settled yet: (variety, kept apart)."""
    p = _planned(larder)
    i = year - p.start
    return [
        (x.key, (x.key, x.flowers(i)) in p.plan.apart)
        for x in p.lines
        if i in p.plan.chosen[x.key] and i not in x.agreed
    ]


def _cell(a: Doing, variety_id: int, year: int, state: str, apart: bool) -> None:
    row = _live_cell(a, variety_id, year) or PlanCell(variety_id=variety_id, year=year)
    row.state, row.apart = state, int(apart)
    a.session.add(row)


def _live_cell(a: Doing, variety_id: int, year: int) -> PlanCell | None:
    query = live(PlanCell).where(PlanCell.variety_id == variety_id, PlanCell.year == year)
    return a.session.exec(query).first()


def _let_go(a: Doing, variety_id: int, year: int) -> bool:
    row = _live_cell(a, variety_id, year)
    if row is None:
        return False
    row.deleted_s = a.now_s
    a.session.flush()
    return True


@act("purity")
def set_purity(a: Doing, variety_id: int, purity: str, version: int | None = None) -> Done:
    """How true a line is to come: strictly, mostly, or any surprise is welcome. Raises InvalidValue."""
    if purity not in PURITY:
        raise InvalidValue("how true", purity, ", ".join(PURITY))
    row = get_live(a.session, Variety, variety_id, "variety")
    expect_version(row, version, row.name)
    row.purity = purity
    a.session.add(row)
    a.about(f"variety:{variety_id}")
    a.summary = f"{row.name} is to come {PURITY_WORDS[purity]}"
    return Done()


PURITY_WORDS = {"strict": "strictly true", "mostly": "mostly true", "any": "as it likes"}


@dataclass(frozen=True)
class NextDoor:
    """What flowers next door: a crossing group, its kinds in words, and how far off (m)."""

    crossing_group: str
    kinds: str
    distance_m: float


def next_door(larder: Larder) -> list[NextDoor]:
    """All that was said of the neighbours' plots."""
    with looking_at(larder) as v:
        rows = v.session.exec(live(Neighbour)).all()
    names = group_names()
    return sorted(
        (NextDoor(n.crossing_group, names.get(n.crossing_group, ""), n.distance_m) for n in rows),
        key=lambda n: n.kinds,
    )


def group_names() -> dict[str, str]:
    """Kinds that cross with one another, by group, as people call them; of those that cross at all."""
    out: dict[str, list[str]] = {}
    ref = reference()
    for crop in ref.crops.values():
        if crop.breeding != "selfing":
            out.setdefault(crop.crossing_group, []).append(ref.names[crop.crop].name)
    return {group: ", ".join(sorted(kinds)) for group, kinds in out.items()}


@act("year_limits")
def set_limits(
    a: Doing,
    bed_m2: float | None,
    lines: int | None,
    plots: list[tuple[str, float]],
    roots: int | None = None,
) -> Done:
    """Say what a year bears: bed for growing seed (m2), lines grown anew, roots in the winter store (None:
    nobody says), and all that flowers next door (crossing group, metres). Raises InvalidValue."""
    a.home.seed_bed_m2 = cast("float | None", read_setting("seed_bed_m2", bed_m2))
    a.home.seed_lines = cast("int | None", read_setting("seed_lines", lines))
    a.home.winter_roots = cast("int | None", read_setting("winter_roots", roots))
    a.session.add(a.home)
    known = group_names()
    for group, metres in plots:
        if group not in known:
            raise InvalidValue("kind", group, "one that crosses at all")
        if not 0 <= metres <= 20_000:
            raise InvalidValue("distance", metres, "0 to 20,000 m")
    if len({g for g, _ in plots}) < len(plots):
        raise InvalidValue("kind", "", "each of them once")
    rows = {r.crossing_group: r for r in a.session.exec(live(Neighbour)).all()}
    for group, metres in plots:
        row = rows.pop(group, None) or Neighbour(crossing_group=group, distance_m=metres)
        row.distance_m = metres
        a.session.add(row)
    for gone in rows.values():
        get_live(a.session, Neighbour, key(gone), "neighbour").deleted_s = a.now_s
    a.summary = "Said what a year bears"
    return Done()
