"""What a test can tell, against published tables; which lots deserve one."""

import numpy as np
import pytest
from scipy.stats import betabinom, binom

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.counting import log_beta_binomial, log_over_ceilings
from brisk_larder.core.trials import when_to_test as t
from brisk_larder.reference.load import load_reference
from tests.core.book import FIGURES

DAY = 86_400.0


def test_ten_of_ten_says_at_least_74_percent():
    assert t.what_n_tells(10, 10).low == pytest.approx(0.741, abs=0.001)
    # rule of three: none failing in 60 leaves at most about 5 % failing
    assert 1 - t.what_n_tells(60, 60).low == pytest.approx(3 / 60, abs=0.003)
    # two bounds at 97.5 % are the exact 95 % interval of 8 in 10: 44-97 (Clopper & Pearson 1934)
    both = t.what_n_tells(10, 8, 0.975)
    assert (both.low, both.high) == (
        pytest.approx(0.444, abs=0.001),
        pytest.approx(0.975, abs=0.001),
    )


def test_bounds_hold_as_often_as_they_say():
    for p in (0.5, 0.8, 0.95):
        covered = sum(binom.pmf(k, 20, p) for k in range(21) if t.what_n_tells(20, k).low <= p)
        assert covered >= 0.95


@pytest.mark.parametrize(("n", "k", "field"), [(0, 0, "seeds"), (10, 11, "up"), (10, -1, "up")])
def test_impossible_counts_are_refused(n, k, field):
    with pytest.raises(InvalidValue, match=field):
        t.what_n_tells(n, k)


def test_time_course_meets_both_count_days():
    assert t.time_course([5, 14], 5, 14, FIGURES.trials) == pytest.approx([0.10, 0.95])
    assert np.all(np.diff(t.time_course(np.arange(1, 40), 6, 28, FIGURES.trials)) > 0)


def advise(
    chance=0.4, fall=900.0, known=-400.0, use=120.0, days=14.0, seeds=200.0, tested=False, pays=1.0,
    routine=False, until=np.inf, lately=0.0,
):  # fmt: skip
    one = lambda x: np.array([x])  # noqa: E731
    return t.retest(
        one(chance), one(fall), one(known * DAY), one(tested), one(use * DAY), one(days),
        one(seeds), one(pays), 0.0, 21, FIGURES.trials, routine, one(until * DAY), one(lately),
    )[0]  # fmt: skip


def test_only_what_pays_is_tested_and_else_it_is_said_why_not():
    assert advise(pays=FIGURES.trials.least_gain).code == "undecided"
    assert advise(0.5, pays=0.09).code == "not_worth"
    assert advise(0.5, pays=np.nan).code == "not_worth"
    assert advise(0.1, pays=-0.2).code == "certainly_good"
    assert advise(0.9, pays=-0.2).code == "certainly_poor"
    assert advise(0.01).wanted  # what a test can change decides, not a line of 70 %
    assert advise(use=np.nan).code == "unused"
    assert advise(seeds=12).code == "too_few_seeds"
    assert advise(seeds=16).code == "undecided"  # a quarter of 16 is the smallest test


def test_a_test_holds_for_a_third_of_the_time_to_fall():
    last = {"tested": True, "pays": -0.2}
    assert advise(known=-100, **last).code == "still_holds"  # 300 days from day -100
    assert advise(known=-200, **last).code == "not_worth"
    assert advise(known=-100, pays=-0.2).code == "not_worth"  # never tested: nothing holds
    assert advise(known=0.0, use=299, **last).code == "still_holds"
    assert advise(known=0.0, use=300, **last).code == "not_worth"


def test_a_test_is_due_in_time_to_order_before_the_next_use():
    assert advise().due_s / DAY == pytest.approx(120 - 14 - 7 - 21)
    # too late to wait: the day it was due is told, and stays the same tomorrow
    assert advise(use=20).due_s / DAY == pytest.approx(20 - 14 - 7 - 21)


def test_what_no_answer_can_help_any_more_and_what_is_known_enough_is_not_asked():
    assert (
        advise(use=0, until=14.5).code == "undecided"
    )  # in the window, and it can wait for the answer
    assert advise(use=0, until=13.5).code == "too_late"
    never_wanted = advise(use=0, until=13.5, pays=-1.0, chance=0.95)
    assert never_wanted.code == "certainly_poor"
    holds = {"known": -200, "tested": True}
    assert advise(lately=19, **holds).code == "undecided"
    assert advise(lately=20, **holds).code == "known_enough"
    assert not advise(lately=20, **holds).wanted
    assert advise(lately=20, known=-900, tested=True).code == "undecided"  # aged since
    # what is sure is said as sure, whatever a test would pay
    assert advise(lately=20, chance=0.95, **holds).code == "certainly_poor"
    assert advise(lately=20, chance=0.05, **holds).code == "certainly_good"
    assert advise(lately=20, pays=-1.0, routine=True, **holds).code == "known_enough"
    assert advise(lately=20, known=-900, pays=-1.0, routine=True).code == "routine"


def test_the_routine_asks_when_its_interval_is_over_and_in_time_to_order():
    last = {"tested": True, "pays": -1.0, "routine": True}
    assert advise(known=-280, **last).due_s / DAY == pytest.approx(20)  # 300 days from day -280
    assert advise(known=-230, **last).due_s / DAY == pytest.approx(70)
    assert advise(known=-190, **last).due_s / DAY == pytest.approx(120 - 14 - 7 - 21)
    assert advise(known=-900, **last).due_s / DAY == pytest.approx(-600)  # the day it was, for good
    assert advise(known=-150, **last).code == "still_holds"  # first after the next use
    assert advise(pays=9.0, known=-150, routine=True).code == "still_holds"  # and then only
    assert advise(known=-280, **last).code == "routine"
    assert advise(use=np.nan, **last).code == "unused"
    assert advise(seeds=12, **last).code == "too_few_seeds"


def test_each_bound_is_exact_for_one_seed():
    assert t.what_n_tells(1, 1).low == pytest.approx(0.05)  # p = 0.05 gives 1 of 1 once in twenty
    assert t.what_n_tells(1, 0).high == pytest.approx(0.95)


def test_what_a_count_counts_and_how_far():
    tally = t.Tally(normal=5, abnormal=3, mouldy=2, hard=4, fresh=1, empty=7, gone=6)
    assert tally.viable == 10
    b, f = FIGURES.belief, FIGURES.trials
    assert t.rho_of("", "paper", False, b) == b.test_rho_good
    assert t.rho_of("too dry", "paper", False, b) == b.test_rho_flawed
    assert t.rho_of("", "compost", False, b) == b.test_rho_flawed
    assert t.rho_of("too dry", "paper", True, b) == b.test_rho_reads_low > b.test_rho_flawed
    assert b.test_rho_flawed > b.test_rho_good
    assert t.weight_of(0.8, False, b) == 0.8
    assert t.weight_of(0.8, True, b) == pytest.approx(0.4)
    assert t.ceiling(True, 14, 5, 14, f) == t.WHOLE
    assert t.ceiling(True, 13.9, 5, 14, f) == t.ceiling(False, 13.9, 5, 14, f) != t.WHOLE
    early = t.ceiling(False, 5, 5, 14, f)
    assert early.middle == pytest.approx(0.10)
    assert early.low < 0.05 < 0.2 < early.high
    assert t.ceiling(False, 0, 5, 14, f).nodes == (1e-3, 1e-3, 1e-3)


def test_days_in_the_cold_count_less():
    f = FIGURES.trials
    assert t.as_at_its_best(10, 24, 10, 24, f) == 10
    assert t.as_at_its_best(10, 30, 10, 24, f) == 10
    assert t.as_at_its_best(10, 17, 10, 24, f) == pytest.approx(5)  # half the way up: half the pace
    assert t.as_at_its_best(10, 14, 10, 24, f) == pytest.approx(10 * 4 / 14)  # a tomato at 14 degC
    assert t.as_at_its_best(10, 5, 10, 24, f) == pytest.approx(10 * f.slowest_pace)
    assert t.as_at_its_best(10, 20, 24, 24, f) == 10


@pytest.mark.parametrize("day", [2, 6, 9, 13])
def test_a_test_closed_early_tells_what_it_could_and_never_more_than_one_still_running(day):
    f, at = FIGURES.trials, np.array([[0.4]])
    one = be.Prior(*(np.array([x]) for x in (2.0, 0.4, 0.0, 0.3, 0.95, 0.0, 0.0)))

    def believed(k, n, could):
        counts = be.Counts(np.zeros(1, dtype=np.intp), *(np.array([float(x)]) for x in (0.4, n, k)),
                           np.array([could.nodes]), np.array([0.02]), np.ones(1), np.zeros(1))  # fmt: skip
        return wo.quantiles(be.fit(one, counts), at, (0.5,))[0, 0, 0]

    closed, running = (t.ceiling(c, day, 6, 14, f) for c in (True, False))
    for k in (0, 4, 8, 10):
        assert believed(k, 10, closed) <= believed(k, 10, running) + 1e-12
    over, still = (t.ceiling(c, 14 + day, 6, 14, f) for c in (True, False))
    assert over == t.WHOLE
    for k in (0, 4, 8):
        assert believed(k, 10, over) <= believed(k, 10, still)
    untested = wo.quantiles(be.fit(one, be.Counts.none()), at, (0.5,))[0, 0, 0]
    # a carrot closed on day 3 with none of twenty up says next to nothing
    nothing_yet = believed(0, 20, t.ceiling(True, 3, 6, 14, f))
    assert untested - 0.03 < nothing_yet <= untested
    assert believed(0, 20, t.WHOLE) < 0.2


def test_the_doubt_of_what_could_be_up_is_averaged_over():
    """Against plain sampling of the pace of a lot."""
    f = FIGURES.trials
    could = t.ceiling(True, 7, 6, 14, f)
    pace = np.random.default_rng(3).normal(0, f.pace_sd, 200_000)
    share = np.maximum(t.time_course(7 * np.exp(pace), 6, 14, f), 1e-3)
    for k, n, g in ((1, 10, 0.9), (4, 10, 0.9), (0, 10, 0.6)):
        drawn = betabinom.pmf(k, n, g * share * 49, (1 - g * share) * 49).mean()
        ours = np.exp(log_over_ceilings(
            np.array([could.nodes]),
            lambda c, k=k, n=n, g=g: log_beta_binomial(np.array([float(k)]), n, g * c, 0.02),
        ))[0]  # fmt: skip
        assert ours == pytest.approx(drawn, rel=0.15, abs=0.02)


def test_where_a_running_test_stands_and_leans():
    stages = [t.stage(day, 5, 14, FIGURES.trials) for day in (4.9, 5, 13.9, 14, 17.4, 17.5)]
    assert stages == ["early", "coming", "coming", "grace", "grace", "over"]
    leans = [t.leaning(p, FIGURES.trials) for p in (0.95, 0.9, 0.5, 0.1, 0.05)]
    assert leans == ["below", "undecided", "undecided", "undecided", "above"]
    warm = [t.likes(c, 20, 25, FIGURES.trials) for c in (16.9, 17, 22, 28, 28.1)]
    assert warm == [False, True, True, True, False]
    # counted on day 4, every three days, fourteen in all
    due = [t.count_due(day, 5, 14, 4, 3) for day in (6.9, 7, 13)]
    assert due == [False, True, True]
    assert t.count_due(14, 5, 14, 13.5, 3)
    assert not t.count_due(13.9, 5, 14, 13.5, 3)
    assert not t.count_due(4.9, 5, 14, 0, 3)  # nothing to see before its first count day


def test_kinds_that_can_share_a_warmth_do_and_a_living_room_comes_first():
    f = load_reference().figures.trials
    assert [t.spot(*liked, f) for liked in ((15, 25), (10, 18), (22, 30), (5, 9), (30, 35))] == [
        20, 15, 25, 15, 25,
    ]  # fmt: skip
    for key, crop in load_reference().crops.items():
        low, high = crop.germ_temp_opt_c
        at = t.spot(low, high, f)
        shared = (f.spot_room_c, f.spot_cool_c, f.spot_warm_c)
        if any(low <= s <= high for s in shared):
            assert low <= at <= high, key
        if low <= f.spot_room_c <= high:
            assert at == f.spot_room_c, key
