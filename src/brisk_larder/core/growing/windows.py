"""When a crop is sown, from the household's frost dates."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal, NamedTuple

from ..base.figures import CalendarFigures
from ..base.units import day_start_s

Setting = Literal["indoors", "outdoors"]


@dataclass(frozen=True)
class Window:
    """First and last day to sow, and where; ``guessed`` when the frost dates are not known."""

    first: date
    last: date
    setting: Setting
    guessed: bool

    def closes(self, f: CalendarFigures) -> date:
        """The last day on which a sowing is begun in it: after that too little of its own length is left.
        What is open all the year never closes."""
        length = (self.last - self.first).days
        if length >= f.window_all_year_days:
            return self.last
        return self.last - timedelta(days=int(f.window_over_share * length))

    def last_days(self, f: CalendarFigures) -> date:
        """From when on its last days run: the end of it is to be told before."""
        length = (self.closes(f) - self.first).days
        share = min(f.last_days_most, max(f.last_days_least, round(f.last_days_share * length)))
        return max(self.first, self.closes(f) - timedelta(days=share - 1))


def _day(year: int, day_of_year: int) -> date:
    return date(year, 1, 1) + timedelta(days=day_of_year - 1)


@dataclass(frozen=True)
class Climate:
    """What sowing hangs on where the household lives: the last frost as a day of the year, None when it is
    not known; without frost the months in which it is sown there (the rains), none when nobody said."""

    hemisphere: str
    tz: str
    last_frost_day: int | None
    frost_free: bool = False
    sow_months: tuple[int, ...] = ()


@dataclass(frozen=True)
class OwnDays:
    """When a household sows a kind by its own experience: days of the year; a last day before the first runs
    into the next year."""

    setting: Setting
    first_day: int
    last_day: int

    def window(self, year: int) -> Window:
        """The window that begins in a year."""
        over = self.last_day < self.first_day
        return Window(
            _day(year, self.first_day), _day(year + over, self.last_day), self.setting, False
        )


def _seasons(year: int, months: Sequence[int]) -> list[tuple[date, date]]:
    """First and last day of each run of months that begins in a year; December runs on into January."""
    runs = [m for m in sorted(set(months)) if (m - 2) % 12 + 1 not in months]
    out = []
    for first in runs:
        length = next(n for n in range(1, 13) if (first + n - 1) % 12 + 1 not in months)
        start = date(year, first, 1)
        out.append((start, month_ahead(start, length) - timedelta(days=1)))
    return out


def _frostless(
    year: int, months: Sequence[int], indoors: tuple[float, float] | None, outdoors: bool
) -> list[Window]:
    """Windows where no frost divides the year: outdoors in the months that are sown there; what is only
    started indoors so many weeks before them. With no month named any day will do, as a guess."""
    if not (outdoors or indoors):
        return []
    setting: Setting = "outdoors" if outdoors else "indoors"
    if not 0 < len(set(months)) < 12:
        return [Window(date(year, 1, 1), date(year, 12, 31), setting, not months)]
    low, high = (0.0, 0.0) if outdoors or indoors is None else indoors
    return [
        Window(first - timedelta(weeks=high), last - timedelta(weeks=low), setting, False)
        for first, last in _seasons(year, months)
    ]


def sowing_windows(
    year: int,
    here: Climate,
    indoors_weeks_before: tuple[float, float] | None,
    outdoors_weeks_rel: tuple[float, float] | None,
    f: CalendarFigures,
    own: Sequence[OwnDays] = (),
) -> list[Window]:
    """Spring sowing windows of one calendar year, earliest first; without frost those of its months. The
    household's ``own`` days stand instead of the book's in their setting.

    ``indoors_weeks_before``: weeks before the last frost (low, high); ``outdoors_weeks_rel``:
    weeks relative to it, negative before. With no frost date the first of a month stands in,
    marked as guessed.
    """
    if own:
        book = sowing_windows(year, here, indoors_weeks_before, outdoors_weeks_rel, f)
        said = {o.setting for o in own}
        mine = [o.window(year) for o in own]
        kept = [w for w in book if w.setting not in said]
        return sorted([*mine, *kept], key=lambda w: (w.first, w.setting))
    if here.frost_free:
        outdoors = outdoors_weeks_rel is not None
        return _frostless(year, here.sow_months, indoors_weeks_before, outdoors)
    guessed = here.last_frost_day is None
    if here.last_frost_day is None:
        north = here.hemisphere == "north"
        frost = date(year, f.frost_month_north if north else f.frost_month_south, 1)
    else:
        frost = _day(year, here.last_frost_day)
    out = []
    if indoors_weeks_before is not None:
        low, high = indoors_weeks_before
        out.append(
            Window(frost - timedelta(weeks=high), frost - timedelta(weeks=low), "indoors", guessed)
        )
    if outdoors_weeks_rel is not None:
        low, high = outdoors_weeks_rel
        out.append(
            Window(frost + timedelta(weeks=low), frost + timedelta(weeks=high), "outdoors", guessed)
        )
    return sorted(out, key=lambda w: (w.first, w.setting))


def next_sowing(
    today: date, windows_of_year: list[list[Window]], f: CalendarFigures
) -> tuple[date, Window] | None:
    """The next day on which this crop can be sown: today inside a window, else its next start.

    ``windows_of_year``: this calendar year's and the following years' windows. A window of which too
    little is left counts as over. None when there is no window at all.
    """
    for windows in windows_of_year:
        for window in windows:
            if today <= window.closes(f):
                return max(today, window.first), window
    return None


def last_day_to_sow(
    windows: Iterable[Window], day: date, ends: date, f: CalendarFigures
) -> date | None:
    """The last day of a year that ``ends`` (exclusive) on which one of the windows is still sown in; None:
    none is left from a day on."""
    left = [w.closes(f) for w in windows if w.first < ends and w.closes(f) >= day]
    return max(left, default=None)


def last_missed(
    windows: Iterable[Window], day: date, begins: date, ends: date, f: CalendarFigures
) -> Window | None:
    """Of the windows of a year (from ``begins`` until before ``ends``) that are over on a day, the last."""
    over = [w for w in windows if begins <= w.closes(f) < day and w.first < ends]
    return max(over, key=lambda w: w.last, default=None)


OrderState = Literal["in_time", "late", "too_late"]


def order_state(day: date, lead_days: int, opens: date, last: date) -> OrderState:
    """Whether seed ordered on a day, to come ``lead_days`` later, is there before its sowing ``opens``, still
    by its ``last`` day, or for neither."""
    comes = day + timedelta(days=lead_days)
    if comes <= opens:
        return "in_time"
    return "late" if comes <= last else "too_late"


def autumn_window(
    year: int, first_frost_day: int | None, weeks_before: tuple[float, float] | None
) -> Window | None:
    """The autumn sowing of one calendar year: so many weeks (low, high) before the first frost.

    None for a crop without one, or where the first frost is not known.
    """
    if first_frost_day is None or weeks_before is None:
        return None
    frost, (low, high) = _day(year, first_frost_day), weeks_before
    return Window(frost - timedelta(weeks=high), frost - timedelta(weeks=low), "outdoors", False)


def month_ahead(first: date, ahead: int) -> date:
    """The first day of the month so many months after that of ``first``."""
    month = first.month - 1 + ahead
    return date(first.year + month // 12, month % 12 + 1, 1)


def months_open(first: date, windows: Sequence[Window]) -> set[int]:
    """Months of the year from ``first`` on (0: its own) of which some day lies in a window."""
    return {
        i
        for i in range(12)
        for w in windows
        if w.first < month_ahead(first, i + 1) and w.last >= month_ahead(first, i)
    }


def gaps_of(possible: Sequence[int], held: Sequence[int]) -> list[tuple[int, int]]:
    """Runs of months (first, last) in which the book knows kinds to sow and none is in hand."""
    empty = [i for i, (can, has) in enumerate(zip(possible, held, strict=True)) if can and not has]
    runs: list[tuple[int, int]] = []
    for i in empty:
        if runs and runs[-1][1] == i - 1:
            runs[-1] = (runs[-1][0], i)
        else:
            runs.append((i, i))
    return runs


class Sown(NamedTuple):
    """When and where a kind is next sown; ``guessed``: by a stand-in frost date or a stand-in kind;
    ``first`` and ``until``: the days between which it can be, in the window that is meant; ``last_days``: the
    day from which on these run out."""

    at_s: float
    setting: Setting
    guessed: bool
    first: date
    until: date
    last_days: date

    def reckoned(self, today: date, step_days: int) -> date:
        """The day for which seed is reckoned: where the window opens, and once it is open the end of the step
        under way, so that nothing changes from one day to the next."""
        gone = (today - self.first).days
        if gone <= 0:
            return self.first
        ahead = self.first + timedelta(days=step_days * -(-gone // step_days))
        return max(today, min(ahead, self.until))


def next_sowing_s(
    today: date,
    here: Climate,
    indoors: tuple[float, float] | None,
    outdoors: tuple[float, float] | None,
    f: CalendarFigures,
    own: Sequence[OwnDays] = (),
) -> Sown | None:
    """The next sowing from a day on, over last year's, this and next year's windows; None: no window."""
    years = [sowing_windows(today.year + i, here, indoors, outdoors, f, own) for i in (-1, 0, 1)]
    found = next_sowing(today, years, f)
    if found is None:
        return None
    start, window = found
    at_s = float(day_start_s(start, here.tz))
    until, ending = window.closes(f), window.last_days(f)
    return Sown(at_s, window.setting, window.guessed, window.first, until, ending)
