"""Germination tests: what a number of seeds can tell, how seed comes up, what deserves a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import betaincinv, ndtr, ndtri

from ..base.errors import InvalidValue
from ..base.figures import BeliefFigures, TrialsFigures
from ..base.reasons import Reason
from ..base.units import DAY_S
from ..seed.counting import log_beta_binomial
from ..storage.moisture import Floats
from .worth_of_test import SIZES

ON_PAPER = frozenset({"paper", "rolled", "top"})


@dataclass(frozen=True)
class Interval:
    """Lower and upper bound, fractions."""

    low: float
    high: float


def spot(low_c: float, high_c: float, f: TrialsFigures) -> float:
    """The warmth (degC) at which a kind that likes ``low_c`` to ``high_c`` is tested: one of three
    that several kinds share, a living room first; else the nearest to its middle."""
    spots = (f.spot_room_c, f.spot_cool_c, f.spot_warm_c)
    middle = (low_c + high_c) / 2
    liked = [s for s in spots if low_c <= s <= high_c]
    return liked[0] if liked else min(spots, key=lambda s: abs(s - middle))


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


def time_course(
    days: ArrayLike, first_count_days: ArrayLike, final_count_days: ArrayLike, f: TrialsFigures
) -> Floats:
    """Share of those that will come up that are up after ``days`` (log-normal in time).

    A known share by the first and by the final count day. Broadcasts.
    """
    first = np.log(np.asarray(first_count_days, dtype=float))
    final = np.log(np.asarray(final_count_days, dtype=float))
    z_first = float(ndtri(f.share_up_by_first_count))
    z_final = float(ndtri(f.share_up_by_final_count))
    spread = (final - first) / (z_final - z_first)
    middle = first - spread * z_first
    t = np.maximum(np.asarray(days, dtype=float), 1e-6)
    return np.asarray(ndtr((np.log(t) - middle) / spread))


@dataclass(frozen=True)
class Advice:
    """Whether a lot deserves a test: code, latest start (epoch s, None = none), and why.

    codes: undecided (a test would decide), routine (its interval is over), certainly_good, certainly_poor,
    too_few_seeds, unused (no use in sight), too_late (its answer would come after the sowing), known_enough
    (tested lately with enough seeds), still_holds (the last test is within its interval), not_worth (what it
    could change is worth less than its seeds and its evening).
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
    chance_below: Floats,
    days_to_fall: Floats,
    known_s: Floats,
    tested: NDArray[np.bool_],
    next_use_s: Floats,
    test_days: Floats,
    seeds_left: Floats,
    pays: Floats,
    today_s: float,
    lead_days: float,
    f: TrialsFigures,
    routine: bool = False,
    last_use_s: Floats | None = None,
    tested_seeds: Floats | None = None,
) -> list[Advice]:
    """What deserves a test, for L lots at once.

    chance_below: P(germination below the sowing level) at the next use; days_to_fall: predicted
    days from the last knowledge to 85 % of the initial value; known_s: last test, or the record's
    start; tested: whether that was a test; next_use_s: next sowing (nan: none); test_days: days a
    test takes; seeds_left; pays: what the best test saves beyond its cost (``worth``; nan: none may be
    made); lead_days: days that ordering fresh seed takes; routine: the household tests when the interval
    is over, and then only.

    ``last_use_s``: until when the next use can be (None: that is not told), past which no answer helps;
    ``tested_seeds``: those in closed tests that tell of the seed as it is now: what is known enough is not
    asked again until ``days_to_fall`` are over.

    A test that pays is due in time to order before the next use, also when that day is past. Of all others
    the code says why not: nine
    in ten for good or poor; tested within a third of ``days_to_fall`` (the routine interval of FAO
    Genebank Standards 2014); else it would not change enough. By routine it is due when that interval is
    over, and never too late to order before the next use.
    """
    # long: one reason after the other, the first that holds
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
            "use_days": (float(next_use_s[i]) - today_s) / DAY_S,
            "order_days": (float(next_use_s[i]) - today_s) / DAY_S - float(test_days[i]),
        }
        in_time_s = float(next_use_s[i] - (test_days[i] + f.margin_days + lead_days) * DAY_S)
        asks = bool(routine_s <= next_use_s[i] if routine else pays[i] >= f.least_gain)
        ends_s = np.inf if last_use_s is None else last_use_s[i]
        enough = tested_seeds is not None and tested_seeds[i] >= f.known_enough_seeds
        # Not so aged since that it is other seed now.
        as_tested = known_s[i] + days_to_fall[i] * DAY_S > today_s
        due: float | None = None
        if not used:
            code = "unused"
        elif seeds_left[i] * f.most_share_of_lot < SIZES[0]:
            code = "too_few_seeds"
        elif asks and today_s + test_days[i] * DAY_S > ends_s:
            code = "too_late"
        elif asks and not (enough and as_tested):
            code = "routine" if routine else "undecided"
            due = min(in_time_s, float(routine_s)) if routine else in_time_s
        elif routine and not asks:
            code = "still_holds"
        elif chance <= f.certain:
            code = "certainly_good"
        elif chance >= 1 - f.certain:
            code = "certainly_poor"
        elif asks:
            code = "known_enough"
        elif tested[i] and routine_s > next_use_s[i]:
            code = "still_holds"
        else:
            code = "not_worth"
        out.append(Advice(code, due, float(chance), Reason(f"test_{code}", figures)))
    return out


@dataclass(frozen=True)
class Tally:
    """A cumulative count of a test: seeds in each state so far; the rest still waits."""

    normal: int = 0
    abnormal: int = 0
    mouldy: int = 0
    hard: int = 0
    fresh: int = 0
    empty: int = 0
    gone: int = 0

    @property
    def viable(self) -> int:
        """What counts as alive: normal, hard and fresh seeds."""
        return self.normal + self.hard + self.fresh


def rho_of(flaws: str, medium: str, low: bool, f: BeliefFigures) -> float:
    """Overdispersion of a test: only one on paper without a noted flaw is a sound one; ``low``: as it was
    laid, living seed of its kind may sleep (``setting_up.reads_low``)."""
    if low:
        return f.test_rho_reads_low
    return f.test_rho_flawed if flaws or medium not in ON_PAPER else f.test_rho_good


def as_at_its_best(
    day: float, temperature_c: float, min_c: float, best_c: float, f: TrialsFigures
) -> float:
    """Days at a kind's best temperature that do as much as ``day`` days at another (thermal time).

    The pace rises straight from none at the minimum to its whole at the lower end of the best range;
    never below a share of it, for the minimum is a guess too.
    """
    if temperature_c >= best_c or best_c <= min_c:
        return day
    pace = (temperature_c - min_c) / (best_c - min_c)
    return day * max(pace, f.slowest_pace)


@dataclass(frozen=True)
class Ceiling:
    """Share of the living seed that could be counted by a day: the middle, and where it may as well be
    (nodes of a normal doubt of the pace, sqrt 3 sd to either side)."""

    low: float
    middle: float
    high: float

    @property
    def nodes(self) -> tuple[float, float, float]:
        """All three."""
        return self.low, self.middle, self.high


WHOLE = Ceiling(1.0, 1.0, 1.0)


def ceiling(
    closed: bool, day: float, first_count_days: float, final_count_days: float, f: TrialsFigures
) -> Ceiling:
    """What could be counted by a day (days since sowing, as at the kind's best temperature).

    A test closed on its last count day or after has told all; closed before, its waiting seed is not
    dead. The pace of a lot is not known to better than ``pace_sd``, so the share is not either.
    """
    if closed and day >= final_count_days:
        return WHOLE
    reach = float(np.exp(np.sqrt(3.0) * f.pace_sd))
    days = np.array([day / reach, day, day * reach])
    low, middle, high = np.maximum(time_course(days, first_count_days, final_count_days, f), 1e-3)
    return Ceiling(float(low), float(middle), float(high))


def weight_of(weight: float, before_its_record: bool, f: BeliefFigures) -> float:
    """How much a test counts: its own weight, less where it was made before its seed's record began."""
    return weight * (f.early_test_weight if before_its_record else 1.0)


def stage(day: float, first_count_days: float, final_count_days: float, f: TrialsFigures) -> str:
    """Where a running test stands by its days as at the kind's best temperature: early, coming, grace (its
    last count day has passed, late ones may still stir) or over."""
    if day < first_count_days:
        return "early"
    if day < final_count_days:
        return "coming"
    return "grace" if day < final_count_days * (1 + f.grace_share) else "over"


def half_usual(first_count_days: float, final_count_days: float, f: TrialsFigures) -> float:
    """Day by which half of those that come up usually are, at the kind's best temperature."""
    days = np.linspace(0.5, final_count_days, 400)
    return float(np.interp(0.5, time_course(days, first_count_days, final_count_days, f), days))


def stretched(days: float, pace: float) -> float:
    """Days a count day lies off where seed comes at a share of its best pace."""
    return days / max(pace, 1e-6)


def half_time(days: Sequence[float], up: Sequence[int]) -> float | None:
    """Day by which half of all that came up was up, drawn straight between two counts; None with none up, or
    where half were up at the first count: nobody looked before.

    ``days`` rising from the first count, ``up`` cumulative.
    """
    if not up or up[-1] <= 0:
        return None
    half = up[-1] / 2
    i = next(j for j in range(len(up)) if up[j] >= half)
    if i == 0:
        return None
    return days[i - 1] + (days[i] - days[i - 1]) * (half - up[i - 1]) / (up[i] - up[i - 1])


def settled(
    g: Floats, n: int, up: int, waiting: int, level: float, rho: float, f: TrialsFigures
) -> str:
    """Whether no further count can change the decision: below or above the level whichever of the waiting
    seeds come up, else open. ``g`` [K]: what was believed of the seed before, as equally likely values."""
    if n <= 0:
        return "open"
    p = np.clip(g, 1e-6, 1 - 1e-6)
    said = set()
    for k in (up, up + waiting):
        log_w = log_beta_binomial(np.array(float(k)), float(n), p, rho)
        w = np.exp(log_w - log_w.max())
        said.add(leaning(float(w[g < level].sum() / w.sum()), f))
    (one, *others) = said
    return "open" if others or one == "undecided" else one


WAITING, UP, CRACKED = "w", "u", "c"
SEED_STATES = {
    UP: "normal", "a": "abnormal", "m": "mouldy", "h": "hard", "f": "fresh", "e": "empty", "g": "gone",
}  # fmt: skip


def tally_of(seeds: str, n: int) -> Tally:
    """A count from each seed as it lies: a letter for each, w waiting, c just cracked, which is on its way.

    Raises InvalidValue unless there is one known letter for each of ``n``.
    """
    known = {WAITING, CRACKED, *SEED_STATES}
    if len(seeds) != n or not set(seeds) <= known:
        raise InvalidValue("seeds", seeds, f"{n} letters of {''.join(sorted(known))}")
    return Tally(**{name: seeds.count(letter) for letter, name in SEED_STATES.items()})


def leaning(chance_below: float, f: TrialsFigures) -> str:
    """What a running test says so far of the sowing level: below, above or undecided."""
    if chance_below > 1 - f.certain:
        return "below"
    return "above" if chance_below < f.certain else "undecided"


def likes(temperature_c: float, low_c: float, high_c: float, f: TrialsFigures) -> bool:
    """Whether a test stands near enough to the range of temperatures its kind likes."""
    return low_c - f.optimum_margin_c <= temperature_c <= high_c + f.optimum_margin_c


def count_due(
    day: float, first_day: float, days: float, last_counted_day: float, again_days: float
) -> bool:
    """Whether a running test is to be counted: from its first count day on, some days since it was, or its
    last day has come."""
    return day >= days or (day >= first_day and day - last_counted_day >= again_days)
