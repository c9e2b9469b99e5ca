"""Units at the edges: inside all is SI (degC, fractions, grams, epoch seconds UTC)."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from .errors import InvalidValue

DAY_S = 86_400
YEAR_DAYS = 365.25
LONGEST_ZONE = 64
YEAR_S = DAY_S * YEAR_DAYS
Z80 = 1.2816  # half width of an 80 % interval in sd
GRAMS = {"g": 1.0, "kg": 1000.0, "mg": 0.001, "oz": 28.349523125, "lb": 453.59237}


def c_from_f(temperature_f: float) -> float:
    """Degrees Celsius from Fahrenheit (exact definition)."""
    return (temperature_f - 32.0) / 1.8


def f_from_c(temperature_c: float) -> float:
    """Degrees Fahrenheit from Celsius (exact definition)."""
    return temperature_c * 1.8 + 32.0


def grams(value: float, unit: str) -> float:
    """Grams from a mass in g, kg, mg, oz or lb. Raises InvalidValue for another unit."""
    key = unit.strip().lower()
    if key not in GRAMS:
        raise InvalidValue("unit", unit, f"a mass is given in {', '.join(GRAMS)}")
    return value * GRAMS[key]


def zone(tz: str) -> ZoneInfo:
    """The time zone of that name. Raises InvalidValue when it is not known."""
    try:
        if len(tz) > LONGEST_ZONE:
            raise ValueError(tz)
        return ZoneInfo(tz)
    except (KeyError, ValueError, OSError) as error:  # OSError: the name of a folder of zones
        raise InvalidValue("time zone", tz[:60], "a name such as Europe/Lisbon or UTC") from error


def day_start_s(day: date, tz: str) -> int:
    """Epoch seconds at which the household's local day begins."""
    return int(datetime(day.year, day.month, day.day, tzinfo=zone(tz)).timestamp())


def local_day(at_s: float, tz: str) -> date:
    """The household's local day of an instant in epoch seconds."""
    return datetime.fromtimestamp(at_s, zone(tz)).date()


def utc_day_start_s(at_s: float) -> int:
    """Epoch seconds at 00:00 UTC of the day of ``at_s``: the global panel grid."""
    return int(at_s // DAY_S) * DAY_S


def month_start_s(at_s: float) -> int:
    """Epoch seconds at 00:00 UTC on the first of the month of ``at_s``."""
    moment = datetime.fromtimestamp(at_s, UTC)
    return int(datetime(moment.year, moment.month, 1, tzinfo=UTC).timestamp())


def next_month_s(month_s: float) -> int:
    """Epoch seconds at the start of the following UTC month."""
    moment = datetime.fromtimestamp(month_s, UTC)
    year, month = (moment.year + 1, 1) if moment.month == 12 else (moment.year, moment.month + 1)
    return int(datetime(year, month, 1, tzinfo=UTC).timestamp())


def day_of_year(at_s: float) -> float:
    """Day of the year (1 = 1 January UTC) with its fraction."""
    moment = datetime.fromtimestamp(at_s, UTC)
    return (moment - datetime(moment.year, 1, 1, tzinfo=UTC)) / timedelta(days=1) + 1.0
