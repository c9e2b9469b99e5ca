"""Was it right? Forecasts that were kept when a test began, against what the test then showed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from ..base.units import Z80
from ..storage.moisture import Floats
from .counting import log_beta_binomial
from .worlds import Z

_Z = ndtri((np.arange(128) + 0.5) / 128)
ENDS = (0.1, 0.9)
FEW = 5  # with fewer tests next to nothing is said of how sure forecasts were


@dataclass(frozen=True)
class Forecasts:
    """Forecasts of germination with what was then counted, N of them: ``quantiles`` [N, 3] (10, 50, 90 %),
    seeds tested n and viable k, overdispersion rho, what the age rule would have said [N] (a share)."""

    quantiles: Floats
    n: Floats
    k: Floats
    rho: Floats
    by_age: Floats

    def of(self, which: np.ndarray) -> Forecasts:
        """Some of them."""
        return Forecasts(*(getattr(self, name)[which] for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class Record:
    """How forecasts did, in shares of one.

    ``held``: of counts, those inside the 80 % range of what such a test could count; ``low``, ``high``: where
    that may lie by chance nineteen times in twenty; ``width``: of the ranges of germination (median);
    ``off``: mean distance of counts from the forecasts' middles; ``chance_off``: what counting so few seeds
    brings of it by itself; ``age_off``: the age rule's; ``bias``: how much higher counts came than forecast.

    verdict: few (too few to say), kept, too_sure or too_careful.
    """

    tests: int
    held: float
    low: float
    high: float
    width: float
    off: float
    chance_off: float
    age_off: float
    bias: float
    verdict: str


def _values(quantiles: Floats) -> Floats:
    """Germination as equally likely values [N, 128]: a normal of two halves on the probit scale."""
    z = ndtri(np.clip(quantiles, 1e-4, 1 - 1e-4))
    below, above = (z[:, 1] - z[:, 0]) / Z80, (z[:, 2] - z[:, 1]) / Z80
    side = np.where(_Z[None, :] < 0, below[:, None], above[:, None])
    return np.asarray(ndtr(z[:, 1:2] + side * _Z))


def as_worlds(low: float, middle: float, high: float) -> Floats:
    """A forecast kept as its 10, 50 and 90 % as values in worlds [S]."""
    z = ndtri(np.clip(np.array([low, middle, high]), 1e-4, 1 - 1e-4))
    side = np.where(Z < 0, z[1] - z[0], z[2] - z[1]) / Z80
    return np.asarray(ndtr(z[1] + side * Z))


def _chances(g: Floats, n: int, rho: float) -> Floats:
    """P(k of n) over what is believed [n + 1]."""
    k = np.arange(n + 1.0)[:, None]
    p = np.clip(g, 1e-6, 1 - 1e-6)[None, :]
    return np.asarray(np.exp(log_beta_binomial(k, float(n), p, rho)).mean(axis=1))


def inside(forecasts: Forecasts) -> Floats:
    """Share of each count that lies inside the 80 % range of what its test could count [N].

    A count is a whole number: the part of its own chance within the range stands for it, so that a true
    forecast holds just 0.8 on average (the randomised transform of Brockwell 2007, averaged).
    """
    out = np.empty(len(forecasts.n))
    for i, g in enumerate(_values(forecasts.quantiles)):
        chance = _chances(g, int(forecasts.n[i]), float(forecasts.rho[i]))
        k = int(forecasts.k[i])
        begin, end = chance[:k].sum(), chance[: k + 1].sum()
        within = min(end, ENDS[1]) - max(begin, ENDS[0])
        out[i] = max(within, 0.0) / max(end - begin, 1e-12)
    return out


def record(forecasts: Forecasts) -> Record:
    """How some forecasts did. Raises ValueError for none."""
    tests = len(forecasts.n)
    if not tests:
        raise ValueError("no forecast to look back on")
    share = forecasts.k / forecasts.n
    middle = forecasts.quantiles[:, 1]
    held = inside(forecasts)
    wanted = ENDS[1] - ENDS[0]
    sd = np.sqrt(wanted * (1 - wanted) / tests)
    low, high = max(wanted - 1.96 * sd, 0.0), min(wanted + 1.96 * sd, 1.0)
    chance_off = []
    for i, g in enumerate(_values(forecasts.quantiles)):
        n = int(forecasts.n[i])
        k = np.arange(n + 1) / n
        chance_off.append(float(_chances(g, n, float(forecasts.rho[i])) @ np.abs(k - middle[i])))
    mean = float(held.mean())
    verdict = "few" if tests < FEW else "kept"
    if verdict == "kept" and mean < low:
        verdict = "too_sure"
    elif verdict == "kept" and mean > high:
        verdict = "too_careful"
    return Record(
        tests=tests,
        held=mean,
        low=low,
        high=high,
        width=float(np.median(forecasts.quantiles[:, 2] - forecasts.quantiles[:, 0])),
        off=float(np.abs(share - middle).mean()),
        chance_off=float(np.mean(chance_off)),
        age_off=float(np.abs(share - forecasts.by_age).mean()),
        bias=float((share - _values(forecasts.quantiles).mean(axis=1)).mean()),
        verdict=verdict,
    )


def groups(names: Sequence[str], forecasts: Forecasts, least: int = 2) -> list[tuple[str, Record]]:
    """The same by group, for groups of at least so many tests, the largest first."""
    found = np.array(names)
    out = [
        (name, record(forecasts.of(found == name)))
        for name in sorted(set(names))
        if (found == name).sum() >= least
    ]
    return sorted(out, key=lambda x: (-x[1].tests, x[0]))


def own_new_seed(k: Floats, n: Floats, sd: float, rho: float) -> tuple[float, float]:
    """Germination of a kind's new seed by tests of young seed, k viable of n in each [N]: mean and its sd.

    Tests scatter by their counting (beta-binomial, ``rho``) and seed of one kind by ``sd`` of its logit; each
    weighs by the inverse of both.
    """
    share = float(k.sum() / n.sum())
    at = min(max(share, 0.02), 0.98)
    own = at * (1 - at)
    var = own * (1 + (n - 1) * rho) / n + (sd * own) ** 2
    weight = 1.0 / var
    return float((weight * k / n).sum() / weight.sum()), float(1.0 / np.sqrt(weight.sum()))
