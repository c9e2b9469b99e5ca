"""How exactly a number is said: no surer than it is known."""

from __future__ import annotations

SURE_POINTS, ROUGH_POINTS = 10, 30  # a range narrower than this is said to the point, wider in tens
YEARS_TOLD = 5  # further apart the middle of two years is not told


def step_points(low: float, high: float) -> int:
    """To how many points a share is said that lies likely between ``low`` and ``high`` (fractions): to the
    point, to the nearest five or the nearest ten."""
    width = round(100 * (high - low), 6)
    if width < SURE_POINTS:
        return 1
    return 5 if width <= ROUGH_POINTS else 10


def nearest(share: float, step: int) -> int:
    """A share (fraction) in per cent, to the nearest ``step`` points; halves go up."""
    return int((100 * share + step / 2) // step * step)


def middle_words(mid: float, step: int) -> str:
    """The middle in words: 89 %, about 85 %, roughly 40 %; what would round to none or all is not said to be
    that."""
    if step == 1:
        return f"{nearest(mid, 1)} %"
    told = nearest(mid, step)
    if told <= 0:
        return f"under {step} %"
    if told >= 100:
        return f"over {100 - step} %"
    return f"{'about' if step == 5 else 'roughly'} {told} %"


def range_words(low: float, high: float, step: int) -> str:
    """Both ends, to as many points."""
    return f"likely {nearest(low, step)}\u2013{nearest(high, step)}"


def years_apart_told(low_year: int, high_year: int) -> bool:
    """Whether the middle of two years may be told beside them: not where they lie far apart."""
    return high_year - low_year <= YEARS_TOLD
