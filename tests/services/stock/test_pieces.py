"""Tubers, cloves, sets and plants as stock: kept, counted on, set, and never taken for seed."""

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import DAY_S
from brisk_larder.data.acts import ActRef
from brisk_larder.formats.stock_csv import read_stock
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.air.air import Air
from brisk_larder.services.forecast.contents import inside_erh25
from brisk_larder.services.forecast.kept_pieces import kept
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.household.kinds import load_kinds
from brisk_larder.services.household.larder import household
from brisk_larder.services.needs import basket_page, buying, chains, targets
from brisk_larder.services.papers import csv_files, history
from brisk_larder.services.stock import (
    labels,
    lot_page,
    rows,
    splitting,
    stock_table,
    triage_page,
    understood,
)
from brisk_larder.services.storage import container_page, containers, what_if
from brisk_larder.services.today import calendar, jobs
from brisk_larder.services.trials import bench
from brisk_larder.services.trials import trial_acts as trials


def add(larder, kind, quantity, year=2026, **more):
    item = NewSeeds(kind=kind, variety="Gate", year=year, quantity=quantity, **more)
    return add_seeds(larder, ActRef(), [item]).lot_ids[0]


def at(larder, lot):
    return next(x for x in lot_lines(larder) if x.lot_id == lot)


def line_of(larder, crop):
    return next(x for x in chains.needs_room(larder).lines if x.crop == crop)


def food(larder, crop, per_week=1.0, weeks=30):
    targets.set_target(
        larder, ActRef(), product=crop, crop=crop, per_week=per_week, weeks=weeks, name=crop
    )
    return line_of(larder, crop)


def place(larder, kind):
    return containers.add_node(
        larder, ActRef(), containers.NewNode("there", place_kind=kind)
    ).node_id


def test_what_is_set_is_told_as_pieces_everywhere(small):
    larder = small.larder
    potato = add(larder, "seed potatoes", "60")
    x = at(larder, potato)
    assert (x.form, x.unit, x.seeds, x.verdict.standing) == ("tuber", "seed tuber", 60, "pieces")
    row = next(r for r in rows.stock_list(larder, "kind").rows if r.lot_id == potato)
    assert not row.named
    assert row.kept_until_s == x.kept_until_s > larder.now_s()
    page = lot_page.lot_page(larder, potato)
    assert not page.where_it_went
    assert not any("come up" in w.text for w in page.why)
    assert "60 seed tubers, keeps till about" in page.label.germination
    assert potato not in {t.line.lot_id for t in triage_page.triage_room(larder).lines}
    assert potato not in {w.line.lot_id for w in bench.bench(larder).wanted}
    exported = next(r for r in csv_files.lots_csv(larder).splitlines() if "Gate" in r)
    assert ",,," in exported
    with pytest.raises(InvalidValue, match="not tested"):
        trials.start_trial(larder, ActRef(), potato, 10)
    assert labels.labels_of(larder, [potato], "")


def test_a_food_counts_on_its_tubers_and_asks_for_the_rest(small):
    larder = small.larder
    line = food(larder, "potato")
    assert (line.unit, line.short_plants) == ("seed tuber", line.plants)
    lot = add(larder, "potato", "20 tubers", node_id=small.nodes["larder"])
    line = line_of(larder, "potato")
    assert [(c.lot_id, c.seeds, c.unit) for c in line.covered] == [(lot, 20, "seed tuber")]
    assert 0 < line.short_plants < line.plants
    assert "seed tubers short" in line.says
    offer = buying.OfferSaid("Vale barn", "seed potatoes", 25, 5.0)
    buying.say_offer(larder, ActRef(), offer)
    (gap,) = [g for g in basket_page.basket_room(larder).gaps if g.crop == "potato"]
    assert "seed tubers of" in gap.closed_by[0]
    (offered,) = [o for o in basket_page.basket_room(larder).offers if o.crop == "potato"]
    made = buying.order(larder, ActRef(), {offered.offer_id: offered.chosen})
    assert not line_of(larder, "potato").short_plants
    buying.came(larder, ActRef(), made.order_ids)
    bought = next(x for x in lot_lines(larder) if x.kind == "potato" and x.lot_id != lot)
    assert (bought.form, bought.seeds) == ("tuber", 25 * offered.chosen)


def test_they_are_set_on_their_days_and_what_stands_is_not_asked_for_again(small):
    larder = small.larder
    lot = add(larder, "potato", "200", node_id=small.nodes["larder"])
    line = food(larder, "potato")
    larder.clock.at_s = int(line.sow_from_s) + DAY_S
    (job,) = [
        j for j in jobs.today_room(larder).jobs if j.kind == "sow" and j.subject == f"lot:{lot}"
    ]
    assert job.title.startswith(f"Set {line.seeds} seed tubers of")
    assert "outdoors" in job.title
    jobs.set_job(larder, ActRef(), job.origin_key, "done")
    line = line_of(larder, "potato")
    assert line.sown_plants > 0
    assert not line.covered
    (due,) = sowings.growing_room(larder).due
    assert (due.lot_id, due.unit) == (lot, "seed tuber")
    sowings.count_sowing(larder, ActRef(), due.sowing_id, 0, settled=True)
    line = line_of(larder, "potato")
    assert not line.sown_plants  # nothing stood: it is asked for again
    assert line.covered
    assert b"Set potato outdoors" in calendar.calendar(larder)


def test_sets_cover_what_seed_would_and_teach_nothing_of_it(small):
    larder = small.larder
    before = at(larder, small.lots["onion"]).glance.now
    sets = add(larder, "onion sets", "300")
    line = food(larder, "onion", per_week=0.5)
    assert any(c.lot_id == sets and c.unit == "set" for c in line.covered)
    made = sowings.sow(larder, ActRef(), sets, 40)
    sowings.count_sowing(larder, ActRef(), made.sowing_id, 0, settled=True)
    assert at(larder, small.lots["onion"]).glance.now == before


def test_a_warm_place_and_time_end_their_days(small):
    larder = small.larder
    cool = add(larder, "potato", "20", node_id=place(larder, "larder"))
    warm = add(larder, "potato", "20", node_id=place(larder, "heated_room"))
    assert at(larder, warm).kept_until_s < at(larder, cool).kept_until_s
    assert at(larder, warm).verdict.code == "pieces_short"
    assert not at(larder, warm).verdict.may_sow
    larder.clock.at_s = int(at(larder, cool).kept_until_s) + 150 * DAY_S
    assert at(larder, cool).verdict.code == "pieces_over"
    assert any(
        j.kind == "look" and j.subject == f"lot:{cool}" for j in jobs.today_room(larder).jobs
    )
    ledger.book_quantity(larder, ActRef(), cool, "counted", "12")
    assert at(larder, cool).verdict.code != "pieces_over"  # somebody looked: it is told anew
    assert at(larder, cool).seeds == 12


def test_plants_serve_when_it_is_too_late_for_seed(small):
    larder = small.larder
    food(larder, "tomato", weeks=10)
    larder.clock.at_s += 200 * DAY_S  # the middle of June
    line = line_of(larder, "tomato")
    assert line.missed_s is not None
    plants = add(larder, "tomato", "60 plants", year=None)
    line = line_of(larder, "tomato")
    assert line.missed_s is None
    assert [c.lot_id for c in line.covered] == [plants]


def test_it_can_be_put_right_and_keeps_its_form(small):
    one = small.larder
    lot = add(one, "onion", "40")
    was = at(one, lot).glance.now
    lot_acts.edit_lot(one, ActRef(), lot, LotEdit(form="set"))
    assert at(one, lot).form == "set"
    (act, *_) = history.recent(one, 5)
    history.undo(one, ActRef(), act.act_id)
    assert (at(one, lot).form, at(one, lot).glance.now) == ("", was)
    lot_acts.edit_lot(one, ActRef(), lot, LotEdit(kind="garlic"))
    assert at(one, lot).form == "clove"
    half = splitting.split_lot(one, ActRef(), lot, "10").lot_id
    assert at(one, half).form == "clove"
    text = stock_table.stock_csv(one)
    assert {r["form"] for _, r in read_stock(text.encode(), "s.csv") if r["kind"] == "garlic"} == {
        "clove"
    }


def test_tubers_say_nothing_of_the_seed_in_a_place(small):
    larder = small.larder
    before = inside_erh25(larder)
    add(larder, "potato", "400", node_id=small.nodes["tin"])
    kale = add(larder, "whatsit", "3 g", node_id=small.nodes["tin"])
    assert inside_erh25(larder).keys() == before.keys()
    page = container_page.node_page(larder, small.nodes["tin"])
    told = {x.lot_id: x.told for x in page.lots}
    assert [told[kale], sum(not t for t in told.values())] == [False, 2]
    with pytest.raises(InvalidValue):
        what_if.what_if(larder, [max(told) - 1], [])


def test_what_is_set_is_spoken_of_as_set_and_crowns_are_not_eaten(small):
    larder = small.larder
    crowns = add(larder, "asparagus crowns", "10", year=None)
    cloves = add(larder, "garlic", "140 cloves", node_id=small.nodes["larder"])
    assert at(larder, crowns).verdict.code == "pieces_short"
    assert "eat" not in at(larder, crowns).next_act
    (job,) = [j for j in jobs.today_room(larder).jobs if j.subject == f"lot:{crowns}"]
    assert job.title.startswith("Set or give away 10 crowns")
    food(larder, "garlic", per_week=0.01)
    line = line_of(larder, "garlic")
    assert [c.lot_id for c in line.covered] in ([], [cloves])
    assert not line.sow  # nobody thins cloves
    food(larder, "potato")
    larder.clock.at_s += 240 * DAY_S  # the end of July
    line = line_of(larder, "potato")
    assert line.says == "setting is over"
    assert "sow" not in f"{line.says} {line.next_act} {' '.join(line.why)}"
    assert "poison" in line.caution


def test_pieces_say_nothing_of_the_age_of_seed_and_the_preview_of_their_past_is_kept(small):
    larder = small.larder
    pile = [
        NewSeeds(kind="leek", variety="Old", year=2012, quantity="90"),
        NewSeeds(kind="leek plants", variety="New", year=2026, quantity="40"),
        NewSeeds(kind="leek", variety="No year", quantity="90"),
    ]
    lots = add_seeds(larder, ActRef(), pile).lot_ids
    assert 14 <= at(larder, lots[2]).age_years < 15  # as old as the other seed of it
    put = NewSeeds(
        kind="potato", variety="Since", year=2026, quantity="9", node_id=small.nodes["larder"],
        since="since it came",
    )  # fmt: skip
    (seen,) = understood.check_lines(larder, [put])
    assert seen.since_words == "there since it came"
    lot = add_seeds(larder, ActRef(), [put]).lot_ids[0]
    lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(kind="kale"))
    assert at(larder, lot).form == ""  # kale is no tuber
    lot_acts.edit_lot(larder, ActRef(), lots[1], LotEdit(kind="onion"))
    assert at(larder, lots[1]).form == "plant"


def test_pieces_keep_as_long_however_far_back_a_room_looked_at_the_air(small):
    """Old potatoes in a warm porch: the climate of its first months is or is not there already."""
    larder = small.larder
    lot = add(larder, "potato", "9", year=2024, node_id=small.nodes["porch"], since="since it came")
    small.read("porch", 28, 50, 600)
    line = at(larder, lot)
    with larder.store.read() as session:
        home, kinds = household(session), load_kinds(session)
        usual, deep = (
            kept(Air(session, home, larder.now_s(), since), kinds.get("potato"), line, lot, None)
            for since in (None, line.record_from_s)
        )
    assert usual.last == deep.last
    assert (usual.last.low_s + usual.last.high_s) / 2 == line.kept_until_s
