"""What a test is worth: against plain simulation of keepers who act by the same rule."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.special import expit
from scipy.stats import betabinom, norm

from brisk_larder.core.trials import worth_of_test as w
from tests.core.book import FIGURES

F = FIGURES.worth
RHO = 0.02


def stakes(mid=0.6, sd=1.2, seeds=120.0, stand=20.0, mothers=0.0, anew=2.0, later=0.15, states=24):
    z = norm.ppf((np.arange(states) + 0.5) / states)
    g = expit(np.log(mid / (1 - mid)) + sd * z)
    one = lambda x: np.array([float(x)])  # noqa: E731
    return w.Stakes(
        g[None], np.clip(g - later, 0, 1)[None], one(0.6), one(20), one(seeds), one(150), one(anew),
        one(stand), one(mothers), (0.9, 0.95),
    )  # fmt: skip


def best(s, most=30.0, in_stages=False):
    return w.tests_worth(s, np.array([most]), [in_stages], RHO, F)[0]


class Keeper:
    """The same household in plain loops, one choice after the other."""

    def __init__(self, s, held):
        self.g, self.s, self.held = s.g[0], s, held
        usual = int(np.ceil(s.stand[0] / s.emergence[0]))
        self.sizes = [min(np.ceil(usual * t), held) for t in w.THICKER] + [held]
        fresh = min(s.packet[0], usual * F.new_times)
        self.anew = s.anew[0] + F.stand_worth * self.short(fresh, F.new_germination) / s.stand[0]

    def spread(self, m, g):
        e, k = self.s.emergence[0], self.s.weight[0]
        p = g * e
        return m * p, np.sqrt(m * p * (1 - p) + (m * g) ** 2 * e * (1 - e) / (k + 1) + 1e-9)

    def short(self, m, g):
        mean, sd = self.spread(m, g)
        x = np.linspace(mean - 8 * sd, mean + 8 * sd, 2001)
        density = norm.pdf(x, mean, sd) * (x[1] - x[0])
        missing = np.clip(self.s.stand[0] - x, 0, None) * density
        return min(missing.sum(), self.s.stand[0])

    def does(self, weight):
        weight = weight / weight.sum()
        for m in self.sizes:
            mean, sd = self.spread(m, self.g)
            if weight @ norm.cdf((mean - self.s.stand[0] + 0.5) / sd) >= self.s.promised[0]:
                return m
        return None

    def loss(self, does, i):
        if does is None:
            return self.anew
        lost = F.stand_worth * self.short(does, self.g[i]) / self.s.stand[0]
        return does / self.s.packet[0] + lost


def chance(g, n, k):
    size = (1 - RHO) / RHO
    return betabinom.pmf(k, n, g * size, (1 - g) * size)


@pytest.mark.parametrize(
    ("mid", "sd", "seeds"), [(0.6, 1.2, 120), (0.5, 0.5, 100), (0.7, 1.5, 400)]
)
def test_the_gain_is_what_a_keeper_saves_who_acts_by_the_same_rule(mid, sd, seeds):
    s = stakes(mid, sd, seeds)
    found = best(s)
    n, states = found.seeds, len(s.g[0])
    without, with_it = Keeper(s, seeds), Keeper(s, seeds - n)
    does = without.does(np.ones(states))
    before = np.mean([without.loss(does, i) for i in range(states)])
    after = 0.0
    for k in range(n + 1):
        weight = chance(s.g[0], n, k) / states
        does = with_it.does(weight)
        after += sum(weight[i] * with_it.loss(does, i) for i in range(states))
        said = next(t for t in found.then if t.low <= k <= t.high)
        assert said.sow == (w.BUY if does is None else does) or said.sow == w.REST
    assert found.gain == pytest.approx(before - after, abs=0.01)
    assert found.cost == pytest.approx(F.effort + n / 150)


def test_two_stages_stop_where_more_would_not_pay():
    s = stakes(0.6, 1.2, 300)
    found = best(s, most=60, in_stages=True)
    assert found.more
    n, states = found.seeds, len(s.g[0])
    one, two = Keeper(s, 300 - n), Keeper(s, 300 - 2 * n)
    goes = []
    for k in range(n + 1):
        weight = chance(s.g[0], n, k) / states
        does = one.does(weight)
        stop = sum(weight[i] * one.loss(does, i) for i in range(states))
        go = (n / 150 + F.effort) * weight.sum()
        for j in range(n + 1):
            then = weight * chance(s.g[0], n, j)
            does = two.does(then)
            go += sum(then[i] * two.loss(does, i) for i in range(states))
        if go < stop:
            goes.append(k)
    assert (found.more_from, found.more_to) == (min(goes), max(goes))


def test_counts_are_beta_binomial():
    g = np.array([[0.1, 0.5, 0.93]])
    assert w.counted(g, 12, RHO)[0] == pytest.approx(
        np.array([chance(g[0], 12, k) for k in range(13)]), abs=1e-12
    )


def test_what_is_known_or_cannot_be_changed_is_not_tested():
    assert best(stakes(0.93, 0.2)) is None  # good for sure
    assert best(stakes(0.02, 0.5)) is None  # dead for sure
    assert best(stakes(0.6, 1.2, seeds=10)) is None  # too few for the stand whatever they are
    assert best(stakes(0.6, 1.2), most=3.0) is None


def test_seed_that_its_line_needs_is_not_eaten_up_by_tests():
    """Eighty seeds: a test pays; where a line needs twenty mothers of them it does not."""
    assert best(stakes(seeds=80.0)).pays > 0
    assert best(stakes(seeds=80.0, mothers=20.0)).pays < 0


def test_rows_are_judged_each_for_itself_and_a_dearer_replacement_is_worth_more_of_a_test():
    cheap, dear = stakes(anew=1.5), stakes(anew=6.0)
    both = w.Stakes(*(np.concatenate([getattr(cheap, x), getattr(dear, x)]) for x in (
        "g", "g_later", "emergence", "weight", "seeds", "packet", "anew", "stand", "mothers"
    )), (0.9, 0.95))  # fmt: skip
    one, other = w.tests_worth(both, np.full(2, 30.0), [False, False], RHO, F)
    assert one == best(cheap)
    assert other == best(dear)
    assert other.gain > one.gain


def test_what_is_learnt_beside_is_what_is_shared():
    rng = np.random.default_rng(4)
    x = rng.normal(size=(3, 512))
    tested = expit(0.4 + 1.2 * x[0])
    close = expit(0.4 + 1.2 * (0.8 * x[0] + 0.6 * x[1]))
    apart = expit(0.4 + 1.2 * x[2])
    one = stakes()
    both = w.Stakes(
        *(np.repeat(v, 2, axis=0) for v in vars(one).values() if isinstance(v, np.ndarray)),
        one.promised,
    )
    g = np.array([close, apart])
    both = w.Stakes(g, g, *list(vars(both).values())[2:])
    shares, gains = w.learnt_beside(both, tested, 20, RHO, F)
    # of the close one: what a regression on the count of a large simulated test explains
    which = rng.integers(0, 512, 200_000)
    size = (1 - RHO) / RHO
    k = rng.binomial(20, rng.beta(tested[which] * size, (1 - tested[which]) * size))
    means = np.array([close[which][k == c].mean() if np.any(k == c) else 0.0 for c in range(21)])
    explained = means[k].var() / close.var()
    assert shares[0] == pytest.approx(explained, abs=0.03)
    assert shares[1] < 0.03
    assert gains[0] > gains[1]


def test_what_hangs_on_a_packet():
    mine = w.Packet(0.5, 20.0, 240.0, 80.0, 0.9, True, 0.0)
    emerges, weight, have, packet, anew, stand, mothers = w.at_stake(mine, F, 60, 2, 20)
    assert (emerges, weight, have, packet, anew, mothers) == (
        0.5,
        20.0,
        240.0,
        80.0,
        F.anew_bought,
        0,
    )
    assert stand == 20  # 240 seeds in two sowings would give 54 plants: no more than a usual stand
    few = w.at_stake(replace(mine, have=30.0), F, 60, 2, 20)
    assert few[5] == 6  # 30 / 2 * 0.9 * 0.5 = 6.75: whole plants
    assert w.at_stake(replace(mine, have=1.0), F, 60, 2, 20)[5] == 1
    own = w.at_stake(replace(mine, bought=False, packet_seeds=None, mothers=16), F, 60, 2, 20)
    assert (own[3], own[4], own[6]) == (60, F.anew_own, 16)
