"""A forecast of nights against a sowing: whether frost is likely after it, and the first day without."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from scipy.special import ndtr

from ..base.figures_planning import FrostFigures


@dataclass(frozen=True)
class Night:
    """A night that is forecast: the morning's day, its lowest temperature (degC) and the doubt of it (sd)."""

    day: date
    low_c: float
    sd_c: float

    def below(self, harm_c: float) -> float:
        """P(colder than what harms)."""
        if self.sd_c <= 0:
            return float(self.low_c < harm_c)
        return float(ndtr((harm_c - self.low_c) / self.sd_c))


@dataclass(frozen=True)
class Moved:
    """A sowing moved off frost: the day to sow, and the nights that moved it with the chance of each."""

    day: date
    nights: tuple[tuple[date, float], ...]


def off_frost(
    day: date, last: date, nights: Sequence[Night], tender: bool, f: FrostFigures
) -> Moved | None:
    """The first day from ``day`` to ``last`` after which no forecast night within reach is likely to harm;
    None where nothing moves. Where frost is likely to the end of the forecast, the day after its last bad
    night; never beyond the last day on which it can be sown."""
    harm_c = f.tender_c if tender else f.hardy_c
    reach = timedelta(days=f.reach_nights)
    bad = [
        (n.day, n.below(harm_c))
        for n in sorted(nights, key=lambda n: n.day)
        if day < n.day <= last + reach and n.below(harm_c) >= f.chance
    ]
    to = day
    hit = []
    for when, chance in bad:
        if when <= to + reach:
            hit.append((when, chance))
            to = when + timedelta(days=f.settle_nights)
    to = min(to, last)
    return Moved(to, tuple(hit)) if hit and to > day else None
