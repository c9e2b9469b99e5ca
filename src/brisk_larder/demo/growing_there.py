"""Tests and sowings at Pellwick Mill, and how its seed really does."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.special import ndtr
from sqlmodel import col, select

from ..core.trials import time_course
from ..core.units import DAY_S
from ..data.tables import DMonth, Part
from ..services.growing import sowings
from ..services.household.kinds import figures, load_kinds, reference
from ..services.trials import acts as trials_acts
from . import scene
from .mill import YEARS, Pellwick, ignore, last_summer


def plan_tests(mill: Pellwick, start_s: int) -> None:
    """About sixty tests, each winter's evenings; four still on the bench today."""
    names = [k for k in scene.LOTS if k.seeds >= 60]
    for season in range(YEARS):
        base = mill.end_s - (YEARS - 1 - season) * 365.25 * DAY_S - 280 * DAY_S
        for _ in range(19):
            kept = names[int(mill.rng.integers(len(names)))]
            when = base + float(mill.rng.uniform(0, 70)) * DAY_S
            mill.at(when, _test(mill, kept, when, True))
    for kept, ago in zip(names[3:40:9], (9.0, 6.0, 4.0, 2.0), strict=False):
        when = mill.end_s - ago * DAY_S
        mill.at(when, _test(mill, kept, when, False))


def _test(mill: Pellwick, kept: scene.Kept, when: float, finish: bool) -> Callable[[], None]:
    def start() -> None:
        lot = mill.lots.get(kept.variety)
        if lot is None:
            return
        n = int(mill.rng.choice([8, 10, 10, 12, 20]))
        made = trials_acts.start_trial(mill.larder, mill.ref(), lot, n)
        trial = made.trial_id
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

    return start


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
    for variety, n, ago in (("Weirside", 30, 26.0), ("Millrace", 25, 9.0)):

        def autumn(variety: str = variety, n: int = n) -> None:
            lot = mill.lots.get(variety)
            if lot is not None:
                sowings.sow(mill.larder, mill.ref(), lot, n, "outdoors")

        mill.at(mill.end_s - ago * DAY_S, autumn)
