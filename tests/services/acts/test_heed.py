"""Cautions at the act: asked once, in words, and done all the same when they were read."""

import pytest

from brisk_larder.core.base.errors import Conflict
from brisk_larder.core.base.units import DAY_S
from brisk_larder.core.hand.cautions import crossing_lines, dusted, held_before
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import ask_before, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.papers import parcels
from brisk_larder.services.stock import labels
from brisk_larder.services.storage import alarms_now, containers
from brisk_larder.services.trials import evening_steps
from tests.conftest import packet


def box(small, kind, parent="larder"):
    new = containers.NewNode(kind, container_kind=kind, parent_id=small.nodes[parent])
    return containers.add_node(small.larder, ActRef(), new).node_id


def place(small, kind):
    return containers.add_node(
        small.larder, ActRef(), containers.NewNode(kind, place_kind=kind)
    ).node_id


def test_damp_seed_is_not_shut_in_or_frozen_without_a_word(small):
    larder, lot = small.larder, small.lots["carrot"]
    freezer, jar, bag = (
        place(small, "freezer_deep"),
        box(small, "glass_jar_vacuum"),
        box(small, "cloth_bag"),
    )
    assert ask_before.moving_lot(larder, lot, bag) == []
    (cold,) = ask_before.moving_lot(larder, lot, freezer)
    assert "before freezing" in cold
    assert small.line("carrot").code in cold
    assert "do not seal it at 73 %" in ask_before.moving_lot(larder, lot, jar)[0]
    (dry,) = add_seeds(larder, ActRef(), [packet("pea", "Millrace", 2026)]).lot_ids
    (shut,) = ask_before.moving_lot(larder, dry, jar)  # as dry as a bought packet is taken to be
    assert "drier than 35 % would be better" in shut
    # the same when a container is closed over it, or carried into the cold with all in it
    lot_acts.move_lot(larder, ActRef(), lot, jar)
    for kind in ("sealed", "airtight"):
        assert "do not seal it" in ask_before.closing(larder, jar, kind)[0]
    assert ask_before.closing(larder, jar, "vented") == []
    said = ask_before.moving_node(larder, jar, freezer)
    assert any("before freezing" in x for x in said)
    assert ask_before.closing(larder, small.nodes["larder"], "sealed") == []
    assert ask_before.moving_node(larder, bag, freezer) == []  # nothing in it
    with pytest.raises(Conflict, match="would mould"):
        ask_before.heed(ask_before.closing(larder, jar, "sealed"), anyway=False)
    ask_before.heed(ask_before.closing(larder, jar, "sealed"), anyway=True)


def test_a_can_opened_in_its_month_and_the_alarm_that_must_not_advise_it(small):
    larder = small.larder
    can = box(small, "metal_can_soldered_or_seamed")
    lot_acts.log_event(larder, ActRef(), small.lots["onion"], "wet", "")
    lot_acts.move_lot(larder, ActRef(), small.lots["onion"], can)
    assert ask_before.closing(larder, can, "opened") == []
    containers.node_event(
        larder, ActRef(), can, "sealed", figures={"food_kg": 2.0, "shut_days": 60}
    )
    (said,) = ask_before.closing(larder, can, "opened")
    assert "the count begins again" in said
    damp = next(a for a in alarms_now.all_alarms(larder) if a.code == "airtight_damp")
    assert "leave it until" in damp.todo
    assert "Open it" not in damp.todo
    larder.clock.at_s += 61 * DAY_S
    assert ask_before.closing(larder, can, "opened") == []
    damp = next(a for a in alarms_now.all_alarms(larder) if a.code == "airtight_damp")
    assert damp.todo.startswith("Open it")


def test_dead_dressed_and_wet_seed_is_asked_about_before_it_is_packed(small):
    larder = small.larder
    ids = add_seeds(
        larder, ActRef(),
        [packet("parsnip", "Old Weir", 1995, "90"), packet("pea", "Early Sluice", 2026, "90", treated=True)],
    ).lot_ids  # fmt: skip
    made = parcels.promise(larder, ActRef(), "Morwen", dict.fromkeys(ids, "10"))
    with pytest.raises(Conflict) as asked:
        parcels.pack(larder, ActRef(), made.parcel_id)
    said = asked.value.details["warnings"]
    assert any("dead or used up" in x for x in said)
    assert any("dressed seed" in x for x in said)
    assert parcels.pack(larder, ActRef(), made.parcel_id, anyway=True).warnings == said
    setup = evening_steps.setup(larder, ids[1], 10, None)
    assert setup.cautions[0].startswith("Dressed seed: gloves")


def test_shop_fruit_poison_and_dust(small):
    larder = small.larder
    fruit = NewSeeds(kind="tomato", year=2026, from_kitchen=True)
    assert any("Fruit from a shop" in x for x in ask_before.adding(larder, [fruit]))
    (said,) = ask_before.adding(larder, [NewSeeds(kind="asparagus", year=2026)])
    assert "children and dogs" in said
    add_seeds(larder, ActRef(), [NewSeeds(kind="asparagus", year=2026)])
    assert ask_before.adding(larder, [NewSeeds(kind="asparagus", year=2026)]) == []  # said once
    lot = small.lots["onion"]
    assert ask_before.treating(larder, lot, "note", "dusted with permethrin") != []
    assert ask_before.treating(larder, lot, "treated", "") != []
    assert ask_before.treating(larder, lot, "note", "dusty shelf wiped") == []


def test_two_kinds_of_maize_in_one_year(small):
    larder = small.larder
    flint, sweet, twin, wheat, other = add_seeds(
        larder, ActRef(),
        [packet("maize", "Flint Hearth", 2026), packet("popcorn", "Gossamer", 2026),
         packet("maize", "Flint Hearth", 2025), packet("wheat", "Pellwick Red", 2026),
         packet("wheat", "Millbank Gold", 2026)],
    ).lot_ids  # fmt: skip
    assert ask_before.picking(larder, [flint]) == []
    needs_acts.set_pick(larder, ActRef(), flint, 40)
    (said,) = ask_before.picking(larder, [sweet])
    assert "Flint Hearth" in said
    assert "would cross" in said
    assert ask_before.picking(larder, [twin]) == []  # the same line
    assert ask_before.picking(larder, [wheat, other]) == []  # wheat fertilises itself
    (said,) = ask_before.picking(larder, [sweet, flint])  # told once, whichever is asked
    assert said.count("Flint Hearth") == 1
    assert crossing_lines([(1, "A", "a", "g"), (2, "B", "b", "h")], [1]) == []
    assert crossing_lines([(1, "A", "a", "g"), (2, "B", "b", "g")], [3]) == []
    assert crossing_lines([(1, "A", "a", "g"), (1, "B", "b", "g")], [1]) == []


def test_what_a_container_held_is_read_from_plain_words():
    words = {
        "Old ammo box": "ammunition", "cartridges": "ammunition", "rat poison, years ago": "bait",
        "slug pellets": "bait", "lamp oil": "fuel", "petrol": "fuel", "leftover paint": "paint",
        "white spirit": "paint", "biscuits": None, "oil of roses soap": None, "": None,
    }  # fmt: skip
    assert {w: held_before(w) for w in words} == words
    assert ask_before.former_use("paints") != []
    assert ask_before.former_use(None) == []
    assert dusted("Ant powder")


def test_the_label_of_a_chilli_says_gloves(small):
    (lot,) = add_seeds(small.larder, ActRef(), [packet("chilli", "Chimney Spark", 2026)]).lot_ids
    (label,) = labels.labels_of(small.larder, [lot], "")
    assert label.caution == "GLOVES: IT BURNS"
    line = next(x for x in lot_lines(small.larder) if x.lot_id == lot)
    assert any("Gloves" in x for x in ask_before.testing(line))
