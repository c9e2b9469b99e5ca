"""Where seed lay: what is told today of a place does not change yesterday, and is put right since when."""

import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.acts.stays_told import say_since
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.papers import history
from brisk_larder.services.stock import (
    lot_page,
)
from brisk_larder.services.storage import container_page, containers
from brisk_larder.services.today import jobs
from tests.household_state import compare

PLACES = ("freezer_deep", "fridge", "attic", "heated_room", "larder", "greenhouse")


def add(larder, kind, name="", year=2017, quantity="300", **more):
    item = NewSeeds(kind=kind, variety=name, year=year, quantity=quantity, **more)
    return add_seeds(larder, ActRef(), [item]).lot_ids[0]


def at(larder, lot):
    return next(x for x in lot_lines(larder) if x.lot_id == lot)


def now(larder, lot):
    g = at(larder, lot).glance.now
    return (g.low, g.mid, g.high)


def place(larder, kind, name="somewhere"):
    return containers.add_node(larder, ActRef(), containers.NewNode(name, place_kind=kind)).node_id


def box(larder, parent, kind="glass_jar_gasket", **more):
    new = containers.NewNode("box", container_kind=kind, parent_id=parent, **more)
    return containers.add_node(larder, ActRef(), new).node_id


@pytest.mark.parametrize("kind", PLACES)
@pytest.mark.parametrize("how", ["move", "move into a box", "box moves", "typed in there"])
def test_where_seed_is_put_today_says_nothing_of_yesterday(small, kind, how):
    larder = small.larder
    pea = add(larder, "pea", "Old Weir")
    was = now(larder, pea)
    here = place(larder, kind)
    assert now(larder, pea) == was  # a place was named
    if how == "move":
        lot_acts.move_lot(larder, ActRef(), pea, here)
    elif how == "move into a box":
        lot_acts.move_lot(larder, ActRef(), pea, box(larder, here))
    elif how == "box moves":
        stands = box(larder, small.nodes["larder"])
        lot_acts.move_lot(larder, ActRef(), pea, stands)
        containers.move_node(larder, ActRef(), stands, here)
    else:
        pea = add(larder, "pea", "Old Weir", node_id=here)
    assert now(larder, pea) == pytest.approx(was, abs=0.01)


def test_the_keeper_says_since_when_for_many_and_it_can_be_put_right(small):
    larder = small.larder
    cold = place(larder, "freezer_deep", "freezer")
    lots = [add(larder, "pea", f"Row {i}", node_id=cold) for i in range(3)]
    only_now = now(larder, lots[0])
    say_since(larder, ActRef(), "since about 2022", lots[:2])
    since_2022 = now(larder, lots[0])
    say_since(larder, ActRef(), "since it came", lots[:1])
    always = now(larder, lots[0])
    assert only_now[1] < since_2022[1] < always[1]
    assert now(larder, lots[1]) == since_2022
    assert now(larder, lots[2]) == only_now
    went = [(s.place, s.known) for s in lot_page.lot_page(larder, lots[1]).where_it_went]
    assert went == [("the usual place, cupboard", False), ("freezer", True)]
    compare(larder)
    history.undo(larder, ActRef(), history.recent(larder)[0].act_id)
    assert now(larder, lots[0]) == since_2022
    with pytest.raises(InvalidValue, match="since when"):
        say_since(larder, ActRef(), "long ago", lots)
    with pytest.raises(Conflict, match="stands nowhere"):
        say_since(larder, ActRef(), "since it came", [add(larder, "pea", "Loose")])


def test_a_box_that_came_to_its_place_today_was_somewhere_else_before(small):
    larder = small.larder
    cold = place(larder, "freezer_deep", "freezer")
    always = add(larder, "pea", "A", node_id=box(larder, cold), since="since it came")
    new = box(larder, cold, since="only from now")
    today = add(larder, "pea", "B", node_id=new, since="since it came")
    assert now(larder, today)[1] < now(larder, always)[1] - 0.05
    say_since(larder, ActRef(), "since it came", [], [new])
    assert now(larder, today) == now(larder, always)


def test_of_an_older_file_it_is_asked_once_since_when(small):
    larder = small.larder
    cold = place(larder, "freezer_deep", "freezer")
    lots = [add(larder, "pea", f"Row {i}", node_id=cold, since="since it came") for i in range(3)]
    always = now(larder, lots[0])
    with larder.store.write() as session:  # as files of before have them: nobody had said it
        session.connection().exec_driver_sql(
            f"UPDATE stay SET since = 'supposed' WHERE lot_id >= {lots[0]}"
        )
    (job,) = [j for j in jobs.today_room(larder).jobs if j.kind == "since"]
    assert job.title == "Say since when 3 packets lie in freezer"
    assert container_page.node_page(larder, cold).supposed == lots
    say_since(larder, ActRef(), "since it came", lots[:1])
    say_since(larder, ActRef(), "only from then", lots[1:])
    assert now(larder, lots[0]) == always
    assert now(larder, lots[1])[1] < always[1] - 0.05
    assert container_page.node_page(larder, cold).supposed == []
    assert not [j for j in jobs.today_room(larder).jobs if j.kind == "since"]
