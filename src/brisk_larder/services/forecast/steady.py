"""What was told of a packet stands until a fact or New Year: from one day to the next only its seed fades."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime

from .glance_data import Glance, Likely, TestAdvice

A_POINT = 0.01


def _same_sowing(a: Glance, b: Glance) -> bool:
    """Whether both speak of one sowing: of the same year and place, or of none."""
    if a.next_sowing_s is None or b.next_sowing_s is None:
        return a.next_sowing_s is b.next_sowing_s
    years = (datetime.fromtimestamp(x, UTC).year for x in (a.next_sowing_s, b.next_sowing_s))
    return len(set(years)) == 1 and a.sowing_setting == b.sowing_setting


def _stands(before: TestAdvice, now: TestAdvice) -> bool:
    """Whether what was advised of a test stands: not once one runs, or no answer would come in time."""
    if "running" in (before.code, now.code) or before.code == "too_late":
        return False
    return now.code != "too_late" or not before.wanted


def _near(a: Likely, b: Likely) -> bool:
    """Whether two are the same to a point of germination."""
    pairs = ((a.low, b.low), (a.mid, b.mid), (a.high, b.high))
    return all(abs(x - y) <= A_POINT for x, y in pairs)


def steady(before: Glance, told: date, now: Glance, day: date, now_s: float) -> Glance:
    """A glance made anew only because a day went by: years that were told stay for the calendar year, and
    what was advised before a sowing stays until it. ``told``: the day of the one before.

    What it says of now and of the sowing itself is today's, once it is more than a point away; a year that
    was told and is past by now is told anew.
    """
    out = now
    if _near(before.now, now.now):
        out = replace(out, now=before.now)
    over = before.good_until_s is not None and before.good_until_s < now_s
    if told.year == day.year and not over:
        out = replace(
            out,
            good_until_s=before.good_until_s,
            good_until_low_s=before.good_until_low_s,
            good_until_high_s=before.good_until_high_s,
            good_beyond=before.good_beyond,
        )
    if not _same_sowing(before, now):
        return out if out == now else replace(out, as_told=True)
    if before.at_sowing and now.at_sowing and _near(before.at_sowing, now.at_sowing):
        out = replace(out, at_sowing=before.at_sowing)
    if told.year == day.year and before.regrow_asked == now.regrow_asked:
        out = replace(out, last_safe_year=before.last_safe_year, mothers=before.mothers)
    if _stands(before.advice, now.advice):
        out = replace(out, advice=before.advice)
    return out if out == now else replace(out, as_told=True)
