"""Tests: what deserves one and how many seeds, start, count, close."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from datetime import date

import numpy as np
from sqlmodel import select

from ...core.base.figures import TrialsFigures
from ...core.base.units import DAY_S, local_day
from ...core.seed.calibration import as_worlds
from ...core.trials.when_to_test import (
    CRACKED,
    WHOLE,
    as_at_its_best,
    half_time,
    half_usual,
    leaning,
    likes,
    settled,
    spot,
    stage,
    stretched,
    time_course,
)
from ...data.queries import key, live
from ...data.tables import ForecastNote, Job, TrialCount
from ..air.look import Look, looking_at
from ..forecast.counts import TestSoFar, all_tests, days_in_warmth
from ..forecast.current import whole_outlook
from ..forecast.glance_data import Likely
from ..forecast.lines import LotLine, lot_lines, test_seeds
from ..forecast.outlook import Outlook, of_lots
from ..forecast.wishes import Wishes, wishes
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, planning_year, remembered, writing_here
from ..household.memory import Told, recall, remember
from ..household.wording import day_words, percent
from .count_decides import by_count, ends, saves, stages, stands
from .plan import Agenda, BenchPlan, Occupied, bench_plan
from .spots import spots_of
from .taught_beside import NOTHING, Beside, told_beside
from .verdict_words import TestVerdict, verdict_of


@dataclass(frozen=True)
class Wanted:
    """A lot that deserves a test. ``spot_c``: the warmth it shares with others; ``ends``, ``then``: what
    follows the worst and the best count, and each; ``stages``: when a second half is sown; ``saves``: what
    it is expected to save; ``beside``: what it tells of other packets; ``wanted_for``: foods of the year, a
    pick or a line that ask for it (none: it is only sown of its kind)."""

    line: LotLine
    due_s: float
    seeds: int
    spot_c: float
    ends: str
    then: list[str]
    stages: str
    saves: str
    beside: str
    why: str
    wanted_for: list[str]


@dataclass(frozen=True)
class Running:
    """A test on the bench: day by day against what is usual, and what the next count would mean."""

    trial_id: int
    code: str
    line: LotLine
    sown_s: int
    day: float
    first_day: float
    days: float
    cold_until_s: float | None
    n: int
    medium: str
    temperature_c: float
    up: int
    odd: dict[str, int]
    waiting: int
    expected_low: list[float]
    expected_high: list[float]
    counted_days: list[float]
    counted_up: list[int]
    now: Likely
    verdict: str
    hints: list[str]
    seeds: str
    version: int


@dataclass(frozen=True)
class Bench:
    """The room: running tests, what deserves one (most urgent first), what was closed lately, and the
    evenings on which those that deserve one are set up."""

    running: list[Running]
    wanted: list[Wanted]
    closed: list[ClosedTest]
    untested_reasons: dict[str, int]
    plan: BenchPlan


@dataclass(frozen=True)
class ClosedTest:
    """A closed test and what the belief was before and after."""

    trial_id: int
    code: str
    lot_id: int
    lot_code: str
    variety: str
    closed_s: int
    up: int
    n: int
    before: Likely | None
    after: Likely
    verdict: TestVerdict


def _agenda(v: Look, told: Told) -> Agenda:
    """What was told of evenings, and what the keeper moved to another."""
    chosen = {}
    for job in v.session.exec(live(Job).where(Job.kind == "test", Job.state == "moved")):
        if job.moved_to_s is not None and job.subject.startswith("lot:"):
            day = local_day(job.moved_to_s, v.home.tz)
            chosen[int(job.subject.removeprefix("lot:"))] = day
    days = {int(lot): date.fromisoformat(day) for lot, (day, _) in told.items()}
    return Agenda(v.today, days, chosen, {int(lot): spot for lot, (_, spot) in told.items()})


def _past(before: Told, told: Told, asked: list[LotLine]) -> Told:
    """Evenings told for tests that are still asked for and have none now."""
    still = {str(x.lot_id) for x in asked}
    return {lot: day for lot, day in before.items() if lot in still and lot not in told}


@remembered
def bench(larder: Larder) -> Bench:
    """Everything the room shows."""
    lines = [x for x in lot_lines(larder) if not x.form]
    by_lot = {line.lot_id: line for line in lines}
    now_s, whole = larder.now_s(), whole_outlook(larder)
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        tests = all_tests(v.session, by_lot, now_s)
        open_tests = [t for t in tests if t.trial.closed_s is None]
        look = of_lots(whole, {t.trial.lot_id for t in open_tests})
        counts: dict[int, list[TrialCount]] = {}
        for count in v.session.exec(select(TrialCount).order_by("at_s")):
            if count.deleted_s is None:
                counts.setdefault(count.trial_id, []).append(count)
        notes = {n.trial_id: n for n in v.session.exec(live(ForecastNote))}
        running = [
            _running(
                t,
                by_lot[t.trial.lot_id],
                look,
                counts.get(key(t.trial), []),
                now_s,
                home.sow_level,
                notes.get(key(t.trial)),
                _earlier(t, tests, counts),
            )
            for t in open_tests
        ]
        closed = [
            _closed(t, by_lot[t.trial.lot_id], notes.get(t.trial.id), kinds, home.confidence)
            for t in tests
            if t.trial.closed_s is not None and now_s - t.trial.closed_s < 365 * DAY_S
        ]
        asked = [line for line in lines if line.verdict.test and line.state == "here"]
        wishes_of = wishes(v.session, kinds, planning_year(v.session, v.today, home), now_s)
        beside = told_beside(whole, lines, asked, home)
        occupied = [_occupied(t, kinds.get(by_lot[t.trial.lot_id].kind)) for t in open_tests]
        spots = spots_of(v.session)
        before = recall(v.session, "evenings")
        agenda = _agenda(v, before)
        plan = bench_plan(asked, kinds, occupied, spots, home.tz, now_s, agenda)
    told = {str(t.lot_id): [e.day, t.spot] for e in plan.evenings for t in e.tests}
    remember(larder, "evenings", before, {**_past(before, told, asked), **told})
    wanted = [
        _wanted(x, kinds.get(x.kind), beside.get(x.lot_id, NOTHING), now_s, wishes_of)
        for x in asked
    ]
    reasons: dict[str, int] = {}
    for line in lines:
        if not line.verdict.test:
            code = line.glance.advice.code
            reasons[code] = reasons.get(code, 0) + 1
    return Bench(
        running,
        sorted(wanted, key=lambda w: (not w.wanted_for, w.due_s, w.line.code)),
        sorted(closed, key=lambda c: -c.closed_s),
        reasons,
        plan,
    )


def _wanted(line: LotLine, kind: Kind, beside: Beside, now_s: int, asked: Wishes) -> Wanted:
    advice = line.glance.advice
    return Wanted(
        line,
        advice.due_s or float(now_s),
        test_seeds(line.glance),
        spot(*_likes(kind), figures().trials),
        ends(advice),
        by_count(advice),
        stages(advice),
        saves(advice),
        beside.says,
        advice.why,
        asked.by_name(line.lot_id, line.kind, line.kept_line),
    )


def _occupied(test: TestSoFar, kind: Kind) -> Occupied:
    t = test.trial
    return Occupied(kind, t.sown_s, t.cold_days, t.temperature_c, t.n)


def _closed(
    test: TestSoFar, line: LotLine, note: ForecastNote | None, kinds: Kinds, confidence: float
) -> ClosedTest:
    before, kind = None, kinds.get(line.kind)
    early = test.ceiling(kind) != WHOLE
    if note is not None:
        q = json.loads(note.quantiles)
        before = Likely(q[0], q[1], q[2])
    return ClosedTest(
        trial_id=key(test.trial),
        code=test.trial.code,
        lot_id=line.lot_id,
        lot_code=line.code,
        variety=line.variety,
        closed_s=test.trial.closed_s or 0,
        up=test.viable,
        n=test.trial.n,
        before=before,
        after=line.glance.now,
        verdict=verdict_of(line, kind, test.viable, test.n, before, confidence, early),
    )


def _running(
    test: TestSoFar,
    line: LotLine,
    look: Outlook,
    counts: list[TrialCount],
    now_s: int,
    level: float,
    note: ForecastNote | None,
    earlier: float | None,
) -> Running:
    # long: one field after the other of what a card of the bench shows
    i = next(j for j, row in enumerate(look.rows) if row.part.lot_id == test.trial.lot_id)
    crop = look.rows[i].kind.crop
    trial, f = test.trial, figures().trials
    q = look.quantiles_at(i, np.array([float(trial.sown_s)]), (0.1, 0.5, 0.9))[0]
    low, high = crop.germ_temp_opt_c
    # what a day here does of one at its best: a cool spot stretches the count days
    pace = as_at_its_best(1.0, trial.temperature_c, crop.germ_temp_min_c, low, f)
    last_day = float(np.ceil(stretched(crop.final_count_days, pace)))
    days = np.arange(0, last_day + 0.5)
    course = time_course(days * pace, crop.first_count_days, crop.final_count_days, f)
    day, warm_s = days_in_warmth(trial, now_s), trial.sown_s + trial.cold_days * DAY_S
    odd = asdict(test.tally)
    up = odd.pop("normal")
    seeds = counts[-1].seeds if counts else ""
    at = stage(day * pace, crop.first_count_days, crop.final_count_days, f)
    if at == "over" and CRACKED in seeds:
        at = "grace"
    below = look.chance_below(i, float(trial.sown_s), level)
    hints = _so_far(test, test.rho(look.rows[i].kind), below, level, note)
    half = half_time([days_in_warmth(trial, x.at_s) for x in counts], [x.normal for x in counts])
    if half is not None:
        usual = stretched(half_usual(crop.first_count_days, crop.final_count_days, f), pace)
        hints.append(f"Half of these were up by day {half:.0f}; day {usual:.0f} is usual here.")
    if half is not None and earlier is not None and half > f.slowed_times * earlier:
        hints.append(
            f"In an earlier test it was day {earlier:.0f}: slower is the first sign of ageing."
        )
    looked_at = days_in_warmth(trial, counts[-1].at_s) if counts else 0.0
    if day - looked_at >= f.dry_after_days:
        hints.append("Is the paper still damp?")
    if crop.wet_sensitivity == "high":
        hints.append("Damp, not soggy: this kind rots when wet.")
    if crop.light != "either":
        hints.append(f"Comes up in {'light' if crop.light == 'light' else 'the dark'}.")
    if not likes(trial.temperature_c, low, high, f):
        hints.append(
            f"Likes {writing_here().span(low, high)}: here it may take longer and say less."
        )
    return Running(
        trial_id=key(trial),
        code=trial.code,
        line=line,
        sown_s=trial.sown_s,
        day=day,
        first_day=float(np.ceil(stretched(crop.first_count_days, pace))),
        days=last_day,
        cold_until_s=warm_s if trial.cold_days else None,
        n=trial.n,
        medium=trial.medium,
        temperature_c=trial.temperature_c,
        up=up,
        odd=odd,
        waiting=trial.n - up - sum(odd.values()),
        expected_low=[round(float(v), 2) for v in q[0] * course * trial.n],
        expected_high=[round(float(v), 2) for v in q[2] * course * trial.n],
        counted_days=[days_in_warmth(trial, x.at_s) for x in counts],
        counted_up=[x.normal for x in counts],
        now=Likely(*(round(float(v), 3) for v in q)),
        verdict=f"in the cold until {day_words(int(warm_s))}" if now_s < warm_s else VERDICTS[at],
        hints=hints,
        seeds=seeds,
        version=trial.version,
    )


def _so_far(
    test: TestSoFar, rho: float, below: float, level: float, note: ForecastNote | None
) -> list[str]:
    """What the counts so far lead to: by what was said when it began, else by the sowing level."""
    f, then = figures().trials, json.loads(test.trial.decides or "[]")
    if test.waiting and then and test.n == test.trial.n:
        found = stands(then, test.viable, test.waiting)
        if found:
            return found
    said = json.loads(note.quantiles) if note is not None else None
    if said is not None and test.waiting:
        g = as_worlds(*said[:3])
        side = settled(g, test.n, test.viable, test.waiting, level, rho, f)
        if side != "open":
            return [
                f"No further count can change it: {side} {percent(level)}. Close it if you like."
            ]
    return [_hint(below, level, f)]


def _likes(kind: Kind) -> tuple[float, float]:
    return kind.crop.germ_temp_opt_c.low, kind.crop.germ_temp_opt_c.high


VERDICTS = {
    "early": "too early to judge",
    "coming": "still coming up",
    "grace": "the last count day has passed: wait a few days more if some just stir, else close it",
    "over": "nothing more is to be expected: close it",
}


def _earlier(
    test: TestSoFar, tests: list[TestSoFar], counts: dict[int, list[TrialCount]]
) -> float | None:
    """Day by which half was up in the last closed test of the same packet, None if nobody can tell."""
    before = [
        half_time([days_in_warmth(t.trial, x.at_s) for x in told], [x.normal for x in told])
        for t in tests
        if t.trial.lot_id == test.trial.lot_id
        and t.trial.closed_s is not None
        and t.trial.temperature_c == test.trial.temperature_c
        and len(told := counts.get(key(t.trial), [])) > 1
    ]
    return next((half for half in reversed(before) if half is not None), None)


def _hint(below: float, level: float, f: TrialsFigures) -> str:
    match leaning(below, f):
        case "below":
            return f"So far: almost surely below {percent(level)}."
        case "above":
            return f"So far: almost surely above {percent(level)}."
        case _:
            return f"So far undecided: {percent(1 - below)} for standing above {percent(level)}."
