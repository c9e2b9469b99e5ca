"""How a germination test is laid: on what, how many to a layer, how wet, and what must come before.

Of each kind the table of crops says in words what helps its seed to wake; what a test needs of it is taken
from those words, so that it is said in one place. Sizes and amounts follow from the size of the seed.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from math import ceil, floor

from ..base.figures import BenchFigures

_DAYS = {"d": 1.0, "day": 1.0, "days": 1.0, "week": 7.0, "weeks": 7.0}
_RANGE = r"(\d+(?:\.\d+)?)(?:-(\d+(?:\.\d+)?))?"


@dataclass(frozen=True)
class Before:
    """What comes before: days in the cold (middle of what is advised), whether only fresh seed needs them
    (or seed that is tested warm), hours of soaking, whether hard seed is nicked, and whether a nitrate
    wakes seed that is no longer fresh."""

    cold_days: float = 0.0
    cold_if_fresh: bool = False
    soak_hours: float = 0.0
    nick: bool = False
    nitrate: bool = False

    def cold_for(self, age_days: float, f: BenchFigures) -> float:
        """Days in the cold for seed of an age (days since harvest)."""
        return 0.0 if self.cold_if_fresh and age_days > f.fresh_days else self.cold_days


@lru_cache(maxsize=1024)
def before(words: str, f: BenchFigures) -> Before:
    """What the table's words on waking seed ask of a test; what they call optional is not asked."""
    asked = [x.strip() for x in re.split(r"[;,.]", words.lower()) if x.strip()]
    cold, fresh, soak, nick, nitrate = 0.0, False, 0.0, False, False
    for part in asked:
        nitrate = nitrate or ("kno3" in part and "fresh" not in part)
        if part.startswith("none") or "avoid" in part:
            continue
        optional = "optional" in part
        if "chill" in part and not optional:
            found = re.search(_RANGE + r"\s*(d|days?|weeks?)\b", part)
            cold = _middle(found) * _DAYS[found[3]] if found else f.cold_days_unsaid
            fresh = "fresh" in part
        if ("soak" in part or "pre-wash" in part) and not optional:
            found = re.search(_RANGE + r"\s*h\b", part)
            soak = _middle(found) if found else f.soak_hours_unsaid
        nick = nick or (not optional and ("nick" in part or "scarify" in part))
    return Before(cold, fresh, soak, nick, nitrate)


def reads_low(medium: str, light: str, wakes: Before) -> bool:
    """Whether living seed may sleep on such a medium: plain paper gives no nitrate, and only on top of it
    light."""
    if medium in ("paper", "rolled", "top") and wakes.nitrate:
        return True
    return light == "light" and medium in ("paper", "rolled")


def _middle(found: re.Match[str]) -> float:
    low = float(found[1])
    return (low + float(found[2] or low)) / 2


@dataclass(frozen=True)
class Laid:
    """How a test of n seeds is laid: medium (paper in a flat box, rolled, on top in light, sand), seeds to a
    layer, layers, sheets of paper and water (ml) in all; ``reads_low``: on plain paper less may come up
    than lives."""

    medium: str
    per_layer: int
    layers: int
    sheets: int
    water_ml: float
    reads_low: bool


def laid(
    n: int, seeds_per_g: float, light: str, wet_sensitivity: str, wakes: Before, f: BenchFigures
) -> Laid:
    """How to lay n seeds: large seed drinks more and is rolled in, what wants light lies on top, what rots
    when wet has its paper only damp."""
    per_layer = max(f.least_a_layer, min(f.most_a_layer, floor(f.layer_g * seeds_per_g)))
    large = seeds_per_g < f.large_below_per_g
    medium = "top" if light == "light" else "rolled" if large else "paper"
    layers = max(1, ceil(n / per_layer))
    sheets = layers * (f.sheets_rolled if large else f.sheets_flat)
    share = f.wet_share_sensitive if wet_sensitivity == "high" else 1.0
    water = sheets * f.sheet_ml * share + n / seeds_per_g * f.drinks_ml_per_g * share
    return Laid(medium, per_layer, layers, sheets, water, reads_low("paper", light, wakes))
