"""Needs and jobs in more depth: whose number it is, order of cover, what is to spare, what is due when."""

import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.growing import sowings
from brisk_larder.services.household.kinds import reference
from brisk_larder.services.needs import chain_acts, chains, targets
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.conftest import DAY, packet


def want(larder, product, per_week=1.0, weeks=20, **more):
    made = targets.set_target(
        larder, ActRef(), product=product, per_week=per_week, weeks=weeks, **more
    )
    return made.target_id


def line_of(larder, name):
    return next(x for x in chains.needs_room(larder).lines if x.name == name)


def link(larder, target, name, value):
    chain_acts.override_link(larder, ActRef(), target, name, value)


def test_each_link_says_whose_number_it_is(small):
    larder = small.larder
    target = want(larder, "carrots, root cellar")
    chain = line_of(larder, "carrots, root cellar").chain
    assert [chain.wanted.origin, chain.pantry.origin, chain.to_put_up.origin] == [
        "set",
        "own",
        "sum",
    ]
    assert (chain.fresh_kg.origin, chain.plants.origin) == ("book", "book")
    link(larder, target, "yield_kg_per_plant", 0.2)
    chain = line_of(larder, "carrots, root cellar").chain
    assert chain.plants.origin == "set"
    assert chain.plants.mid == pytest.approx(chain.fresh_kg.mid / 0.2 / 0.9, abs=1)
    link(larder, target, "fresh_kg", 10)
    chain = line_of(larder, "carrots, root cellar").chain
    assert (chain.fresh_kg.mid, chain.fresh_kg.origin) == (10, "set")
    for name in ("yield_kg_per_plant", "fresh_kg"):
        link(larder, target, name, None)
    assert line_of(larder, "carrots, root cellar").chain.plants.origin == "book"


@pytest.mark.parametrize(
    ("name", "value", "says"),
    [("colour", 3, "link"), ("plants", -1, "plants"), ("yield_kg_per_plant", 0, "more than zero")],
)
def test_impossible_links_are_refused(small, name, value, says):
    target = want(small.larder, "carrots, root cellar")
    with pytest.raises(InvalidValue, match=says):
        link(small.larder, target, name, value)


def test_an_own_product_of_an_own_kind_asks_for_what_nobody_knows(small):
    larder = small.larder
    want(larder, "our relish", crop="carrot", unit="jars")
    line = line_of(larder, "our relish")
    assert line.chain.fresh_kg.origin == "guess"
    assert line.chain.fresh_kg.low < line.chain.fresh_kg.high
    target = want(larder, "zinnia wreath", crop="zinnia", unit="jars")
    tea = line_of(larder, "zinnia wreath")
    assert (tea.plants, tea.says) == (None, "no yield known")
    link(larder, target, "plants", 30)
    assert line_of(larder, "zinnia wreath").plants == 30


def test_units_follow_the_way_of_keeping(small):
    larder = small.larder
    for product, unit in (
        ("green beans, pressure canned", "jars"), ("kale, frozen", "litres"), ("sauerkraut", "litres"),
        ("carrots, root cellar", "kg"),
    ):  # fmt: skip
        want(larder, product)
        assert line_of(larder, product).chain.wanted.unit == unit


def test_jars_carry_their_caution_and_no_times(small):
    want(small.larder, "green beans, pressure canned")
    caution = line_of(small.larder, "green beans, pressure canned").caution
    assert "authority" in caution
    assert "minutes" not in caution


def test_gifts_and_reserve_are_added_and_the_pantry_taken_off(small):
    larder = small.larder
    want(larder, "kale, frozen", 0.5, 20, gifts=2, reserve_share=0.25)
    line = line_of(larder, "kale, frozen")
    assert line.chain.wanted.mid == pytest.approx((0.5 * 20 + 2) * 1.25)
    for kind, units, left in (
        ("counted", 4, 4),
        ("put_up", 3, 7),
        ("opened", 2, 5),
        ("given", 1, 4),
    ):
        larder.clock.at_s += 60
        chain_acts.book_pantry(larder, ActRef(), "kale, frozen", kind, units)
        assert line_of(larder, "kale, frozen").chain.pantry.mid == left
    with pytest.raises(InvalidValue, match="on the shelf"):
        chain_acts.book_pantry(larder, ActRef(), "kale, frozen", "opened", 9)
    with pytest.raises(InvalidValue, match="kind"):
        chain_acts.book_pantry(larder, ActRef(), "kale, frozen", "sniffed", 1)


def test_the_oldest_usable_lot_goes_first_and_a_kept_line_keeps_its_own(small):
    larder = small.larder
    new = packet("onion", "Copper Kettle", 2026, "4000", node_id=small.nodes["tin"])
    add_seeds(larder, ActRef(), [new])
    for days in range(0, 700, 30):
        small.read("tin", 8, 35, days)
    want(larder, "onions, cured and stored", 3.0, 20)
    line = line_of(larder, "onions, cured and stored")
    assert [c.code for c in line.covered] == ["O1", "O2"]
    assert line.covered[0].seeds == 400
    want(larder, "kale, frozen", 9.0, 40)
    kale = line_of(larder, "kale, frozen")
    held = small.line("kale").seeds - sum(c.seeds for c in kale.covered)
    assert held >= 15 / 0.85  # the seed for fifteen mothers stays for the line


def test_two_foods_share_a_lot_and_a_missing_one_covers_nothing(small):
    larder = small.larder
    want(larder, "carrots, root cellar", 0.3, 10)
    want(larder, "carrots, frozen", 0.3, 10)
    taken = [c.seeds for x in chains.needs_room(larder).lines for c in x.covered]
    assert len(taken) == 2
    assert sum(taken) <= small.line("carrot").seeds
    lot_acts.edit_lot(larder, ActRef(), small.lots["carrot"], LotEdit(state="missing"))
    assert all(not x.covered for x in chains.needs_room(larder).lines)


def test_what_is_to_spare_is_named_and_dressed_seed_never(small):
    larder = small.larder
    add_seeds(
        larder, ActRef(),
        [packet("tomato", "Wheelwright", 2026, "3000"),
         packet("radish", "Redshank", 2026, "3000", treated=True),
         packet("dill", "Mill Dill", 2026, "3000"), packet("pea", "Millrace", 2026, "")],
    )  # fmt: skip
    want(larder, "tomato sauce, thin", 0.01, 10)
    spare = {s.variety: s.seeds for s in chains.needs_room(larder).surplus}
    # ten years of two sowings each stay; dressed, doubtful and uncounted seed is never to spare
    assert set(spare) == {"Wheelwright"}
    assert 2000 < spare["Wheelwright"] < 2600


def test_a_food_is_changed_with_its_version_and_taken_off(small):
    larder = small.larder
    target = want(larder, "kale, frozen")
    version = line_of(larder, "kale, frozen").version
    want(larder, "kale, frozen", 3, 10, target_id=target, version=version)
    assert line_of(larder, "kale, frozen").chain.wanted.mid == 30
    with pytest.raises(Conflict, match="changed meanwhile"):
        want(larder, "kale, frozen", 4, 10, target_id=target, version=version)
    chain_acts.remove_target(larder, ActRef(), target)
    assert chains.needs_room(larder).lines == []


def test_a_pick_changes_its_number_and_is_taken_back(small):
    larder, lot = small.larder, small.lots["carrot"]
    first = chain_acts.set_pick(larder, ActRef(), lot, 12, "bees").pick_id
    assert chain_acts.set_pick(larder, ActRef(), lot, 30, "joy").pick_id == first
    (line,) = chains.needs_room(larder).lines
    assert (line.plants, line.how, line.name) == (30, "joy", "Ember Root")
    chain_acts.remove_pick(larder, ActRef(), first)
    assert chains.needs_room(larder).lines == []
    with pytest.raises(InvalidValue, match="purpose"):
        chain_acts.set_pick(larder, ActRef(), lot, 12, "spite")
    with pytest.raises(InvalidValue, match="plants"):
        chain_acts.set_pick(larder, ActRef(), lot, 0)


def test_a_dial_not_read_for_weeks_becomes_a_job_and_a_reading_settles_it(small):
    larder = small.larder
    small.read("tin", 12, 50, 30)
    jobs_now = {j.title for j in jobs.today_room(larder).jobs}
    assert "Read larder · tin" in jobs_now
    small.read("tin", 12, 50)
    assert "Read larder · tin" not in {j.title for j in jobs.today_room(larder).jobs}


def test_a_running_test_asks_to_be_counted_every_other_day(small):
    larder = small.larder
    made = trials_acts.start_trial(larder, ActRef(), small.lots["onion"], 10).trial_id

    def asked():
        return any(j.kind == "count" for j in jobs.today_room(larder).jobs)

    assert not asked()
    larder.clock.at_s += 3 * DAY
    assert not asked()  # nothing is to be seen before its first count day, the sixth
    larder.clock.at_s += 4 * DAY
    assert asked()
    trials_acts.count_trial(larder, ActRef(), made, trials_acts.CountEntry(normal=1))
    assert not asked()
    larder.clock.at_s += 10 * DAY
    assert next(j for j in jobs.today_room(larder).jobs if j.kind == "count").urgent


def test_seed_sown_is_early_then_due_then_overdue(small):
    larder = small.larder
    sowings.sow(larder, ActRef(), small.lots["carrot"], 100, "outdoors")

    def state():
        return sowings.growing_room(larder).due[0].state

    assert state() == "early"
    larder.clock.at_s += 15 * DAY
    assert state() == "due"
    larder.clock.at_s += 30 * DAY
    assert state() == "overdue"
    sowing = sowings.growing_room(larder).due[0].sowing_id
    with pytest.raises(InvalidValue, match="up"):
        sowings.count_sowing(larder, ActRef(), sowing, 101)
    sowings.count_sowing(larder, ActRef(), sowing, 60, settled=True)
    assert sowings.growing_room(larder).due == []
    with pytest.raises(Conflict, match="already settled"):
        sowings.count_sowing(larder, ActRef(), sowing, 61)


def test_a_moved_job_comes_back_on_its_day(small):
    larder = small.larder
    small.read("tin", 12, 50, 30)
    key = next(j.origin_key for j in jobs.today_room(larder).jobs if j.kind == "read")
    jobs.set_job(larder, ActRef(), key, "moved", moved_to_s=larder.now_s() + 40 * DAY)
    room = jobs.today_room(larder)
    assert key not in {j.origin_key for j in room.jobs}
    assert key in {j.origin_key for j in room.later}
    larder.clock.at_s += 30 * DAY
    assert key in {j.origin_key for j in jobs.today_room(larder).jobs}
    for state, more in (("vanished", {}), ("handed_over", {}), ("done", {})):
        if state == "done":
            jobs.set_job(larder, ActRef(), key, state, **more)
        else:
            with pytest.raises(InvalidValue):
                jobs.set_job(larder, ActRef(), key, state, **more)
    with pytest.raises(InvalidValue, match="of the list"):
        jobs.set_job(larder, ActRef(), "nothing:1", "done")


def test_a_line_that_is_not_safe_gives_nothing_to_the_table(small):
    larder = small.larder
    # an untested lot is dead once in twenty: only of very many seeds are the mothers promised
    ledger.book_quantity(larder, ActRef(), small.lots["kale"], "counted", "20000")
    want(larder, "kale, frozen", 0.2, 10)
    assert line_of(larder, "kale, frozen").covered
    ledger.book_quantity(larder, ActRef(), small.lots["kale"], "counted", "20")
    line = line_of(larder, "kale, frozen")
    assert line.covered == []
    assert line.says.endswith("seeds short")


def test_bed_cells_and_jars_are_summed_over_all_that_is_wanted(small):
    larder = small.larder
    want(larder, "carrots, root cellar", 0.3, 10)
    want(larder, "tomato sauce, thin", 1.0, 10)
    room = chains.needs_room(larder)
    carrots, sauce = (
        line_of(larder, name) for name in ("carrots, root cellar", "tomato sauce, thin")
    )
    crop = reference().type_rows["carrot", "store"]  # carrots to store stand wider than the kind
    assert carrots.row_m == pytest.approx(carrots.plants * crop.spacing_in_row_cm / 100, abs=0.1)
    assert carrots.bed_m2 == pytest.approx(carrots.row_m * crop.row_spacing_cm / 100, abs=0.1)
    assert (carrots.cells, carrots.jars) == (0, 0)
    assert (sauce.cells, sauce.jars) == (sauce.seeds, 10)
    assert room.bed_m2 == pytest.approx(carrots.bed_m2 + sauce.bed_m2, abs=0.11)
    assert (room.cells, room.jars) == (sauce.cells, 10)
    assert any("of row" in w for w in carrots.why)
