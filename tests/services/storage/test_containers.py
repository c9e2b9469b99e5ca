"""Places and containers: what may be written of them, what their page tells, how tight they keep."""

import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.air.air import Air
from brisk_larder.services.household.larder import household
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import lot_page
from brisk_larder.services.storage import (
    alarms_now,
    charts,
    container_page,
    containers,
    drying,
    readings,
    rounds,
    sachets,
    shelves,
)
from tests.conftest import DAY, NOW


def box(small, name):
    return next(
        b for s in shelves.shelves(small.larder) for b in [s.place, *s.boxes] if b.name == name
    )


@pytest.fixture
def jar(small):
    new = containers.NewNode("jar", container_kind="glass_jar_gasket", parent_id=small.nodes["tin"])
    small.nodes["jar"] = containers.add_node(small.larder, ActRef(), new).node_id
    return small.nodes["jar"]


def test_a_jar_in_a_tin_shows_the_dryness_of_its_seed(small, jar):
    larder = small.larder
    lot_acts.move_lot(larder, ActRef(), small.lots["onion"], jar, at_s=NOW - 60 * DAY)
    sachets.note_dryness(larder, ActRef(), [small.lots["onion"]], humidity_pct=22, temperature=20)
    larder.clock.at_s += 100 * DAY
    shown = box(small, "jar")
    assert (shown.deep, shown.parent_id, shown.place_id) == (
        2,
        small.nodes["tin"],
        small.nodes["larder"],
    )
    assert shown.now_erh < 0.3 < box(small, "larder").now_erh
    assert shown.dryness in ("crisp", "dry")
    assert shown.speed < 0.5 * box(small, "larder").speed


@pytest.mark.parametrize("name", ["jar", "tin", "larder"])
def test_seed_is_as_dry_on_the_shelf_as_in_its_advice_and_on_its_page(small, jar, name):
    lot_acts.move_lot(small.larder, ActRef(), small.lots["onion"], jar, at_s=NOW - 60 * DAY)
    small.larder.clock.at_s += 40 * DAY
    shelf, advice = (
        box(small, name),
        drying.drying(small.larder, small.nodes[name]),
    )
    assert shelf.seed_erh == pytest.approx(advice.now_erh, abs=1e-6)
    told = lot_page.lot_page(small.larder, small.lots["onion"])
    one = next(x for x in advice.lots if x.lot_id == small.lots["onion"])
    assert one.word == told.dryness
    if name == "jar":
        assert (shelf.dryness, one.erh) == (told.dryness, pytest.approx(shelf.seed_erh))


def test_what_is_shut_in_keeps_its_reading_and_what_breathes_does_not(small, jar):
    larder = small.larder
    carton = containers.NewNode(
        "carton", container_kind="cardboard_box", parent_id=small.nodes["larder"]
    )
    small.nodes["carton"] = int(str(containers.add_node(larder, ActRef(), carton).node_id))
    for name in ("jar", "carton"):
        small.read(name, 12, 25, 200)
    with larder.store.read() as session:
        world = Air(session, household(session), larder.now_s())
        jar_now, carton_now = (
            float(world.past(small.nodes[n]).erh25[-1]) for n in ("jar", "carton")
        )
    assert jar_now < 0.40
    assert carton_now > 0.55


def test_the_page_of_a_container_tells_what_it_cost_and_what_happened(small):
    larder, tin = small.larder, small.nodes["tin"]
    for days in (60, 50, 40):
        small.read("tin", 33, 78, days)
    containers.node_event(larder, ActRef(), tin, "gone_through", "all well")
    page = container_page.node_page(larder, tin)
    assert {x.lot_id for x in page.lots} == {small.lots["kale"], small.lots["onion"]}
    assert all(0 <= x.lost_here <= x.lost_all + 1e-9 for x in page.lots)
    assert page.lots[0].lost_here >= page.lots[-1].lost_here
    assert "points on average" in page.cost_says
    assert (page.events[0].kind, page.events[0].note) == ("gone_through", "all well")
    assert page.history[0].summary == "tin: gone through, all well"
    assert container_page.node_page(larder, small.nodes["larder"]).holds[0].name == "tin"
    with pytest.raises(NotFound):
        container_page.node_page(larder, 999)


def test_what_is_written_of_a_container_is_checked(small):
    larder, tin = small.larder, small.nodes["tin"]
    before = box(small, "tin")
    containers.edit_node(
        larder, ActRef(), tin, before.version, capacity_lots=12, container_kind="metal_tin_gasket"
    )
    after = box(small, "tin")
    assert (after.capacity_lots, after.kind) == (12, "metal_tin_gasket")
    with pytest.raises(Conflict):
        containers.edit_node(larder, ActRef(), tin, before.version, capacity_lots=9)
    for bad in (
        {"capacity_lots": 0},
        {"name": " "},
        {"container_kind": "sieve"},
        {"name": "x" * 121},
    ):
        with pytest.raises(InvalidValue):
            containers.edit_node(larder, ActRef(), tin, None, **bad)
    with pytest.raises(InvalidValue, match="opened"):
        containers.node_event(larder, ActRef(), tin, "sneezed")
    with pytest.raises(InvalidValue, match="earlier"):
        containers.node_event(larder, ActRef(), tin, "opened", at_s=NOW + 3 * DAY)
    with pytest.raises(InvalidValue, match=r"0\.1 g"):
        sachets.add_desiccant(larder, ActRef(), tin, "silica_gel", 0)
    with pytest.raises(InvalidValue, match="silica_gel"):
        sachets.add_desiccant(larder, ActRef(), tin, "salt", 20)
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert box(small, "tin").kind == "metal_tin_plain"


def test_a_window_shows_the_same_air_as_the_whole_record(small, jar):
    larder = small.larder
    for days, t, h in ((700, 14, 60), (400, 9, 50), (90, 6, 66), (12, 8, 61)):
        small.read("tin", t, h, days)
        small.read("jar", t, h - 20, days - 3)
    containers.node_event(larder, ActRef(), jar, "opened", at_s=NOW - 300 * DAY)
    with larder.store.read() as session:
        home = household(session)
        whole = Air(session, home, NOW, 0)
        for back in (900, 380, 40):
            window = Air(session, home, NOW, NOW - back * DAY)
            for node in small.nodes.values():
                part, full = window.past(node), whole.past(node)
                last = len(part.panels.hours)
                for name in (
                    "temperature_c",
                    "erh25",
                    "sd_c",
                    "sd_erh",
                    "swing_sd_c",
                    "gap",
                    "source",
                ):
                    tail = getattr(full, name)[-last:]
                    assert (getattr(part, name) == tail).all(), (back, node, name)


def test_a_chart_tells_events_moves_and_what_was_corrected(small):
    larder, tin = small.larder, small.nodes["tin"]
    made = small.read("tin", 40, 50, 20)
    readings.correct_reading(
        larder,
        ActRef(),
        int(str(made.series_id)),
        int(str(made.at_s)),
        readings.DialReading(14, 50),
    )
    containers.node_event(larder, ActRef(), tin, "opened", "for the peas", at_s=NOW - 5 * DAY)
    larder.clock.at_s += 3600
    containers.take_out(larder, ActRef(), tin)
    import orjson

    body = orjson.loads(charts.readings_json(larder, tin, None, None))
    (dial,) = body["series"]
    assert (dial["origin"], dial["t_mean_c"]) == ("dial", [14.0])
    assert [(p["temperature_c"], p["why"]) for p in body["past"]] == [(40.0, "corrected")]
    assert {e["kind"] for e in body["events"]} >= {"opened", "taken out"}
    with pytest.raises(InvalidValue, match="after its start"):
        charts.readings_json(larder, tin, 9, 3)
    # a span that begins now has nothing behind it: it says so
    empty = charts.air(larder, tin, larder.now_s(), larder.now_s() + 9 * 86_400)
    assert (empty.at_s, empty.temperature_c, empty.said) == ([], [], "No record in this span.")
    air = charts.air(larder, tin, None, None)
    assert len(air.at_s) == len(air.low_c) == len(air.high_c) < 1000
    assert all(
        low <= t <= high
        for low, t, high in zip(air.low_c, air.temperature_c, air.high_c, strict=True)
    )


def test_alarms_speak_in_the_units_of_the_household(small):
    larder = small.larder
    settings_page.change_household(larder, ActRef(), {"temperature_unit": "F"})
    dial = readings.DialReading(104, 40, t_min=68, t_max=104)
    readings.log_reading(larder, ActRef(), small.nodes["porch"], dial)
    said = {a.code: a.evidence for a in alarms_now.alarms(larder)}
    assert "104 °F" in said["too_hot"]
    assert "36 °F between least and most of a day" in said["swinging"]
    assert not any("°C" in text for text in said.values())
    stop = next(s for s in rounds.round_list(larder) if s.name == "porch")
    assert stop.last_c == pytest.approx(40.0)


def test_a_dial_on_the_freezers_wall_speaks_for_what_stands_in_it(small, jar):
    larder = small.larder
    new = containers.NewNode("freezer", place_kind="freezer_deep")
    freezer = containers.add_node(larder, ActRef(), new).node_id
    readings.log_reading(larder, ActRef(), freezer, readings.DialReading(-4))
    assert alarms_now.alarms(larder) == []  # nothing lies in it
    larder.clock.at_s += 60
    containers.move_node(larder, ActRef(), small.nodes["tin"], freezer)
    (warm,) = alarms_now.alarms(larder)
    assert (warm.code, warm.node_id, warm.lots) == ("freezer_warming", freezer, 2)
    readings.log_reading(larder, ActRef(), freezer, readings.DialReading(-18))
    assert alarms_now.alarms(larder) == []
