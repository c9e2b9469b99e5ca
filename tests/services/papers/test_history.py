"""Every act can be taken back and done again, and both leave the rooms as they were."""

import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import Conflict, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Act, Change, OwnKind
from brisk_larder.services.acts import entry, ledger, lot_acts
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.forecast.stale import remark_everything
from brisk_larder.services.growing import sowings
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.needs import targets
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import splitting
from brisk_larder.services.storage import containers, readings
from brisk_larder.services.today import ribbon
from brisk_larder.services.trials import bench as trials_bench
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.conftest import DAY, packet
from tests.household_state import rooms as look


def plain(value):
    """The same without row versions: an undone change counts as one more edit."""
    if isinstance(value, dict):
        return {k: plain(v) for k, v in value.items() if k not in ("version", "job_id", "state")}
    return [plain(v) for v in value] if isinstance(value, list | tuple) else value


def ref():
    return ActRef()


ACTS = {
    "a packet": lambda s: entry.add_seeds(s.larder, ref(), [packet("pea", "Millrace")]),
    "a pile": lambda s: entry.add_seeds(
        s.larder, ref(), [packet("pea", "Millrace"), packet("dill", "Mill Dill", None, "")]
    ),
    "a move": lambda s: lot_acts.move_lot(s.larder, ref(), s.lots["kale"], s.nodes["porch"]),
    "a count": lambda s: ledger.book_quantity(s.larder, ref(), s.lots["kale"], "counted", "12"),
    "a gift": lambda s: ledger.book_quantity(s.larder, ref(), s.lots["kale"], "given", "1 g"),
    "an event": lambda s: lot_acts.log_event(s.larder, ref(), s.lots["kale"], "mould", "two spots"),
    "a note": lambda s: lot_acts.edit_lot(
        s.larder, ref(), s.lots["kale"], LotEdit(note="north bed")
    ),
    "another name": lambda s: lot_acts.edit_lot(
        s.larder, ref(), s.lots["kale"], LotEdit(variety="Curl")
    ),
    "another kind": lambda s: lot_acts.edit_lot(
        s.larder, ref(), s.lots["kale"], LotEdit(kind="cabbage")
    ),
    "no longer kept": lambda s: lot_acts.edit_lot(
        s.larder, ref(), s.lots["kale"], LotEdit(kept_line=False)
    ),
    "let go": lambda s: lot_acts.edit_lot(s.larder, ref(), s.lots["carrot"], LotEdit(state="gone")),
    "a reading": lambda s: s.read("tin", 33, 77, 5),
    "a new place": lambda s: containers.add_node(
        s.larder, ref(), containers.NewNode("loft", place_kind="attic")
    ),
    "a new tin": lambda s: containers.add_node(
        s.larder,
        ref(),
        containers.NewNode("t2", container_kind="wooden_box", parent_id=s.nodes["porch"]),
    ),
    "a tin moved": lambda s: containers.move_node(
        s.larder, ref(), s.nodes["tin"], s.nodes["porch"]
    ),
    "a tin renamed": lambda s: containers.edit_node(
        s.larder, ref(), s.nodes["tin"], None, name="Tin 7"
    ),
    "a test": lambda s: trials_acts.start_trial(s.larder, ref(), s.lots["carrot"], 12),
    "a test counted": lambda s: trials_acts.count_trial(
        s.larder, ref(), s.trial, trials_acts.CountEntry(normal=4), close=True
    ),
    "a food": lambda s: targets.set_target(
        s.larder, ref(), product="kale, frozen", per_week=1, weeks=20
    ),
    "a pick": lambda s: needs_acts.set_pick(s.larder, ref(), s.lots["onion"], 20),
    "a sowing": lambda s: sowings.sow(s.larder, ref(), s.lots["carrot"], 40),
    "a setting": lambda s: settings_page.change_household(s.larder, ref(), {"sow_level": 0.8}),
    "where we live": lambda s: settings_page.settle(s.larder, ref(), "warm_dry"),
    "a figure": lambda s: settings_page.overrule_crop(
        s.larder, ref(), "kale", "seeds_per_g", 250, "our scales"
    ),
}


def anew(larder):
    """The rooms with every forecast and every climate made again."""
    with larder.store.write() as session:
        remark_everything(session)
    return plain(look(larder))


@pytest.mark.parametrize("name", ACTS)
def test_undo_and_redo_leave_all_rooms_as_they_were(small, name):
    larder = small.larder
    # kin of the onion in the porch, and a test of it under way: what teaches one must reach the other
    kin = splitting.split_lot(larder, ref(), small.lots["onion"], "100").lot_id
    lot_acts.move_lot(larder, ref(), kin, small.nodes["porch"])
    small.trial = trials_acts.start_trial(larder, ref(), small.lots["onion"], 20).trial_id
    small.larder.clock.at_s += 10 * DAY
    before = plain(look(larder))
    ACTS[name](small)
    act = history.recent(larder, 1)[0]
    assert act.summary
    assert act.undoable
    after = plain(look(larder))
    if name not in ("an event", "a figure", "another name"):
        assert after != before, "the act did something"
    assert anew(larder) == after, "the act dropped all that it changed"
    undone = ActRef()
    history.undo(larder, undone, act.act_id)
    assert plain(look(larder)) == before
    assert anew(larder) == before
    history.undo(larder, ActRef(), undone.id)
    assert plain(look(larder)) == after
    assert history.recent(larder, 1)[0].summary == f"Did again: {act.summary}"


def test_acts_on_a_running_test_are_taken_back_in_order(small):
    larder = small.larder
    made = trials_acts.start_trial(larder, ref(), small.lots["onion"], 12).trial_id
    started = history.recent(larder, 1)[0].act_id
    larder.clock.at_s += 9 * DAY
    trials_acts.count_trial(larder, ref(), made, trials_acts.CountEntry(normal=4))
    trials_acts.count_trial(larder, ref(), made, trials_acts.CountEntry(normal=7), close=True)
    closed = history.recent(larder, 1)[0].act_id
    with pytest.raises(Conflict, match="Counted T-1"):
        history.undo(larder, ref(), started)
    history.undo(larder, ref(), closed)
    assert trials_bench.bench(larder).running[0].up == 4
    trials_acts.drop_trial(larder, ref(), made, "dried out")
    bench = trials_bench.bench(larder)
    assert bench.running == []
    assert small.line("onion").glance.tests[0].share is not None


def test_a_flawed_test_counts_for_less_and_a_dropped_one_for_nothing(small):
    larder, lot = small.larder, small.lots["onion"]
    start = small.line("onion").glance.now.mid
    made = trials_acts.start_trial(larder, ref(), lot, 20).trial_id
    larder.clock.at_s += 13 * DAY
    trials_acts.count_trial(
        larder, ref(), made, trials_acts.CountEntry(normal=4), close=True, flaws="too cold"
    )
    flawed = small.line("onion").glance.now.mid
    act = history.recent(larder, 1)[0].act_id
    history.undo(larder, ref(), act)
    trials_acts.count_trial(larder, ref(), made, trials_acts.CountEntry(normal=4), close=True)
    sound = small.line("onion").glance.now.mid
    assert sound < flawed < start
    history.undo(larder, ref(), history.recent(larder, 1)[0].act_id)
    trials_acts.drop_trial(larder, ref(), made, "lost under the bench")
    assert small.line("onion").glance.now.mid == pytest.approx(start, abs=0.03)


def test_old_acts_and_unknown_ones_are_out_of_reach(small):
    larder = small.larder
    act = history.recent(larder, 1)[0]
    with pytest.raises(NotFound, match="no such act"):
        history.undo(larder, ref(), "0" * 36)
    larder.clock.at_s += 91 * DAY
    assert not history.recent(larder, 1)[0].undoable
    with pytest.raises(Conflict, match="last 90 days"):
        history.undo(larder, ref(), act.act_id)


def test_acts_of_another_schema_can_only_be_read(small):
    larder = small.larder
    with larder.store.write() as session:
        for row in session.exec(select(Act)).all():
            row.schema_rev = "0000"
    act = history.recent(larder, 1)[0]
    assert not act.undoable
    with pytest.raises(Conflict, match="only be read"):
        history.undo(larder, ref(), act.act_id)


def test_an_undo_that_clashes_with_a_new_kind_of_the_same_name_is_refused(larder):
    settings_page.add_own_kind(larder, ref(), "skirret", None)
    made = history.recent(larder, 1)[0].act_id
    undone = ActRef()
    history.undo(larder, undone, made)
    settings_page.add_own_kind(larder, ref(), "skirret", "parsnip")
    with pytest.raises(Conflict, match="in use"):
        history.undo(larder, ref(), undone.id)
    with larder.store.read() as session:
        live = [k for k in session.exec(select(OwnKind)) if k.deleted_s is None]
    assert [k.stand_in for k in live] == ["parsnip"]


def test_history_is_complete_and_holds_no_caches(small):
    larder = small.larder
    small.read("tin", 12, 50)
    look(larder)
    with larder.store.read() as session:
        tables = {c.table_name for c in session.exec(select(Change))}
        acts = session.exec(select(Act)).all()
    assert not any(t.startswith("d_") or t in ("dirty", "reading") for t in tables)
    assert all(a.summary and a.client_at_s and a.schema_rev for a in acts)


def test_the_person_who_acts_is_remembered(small):
    larder = small.larder
    person = settings_page.add_person(larder, ref(), "Tamsel").person_id
    ledger.book_quantity(larder, ActRef(person_id=person), small.lots["kale"], "counted", "99")
    assert history.recent(larder, 1)[0].who == "Tamsel"


def test_the_ribbon_shows_what_the_rooms_say(small):
    larder = small.larder
    targets.set_target(larder, ref(), product="onions, cured and stored", per_week=3, weeks=40)
    band = ribbon.ribbon(larder)
    assert (band.start, band.today, band.weeks) == ("2026-10-01", "2026-11-24", 52)
    assert band.last_frost == "2027-05-15"
    kinds = {m.kind: m for m in band.marks}
    assert "onion" in kinds["sow"].words
    assert "onions, cured" in kinds["order"].words
    assert all(0 <= m.week < 52 for m in band.marks)
    settings_page.settle(larder, ref(), "frost_free")
    assert ribbon.ribbon(larder).last_frost is None


def test_readings_can_be_corrected_by_voiding_and_reading_again(small):
    made = small.read("tin", 44 - 8, 80, 9)
    readings.void_reading(small.larder, ref(), made.series_id, made.at_s)
    small.read("tin", 12, 50, 9)
    assert small.line("onion").glance.now.mid > 0.6
