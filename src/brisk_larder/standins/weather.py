"""A simulated weather service: the nights of the next days, as one would send them."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime, timedelta

import numpy as np


def forecast_json(today: date, last_frost: date, seed: int, nights: int = 10) -> str:
    """Nights from tomorrow on. The usual low goes with the year and stands one spread above frost (0 degC) on
    the last frost day; weather comes and goes over some days, and the doubt grows with the days ahead.
    Seeded: the same arguments give the same forecast."""
    rng = np.random.default_rng(seed)
    spread = 3.2  # degC, of the nights around what is usual at the season
    winter = 20 if last_frost.timetuple().tm_yday < 200 else 202  # the coldest day of the year
    away, out = float(rng.normal(0.0, spread)), []
    for ahead in range(1, nights + 1):
        day = today + timedelta(days=ahead)
        usual = spread + _of_the_year(day, winter) - _of_the_year(last_frost, winter)
        away = 0.7 * away + float(rng.normal(0.0, spread * (1 - 0.7**2) ** 0.5))
        out.append({
            "day": day.isoformat(),
            "low_c": round(usual + away, 1),
            "sd_c": round(0.8 + 0.25 * ahead, 1),
        })  # fmt: skip
    made = datetime(today.year, today.month, today.day, 6, tzinfo=UTC)
    return json.dumps({"made": made.isoformat(), "nights": out}, indent=1)


def _of_the_year(day: date, winter: int) -> float:
    """How warm nights are at a season, around the mean of the year (degC)."""
    return -9.0 * float(np.cos(2 * np.pi * (day.timetuple().tm_yday - winter) / 365.25))
