"""A kind's year outdoors: when it is sown, when it can be eaten, until when sowing it still pays, and how
likely another frost is on the day it goes out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from scipy.special import ndtr

from .windows import Window


@dataclass(frozen=True)
class Frosts:
    """Last frost of spring and first of autumn as days, with their sds (days); None: none, or not known."""

    last: date | None
    last_sd: float
    first: date | None
    first_sd: float


@dataclass(frozen=True)
class KindYear:
    """Windows of sowing; when it can be eaten (None: not told); the last day on which sowing still pays
    (None: no frost ends the year, or it is not known); the chance of a frost after the first day outdoors,
    for a kind that no frost may touch (else 0)."""

    windows: tuple[Window, ...]
    harvest: tuple[date, date] | None
    last_useful: date | None
    frost_risk: float


def tender(outdoors_weeks_rel: tuple[float, float] | None, warm_season: bool) -> bool:
    """Whether no frost may touch a kind: the book sows it outdoors from the last frost on only, or it is of
    the warm season and never sown there."""
    return warm_season if outdoors_weeks_rel is None else outdoors_weeks_rel[0] >= 0


def frost_after(day: date, frosts: Frosts) -> float:
    """P(another frost after a day of spring)."""
    if frosts.last is None:
        return 0.0
    if frosts.last_sd <= 0:
        return float(day < frosts.last)
    return float(ndtr(((frosts.last - day).days) / frosts.last_sd))


def growing_year(
    windows: Sequence[Window], maturity_days: tuple[float, float], tender: bool, frosts: Frosts
) -> KindYear:
    """``maturity_days``: from sowing outdoors, or from setting out what was begun indoors, to the first
    harvest (low, high); ``tender``: no frost may touch it, so that its harvest ends with the first one and
    what is begun indoors goes out after the last."""
    low, high = maturity_days
    out = [w for w in windows if w.setting == "outdoors"]
    within = [w for w in windows if w.setting == "indoors"]
    harvest = None
    starts = [(w.first, w.last) for w in out]
    if not starts and within and frosts.last is not None:
        starts = [(frosts.last, frosts.last + (within[0].last - within[0].first))]
    if starts:
        begin = min(s for s, _ in starts) + timedelta(days=low)
        end = max(e for _, e in starts) + timedelta(days=high)
        if tender and frosts.first is not None:
            end = min(end, frosts.first)
        harvest = (begin, max(begin, end))
    last_useful = None
    if frosts.first is not None:
        last_useful = frosts.first - timedelta(days=high if tender else low)
    first_out = min((w.first for w in out), default=None)
    risk = frost_after(first_out, frosts) if tender and first_out is not None else 0.0
    return KindYear(tuple(windows), harvest, last_useful, risk)


def late_by(last_useful: date | None, weeks_indoors: float, missed_last: date) -> date | None:
    """Until when a kind whose sowing is over (on ``missed_last``) can still be sown and ripen: so many weeks
    before the last day on which sowing outdoors still pays, as it is begun indoors first. None: no frost is
    known, or it could not."""
    if last_useful is None:
        return None
    last = last_useful - timedelta(weeks=weeks_indoors)
    return last if last > missed_last else None
