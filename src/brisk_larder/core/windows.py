"""When a crop is sown, from the household's frost dates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

Setting = Literal["indoors", "outdoors"]


@dataclass(frozen=True)
class Window:
    """First and last day to sow, and where; ``guessed`` when the frost dates are not known."""

    first: date
    last: date
    setting: Setting
    guessed: bool


def _day(year: int, day_of_year: int) -> date:
    return date(year, 1, 1) + timedelta(days=day_of_year - 1)


def sowing_windows(
    year: int,
    last_frost_day: int | None,
    hemisphere: str,
    indoors_weeks_before: tuple[float, float] | None,
    outdoors_weeks_rel: tuple[float, float] | None,
) -> list[Window]:
    """Spring sowing windows of one calendar year, earliest first.

    ``indoors_weeks_before``: weeks before the last frost (low, high); ``outdoors_weeks_rel``:
    weeks relative to it, negative before. With no frost date the 1st of May (north) or of
    November (south) stands in, marked as guessed.
    """
    guessed = last_frost_day is None
    if last_frost_day is None:
        frost = date(year, 5, 1) if hemisphere == "north" else date(year, 11, 1)
    else:
        frost = _day(year, last_frost_day)
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


def next_sowing(today: date, windows_of_year: list[list[Window]]) -> tuple[date, Window] | None:
    """The next day on which this crop can be sown: today inside a window, else its next start.

    ``windows_of_year``: this calendar year's and the following years' windows. A window with
    under two weeks left counts as over. None when there is no window at all.
    """
    for windows in windows_of_year:
        for window in windows:
            if today <= window.last - timedelta(days=14):
                return max(today, window.first), window
    return None


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
