"""When a kind is next sown, and what one of its seeds is worth then."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from ...core.base.units import day_start_s, local_day
from ...core.growing.growing_year import Frosts, growing_year, late_by, tender
from ...core.growing.windows import (
    Climate,
    Sown,
    Window,
    last_day_to_sow,
    last_missed,
    next_sowing_s,
    sowing_windows,
)
from ...core.hand.seed_count import Seeds
from ...core.seed.plants import Seed
from ...core.seed.worlds import amount
from ...core.storage.moisture import Floats
from ...data.tables import Household
from ..household.kinds import Kind, figures
from ..household.larder import season
from .emergence import emergence_of
from .outlook import Outlook


def climate_of(home: Household) -> Climate:
    """What sowing hangs on where this household lives."""
    # another hand may have written what is no month: no room stops for it, and papers.mending sets it right
    said = [int(m) for m in home.sow_months.split(",") if m.isdecimal()]
    months = tuple(m for m in said if 1 <= m <= 12)
    return Climate(home.hemisphere, home.tz, home.last_frost_day, bool(home.frost_free), months)


def _day(year: int, day_of_year: int) -> date:
    return date(year, 1, 1) + timedelta(days=day_of_year - 1)


def frosts_of(home: Household, year: int) -> Frosts:
    """The last frost of a year and the first that follows it (in the south in the next year); none where
    there is none or where they are not known."""
    if home.frost_free:
        return Frosts(None, home.last_frost_sd_days, None, home.first_frost_sd_days)
    last = None if home.last_frost_day is None else _day(year, home.last_frost_day)
    first = None if home.first_frost_day is None else _day(year, home.first_frost_day)
    if last is not None and first is not None and first < last:
        first = _day(year + 1, home.first_frost_day or 1)
    return Frosts(last, home.last_frost_sd_days, first, home.first_frost_sd_days)


def windows_of(kind: Kind, year: int, home: Household) -> list[Window]:
    """The spring windows of a kind in a calendar year, or those of the household's months."""
    crop = kind.crop
    return sowing_windows(
        year,
        climate_of(home),
        crop.sow_indoors_weeks_before_last_frost,
        crop.sow_outdoors_weeks_rel_last_frost,
        figures().calendar,
        kind.own_days,
    )


def window_in(kind: Kind, year: int, home: Household) -> Window | None:
    """The first window of a kind in a calendar year."""
    return min(windows_of(kind, year, home), key=lambda w: w.first, default=None)


def sowing_of(kind: Kind, day: date, home: Household) -> Sown | None:
    """Next sowing of a kind from a day on; None: no window known."""
    crop = kind.crop
    found = next_sowing_s(
        day,
        climate_of(home),
        crop.sow_indoors_weeks_before_last_frost,
        crop.sow_outdoors_weeks_rel_last_frost,
        figures().calendar,
        kind.own_days,
    )
    return found if found is None or kind.known else found._replace(guessed=True)


def sowing_in(kind: Kind, day: date, home: Household, year: int) -> Sown | None:
    """The next sowing of a kind from a day on that lies within a household year; None: none is left in it, or
    no window is known."""
    begins, ends = season(home, year)
    found = sowing_of(kind, max(day, begins), home)
    return found if found is not None and local_day(found.at_s, home.tz) < ends else None


def last_day_in(kind: Kind, day: date, home: Household, year: int) -> date | None:
    """The last day of a household year on which a kind can still be sown, in whichever of its windows; None:
    none is left from a day on."""
    ends = season(home, year)[1]
    near = [w for y in range(ends.year - 2, ends.year + 1) for w in windows_of(kind, y, home)]
    return last_day_to_sow(near, day, ends, figures().calendar)


def reckoned_s(sown: Sown, day: date, home: Household) -> float:
    """When the seed of a sowing is reckoned as sown (epoch s), seen from a day."""
    step = figures().calendar.reckoned_step_days
    return float(day_start_s(sown.reckoned(day, step), home.tz))


def missed_in(kind: Kind, day: date, home: Household, year: int) -> Window | None:
    """The last window of a kind in a household year when all of them are over on a day; None: one is still to
    come, or there was none."""
    begins, ends = season(home, year)
    if sowing_in(kind, day, home, year) is not None:
        return None
    near = [w for y in range(begins.year - 1, ends.year + 1) for w in windows_of(kind, y, home)]
    return last_missed(near, day, begins, ends, figures().calendar)


def last_useful(kind: Kind, home: Household, year: int) -> date | None:
    """The last day of a year on which sowing a kind outdoors still pays; None: no frost ends it."""
    found = growing_year(
        windows_of(kind, year, home),
        (kind.crop.days_to_maturity.low, kind.crop.days_to_maturity.high),
        tender(kind.crop.sow_outdoors_weeks_rel_last_frost, kind.season == "warm"),
        frosts_of(home, year),
    )
    return found.last_useful


def late_until(kind: Kind, missed: Window, home: Household) -> date | None:
    """Until when a kind whose windows are over can still be sown, late as it is, and ripen by the first
    frost; None: no frost is known, or it could not. What is begun indoors is grown on as usual first."""
    weeks = kind.crop.sow_indoors_weeks_before_last_frost
    inside = weeks.low if missed.setting == "indoors" and weeks is not None else 0.0
    return late_by(last_useful(kind, home, missed.last.year), inside, missed.last)


def seed_of(look: Outlook, i: int, at_s: float, setting: str | None) -> Seed:
    """What one seed of row i, sown at a time, is worth."""
    g = look.g_at(i, np.array([at_s]))[0]
    return Seed(g, emergence_of(look.rows[i].kind, setting))


def in_worlds(lot_id: int, seeds: Seeds) -> Floats:
    """Seeds in a lot in each world [S]."""
    return amount(f"seeds:{lot_id}", seeds.mean, seeds.sd)
