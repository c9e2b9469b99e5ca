"""How far one test reaches: as expected it moves nobody else, and what shares only the house hardly."""

import pytest

from brisk_larder.data.acts import ActRef
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.trials import past
from tests.conftest import opened_demo


@pytest.fixture
def mill(demo_file, tmp_path):
    with opened_demo(demo_file, tmp_path) as larder:
        yield larder


def moved(larder, variety, up, n):
    """By how much a test moves each other packet; and what covers the foods, before and after."""
    before = {x.code: x for x in lot_lines(larder)}
    (tested,) = (x for x in before.values() if x.variety == variety)

    def cover():
        return {x.name: [c.code for c in x.covered] for x in needs_room(larder).lines}

    then = cover()
    past.past_test(larder, ActRef(), tested.lot_id, up, n, took_seeds=False)
    steps = {
        x.code: (abs(x.glance.now.mid - before[x.code].glance.now.mid), x)
        for x in lot_lines(larder)
        if x.code != tested.code
    }
    return tested, steps, then, cover()


@pytest.mark.parametrize(
    ("variety", "up", "n"),
    [("Redshank", 1, 1), ("Redshank", 8, 10), ("Millrace", 9, 10), ("Lantern Frill", 9, 10)],
)
def test_a_test_as_expected_moves_no_other_packet_and_swaps_no_cover(mill, variety, up, n):
    if variety == "Millrace":
        variety = "Little Ember"  # peas of that name are several packets of one line
    tested, steps, before, after = moved(mill, variety, up, n)
    assert tested.glance.now.low <= up / n or n == 1
    worst = max(steps.values(), key=lambda s: s[0])
    assert worst[0] <= 0.0055, (worst[0], worst[1].variety)
    assert after == before


@pytest.mark.parametrize(("variety", "up"), [("Brackenbulb", 0), ("Ferrywoman", 0)])
def test_a_dead_packet_hardly_moves_what_shares_only_the_house_with_it(mill, variety, up):
    """Before one origin was held back, a dead packet took up to a third off packets of the whole house."""
    tested, steps, _, _ = moved(mill, variety, up, 10)
    others = [
        (d, x) for d, x in steps.values() if x.kind != tested.kind and x.place != tested.place
    ]
    assert len(others) > 50
    worst = max(others, key=lambda s: s[0])
    assert worst[0] < 0.03, (worst[0], worst[1].variety, worst[1].place)
