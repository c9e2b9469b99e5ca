"""The bench planned: which tests are set up on which evening, in which spot, box and layer, and why."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import lru_cache

from ...core.base.units import DAY_S, local_day
from ...core.trials import benchplan as bp
from ...core.trials.when_to_test import as_at_its_best, stretched
from ..forecast.lines import LotLine, test_seeds
from ..forecast.trial_advice import cold_days
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import writing_here
from ..household.wording import date_words, day_words, many, percent, temperature_here
from .evening_steps import count_days, laying
from .spots import SpotLine

SOON_TOLD = 0.005  # a plan proven so near the best is called the best


@dataclass(frozen=True)
class Laid:
    """One test of the plan: of which packet, how many seeds, where it stands, what comes first, when it is
    counted (days in its warmth) and when its answer is in."""

    lot_id: int
    code: str
    variety: str
    kind_name: str
    seeds: int
    spot: str
    temperature_c: float
    box: int
    layer: str
    light: str
    medium: str
    cold_days: float
    first_day: int
    last_day: int
    answer_s: float
    why: str


@dataclass(frozen=True)
class Evening:
    """One evening's work: its day, the day after which one of its answers would come too late, the tests by
    spot and layer, what it takes and why."""

    day_s: float
    day: str
    latest_s: float
    tests: list[Laid]
    seeds: int
    why: str


@dataclass(frozen=True)
class LeftOut:
    """A test for which the bench has no room or no spot."""

    lot_id: int
    code: str
    variety: str
    why: str


@dataclass(frozen=True)
class BenchPlan:
    """The evenings ahead, what found no place, how good the plan is, and the spots it stands on."""

    evenings: list[Evening]
    left: list[LeftOut]
    says: str
    spots: list[SpotLine]


@dataclass(frozen=True)
class Occupied:
    """A test on the bench: its kind, when it was sown, days in the cold first, its warmth and its seeds."""

    kind: Kind
    sown_s: int
    cold_days: float
    temperature_c: float
    seeds: int


@lru_cache(maxsize=32)
def _solved(
    tests: tuple[bp.Asked, ...],
    spots: tuple[bp.Spot, ...],
    evenings: tuple[float, ...],
    taken: tuple[tuple[int, float], ...],
) -> bp.Plan:
    return bp.planned(tests, spots, evenings, figures().trials, figures().bench, taken)


@dataclass(frozen=True)
class Agenda:
    """The household's day, the evenings (days) told for packets so far, those that the keeper chose, and the
    spots that were told."""

    today: date
    told: Mapping[int, date]
    chosen: Mapping[int, date]
    spots: Mapping[int, str] = field(default_factory=dict)

    def day_of(self, lot_id: int) -> float | None:
        """Days from today to the evening that stands for a packet; None: none does."""
        day = self.chosen.get(lot_id, self.told.get(lot_id))
        return None if day is None or day < self.today else float((day - self.today).days)

    def missed(self, lot_id: int) -> date | None:
        """The evening that was told for a packet and is past."""
        day = self.chosen.get(lot_id, self.told.get(lot_id))
        return day if day is not None and day < self.today else None


def _asked(
    line: LotLine, kind: Kind, agenda: Agenda, spots: Sequence[SpotLine], tz: str
) -> bp.Asked:
    crop, advice = kind.crop, line.glance.advice
    low, high = crop.germ_temp_opt_c
    age_days = line.age_years * 365.25
    due = agenda.today if advice.due_s is None else local_day(advice.due_s, tz)
    return bp.Asked(
        due=float((due - agenda.today).days),
        days=float(crop.final_count_days),
        cold=float(cold_days(kind, age_days)),
        layers=laying(kind, test_seeds(line.glance))[1].layers,
        low_c=low,
        high_c=high,
        least_c=crop.germ_temp_min_c,
        most_c=crop.germ_temp_max_c,
        light=crop.light,
        worth=round(max(advice.gain - advice.cost, figures().bench.least_worth), 1),
        told=agenda.day_of(line.lot_id),
        told_spot=next(
            (i for i, s in enumerate(spots) if s.name == agenda.spots.get(line.lot_id)), None
        ),
        fixed=line.lot_id in agenda.chosen,
    )


def _evenings(
    asked: Sequence[bp.Asked], lines: Sequence[LotLine], agenda: Agenda
) -> tuple[float, ...]:
    """Days from today on which tests may be set up: every so many days of the calendar, so that they are the
    same days tomorrow, those that were told, and today for what cannot wait and was never told another."""
    step = figures().bench.evening_every_days
    last = max(0.0, *(x.due for x in asked))
    first = (-agenda.today.toordinal()) % step
    days = {float(d) for d in range(first, int(last) + step + 1, step)}
    days |= {x.told for x in asked if x.told is not None}
    known = {*agenda.told, *agenda.chosen}
    if any(x.due < first and y.lot_id not in known for x, y in zip(asked, lines, strict=True)):
        days.add(0.0)
    return tuple(sorted(days))


def _taken(
    running: Sequence[Occupied], spots: Sequence[SpotLine], now_s: int
) -> list[tuple[int, float]]:
    """Layers in use: the spot nearest in warmth, and for how many days from now."""
    out, f = [], figures().trials
    for test in running:
        crop = test.kind.crop
        near = min(
            range(len(spots)), key=lambda s: abs(spots[s].temperature_c - test.temperature_c)
        )
        pace = as_at_its_best(
            1.0, test.temperature_c, crop.germ_temp_min_c, crop.germ_temp_opt_c.low, f
        )
        days = test.cold_days + stretched(crop.final_count_days, pace)
        left = days - (now_s - test.sown_s) / DAY_S
        layers = laying(test.kind, test.seeds)[1].layers
        out += [(near, float(max(left, 1.0)))] * layers
    return out


def bench_plan(
    wanted: Sequence[LotLine],
    kinds: Kinds,
    running: Sequence[Occupied],
    spots: list[SpotLine],
    tz: str,
    now_s: int,
    agenda: Agenda,
) -> BenchPlan:
    """The plan of all tests that are asked for, beside those on the bench. What was told stays."""
    if not wanted:
        return BenchPlan([], [], "", spots)
    lines = sorted(wanted, key=lambda x: (x.glance.advice.due_s or 0.0, x.code))
    asked = tuple(_asked(x, kinds.get(x.kind), agenda, spots, tz) for x in lines)
    evenings = _evenings(asked, lines, agenda)
    places = tuple(bp.Spot(s.temperature_c, s.light, s.boxes * s.layers) for s in spots)
    taken = tuple((s, round(d)) for s, d in _taken(running, spots, now_s))
    plan = _solved(asked, places, evenings, taken)
    slots = _Slots(spots, taken)
    out, left = [], []
    for e, day in enumerate(evenings):
        begun = [
            (start, x, test)
            for start, x, test in zip(plan.starts, lines, asked, strict=True)
            if start is not None and start.evening == e
        ]
        if not begun:
            continue
        day_s = now_s + day * DAY_S
        begun.sort(key=lambda b: (b[0].spot, b[0].days, b[1].code))
        tests = [
            _laid(start, x, kinds.get(x.kind), test, spots, slots, (day, day_s), agenda)
            for start, x, test in begun
        ]
        seeds = sum(t.seeds for t in tests)
        warm = sorted({(t.temperature_c, t.spot) for t in tests})
        where = "; ".join(f"{name}, {temperature_here(c)}" for c, name in warm)
        out.append(
            Evening(
                day_s,
                local_day(int(day_s), tz).isoformat(),
                now_s + max(day, min(test.due for _, _, test in begun)) * DAY_S,
                tests,
                seeds,
                f"{many(seeds, 'seed')} of {many(len(tests), 'packet')} at once ({where}); the last "
                f"answer is in by {day_words(int(max(t.answer_s for t in tests)))}.",
            )
        )
    for start, x, test in zip(plan.starts, lines, asked, strict=True):
        if start is None:
            left.append(LeftOut(x.lot_id, x.code, x.variety, _why_left(test, spots, evenings)))
    says = (
        "Fewest evenings, every answer in time where it can be: no better plan exists."
        if plan.gap <= SOON_TOLD
        else f"The best plan found; a better one could save at most {percent(plan.gap)} of it."
    )
    return BenchPlan(out, left, says, spots)


class _Slots:
    """Layers of each spot and from which day each is free, in order of boxes."""

    def __init__(self, spots: Sequence[SpotLine], taken: Sequence[tuple[int, float]]) -> None:
        self.spots = spots
        self.free = [[0.0] * (s.boxes * s.layers) for s in spots]
        for spot, until in taken:
            here = self.free[spot]
            first = next((i for i, at in enumerate(here) if at == 0.0), None)
            if first is not None:
                here[first] = until

    def take(self, spot: int, layers: int, day: float, days: float) -> tuple[int, str]:
        """Box and layers, from 1, for a test from a day on."""
        here, per_box = self.free[spot], self.spots[spot].layers
        chosen = [i for i, at in enumerate(here) if at <= day][:layers]
        for i in chosen:
            here[i] = day + days
        if not chosen:
            return 0, ""
        numbers = [i % per_box + 1 for i in chosen]
        words = (
            str(numbers[0]) if len(numbers) == 1 else f"{numbers[0]} and {len(numbers) - 1} more"
        )
        return chosen[0] // per_box + 1, words


def _laid(
    start: bp.Start,
    line: LotLine,
    kind: Kind,
    test: bp.Asked,
    spots: Sequence[SpotLine],
    slots: _Slots,
    when: tuple[float, float],
    agenda: Agenda,
) -> Laid:
    spot, (day, day_s) = spots[start.spot], when
    n = test_seeds(line.glance)
    box, layer = slots.take(start.spot, test.layers, day, start.days)
    first, last = count_days(kind, spot.temperature_c)
    answer_s = day_s + start.days * DAY_S
    return Laid(
        lot_id=line.lot_id,
        code=line.code,
        variety=line.variety,
        kind_name=line.kind_name,
        seeds=n,
        spot=spot.name,
        temperature_c=spot.temperature_c,
        box=box,
        layer=layer,
        light=test.light,
        medium=laying(kind, n)[1].medium,
        cold_days=test.cold,
        first_day=first,
        last_day=last,
        answer_s=answer_s,
        why=_why(start, line, test, answer_s, agenda.missed(line.lot_id)),
    )


def _why(
    start: bp.Start, line: LotLine, test: bp.Asked, answer_s: float, missed: date | None
) -> str:
    said = _how(start, line, test, answer_s)
    if missed is not None:
        said += f" It was planned for {date_words(missed)}, and nobody began it then."
    return said


def _how(start: bp.Start, line: LotLine, test: bp.Asked, answer_s: float) -> str:
    likes = writing_here().span(test.low_c, test.high_c)
    said = f"Likes {likes}."
    if start.off_c > 0:
        said = f"Likes {likes}; here it takes {start.days:.0f} days instead of {test.cold + test.days:.0f}."
    if test.cold:
        said += f" {test.cold:.0f} days in the cold come first."
    sowing = line.glance.next_sowing_s
    if start.late >= 1:
        late = many(round(start.late), "day")
        still = "in time to know how thickly to sow" if sowing is None or answer_s < sowing else ""
        return f"{said} Its answer comes {late} late for ordering{', ' * bool(still)}{still}: start at once."
    if sowing is not None:
        told, use = day_words(int(answer_s)), day_words(int(sowing))
        said += f" Its answer is in by {told}, time to order before {use}."
    return said


def _why_left(test: bp.Asked, spots: Sequence[SpotLine], evenings: Sequence[float]) -> str:
    likes = writing_here().span(test.low_c, test.high_c)
    places = [bp.Spot(s.temperature_c, s.light, s.boxes * s.layers) for s in spots]
    if bp.starts_of(test, places, evenings, figures().trials):
        return f"No layer is free in time where it would come up (it likes {likes}): one more box would do."
    if test.light != "either" and all(s.light not in ("either", test.light) for s in places):
        return f"It wants {'light' if test.light == 'light' else 'the dark'}, and no spot has it."
    return f"No spot is warm or cool enough: it likes {likes}."
