"""A bag of several years or harvests: its germination is the sum of share times the part's own.

The shares themselves may be uncertain. A bag is reckoned in each world: parts of one cohort are good or bad
together there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.errors import InvalidValue
from ..storage.moisture import Floats
from .counting import log_beta_binomial, log_over_ceilings
from .sowing_news import log_news
from .worlds import COUNT, Z, picked, ranks


def shares_by_count(seeds: Floats, sd: Floats, uncounted_sd: float) -> tuple[Floats, Floats]:
    """Shares [N] of lots poured together and their sds, from counts and theirs (nan: uncounted).

    First-order propagation of independent counts; where one is unknown or nothing, all are taken
    as equal with a wide doubt, ``uncounted_sd`` over their number.
    """
    n = len(seeds)
    if not np.all(np.isfinite(seeds) & (seeds > 0)):
        return np.full(n, 1 / n), np.full(n, uncounted_sd / n)
    total = seeds.sum()
    share = seeds / total
    rest = np.sqrt(np.maximum((sd**2).sum() - sd**2, 0.0)) / np.maximum(total - seeds, 1e-9)
    return share, share * (1 - share) * np.hypot(sd / seeds, rest)


def shares(subjects: Sequence[str], mean: Floats, sd: Floats) -> Floats:
    """Shares of parts in each world [N, S], summing to one; ``subjects``: their names, ``mean``, ``sd`` [N].

    Raises InvalidValue if they are empty.
    """
    total = float(np.sum(mean))
    if not len(mean) or total <= 0:
        raise InvalidValue("shares", total, "shares of the parts that add up to more than nothing")
    out, held = np.ones((1, COUNT)), float(mean[0])
    z = Z[ranks(subjects)]
    for j in range(1, len(mean)):  # each part joins what is already in the bag
        held += float(mean[j])
        share = np.clip(float(mean[j]) / held + float(sd[j]) / held * z[j], 0.0, 1.0)
        out = np.concatenate([out * (1 - share), share[None]])
    return out


def mix(parts: Floats, share: Floats) -> Floats:
    """Germination of a bag in each world [S]: parts [N, S], shares [N, S]."""
    return np.asarray((parts * share).sum(axis=0))


@dataclass(frozen=True)
class BagTest:
    """A test of a bag: n sown, k viable, what could be counted by then, overdispersion, weight, and the
    chance that it says nothing."""

    n: float
    k: float
    ceiling: tuple[float, float, float]
    rho: float
    weight: float
    lost: float = 0.0


def taught(g: Floats, test: BagTest) -> NDArray[np.intp]:
    """Which world's state each world takes [S] after a test of a bag that is ``g`` [S]: its parts and their
    shares are taught together."""

    def log_chance(could: Floats) -> Floats:
        alive = np.clip(g * could[0], 1e-6, 1 - 1e-6)
        return log_beta_binomial(np.asarray(test.k, dtype=float), test.n, alive, test.rho)

    if test.lost:
        news = np.interp(g, *log_news(test.n, test.k, test.ceiling, test.rho, test.lost))
    else:
        news = log_over_ceilings(np.array([test.ceiling]), log_chance)
    log_l = test.weight * news
    return picked(g, np.exp(log_l - log_l.max()))


@dataclass(frozen=True)
class Poured:
    """What one part brings into a bag: its kind, variety, year (None: unknown), dressing, breeding."""

    kind: str
    variety: str
    year: int | None
    dressed: bool
    breeding: str


def mixes(parts: Sequence[Poured], uses: Sequence[str]) -> list[str]:
    """What pouring these together would mix, as codes, the worst first; ``uses``: what the lots are
    meant for."""
    years = {p.year for p in parts}
    said = {
        "kinds": len({p.kind for p in parts}) > 1,
        "varieties": len({p.variety for p in parts}) > 1,
        "years": len(years - {None}) > 1,
        "no_year": None in years,
        "dressed": len({p.dressed for p in parts}) > 1,
        "hybrid": len({p.breeding for p in parts}) > 1,
        "uses": len(set(uses)) > 1,
    }
    return [code for code, applies in said.items() if applies]
