"""Three opinions of a lot side by side, and what each school of deciding costs.

The schools: a fixed age rule; test everything each year; the forecast (tests where they pay);
just sow extra, count and learn. Their ways of sowing are written down here so that their cost can
be reckoned over the same belief.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

import numpy as np
from scipy.special import bdtr

from .belief import log_beta_binomial
from .figures import TriageFigures
from .moisture import Floats
from .needs import Success, seeds_for

SCHOOLS = ("age_rule", "test", "forecast", "count")


@dataclass(frozen=True)
class Opinions:
    """good, doubtful, poor or none of: the age rule, the last test, the forecast."""

    age_rule: str
    test: str
    forecast: str

    @property
    def disagree(self) -> bool:
        """Whether one says good where another says poor."""
        said = {self.age_rule, self.test, self.forecast} - {"none"}
        return "good" in said and "poor" in said


def by_age(age_years: float, low: float, high: float, guessed: bool = False) -> str:
    """The old rule: good up to the lower figure of the table, doubtful to the upper, then poor.

    ``low``, ``high``: years under cool dry storage. Seed of unknown year is doubtful at best.
    """
    if age_years > high:
        return "poor"
    return "doubtful" if guessed or age_years > low else "good"


def by_test(share: float | None, n: int, level: float, f: TriageFigures) -> str:
    """The last test: good at or above the sowing level, poor below a share of it."""
    if share is None or n < 1:
        return "none"
    if share >= level:
        return "good"
    return "poor" if share < f.poor_share_of_level * level else "doubtful"


def by_forecast(chance_below: float, median: float, level: float, f: TriageFigures) -> str:
    """The forecast at the next sowing: good when nine in ten sure to stand above the level; poor
    when nine in ten sure to have fallen below and below half of it as likely as not."""
    if chance_below <= 1 - f.sure:
        return "good"
    poor = chance_below >= f.sure or median < f.poor_share_of_level * level
    return "poor" if poor else "doubtful"


@dataclass(frozen=True)
class Lots:
    """Lots with a sowing in sight, for reckoning schools: nodes of germination g, weight [L, K];
    age and the table's range in years, emergence, seeds in hand (inf: unknown) all [L]; whether
    the forecast would test it, and with how many seeds [L]."""

    g: Floats
    weight: Floats
    age_years: Floats
    rule_high: Floats
    emergence: Floats
    seeds: Floats
    typical: Floats
    tested: Floats


@dataclass(frozen=True)
class Cost:
    """What a school costs in a year: expected sowings that fail, seeds put into tests and soil,
    living seed thrown away, packets bought anew."""

    school: str
    failed: float
    seeds: float
    thrown: float
    bought: float


def thick_sowing(median: float, one: Success, confidence: float, f: TriageFigures) -> int | None:
    """Seeds for a usual stand at the household's confidence, as a need for so many plants would be told;
    None where next to none comes, or no number is enough."""
    if median <= f.thick_from_germination:
        return None
    return seeds_for(f.stand_plants, one, confidence)


def _fails(n: Floats, p: Floats, f: TriageFigures) -> Floats:
    """P(fewer plants than enough) from n seeds with success p; broadcasts."""
    least = ceil(f.enough_share * f.stand_plants)
    whole = np.maximum(np.floor(n), least).astype(np.int64)
    return np.where(n >= least, bdtr(float(least - 1), whole, p), 1.0)


def school_costs(lots: Lots, level: float, f: TriageFigures, rho: float) -> list[Cost]:
    """Expected cost of each school over one year's sowings of these lots.

    Every school wants the same stand of each lot. The usual sowing counts on the germination that
    new seed of the kind has. Age rule: the usual sowing up to the table's upper age, beyond it the
    packet is thrown out and bought. Test: some seeds of each, sown by what came up, bought anew where
    few did. Forecast: sown by the median, tested where that pays; bought when it is poor. Count: more
    than the usual sowing, whatever its age. No sowing takes more than is there. ``rho``: overdispersion
    of a sound test.
    """
    if not len(lots.g):
        return [Cost(s, 0.0, 0.0, 0.0, 0.0) for s in SCHOOLS]
    p = np.clip(lots.g * lots.emergence[:, None], 1e-6, 1 - 1e-6)
    mean = (lots.g * lots.weight).sum(axis=1)
    hand = np.where(np.isfinite(lots.seeds), lots.seeds, 1e6)
    usual = np.ceil(f.stand_plants / (lots.typical * lots.emergence))
    anew = np.ceil(f.stand_plants / (f.new_packet_germination * lots.emergence))
    anew_fails = _fails(anew, np.clip(f.new_packet_germination * lots.emergence, 0, 1 - 1e-6), f)
    out = []

    def reckon(school: str, n: Floats, spent: Floats, throw: Floats) -> None:
        sown = np.minimum(n, np.maximum(hand - spent, 0.0))
        fails = (_fails(np.floor(sown)[:, None], p, f) * lots.weight).sum(axis=1)
        failed = np.where(throw > 0, anew_fails, fails)
        seeds = spent + np.where(throw > 0, anew, sown)
        known = np.where(np.isfinite(lots.seeds), lots.seeds, 0.0)
        out.append(
            Cost(
                school,
                float(failed.sum()),
                float(seeds.sum()),
                float((throw * np.maximum(known - spent, 0.0) * mean).sum()),
                float(throw.sum()),
            )
        )

    none = np.zeros(len(mean))
    reckon("age_rule", usual, none, (lots.age_years > lots.rule_high).astype(float))
    out.append(_tested(lots, p, hand, anew, anew_fails, f, rho))
    median = _median(lots.g, lots.weight)
    by_median = np.ceil(f.stand_plants / np.maximum(median * lots.emergence, 1e-3))
    reckon(
        "forecast",
        by_median,
        np.minimum(lots.tested, hand / 4),
        (median < f.poor_share_of_level * level).astype(float),
    )
    reckon("count", f.extra_times * usual, none, none)
    return out


def _median(g: Floats, weight: Floats) -> Floats:
    order = np.argsort(g, axis=1)
    w = np.cumsum(np.take_along_axis(weight, order, axis=1), axis=1)
    at = np.argmax(w >= 0.5 * w[:, -1:], axis=1)
    return np.asarray(np.take_along_axis(g, order, axis=1)[np.arange(len(g)), at])


def _tested(
    lots: Lots,
    p: Floats,
    hand: Floats,
    anew: Floats,
    anew_fails: Floats,
    f: TriageFigures,
    rho: float,
) -> Cost:
    """Some seeds of every lot: each possible count leads to its own sowing."""
    n = np.minimum(f.yearly_test_seeds, np.floor(hand / 2))
    failed = seeds = thrown = bought = 0.0
    for i in range(len(n)):
        size = int(n[i])
        k = np.arange(size + 1, dtype=float)
        chance = np.exp(
            log_beta_binomial(
                k[:, None], float(size), np.clip(lots.g[i], 1e-6, 1 - 1e-6)[None, :], rho
            )
        )  # [k, node]
        said = (k + 1) / (size + 2)
        throw = (said < f.replace_below_share) & (size > 0)
        sow = np.minimum(
            np.ceil(f.stand_plants / (said * lots.emergence[i])), max(hand[i] - size, 0.0)
        )
        fails = _fails(sow[:, None], p[i][None, :], f)
        joint = chance * lots.weight[i][None, :]
        per_k = joint.sum(axis=1)
        failed += float((joint[~throw] * fails[~throw]).sum() + per_k[throw].sum() * anew_fails[i])
        seeds += size + float((per_k * np.where(throw, anew[i], sow)).sum())
        held = lots.seeds[i] if np.isfinite(lots.seeds[i]) else 0.0
        living = float((joint[throw] * lots.g[i][None, :]).sum())
        thrown += max(held - size, 0.0) * living
        bought += float(per_k[throw].sum())
    return Cost("test", failed, seeds, thrown, bought)
