"""Nights that are forecast, as they were brought in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlmodel import col

from ...core.growing.frost_watch import Night as Forecast
from ...data.queries import live
from ...data.tables import ForecastNight
from ..air.look import Look


@dataclass(frozen=True)
class Night:
    """A night that is forecast: the morning's day, lowest temperature (degC) and its doubt (sd); when it was
    forecast."""

    day: str
    low_c: float
    sd_c: float
    made_s: int


def nights_ahead(v: Look) -> list[Night]:
    """Nights from today on, in order."""
    rows = v.session.exec(
        live(ForecastNight)
        .where(col(ForecastNight.day) >= v.today.isoformat())
        .order_by(col(ForecastNight.day))
    )
    return [Night(n.day, n.low_c, n.low_sd_c, n.made_s) for n in rows]


def as_forecast(nights: list[Night]) -> list[Forecast]:
    """The same for the rules."""
    return [Forecast(date.fromisoformat(n.day), n.low_c, n.sd_c) for n in nights]
