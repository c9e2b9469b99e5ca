"""What a counted sowing says of the seed: a bed may have failed, and still fewer up is never better news.

A sowing's count is that of its seed and its bed, or with a small chance of neither (``or_lost``). By that
chance alone none of a hundred would speak *less* against seed than twenty of a hundred, and would even speak
for old seed of which nobody expected twenty. So:

- against good seed a count speaks, compared with each poorer seed, as much as the worst of the counts from it
  up to what good seed lets expect: a failed bed is not dead seed, and not better seed than a poor bed;
- what a count says between one share alive and the next (its score) never falls with the count: below what is
  expected of that share it is the least of the counts from it up to there, above it the most (so many up that
  it would be mere luck is living seed all the same).

A score that never falls is a monotone likelihood ratio: whatever is believed, no quantile of it falls when
more came up (Karlin & Rubin 1956). Where the bed is not suspected the news is the exact one.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..storage.moisture import Floats
from .counting import HERMITE_W, log_beta_binomial, log_over_ceilings, or_lost

_ALIVE = np.linspace(0.0, 1.0, 241) ** 2  # close together where hardly any seed lives
_GOOD = 0.9  # seed that a failed bed must not condemn
_EACH = 60  # so many counts are reckoned one by one, of more every so often


def _counts(n: float) -> Floats:
    """Counts from none to n [J]: all of a small sowing; of a large one closer together near none and all."""
    if n <= _EACH:
        return np.arange(n + 1.0)
    way = np.linspace(0.0, 1.0, _EACH)
    return np.asarray(n * way**2 * (3.0 - 2.0 * way))


@lru_cache(maxsize=4096)
def log_news(
    n: float, k: float, could: tuple[float, float, float], rho: float, lost: float
) -> tuple[Floats, Floats]:
    """Shares alive in 0..1 [P], and at each the log likelihood (up to a constant) of k up of n.

    ``could``: nodes of the share of living seed that may be up (``emerging.could_come_up``); ``rho``:
    overdispersion; ``lost``: chance that the sowing says nothing of its seed, above 0.
    """
    counts, alive = _counts(n), _ALIVE
    up, share = (x.ravel() for x in np.meshgrid(counts, alive, indexing="ij"))
    chance = log_over_ceilings(
        np.tile(could, (len(up), 1)),
        lambda c: log_beta_binomial(up, n, np.clip(share * c, 1e-7, 1 - 1e-7), rho),
    )
    told = or_lost(chance, up, n, lost).reshape(len(counts), len(alive))
    usual = n * float(HERMITE_W @ np.array(could))
    score = np.diff(_bed_or_seed(told, counts, usual), axis=1)
    middle = (alive[1:] + alive[:-1]) / 2 * usual
    expected = np.abs(counts[:, None] - middle).argmin(axis=0)
    below = np.arange(len(counts))[:, None] <= expected
    against = np.minimum.accumulate(np.where(below, score, np.inf)[::-1], axis=0)[::-1]
    favour = np.maximum.accumulate(np.where(below, -np.inf, score), axis=0)
    at_middle = score[expected, np.arange(len(middle))]
    held = np.where(below, against, np.maximum(favour, at_middle))
    held[0], held[-1] = np.minimum(held[0], 0.0), np.maximum(held[-1], 0.0)
    right = min(max(int(np.searchsorted(counts, k)), 1), len(counts) - 1)
    part = (k - counts[right - 1]) / (counts[right] - counts[right - 1])
    news = held[right - 1] + np.clip(part, 0.0, 1.0) * (held[right] - held[right - 1])
    return alive, np.concatenate([[0.0], np.cumsum(news)])


def _bed_or_seed(told: Floats, counts: Floats, usual: float) -> Floats:
    """What counts [J] tell of shares alive [J, P] against good seed: fewer never less, up to what good seed
    lets expect; ``usual``: how many are up of seed that lives whole."""
    good = int(np.abs(_ALIVE - _GOOD).argmin())
    till = int(np.abs(counts - usual * _GOOD).argmin()) + 1
    against = told - told[:, good, None]
    fewer = against[:till][::-1]
    held = np.where(
        np.arange(told.shape[1]) < good,
        np.maximum.accumulate(fewer, axis=0),
        np.minimum.accumulate(fewer, axis=0),
    )[::-1]
    return np.concatenate([held, against[till:]])
