"""A parcel from one household to another: amounts, reserves, people, and the past that goes along."""

import json
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.formats.parcel_json import read_parcel
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.papers import giving, history, parcels, received, settings_page
from brisk_larder.services.stock import lot_page
from brisk_larder.services.storage import containers
from brisk_larder.services.trials import trial_acts
from tests.conftest import DAY, NOW


def ref():
    return ActRef()


@pytest.fixture
def other(tmp_path):
    store = Store(tmp_path / "other.sqlite3")
    ensure_model_rev(store)
    made = Larder(store, MovedClock(NOW + 20 * DAY))
    home.ensure_household(made, "High garth", "Europe/London")
    settings_page.settle(made, ref(), "mild_coast")
    yield made
    store.close()


def packed(small, lots, person="Morwen"):
    made = parcels.promise(small.larder, ref(), person, lots).parcel_id
    parcels.pack(small.larder, ref(), made, True)
    return made


def file_of(small, parcel):
    return parcels.parcel_file(small.larder, parcel)[1].encode()


def test_amounts_leave_when_it_is_packed_and_come_back_by_undo(small):
    larder = small.larder
    made = parcels.promise(
        larder, ref(), "Morwen", {small.lots["onion"]: "half left"}, "for the plot"
    )
    assert small.line("onion").seeds == 400
    done = ActRef()
    parcels.pack(larder, done, made.parcel_id)
    assert small.line("onion").seeds == 200
    parcels.send(larder, ref(), made.parcel_id)
    room = giving.giving_room(larder)
    assert room.people[0].sent == ["O1 Brackenbulb, half left (P-1)"]
    assert (room.parcels[0].state, room.parcels[0].note) == ("sent", "for the plot")
    with pytest.raises(Conflict, match="undo that first"):
        history.undo(larder, ref(), done.id)
    for call in (lambda: parcels.pack(larder, ref(), 1), lambda: parcels.send(larder, ref(), 1),
                 lambda: parcels.drop_parcel(larder, ref(), 1)):  # fmt: skip
        with pytest.raises(Conflict, match="P-1 is sent"):
            call()


def test_promises_are_refused_added_to_and_taken_back(small):
    larder = small.larder
    for person, lots, why in (
        ("", {1: "5"}, "a name"), ("Morwen", {}, "at least one"), ("Morwen", {1: "9999"}, "in hand"),
        ("Morwen", {1: "none"}, "more than nothing"), ("Morwen", {1: "?"}, "write a count"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match=why):
            parcels.promise(larder, ref(), person, lots)
    made = parcels.promise(larder, ref(), "Morwen", {small.lots["onion"]: "5"}).parcel_id
    parcels.promise(larder, ref(), "", {small.lots["carrot"]: "9"}, parcel_id=made)
    room = giving.giving_room(larder)
    assert len(room.parcels[0].lines) == 2
    assert room.people[0].promised == ["O1 Brackenbulb, 5 (P-1)", "C1 Ember Root, 9 (P-1)"]
    with pytest.raises(Conflict, match="only promised"):
        parcels.parcel_file(larder, made)
    parcels.drop_parcel(larder, ref(), made)
    assert giving.giving_room(larder).parcels == []


def test_the_reserve_of_a_line_is_warned_about(small):
    larder = small.larder
    assert parcels.reserve_of(larder, small.lots["kale"]) == 700  # too doubtful: all of it
    ledger.book_quantity(larder, ref(), small.lots["kale"], "counted", "20000")
    kept = parcels.reserve_of(larder, small.lots["kale"])
    assert 20 < kept < 20000
    assert parcels.reserve_of(larder, small.lots["onion"]) == 0
    made = parcels.promise(larder, ref(), "Morwen", {small.lots["kale"]: "19990"}).parcel_id
    with pytest.raises(Conflict, match="its line needs") as warned:
        parcels.pack(larder, ref(), made)
    assert warned.value.details["warnings"]
    assert small.line("kale").seeds == 20000
    parcels.pack(larder, ref(), made, True)
    assert small.line("kale").seeds == 10
    # a sister lot that can give the mothers by itself frees this one
    add_seeds(larder, ref(), [NewSeeds(kind="kale", variety="Slate Curl", year=2026, source="own",
                                       quantity="9000", kept_line=True)])  # fmt: skip
    assert parcels.reserve_of(larder, small.lots["kale"]) == 0


def test_what_was_set_aside_is_warned_about(small):
    ledger.set_aside(small.larder, ref(), small.lots["onion"], "swap", "300")
    made = parcels.promise(small.larder, ref(), "Morwen", {small.lots["onion"]: "200"}).parcel_id
    with pytest.raises(Conflict, match="300 are set aside"):
        parcels.pack(small.larder, ref(), made)


def test_another_household_goes_on_where_the_seed_had_aged_to(small, other):
    larder = small.larder
    small.read("tin", 27, 68, 400)
    small.read("tin", 26, 66, 200)
    done = trial_acts.start_trial(larder, ref(), small.lots["kale"], 30)
    larder.clock.at_s += 14 * DAY
    trial_acts.count_trial(larder, ref(), done.trial_id, trial_acts.CountEntry(normal=21), True)
    here = small.line("kale")
    parcel = packed(small, {small.lots["kale"]: "60"})
    taken = received.receive(other, ref(), "parcel.json", file_of(small, parcel))
    (there,) = forecast_lines.lot_lines(other)
    assert taken.lot_ids == [there.lot_id]
    assert (there.variety, there.kind, there.seeds) == ("Slate Curl", "kale", 60)
    assert there.glance.a_probit == pytest.approx(here.glance.a_probit, rel=0.1)
    assert there.glance.erh25 == pytest.approx(here.glance.erh25, abs=0.05)
    assert there.glance.now.mid == pytest.approx(here.glance.now.mid, abs=0.05)
    assert [(t.up, t.n) for t in there.glance.tests] == [(21, 30)]
    assert there.source == "gift"
    assert there.years == [2023]
    page = lot_page.lot_page(other, there.lot_id)
    assert page.family.giver == "Pellwick Mill"
    assert "From Pellwick Mill" in page.packet
    # and it ages on from there, in its new place
    loft = containers.add_node(other, ref(), containers.NewNode("loft", place_kind="attic"))
    lot_acts.move_lot(other, ref(), there.lot_id, loft.node_id)
    before = there.glance.a_probit
    other.clock.at_s += 300 * DAY
    (later,) = forecast_lines.lot_lines(other)
    assert later.glance.a_probit > before * 1.05
    assert later.glance.now.mid < there.glance.now.mid


def test_a_parcel_is_taken_in_once_and_undone_as_a_whole(small, other):
    parcel = packed(small, {small.lots["onion"]: "20", small.lots["carrot"]: "30"})
    data = file_of(small, parcel)
    assert data == file_of(small, parcel)
    done = ActRef()
    received.receive(other, done, "parcel.json", data)
    assert len(forecast_lines.lot_lines(other)) == 2
    with pytest.raises(Conflict, match="here already, as P-1 from Pellwick Mill"):
        received.receive(other, ref(), "parcel.json", data)
    history.undo(other, ref(), done.id)
    assert forecast_lines.lot_lines(other) == []
    received.receive(other, ref(), "parcel.json", data)
    assert giving.giving_room(other).people[0].received == [
        "O1 Brackenbulb, 20 (P-2)", "C1 Ember Root, 30 (P-2)",
    ]  # fmt: skip


def test_a_mixed_bag_and_an_unknown_kind_travel_too(small, other):
    larder = small.larder
    bag, blue = add_seeds(
        larder, ref(),
        [
            NewSeeds(kind="leek", variety="Bag", date="2021: 70, 2025: 30", quantity="200"),
            NewSeeds(note="blue, low, by the steps", quantity="a pinch", treated=True),
        ],
    ).lot_ids  # fmt: skip
    parcel = packed(small, {bag: "50", blue: "5"})
    received.receive(other, ref(), "parcel.json", file_of(small, parcel))
    lines = {x.variety: x for x in forecast_lines.lot_lines(other)}
    assert (lines["Bag"].parts, lines["Bag"].years) == (2, [2021, 2025])
    stranger = lines["blue, low, by the steps"]
    assert not stranger.known_kind
    assert stranger.treated


def test_that_seed_is_no_food_travels_with_it(small, other):
    lot_acts.log_event(small.larder, ref(), small.lots["onion"], "mould", "")
    parcel = packed(small, {small.lots["onion"]: "20"})
    (there,) = received.receive(other, ref(), "p.json", file_of(small, parcel)).lot_ids
    with pytest.raises(InvalidValue, match="never food"):
        lot_acts.edit_lot(other, ref(), there, lot_acts.LotEdit(intended_use="food"))
    here = small.line("onion").glance.now.mid
    assert (
        forecast_lines.lot_lines(other)[0].glance.now.mid >= here - 0.05
    )  # told on, not suffered twice


def spoil(small, change):
    parcel = packed(small, {small.lots["onion"]: "20"})
    data = json.loads(file_of(small, parcel))
    change(data)
    return json.dumps(data).encode()


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda d: d.update(format="x"), "not a parcel"), (lambda d: d.update(version=9), "newer program"),
        (lambda d: d.update(lots=[]), "lots"), (lambda d: d["lots"][0].update(seeds=-4), "lots.0.seeds"),
        (lambda d: d["lots"][0]["parts"][0].update(a_probit=-1), "a_probit"),
        (lambda d: d["lots"][0]["parts"][0].update(erh25=3), "erh25"),
        (lambda d: d["lots"][0].update(variety="x" * 999), "variety"),
    ],
)  # fmt: skip
def test_a_parcel_that_cannot_be_is_refused_with_its_place(small, other, change, why):
    with pytest.raises(BadFile, match=why):
        received.receive(other, ref(), "p.json", spoil(small, change))
    assert forecast_lines.lot_lines(other) == []


def test_a_parcel_from_tomorrow_and_one_that_is_no_file(small, other):
    other.clock.at_s = NOW - 400 * DAY
    with pytest.raises(InvalidValue, match="packed on"):
        received.receive(other, ref(), "p.json", spoil(small, lambda d: None))
    for data in (b"\xff\xfe", b"[]", b"{", b"x" * 2_000_001):
        with pytest.raises(BadFile):
            read_parcel(data, "p.json")


@settings(max_examples=40)
@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=6),
        lambda c: st.lists(c, max_size=3) | st.dictionaries(st.text(max_size=8), c, max_size=3),
    )
)
def test_no_json_breaks_the_reader(value):
    for data in (value, {"format": "brisk-larder-parcel", "version": 1, "lots": value}):
        with pytest.raises(BadFile):
            read_parcel(json.dumps(data).encode(), "p.json")


def test_the_worth_of_the_stock_says_what_is_guessed(small):
    larder = small.larder
    settings_page.change_household(larder, ref(), {"currency": "crowns"})
    guessed = giving.giving_room(larder).worth
    assert guessed.guessed_share == pytest.approx(1.0)
    assert guessed.says.startswith(
        f"About {guessed.total:.0f} crowns to buy again what is alive; 100 %"
    )
    add_seeds(larder, ref(), [NewSeeds(kind="onion", variety="Dear", year=2026, quantity="1 packet",
                                       price=9.0)])  # fmt: skip
    known = giving.giving_room(larder).worth
    assert known.total > guessed.total + 6
    assert 0 < known.guessed_share < 1


def test_the_slip_is_for_people_without_the_tool(small):
    parcel = packed(small, {small.lots["onion"]: "20"})
    view, house, table = giving.slip_rows(small.larder, parcel)
    assert (view.person, house) == ("Morwen", "Pellwick Mill")
    assert table[0][:3] == ["O1", "Brackenbulb (onion)", "20"]
    assert giving.slip_pdf(small.larder, parcel)[:5] == b"%PDF-"
    with pytest.raises(NotFound):
        giving.slip_rows(small.larder, 99)
    text = json.loads(file_of(small, parcel))
    assert date.fromisoformat(text["packed_on"]) == date(2026, 11, 24)
    assert text["lots"][0]["parts"][0]["origin_from"] == "2025-01-01"
