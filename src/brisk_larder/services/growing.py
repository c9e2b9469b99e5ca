"""Growing: what was sown and is due, and which line to regrow in which year."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlmodel import Session, col, select

from ..core.errors import Conflict, InvalidValue
from ..core.regrow import Line, propose
from ..core.units import DAY_S
from ..data.acts import ActRef, act
from ..data.tables import Cohort, Household, Lot, Part, Sowing, SowingCount, StockEntry
from .checks import get_live, whole, within_records
from .crops import Kinds, load_kinds
from .forecast import touch
from .glance import REGROW_YEARS
from .larder import Larder, household, live, remembered
from .ledger import refuse_sowing
from .measures import main_part
from .quantity import check_in_hand
from .stock import LotLine, lot_lines
from .wording import day_words, sentence

LINES_A_YEAR = 6  # kept lines a household regrows in one year (guess)
GRACE_SHARE = 0.5  # overdue after the last count day and half of it again (guess)


@dataclass(frozen=True)
class Due:
    """Seed that was sown: how many are up, and whether it is still early, due or overdue."""

    sowing_id: int
    lot_id: int
    code: str
    variety: str
    kind_name: str
    sown_s: int
    n: int
    up: int
    setting: str
    first_s: float
    last_s: float
    state: str
    says: str


@dataclass(frozen=True)
class RegrowLine:
    """One kept line: its year, its last safe year, why, and its lots."""

    variety_id: int
    variety: str
    kind_name: str
    crossing_group: str
    year: int
    last_safe_year: int | None
    seasons: int
    mothers: int
    lots: list[str]
    lot_ids: list[int]
    why: str
    code: str
    chances: list[float]


@dataclass(frozen=True)
class GrowingRoom:
    """The room: seed sown and due, and the proposal by year."""

    due: list[Due]
    regrow: list[RegrowLine]
    safe: list[str]
    years: list[int]


def due_list(session: Session, larder: Larder) -> list[Due]:
    """Sowings not yet settled, the longest waiting first."""
    kinds, now_s = load_kinds(session), larder.now_s()
    counts: dict[int, int] = {}
    for c in session.exec(select(SowingCount).order_by(col(SowingCount.at_s))):
        if live(c):
            counts[c.sowing_id] = c.up
    out = []
    rows = session.exec(
        select(Sowing, Lot)
        .join(Lot, col(Sowing.lot_id) == Lot.id)
        .where(col(Sowing.deleted_s).is_(None), col(Sowing.settled_s).is_(None))
        .order_by(col(Sowing.at_s))
    )
    for sowing, lot in rows:
        out.append(_due(session, kinds, sowing, lot, counts.get(sowing.id or 0, 0), now_s))
    return out


def _due(session: Session, kinds: Kinds, sowing: Sowing, lot: Lot, up: int, now_s: int) -> Due:
    variety = main_part(session, lot.id or 0)[2]
    kind = kinds.get(variety.crop)
    # the open ground is colder than a test bench: half as long again (guess)
    slow = 1.0 if sowing.setting == "indoors" else 1.5
    first = sowing.at_s + kind.crop.first_count_days * slow * DAY_S
    last = sowing.at_s + kind.crop.final_count_days * slow * DAY_S
    grace = last + GRACE_SHARE * (last - sowing.at_s)
    if now_s < first:
        state, says = "early", f"expected from {day_words(first)}"
    elif now_s < grace:
        state, says = "due", f"should be up by {day_words(last)}"
    else:
        state, says = (
            "overdue",
            f"expected by {day_words(last)}: wait, sow again, or look at the seed",
        )
    return Due(
        sowing.id or 0, lot.id or 0, lot.code, variety.name, kind.name,
        sowing.at_s, sowing.n, up, sowing.setting, first, last, state, says,
    )  # fmt: skip


def regrow_plan(lines: list[LotLine], home: Household, session: Session) -> GrowingRoom:
    """First proposal by year for all kept lines, from the glances of their lots."""
    variety_of = dict(
        session.exec(
            select(Part.lot_id, Cohort.variety_id).join(Cohort, col(Part.cohort_id) == Cohort.id)
        ).all()
    )
    kinds = load_kinds(session)
    by_variety: dict[int, list[LotLine]] = {}
    for line in lines:
        if line.glance.regrow_asked:
            by_variety.setdefault(variety_of[line.lot_id], []).append(line)
    asked, facts, first_years = [], {}, []
    for variety, members in by_variety.items():
        one = members[0]
        crop = kinds.get(one.kind).crop
        facts[variety] = members
        asked.append(
            Line(
                variety,
                crop.crossing_group,
                2 if crop.life_cycle == "biennial" else 1,
                one.glance.last_safe_year,
                crop.breeding == "outcrossing",
            )
        )
        if one.glance.next_sowing_s is not None:
            first_years.append(datetime.fromtimestamp(one.glance.next_sowing_s, UTC).year)
    start = min(first_years, default=datetime.fromtimestamp(0, UTC).year)
    years = list(range(start, start + REGROW_YEARS))
    plan = propose(asked, years, LINES_A_YEAR) if asked else ()
    placed = {r.line for r in plan}
    out = []
    for r in plan:
        members = facts[r.line]
        crop = kinds.get(members[0].kind).crop
        why = sentence(r.reason, home)
        if crop.life_cycle == "biennial":
            why += " It flowers in its second year: two seasons in the ground."
        out.append(
            RegrowLine(
                r.line, members[0].variety, members[0].kind_name, crop.crossing_group, r.year,
                r.last_safe_year, 2 if crop.life_cycle == "biennial" else 1, crop.min_plants_viable,
                [m.code for m in members], [m.lot_id for m in members], why, r.reason.code,
                members[0].glance.mothers,
            )
        )  # fmt: skip
    safe = [f"{facts[v][0].variety} {facts[v][0].kind_name}" for v in facts if v not in placed]
    return GrowingRoom([], out, sorted(safe), years)


@remembered
def growing_room(larder: Larder) -> GrowingRoom:
    """Everything the room shows."""
    lines = lot_lines(larder)
    with larder.store.read() as session:
        plan = regrow_plan(lines, household(session), session)
        return GrowingRoom(due_list(session, larder), plan.regrow, plan.safe, plan.years)


def sow(
    larder: Larder, ref: ActRef, lot_id: int, n: int, setting: str = "outdoors",
    cells: int | None = None, at_s: int | None = None,
) -> dict[str, object]:  # fmt: skip
    """Sow seed of a lot for growing. Raises InvalidValue for the future or more than there is."""
    whole("seeds", n, 1, 100_000)
    if setting not in ("indoors", "outdoors"):
        raise InvalidValue("where", setting, "indoors or outdoors")
    with act(larder.store, larder.clock, ref, "sow") as a:
        if a.replayed:
            return a.result
        home = household(a.session)
        lot = get_live(a.session, Lot, lot_id, "lot")
        when = at_s if at_s is not None else a.now_s
        within_records("sown on", when, a.now_s, home)
        check_in_hand(a.session, lot_id, n, "seeds", n)
        refuse_sowing(a.session, lot, n)
        sowing = Sowing(lot_id=lot_id, at_s=when, n=n, cells=cells, setting=setting)
        a.session.add(sowing)
        a.session.flush()
        a.session.add(
            StockEntry(
                lot_id=lot_id, at_s=when, kind="sown", seeds_mean=n, ref=f"sowing:{sowing.id}"
            )
        )
        touch(a.session, [lot_id])
        a.about(f"lot:{lot_id}", f"sowing:{sowing.id}")
        a.result = {"sowing_id": sowing.id}
        a.summary = f"Sowed {n} of {lot.code} {setting}"
        return a.result


def count_sowing(
    larder: Larder, ref: ActRef, sowing_id: int, up: int, settled: bool = False
) -> dict[str, object]:
    """Enter how many are up so far; ``settled`` ends the watching."""
    with act(larder.store, larder.clock, ref, "count_sowing") as a:
        if a.replayed:
            return a.result
        sowing = get_live(a.session, Sowing, sowing_id, "sowing")
        if sowing.settled_s is not None:
            raise Conflict("This sowing was already settled")
        whole("up", up, 0, sowing.n)
        a.session.add(SowingCount(sowing_id=sowing_id, at_s=a.now_s, up=up))
        if settled:
            sowing.settled_s = a.now_s
        lot = get_live(a.session, Lot, sowing.lot_id, "lot")
        a.about(f"lot:{sowing.lot_id}", f"sowing:{sowing_id}")
        a.summary = f"{up} of {sowing.n} of {lot.code} are up"
        return a.result
