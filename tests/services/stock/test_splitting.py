"""Splitting and pouring together: the past is kept, tests teach relatives, undo is exact."""

from itertools import pairwise

import numpy as np
import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import DMonth, Lot, Part
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.air.air import Air
from brisk_larder.services.forecast import elsewhere, lines
from brisk_larder.services.forecast.current import bring_up_to_date, whole_outlook
from brisk_larder.services.household.larder import household
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import lot_page, splitting
from brisk_larder.services.stock.family import family
from brisk_larder.services.storage import container_page, what_if
from brisk_larder.services.trials import bench, trial_acts
from tests.conftest import DAY, NOW


def ref():
    return ActRef()


def split(small, name="kale", amount="100", **more):
    small.larder.clock.at_s += 60
    done = splitting.split_lot(small.larder, ref(), small.lots[name], amount, **more)
    return done.lot_id


def line(small, lot):
    return next(x for x in lines.lot_lines(small.larder) if x.lot_id == lot)


def add(small, **packet):
    return add_seeds(small.larder, ref(), [NewSeeds(**packet)]).lot_ids[0]


def dump(small):
    """Every cached month of every living part, by lot."""
    bring_up_to_date(small.larder)
    with small.larder.store.read() as session:
        parts = {p.id: p for p in session.exec(select(Part)) if p.deleted_s is None}
        rows = session.exec(select(DMonth).order_by("part_id", "month_s")).all()
        return [r.model_dump() for r in rows if r.part_id in parts]


def test_a_split_packet_goes_on_from_the_same_past(small):
    small.read("tin", 14, 55, 300)
    before = small.line("kale").glance
    child = split(small)
    mother, new = small.line("kale"), line(small, child)
    assert (mother.seeds, new.seeds) == (600, 100)
    assert new.code != mother.code
    assert new.place == mother.place
    assert new.glance.now == mother.glance.now
    assert new.glance.a_probit == pytest.approx(before.a_probit, rel=1e-3)
    assert new.glance.strip.mid == mother.glance.strip.mid
    assert new.origin == mother.origin


def test_what_comes_after_the_split_is_each_packets_own(small):
    child = split(small, node_id=small.nodes["porch"])
    larder = small.larder
    larder.clock.at_s += 30 * DAY
    hot = small.larder.now_s() - 20 * DAY
    small.read("porch", 38, 70, 20)
    small.read("porch", 38, 70, 5)
    larder.clock.at_s += 5 * DAY
    mother, new = small.line("kale").glance, line(small, child).glance
    assert new.a_probit > mother.a_probit * 1.1
    assert new.now.mid < mother.now.mid
    # a reading from before the split, in the tin, reaches both
    a = (mother.a_probit, new.a_probit)
    small.read("tin", 35, 75, 200)
    small.read("tin", 14, 50, 190)
    later = (small.line("kale").glance.a_probit, line(small, child).glance.a_probit)
    assert later[0] > a[0]
    assert later[1] > a[1]
    assert hot < larder.now_s()
    gone = lot_page.lot_page(larder, child).where_it_went
    assert [g.place for g in gone] == ["larder · tin", "porch"]
    assert sum(g.points for g in gone) == pytest.approx(
        max(0, line(small, child).glance.start - line(small, child).glance.now.mid), abs=0.01
    )


def test_the_cached_months_of_a_split_equal_a_full_rebuild(small):
    small.read("tin", 14, 55, 300)
    small.read("porch", 24, 65, 40)
    bring_up_to_date(small.larder)
    child = split(small, node_id=small.nodes["porch"])
    small.larder.clock.at_s += 40 * DAY
    small.read("porch", 30, 70, 10)
    splitting.split_lot(small.larder, ref(), child, "30", node_id=small.nodes["tin"])
    small.larder.clock.at_s += 33 * DAY
    step_by_step = dump(small)
    with small.larder.store.write() as session:
        session.connection().exec_driver_sql("DELETE FROM d_month")
        session.connection().exec_driver_sql("DELETE FROM d_leg")
    assert dump(small) == step_by_step


def test_a_test_of_one_teaches_its_relatives_and_not_strangers(small):
    child = split(small)
    onion = small.line("onion").glance.now
    carrot = small.line("carrot").glance.now
    before = small.line("kale").glance.now.mid
    done = trial_acts.start_trial(small.larder, ref(), child, 20)
    small.larder.clock.at_s += 15 * DAY
    trial_acts.count_trial(
        small.larder, ref(), done.trial_id, trial_acts.CountEntry(normal=6), True
    )
    taught, tested = small.line("kale").glance, line(small, child).glance
    assert tested.now.mid < before - 0.15
    assert taught.now.mid == pytest.approx(tested.now.mid, abs=0.01)
    # a stranger in the same tin learns of the tin, one elsewhere next to nothing
    assert small.line("carrot").glance.now.mid == pytest.approx(carrot.mid, abs=0.02)
    assert 0.05 < onion.mid - small.line("onion").glance.now.mid < before - tested.now.mid
    assert len(tested.tests) == 1
    assert taught.tests == []


def test_a_test_of_a_damaged_packet_says_nothing_of_its_sister(small):
    child = split(small)
    lot_acts.log_event(small.larder, ref(), child, "mould", "")
    small.larder.clock.at_s += DAY
    done = trial_acts.start_trial(small.larder, ref(), child, 20)
    small.larder.clock.at_s += 15 * DAY
    sister = small.line("kale").glance.now.mid
    trial_acts.count_trial(
        small.larder, ref(), done.trial_id, trial_acts.CountEntry(normal=2), True
    )
    assert line(small, child).glance.now.mid < 0.4
    assert small.line("kale").glance.now.mid == pytest.approx(sister, abs=0.01)


def test_damage_before_the_split_goes_with_both(small):
    lot_acts.log_event(small.larder, ref(), small.lots["kale"], "mould", "")
    small.larder.clock.at_s += DAY
    child = split(small)
    assert line(small, child).glance.now == small.line("kale").glance.now


def test_a_split_is_refused_for_more_than_there_is_or_a_code_in_use(small):
    for amount, code, why in (
        ("5000", "", "in hand"), ("0", "", "more than nothing"), ("?", "", "write a count"),
        ("10", "K1", "no packet has or had"), ("10", "two words", "without spaces"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match=why):
            splitting.split_lot(small.larder, ref(), small.lots["kale"], amount, code=code)
    assert len(lines.lot_lines(small.larder)) == 3
    half = splitting.split_lot(small.larder, ref(), small.lots["kale"], "half left", code="KX")
    assert line(small, half.lot_id).seeds == 350


def test_pouring_together_says_what_it_mixes_and_asks_first(small):
    other = add(small, kind="kale", variety="Grey Curl", year=2019, quantity="300", hybrid=True)
    dressed = add(small, kind="kale", variety="Slate Curl", quantity="50", treated=True)
    with small.larder.store.read() as session:
        said = splitting.mixing(session, [small.lots["kale"], other, dressed]).warnings
        kinds = splitting.mixing(session, [small.lots["kale"], small.lots["carrot"]]).warnings
        with pytest.raises(InvalidValue, match="two or more"):
            splitting.mixing(session, [other])
    words = " ".join(said)
    for piece in (
        "Different varieties",
        "Different years: 2019, 2023",
        "no year",
        "Dressed",
        "hybrid",
    ):
        assert piece in words
    assert "Different kinds: carrot, kale" in kinds[0]
    with pytest.raises(Conflict, match="Different varieties"):
        splitting.merge_lots(small.larder, ref(), small.lots["kale"], [other])
    assert len(lines.lot_lines(small.larder)) == 5


def test_a_bag_of_two_years_lies_between_its_parts_and_undo_restores_each(small):
    larder = small.larder
    old = add(small, kind="kale", variety="Slate Curl", year=2014, quantity="700", source="own",
              node_id=small.nodes["tin"], since="since it came")  # fmt: skip
    larder.clock.at_s += 60
    one, two = small.line("kale").glance.now, line(small, old).glance.now
    months = dump(small)
    done = ActRef()
    splitting.merge_lots(larder, done, small.lots["kale"], [old], anyway=True)
    bag = small.line("kale")
    assert bag.seeds == 1400
    assert bag.parts == 2
    assert bag.years == [2014, 2023]
    assert bag.origin == "mixed: 2014, 2023"
    assert two.mid < bag.glance.now.mid < one.mid
    assert bag.glance.now.mid == pytest.approx((one.mid + two.mid) / 2, abs=0.03)
    page = lot_page.lot_page(larder, small.lots["kale"])
    assert [(p.year, round(p.share, 2)) for p in page.parts] == [("2023", 0.5), ("2014", 0.5)]
    assert [p.now.mid for p in page.parts] == pytest.approx([one.mid, two.mid], abs=0.01)
    assert bag.glance.parts == 2
    assert old not in {x.lot_id for x in lines.lot_lines(larder)}
    strip = bag.glance.strip.mid
    assert all(a >= b - 0.003 for a, b in pairwise(strip))
    history.undo(larder, ref(), done.id)
    assert small.line("kale").glance.now == one
    assert line(small, old).glance.now == two
    assert small.line("kale").parts == 1
    assert dump(small) == months


def test_every_room_speaks_for_the_whole_bag(small):
    larder, lot, tin = small.larder, small.lots["kale"], small.nodes["tin"]
    old = add(small, kind="kale", variety="Slate Curl", year=2012, quantity="500", source="own")
    alone = small.line("kale").glance
    splitting.merge_lots(larder, ref(), lot, [old], True)
    settings_page.change_household(larder, ref(), {"sow_level": 0.4})
    bag = small.line("kale").glance
    assert bag.parts == 2
    assert bag.good_until_s > larder.now_s() + 100 * DAY
    assert bag.now.mid < alone.now.mid - 0.1, "the old half is felt"
    at_use, sown = bag.at_sowing, bag.next_sowing_s
    (fate,) = what_if.what_if(larder, [lot], []).lots
    here = fate.fates[0]
    assert fate.next_sowing_s == sown
    assert (here.at_sowing.low, here.at_sowing.mid, here.at_sowing.high) == pytest.approx(
        (at_use.low, at_use.mid, at_use.high), abs=0.01
    )
    assert abs(here.good_until_s - bag.good_until_s) < 15 * DAY
    cold = elsewhere.Option(
        place_kind="freezer_deep", container_kind="glass_jar_gasket", label="freezer"
    )
    frozen = what_if.what_if(larder, [lot], [cold]).lots[0].fates[1]
    assert frozen.good_until_s is None or frozen.good_until_s > here.good_until_s
    assert frozen.at_sowing.mid == pytest.approx(bag.now.mid, abs=0.03)
    page = container_page.node_page(larder, tin)
    inside = next(x for x in page.lots if x.lot_id == lot)
    assert inside.now.mid == pytest.approx(bag.now.mid, abs=0.01)
    started = trial_acts.start_trial(larder, ref(), lot, 20)
    running = next(r for r in bench.bench(larder).running if r.trial_id == started.trial_id)
    assert running.now.mid == pytest.approx(bag.now.mid, abs=0.01)


def test_a_test_of_a_bag_teaches_all_of_it(small):
    larder = small.larder
    bag = add(small, kind="kale", variety="Mixed Curl", date="2018: 50, 2024: 50", quantity="400",
              source="own", node_id=small.nodes["tin"])  # fmt: skip
    before = line(small, bag).glance.now
    assert line(small, bag).parts == 2
    done = trial_acts.start_trial(larder, ref(), bag, 40)
    larder.clock.at_s += 20 * DAY
    trial_acts.count_trial(larder, ref(), done.trial_id, trial_acts.CountEntry(normal=39), True)
    after = line(small, bag).glance.now
    assert after.mid > before.mid + 0.02
    assert after.high - after.low < before.high - before.low
    look = whole_outlook(larder)
    i = next(i for i, r in enumerate(look.rows) if r.part.lot_id == bag)
    assert len(look.blends[i].parts.rows) == 2
    g = look.g_at(i, np.array([float(larder.now_s())]))
    assert g.mean() == pytest.approx(after.mid, abs=0.03)


def test_rejoined_packets_of_one_origin_stay_one_kind_of_seed(small):
    child = split(small, amount="300")
    small.larder.clock.at_s += 60
    with small.larder.store.read() as session:
        assert splitting.mixing(session, [small.lots["kale"], child]).warnings == []
    before = small.line("kale").glance.now.mid
    splitting.merge_lots(small.larder, ref(), small.lots["kale"], [child])
    again = small.line("kale")
    assert again.seeds == 700
    assert again.glance.now.mid == pytest.approx(before, abs=0.02)
    assert again.origin == "own seed of 2023"
    assert again.parts == 1


def test_the_family_shows_mothers_daughters_and_packets_split_off(small):
    daughter = add(
        small, kind="kale", variety="Slate Curl", year=2026, quantity="200", source="own"
    )
    lot_acts.edit_lot(small.larder, ref(), daughter, LotEdit(mother_lot_id=small.lots["kale"]))
    child = split(small)
    tree = family(small.larder, daughter)
    assert {r.lot_id for r in tree.relatives} == {small.lots["kale"], daughter, child}
    assert {(t.from_lot, t.to_lot, t.kind) for t in tree.ties} == {
        (small.lots["kale"], daughter, "mother"), (small.lots["kale"], child, "split"),
    }  # fmt: skip
    assert [r.year for r in tree.relatives] == [2023, 2023, 2026]
    assert [r.me for r in tree.relatives] == [False, False, True]
    with pytest.raises(InvalidValue, match="itself"):
        lot_acts.edit_lot(small.larder, ref(), small.lots["kale"], LotEdit(mother_lot_id=daughter))
    alone = family(small.larder, small.lots["onion"])
    assert len(alone.relatives) == 1


def test_legs_of_a_child_run_through_its_mothers_places(small):
    child = split(small, node_id=small.nodes["porch"])
    look = whole_outlook(small.larder)
    row = next(r for r in look.rows if r.part.lot_id == child)
    with small.larder.store.read() as session:
        world = Air(session, household(session), small.larder.now_s())
        assert [world.nodes[leg.node].name for leg in row.legs] == ["larder", "porch"]
        lot = session.get(Lot, child)
        assert lot is not None
    assert row.legs[0].end_s == row.legs[1].start_s == NOW + 60
    assert row.start_s < NOW
    assert ledger.last_full(small.larder.store.read().__enter__(), child) == 100
