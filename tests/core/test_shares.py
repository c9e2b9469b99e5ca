"""What is sown already, given to the needs it was sown for."""

from brisk_larder.core.needs.cover import Demand
from brisk_larder.core.needs.shares import (
    InGround,
    less_what_is_sown,
    shared,
    whole_key,
)

BEET = frozenset(["beet"])


def left(demands, *ground):
    rest, sown = less_what_is_sown(demands, ground)
    return {d.key: d.plants for d in rest}, sown


def test_what_is_sown_for_one_need_is_not_taken_by_another():
    both = [Demand("food:1", BEET, 100), Demand("food:2", BEET, 40)]
    assert left(both, InGround(7, "beet", "food:2", 38.6)) == (
        {"food:1": 100, "food:2": 2},
        {"food:2": 38},
    )
    # what nobody meant for anything goes to the earlier, and so does what is more than enough
    assert left(both, InGround(7, "beet", "", 110.0))[0] == {"food:1": 0, "food:2": 30}
    assert left(both, InGround(7, "beet", "food:2", 60.0))[0] == {"food:1": 80, "food:2": 0}


def test_of_a_split_food_and_of_a_pick_only_their_own_packets_count():
    parts = [
        Demand("food:1#5", BEET, 30, among=frozenset([7])),
        Demand("food:1#6", BEET, 30, among=frozenset([8])),
        Demand("pick:3", BEET, 10, frozenset([9])),
    ]
    assert left(parts, InGround(8, "beet", "food:1", 20.0), InGround(9, "beet", "", 50.0))[0] == {
        "food:1#5": 30,
        "food:1#6": 10,
        "pick:3": 0,
    }
    assert left(parts, InGround(7, "leek", "food:1", 20.0))[1] == {}


def test_plants_are_shared_whole_and_none_is_lost():
    assert shared(10, {1: 1.0, 2: 1.0, 3: 1.0}) == {1: 4, 2: 3, 3: 3}
    assert shared(9, {5: 2.0, 6: 1.0}) == {5: 6, 6: 3}
    # 1.43, 2.86 and 5.71: the largest remainders are made whole
    assert shared(10, {1: 1.0, 2: 2.0, 3: 4.0}) == {1: 1, 2: 3, 3: 6}
    assert whole_key("food:1#5") == whole_key("food:1") == "food:1"
