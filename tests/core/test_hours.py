"""Readings drawn together by hour: against one bucket after another, reckoned by hand."""

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.storage.hours import drawn_together

readings = st.lists(
    st.tuples(
        st.integers(-20_000, 90_000),
        st.floats(-30, 60) | st.just(math.nan),
        st.floats(0, 1) | st.just(math.nan),
    ),
    min_size=1,
    max_size=40,
)


@given(readings, st.sampled_from([3600, 86_400]))
def test_each_bucket_holds_what_was_read_in_it(rows, width_s):
    rows.sort(key=lambda r: r[0])
    at, temperature, erh = (np.array(x) for x in zip(*rows, strict=True))
    got = {
        row[0]: row[1:] for row in drawn_together(at.astype(np.int64), temperature, erh, width_s)
    }
    assert set(got) == {t // width_s * width_s for t, _, _ in rows}
    for start, (count, *sides) in got.items():
        inside = [r for r in rows if start <= r[0] < start + width_s]
        assert count == len(inside)
        for read, (n, total, low, high) in zip((1, 2), (sides[:4], sides[4:]), strict=True):
            values = [r[read] for r in inside if not math.isnan(r[read])]
            assert n == len(values)
            assert total == round(math.fsum(values), 6) or abs(total - math.fsum(values)) < 2e-6
            assert (low, high) == ((min(values), max(values)) if values else (None, None))
