"""What a cohort's viability is: a belief, sharpened by every test.

``g = living * Phi(Ki - A * 10**-d)`` with ``log10 sigma_lot = log10 sigma_book + d`` (d > 0 keeps
longer). Prior: independent Gaussians in Ki, d and the logit of living; data: beta-binomial counts. The
posterior is taken on a grid of the three, laid anew around what a first pass found of d, and kept as
equally likely states (``worlds``).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import log_ndtr, ndtr, ndtri

from ..base.figures import BeliefFigures
from ..base.kernels import draw_loop, in_shares, likelihood_loop
from ..base.units import YEAR_S
from ..storage.moisture import Floats
from .counting import HERMITE_W, log_beta_binomial, log_over_ceilings
from .living import AT, log_weights, scale_of, share_at
from .pooling import Sites
from .sowing_news import log_news
from .worlds import COUNT, SECOND, THIRD, Belief, Ranks, Z

REACH_SD = 4.0
Z_KI = np.linspace(-REACH_SD, REACH_SD, 31)
Z_D = np.linspace(-REACH_SD, REACH_SD, 21)
_ALIVE_POINTS = 641  # of the tables of chances over germination


@dataclass(frozen=True)
class Prior:
    """Per cohort [L]: probit at record start, log10 factor of sigma, share that could ever grow (its
    median; ``living_sd`` of its logit), chance that the packet is a ``dud`` (``living``).

    ``d_sd**2`` holds the doubt of the book figure and that of the climate record together.
    """

    ki_mean: Floats
    ki_sd: Floats
    d_mean: Floats
    d_sd: Floats
    living: Floats
    living_sd: Floats
    dud: Floats

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
    living = share_at(AT, prior.living, prior.living_sd, prior.dud)
    log_living = log_weights(prior.dud)
    told_by, table = _tables(counts.of(by_row))
    a = counts.a[by_row]
    shape = (*d.shape, len(AT))
    out = Told(d, np.empty(d.shape), np.empty(shape), np.empty(shape), np.empty(shape))

    def some(s: slice) -> None:
        edges = first[s.start : s.stop + 1]
        likelihood_loop(
            ki[s], Z_KI, d[s], living[s], log_living[s], edges, a, told_by, table,
            out.like[s], out.share[s], out.mean[s], out.sd[s],
        )  # fmt: skip

    in_shares(len(d), some, least=20)
    return out


D_GRID = np.linspace(
    -1.6, 1.6, 65
)  # of log10 sigma about the book: a fortieth to forty times as long


_ON_THE_WAY = np.arange(1, 9) / 8
_FEW = 0.12  # of the seeds sown: so many fewer than expected, and it may be a dud


def sites(prior: Prior, counts: Counts) -> Sites:
    """What the tests of each tested row say of its d alone, for ``pooling``.

    Few seeds alive may mean that the packet is a dud, and then they say nothing of d: the fewer, the more so.
    Yet of fewer its relatives shall hear no better. So where fewer germinated than expected, what is said
    against a long life is, from each d to the next, the most that any count on the way to the expected says.
    """
    rows = np.unique(counts.row)
    at = np.searchsorted(rows, counts.row)
    p = prior.rows(rows)
    ceiling = counts.ceiling @ HERMITE_W
    expected = (
        counts.n * ceiling * p.living[at] * ndtr(p.ki_mean[at] - counts.a * 10 ** -p.d_mean[at])
    )
    fewer = np.minimum(counts.k - expected, 0.0)
    sown, missing = (np.bincount(at, x, minlength=len(rows)) for x in (counts.n, -fewer))
    short = missing > 0.5 + _FEW * sown
    like = told(p, replace(counts, row=at), np.tile(D_GRID, (len(rows), 1))).like
    for part in _ON_THE_WAY if short.any() else ():
        which = short[at]
        index = np.flatnonzero(short)
        some = replace(counts, row=at, k=counts.k - part * fewer).of(which)
        some = replace(some, row=np.searchsorted(index, some.row))
        way = told(p.rows(index), some, np.tile(D_GRID, (len(index), 1))).like
        slope = np.minimum(np.diff(like[index], axis=1), np.diff(way, axis=1))
        like[index, 1:] = like[index, :1] + np.cumsum(slope, axis=1)
    return Sites(rows, D_GRID, like)


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
    state.living[:] = share_at(
        scale_of(np.asarray(Z[THIRD], dtype=np.float64), prior.dud),
        prior.living,
        prior.living_sd,
        prior.dud,
    )
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

    def some(s: slice) -> None:
        draw_loop(
            seen.d[s], d_edges[s], living_edges[s], AT, seen.mean[s], seen.sd[s], Z, SECOND, THIRD,
            state.d[s], state.ki[s], state.living[s],
        )  # fmt: skip

    in_shares(rows, some, least=200)
    state.living[:] = share_at(state.living, prior.living, prior.living_sd, prior.dud)
    return state


def prior_of_new(
    usual: tuple[float, float],
    living: float,
    f: BeliefFigures,
    d_mean: float = 0.0,
    tested: bool = False,
) -> Prior:
    """What is believed of one fresh packet [1]: mean and sd of Ki, its kind's share that could ever grow,
    log10 of how much longer it keeps; ``tested``: that so much grew is stated."""
    dud = f.dud_share_tested if tested else f.dud_share
    columns = (*usual, d_mean, f.new_packet_d_sd, living, f.living_logit_sd, dud)
    return Prior(*(np.array([x]) for x in columns))
