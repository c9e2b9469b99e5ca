"""When the household sows a kind by its own experience, instead of the book's weeks from the frost."""

from __future__ import annotations

import re
from datetime import date

from ...core.base.errors import InvalidValue, NotFound
from ...data.queries import live
from ...data.tables import OwnWindow
from ..acts.acting import Doing, Done, act

SETTINGS = ("indoors", "outdoors")
LEAP = 2024  # a day of the year is told as in a leap year, so that 29 February has one


def day_of_year(name: str, said: str) -> int:
    """The day of the year of "05-20". Raises InvalidValue."""
    if re.fullmatch(r"\d\d-\d\d", said):
        try:
            day = date.fromisoformat(f"{LEAP}-{said}").timetuple().tm_yday
        except ValueError:
            day = 0
        if day:
            # March and later count as in a year without the 29th of February
            return day - 1 if day > 60 else day
    raise InvalidValue(name, said, "month and day, such as 05-20")


@act("own_days")
def set_days(a: Doing, crop: str, setting: str, first: str, last: str, note: str = "") -> Done:
    """Say from when to when a kind is sown here (month-day); a last day before the first runs into the next
    year. Raises InvalidValue."""
    if crop not in a.kinds.by_key:
        raise InvalidValue("kind", crop, "a kind of the table or one of your own")
    if setting not in SETTINGS:
        raise InvalidValue("where", setting, " or ".join(SETTINGS))
    row = _row(a, crop, setting) or OwnWindow(crop=crop, setting=setting, first_day=1, last_day=1)
    row.first_day, row.last_day = day_of_year("first day", first), day_of_year("last day", last)
    row.note = note.strip()
    a.session.add(row)
    a.about(f"crop:{crop}")
    a.summary = f"{a.kinds.get(crop).name} is sown {setting} {first} to {last} here"
    return Done()


@act("book_days")
def back_to_the_book(a: Doing, crop: str, setting: str) -> Done:
    """Sow a kind by the book's days again."""
    row = _row(a, crop, setting)
    if row is None:
        raise NotFound(f"No days of your own are said for this kind {setting}")
    row.deleted_s = a.now_s
    a.about(f"crop:{crop}")
    a.summary = f"{a.kinds.get(crop).name}: sown {setting} by the book again"
    return Done()


def _row(a: Doing, crop: str, setting: str) -> OwnWindow | None:
    mine = live(OwnWindow).where(OwnWindow.crop == crop, OwnWindow.setting == setting)
    return a.session.exec(mine).first()
