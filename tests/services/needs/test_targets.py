"""Foods in full: split over varieties, as pieces, as shoots, every second year; last year's list; jars; the
room there is."""

from datetime import date

import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit, edit_lot
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.needs import chain_acts, chains, kitchen, pantry_page, targets
from brisk_larder.services.needs.targets import SharedOver, TakenOver
from brisk_larder.services.papers import settings_page
from tests.conftest import DAY, packet


def ref():
    return ActRef()


def want(larder, product, per_week=1.0, weeks=20, **more):
    given = {"product": product, "per_week": per_week, "weeks": weeks, **more}
    return targets.set_target(larder, ref(), **given).target_id


def line_of(larder, name):
    return next(x for x in chains.needs_room(larder).lines if x.name == name)


def test_a_food_split_over_varieties_takes_seed_of_each(small):
    larder = small.larder
    add_seeds(larder, ref(), [packet("kale", "Mill Frill", 2026, "400")])
    choice = {v.name: v.variety_id for v in targets.varieties_of(larder, "kale")}
    assert len(choice) >= 2
    first, second = list(choice)[:2]
    shares = [SharedOver(choice[first], 2.0), SharedOver(choice[second], 1.0)]
    target = want(larder, "kale, frozen", name="Kale", shares=shares)
    line = line_of(larder, "Kale")
    assert sum(s.plants for s in line.shares) == line.plants == line.chain.planned
    by_name = {s.name: s for s in line.shares}
    assert by_name[first].plants == pytest.approx(2 * by_name[second].plants, abs=1)
    # each part is covered from its own variety, or is said to be short
    for share in line.shares:
        seeds = sum(c.seeds for c in line.covered if c.variety == share.name)
        assert seeds >= share.plants or share.short_plants
    assert line.short_plants == sum(s.short_plants for s in line.shares)
    # changed without a word of varieties they stay; an empty list takes them away
    want(larder, "kale, frozen", per_week=2.0, target_id=target)
    assert len(line_of(larder, "Kale").shares) == 2
    want(larder, "kale, frozen", per_week=2.0, target_id=target, shares=[])
    assert line_of(larder, "Kale").shares == []
    onion = targets.varieties_of(larder, "onion")[0].variety_id
    with pytest.raises(InvalidValue, match="variety"):
        want(larder, "kale, frozen", target_id=target, shares=[SharedOver(onion)])


def test_tubers_are_pieces_with_a_weight_and_days_and_no_seed(small):
    larder = small.larder
    want(larder, "potato", per_week=2.0, weeks=30, crop="potato", name="Potatoes")
    line = line_of(larder, "Potatoes")
    assert line.plants == line.chain.planned > 40
    assert line.says == f"{line.short_seeds} seed tubers short"
    assert (line.covered, line.short_plants) == ([], line.plants)
    assert line.order_by_s < line.sow_from_s
    assert any("weigh" in w and "kg" in w for w in line.why)
    assert line.bed_m2 > 5
    with pytest.raises(InvalidValue, match="pieces"):
        want(larder, "potato", crop="potato", eaten_by="shoots")


def test_shoots_are_eaten_from_packets_meant_for_it_only(small):
    larder = small.larder
    want(larder, "kale shoots", per_week=1.0, weeks=2, crop="kale", eaten_by="shoots")
    line = line_of(larder, "kale shoots")
    assert (line.chain.wanted.mid, line.chain.wanted.unit, line.plants) == (2.0, "g", None)
    assert "missing" in line.says
    assert "untreated" in line.caution
    add_seeds(larder, ref(), [packet("kale", "Eaten", 2026, "20 g")])
    lot = next(x.lot_id for x in lot_lines(larder) if x.variety == "Eaten")
    assert "missing" in line_of(larder, "kale shoots").says
    edit_lot(larder, ref(), lot, LotEdit(intended_use="shoots"))
    assert line_of(larder, "kale shoots").says == "covered"


def test_own_harvests_and_surer_years_change_the_plants(small):
    larder = small.larder
    target = want(larder, "kale, frozen", name="Kale")
    before = line_of(larder, "Kale")
    assert [e.share for e in before.enough] == [0.5, 0.8, 0.9]
    assert before.plants == before.enough[0].plants < before.enough[1].plants
    want(larder, "kale, frozen", target_id=target, sure=0.9)
    surer = line_of(larder, "Kale")
    assert surer.plants == before.enough[2].plants
    book = kitchen.harvests(larder, "kale").book
    for year in (2023, 2024, 2025):
        kitchen.note_harvest(larder, ref(), "kale", year, 10, 10 * book.mid * 3)
    found = kitchen.harvests(larder, "kale")
    assert book.mid < found.by_plant.mid < 3 * book.mid
    after = line_of(larder, "Kale")
    assert after.plants < surer.plants
    assert "3 own seasons" in after.chain.plants.note
    kitchen.drop_harvest(larder, ref(), found.lines[0].harvest_id)
    assert len(kitchen.harvests(larder, "kale").lines) == 2
    with pytest.raises(InvalidValue, match="year"):
        kitchen.note_harvest(larder, ref(), "kale", 2027, 10, 1.0)


def test_last_year_is_taken_over_as_it_was_eaten(small):
    larder, year = small.larder, chains.target_year(small.larder)
    for product in ("kale, frozen", "sauerkraut", "pickled beets"):
        want(larder, product, per_week=1.0, weeks=40, year=year - 1)
    chain_acts.override_link(larder, ref(), targets.last_year(larder).foods[0].target_id,
                       "yield_kg_per_plant", 0.4, "by our rows")  # fmt: skip
    chain_acts.book_pantry(larder, ref(), "kale, frozen", "put_up", 40)
    chain_acts.book_pantry(larder, ref(), "sauerkraut", "put_up", 10)
    larder.clock.at_s += 20 * 7 * DAY
    chain_acts.book_pantry(larder, ref(), "kale, frozen", "opened", 10)
    chain_acts.book_pantry(larder, ref(), "sauerkraut", "opened", 10)
    found = {f.name: f for f in targets.last_year(larder).foods}
    assert found["kale, frozen"].proposed == pytest.approx(0.75, abs=0.02)  # half a jar a week
    assert "left" in found["kale, frozen"].says
    assert found["sauerkraut"].proposed == 1.25
    assert found["pickled beets"].proposed == 1.0
    taken = [TakenOver(f.target_id, f.proposed) for f in found.values()]
    targets.take_over(larder, ref(), taken)
    line = line_of(larder, "kale, frozen")
    assert line.per_week == pytest.approx(0.75, abs=0.02)
    assert line.notes == {"yield_kg_per_plant": "by our rows"}
    assert targets.last_year(larder).foods == []
    with pytest.raises(Conflict, match="already"):
        targets.take_over(larder, ref(), taken)


def test_what_there_is_room_for_and_the_least_to_give_up(small):
    larder = small.larder
    want(larder, "tomato sauce, thin", per_week=2.0, weeks=40, name="Sauce")
    want(larder, "kale, frozen", per_week=2.0, weeks=40, name="Kale")
    room = chains.needs_room(larder).room
    assert room.fits
    assert not room.said
    bed = next(u for u in room.uses if u.what == "bed_m2")
    assert date.fromisoformat(bed.day).year == 2027
    settings_page.change_household(larder, ref(), {"food_bed_m2": bed.needed * 0.7})
    tight = chains.needs_room(larder).room
    assert not tight.fits
    assert tight.give_up
    # a number of the keeper's own is what is lowered, else what is wanted a week
    sauce = line_of(larder, "Sauce")
    chain_acts.override_link(larder, ref(), sauce.target_id, "plants", sauce.plants)
    targets.give_up(larder, ref(), [targets.GivenUp(g.key, g.share) for g in tight.give_up])
    after = next(u for u in chains.needs_room(larder).room.uses if u.what == "bed_m2")
    assert after.missing <= 0.05 * bed.needed
    for g in tight.give_up:
        line = line_of(larder, g.name)
        if g.name == "Sauce":
            assert (line.per_week, line.chain.plants.origin) == (2.0, "set")
        else:
            assert line.per_week == pytest.approx(2.0 * (1 - g.share), abs=0.01)
    with pytest.raises(InvalidValue, match="food:12"):
        targets.give_up(larder, ref(), [targets.GivenUp("fooood", 0.5)])


def test_jars_of_a_size_are_counted_against_the_plan(small):
    larder = small.larder
    want(larder, "tomato sauce, thin", per_week=2.0, weeks=40, name="Sauce", jar_litres=0.5)
    chain_acts.book_pantry(larder, ref(), "tomato sauce, thin", "counted", 10)
    whole = line_of(larder, "Sauce")
    kitchen.set_jars(larder, ref(), 0.5, 60, 20)
    jar = next(j for j in pantry_page.pantry_room(larder).jars if j.litres == 0.5)
    assert (jar.owned, jar.full, jar.to_fill, jar.lids) == (60, 10, 70, 20)
    assert jar.says == "20 jars missing, 50 lids missing"
    use = next(u for u in chains.needs_room(larder).room.uses if u.what == "jars")
    assert (use.litres, use.needed, use.has, use.missing) == (0.5, 70, 50, 20)
    # half a jar is half the fruit
    want(larder, "tomato sauce, thin", per_week=2.0, weeks=40, target_id=whole.target_id)
    assert line_of(larder, "Sauce").chain.fresh_kg.mid == pytest.approx(
        2 * whole.chain.fresh_kg.mid
    )
    kitchen.set_jars(larder, ref(), 0.5, 0, 0)
    assert all(not j.owned for j in pantry_page.pantry_room(larder).jars)


def test_guests_eat_too(small):
    larder = small.larder
    want(larder, "kale, frozen", name="Kale")
    before = line_of(larder, "Kale").chain.wanted.mid
    settings_page.change_household(larder, ref(), {"people": 2, "guest_weeks": 26.0})
    after = line_of(larder, "Kale").chain.wanted
    assert after.mid == pytest.approx(1.25 * before)
    assert "guests" in after.note
