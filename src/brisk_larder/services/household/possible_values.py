"""Checks that several rooms share: what is possible, said in words."""

from __future__ import annotations

from typing import TypeVar

from sqlmodel import Session, SQLModel

from ...core.base.errors import InvalidValue, NotFound
from ...core.base.units import DAY_S, YEAR_S, c_from_f, day_start_s, local_day
from ...core.hand.writing import read_day, way_of
from ...data.tables import Household
from .kinds import called, reference
from .larder import is_live, writing_of

M = TypeVar("M", bound=SQLModel)
EARLIEST_YEAR = 1990


def get_live(session: Session, model: type[M], row_id: int, what: str) -> M:
    """A live row by id. Raises NotFound with ``what`` in its message."""
    row = session.get(model, row_id)
    if row is None or not is_live(row):
        raise NotFound(f"There is no {what} number {row_id} (or it was taken away)")
    return row


def within_records(field: str, at_s: float, now_s: float, home: Household) -> None:
    """Raises InvalidValue for a time after now (a minute's grace for clocks) or before 1990, where
    the records begin."""
    if at_s > now_s + 60:
        far = at_s > now_s + 1000 * YEAR_S  # beyond what a calendar holds
        given = round(at_s) if far else local_day(at_s, home.tz).isoformat()
        raise InvalidValue(field, given, f"today ({local_day(now_s, home.tz)}) or earlier")
    if at_s < (EARLIEST_YEAR - 1970) * 365.25 * DAY_S:
        raise InvalidValue(field, round(at_s), f"{EARLIEST_YEAR} or later")


def moment_on(on: str, at_s: int | None, home: Household, now_s: int) -> int:
    """When something happened: ``on`` as people say a day (empty: ``at_s``, else now), epoch s. Of a past
    day its noon, for nobody notes the hour.

    Raises InvalidValue for a day that there is not, still to come, or before the records begin.
    """
    if not on.strip():
        when = now_s if at_s is None else at_s
    else:
        today = local_day(now_s, home.tz)
        day = read_day(on, today, way_of(home.locale))
        when = now_s if day == today else day_start_s(day, home.tz) + DAY_S // 2
    within_records("day", when, now_s, home)
    return when


def temperature_limits_c(place_kind: str) -> tuple[float, float]:
    """Lowest and highest air temperature that such a place can have, degC."""
    place = reference().places[place_kind]
    return place.lowest_possible_c, place.highest_possible_c


def temperature_possible(value_c: float, place_kind: str, home: Household, field: str) -> None:
    """Raises InvalidValue for a temperature that such a place cannot have."""
    low, high = temperature_limits_c(place_kind)
    if low <= value_c <= high:
        return
    place = called(place_kind)
    w = writing_of(home)
    allowed = f"{w.degrees(low):g} to {w.degrees(high):g} {w.degree} in a place like this ({place})"
    raise InvalidValue(field, round(w.degrees(value_c), 1), allowed)


def erh_possible(value: float, field: str = "humidity") -> None:
    """Raises InvalidValue unless a fraction lies in 0.01-1.00 (1 to 100 %)."""
    if not 0.01 <= value <= 1.0:
        raise InvalidValue(field, f"{100 * value:g} %", "1 to 100 %")


def to_c(value: float, home: Household) -> float:
    """degC from the household's unit."""
    return c_from_f(value) if home.temperature_unit == "F" else value


def whole(field: str, value: int, low: int, high: int) -> None:
    """Raises InvalidValue unless low <= value <= high."""
    if not low <= value <= high:
        raise InvalidValue(field, value, f"{low} to {high}")


def share(field: str, value: float) -> None:
    """Raises InvalidValue unless 0 <= value <= 1."""
    if not 0 <= value <= 1:
        raise InvalidValue(field, value, "a share between 0 and 1 (0 to 100 %)")
