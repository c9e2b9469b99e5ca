"""A bag of several years or harvests: its germination is the sum of share times the part's own.

Parts are taken as independent; the shares themselves may be uncertain. Distributions are weighted
nodes (``belief.Germination``); products of two are packed again into equal shares, so that many parts cost
no more than two at a time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .belief import Germination, log_beta_binomial, log_over_ceilings
from .errors import InvalidValue
from .moisture import Floats

NODES = 63
_SHARE_Z, _SHARE_W = np.polynomial.hermite_e.hermegauss(7)
_SHARE_W = _SHARE_W / _SHARE_W.sum()


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


def pack(values: Floats, weight: Floats, nodes: int = NODES) -> Germination:
    """Weighted values [T, K] as ``nodes`` values of equal weight (means of equal slices)."""
    order = np.argsort(values, axis=1)
    v = np.take_along_axis(values, order, axis=1)
    w = np.take_along_axis(np.broadcast_to(weight, values.shape), order, axis=1)
    w = w / w.sum(axis=1, keepdims=True)
    # the exact mean of each slice: differences of the integral of the quantile function
    mass = np.concatenate([np.zeros((len(v), 1)), np.cumsum(w, axis=1)], axis=1)
    area = np.concatenate([np.zeros((len(v), 1)), np.cumsum(w * v, axis=1)], axis=1)
    edges = np.linspace(0.0, 1.0, nodes + 1)
    at = np.array([np.interp(edges, m / m[-1], a) for m, a in zip(mass, area, strict=True)])
    return Germination(np.diff(at, axis=1) * nodes, np.full((len(v), nodes), 1.0 / nodes))


def _pair(one: Germination, other: Germination, share: float, sd: float) -> tuple[Floats, Floats]:
    """Values and weights [T, K] of (1 - share) one + share other; share ~ N(share, sd) in 0-1."""
    shares = np.clip(share + sd * _SHARE_Z, 0.0, 1.0)
    values = (1 - shares)[:, None, None] * one.g[:, None, :, None] + shares[
        :, None, None
    ] * other.g[:, None, None, :]
    weight = _SHARE_W[:, None, None] * one.weight[:, None, :, None] * other.weight[:, None, None, :]
    rows = len(one.g)
    return values.reshape(rows, -1), np.broadcast_to(weight, values.shape).reshape(rows, -1)


def mix(parts: Sequence[Germination], share_mean: Floats, share_sd: Floats) -> Germination:
    """Germination of a mixture: parts G [T, K], shares [N] of one sum. Raises InvalidValue if empty.

    Shares are scaled to sum to one; parts join one after another.
    """
    total = float(np.sum(share_mean))
    if not parts or total <= 0:
        raise InvalidValue("shares", total, "shares of the parts that add up to more than nothing")
    joined, held = parts[0], float(share_mean[0])
    for part, mean, sd in zip(parts[1:], share_mean[1:], share_sd[1:], strict=True):
        held += float(mean)
        values, weight = _pair(joined, part, float(mean) / held, float(sd) / held)
        joined = pack(values, weight)
    return joined


def mix_quantiles(mixed: Germination, q: Sequence[float]) -> Floats:
    """Quantiles [T, Q] of weighted nodes G [T, K]."""
    order = np.argsort(mixed.g, axis=1)
    g = np.take_along_axis(mixed.g, order, axis=1)
    w = np.take_along_axis(mixed.weight, order, axis=1)
    middle = np.cumsum(w, axis=1) - 0.5 * w
    return np.array([np.interp(q, m, v) for m, v in zip(middle, g, strict=True)])


def taught(
    parts: Sequence[Germination],
    share_mean: Floats,
    share_sd: Floats,
    n: float,
    k: float,
    *,
    ceiling: tuple[float, float, float] = (1.0, 1.0, 1.0),
    rho: float,
    weight: float = 1.0,
) -> list[Floats]:
    """New node weights [K] of each part after k of n came up in a test of the mixture.

    The product of the parts' nodes is re-weighted by the test and each part keeps its marginal;
    parts are single rows G [1, K].
    """
    out = []
    for i, part in enumerate(parts):
        rest = [j for j in range(len(parts)) if j != i]
        if not rest:
            likely = _likely(part.g[0], n, k, ceiling, rho, weight)
        else:
            others = mix([parts[j] for j in rest], share_mean[rest], share_sd[rest])
            share = float(share_mean[i] / share_mean.sum())
            shares = np.clip(share + float(share_sd[i]) * _SHARE_Z, 0.0, 1.0)
            g = (
                shares[:, None, None] * part.g[0][None, :, None]
                + (1 - shares)[:, None, None] * others.g[0][None, None, :]
            )
            all_of = _likely(g, n, k, ceiling, rho, weight)
            likely = np.einsum("skm,s,m->k", all_of, _SHARE_W, others.weight[0])
        new = part.weight[0] * likely
        out.append(new / new.sum())
    return out


def _likely(
    g: Floats, n: float, k: float, ceiling: tuple[float, float, float], rho: float, weight: float
) -> Floats:
    up = np.asarray(k, dtype=float)

    def log_chance(could: Floats) -> Floats:
        return log_beta_binomial(up, n, np.clip(g * could[0], 1e-6, 1 - 1e-6), rho)

    log_l = weight * log_over_ceilings(np.array([ceiling]), log_chance)
    return np.asarray(np.exp(log_l - log_l.max()))


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
