"""What a place does to seed: whether it costs too much, and when a reading there is odd."""

from __future__ import annotations

from math import hypot
from typing import NamedTuple

import numpy as np

from ..base.figures import Figures, MoistureFigures, PlacesFigures
from .moisture import Floats


def hurting(
    lots: int, speed: float, speed_today: float, erh_today: float, figures: Figures
) -> bool:
    """Whether a place costs its seed too much: over the year, today, or by its damp. ``speed``: ageing
    against a steady bedroom. Where no seed lies nothing is hurt."""
    f = figures.places
    return lots > 0 and (
        speed > f.hurting_speed
        or speed_today > f.hurting_speed_today
        or erh_today >= figures.moisture.wet_from_erh
    )


def speed_code(speed: float, speed_today: float, f: PlacesFigures) -> str:
    """How fast seed ages there: today (a bad day), faster, alike or slower than in a bedroom."""
    if speed_today > f.hurting_speed_today and speed_today > 2 * speed:
        return "today"
    if speed >= f.like_a_bedroom_below_speed:
        return "faster"
    return "alike" if speed >= f.like_a_bedroom_from_speed else "slower"


def dryness(erh: float, f: MoistureFigures) -> str:
    """The word for an eRH at room temperature."""
    limits = (
        (f.crisp_below_erh, "crisp"),
        (f.dry_below_erh, "dry"),
        (f.middling_below_erh, "middling"),
        (f.wet_from_erh, "damp"),
    )
    return next((word for limit, word in limits if erh < limit), "wet")


class Expected(NamedTuple):
    """Ranges outside which a reading is asked about: degC, fractions."""

    low_c: float
    high_c: float
    low_erh: float
    high_erh: float


def expected(
    temperature_c: float,
    swing_sd_c: float,
    sd_c: float,
    erh: float,
    sd_erh: float,
    f: PlacesFigures,
) -> Expected:
    """What would be read there now, with its doubt; never so narrow that a plain reading is odd."""
    by_c = max(f.odd_reading_least_c, f.odd_reading_sds * hypot(swing_sd_c, sd_c))
    by_erh = max(f.odd_reading_least_erh, f.odd_reading_sds * sd_erh)
    return Expected(
        temperature_c - by_c, temperature_c + by_c, max(0.0, erh - by_erh), min(1.0, erh + by_erh)
    )


def spikes(temperature_c: Floats, f: PlacesFigures) -> int:
    """Single readings far off both their neighbours to the same side: how many."""
    if len(temperature_c) < 3:
        return 0
    before = temperature_c[1:-1] - temperature_c[:-2]
    after = temperature_c[1:-1] - temperature_c[2:]
    far = (np.abs(before) > f.spike_c) & (np.abs(after) > f.spike_c)
    return int((far & (before * after > 0)).sum())


class Precautions(NamedTuple):
    """What is to be heeded before seed is put somewhere: codes, the worst first."""

    codes: list[str]
    erh25: float


def precautions(
    dampest_erh25: float, cold: bool, sealed: bool, coloured_gel: bool, f: MoistureFigures
) -> Precautions:
    """Moisture precautions for the dampest seed: dry_before_freezing, would_mould, drier_better,
    close_tight, wait_before_opening, coloured_gel."""
    said = {
        "dry_before_freezing": cold and dampest_erh25 > f.freeze_at_or_below_erh25,
        "would_mould": sealed and dampest_erh25 > f.never_seal_above_erh25,
        "drier_better": sealed
        and f.seal_at_or_below_erh25 < dampest_erh25 <= f.never_seal_above_erh25,
        "close_tight": cold and not sealed,
        "wait_before_opening": cold,
        "coloured_gel": coloured_gel,
    }
    return Precautions([code for code, applies in said.items() if applies], dampest_erh25)


def may(erh25: float, yes: float, never: float) -> str:
    """Whether seed so dry may be sealed or frozen: yes, no (it would spoil) or better_not_yet."""
    if erh25 <= yes:
        return "yes"
    return "no" if erh25 > never else "better_not_yet"


def cracks(legume: bool, moisture_pct: float, f: MoistureFigures) -> bool:
    """Whether beans and peas are so dry that they crack when they take up water."""
    return legume and moisture_pct < f.legume_overdry_pct
