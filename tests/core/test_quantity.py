"""How much seed there is: against the ledger gone through by hand, and what may leave it."""

import numpy as np
import pytest

from brisk_larder.core.base.units import YEAR_S
from brisk_larder.core.hand import seed_count as q
from tests.core.book import FIGURES

F = FIGURES.quantity
NOW = 1_795_507_200.0


def test_a_count_starts_anew_and_all_else_comes_or_goes():
    counted = q.after(q.Seeds(80, 9, True), "counted", 120, 3)
    assert counted == q.Seeds(120, 3, True)
    assert q.after(counted, "found", 30, 4) == q.Seeds(150, 5, True)
    assert q.after(counted, "joined", 30, 4).mean == 150
    for kind in ("sown", "eaten", "given", "lost", "thrown", "split", "tested"):
        assert q.after(counted, kind, 20, 4) == q.Seeds(100, 5, True)
    assert q.after(counted, "sown", 500, 4) == q.Seeds(0, 0, True)  # nothing left to doubt
    assert q.after(counted, "sown", 119.5, 4) == q.Seeds(0.5, 5, True)
    assert not q.after(q.NOTHING_SAID, "sown", 5, 0).known
    assert q.after(q.NOTHING_SAID, "found", 5, 0).known


def test_doubts_of_what_comes_and_goes_add_as_independent_ones():
    rng = np.random.default_rng(4)
    drawn = rng.normal(400, 40, 100_000) - rng.normal(150, 30, 100_000)
    left = q.after(q.Seeds(400, 40, True), "given", 150, 30)
    assert left.mean == pytest.approx(drawn.mean(), rel=0.01)
    assert left.sd == pytest.approx(drawn.std(), rel=0.02)
    assert left.likely == pytest.approx(np.quantile(drawn, (0.1, 0.9)), rel=0.02)


def test_seeds_are_whole_and_never_less_than_none():
    assert (q.Seeds(2.6, 1, True).whole, q.Seeds(-3, 1, True).whole) == (3, 0)
    assert q.Seeds(2, 5, True).likely[0] == 0


@pytest.mark.parametrize(
    ("wanted", "aside", "too_much"),
    [
        (100, 0, False),
        (120, 0, False),
        (120.4, 0, False),
        (121, 0, True),
        (60, 60, False),
        (61, 60, True),
    ],
)
def test_more_than_there_is_goes_two_sd_beyond_what_is_not_set_aside(wanted, aside, too_much):
    assert q.more_than_there_is(q.Seeds(100, 10, True), wanted, F, aside) is too_much
    assert aside or q.more_than_there_is(q.Seeds(100, 10, True), wanted, F) is too_much
    assert not q.more_than_there_is(q.NOTHING_SAID, wanted, F, aside)  # nobody ever counted it


@pytest.mark.parametrize(
    ("entries", "full"),
    [
        ([], None),
        ([("sown", 5)], None),
        ([("found", 40), ("sown", 5), ("joined", 20)], 60),
        ([("found", 40), ("counted", 30), ("given", 10)], 30),
        ([("counted", 30), ("found", 5)], 35),
    ],
)
def test_half_left_is_half_of_what_it_held_when_it_was_last_full(entries, full):
    assert q.held_when_full(entries) == full


def test_use_in_a_year_counts_what_went_with_and_without_a_word():
    ago = lambda years: NOW - years * YEAR_S  # noqa: E731
    entries = [
        q.Entry(ago(4), "found", 500, 10), q.Entry(ago(3), "sown", 100, 0), q.Entry(ago(2), "lost", 40, 0),
        q.Entry(ago(1.5), "counted", 300, 0), q.Entry(ago(1), "eaten", 20, 0), q.Entry(ago(1), "given", 30, 0),
        q.Entry(ago(0.5), "tested", 10, 0), q.Entry(ago(0.1), "counted", 260, 0),
    ]  # fmt: skip
    use = q.use_of(entries, NOW, F)
    # sown 100, gone without a word 60, eaten 20, given 30, tested 10; found again is no use; lost is none
    assert use.a_year == pytest.approx((100 + 60 + 20 + 30 + 10) / 4)
    assert use.years_left == pytest.approx(260 / use.a_year)
    assert [round(s.mean) for s in use.after] == [500, 400, 360, 300, 280, 250, 240, 260]
    young = q.use_of([q.Entry(ago(0.4), "found", 90, 0), q.Entry(ago(0.2), "sown", 10, 0)], NOW, F)
    assert (young.a_year, young.years_left) == (None, None)
    half = q.use_of([q.Entry(ago(0.5), "found", 90, 0), q.Entry(ago(0.2), "sown", 10, 0)], NOW, F)
    assert half.a_year == pytest.approx(20)
    first_count = q.use_of([q.Entry(ago(1), "counted", 90, 0)], NOW, F)
    assert first_count.a_year is None  # what was there before it is not known, so nothing went
    assert q.use_of([], NOW, F) == q.Use([], None, None)


@pytest.mark.parametrize(
    ("left", "life", "beyond", "code", "spare"),
    [
        (None, 3, False, "nothing", 0), (9, None, False, "longer", 0), (9, 3, True, "longer", 0),
        (9, 0, False, "over", 0), (9, 0.5, False, "spare", 1 - 0.5 / 9), (9, -1, False, "over", 0), (9, 6, False, "spare", 1 / 3),
        (6, 5, False, "in_time", 0), (6.1, 5, False, "spare", 1 - 5 / 6.1),
    ],
)  # fmt: skip
def test_use_against_life(left, life, beyond, code, spare):
    assert q.use_against_life(left, life, beyond, F) == (code, pytest.approx(spare))
