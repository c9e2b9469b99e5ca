"""A simulated weather service: the nights of the next days, as one would send them."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime, timedelta

import numpy as np


def forecast_json(
    today: date, last_frost: date, last_frost_sd_days: float, seed: int, nights: int = 10
) -> str:
    """Nights from tomorrow on. The usual low rises so that frost (0 degC) is as likely as not on the last
    frost day; weather comes and goes over some days, and the doubt grows with the days ahead. Seeded: the
    same arguments give the same forecast."""
    rng = np.random.default_rng(seed)
    spread = 3.2  # degC, of the nights around what is usual at the season
    slope = spread / max(last_frost_sd_days, 1.0)
    away, out = float(rng.normal(0.0, spread)), []
    for ahead in range(1, nights + 1):
        day = today + timedelta(days=ahead)
        usual = float(np.clip((day - last_frost).days * slope, -12.0, 12.0)) + spread
        away = 0.7 * away + float(rng.normal(0.0, spread * (1 - 0.7**2) ** 0.5))
        out.append({
            "day": day.isoformat(),
            "low_c": round(usual + away, 1),
            "sd_c": round(0.8 + 0.25 * ahead, 1),
        })  # fmt: skip
    made = datetime(today.year, today.month, today.day, 6, tzinfo=UTC)
    return json.dumps({"made": made.isoformat(), "nights": out}, indent=1)
