"""Which tests are set up on which evening and where they stand: few evenings, every answer in time.

A test may stand in any spot whose warmth and light its kind bears; a cool one stretches its days. It takes
layers of the spot's boxes until it is over. The plan is a choice of one start (evening and spot) for
each test, solved exactly as a mixed-integer programme (HiGHS; Huangfu & Hall 2018) or, at its time
limit, with its gap told.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, milp

from ..base.figures import BenchFigures, TrialsFigures
from ..base.solving import Rows
from .when_to_test import as_at_its_best

FIXED_TIMES = 20.0  # an evening the keeper chose is left only where nothing else is possible


@dataclass(frozen=True)
class Asked:
    """A test that is asked for. Days count from today: ``due`` the latest start at its best warmth (below
    zero: late already), ``days`` it takes there, ``cold`` the days in the cold before; layers it takes;
    what its kind likes, needs at least and bears at most (degC); light: light, dark or either; what it
    saves (packets); ``told``: the day that was told for it (None: none was, or it is past) and
    the spot (number), ``fixed`` when the keeper chose the day."""

    due: float
    days: float
    cold: float
    layers: int
    low_c: float
    high_c: float
    least_c: float
    most_c: float
    light: str
    worth: float
    told: float | None = None
    told_spot: int | None = None
    fixed: bool = False


@dataclass(frozen=True)
class Spot:
    """Where boxes stand: how warm (degC), light or dark or either as wished, layers in all its boxes."""

    temperature_c: float
    light: str
    layers: int


@dataclass(frozen=True)
class Start:
    """A way to make a test: on which evening (number), in which spot; ``days`` it stands there with what goes
    before, days its answer comes too late, degrees outside what its kind likes, and from the middle of it."""

    evening: int
    spot: int
    days: float
    late: float
    off_c: float
    from_middle_c: float


@dataclass(frozen=True)
class Plan:
    """One start for each test (None: none was possible), the cost, and how far a better plan could at most
    be from it (0: proven best)."""

    starts: list[Start | None]
    cost: float
    gap: float


def starts_of(
    test: Asked, spots: Sequence[Spot], evenings: Sequence[float], t: TrialsFigures
) -> list[Start]:
    """All ways to make a test: evenings as days from today."""
    out = []
    for s, spot in enumerate(spots):
        fits = spot.light in ("either", test.light) or test.light == "either"
        if (
            not fits
            or not test.least_c < spot.temperature_c <= test.most_c
            or test.layers > spot.layers
        ):
            continue
        pace = as_at_its_best(1.0, spot.temperature_c, test.least_c, test.low_c, t)
        days = test.cold + test.days / pace
        off = max(0.0, test.low_c - spot.temperature_c, spot.temperature_c - test.high_c)
        away = abs(spot.temperature_c - (test.low_c + test.high_c) / 2)
        answer = test.due + test.cold + test.days
        for e, day in enumerate(evenings):
            out.append(Start(e, s, days, max(0.0, day + days - answer), off, away))
    # beside one that is in time, or the least late, a start that is much later is no choice
    least = min((x.late for x in out), default=0.0)
    return [x for x in out if x.late <= least + t.later_days or evenings[x.evening] == test.told]


def cost_of(start: Start, test: Asked, evenings: Sequence[float], f: BenchFigures) -> float:
    """What a start costs beside its evening: days too late, a spot that is not liked, days of waiting, and
    another day than was told."""
    wait = evenings[start.evening] * f.wait_cost
    late = f.late_cost * start.late * max(test.worth, f.least_worth)
    moved = test.told is not None and evenings[start.evening] != test.told
    moving = f.moved_cost * (FIXED_TIMES if test.fixed else 1.0) if moved else 0.0
    if test.told is not None and not moved and test.told_spot not in (None, start.spot):
        moving = f.moved_cost / 2
    return late + f.off_cost * start.off_c + f.middle_cost * start.from_middle_c + wait + moving


def planned(
    tests: Sequence[Asked],
    spots: Sequence[Spot],
    evenings: Sequence[float],
    t: TrialsFigures,
    f: BenchFigures,
    taken: Sequence[tuple[int, float]] = (),
) -> Plan:
    """The plan of least cost: an evening costs 1, a test left out its worth and more.

    ``evenings``: days from today, rising. ``taken``: layers already in use, as (spot, until which day) one
    each. The same input gives the same plan: HiGHS is deterministic.
    """
    choices = [
        (i, start) for i, test in enumerate(tests) for start in starts_of(test, spots, evenings, t)
    ]
    n, k = len(choices), len(evenings)
    all_left = sum(_left(x, f) for x in tests)  # what the solver's figures are less than ours
    if not n:
        return Plan([None] * len(tests), all_left, 0.0)
    cost = [cost_of(start, tests[i], evenings, f) - _left(tests[i], f) for i, start in choices]
    rows = Rows()
    for i in range(len(tests)):  # each once at most
        rows.add([(j, 1.0) for j, (who, _) in enumerate(choices) if who == i], 1.0)
    for e in range(k):  # an evening that is used counts, and has its end
        begun = [j for j, (_, start) in enumerate(choices) if start.evening == e]
        rows.add([*((j, 1.0) for j in begun), (n + e, -float(f.most_an_evening))], 0.0)
    for s, spot in enumerate(spots):
        for day in evenings:  # layers are free again when their tests are over
            used = sum(1 for where, until in taken if where == s and until > day)
            here = [
                (j, float(tests[i].layers))
                for j, (i, start) in enumerate(choices)
                if start.spot == s
                and evenings[start.evening] <= day < evenings[start.evening] + start.days
            ]
            rows.add(here, float(spot.layers - used))
    found = milp(
        np.array([*cost, *[1.0] * k]),
        integrality=np.ones(n + k),
        bounds=Bounds(0, 1),
        constraints=rows.constraint(n + k),
        options={"time_limit": f.time_limit_s, "mip_rel_gap": f.gap / max(1.0, all_left)},
    )
    starts: list[Start | None] = [None] * len(tests)
    if found.x is None:
        return Plan(starts, all_left, 1.0)
    for j in np.flatnonzero(found.x[:n] > 0.5).tolist():
        who, start = choices[j]
        starts[who] = start
    whole, bound = float(found.fun) + all_left, float(found.mip_dual_bound) + all_left
    return Plan(starts, whole, max(0.0, (whole - bound) / max(abs(whole), 1e-9)))


def _left(test: Asked, f: BenchFigures) -> float:
    """What it costs to leave a test out."""
    return f.left_cost * max(test.worth, f.least_worth) + f.left_at_least
