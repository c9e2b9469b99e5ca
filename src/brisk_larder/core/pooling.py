"""Learning from relatives: what tests of some cohorts say of all that share a crop, a place or a mother.

``d = house + crop + mother + places + its own``: shared effects, each a normal about zero, weighted by a
loading. Tests enter as their likelihood over d on a grid (``belief.told``), never as a number. The joint
posterior of the shared effects is found by expectation propagation (T. Minka 2001; Rasmussen and
Williams 2006, 3.6): each cohort's tests stand for a normal in the one sum of effects they speak of. How
the variance splits among the effects is not known and not fixed: several splits are tried and averaged by
how likely each makes all tests together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .moisture import Floats
from .worlds import COUNT, Ranks, Z, ranks

SWEEPS = 30
_SETTLED = 1e-4
_DAMPING = 0.8
_LEAST_WEIGHT = 0.01
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Split:
    """How the variance of log10 sigma about the book splits, as shares of the book's own, and the whole of
    it against the book's (``scale``); what is left is each cohort's own."""

    house: float
    crop: float
    node: float
    mother: float
    scale: float


# what a household may turn out to be like, from all alike by kind to no two lots alike
SPLITS = tuple(
    Split(*shares, scale)
    for scale in (0.6, 1.0, 1.8)
    for shares in (
        (0.05, 0.60, 0.12, 0.08),
        (0.05, 0.30, 0.30, 0.08),
        (0.25, 0.02, 0.40, 0.03),
        (0.02, 0.02, 0.02, 0.02),
    )
)


@dataclass(frozen=True)
class Kin:
    """Whose relative each row is [L]: crop and mother by number (mother -1: none known), the share of its
    ageing that it spent in each node [L, N], the sd of log10 sigma of the book and that of its record of
    climate, which belongs to the nodes it lay in. ``names``: of crops, nodes and mothers, for their draws.
    """

    crop: Ints
    mother: Ints
    node_share: Floats
    book_sd: Floats
    record_sd: Floats
    crops: Sequence[str]
    nodes: Sequence[str]
    mothers: Sequence[str]

    @property
    def effects(self) -> list[str]:
        """Names of the shared effects, in the order of the loadings' columns."""
        return ["house", *self.crops, *self.nodes, *self.mothers]

    def loadings(self, split: Split) -> tuple[Floats, Floats]:
        """Loading of each row on each effect [L, E], and the variance that is its own [L]."""
        rows = np.arange(len(self.crop))
        book = split.scale * self.book_sd**2
        x = np.zeros((len(rows), len(self.effects)))
        x[:, 0] = np.sqrt(split.house * book)
        x[rows, 1 + self.crop] = np.sqrt(split.crop * book)
        at = 1 + len(self.crops)
        length = np.sqrt((self.node_share**2).sum(axis=1))
        by_record = np.divide(self.record_sd, length, out=np.zeros_like(length), where=length > 0)
        per_share = np.sqrt(split.node * book + by_record**2)
        x[:, at : at + len(self.nodes)] = self.node_share * per_share[:, None]
        known = np.flatnonzero(self.mother >= 0)
        at += len(self.nodes)
        x[known, at + self.mother[known]] = np.sqrt(split.mother * book[known])
        own = book + self.record_sd**2 - (x**2).sum(axis=1)
        return x, np.maximum(own, 1e-6)


@dataclass(frozen=True)
class Sites:
    """What the tests of T cohorts say: the row of each, and its log likelihood [T, D] over d [D]."""

    row: Ints
    d: Floats
    like: Floats


@dataclass(frozen=True)
class _Joint:
    """Posterior of the effects under one split: log evidence, their mean [E] and covariance [E, E]; the
    normals that stand for the tests, precision and precision times mean [T]."""

    log_evidence: float
    mean: Floats
    cov: Floats
    tau: Floats
    nu: Floats
    x: Floats
    own: Floats


def _tilted(sites: Sites, mean: Floats, var: Floats) -> tuple[Floats, Floats, Floats]:
    """log of the chance of the tests, mean and variance of d [T], where d was normal before them."""
    z2 = (sites.d[None, :] - mean[:, None]) ** 2 / var[:, None]
    log_p = sites.like - 0.5 * z2
    top = log_p.max(axis=1, keepdims=True)
    p = np.exp(log_p - top)
    total = p.sum(axis=1)
    step = sites.d[1] - sites.d[0]
    log_z = top[:, 0] + np.log(total * step) - 0.5 * np.log(2 * np.pi * var)
    m = (p @ sites.d) / total
    v = (p @ sites.d**2) / total - m**2
    return log_z, m, np.maximum(v, step**2 / 12)


def _propagate(kin: Kin, sites: Sites, split: Split) -> _Joint:
    x_all, own_all = kin.loadings(split)
    x, own = x_all[sites.row], own_all[sites.row]
    effects = x.shape[1]
    tau, nu = np.zeros(len(x)), np.zeros(len(x))
    log_z = np.zeros(len(x))
    cavity = np.zeros(len(x)), np.ones(len(x))
    cov: Floats = np.eye(effects)
    mean: Floats = np.zeros(effects)
    for _ in range(SWEEPS):
        v = np.einsum("te,te->t", x @ cov, x)
        m = x @ mean
        rest = 1.0 - tau * v
        v_c, m_c = v / rest, (m - nu * v) / rest
        log_z, m_d, v_d = _tilted(sites, m_c, v_c + own)
        part = v_c / (v_c + own)
        new_m = m_c + part * (m_d - m_c)
        new_v = v_c * (1 - part) + part**2 * v_d
        # tests never make a sum of effects less sure: what would is left out
        new_tau = np.maximum(1 / new_v - 1 / v_c, 0.0)
        new_nu = np.where(new_tau > 0, new_m / new_v - m_c / v_c, 0.0)
        moved = np.abs(new_tau - tau) * v_c + np.abs(new_nu - nu) * np.sqrt(v_c)
        tau += _DAMPING * (new_tau - tau)
        nu += _DAMPING * (new_nu - nu)
        cavity = m_c, v_c
        cov = np.asarray(np.linalg.inv(np.eye(effects) + (x.T * tau) @ x), dtype=float)
        mean = cov @ (x.T @ nu)
        if moved.max(initial=0.0) < _SETTLED:
            break
    m_c, v_c = cavity
    after = 1 / (1 / v_c + tau)
    at = after * (m_c / v_c + nu)
    normal = 0.5 * np.log(after / v_c) + 0.5 * (at**2 / after - m_c**2 / v_c)
    evidence = float((log_z - normal).sum())
    evidence += 0.5 * float(np.linalg.slogdet(cov)[1]) + 0.5 * float(mean @ (x.T @ nu))
    return _Joint(evidence, mean, cov, tau, nu, x_all, own_all)


@dataclass(frozen=True)
class Pooled:
    """What relatives say of each of L rows before its own cohort's tests: mean and sd of d [L]; the share of
    what is not known of d, all tests told, that it shares with its relatives [L]; how likely each split is,
    and the mean of them."""

    d_mean: Floats
    d_sd: Floats
    shared: Floats
    splits: Sequence[tuple[Split, float]]

    @property
    def split(self) -> Split:
        """The splits' mean, as shares of the book's own variance (``scale`` 1)."""

        def of(name: str) -> float:
            return float(sum(w * s.scale * getattr(s, name) for s, w in self.splits))

        return Split(of("house"), of("crop"), of("node"), of("mother"), 1.0)


def together(kin: Kin, split: Split, shared: Floats, cohorts: Sequence[str]) -> Ranks:
    """Rank of each row's d in each world [L, S]: rows move together by what they share.

    ``shared`` [L]: the share of each row's doubt that is not its own; ``cohorts``: the name of each row's
    cohort, for what is. Rows of one cohort in one place move as one.
    """
    if not len(cohorts):
        return np.empty((0, COUNT), dtype=np.int64)
    x, _ = kin.loadings(split)
    length = np.sqrt((x**2).sum(axis=1, keepdims=True))
    effects = Z[ranks([f"effect:{name}" for name in kin.effects])]
    both = np.divide(x, length, out=np.zeros_like(x), where=length > 0) @ effects
    part = np.clip(np.where(length[:, 0] > 0, shared, 0.0), 0.0, 1.0)[:, None]
    state = np.sqrt(part) * both + np.sqrt(1 - part) * Z[ranks(cohorts)]
    return np.argsort(np.argsort(state, axis=1, kind="stable"), axis=1, kind="stable")


def relatives(kin: Kin, sites: Sites, cohort: Ints, splits: Sequence[Split] = SPLITS) -> Pooled:
    """What relatives say of each row's d, its own cohort's tests left out.

    ``cohort`` [L]: the cohort of each row by number; ``sites`` has one entry for each tested cohort.
    """
    rows = len(kin.crop)
    site_by_cohort = {int(cohort[r]): j for j, r in enumerate(sites.row)}
    site_of = np.array([site_by_cohort.get(int(c), -1) for c in cohort], dtype=np.intp)
    joints = [_propagate(kin, sites, split) for split in splits]
    log_w = np.array([j.log_evidence for j in joints])
    weight = np.exp(log_w - log_w.max())
    weight /= weight.sum()
    kept = [i for i, w in enumerate(weight) if w >= _LEAST_WEIGHT]
    weight = weight[kept] / weight[kept].sum()
    mean, second, common = np.zeros(rows), np.zeros(rows), np.zeros(rows)
    for w, joint in zip(weight, (joints[i] for i in kept), strict=True):
        m, v = _without_own(joint, sites, site_of)
        mean += w * m
        second += w * (v + joint.own + m**2)
        common += w * _shared(joint, site_of)
    return Pooled(
        mean,
        np.sqrt(np.maximum(second - mean**2, 1e-6)),
        common,
        [(splits[i], float(w)) for i, w in zip(kept, weight, strict=True)],
    )


def _shared(joint: _Joint, site_of: Ints) -> Floats:
    """Share of each row's variance of d after all tests that lies in the shared effects [L]."""
    v = np.einsum("le,le->l", joint.x @ joint.cov, joint.x)
    tau = np.where(site_of >= 0, joint.tau[np.maximum(site_of, 0)] if len(joint.tau) else 0.0, 0.0)
    # given its relatives, its own tests leave it this share of what was its own
    kept = np.clip(1.0 - tau * joint.own, 0.0, 1.0)
    return np.asarray(kept * v / (kept * v + joint.own))


def _without_own(joint: _Joint, sites: Sites, site_of: Ints) -> tuple[Floats, Floats]:
    """Mean and variance of each row's sum of effects, the site of its own cohort taken out [L]."""
    spread = joint.x @ joint.cov
    m, v = joint.x @ joint.mean, np.einsum("le,le->l", spread, joint.x)
    tested = np.flatnonzero(site_of >= 0)
    if not len(tested):
        return m, v
    site = site_of[tested]
    other = joint.x[sites.row[site]]
    both = np.einsum("le,le->l", spread[tested], other)
    theirs = np.einsum("le,le->l", other @ joint.cov, other)
    tau, nu = joint.tau[site], joint.nu[site]
    rest = np.maximum(1.0 - tau * theirs, 1e-6)
    m[tested] += both * (tau * (other @ joint.mean) - nu) / rest
    v[tested] += both**2 * tau / rest
    return m, v
