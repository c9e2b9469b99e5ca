"""Growing: what was sown and is due, and which line to regrow in which year."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import YEAR_S
from ...core.growing.life_cycle import awaited
from ...data.queries import key
from ...data.tables import Lot, Sowing, SowingCount, StockEntry
from ..acts.acting import Doing, Done, act
from ..acts.ledger import refuse_sowing
from ..air.look import looking_at
from ..forecast.current import whole_outlook
from ..forecast.emergence import counted_sowings
from ..forecast.lines import LotLine, lot_lines
from ..forecast.outlook import Outlook
from ..forecast.soil_words import bed_or_seed, came, living_at, usual
from ..household.kinds import Kinds, figures, load_kinds
from ..household.larder import Larder, is_live, remembered
from ..household.lot_quantity import check_in_hand
from ..household.own_units import main_part
from ..household.planting_stock import unit_of
from ..household.possible_values import get_live, moment_on, whole
from ..household.wording import day_words
from .not_kept import MissedYear
from .regrow_page import RegrowLine, YearLoad, YearRow, regrow_plan
from .ways_out import WayOut

DUE_WORDS = {
    "early": "expected from {first}",
    "due": "should be up by {last}",
    "overdue": "expected by {last}: wait, sow again, or look at the seed",
    "set_overdue": "expected by {last}: wait, set others, or dig one up and look",
}


@dataclass(frozen=True)
class Due:
    """Seed that was sown: how many are up (``counted``: somebody looked), and whether it is still early, due
    or overdue."""

    sowing_id: int
    lot_id: int
    code: str
    variety: str
    kind_name: str
    sown_s: int
    n: int
    up: int
    counted: bool
    setting: str
    first_s: float
    last_s: float
    state: str
    says: str
    unit: str


@dataclass(frozen=True)
class CameUp:
    """A sowing that was counted and is settled: what came up, and what that says of bed and seed."""

    sowing_id: int
    lot_id: int
    code: str
    variety: str
    kind_name: str
    sown_s: int
    n: int
    up: int
    setting: str
    came: float
    usual: float
    says: str


@dataclass(frozen=True)
class GrowingRoom:
    """The room: seed sown and due, what came up lately, and the proposal by year."""

    due: list[Due]
    came_up: list[CameUp]
    regrow: list[RegrowLine]
    safe: list[str]
    years: list[int]
    rows: list[YearRow]
    loads: list[YearLoad]
    says: str
    ways_out: list[WayOut]
    missed: list[MissedYear]


def due_list(session: Session, larder: Larder) -> list[Due]:
    """Sowings not yet settled, the longest waiting first."""
    kinds, now_s = load_kinds(session), larder.now_s()
    counts: dict[int, int] = {}
    for c in session.exec(select(SowingCount).order_by(col(SowingCount.at_s))):
        if is_live(c):
            counts[c.sowing_id] = c.up
    out = []
    rows = session.exec(
        select(Sowing, Lot)
        .join(Lot, col(Sowing.lot_id) == Lot.id)
        .where(col(Sowing.deleted_s).is_(None), col(Sowing.settled_s).is_(None))
        .order_by(col(Sowing.at_s))
    )
    for sowing, lot in rows:
        out.append(_due(session, kinds, sowing, lot, counts.get(key(sowing)), now_s))
    return out


def _due(
    session: Session, kinds: Kinds, sowing: Sowing, lot: Lot, up: int | None, now_s: int
) -> Due:
    variety = main_part(session, key(lot))[2]
    kind = kinds.get(variety.crop)
    crop, f = kind.crop, figures().pieces
    found = awaited(
        sowing.at_s,
        now_s,
        f.up_first_days if lot.form else crop.first_count_days,
        f.up_last_days if lot.form else crop.final_count_days,
        sowing.setting,
        figures().growing,
    )
    late = "set_overdue" if lot.form and found.state == "overdue" else found.state
    says = DUE_WORDS[late].format(first=day_words(found.first_s), last=day_words(found.last_s))
    return Due(
        sowing_id=key(sowing),
        lot_id=key(lot),
        code=lot.code,
        variety=variety.name,
        kind_name=kind.name,
        sown_s=sowing.at_s,
        n=sowing.n,
        up=up or 0,
        counted=up is not None,
        setting=sowing.setting,
        first_s=found.first_s,
        last_s=found.last_s,
        state=found.state,
        says=says,
        unit=unit_of(kind, lot.form, 1),
    )


def came_up(session: Session, larder: Larder, look: Outlook, lines: list[LotLine]) -> list[CameUp]:
    """Settled sowings of the last seasons from packets in stock, the latest first."""
    now_s = larder.now_s()
    since = now_s - figures().verdict.sown_lately_years * YEAR_S
    rows = {row.part.lot_id: i for i, row in enumerate(look.rows)}
    codes = {line.lot_id: line.code for line in lines}
    out = []
    for s in counted_sowings(session, now_s):
        if not s.settled or s.at_s < since or s.lot_id not in codes or s.lot_id not in rows:
            continue
        i = rows[s.lot_id]
        kind, g = look.rows[i].kind, living_at(look, i, s.at_s)
        out.append(
            CameUp(
                sowing_id=s.sowing_id,
                lot_id=s.lot_id,
                code=codes[s.lot_id],
                variety=look.rows[i].variety.name,
                kind_name=kind.name,
                sown_s=int(s.at_s),
                n=s.n,
                up=s.up,
                setting=s.setting,
                came=came(s, g),
                usual=usual(s, kind),
                says=bed_or_seed(s, kind, g),
            )
        )
    return sorted(out, key=lambda x: (-x.sown_s, x.code))


@remembered
def growing_room(larder: Larder) -> GrowingRoom:
    """Everything the room shows."""
    lines, look = [x for x in lot_lines(larder) if not x.form], whole_outlook(larder)
    with looking_at(larder) as v:
        plan = regrow_plan(v, lines, look)
        due, up = due_list(v.session, larder), came_up(v.session, larder, look, lines)
        return GrowingRoom(
            due, up, plan.regrow, plan.safe, plan.years, plan.rows, plan.loads, plan.says,
            plan.ways_out, plan.missed,
        )  # fmt: skip


@dataclass(frozen=True)
class SowingMade:
    """The sowing that was begun."""

    sowing_id: int


@act("sow")
def sow(
    a: Doing,
    lot_id: int,
    n: int,
    setting: str = "outdoors",
    cells: int | None = None,
    at_s: int | None = None,
    on: str = "",
) -> SowingMade:
    """Sow seed of a lot for growing, ``on`` a day.

    Raises InvalidValue for the future or more than there is.
    """
    return sow_seed(a, lot_id, n, setting, cells, at_s, on)


def sow_seed(
    a: Doing,
    lot_id: int,
    n: int,
    setting: str,
    cells: int | None = None,
    at_s: int | None = None,
    on: str = "",
    meant_for: str = "",
) -> SowingMade:
    """``sow`` within another act; ``meant_for``: a food or pick, as Needs calls it."""
    whole("seeds", n, 1, 100_000)
    if setting not in ("indoors", "outdoors"):
        raise InvalidValue("where", setting, "indoors or outdoors")
    lot = get_live(a.session, Lot, lot_id, "lot")
    when = moment_on(on, at_s, a.home, a.now_s)
    check_in_hand(a.session, lot_id, n, "seeds", n)
    refuse_sowing(a.session, lot, n)
    sowing = Sowing(
        lot_id=lot_id, at_s=when, n=n, cells=cells, setting=setting, meant_for=meant_for
    )
    a.session.add(sowing)
    a.session.flush()
    a.session.add(
        StockEntry(lot_id=lot_id, at_s=when, kind="sown", seeds_mean=n, ref=f"sowing:{sowing.id}")
    )
    a.about(f"lot:{lot_id}", f"sowing:{sowing.id}")
    a.summary = f"{'Set' if lot.form else 'Sowed'} {n} of {lot.code} {setting}"
    return SowingMade(sowing_id=key(sowing))


@act("count_sowing")
def count_sowing(a: Doing, sowing_id: int, up: int, settled: bool = False, on: str = "") -> Done:
    """Enter how many were up ``on`` a day; ``settled`` ends the watching."""
    sowing = get_live(a.session, Sowing, sowing_id, "sowing")
    if sowing.settled_s is not None:
        raise Conflict("This sowing was already settled")
    whole("up", up, 0, sowing.n)
    when = moment_on(on, None, a.home, a.now_s)
    if when < sowing.at_s:
        raise InvalidValue("day", on, f"after it was sown, {day_words(sowing.at_s)}")
    a.session.add(SowingCount(sowing_id=sowing_id, at_s=when, up=up))
    if settled:
        sowing.settled_s = when
    lot = get_live(a.session, Lot, sowing.lot_id, "lot")
    a.about(f"lot:{sowing.lot_id}", f"sowing:{sowing_id}")
    a.summary = f"{up} of {sowing.n} of {lot.code} are up"
    return Done()
