"""Tests and sowings at Pellwick Mill, and how its seed really does."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from datetime import timedelta

import numpy as np
from scipy.special import ndtr
from sqlmodel import col, select

from ..core.base.units import DAY_S, local_day
from ..core.trials.when_to_test import time_course
from ..data.tables import DMonth, Part
from ..services.acts.acting import doing, step, together
from ..services.forecast.current import bring_up_to_date
from ..services.forecast.line_sowings import LINE
from ..services.forecast.lines import LotLine, lot_lines
from ..services.forecast.sowing import window_in, windows_of
from ..services.growing import sowings
from ..services.household.kinds import figures, load_kinds, reference
from ..services.household.larder import household, season
from ..services.needs.chains import season_room
from ..services.today import jobs
from ..services.trials import trial_acts as trials_acts
from . import scene
from .mill import TZ, YEARS, Pellwick, ignore, last_summer

EVENING_DAYS = 18


def plan_tests(mill: Pellwick, start_s: int) -> None:
    """About sixty tests, each winter's evenings; four still on the bench today."""
    names = [k for k in scene.LOTS if k.seeds >= 60]
    for winter in range(YEARS):
        base = mill.end_s - (YEARS - 1 - winter) * 365.25 * DAY_S - 280 * DAY_S
        evenings: dict[float, dict[str, scene.Kept]] = {}
        for _ in range(19):
            kept = names[int(mill.rng.integers(len(names)))]
            when = base + EVENING_DAYS * float(mill.rng.integers(4)) * DAY_S
            evenings.setdefault(when, {})[kept.variety] = kept
        if winter == YEARS - 1:  # sweet corn forgotten in the hot greenhouse: they wanted to know
            evenings.setdefault(base, {})["Gossamer"] = next(
                k for k in names if k.variety == "Gossamer"
            )
        for when, some in evenings.items():
            mill.at(when, _evening(mill, list(some.values()), when, True))
    for kept, ago in zip(names[3:40:9], (9.0, 6.0, 4.0, 2.0), strict=False):
        when = mill.end_s - ago * DAY_S
        mill.at(when, _evening(mill, [kept], when, False))


def _evening(
    mill: Pellwick, some: list[scene.Kept], when: float, finish: bool
) -> Callable[[], None]:
    """Tests begun together on one evening, and their counts."""

    def start() -> None:
        there = [(kept, mill.lots[kept.variety]) for kept in some if kept.variety in mill.lots]
        if not there:
            return
        sizes = [int(n) for n in mill.rng.choice([8, 10, 10, 12, 20], size=len(there))]
        bring_up_to_date(mill.larder, [lot for _, lot in there])
        steps = [
            step(trials_acts.start_one, lot, n) for (_, lot), n in zip(there, sizes, strict=True)
        ]
        made = together(mill.larder, mill.ref(), "test_lots", steps).made
        for (kept, lot), n, trial in zip(there, sizes, made, strict=True):
            _counts(mill, kept, lot, n, int(trial["trial_id"]), when, finish)

    return start


def _counts(
    mill: Pellwick, kept: scene.Kept, lot: int, n: int, trial: int, when: float, finish: bool
) -> None:
    """What is counted of a test, by the truth that nobody knows."""
    alive = int(mill.rng.binomial(n, _true_germination(mill, kept, lot)))
    crop = reference().crops[kept.kind]
    days = [crop.first_count_days, (crop.first_count_days + crop.final_count_days) / 2]
    days.append(crop.final_count_days + 1)
    up_at = np.sort(mill.rng.random(alive))
    for day in days:
        at = when + day * DAY_S
        last = day == days[-1]
        share = float(
            time_course(day, crop.first_count_days, crop.final_count_days, figures().trials)
        )
        up = alive if last else int((up_at < share).sum())
        mouldy = min(n - alive, 1 if last and n - alive > 2 else 0)
        if not finish and at > mill.end_s - 3 * 3600:
            continue

        def enter(up: int = up, mouldy: int = mouldy, last: bool = last) -> None:
            entry = trials_acts.CountEntry(normal=up, mouldy=mouldy)
            trials_acts.count_trial(mill.larder, mill.ref(), trial, entry, last and finish)

        mill.at(at, enter)


def _true_germination(mill: Pellwick, kept: scene.Kept, lot: int) -> float:
    """Germination of the hidden truth: its own Ki and d, on the ageing recorded so far."""
    with mill.larder.store.read() as session:
        a = session.exec(
            select(DMonth.a_probit)
            .join(Part, col(DMonth.part_id) == Part.id)
            .where(Part.lot_id == lot)
            .order_by(col(DMonth.month_s).desc())
        ).first()
        living = load_kinds(session).get(kept.kind).living
    ki, d = mill.truth[kept.variety]
    return float(living * ndtr(ki - (a or 0.0) * 10**-d))


def plan_sowings(mill: Pellwick) -> None:
    """Last spring's sowings, settled, and one of this autumn that is not yet up."""
    spring = last_summer(mill.end_s, 4, 20)
    for variety, n, share in (
        ("Millrace", 60, 0.8),
        ("Ember Root", 400, 0.55),
        ("Little Ember", 24, 0.85),
        ("Stone Sentry", 40, 0.8),
        ("Darkwater", 120, 0.3),  # a cold wet bed: no fault of its seed
    ):

        def do(variety: str = variety, n: int = n, share: float = share) -> None:
            lot = mill.lots.get(variety)
            if lot is None:
                return
            made = sowings.sow(mill.larder, mill.ref(), lot, n, "outdoors")
            sowing = made.sowing_id
            mill.at(
                mill.clock.at_s + 30 * DAY_S,
                lambda: ignore(
                    sowings.count_sowing(mill.larder, mill.ref(), sowing, round(n * share), True)
                ),
            )

        mill.at(spring, do)
    now = local_day(mill.end_s, TZ)
    for variety, n, ago, setting in LATELY[(now.month - 1) // 3]:

        def lately(variety: str = variety, n: int = n, setting: str = setting) -> None:
            lot = mill.lots.get(variety)
            if lot is not None:
                sowings.sow(mill.larder, mill.ref(), lot, n, setting)

        mill.at(mill.end_s - ago * DAY_S, lately)


# by quarter of the year: variety, seeds, days ago, where; not yet up
LATELY = (
    (("Weirside", 20, 24.0, "indoors"), ("Winter Pillar", 40, 9.0, "indoors")),
    (("Valley Amber", 200, 22.0, "outdoors"), ("Lantern Frill", 40, 5.0, "outdoors")),
    (("Half Moon", 60, 9.0, "outdoors"), ("Winter Lamb", 40, 4.0, "outdoors")),
    (("Weirside", 30, 26.0, "outdoors"), ("Millrace", 25, 9.0, "outdoors")),
)


def sow_the_lines(mill: Pellwick) -> None:
    """Lines that the plan has for this year, and whose sowing has begun, are sown already but for one in
    four."""
    larder = mill.larder
    today = local_day(mill.end_s, TZ)
    lots = {x.lot_id: x for x in lot_lines(larder)}
    plan = sowings.growing_room(larder).regrow
    with larder.store.read() as session:
        kinds, house = load_kinds(session), household(session)
    for i, r in enumerate(r for r in plan if r.year == today.year and r.lot_ids[0] in lots):
        one = lots[r.lot_ids[0]]
        window = window_in(kinds.get(one.kind), today.year, house)
        if window is None or window.first > today - timedelta(days=6) or i % 4 == 3:
            continue
        n = min(3 * r.mothers, int(0.7 * (one.seeds or 0)))
        if n < 1:
            continue
        on = (window.first + timedelta(days=2)).isoformat()
        with doing(larder, mill.ref(), "sow") as a:
            sowings.sow_seed(
                a, one.lot_id, n, window.setting, on=on, meant_for=f"{LINE}{r.variety_id}"
            )


def sow_the_season(mill: Pellwick) -> None:
    """What the household's foods ask for and whose sowing has begun this year is sown already, but for a few:
    a year is never wholly kept up with."""
    larder = mill.larder
    room = season_room(larder)
    lots = {x.lot_id: x for x in lot_lines(larder)}
    with larder.store.read() as session:
        kinds, house = load_kinds(session), household(session)
        today = local_day(mill.end_s, house.tz)
        begins = season(house, room.year)[0]
    used: Counter[int] = Counter()

    def left(one: LotLine) -> float:
        return (one.seeds or 0) - used[one.lot_id]

    for i, x in enumerate(x for x in room.lines if x.plants):
        kind = kinds.get(x.crop)
        opened = [
            w
            for year in (begins.year, begins.year + 1)
            for w in windows_of(kind, year, house)
            if begins <= w.first < today - timedelta(days=6)
        ]
        mine = [
            y for y in lots.values()
            if y.lot_id == (x.pick_lot_id or y.lot_id)
            and y.kind == x.crop
            and y.verdict.may_sow
            and y.intended_use == "seed"
            and y.seeds
        ]  # fmt: skip
        if not opened or not mine or i % 6 == 5:
            continue
        window = opened[0]
        best = max(mine, key=lambda y: (left(y)) * y.glance.now.mid)
        n = min(int(1.7 * (x.plants or 0)), int(0.6 * left(best)))
        if n < 1:
            continue
        used[best.lot_id] += n
        on = window.first + timedelta(days=3)
        with doing(larder, mill.ref(), "sow") as a:
            made = sowings.sow_seed(
                a, best.lot_id, n, window.setting, on=on.isoformat(), meant_for=x.key
            )
        counted = on + timedelta(days=30)
        if counted < today:
            up = int(mill.rng.binomial(n, 0.75 * best.glance.now.mid))
            sowings.count_sowing(
                larder, mill.ref(), made.sowing_id, up, True, on=counted.isoformat()
            )


def hear_what_is_over(mill: Pellwick) -> None:
    """The word that a sowing is over was heard where it is some weeks old."""
    room = jobs.today_room(mill.larder)
    old = [
        p.origin_key
        for p in (*room.jobs, *room.later)
        if p.kind == "missed" and (p.due_s or 0.0) < mill.end_s - 28 * DAY_S
    ]
    if old:
        jobs.set_jobs(mill.larder, mill.ref(), old, "done")
