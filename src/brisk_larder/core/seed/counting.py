"""Chances of counts of seed: so many of n that germinated or came up."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.special import betaln, gammaln, psi

from ..storage.moisture import Floats

HERMITE_W = np.array([1 / 6, 2 / 3, 1 / 6])  # of three nodes, sqrt 3 sd apart


def log_beta_binomial(k: Floats, n: Floats | float, p: Floats, rho: Floats | float) -> Floats:
    """log P(k of n) for a beta-binomial with mean p and intra-class correlation rho.

    rho = 0 is the binomial. Broadcasts; p strictly inside (0, 1).
    """
    choose = gammaln(np.asarray(n) + 1) - gammaln(k + 1) - gammaln(n - k + 1)
    size = (1.0 - rho) / np.maximum(rho, 1e-9)
    a, b = p * size, (1.0 - p) * size
    spread = betaln(k + a, n - k + b) - betaln(a, b)
    plain = k * np.log(p) + (n - k) * np.log1p(-p)
    return np.asarray(choose + np.where(rho > 1e-6, spread, plain))


def log_over_ceilings(ceiling: Floats, log_chance: Callable[[Floats], Floats]) -> Floats:
    """log of a chance averaged over what could be up by then: ``ceiling`` [N, 3] its nodes, ``log_chance``
    gives [N, ...] for one of them."""
    nodes = [log_chance(ceiling[:, j]) for j in range(3)]
    if np.array_equal(ceiling[:, 0], ceiling[:, 2]):
        return nodes[1]
    top = np.maximum(np.maximum(nodes[0], nodes[1]), nodes[2])
    mean = sum(w * np.exp(x - top) for w, x in zip(HERMITE_W, nodes, strict=True))
    return np.asarray(top + np.log(mean))


def or_lost(
    log_chance: Floats, k: Floats | float, n: Floats | float, lost: Floats | float
) -> Floats:
    """log of a chance of k of n where with a chance ``lost`` the entry says nothing of its seed: then
    few came up, whatever was sown (k log-uniform from none to n)."""
    k, n, lost = (np.asarray(x, dtype=float) for x in (k, n, lost))
    with np.errstate(divide="ignore"):
        nothing = np.log(lost) - np.log(k + 1.0) - np.log(psi(n + 2.0) - psi(1.0))
    return np.asarray(np.logaddexp(np.log1p(-lost) + log_chance, nothing))
