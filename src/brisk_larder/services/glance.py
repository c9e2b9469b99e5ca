"""What lists show of every lot: now, at the next sowing, the strip, what to do next, and why."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import asdict, dataclass
from datetime import UTC, date, datetime

import numpy as np
from sqlmodel import Session, col, select

from ..core import belief as be
from ..core.ageing import points_by_episode
from ..core.needs import Success, success
from ..core.reasons import Reason
from ..core.regrow import chance_of_mothers, last_safe_year
from ..core.trials import Advice, retest, seeds_to_test
from ..core.units import DAY_S, YEAR_S, day_start_s
from ..core.windows import next_sowing, sowing_windows
from ..data.tables import (
    Cohort,
    DGlance,
    DLeg,
    FoodTarget,
    Household,
    Lot,
    Part,
    Pick,
    Variety,
)  # fmt: skip
from .crops import Kind, Kinds, load_kinds
from .forecast import Row, fresh
from .larder import Larder, household, planning_year, today
from .outlook import Outlook, outlook
from .quantity import Seeds, seeds_left
from .trial_data import TestSoFar, all_tests
from .wording import sentence
from .world import World

STRIP_YEARS_BACK, STRIP_YEARS_AHEAD, STRIP_STEP_DAYS = 3, 7, 73.05
REGROW_YEARS = 8
QUANTILES = (0.10, 0.50, 0.90)


@dataclass(frozen=True)
class Likely:
    """Germination: median and 80 % interval, fractions."""

    low: float
    mid: float
    high: float


@dataclass(frozen=True)
class Strip:
    """The fade strip: points from ``from_s`` every ``step_s``, three quantile arrays."""

    from_s: float
    step_s: float
    low: list[float]
    mid: list[float]
    high: list[float]


@dataclass(frozen=True)
class TestMark:
    """A test on the strip: when sown, share viable (None: still running), counts."""

    trial_id: int
    code: str
    at_s: int
    share: float | None
    up: int
    n: int
    running: bool


@dataclass(frozen=True)
class Episode:
    """A spell that took unusually much: month, node, points lost (fraction)."""

    from_s: int
    to_s: int
    node_id: int
    points: float


@dataclass(frozen=True)
class TestAdvice:
    """Whether a test is wanted, by when, how many seeds, what it would decide, and why."""

    code: str
    wanted: bool
    due_s: float | None
    seeds: int | None
    error_before: float | None
    error_after: float | None
    chance_below: float
    why: str


@dataclass
class Glance:
    """What a list needs of one lot, one part."""

    lot_id: int
    part_id: int
    now: Likely
    at_sowing: Likely | None
    next_sowing_s: float | None
    sowing_setting: str | None
    sowing_guessed: bool
    good_until_s: float | None
    good_beyond: bool
    strip: Strip
    advice: TestAdvice
    start: float
    erh25: float
    a_probit: float
    sd_log10_a: float
    climate_source: str
    guess: bool
    tests: list[TestMark]
    episodes: list[Episode]
    last_safe_year: int | None
    regrow_asked: bool
    mothers: list[float]


def strip_dates(now_s: float) -> np.ndarray:
    """The shared axis of all strips, epoch seconds [P]."""
    year = datetime.fromtimestamp(now_s, UTC).year
    start = datetime(year - STRIP_YEARS_BACK, 1, 1, tzinfo=UTC).timestamp()
    count = round((STRIP_YEARS_BACK + STRIP_YEARS_AHEAD) * 365.25 / STRIP_STEP_DAYS) + 1
    return start + np.arange(count) * STRIP_STEP_DAYS * DAY_S


def sowing_of(kind: Kind, day: date, home: Household) -> tuple[float, str, bool] | None:
    """Next sowing of a kind from a day on: (epoch s, setting, guessed); None: no window known."""
    crop = kind.crop
    years = [
        sowing_windows(
            day.year + i,
            home.last_frost_day,
            home.hemisphere,
            crop.sow_indoors_weeks_before_last_frost,
            crop.sow_outdoors_weeks_rel_last_frost,
        )
        for i in (-1, 0, 1)
    ]
    found = next_sowing(day, years)
    if found is None:
        return None
    start, window = found
    return float(day_start_s(start, home.tz)), window.setting, window.guessed or not kind.known


def _later_sowings(kind: Kind, first_s: float) -> np.ndarray:
    return first_s + np.arange(REGROW_YEARS + 1) * YEAR_S


def emergence(kind: Kind, setting: str | None) -> float:
    """Emergence factor: the field figure outdoors; indoors half the loss (model.csv: guess)."""
    factor = kind.crop.field_emergence_factor
    return 1 - (1 - factor) * 0.5 if setting == "indoors" else factor


def seed_success(look: Outlook, i: int, at_s: float, setting: str | None) -> Success:
    """Chance that one seed of row i sown at a time becomes a plant."""
    a = look.a_at(i, np.array([at_s]))
    g = be.nodes(look.belief.rows(np.array([i])), a)
    return success(g.g[0], g.weight[0], emergence(look.rows[i].kind, setting))


def _advice(
    look: Outlook, home: Household, now_s: int, seeds: dict[int, Seeds],
    tests: dict[int, list[TestSoFar]], sowings: list[tuple[float, str, bool] | None],
    uses: Uses,
) -> list[TestAdvice]:  # fmt: skip
    n = len(look.rows)
    next_use = np.array([
        s[0] if s and uses.wants(row) else np.nan for s, row in zip(sowings, look.rows, strict=True)
    ])  # fmt: skip
    at_use = np.array([
        look.a_at(i, np.array([next_use[i] if np.isfinite(next_use[i]) else now_s]))[0]
        for i in range(n)
    ])  # fmt: skip
    below = be.chance_below(look.belief, at_use[:, None], home.sow_level)[:, 0]
    known, fall, tested = np.empty(n), np.empty(n), np.zeros(n, dtype=bool)
    for i, row in enumerate(look.rows):
        closed = [t for t in tests.get(row.part.lot_id, []) if t.trial.closed_s is not None]
        tested[i] = bool(closed)
        known[i] = max([float(row.part.from_s), *(float(t.trial.sown_s) for t in closed)])
    a_known = np.array([look.a_at(i, known[i : i + 1])[0] for i in range(n)])
    g_known = be.quantiles(look.belief, a_known[:, None], (0.5,))[:, 0, 0]
    a_fall = be.ageing_until(look.belief, 0.85 * g_known, 0.5)
    for i in range(n):
        fall[i] = min((look.date_of(i, float(a_fall[i])) - known[i]) / DAY_S, 36_525.0)
    days = np.array([row.kind.crop.final_count_days for row in look.rows])
    left = np.array([
        seeds[row.part.lot_id].mean if seeds[row.part.lot_id].known else np.inf
        for row in look.rows
    ])  # fmt: skip
    advice = retest(
        below, np.maximum(fall, 1.0), known, tested, next_use, days, left, now_s,
        home.order_lead_days,
    )  # fmt: skip
    running = {t.trial.lot_id for ts in tests.values() for t in ts if t.trial.closed_s is None}
    out = []
    for i, (one, row) in enumerate(zip(advice, look.rows, strict=True)):
        why = sentence(one.reason, home)
        if row.part.lot_id in running:
            one = Advice("running", None, one.chance_below, one.reason)
            why = "A test of this lot is running."
        size = None
        if one.wanted:
            g = be.nodes(look.belief.rows(np.array([i])), at_use[i : i + 1])
            have = float(left[i]) if np.isfinite(left[i]) else 200.0
            size = seeds_to_test(g.g[0], g.weight[0], home.sow_level, have)
            if not size.worth_it:
                one = Advice("not_worth", None, one.chance_below, one.reason)
                why = sentence(Reason("test_not_worth", one.reason.figures), home)
                size = None
        out.append(
            TestAdvice(
                one.code, one.wanted, one.due_s, size.seeds if size else None,
                size.error_before if size else None, size.error_after if size else None,
                one.chance_below, why,
            )
        )  # fmt: skip
    return out


@dataclass(frozen=True)
class Uses:
    """What the household means to grow: kinds for foods, picked lots; ``any_use``: nothing was
    said yet, so every lot may be wanted."""

    kinds: frozenset[str]
    lots: frozenset[int]
    any_use: bool

    def wants(self, row: Row) -> bool:
        """Whether a lot has a use in sight: a food, a pick, or a line to keep."""
        return (
            self.any_use
            or row.kind.key in self.kinds
            or row.part.lot_id in self.lots
            or bool(row.variety.kept_line)
        )


def uses_of(session: Session, year: int) -> Uses:
    """Foods and picks of a planning year."""
    foods = session.exec(
        select(FoodTarget.crop).where(FoodTarget.year == year, col(FoodTarget.deleted_s).is_(None))
    ).all()
    picks = session.exec(
        select(Pick.lot_id).where(Pick.year == year, col(Pick.deleted_s).is_(None))
    ).all()
    return Uses(frozenset(foods), frozenset(picks), not foods and not picks)


def _legs(session: Session, part_ids: list[int]) -> dict[int, list[DLeg]]:
    """Ageing by month and node of some parts, in order of time."""
    out: dict[int, list[DLeg]] = {}
    query = select(DLeg).where(col(DLeg.part_id).in_(part_ids)).order_by(col(DLeg.month_s))
    for leg in session.exec(query):
        out.setdefault(leg.part_id, []).append(leg)
    return out


def _episodes(legs: list[DLeg], total: float, fall: float) -> list[Episode]:
    """Months in which a part aged over three times as fast as in its usual month, and lost
    at least two points by it. ``total``: its ageing so far; ``fall``: what it lost (fraction)."""
    if len(legs) < 4:
        return []
    gains = np.array([leg.a_probit for leg in legs])
    usual = float(np.median(gains))
    since = max(total - float(gains.sum()), 0.0)  # the month under way
    lost = points_by_episode(np.append(gains, since), fall, 0.0)[:-1]
    out = []
    for leg, gain, points in zip(legs, gains, lost, strict=True):
        if gain > 3 * usual and points >= 0.02:
            end = leg.month_s + 31 * DAY_S
            out.append(Episode(leg.month_s, end, leg.node_id, float(points)))
    return out


def _lines(
    look: Outlook, seeds: dict[int, Seeds], sowings: list[tuple[float, str, bool] | None],
    confidence: float, day: date,
) -> dict[int, tuple[int | None, list[float]]]:  # fmt: skip
    """Last safe year and chance of mothers by year for each kept variety (by variety id)."""
    lines: dict[int, list[int]] = {}
    for i, row in enumerate(look.rows):
        if row.variety.kept_line and row.variety.id is not None and sowings[i] is not None:
            lines.setdefault(row.variety.id, []).append(i)
    out: dict[int, tuple[int | None, list[float]]] = {}
    for variety, members in lines.items():
        held = [i for i in members if seeds[look.rows[i].part.lot_id].whole > 0]
        first = sowings[members[0]]
        assert first is not None, "filtered above"
        chances = []
        for at_s in _later_sowings(look.rows[members[0]].kind, first[0]):
            counts = [seeds[look.rows[i].part.lot_id].whole for i in held]
            lots = [seed_success(look, i, float(at_s), first[1]) for i in held]
            need = look.rows[members[0]].kind.crop.min_plants_viable
            chances.append(chance_of_mothers(counts, lots, need))
        year = datetime.fromtimestamp(first[0], UTC).year
        years = [year + j for j in range(len(chances))]
        out[variety] = (last_safe_year(years, chances, confidence), chances)
    return out


def make_glances(
    session: Session, world: World, kinds: Kinds, home: Household, day: date,
    lot_ids: Iterable[int],
) -> list[Glance]:  # fmt: skip
    """Compute the glances of some lots together (kept lines over all their lots)."""
    look = outlook(session, world, kinds, lot_ids)
    if not look.rows:
        return []
    now_s = world.now_s
    lots = [row.part.lot_id for row in look.rows]
    seeds = seeds_left(session, lots)
    tests: dict[int, list[TestSoFar]] = {}
    for test in all_tests(session, lots, now_s):
        tests.setdefault(test.trial.lot_id, []).append(test)
    sowings = [sowing_of(row.kind, day, home) for row in look.rows]
    dates = strip_dates(now_s)
    at = np.array([
        [float(now_s), sowings[i][0] if sowings[i] else float(now_s), *dates]  # type: ignore[index]
        for i in range(len(lots))
    ])  # fmt: skip
    a = np.array([look.a_at(i, at[i]) for i in range(len(lots))])
    q = be.quantiles(look.belief, a, QUANTILES)
    starts = be.quantiles(look.belief, np.zeros((len(lots), 1)), (0.5,))[:, 0, 0]
    a_until = be.ageing_until(look.belief, home.sow_level, 0.5)
    uses = uses_of(session, planning_year(day, home))
    advice = _advice(look, home, now_s, seeds, tests, sowings, uses)
    legs = _legs(session, [row.part_id for row in look.rows])
    lines = _lines(look, seeds, sowings, home.line_confidence, day)
    out = []
    for i, row in enumerate(look.rows):
        node = row.legs[-1].node
        source = world.source_now(node)
        frozen = world.past(node).temperature_c[-1] < -5
        until = look.date_of(i, float(a_until[i]))
        beyond = until > now_s + (60 if frozen else 25) * YEAR_S
        begin = int(np.searchsorted(dates, row.part.from_s))
        marks = [
            TestMark(
                t.trial.id or 0, t.trial.code, t.trial.sown_s,
                t.viable / t.n if t.count and t.n and t.trial.closed_s is not None else None,
                t.viable, t.trial.n, t.trial.closed_s is None,
            )
            for t in tests.get(row.part.lot_id, [])
        ]  # fmt: skip
        safe = lines.get(row.variety.id or 0)
        sowing = sowings[i]
        out.append(
            Glance(
                lot_id=row.part.lot_id,
                part_id=row.part_id,
                now=Likely(*_rounded(q[i, 0])),
                at_sowing=Likely(*_rounded(q[i, 1])) if sowing else None,
                next_sowing_s=sowing[0] if sowing else None,
                sowing_setting=sowing[1] if sowing else None,
                sowing_guessed=bool(sowing and sowing[2]),
                good_until_s=None if beyond else until,
                good_beyond=bool(beyond),
                strip=Strip(
                    float(dates[begin]) if begin < len(dates) else float(dates[-1]),
                    STRIP_STEP_DAYS * DAY_S,
                    *(_rounded(q[i, 2 + begin :, c]) for c in range(3)),
                ),
                advice=advice[i],
                start=float(round(starts[i], 3)),
                erh25=float(look.state.erh25[i]),
                a_probit=float(look.state.a_probit[i]),
                sd_log10_a=float(look.state.sd_log10_a[i]),
                climate_source=source,
                guess=not any(m.share is not None for m in marks)
                and (source == "usual" or row.kind.grade in ("C", "guess")),
                tests=marks,
                episodes=_episodes(
                    legs.get(row.part_id, []),
                    float(look.state.a_probit[i]),
                    float(starts[i] - q[i, 0, 1]),
                ),
                last_safe_year=safe[0] if safe else None,
                regrow_asked=safe is not None,
                mothers=[round(c, 4) for c in safe[1]] if safe else [],
            )
        )
    return out


def _rounded(values: np.ndarray) -> list[float]:
    return [round(float(v), 3) for v in values]


def _thaw(data: str) -> Glance:
    raw = json.loads(data)
    raw["now"] = Likely(**raw["now"])
    raw["at_sowing"] = Likely(**raw["at_sowing"]) if raw["at_sowing"] else None
    raw["strip"], raw["advice"] = Strip(**raw["strip"]), TestAdvice(**raw["advice"])
    raw["tests"] = [TestMark(**x) for x in raw["tests"]]
    raw["episodes"] = [Episode(**x) for x in raw["episodes"]]
    return Glance(**raw)


def with_their_lines(session: Session, lot_ids: list[int]) -> set[int]:
    """Some lots and all lots of the same kept varieties: a line's last safe year needs them all."""
    mine = (
        select(Cohort.variety_id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .where(col(Part.lot_id).in_(lot_ids))
    )
    relatives = session.exec(
        select(Part.lot_id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(Variety.kept_line == 1, col(Variety.id).in_(mine))
    ).all()
    return {*lot_ids, *relatives}


def glances(larder: Larder) -> dict[int, Glance]:
    """The glances of all live lots, by lot; stale ones are made again and kept for the day."""
    fresh(larder)
    with larder.store.read() as session:
        home = household(session)
        day = today(larder, home)
        kept = {
            g.lot_id: g.data
            for g in session.exec(select(DGlance).where(DGlance.day == day.isoformat()))
        }
        lots = session.exec(
            select(Lot.id).where(col(Lot.deleted_s).is_(None), Lot.state != "gone")
        ).all()
        ids = [lot for lot in lots if lot is not None]
        missing = [lot for lot in ids if lot not in kept]
        made: list[Glance] = []
        if missing:
            world = World(session, home, larder.now_s())
            wanted = with_their_lines(session, missing)
            made = make_glances(session, world, load_kinds(session), home, day, wanted & set(ids))
    if made:
        with larder.store.write() as session:
            for glance in made:
                session.merge(
                    DGlance(
                        lot_id=glance.lot_id, day=day.isoformat(), data=json.dumps(asdict(glance))
                    )
                )
    new = {g.lot_id: g for g in made}
    return {lot: new.get(lot) or _thaw(kept[lot]) for lot in ids}
