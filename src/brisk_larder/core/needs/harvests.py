"""What a plant gives: the book's range and the household's own seasons, each with its weight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

from ..base.figures_planning import HarvestFigures
from ..base.units import Z80
from .seed_needed import Amount, Origin


@dataclass(frozen=True)
class Season:
    """What so many plants of a kind gave in one year (kg fresh)."""

    year: int
    plants: int
    mass_kg: float


def yield_of_a_plant(
    book: Amount | None, own: Sequence[Season], f: HarvestFigures
) -> Amount | None:
    """Kilos that a plant gives in a next season: likely range (80 %), and what it rests on.

    The log of a season's yield lies around the garden's own level by ``season_log_sd``; that level lies
    around the book's middle by what is left of the book's range. Own seasons move the level as normal
    theory has it (Gelman et al. 2013, ch. 2.5), so that one odd year does not overturn the book. Records of
    one year are one season. None: neither a book nor a season.
    """
    seasons: dict[int, tuple[int, float]] = {}
    for s in own:
        plants, kg = seasons.get(s.year, (0, 0.0))
        seasons[s.year] = (plants + s.plants, kg + s.mass_kg)
    logs = [log(kg / plants) for plants, kg in seasons.values()]
    if not logs:
        return book
    season = f.season_log_sd
    if book is None:
        level_var, middle = f.unknown_log_sd**2, sum(logs) / len(logs)
    else:
        sd = log(book.high / book.low) / (2 * Z80) if book.high > book.low > 0 else 0.0
        level_var = max(sd**2 - season**2, (f.level_least_share * sd) ** 2, 1e-6)
        middle = log(book.mid)
    weight = len(logs) / season**2
    post_var = 1.0 / (1.0 / level_var + weight)
    mean = post_var * (middle / level_var + weight * sum(logs) / len(logs))
    spread = Z80 * sqrt(post_var + season**2)
    own_share = weight * post_var
    many = f"{len(logs)} own season" + ("s" if len(logs) > 1 else "")
    note = many if book is None else f"{many}, {100 * own_share:.0f} % of the weight; else the book"
    origin: Origin = "own" if own_share >= 0.5 or book is None else book.origin
    return Amount(exp(mean - spread), exp(mean), exp(mean + spread), "kg", origin, note)
