"""Keeping a line alive: the last year in which its seed still gives enough mother plants."""

from __future__ import annotations

from collections.abc import Sequence

from ..seed.plants import Seed, Sown, chance
from ..storage.moisture import Floats


def chance_of_mothers(held: Sequence[Floats], lots: Sequence[Seed], min_plants: int) -> float:
    """P(all lots of a line together give at least ``min_plants`` mother plants). ``held``: what may be in
    each lot in each world [S]."""
    return chance(min_plants, [Sown(n, one) for n, one in zip(held, lots, strict=True)])


def last_safe_year(
    years: Sequence[int], chances: Sequence[float], confidence: float = 0.95
) -> int | None:
    """Last year of an unbroken run from the first in which the chance holds; None if not even that."""
    safe = None
    for year, sure in zip(years, chances, strict=True):
        if sure < confidence:
            break
        safe = year
    return safe
