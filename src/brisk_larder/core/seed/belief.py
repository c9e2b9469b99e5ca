"""What a cohort's viability is: a belief, sharpened by every test.

``g = living * Phi(Ki - A * 10**-d)`` with ``log10 sigma_lot = log10 sigma_book + d`` (d > 0 keeps
longer). Prior: independent Gaussians in Ki, d and the logit of living; data: beta-binomial counts. The
posterior is taken on a grid of the three, laid anew around what a first pass found of d, and kept as
equally likely states (``worlds``).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, log_ndtr, logit, ndtr, ndtri

from ..base.figures import BeliefFigures
from ..base.kernels import draw_loop, in_shares, likelihood_loop
from ..base.units import YEAR_S
from ..storage.moisture import Floats
from .counting import log_beta_binomial, log_over_ceilings
from .pooling import Sites
from .sowing_news import log_news
from .worlds import COUNT, SECOND, THIRD, Belief, Ranks, Z

REACH_SD = 4.0
Z_KI = np.linspace(-REACH_SD, REACH_SD, 31)
Z_D = np.linspace(-REACH_SD, REACH_SD, 21)
Z_LIVING = np.linspace(-3.2, 3.2, 9)
_ALIVE_POINTS = 641  # of the tables of chances over germination


@dataclass(frozen=True)
class Prior:
    """Per cohort [L]: probit at record start, log10 factor of sigma, share that could ever grow (its
    median; ``living_sd`` of its logit).

    ``d_sd**2`` holds the doubt of the book figure and that of the climate record together.
    """

    ki_mean: Floats
    ki_sd: Floats
    d_mean: Floats
    d_sd: Floats
    living: Floats
    living_sd: Floats

    def rows(self, index: NDArray[np.intp]) -> Prior:
        """The prior of some cohorts."""
        return Prior(*(getattr(self, name)[index] for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class Counts:
    """One entry per test or counted sowing [N].

    row: index of the cohort; a: ageing in probits at the test; n sown, k viable;
    ceiling [N, 3]: share of the living that could show by the count day (waiting seed is not dead): low,
    middle and high node of its doubt;
    rho: beta-binomial overdispersion; weight: 1 for a sound test, less for a flawed one;
    lost: chance that the entry says nothing of its seed (a bed washed out).
    """

    row: NDArray[np.intp]
    a: Floats
    n: Floats
    k: Floats
    ceiling: Floats
    rho: Floats
    weight: Floats
    lost: Floats

    def of(self, which: NDArray[np.bool_] | NDArray[np.intp]) -> Counts:
        """Some of the entries."""
        return Counts(*(getattr(self, name)[which] for name in self.__dataclass_fields__))

    @staticmethod
    def none() -> Counts:
        """No data."""
        e = np.empty(0)
        return Counts(np.empty(0, dtype=np.intp), e, e, e, np.empty((0, 3)), e, e, e)


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


def doubt_of_age(
    low_s: float, high_s: float, record_s: float, now_s: float, aged: float
) -> tuple[float, float]:
    """What is not known of seed without a year: years that its record does not reckon, and doubt of Ki
    (probits) for those it does. ``low_s``, ``high_s``: it came between them; ``record_s``: its likely age,
    from which it has ``aged`` so many probits until now. Any age between is as likely (sd of a uniform), and
    it ages evenly."""
    lived = max(high_s - record_s, 0.0)
    unreckoned = max(0.0, high_s - low_s - 2 * lived) / YEAR_S
    if not lived:
        return unreckoned, 0.0
    return unreckoned, aged * (high_s - low_s) / (12**0.5 * max(now_s - record_s, 1.0))


def stated_as(stated: float, least_pct: float | None) -> str:
    """How a stated germination is meant where nobody says: the legal minimum of the kind is "at least", any
    other number was found in a test."""
    return "at_least" if least_pct is not None and abs(100 * stated - least_pct) < 0.5 else "tested"


def living_of(living: float, stated: float, how: str, f: BeliefFigures) -> float:
    """Share of seed that could ever grow, of seed that was tested at so much: no less than what grew."""
    return max(living, min(f.living_at_most, stated / 0.97)) if how == "tested" else living


def stated_quality(
    usual: tuple[float, float], stated: float, how: str, living: float, f: BeliefFigures
) -> tuple[float, float]:
    """What is believed of Ki (mean, sd, probits) of seed with a stated germination; ``usual``: without.

    "tested": what was found, with the doubt of a test made elsewhere. "at_least": the usual belief above that
    (the moments of a normal cut off below; Johnson, Kotz & Balakrishnan 1994, ch. 13.10).
    """
    mean, sd = usual
    at = float(ndtri(np.clip(stated / living, 0.01, 0.985)))
    if how == "tested":
        return at, f.stated_test_sd
    alpha = (at - mean) / sd
    hazard = float(np.exp(norm_logpdf(alpha) - log_ndtr(-alpha)))
    spread = max(1.0 + alpha * hazard - hazard**2, 0.05)
    return mean + sd * hazard, sd * float(np.sqrt(spread))


def norm_logpdf(x: float) -> float:
    """log of the density of the standard normal."""
    return -0.5 * x * x - 0.5 * float(np.log(2 * np.pi))


def doubt_of_record(sd_now: float, sd_ahead: float, record_days: float, f: BeliefFigures) -> float:
    """Doubt of log10 A: a record hardly begun knows little of its place, so the doubt of the years ahead
    counts, and fades as the record grows (by e in ``young_record_days``)."""
    extra = max(sd_ahead - sd_now, 0.0)
    return sd_now + extra * float(np.exp(-max(record_days, 0.0) / f.young_record_days))


def _tables(counts: Counts) -> tuple[NDArray[np.intp], Floats]:
    """log P of each count over what is alive, even in 0..1: which line [N] of a table [C, G], one for all
    counts that tell the same."""
    given = np.column_stack([
        counts.n, counts.k, counts.rho, counts.weight, counts.lost, counts.ceiling
    ])  # fmt: skip
    kinds, which = np.unique(given, axis=0, return_inverse=True)
    p = np.clip(np.linspace(0.0, 1.0, _ALIVE_POINTS), 1e-6, 1 - 1e-6)
    out = np.empty((len(kinds), len(p)))

    def some(s: slice) -> None:
        n, k, rho, weight = (kinds[s, j, None] for j in range(4))
        told = log_over_ceilings(
            kinds[s, 5:],
            lambda c: log_beta_binomial(k, n, np.clip(p * c[:, None], 1e-7, 1 - 1e-7), rho),
        )
        out[s] = weight * told

    in_shares(len(out), some, least=200)
    for i in np.flatnonzero(kinds[:, 4] > 0):
        n, k, rho, weight, lost, *could = (float(x) for x in kinds[i])
        out[i] = weight * np.interp(p, *log_news(n, k, (could[0], could[1], could[2]), rho, lost))
    return which.reshape(-1), out


@dataclass(frozen=True)
class Told:
    """What tests say of rows at each d of a grid [L, D]: log likelihood [L, D] over all Ki and living; of
    each d the weights of living [L, D, V], mean and sd of Ki [L, D, V]."""

    d: Floats
    like: Floats
    share: Floats
    mean: Floats
    sd: Floats


def told(prior: Prior, counts: Counts, d: Floats) -> Told:
    """The likelihood of each row's counts at d [L, D], its prior of d left out."""
    by_row = np.argsort(counts.row, kind="stable")
    first = np.searchsorted(counts.row[by_row], np.arange(len(prior.ki_mean) + 1))
    ki = prior.ki_mean[:, None] + prior.ki_sd[:, None] * Z_KI
    living = expit(logit(prior.living)[:, None] + prior.living_sd[:, None] * Z_LIVING)
    told_by, table = _tables(counts.of(by_row))
    a = counts.a[by_row]
    shape = (*d.shape, len(Z_LIVING))
    out = Told(d, np.empty(d.shape), np.empty(shape), np.empty(shape), np.empty(shape))

    def some(s: slice) -> None:
        edges = first[s.start : s.stop + 1]
        likelihood_loop(
            ki[s], Z_KI, d[s], living[s], Z_LIVING, edges, a, told_by, table,
            out.like[s], out.share[s], out.mean[s], out.sd[s],
        )  # fmt: skip

    in_shares(len(d), some, least=20)
    return out


D_GRID = np.linspace(
    -1.6, 1.6, 65
)  # of log10 sigma about the book: a fortieth to forty times as long


def sites(prior: Prior, counts: Counts) -> Sites:
    """What the tests of each tested row say of its d alone, for ``pooling``."""
    rows = np.unique(counts.row)
    mine = replace(counts, row=np.searchsorted(rows, counts.row))
    seen = told(prior.rows(rows), mine, np.broadcast_to(D_GRID, (len(rows), len(D_GRID))).copy())
    return Sites(rows, D_GRID, seen.like)


def _weights(seen: Told, prior: Prior) -> Floats:
    """Posterior weights of d on its grid [L, D]."""
    z = (seen.d - prior.d_mean[:, None]) / prior.d_sd[:, None]
    log_w = seen.like - 0.5 * z**2
    w = np.exp(log_w - log_w.max(axis=1, keepdims=True))
    return np.asarray(w / w.sum(axis=1, keepdims=True))


def moments(d: Floats, weight: Floats) -> tuple[Floats, Floats]:
    """Mean and sd [L] of weighted nodes [L, D]."""
    mean = (weight * d).sum(axis=1)
    return mean, np.sqrt(np.maximum((weight * (d - mean[:, None]) ** 2).sum(axis=1), 0.0))


def fit(prior: Prior, counts: Counts, order: Ranks | None = None) -> Belief:
    """Posterior of every cohort at once, as worlds [L, S]. Shapes as in Prior and Counts.

    ``order`` [L, S]: the rank of each row's d in each world (None: the same for all).
    """
    rows = len(prior.ki_mean)
    state = Belief(*(np.empty((rows, COUNT)) for _ in range(3)))
    sd = np.maximum(prior.d_sd, 1e-6)
    state.d[:] = prior.d_mean[:, None] + sd[:, None] * Z
    state.ki[:] = prior.ki_mean[:, None] + prior.ki_sd[:, None] * Z[SECOND]
    state.living[:] = expit(logit(prior.living)[:, None] + prior.living_sd[:, None] * Z[THIRD])
    seen = np.unique(counts.row)
    if len(seen):
        mine = replace(counts, row=np.searchsorted(seen, counts.row))
        state = state.put(seen, _posterior(prior.rows(seen), mine))
    if order is None:
        return state
    return Belief(
        *(np.take_along_axis(x, order, axis=1) for x in (state.d, state.ki, state.living))
    )


def _posterior(prior: Prior, counts: Counts) -> Belief:
    """States of tested rows, in rising order of d."""
    sd = np.maximum(prior.d_sd, 1e-6)
    rough = told(prior, counts, prior.d_mean[:, None] + sd[:, None] * Z_D)
    mean, width = moments(rough.d, _weights(rough, prior))
    # once more where the first pass saw the seed to be: a wide prior has only a few nodes there
    width = np.clip(1.1 * width, 0.1 * sd, sd)
    seen = told(prior, counts, mean[:, None] + width[:, None] * Z_D)

    def as_normal(cells: Floats) -> Floats:
        total = np.cumsum(cells, axis=-1)
        edges = np.concatenate([np.zeros((*cells.shape[:-1], 1)), total / total[..., -1:]], axis=-1)
        return np.asarray(ndtri(np.clip(edges, 1e-9, 1 - 1e-9)))

    d_edges, living_edges = as_normal(_weights(seen, prior)), as_normal(seen.share)
    rows = len(mean)
    state = Belief(*(np.empty((rows, COUNT)) for _ in range(3)))
    at, spread = logit(prior.living), prior.living_sd

    def some(s: slice) -> None:
        draw_loop(
            seen.d[s], d_edges[s], living_edges[s], Z_LIVING, at[s], spread[s], seen.mean[s],
            seen.sd[s], Z, SECOND, THIRD, state.d[s], state.ki[s], state.living[s],
        )  # fmt: skip

    in_shares(rows, some, least=200)
    return state


def after_shock(belief: Belief, mean: float, sd: float) -> Prior:
    """The prior of what comes after damage of unknown size ~ N(mean, sd) in probits [L].

    Mean and variance of Ki, d and living are kept, their correlation is not: a little too wide, never
    too narrow (docs/model.md).
    """
    at = logit(belief.living)
    return Prior(
        belief.ki.mean(axis=1) - mean,
        np.sqrt(np.maximum(belief.ki.var(axis=1), 1e-6) + sd**2),
        belief.d.mean(axis=1),
        np.sqrt(np.maximum(belief.d.var(axis=1), 1e-6)),
        expit(at.mean(axis=1)),
        at.std(axis=1),
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
    prior: Prior,
    counts: Counts,
    when_s: Floats,
    shocks: Mapping[int, Sequence[Shock]],
    order: Ranks | None = None,
) -> Belief:
    """Posterior where some rows were damaged, ``shocks`` by row in time order, ``when_s`` [N] of each
    count: tests before an event teach what went before it; it shakes the belief; later tests go on."""
    if not shocks:
        return fit(prior, counts, order)
    first = np.array([shocks[i][0].at_s if i in shocks else np.inf for i in counts.row])
    belief = fit(prior, counts.of(when_s < first), order)
    for i, row_shocks in shocks.items():
        mine = counts.row == i
        ends = [s.at_s for s in row_shocks[1:]] + [np.inf]
        for shock, end in zip(row_shocks, ends, strict=True):
            after = after_shock(belief.rows(np.array([i])), shock.mean, shock.sd)
            between = counts.of(mine & (when_s >= shock.at_s) & (when_s < end))
            alone = replace(between, row=np.zeros(len(between.row), dtype=np.intp))
            own = None if order is None else order[i : i + 1]
            belief = belief.put(np.array([i]), fit(after, alone, own))
    return belief
