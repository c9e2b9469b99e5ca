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
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from ..base.kernels import in_shares, quadratic_loop, tilted_loop
from ..storage.moisture import Floats
from .worlds import COUNT, Ranks, Z, ranks

SWEEPS, FIRST_LOOK = 30, 2
FAR_BEHIND = 12.0  # log chance: a split so much less likely after a first look is left out
_SETTLED = 1e-6  # so near that a fit from the last one and one from the start are rounded alike
_DAMPING = 0.8
_LEAST_REST = 0.02
_STEPS, _FEW_NEW = 8, 3  # fits that set out from the last; cohorts with news in each
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


USUAL = Split(
    *(
        float(np.mean([getattr(s, n) for s in SPLITS]))
        for n in ("house", "crop", "node", "mother", "scale")
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


def held_back(like: Floats, d: Floats, steepest: float) -> Floats:
    """What the tests of each cohort say of its d to its relatives [T, D] (log), no cohort louder than so
    much: its slope over d [D] is kept within ``steepest``, as in Huber (1964). One dead packet, which may be
    a dud by itself, does not condemn all. The order of news stays: where fewer came up the slope is lower at
    every d, held back or not, so that bad news never reads better."""
    slope = np.clip(np.diff(like, axis=1) / np.diff(d), -steepest, steepest)
    return np.concatenate([np.zeros((len(like), 1)), np.cumsum(slope * np.diff(d), axis=1)], axis=1)


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
    log_z, m, v = (np.empty(len(mean)) for _ in range(3))

    def some(part: slice) -> None:
        tilted_loop(sites.d, sites.like[part], mean[part], var[part], log_z[part], m[part], v[part])

    in_shares(len(mean), some)
    return log_z, m, v


def _propagate(
    kin: Kin,
    sites: Sites,
    split: Split,
    begin: tuple[Floats, Floats] | None = None,
    sweeps: int = SWEEPS,
) -> _Joint:
    """``begin``: precision and precision times mean of the sites of another split, to set out from."""
    # long: one sweep after another, and the evidence from where the last one ends
    x_all, own_all = kin.loadings(split)
    own = own_all[sites.row]
    spoken_of = np.flatnonzero(
        (x_all[sites.row] != 0).any(axis=0)
    )  # of the others nothing is learnt
    x = csr_array(x_all[np.ix_(sites.row, spoken_of)])  # each row knows a handful of effects
    count, effects = x.shape
    v = np.empty(count)
    tau, nu = (np.zeros(count), np.zeros(count)) if begin is None else (b.copy() for b in begin)
    log_z = np.zeros(count)
    cavity = np.zeros(count), np.ones(count)

    def posterior() -> tuple[Floats, Floats]:
        while True:
            told: Any = (x.T * tau) @ x
            precision = np.eye(effects) + told.toarray()
            if (tau >= 0).all() or float(np.linalg.eigvalsh(precision)[0]) > _LEAST_REST:
                break
            np.maximum(tau, 0.0, out=tau)  # news that unsettles, all at once: too much of it
        cov = np.asarray(np.linalg.inv(precision), dtype=float)
        return cov, np.asarray(cov @ (x.T @ nu))

    cov, mean = posterior()
    for _ in range(sweeps):
        quadratic_loop(x.indptr, x.indices, x.data, cov, v)
        m = x @ mean
        # all sites move at once: one that would have nothing left without its own waits for the others
        rest = 1.0 - tau * v
        steady = rest > _LEAST_REST
        rest = np.where(steady, rest, 1.0)
        v_c, m_c = v / rest, np.where(steady, (m - nu * v) / rest, m)
        log_z, m_d, v_d = _tilted(sites, m_c, v_c + own)
        part = v_c / (v_c + own)
        new_m = m_c + part * (m_d - m_c)
        new_v = v_c * (1 - part) + part**2 * v_d
        # news may leave a sum of effects less sure than before; never by much
        new_v = np.minimum(new_v, 1.4 * v_c)
        new_tau = np.where(steady, 1 / new_v - 1 / v_c, 0.5 * tau)
        new_nu = np.where(steady, new_m / new_v - m_c / v_c, 0.5 * nu)
        moved = np.abs(new_tau - tau) * v_c + np.abs(new_nu - nu) * np.sqrt(v_c)
        tau += _DAMPING * (new_tau - tau)
        nu += _DAMPING * (new_nu - nu)
        cavity = m_c, v_c
        cov, mean = posterior()
        if moved.max(initial=0.0) < _SETTLED:
            break
    m_c, v_c = cavity
    after = 1 / (1 / v_c + tau)
    at = after * (m_c / v_c + nu)
    normal = 0.5 * np.log(after / v_c) + 0.5 * (at**2 / after - m_c**2 / v_c)
    evidence = float((log_z - normal).sum())
    evidence += 0.5 * float(np.linalg.slogdet(cov)[1]) + 0.5 * float(mean @ (x.T @ nu))
    whole, middle = np.eye(x_all.shape[1]), np.zeros(x_all.shape[1])
    whole[np.ix_(spoken_of, spoken_of)], middle[spoken_of] = cov, mean
    return _Joint(evidence, middle, whole, tau, nu, x_all, own_all)


@dataclass(frozen=True)
class Fitted:
    """Where a fit ended, for the next to set out from: the cohorts tested [T], what their tests said [T, D];
    of each split how likely it was (log) [S] and the precision and precision times mean that stood for each
    test [S, T]; how many fits have set out from one another."""

    cohorts: Ints
    like: Floats
    log_weight: Floats
    tau: Floats
    nu: Floats
    steps: int = 0

    def at(self, cohorts: Ints) -> Ints:
        """Where some cohorts stand in it; -1: nowhere."""
        known = {c: j for j, c in enumerate(self.cohorts.tolist())}
        return np.array([known.get(c, -1) for c in cohorts.tolist()], dtype=np.intp)

    def near(self, splits: Sequence[Split], cohorts: Ints, like: Floats) -> bool:
        """Whether the tests of these cohorts say nearly what was said then."""
        if self.steps >= _STEPS or len(self.tau) != len(splits):
            return False
        at = self.at(cohorts)
        there = at >= 0
        gone = len(self.cohorts) - np.count_nonzero(there)
        other = (self.like[at[there]] != like[there]).any(axis=1)
        return int(gone + np.count_nonzero(~there) + np.count_nonzero(other)) <= _FEW_NEW

    def of(self, cohorts: Ints) -> list[tuple[Floats, Floats]]:
        """What stood for the tests of some cohorts under each split; none where there was none."""
        at = self.at(cohorts)
        none = np.zeros((len(self.tau), 1))  # what no place is found for has the last
        tau, nu = (np.hstack([x, none])[:, at] for x in (self.tau, self.nu))
        return list(zip(tau, nu, strict=True))


@dataclass(frozen=True)
class Pooled:
    """What relatives say of each of L rows before its own cohort's tests: mean and sd of d [L]; the share of
    what is not known of d, all tests told, that it shares with its relatives [L]; ``d_mean`` as a sum of what
    the house, the crop, the places and the mother line say [L, 4]; log10 of how much longer than by the book
    seed of each crop keeps in this house, and its sd [C], all tests told; how likely each split is; where the
    fit ended."""

    d_mean: Floats
    d_sd: Floats
    shared: Floats
    because: Floats
    crop_mean: Floats
    crop_sd: Floats
    splits: Sequence[tuple[Split, float]]
    fitted: Fitted


def together(kin: Kin, shared: Floats, cohorts: Sequence[str], split: Split | None = None) -> Ranks:
    """Rank of each row's d in each world [L, S]: rows move together by what they share.

    ``shared`` [L]: the share of each row's doubt that is not its own, dealt to its effects as in ``split``
    (None: as in the mean of all that are tried, so that a test moves no order); ``cohorts``: the name of each
    row's cohort, for what is. Rows of one cohort in one place move as one.
    """
    if not len(cohorts):
        return np.empty((0, COUNT), dtype=np.int64)
    x, _ = kin.loadings(split or USUAL)
    length = np.sqrt((x**2).sum(axis=1, keepdims=True))
    effects = Z[ranks([f"effect:{name}" for name in kin.effects])]
    both = np.divide(x, length, out=np.zeros_like(x), where=length > 0) @ effects
    part = np.clip(np.where(length[:, 0] > 0, shared, 0.0), 0.0, 1.0)[:, None]
    state = np.sqrt(part) * both + np.sqrt(1 - part) * Z[ranks(cohorts)]
    return np.argsort(np.argsort(state, axis=1, kind="stable"), axis=1, kind="stable")


def _first_looks(kin: Kin, sites: Sites, cohorts: Ints, splits: Sequence[Split]) -> Fitted:
    """A first look at each split, each setting out from where the last one came to."""
    joints: list[_Joint] = []
    for split in splits:
        begin = (joints[-1].tau, joints[-1].nu) if joints else None
        joints.append(_propagate(kin, sites, split, begin, SWEEPS if begin is None else FIRST_LOOK))
    log_w, tau, nu = (
        np.array([getattr(j, n) for j in joints]) for n in ("log_evidence", "tau", "nu")
    )
    return Fitted(cohorts, sites.like, log_w, tau, nu)


def relatives(
    kin: Kin,
    sites: Sites,
    cohort: Ints,
    splits: Sequence[Split] = SPLITS,
    last: Fitted | None = None,
) -> Pooled:
    """What relatives say of each row's d, its own cohort's tests left out.

    ``cohort`` [L]: the cohort of each row by number; ``sites`` has one entry for each tested cohort;
    ``last``: where the fit before ended. From there a fit with one more test comes to where one from the
    start does, in a fraction of the time; splits that were far behind then are not looked at.
    """
    rows = len(kin.crop)
    site_by_cohort = {int(cohort[r]): j for j, r in enumerate(sites.row)}
    site_of = np.array([site_by_cohort.get(int(c), -1) for c in cohort], dtype=np.intp)
    tested = cohort[sites.row]
    if last is None or not last.near(splits, tested, sites.like):
        last = _first_looks(kin, sites, tested, splits)
    begins = last.of(tested)
    log_w = last.log_weight.copy()
    joints: dict[int, _Joint] = {}
    for i in np.flatnonzero(log_w > log_w.max() - FAR_BEHIND).tolist():
        joints[i] = _propagate(kin, sites, splits[i], begins[i])
        log_w[i] = joints[i].log_evidence
        begins[i] = joints[i].tau, joints[i].nu
    tau, nu = (np.array([begin[k] for begin in begins]) for k in (0, 1))
    fitted = Fitted(tested, sites.like, log_w, tau, nu, last.steps + 1)
    weight = np.exp(log_w - log_w.max())
    weight /= weight.sum()
    kept = [i for i, w in enumerate(weight) if w >= _LEAST_WEIGHT and i in joints]
    weight = weight[kept] / weight[kept].sum()
    because, second, common = np.zeros((rows, 4)), np.zeros(rows), np.zeros(rows)
    crop_mean, crop_second = np.zeros(len(kin.crops)), np.zeros(len(kin.crops))
    edges = np.cumsum([0, 1, len(kin.crops), len(kin.nodes)])
    for w, joint in zip(weight, (joints[i] for i in kept), strict=True):
        towards = joint.x @ joint.cov
        all_told = np.einsum("le,le->l", towards, joint.x)
        each, v = _without_own(joint, towards, all_told, sites, site_of)
        m = each.sum(axis=1)
        because += w * np.add.reduceat(np.pad(each, ((0, 0), (0, 1))), edges, axis=1)
        second += w * (v + joint.own + m**2)
        common += w * _shared(joint, all_told, site_of)
        m, v = _by_crop(kin, joint)
        crop_mean += w * m
        crop_second += w * (v + m**2)
    mean = because.sum(axis=1)
    return Pooled(
        mean,
        np.sqrt(np.maximum(second - mean**2, 1e-6)),
        common,
        because,
        crop_mean,
        np.sqrt(np.maximum(crop_second - crop_mean**2, 1e-9)),
        [(splits[i], float(w)) for i, w in zip(kept, weight, strict=True)],
        fitted,
    )


def _by_crop(kin: Kin, joint: _Joint) -> tuple[Floats, Floats]:
    """Mean and variance of what is common to all seed of each crop in this house [C]."""
    x = np.zeros((len(kin.crops), joint.x.shape[1]))
    for c in np.unique(kin.crop).tolist():
        one = int(np.flatnonzero(kin.crop == c)[0])
        x[c, 0], x[c, 1 + c] = joint.x[one, 0], joint.x[one, 1 + c]
    return x @ joint.mean, np.einsum("ce,ce->c", x @ joint.cov, x)


def _shared(joint: _Joint, v: Floats, site_of: Ints) -> Floats:
    """Share of each row's variance of d after all tests that lies in the shared effects (theirs: v) [L]."""
    tau = np.where(site_of >= 0, joint.tau[np.maximum(site_of, 0)] if len(joint.tau) else 0.0, 0.0)
    # given its relatives, its own tests leave it this share of what was its own
    kept = np.clip(1.0 - tau * joint.own, 0.0, 1.0)
    return np.asarray(kept * v / (kept * v + joint.own))


def _without_own(
    joint: _Joint, spread: Floats, all_told: Floats, sites: Sites, site_of: Ints
) -> tuple[Floats, Floats]:
    """Mean of each of a row's effects [L, E] and variance of their sum [L], the site of its own cohort taken
    out; ``spread`` [L, E] the covariance of a row's sum with each effect, ``all_told`` [L] its variance."""
    v = all_told.copy()
    mean = np.broadcast_to(joint.mean, joint.x.shape).copy()
    tested = np.flatnonzero(site_of >= 0)
    if len(tested):
        site = site_of[tested]
        lead = sites.row[site]
        other, towards, theirs = joint.x[lead], spread[lead], all_told[lead]
        both = np.einsum("le,le->l", towards, joint.x[tested])
        tau, nu = joint.tau[site], joint.nu[site]
        rest = np.maximum(1.0 - tau * theirs, 1e-6)
        mean[tested] += towards * ((tau * (other @ joint.mean) - nu) / rest)[:, None]
        v[tested] += both**2 * tau / rest
    return joint.x * mean, v
