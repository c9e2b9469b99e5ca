"""Three opinions of a lot side by side: the age rule, the last test, the forecast."""

from __future__ import annotations

from dataclasses import dataclass

from ..base.figures import TriageFigures
from ..seed.plants import Seed, seeds_for


@dataclass(frozen=True)
class Opinions:
    """good, doubtful, poor or none of: the age rule, the last test, the forecast."""

    age_rule: str
    test: str
    forecast: str

    @property
    def disagree(self) -> bool:
        """Whether one says good where another says poor."""
        said = {self.age_rule, self.test, self.forecast} - {"none"}
        return "good" in said and "poor" in said


def by_age(age_years: float, low: float, high: float, guessed: bool = False) -> str:
    """The old rule: good up to the lower figure of the table, doubtful to the upper, then poor.

    ``low``, ``high``: years under cool dry storage. Seed of unknown year is doubtful at best.
    """
    if age_years > high:
        return "poor"
    return "doubtful" if guessed or age_years > low else "good"


def by_test(share: float | None, n: int, level: float, f: TriageFigures) -> str:
    """The last test: good at or above the sowing level, poor below a share of it."""
    if share is None or n < 1:
        return "none"
    if share >= level:
        return "good"
    return "poor" if share < f.poor_share_of_level * level else "doubtful"


def by_forecast(chance_below: float, median: float, level: float, f: TriageFigures) -> str:
    """The forecast at the next sowing: good when nine in ten sure to stand above the level; poor
    when nine in ten sure to have fallen below and below half of it as likely as not."""
    if chance_below <= 1 - f.sure:
        return "good"
    poor = chance_below >= f.sure or median < f.poor_share_of_level * level
    return "poor" if poor else "doubtful"


def thick_sowing(median: float, one: Seed, confidence: float, f: TriageFigures) -> int | None:
    """Seeds for a usual stand at the household's confidence, as a need for so many plants would be told;
    None where next to none comes, or no number is enough."""
    if median <= f.thick_from_germination:
        return None
    return seeds_for(f.stand_plants, one, confidence)
