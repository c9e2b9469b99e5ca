"""A forecast of nights brought in, and sowings outdoors moved off frost."""

from __future__ import annotations

from datetime import date

from ...core.growing.frost_watch import off_frost
from ...core.growing.growing_year import tender
from ...data.queries import live
from ...data.tables import ForecastNight
from ...formats.nights_json import read_nights
from ..acts.acting import Doing, Done, act
from ..air.look import Look
from ..forecast.nights import as_forecast, nights_ahead
from ..forecast.sowing import windows_of
from ..household.kinds import Kind, figures
from ..household.wording import date_words, many, percent, temperature_here


@act("forecast")
def bring_forecast(a: Doing, data: bytes) -> Done:
    """Take in a forecast (JSON): its nights stand instead of what was forecast before for the same days.

    Raises BadFile, and nothing is taken in.
    """
    told = read_nights(data)
    rows = {n.day: n for n in a.session.exec(live(ForecastNight))}
    for night in told.nights:
        day = night.day.isoformat()
        row = rows.get(day) or ForecastNight(day=day, low_c=0.0, low_sd_c=0.0, made_s=0)
        if row.made_s > told.made_s:
            continue  # a newer forecast knows more
        row.low_c, row.low_sd_c, row.made_s = night.low_c, night.sd_c, told.made_s
        a.session.add(row)
    a.about("forecast")
    a.summary = f"Brought in a forecast of {many(len(told.nights), 'night')}"
    return Done()


def moved_off_frost(kind: Kind, day: date, v: Look) -> tuple[date, str]:
    """The day to sow a kind outdoors by the forecast, and what moved it (empty: nothing)."""
    f = figures().calendar
    ends = (w.closes(f) for w in windows_of(kind, day.year, v.home) if w.first <= day)
    last = max(ends, default=day)
    soft = tender(kind.crop.sow_outdoors_weeks_rel_last_frost, kind.season == "warm")
    found = off_frost(day, last, as_forecast(nights_ahead(v)), soft, figures().frost)
    if found is None:
        return day, ""
    nights = ", ".join(f"{date_words(d)} ({percent(chance)})" for d, chance in found.nights[:3])
    harm = figures().frost.tender_c if soft else figures().frost.hardy_c
    return found.day, (
        f"Not before {date_words(found.day)}: nights below {temperature_here(harm)} are forecast for "
        f"{nights}."
    )
