"""Worlds: equally likely joint states of all that is not known, the same for every lot and every decision.

A world says of each cohort how good its seed set out (Ki), how much longer or shorter than the book it
keeps (d), what share could ever grow (living), of each lot how much is in it. What depends on several
lots is reckoned in each world and averaged, so that seed of one origin stands and falls together.
Each subject's states are the middles of equal slices in an order drawn from its own name: adding a
lot moves no other, and lots of one belief give the same figures wherever they stand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, ndtri

from ..base.kernels import g_loop, in_shares, quantile_loop
from ..storage.moisture import Floats

COUNT = 512
MIDDLES = (np.arange(COUNT) + 0.5) / COUNT
Z = ndtri(MIDDLES)
Ranks = NDArray[np.int64]
# the additive recurrence of the number with x**3 = x + 1: points of a square with no gaps and no lumps
# (M. Roberts 2018, after Kronecker); each side taken as ranks, so that every slice is met once
_PLASTIC = 1.32471795724474602596
_KNOTS = 24


def _ranks(values: Floats) -> Ranks:
    return np.argsort(np.argsort(values, kind="stable"), kind="stable")


_STEPS = np.arange(1, COUNT + 1)
SECOND = _ranks((_STEPS / _PLASTIC) % 1.0)  # rank of Ki in the world in which d has rank s
THIRD = _ranks((_STEPS / _PLASTIC**2) % 1.0)  # and that of living
_HALVED = _ranks(np.array([float(int(f"{s:09b}"[::-1], 2)) for s in range(COUNT)]))


@lru_cache(maxsize=16_384)
def _order(subject: str) -> Ranks:
    seed = int.from_bytes(blake2b(subject.encode(), digest_size=8).digest(), "big")
    return np.random.default_rng(seed).permutation(COUNT)


def ranks(subjects: Sequence[str]) -> Ranks:
    """Rank of each subject in each world [N, S]: an order of its own for each name, always the same."""
    if not subjects:
        return np.empty((0, COUNT), dtype=np.int64)
    return np.stack([_order(s) for s in subjects])


def beside(values: Floats) -> Ranks:
    """Ranks [S] of something that hangs on nothing, spread evenly over the ranks of ``values`` [S]: the
    two together fill their square (Hammersley's points)."""
    out = np.empty(COUNT, dtype=np.int64)
    out[np.argsort(values, kind="stable")] = _HALVED
    return out


def amount(subject: str, mean: float, sd: float) -> Floats:
    """Seeds in a lot in each world [S]: whole numbers of a normal amount, never below zero."""
    if sd <= 0:
        return np.full(COUNT, float(max(0, round(mean))))
    return np.asarray(np.maximum(np.floor(mean + sd * Z[_order(subject)]), 0.0))


@dataclass(frozen=True)
class Belief:
    """What is believed of cohorts, as their state in each world: probit at record start, log10 factor of
    sigma, share that could ever grow; all [L, S]."""

    d: Floats
    ki: Floats
    living: Floats

    def rows(self, index: NDArray[np.intp]) -> Belief:
        """The belief of some cohorts."""
        return Belief(self.d[index], self.ki[index], self.living[index])

    def taking(self, worlds: NDArray[np.intp]) -> Belief:
        """The belief in which each world takes the state of another [S]."""
        return Belief(self.d[:, worlds], self.ki[:, worlds], self.living[:, worlds])

    def put(self, index: NDArray[np.intp], new: Belief) -> Belief:
        """The belief with some rows replaced."""
        columns = []
        for name in ("d", "ki", "living"):
            whole = getattr(self, name).copy()
            whole[index] = getattr(new, name)
            columns.append(whole)
        return Belief(*columns)


def germination(belief: Belief, a: Floats) -> Floats:
    """Germination of each row in each world at ageing ``a`` [L] (probits): [L, S]."""
    out = np.empty(belief.d.shape)
    age = np.ascontiguousarray(a, dtype=float)
    b = belief
    in_shares(len(out), lambda s: g_loop(b.d[s], b.ki[s], b.living[s], age[s], out[s]), least=200)
    return out


def spread(values: Floats, q: Sequence[float]) -> Floats:
    """Quantiles [..., Q] over the worlds of ``values`` [..., S]: each world the middle of its slice."""
    ordered = np.sort(values, axis=-1)
    at = np.clip(np.asarray(q) * COUNT - 0.5, 0, COUNT - 1)
    low = np.minimum(at.astype(int), COUNT - 2)
    share = at - low
    return np.asarray(ordered[..., low] * (1 - share) + ordered[..., low + 1] * share)


def quantiles(belief: Belief, a: Floats, q: Sequence[float]) -> Floats:
    """Quantiles of germination: ``a`` [L, T] in probits -> fractions [L, T, Q]."""
    out = np.empty((*a.shape, len(q)))
    age, wanted, b = np.ascontiguousarray(a, dtype=float), np.array(q), belief

    def some(s: slice) -> None:
        quantile_loop(b.d[s], b.ki[s], b.living[s], age[s], wanted, out[s])

    in_shares(len(out), some, least=100)
    return out


def quantile_curve(belief: Belief, a: Floats, q: Sequence[float]) -> Floats:
    """As ``quantiles``, for many dates: taken at some values of A and drawn between on the probit
    scale, where quantiles are nearly straight in A (docs/model.md)."""
    if a.shape[1] <= _KNOTS:
        return quantiles(belief, a, q)
    low, high = a.min(axis=1), a.max(axis=1)
    grid = low[:, None] + (high - low)[:, None] * np.linspace(0.0, 1.0, _KNOTS) ** 2
    at = ndtri(np.clip(quantiles(belief, grid, q), 1e-12, 1 - 1e-12))
    out = np.empty((*a.shape, len(q)))
    for i in range(len(out)):
        for j in range(len(q)):
            out[i, :, j] = np.interp(a[i], grid[i], at[i, :, j])
    return np.asarray(ndtr(out))


def chance_below(belief: Belief, a: Floats, level: Floats | float) -> Floats:
    """P(g < level) per row and date: ``a`` [L, T] -> [L, T]; level a fraction, or one per row [L]."""
    until = _lasts(belief, level)
    return np.asarray((a[:, :, None] > until[:, None, :]).mean(axis=2))


def ageing_until(belief: Belief, level: Floats | float, chance: float) -> Floats:
    """A in probits [L] at which P(g < level) reaches ``chance``; 0 where it already does at once. The date
    is found by inverting the projection of A."""
    return np.maximum(spread(_lasts(belief, level), (chance,))[..., 0], 0.0)


def _lasts(belief: Belief, level: Floats | float) -> Floats:
    """A at which each row falls below its level in each world [L, S]; below zero: it never stood above."""
    bar = np.asarray(level, dtype=float).reshape(-1, 1) / belief.living
    z = ndtri(np.clip(bar, 1e-12, 1 - 1e-12))
    return np.where(bar >= 1, -1e3, np.clip((belief.ki - z) * 10.0**belief.d, -1e3, 1e3))


def even(belief: Belief, a: Floats, count: int = 64) -> Floats:
    """Germination as values of equal weight [L, count]: the means of as many slices of the worlds."""
    return slices(germination(belief, a), count)


def slices(values: Floats, count: int = 64) -> Floats:
    """Values of all worlds [..., S] as the means of ``count`` equal slices of them, rising [..., count]."""
    ordered = np.sort(values, axis=-1)
    return np.asarray(ordered.reshape(*ordered.shape[:-1], count, -1).mean(axis=-1))


def picked(by: Floats, weight: Floats) -> NDArray[np.intp]:
    """Whose state each world takes [S] after news that gives the worlds weights [S] hanging on ``by`` [S].

    The worlds are equally likely again afterwards: each takes the state that stands, in the order of
    ``by``, at its own rank among the weighted ones.
    """
    order = np.argsort(by, kind="stable")
    share = np.cumsum(weight[order])
    found = np.searchsorted(share / share[-1], MIDDLES)
    out = np.empty(COUNT, dtype=np.intp)
    out[order] = order[np.minimum(found, COUNT - 1)]
    return out
