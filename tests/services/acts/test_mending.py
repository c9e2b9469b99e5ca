"""What was typed can be put right, and dated back: forecasts, lists and the past follow."""

import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.core.base.units import day_start_s, local_day
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import LotEvent, MoistureObs, Sowing, Stay, StockEntry, Trial
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.growing import sowings
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import lot_page, splitting
from brisk_larder.services.storage import containers, readings
from brisk_larder.services.trials import past
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.conftest import DAY, packet
from tests.household_state import compare, live


def edit(small, name, **values):
    return lot_acts.edit_lot(small.larder, ActRef(), small.lots[name], LotEdit(**values))


def last_act(larder):
    return history.recent(larder, 1)[0]


def test_a_wrong_kind_is_mended_and_everything_follows(small):
    before = small.line("onion")
    edit(small, "onion", kind="parsnip", variety="Old Weir")
    after = small.line("onion")
    assert (after.kind_name, after.variety) == ("parsnip", "Old Weir")
    assert after.glance.now != before.glance.now
    page = lot_page.lot_page(small.larder, small.lots["onion"])
    assert "parsnip" in page.label.kind
    assert page.species == "Pastinaca sativa"
    compare(small.larder)
    history.undo(small.larder, ActRef(), last_act(small.larder).act_id)
    assert small.line("onion").glance.now == before.glance.now


def test_one_packet_is_mended_and_another_of_the_same_name_is_not(small):
    larder = small.larder
    add_seeds(larder, ActRef(), [packet("onion", "Brackenbulb", 2022, "90", kept_line=True)])
    splitting.split_lot(larder, ActRef(), small.lots["onion"], "50")
    edit(small, "onion", variety="Longkeep", treated=True)
    with larder.store.read() as session:
        codes = session.connection().exec_driver_sql(
            "SELECT lot.id, variety.name, variety.treated, variety.kept_line FROM lot JOIN part ON "
            "part.lot_id = lot.id JOIN cohort ON cohort.id = part.cohort_id JOIN variety ON variety.id = "
            "cohort.variety_id WHERE part.to_s IS NULL AND part.deleted_s IS NULL ORDER BY lot.id"
        )
        rows = [tuple(r[1:]) for r in codes if r[1] in ("Longkeep", "Brackenbulb")]
    # the packet and the one split from it; the other keeps its name
    assert sorted(rows) == [("Brackenbulb", 0, 1), ("Longkeep", 1, 1), ("Longkeep", 1, 1)]
    compare(larder)


def test_when_and_where_from_are_mended_and_the_clock_of_the_seed_follows(small):
    now = small.line("carrot").glance.now
    edit(small, "carrot", date="2019", source="own", person_from="Tam", stated_germination=0.8)
    old = small.line("carrot")
    assert old.origin == "own seed of 2019"
    assert old.glance.now.mid < now.mid
    page = lot_page.lot_page(small.larder, small.lots["carrot"])
    assert (page.written.date, page.written.person_from) == ("2019", "Tam")
    assert page.written.stated_germination == "80"
    edit(small, "carrot", date="?")
    assert small.line("carrot").origin == "year unknown"
    edit(small, "carrot", date="Sept 24", stated_germination=-1.0)
    assert small.line("carrot").years == [2024]
    compare(small.larder)
    with pytest.raises(InvalidValue, match="date"):
        edit(small, "carrot", date="31/02/2024")
    with pytest.raises(InvalidValue, match="source"):
        edit(small, "carrot", source="stolen")


def test_a_bag_turns_out_to_hold_several_years(small):
    edit(small, "carrot", date="22, 23, 24")
    line = small.line("carrot")
    assert (line.parts, line.years) == (3, [2022, 2023, 2024])
    compare(small.larder)
    state = live(small.larder)
    history.undo(small.larder, ActRef(), last_act(small.larder).act_id)
    assert small.line("carrot").years == [2025]
    history.undo(small.larder, ActRef(), last_act(small.larder).act_id)
    assert live(small.larder)["part"] == state["part"]
    splitting.split_lot(small.larder, ActRef(), small.lots["onion"], "50")
    with pytest.raises(Conflict, match="split or mixed"):
        edit(small, "onion", date="2022-2024")


def test_the_mother_and_what_the_packet_says(small):
    edit(
        small, "onion", mother_lot_id=small.lots["kale"], packet={"packet_sow_window": "Mar to May"}
    )
    page = lot_page.lot_page(small.larder, small.lots["onion"])
    assert page.written.mother == small.line("kale").code
    assert "Sow Mar to May (packet)" in page.packet
    with pytest.raises(InvalidValue, match="older than this"):
        edit(small, "kale", mother_lot_id=small.lots["onion"])
    with pytest.raises(InvalidValue, match="packet"):
        edit(small, "kale", packet={"price_of_gold": "1"})
    with pytest.raises(InvalidValue, match="at most 120"):
        edit(small, "kale", variety="x" * 121)


def test_every_act_can_carry_its_day(small):
    larder, lot = small.larder, small.lots["onion"]
    today = local_day(larder.now_s(), "Europe/London")
    porch = Stay.parent_node_id == small.nodes["porch"]
    ledger.book_quantity(larder, ActRef(), lot, "given", "20", on="yesterday")
    sowings.sow(larder, ActRef(), lot, 15, on="last Tuesday")
    lot_acts.log_event(larder, ActRef(), lot, "wet", "", on="3 days ago")
    lot_acts.move_lot(larder, ActRef(), lot, small.nodes["porch"], on="2 days ago")
    containers.node_event(larder, ActRef(), small.nodes["tin"], "opened", on="a week ago")
    trials_acts.start_trial(larder, ActRef(), small.lots["carrot"], 10, on="3 Nov")
    with larder.store.read() as session:
        days = {
            "given": session.exec(select(StockEntry.at_s).where(StockEntry.kind == "given")).one(),
            "sown": session.exec(select(Sowing.at_s)).one(),
            "wet": session.exec(select(LotEvent.at_s)).one(),
            "dried out from": session.exec(select(MoistureObs.at_s)).one(),
            "moved": session.exec(select(Stay.from_s).where(Stay.lot_id == lot, porch)).one(),
            "tested": session.exec(select(Trial.sown_s)).one(),
        }  # fmt: skip
    ago = {what: (today - local_day(at, "Europe/London")).days for what, at in days.items()}
    tuesday = (today.weekday() - 1) % 7 or 7
    assert ago == {
        "given": 1, "sown": tuesday, "wet": 3, "dried out from": 3, "moved": 2,
        "tested": (today - today.replace(month=11, day=3)).days,
    }  # fmt: skip
    compare(larder)
    for odd in ("tomorrow", "31/02", "whenever"):
        with pytest.raises(InvalidValue, match="day"):
            ledger.book_quantity(larder, ActRef(), lot, "given", "20", on=odd)


def test_a_past_act_changes_the_forecast_from_its_day_on(small):
    lot_acts.move_lot(small.larder, ActRef(), small.lots["onion"], small.nodes["porch"])
    today = small.line("onion").glance.now
    history.undo(small.larder, ActRef(), last_act(small.larder).act_id)
    lot_acts.move_lot(
        small.larder, ActRef(), small.lots["onion"], small.nodes["porch"], on="1 Feb 2026"
    )
    assert small.line("onion").glance.a_probit != pytest.approx(0, abs=1e-9)
    assert small.line("onion").glance.now != today


def test_a_finished_test_in_one_form_and_what_was_written_down_before(small):
    larder, lot = small.larder, small.lots["onion"]
    before = small.line("onion")
    past.past_test(larder, ActRef(), lot, 9, 10, on="3 November")
    tested = small.line("onion")
    assert tested.seeds == before.seeds - 10
    assert tested.glance.now.low > before.glance.now.low
    (mark,) = tested.glance.tests
    assert (mark.up, mark.n, mark.running) == (9, 10, False)
    untold = small.line("carrot").glance.now
    past.told_before(larder, ActRef(), small.lots["carrot"], 0.3)
    told = small.line("carrot").glance
    assert told.now.low < untold.low - 0.1
    page = lot_page.lot_page(larder, small.lots["carrot"])
    assert (
        page.tests[0].says == "30 % was written down, of how many nobody wrote, when nobody wrote"
    )
    past.told_before(larder, ActRef(), small.lots["kale"], 0.3, on="Nov 2 2026")
    assert (
        small.line("kale").glance.now.mid < small.line("carrot").glance.now.mid
    )  # dated: counts whole
    with pytest.raises(InvalidValue, match="up"):
        past.past_test(larder, ActRef(), lot, 11, 10)
    with pytest.raises(InvalidValue, match="germination"):
        past.told_before(larder, ActRef(), lot, 1.2)
    compare(larder)


def test_amounts_and_days_follow_the_households_habit(small):
    larder, lot = small.larder, small.lots["carrot"]
    assert ledger.book_quantity(larder, ActRef(), lot, "counted", "1,500").seeds == 1500
    settings_page.change_household(larder, ActRef(), {"locale": "de-DE"})
    grams = ledger.book_quantity(larder, ActRef(), lot, "counted", "1,500 g").seeds
    assert grams == pytest.approx(1.5 * small.line("carrot").seeds_per_g)
    settings_page.change_household(larder, ActRef(), {"locale": "en-US"})
    sowings.sow(larder, ActRef(), lot, 20, on="03/04/2026")
    with larder.store.read() as session:
        at = session.exec(select(Sowing.at_s)).one()
    assert (
        at
        == day_start_s(local_day(at, "Europe/London").replace(month=3, day=4), "Europe/London")
        + DAY // 2
    )
    with pytest.raises(InvalidValue, match="locale"):
        settings_page.change_household(larder, ActRef(), {"locale": "xx"})


def test_a_line_that_a_packet_leaves_and_a_clock_that_is_put_right_are_reckoned_anew(small):
    larder = small.larder
    bags = [
        packet("onion", "Millrace", 2024, n, kept_line=True, source="own") for n in ("60", "400")
    ]
    _, leaves = add_seeds(larder, ActRef(), bags).lot_ids
    small.line("onion")  # what lists show is kept
    lot_acts.edit_lot(larder, ActRef(), leaves, LotEdit(kind="lettuce"))
    compare(larder)
    readings.log_reading(
        larder, ActRef(), small.nodes["larder"], readings.DialReading(temperature=19.0)
    )
    larder.clock.at_s += 60 * DAY
    small.line("onion")
    settings_page.change_household(larder, ActRef(), {"tz": "Asia/Tokyo"})
    compare(larder)
