"""What comes up in soil of seed that would germinate: learnt of each kind and setting from counted sowings.

A cold bed is not dead seed. The logit of a sowing's emergence is a normal sum of the book's figure, what is
common to all sowings of a setting (this garden, this windowsill), what is common to the kind there, and
the sowing's own luck; germination is known from tests and storage, apart from any sowing. Expectation
propagation over the sowings (Minka 2001), one site each; what one sowing says of its seed is read with
its emergence as all the *others* let it expect.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, polygamma, psi

from ..base.figures import EmergingFigures
from ..base.kernels import tilted_loop
from ..storage.moisture import Floats
from .counting import HERMITE_W, log_beta_binomial, or_lost
from .plants import Emergence

Ints = NDArray[np.intp]
_X = np.linspace(-7.0, 7.0, 141)
_NODES, _NODE_W = np.polynomial.hermite_e.hermegauss(31)
_SWEEPS, _STEP, _STILL = 60, 0.7, 1e-5
_LEAST_TAU = -0.2  # of what the prior knows: a sowing that may tell nothing is no normal news


@dataclass(frozen=True)
class Pairs:
    """Kinds in settings [P]: the emergence that the book promises (a beta's mean), and each one's setting by
    number; ``weight``: of that beta."""

    mean: Floats
    setting: Ints
    weight: float


@dataclass(frozen=True)
class CountedSowings:
    """Sowings with their last count [J]: the pair of each by number, n sown, k up, ``g`` [J, K] germination
    by tests and storage alone as equally likely values, ``could`` [J, 3] nodes of the share that could be up
    by the day of the count."""

    pair: Ints
    n: Floats
    k: Floats
    g: Floats
    could: Floats


@dataclass(frozen=True)
class Emerging:
    """What was learnt: the emergence of a next sowing of each pair [P]; and of each sowing [J] mean and sd of
    the logit of its emergence as all the others let it expect, and the chance that it failed whatever its
    seed."""

    pairs: list[Emergence]
    x_mean: Floats
    x_sd: Floats
    failed: Floats


def as_logit(mean: Floats, weight: float) -> tuple[Floats, Floats]:
    """Mean and variance of the logit of a beta of this mean and weight (Johnson & Kotz 1970)."""
    a, b = mean * weight, (1.0 - mean) * weight
    return np.asarray(psi(a) - psi(b)), np.asarray(polygamma(1, a) + polygamma(1, b))


def _as_beta(mean: Floats, variance: Floats) -> tuple[Floats, Floats]:
    """Mean and weight of the beta with the mean and variance of a logit-normal."""
    e = expit(mean[:, None] + np.sqrt(variance)[:, None] * _NODES)
    w = _NODE_W / _NODE_W.sum()
    m = e @ w
    v = np.maximum((e - m[:, None]) ** 2 @ w, 1e-9)
    return m, m * (1 - m) / v - 1.0


def log_likelihood(s: CountedSowings, f: EmergingFigures) -> Floats:
    """log chance of each count at each logit of emergence on the grid [J, X]; with a small chance a sowing
    tells nothing (drowned, scratched out, eaten)."""
    out = np.empty((len(s.n), len(_X)))
    e = expit(_X)
    for j in range(len(s.n)):
        k, n = np.array(s.k[j]), float(s.n[j])
        p = np.clip(e[:, None, None] * s.g[j][None, :, None] * s.could[j], 1e-7, 1 - 1e-7)
        chance = np.exp(log_beta_binomial(k, n, p, f.sowing_rho)) @ HERMITE_W
        out[j] = or_lost(np.log(np.maximum(chance.mean(axis=1), 1e-300)), k, n, f.lost)
    return out


def learn(pairs: Pairs, sowings: CountedSowings, f: EmergingFigures) -> Emerging:
    """What all counted sowings say of emergence. With none the book's figures come back unchanged."""
    mu, var = as_logit(pairs.mean, pairs.weight)
    at, scale = sowings.pair, np.sqrt(var)
    count = len(at)

    def common(one: Ints, other: Ints) -> Floats:
        same_setting = pairs.setting[one][:, None] == pairs.setting[other][None, :]
        same_pair = one[:, None] == other[None, :]
        both = f.share_setting * same_setting + f.share_kind * same_pair
        return np.asarray(both * scale[one][:, None] * scale[other][None, :])

    own = 1.0 - f.share_setting - f.share_kind
    prior = common(at, at) + np.diag(own * var[at])
    like = log_likelihood(sowings, f)
    tau, nu = np.zeros(count), np.zeros(count)  # of the deviation from the book
    log_z, m, v = np.empty(count), np.empty(count), np.empty(count)
    eye = np.eye(count)
    mean, spread = np.zeros(count), np.diag(prior).copy()
    away, wide = mean, spread
    for _ in range(_SWEEPS if count else 0):
        rest = np.maximum(1.0 / spread - tau, 0.05 / np.diag(prior))
        away, wide = (mean / spread - nu) / rest, 1.0 / rest
        tilted_loop(_X, like, mu[at] + away, wide, log_z, m, v)
        new_tau = np.maximum(1.0 / v - rest, _LEAST_TAU / np.diag(prior))
        new_nu = (m - mu[at]) * (new_tau + rest) - away * rest
        moved = float(max(np.abs(new_tau - tau).max(), np.abs(new_nu - nu).max()))
        tau, nu = tau + _STEP * (new_tau - tau), nu + _STEP * (new_nu - nu)
        inner = np.linalg.solve(eye + tau[:, None] * prior, np.column_stack([nu, np.diag(tau)]))
        mean = prior @ inner[:, 0]
        spread = np.diag(prior) - np.einsum("ij,ji->i", prior @ inner[:, 1:], prior)
        if moved < _STILL:
            break
    everyone = np.arange(len(pairs.mean), dtype=np.intp)
    cross = common(everyone, at)
    inner = np.linalg.solve(eye + tau[:, None] * prior, np.column_stack([nu, np.diag(tau)]))
    then = mu + cross @ inner[:, 0]
    doubt = var - np.einsum("pj,jp->p", cross @ inner[:, 1:], cross.T)
    # a beta is not quite a logit-normal: only what was learnt is carried over
    (m0, w0), (m1, w1) = _as_beta(mu, var), _as_beta(then, np.maximum(doubt, 1e-4))
    means = np.clip(pairs.mean + m1 - m0, 0.01, 0.995)
    weights = pairs.weight * w1 / w0
    learnt = [Emergence(float(a), float(b)) for a, b in zip(means, weights, strict=True)]
    failed = _failed(sowings, like, mu[at] + away, wide, f)
    return Emerging(learnt, mu[at] + away, np.sqrt(wide), failed)


def _failed(
    s: CountedSowings, like: Floats, mean: Floats, variance: Floats, f: EmergingFigures
) -> Floats:
    """Chance that each sowing said nothing of its seed [J], ``like`` [J, X] of its count."""
    w = np.exp(-0.5 * (_X - mean[:, None]) ** 2 / variance[:, None])
    chance = (w * np.exp(like)).sum(axis=1) / w.sum(axis=1)
    lost = np.exp(or_lost(np.full(len(s.n), -np.inf), s.k, s.n, f.lost))
    return np.asarray(np.clip(lost / np.maximum(chance, 1e-300), 0.0, 1.0))


def could_come_up(x_mean: float, x_sd: float, could: tuple[float, float, float]) -> Floats:
    """Nodes [3] of the share of living seed that may be up in a sowing: its emergence as expected (mean and
    sd of its logit) times what could be up by the day, ``could``."""
    pace = np.log(could[2] / could[0]) / (2 * np.sqrt(3.0))
    reach = np.sqrt(3.0) * np.hypot(x_sd, pace)
    return np.asarray(expit(x_mean + reach * np.array([-1.0, 0.0, 1.0])) * could[1])
