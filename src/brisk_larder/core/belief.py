"""What a cohort's viability is: a belief, sharpened by every test.

``g = living * Phi(Ki - A * 10**-d)`` with ``log10 sigma_lot = log10 sigma_book + d`` (d > 0 keeps
longer). Prior: independent Gaussians in Ki and d; data: beta-binomial counts. The posterior is
taken on a 31 x 21 grid over +-4 sd and kept as one Gaussian in Ki per node of d.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import betaln, gammaln, ndtr, ndtri

from .figures import BeliefFigures
from .kernels import between_loop, in_shares, quantile_loop, until_loop
from .moisture import Floats

KI_NODES, D_NODES, REACH_SD = 31, 21, 4.0
_HERMITE_Z = np.array([-np.sqrt(3.0), 0.0, np.sqrt(3.0)])
_HERMITE_W = np.array([1 / 6, 2 / 3, 1 / 6])


@dataclass(frozen=True)
class Prior:
    """Per cohort [L]: probit at record start, log10 factor of sigma, share that could ever grow.

    ``d_sd**2`` holds the doubt of the book figure and that of the climate record together.
    """

    ki_mean: Floats
    ki_sd: Floats
    d_mean: Floats
    d_sd: Floats
    living: Floats


@dataclass(frozen=True)
class Counts:
    """One entry per test or counted sowing [N].

    row: index of the cohort; a: ageing in probits at the test; n sown, k viable;
    ceiling [N, 3]: share of the living that could show by the count day (waiting seed is not dead): low,
    middle and high node of its doubt;
    rho: beta-binomial overdispersion; weight: 1 for a sound test, less for a flawed one.
    """

    row: NDArray[np.intp]
    a: Floats
    n: Floats
    k: Floats
    ceiling: Floats
    rho: Floats
    weight: Floats

    def of(self, which: NDArray[np.bool_]) -> Counts:
        """Some of the entries."""
        return Counts(*(getattr(self, name)[which] for name in self.__dataclass_fields__))

    @staticmethod
    def none() -> Counts:
        """No data."""
        e = np.empty(0)
        return Counts(np.empty(0, dtype=np.intp), e, e, e, np.empty((0, 3)), e, e)


@dataclass(frozen=True)
class Belief:
    """Per cohort, one Gaussian in Ki for each of 21 nodes of d: all [L, 21]; living [L]."""

    d: Floats
    weight: Floats
    ki_mean: Floats
    ki_sd: Floats
    living: Floats

    def rows(self, index: NDArray[np.intp]) -> Belief:
        """The belief of some cohorts."""
        return Belief(
            self.d[index],
            self.weight[index],
            self.ki_mean[index],
            self.ki_sd[index],
            self.living[index],
        )


@dataclass(frozen=True)
class Germination:
    """A distribution of germination per row: nodes g and weights, both [L, 63]."""

    g: Floats
    weight: Floats


def living_share(typical_initial_pct: float, f: BeliefFigures) -> float:
    """Share of seed that could ever grow: the typical initial germination stands at a known probit."""
    return min(f.living_at_most, typical_initial_pct / 100 / float(ndtr(f.typical_at_probit)))


def quality(
    source: str, unknown_years: float | None, shock: tuple[float, float] | None, f: BeliefFigures
) -> tuple[float, float]:
    """What is believed of Ki (mean, sd, probits) before any test: by source; worse and wider for each
    year of doubt (None: its year is known; a year at least); less what it lost before it came here
    (``shock``: mean, sd)."""
    mean = float(getattr(f, f"ki_mean_{source}"))
    sd = float(getattr(f, f"ki_sd_{source}"))
    if unknown_years is not None:
        years = max(1.0, unknown_years)
        mean -= years * f.ki_mean_drop_per_unknown_year
        sd += years * f.ki_sd_rise_per_unknown_year
    if shock is not None:
        mean -= shock[0]
        sd = float(np.hypot(sd, shock[1]))
    return mean, sd


def doubt_of_record(sd_now: float, sd_ahead: float, record_days: float, f: BeliefFigures) -> float:
    """Doubt of log10 A: a record hardly begun knows little of its place, so the doubt of the years ahead
    counts, and fades as the record grows (by e in ``young_record_days``)."""
    extra = max(sd_ahead - sd_now, 0.0)
    return sd_now + extra * float(np.exp(-max(record_days, 0.0) / f.young_record_days))


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
    mean = sum(w * np.exp(x - top) for w, x in zip(_HERMITE_W, nodes, strict=True))
    return np.asarray(top + np.log(mean))


def fit(prior: Prior, counts: Counts) -> Belief:
    """Posterior of every cohort at once. Shapes as in Prior and Counts."""
    rows = len(prior.ki_mean)
    z_ki = np.linspace(-REACH_SD, REACH_SD, KI_NODES)
    z_d = np.linspace(-REACH_SD, REACH_SD, D_NODES)
    ki = prior.ki_mean[:, None] + prior.ki_sd[:, None] * z_ki
    d = prior.d_mean[:, None] + prior.d_sd[:, None] * z_d
    log_post = np.broadcast_to(
        -0.5 * (z_ki[:, None] ** 2 + z_d[None, :] ** 2), (rows, KI_NODES, D_NODES)
    ).copy()
    if len(counts.row):
        at = counts.row
        v = ki[at][:, :, None] - counts.a[:, None, None] * 10.0 ** -d[at][:, None, :]
        n, k, rho = (x[:, None, None] for x in (counts.n, counts.k, counts.rho))
        alive = prior.living[at][:, None, None] * ndtr(v)
        term = log_over_ceilings(
            counts.ceiling,
            lambda c: log_beta_binomial(
                k, n, np.clip(alive * c[:, None, None], 1e-6, 1.0 - 1e-6), rho
            ),
        )
        np.add.at(log_post, at, counts.weight[:, None, None] * term)
    log_post -= log_post.max(axis=(1, 2), keepdims=True)
    post = np.exp(log_post)
    by_d = post.sum(axis=1)
    mean = np.einsum("lkd,lk->ld", post, ki) / np.maximum(by_d, 1e-300)
    second = np.einsum("lkd,lk->ld", post, ki**2) / np.maximum(by_d, 1e-300)
    step = prior.ki_sd * (2 * REACH_SD / (KI_NODES - 1))
    sd = np.sqrt(np.maximum(second - mean**2, (step[:, None] ** 2) / 12.0))
    return Belief(d, by_d / by_d.sum(axis=1, keepdims=True), mean, sd, prior.living)


def after_shock(belief: Belief, mean: float, sd: float) -> Prior:
    """The prior of what comes after damage of unknown size ~ N(mean, sd) in probits [L].

    Mean and variance of Ki and of d are kept, their correlation is not: a little too wide, never
    too narrow (docs/model.md).
    """
    w = belief.weight
    ki = (w * belief.ki_mean).sum(axis=1)
    ki_var = (w * (belief.ki_sd**2 + belief.ki_mean**2)).sum(axis=1) - ki**2
    d = (w * belief.d).sum(axis=1)
    d_var = (w * belief.d**2).sum(axis=1) - d**2
    return Prior(
        ki - mean,
        np.sqrt(np.maximum(ki_var, 1e-6) + sd**2),
        d,
        np.sqrt(np.maximum(d_var, 1e-6)),
        belief.living,
    )


@dataclass(frozen=True)
class Shock:
    """Damage of unknown size at a time (epoch s): mean and sd in probits."""

    at_s: float
    mean: float
    sd: float


def shock_of(kind: str, at_s: float, f: BeliefFigures) -> Shock | None:
    """What an event of a kind does to seed; None when it does nothing that is known."""
    mean = getattr(f, f"shock_mean_{kind}", None)
    return None if mean is None else Shock(at_s, mean, getattr(f, f"shock_sd_{kind}"))


def shaken(
    prior: Prior, counts: Counts, when_s: Floats, shocks: Mapping[int, Sequence[Shock]]
) -> Belief:
    """Posterior where some rows were damaged, ``shocks`` by row in time order, ``when_s`` [N] of each
    count: tests before an event teach what went before it; it shakes the belief; later tests go on."""
    first = np.array([shocks[i][0].at_s if i in shocks else np.inf for i in counts.row])
    belief = fit(prior, counts.of(when_s < first))
    for i, row_shocks in shocks.items():
        mine = counts.row == i
        ends = [s.at_s for s in row_shocks[1:]] + [np.inf]
        for shock, end in zip(row_shocks, ends, strict=True):
            after = after_shock(belief.rows(np.array([i])), shock.mean, shock.sd)
            between = counts.of(mine & (when_s >= shock.at_s) & (when_s < end))
            alone = replace(between, row=np.zeros(len(between.row), dtype=np.intp))
            belief = put_rows(belief, np.array([i]), fit(after, alone))
    return belief


def put_rows(belief: Belief, at: NDArray[np.intp], new: Belief) -> Belief:
    """A belief with some rows replaced."""
    columns = []
    for name in ("d", "weight", "ki_mean", "ki_sd", "living"):
        whole = getattr(belief, name).copy()
        whole[at] = getattr(new, name)
        columns.append(whole)
    return Belief(*columns)


def chance_below(belief: Belief, a: Floats, level: Floats | float) -> Floats:
    """P(g < level) per row and date: ``a`` [L, T] -> [L, T]; level a fraction, or one per row [L]."""
    bar = np.asarray(level, dtype=float).reshape(-1, 1)
    share = np.clip(bar / belief.living[:, None], 1e-12, 1 - 1e-12)
    aged = a[:, :, None] * (10.0**-belief.d)[:, None, :]
    z = (ndtri(share)[..., None] + aged - belief.ki_mean[:, None, :]) / belief.ki_sd[:, None, :]
    below = np.einsum("ltd,ld->lt", ndtr(z), belief.weight)
    return np.where(bar >= belief.living[:, None], 1.0, below)


def quantiles(belief: Belief, a: Floats, q: tuple[float, ...]) -> Floats:
    """Quantiles of germination: ``a`` [L, T] in probits -> fractions [L, T, Q].

    The mixture's distribution function is inverted on the probit scale (1e-7).
    """
    out = np.empty((*a.shape, len(q)))
    b = belief
    given, wanted, factor = np.ascontiguousarray(a, dtype=float), np.array(q), 10.0**-b.d
    z = ndtri(wanted)

    def some(s: slice) -> None:
        quantile_loop(
            b.ki_mean[s],
            b.ki_sd[s],
            factor[s],
            b.weight[s],
            b.living[s],
            given[s],
            wanted,
            z,
            out[s],
        )

    in_shares(len(out), some, least=200)
    return out


def quantile_curve(belief: Belief, a: Floats, q: tuple[float, ...], knots: int = 24) -> Floats:
    """As ``quantiles``, for many dates: taken at ``knots`` values of A and drawn between on the
    probit scale, where quantiles are nearly straight in A (within 0.004, docs/model.md)."""
    if a.shape[1] <= knots:
        return quantiles(belief, a, q)
    low, high = a.min(axis=1), a.max(axis=1)
    grid = low[:, None] + (high - low)[:, None] * np.linspace(0.0, 1.0, knots) ** 2
    living = belief.living[:, None, None]
    at = ndtri(np.clip(quantiles(belief, grid, q) / living, 1e-12, 1 - 1e-12))
    out = np.empty((*a.shape, len(q)))
    between_loop(np.ascontiguousarray(a, dtype=float), grid, at, out)
    return np.asarray(living * ndtr(out))


def nodes(belief: Belief, a: Floats) -> Germination:
    """Germination as weighted nodes for sums over the belief: ``a`` [L] -> G of [L, 63]."""
    z = belief.ki_mean[:, :, None] + belief.ki_sd[:, :, None] * _HERMITE_Z
    v = z - (a[:, None] * 10.0**-belief.d)[:, :, None]
    weight = belief.weight[:, :, None] * _HERMITE_W
    rows = len(a)
    return Germination(
        (belief.living[:, None, None] * ndtr(v)).reshape(rows, -1), weight.reshape(rows, -1)
    )


def even(belief: Belief, a: Floats, count: int = 63) -> Germination:
    """Germination as ``count`` values of equal weight, the middles of as many equal slices:
    ``a`` [L] -> G of [L, count]. Smoother than ``nodes`` where distributions are added."""
    middles = tuple((np.arange(count) + 0.5) / count)
    g = quantiles(belief, np.asarray(a)[:, None], middles)[:, 0, :]
    return Germination(g, np.full(g.shape, 1.0 / count))


def reweighted(belief: Belief, weight: Floats) -> Belief:
    """One cohort's belief [1, 21] under new weights of its 63 nodes (as ``nodes`` orders them)."""
    w = np.maximum(weight.reshape(D_NODES, 3), 1e-300)
    z = belief.ki_mean[0][:, None] + belief.ki_sd[0][:, None] * _HERMITE_Z
    by_d = w.sum(axis=1)
    mean = (w * z).sum(axis=1) / by_d
    var = (w * z**2).sum(axis=1) / by_d - mean**2
    sd = np.sqrt(np.maximum(var, (0.05 * belief.ki_sd[0]) ** 2))
    return Belief(belief.d, (by_d / by_d.sum())[None], mean[None], sd[None], belief.living)


def ageing_until(belief: Belief, level: Floats | float, chance: float) -> Floats:
    """A in probits [L] at which P(g < level) reaches ``chance``; 0 where it already does at once.

    Bisection on A in 0..100; the date is found by inverting the projection of A.
    """
    bar = np.broadcast_to(np.asarray(level, dtype=float), belief.living.shape)
    share = np.clip(bar / belief.living, 1e-12, 1 - 1e-12)
    out = np.empty(len(belief.living))
    b, factor, level_z = belief, 10.0**-belief.d, ndtri(share)
    in_shares(
        len(out),
        lambda s: until_loop(
            b.ki_mean[s], b.ki_sd[s], factor[s], b.weight[s], level_z[s], chance, out[s]
        ),
    )
    return np.where(bar >= belief.living, 0.0, out)
