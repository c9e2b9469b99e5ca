"""No number is said surer than it is known."""

from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.judging import as_sure as s


def test_a_narrow_range_is_told_to_the_point_and_a_wide_one_in_tens():
    assert s.step_points(0.83, 0.929) == 1
    assert s.step_points(0.83, 0.93) == 5  # ten points
    assert s.step_points(0.60, 0.90) == 5  # thirty
    assert s.step_points(0.60, 0.901) == 10
    assert s.middle_words(0.894, 1) == "89 %"
    assert s.middle_words(0.874, 5) == "about 85 %"
    assert s.middle_words(0.875, 5) == "about 90 %"
    assert s.middle_words(0.42, 10) == "roughly 40 %"
    assert s.range_words(0.02, 0.78, 10) == "likely 0–80"
    assert s.range_words(0.826, 0.931, 5) == "likely 85–95"


def test_little_is_not_said_to_be_nothing_nor_much_to_be_all():
    assert s.middle_words(0.04, 10) == "under 10 %"
    assert s.middle_words(0.02, 5) == "under 5 %"
    assert s.middle_words(0.96, 10) == "over 90 %"
    assert s.middle_words(0.98, 5) == "over 95 %"
    assert s.middle_words(0.0, 1) == "0 %"


@given(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
def test_what_is_said_lies_within_half_a_step_and_less_is_never_said_to_be_more(a, b, c):
    low, mid, high = sorted((a, b, c))
    step = s.step_points(low, high)
    for x in (low, mid, high):
        assert abs(s.nearest(x, step) - 100 * x) <= step / 2 + 1e-9
    assert s.nearest(low, step) <= s.nearest(mid, step) <= s.nearest(high, step)
    assert s.step_points(low, high) >= s.step_points(low, mid)


def test_the_middle_of_far_years_is_not_told():
    assert s.years_apart_told(2026, 2031)
    assert not s.years_apart_told(2026, 2032)
