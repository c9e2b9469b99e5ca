"""The bill of the schools against a simulation in which the truth of every packet is known."""

import numpy as np
import pytest
from scipy.stats import beta, betabinom

from brisk_larder.core.judging.schools import SCHOOLS, Lots, school_costs
from tests.core.book import FIGURES

F = FIGURES.triage
LEVEL, CONFIDENCE, EMERGENCE, TYPICAL = 0.7, 0.9, 0.7, 0.9
WEIGHT = FIGURES.needs.emergence_beta_weight
RHO = FIGURES.belief.test_rho_good
ENOUGH = int(np.ceil(F.enough_share * F.stand_plants))


def lots(g, age=2.0, seeds=500.0, tested=0.0, by_routine=0.0):
    nodes, one = np.array([g]), np.ones(1)
    return Lots(
        nodes, age * one, 4.0 * one, EMERGENCE * one, seeds * one, TYPICAL * one, tested * one,
        by_routine * one,
    )  # fmt: skip


def bill(given, confidence=CONFIDENCE):
    return {c.school: c for c in school_costs(given, LEVEL, confidence, FIGURES)}


def come_up(rng, n):
    return rng.beta(EMERGENCE * WEIGHT, (1 - EMERGENCE) * WEIGHT, n)


def rule(rng, believed):
    """Seeds for the stand, from so many draws of seeds sown until there are plants enough."""
    until = F.stand_plants + rng.negative_binomial(F.stand_plants, believed)
    return np.quantile(until, CONFIDENCE, method="inverted_cdf")


@pytest.mark.parametrize(
    ("school", "asked", "age"),
    [("age_rule", 0, 2), ("age_rule", 0, 9), ("test", 0, 2), ("forecast", 0, 2),
     ("forecast", 12, 2), ("routine", 8, 2), ("count", 0, 2)],
)  # fmt: skip
def test_each_bill_is_what_a_simulated_keeper_pays(school, asked, age):
    rng, n = np.random.default_rng(8), 60_000
    nodes = beta.ppf((np.arange(80) + 0.5) / 80, 5, 3)
    truth = rng.choice(nodes, n)
    size = {"test": F.yearly_test_seeds, "forecast": asked, "routine": asked}.get(school, 0)
    up = (
        betabinom.rvs(
            size, truth * (1 - RHO) / RHO, (1 - truth) * (1 - RHO) / RHO, random_state=rng
        )
        if size
        else np.zeros(n, dtype=int)
    )
    failed = seeds = thrown = bought = 0.0
    left = 60 - size
    for k in np.unique(up):
        mine = truth[up == k]
        if school == "test":
            believed = rng.beta(k + 1, size - k + 1, n)
        elif school in ("forecast", "routine"):
            believed = rng.choice(mine, n)  # who saw this count, among all packets
        else:
            believed = np.full(n, TYPICAL / (F.extra_times if school == "count" else 1))
        throw = {"age_rule": age > 4, "count": False}.get(school, np.median(believed) < 0.35)
        sown = rule(rng, believed * come_up(rng, n))
        buys = throw or sown > left
        p = np.full(len(mine), FIGURES.worth.new_germination) if buys else mine
        if buys:
            sown = rule(rng, FIGURES.worth.new_germination * come_up(rng, n))
        plants = rng.binomial(int(sown), p * come_up(rng, len(mine)))
        failed += (plants < ENOUGH).sum() / n
        seeds += (size + sown) * len(mine) / n
        bought += buys * len(mine) / n
        thrown += throw * (mine * left).sum() / n
    named = "by_routine" if school == "routine" else "tested"
    told = bill(lots(nodes, age=age, seeds=60.0, **{named: float(asked)}))[school]
    assert told.failed == pytest.approx(failed, abs=0.015)
    assert told.bought == pytest.approx(bought, abs=0.03)
    assert told.seeds == pytest.approx(seeds, rel=0.03)
    assert told.thrown == pytest.approx(thrown, abs=0.6)


def test_a_test_teaches_and_the_rule_is_the_same_for_all():
    half = np.array([0.15] * 8 + [0.9] * 9)  # nearly dead or sound, nobody knows which
    blind, seen = (bill(lots(half, seeds=100.0, tested=n))["forecast"] for n in (0.0, 12.0))
    # unlooked at no number of its own seeds is sure enough; a test tells which of the two it is
    assert (blind.bought, blind.thrown) == (1.0, 0.0)
    assert seen.bought == pytest.approx(8 / 17, abs=0.06)
    assert seen.seeds == pytest.approx(blind.seeds + 12, rel=0.1)
    sure = bill(lots(np.full(9, TYPICAL)))
    assert sure["forecast"].seeds == sure["age_rule"].seeds  # the same belief, the same sowing
    assert sure["forecast"].failed == sure["age_rule"].failed < 1 - CONFIDENCE
    assert sure["count"].seeds > 1.4 * sure["age_rule"].seeds
    # a less sure household sows less
    assert bill(lots(np.full(9, TYPICAL)), 0.6)["forecast"].seeds < sure["forecast"].seeds


def test_each_school_pays_where_its_belief_is_blind():
    dead, alive = np.full(63, 0.05), np.full(63, 0.95)
    assert bill(lots(dead, age=1))["age_rule"].failed > 0.99  # young by the table, dead in the tin
    assert bill(lots(alive, age=4.0))["age_rule"].bought == 0
    old = bill(lots(alive, age=4.1))["age_rule"]
    assert (old.bought, old.thrown) == (1, pytest.approx(500 * 0.95))
    assert bill(lots(alive, age=9, seeds=np.inf))["age_rule"].thrown == 0  # nobody knows how much
    assert bill(lots(alive, age=9))["forecast"].thrown == 0
    assert bill(lots(dead))["forecast"].bought == 1
    assert bill(lots(dead))["test"].bought > 0.99
    assert bill(lots(dead))["count"].failed > 0.99
    few = bill(lots(alive, seeds=5.0))
    assert [few[s].bought for s in SCHOOLS] == pytest.approx(
        [1] * len(SCHOOLS)
    )  # five seeds are no stand, whoever asks
    assert few["age_rule"].thrown == few["forecast"].thrown == 0
    limit = np.full(9, F.poor_share_of_level * LEVEL)
    assert bill(lots(limit, seeds=5000.0))["forecast"].thrown == 0
    assert bill(lots(limit - 1e-6))["forecast"].thrown > 0


def test_tests_take_no_more_than_half_or_a_quarter_of_what_is_there():
    few = lots(np.full(9, 0.9), seeds=12.0, tested=8.0)
    new = bill(lots(np.full(9, 0.01)))["forecast"].seeds  # what a bought packet takes
    assert bill(few)["forecast"].seeds == pytest.approx(3 + new)
    assert bill(few)["test"].seeds == pytest.approx(6 + new)
    assert bill(lots(np.full(9, 0.9), seeds=1.0))["test"].seeds == pytest.approx(new)
    empty = Lots(np.empty((0, 1)), *(np.empty(0) for _ in range(7)))
    assert {c.failed for c in school_costs(empty, LEVEL, CONFIDENCE, FIGURES)} == {0.0}
