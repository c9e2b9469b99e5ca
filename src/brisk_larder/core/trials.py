"""Germination tests: what a number of seeds can tell, how seed comes up, what deserves a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import betaincinv, ndtr, ndtri

from .errors import InvalidValue
from .kernels import in_shares, wrong_loop
from .moisture import F
from .reasons import Reason
from .units import DAY_S

CERTAIN = 0.10  # below this doubt either way a test hardly ever changes the decision (guess)
WORTH_GAIN = 0.05  # a test must lower the chance of choosing wrongly by so much (guess)
SIZES = (4, 6, 8, 10, 12, 15, 20, 25, 30, 40, 50)
GOOD_RHO = 0.02  # overdispersion of a sound test (guess)
SEED_COST = 0.003  # one seed weighs as much as 0.3 points of wrong decision (guess)
MARGIN_DAYS = 7.0  # days kept between the end of a test and the sowing it decides
SHARE_OF_LOT = 0.25  # at most this share of a lot goes into one test (guess)


@dataclass(frozen=True)
class Interval:
    """Lower and upper bound, fractions."""

    low: float
    high: float


def what_n_tells(n: int, k: int, chance: float = 0.95) -> Interval:
    """One-sided exact bounds on germination after k of n (Clopper-Pearson via the beta).

    Each bound holds with probability ``chance`` on its own: 10 of 10 gives at least 0.74.
    Raises InvalidValue unless 0 <= k <= n and n >= 1.
    """
    if n < 1:
        raise InvalidValue("seeds", n, "a test has at least one seed")
    if not 0 <= k <= n:
        raise InvalidValue("up", k, f"between 0 and the {n} sown")
    low = 0.0 if k == 0 else float(betaincinv(k, n - k + 1, 1 - chance))
    high = 1.0 if k == n else float(betaincinv(k + 1, n - k, chance))
    return Interval(low, high)


def time_course(days: ArrayLike, first_count_days: ArrayLike, final_count_days: ArrayLike) -> F:
    """Share of those that will come up that are up after ``days`` (log-normal in time).

    10 % by the first and 95 % by the final count day (model.csv: a guess). Broadcasts.
    """
    first = np.log(np.asarray(first_count_days, dtype=float))
    final = np.log(np.asarray(final_count_days, dtype=float))
    z10, z95 = float(ndtri(0.10)), float(ndtri(0.95))
    spread = (final - first) / (z95 - z10)
    middle = first - spread * z10
    t = np.maximum(np.asarray(days, dtype=float), 1e-6)
    return np.asarray(ndtr((np.log(t) - middle) / spread))


@dataclass(frozen=True)
class Advice:
    """Whether a lot deserves a test: code, latest start (epoch s, None = none), and why.

    codes: undecided (a test would decide), certainly_good, certainly_poor, too_few_seeds,
    unused (no use in sight), still_holds (the last test is within its interval).
    """

    code: str
    due_s: float | None
    chance_below: float
    reason: Reason

    @property
    def wanted(self) -> bool:
        """True when a test should be started."""
        return self.due_s is not None


def retest(
    chance_below: F,
    days_to_fall: F,
    known_s: F,
    tested: NDArray[np.bool_],
    next_use_s: F,
    test_days: F,
    seeds_left: F,
    today_s: float,
    lead_days: float = 0.0,
) -> list[Advice]:
    """What deserves a test, for L lots at once.

    chance_below: P(germination below the sowing level) at the next use; days_to_fall: predicted
    days from the last knowledge to 85 % of the initial value; known_s: last test, or the record's
    start; tested: whether that was a test; next_use_s: next sowing (nan: none); test_days: days a
    test takes; seeds_left; lead_days: days that ordering fresh seed takes.

    A lot that is certainly good or poor (nine in ten) is not tested. A test holds for a third of
    ``days_to_fall`` (the routine interval of FAO Genebank Standards 2014): until then its lot is
    left alone. All others are due in time to order before the next use.
    """
    out = []
    for i, chance in enumerate(chance_below):
        routine_s = known_s[i] + days_to_fall[i] / 3.0 * DAY_S
        used = bool(np.isfinite(next_use_s[i]))
        figures = {
            "chance_below": float(chance),
            "days_to_fall": float(days_to_fall[i]),
            "known_s": float(known_s[i]),
            "routine_s": float(routine_s),
            "next_use_s": float(next_use_s[i]) if used else None,
            "seeds_left": float(seeds_left[i]),
            "lead_days": lead_days,
        }
        due: float | None = None
        if not used:
            code = "unused"
        elif seeds_left[i] * SHARE_OF_LOT < SIZES[0]:
            code = "too_few_seeds"
        elif chance <= CERTAIN:
            code = "certainly_good"
        elif chance >= 1 - CERTAIN:
            code = "certainly_poor"
        elif tested[i] and routine_s > next_use_s[i]:
            code = "still_holds"
        else:
            code = "undecided"
            days = test_days[i] + MARGIN_DAYS + lead_days
            due = max(float(next_use_s[i]) - days * DAY_S, today_s)
        out.append(Advice(code, due, float(chance), Reason(f"test_{code}", figures)))
    return out


@dataclass(frozen=True)
class TestSize:
    """How many seeds to test, and the chance of deciding wrongly before and after."""

    seeds: int
    error_before: float
    error_after: float

    @property
    def worth_it(self) -> bool:
        """Whether the test lowers the chance of a wrong decision by more than its seeds cost,
        and by five points at least (guess)."""
        gain = self.error_before - self.error_after
        return gain >= max(WORTH_GAIN, SEED_COST * self.seeds)


def wrong_decisions(
    g: F, weight: F, level: float, sizes: Sequence[int], most: F, rho: float = GOOD_RHO
) -> F:
    """Expected chance of a wrong decision after tests of each size, [L, S]; no test is size 0.

    ``g``, ``weight`` [L, K] the beliefs; the decision is "g is below ``level``". After each
    possible count the likelier side is taken; the error is the smaller posterior side, averaged.
    Sizes above ``most`` [L] are left at 1.
    """
    out = np.empty((len(g), len(sizes)))
    tried = np.array(sizes, dtype=np.int64)
    in_shares(len(g), lambda s: wrong_loop(
        g[s], weight[s], level, max(rho, 1e-9), tried, most[s], out[s]
    ))  # fmt: skip
    return out


def seeds_to_test(
    g: F, weight: F, level: float, seeds_left: F, reserve: float = 0.0
) -> list[TestSize | None]:
    """The test that pays best for each of L lots (preposterior analysis).

    Over the usual sizes, the least ``P(wrong decision) + 0.003 x seeds``; never more than a
    quarter of what is left [L] after ``reserve``. None where not even four seeds can be spared.
    """
    spare = np.floor((np.asarray(seeds_left, dtype=float) - reserve) * SHARE_OF_LOT)
    errors = wrong_decisions(g, weight, level, SIZES, spare)
    before = wrong_decisions(g, weight, level, (0,), np.maximum(spare, 0.0))[:, 0]
    out: list[TestSize | None] = []
    for i in range(len(g)):
        sizes = [j for j, n in enumerate(SIZES) if n <= spare[i]]
        if not sizes:
            out.append(None)
            continue
        best = min(sizes, key=lambda j: errors[i, j] + SEED_COST * SIZES[j])
        out.append(TestSize(SIZES[best], float(before[i]), float(errors[i, best])))
    return out
