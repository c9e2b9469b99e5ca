"""What a need comes to: every combination, against rules said the other way round."""

from itertools import product

import pytest

from brisk_larder.core.needs.outcome import Found, outcome

SHORT = ("", "short_uncounted", "short_amount_unsure", "short_too_unsure", "short_too_few")
YES_NO = (False, True)
ALL = [
    Found(plants, short, covered, on_way, running, asked, sown, over, order)
    for plants, short, covered, on_way, running, asked, sown, over, order in product(
        (None, 0, 12), SHORT, YES_NO, YES_NO, YES_NO, YES_NO, YES_NO, YES_NO, ("", "soon", "late", "too_late")
    )
    if not (short and not plants)  # nothing can be short of what is not grown
]  # fmt: skip


@pytest.mark.parametrize(
    ("found", "code", "asks"),
    [
        (Found(None), "no_yield", ""),
        (Found(0), "nothing_to_grow", ""),
        (Found(0, covered=True), "nothing_to_grow", ""),
        (Found(12, covered=True), "covered", ""),
        (Found(12, covered=True, on_way=True), "ordered", ""),
        (Found(12, sown=True), "sown", ""),
        (Found(12, covered=True, sown=True), "covered", ""),
        (Found(12, "short_too_few", sown=True), "short", "order"),
        (Found(12, "short_too_few", running=True, test_asked=True), "short", "order"),
        (Found(12, "short_uncounted", running=True, test_asked=True), "uncounted", "count"),
        (Found(12, "short_amount_unsure"), "amount_unsure", "count"),
        (Found(12, "short_too_unsure"), "unsure", "order"),
        (Found(12, "short_too_unsure", test_asked=True), "unsure", "test"),
        (Found(12, "short_too_unsure", running=True, test_asked=True), "unsure", "wait"),
        (Found(12, "short_too_few", over=True), "over", "order"),
        (Found(12, covered=True, over=True), "over", ""),
    ],
)
def test_codes(found, code, asks):
    assert (outcome(found).code, outcome(found).asks) == (code, asks)


def test_nothing_is_called_covered_while_something_is_missing():
    for x in ALL:
        got = outcome(x)
        if x.short or x.over:
            assert got.code not in ("covered", "ordered", "sown", "nothing_to_grow", "no_yield")
        assert bool(got.asks) == bool(x.short)


def test_an_order_is_late_only_where_an_order_is_what_helps():
    for x in ALL:
        got = outcome(x)
        helps = got.asks == "order" and not x.over and x.order in ("late", "too_late")
        assert got.late == (x.order if helps else "")


def test_nobody_orders_what_a_count_or_a_running_test_may_find():
    for x in ALL:
        if x.short in ("short_uncounted", "short_amount_unsure") or (
            x.short == "short_too_unsure" and (x.running or x.test_asked)
        ):
            assert outcome(x).asks not in ("order", "")
