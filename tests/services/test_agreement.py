"""No two rooms disagree about one packet: the table of forbidden pairs on made-up households."""

from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import entry, lot_acts
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.stock import splitting
from brisk_larder.services.trials import bench
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.agreement import ALWAYS, FORBIDDEN, disagreements, made_up, said_of
from tests.conftest import DAY, packet


def test_rooms_agree_about_every_packet_and_the_table_is_about_things_that_are_said(tmp_path):
    """Every mark on its left is said of some packet, or the table would hold whatever the rooms do."""
    marks = set()
    for seed in (1, 2, 5, 7, 11, 103, 115, 120):
        larder = made_up(tmp_path / f"{seed}.sqlite3", seed)
        said = said_of(larder)
        assert disagreements(larder, said) == [], seed
        marks |= {mark for s in said for mark in s.marks}
        larder.store.close()
    assert {mark for mark, _ in FORBIDDEN} <= marks
    assert not set(ALWAYS) & marks


def test_split_packets_are_one_question_and_its_test_settles_all(small):
    larder = small.larder
    lot = small.lots["onion"]
    for _ in range(3):
        splitting.split_lot(larder, ActRef(), lot, "60")
    asked = [w.line for w in bench.bench(larder).wanted if w.line.variety == "Brackenbulb"]
    assert [x.lot_id for x in asked] == [lot]  # the one with most seeds
    others = [x for x in lot_lines(larder) if x.variety == "Brackenbulb" and x.lot_id != lot]
    assert {x.next_act for x in others} == {f"the test of {small.line('onion').code} settles it"}
    before = others[0].glance.now
    trial = trials_acts.start_trial(larder, ActRef(), lot, 20)
    waits = {x.next_act for x in lot_lines(larder) if x.variety == "Brackenbulb"}
    assert waits == {f"wait for {small.line('onion').glance.tests[0].code}"}
    assert not [w for w in bench.bench(larder).wanted if w.line.variety == "Brackenbulb"]
    larder.clock.at_s += 16 * DAY
    trials_acts.count_trial(
        larder, ActRef(), trial.trial_id, trials_acts.CountEntry(normal=19), close=True
    )
    settled = [x for x in lot_lines(larder) if x.lot_id in {o.lot_id for o in others}]
    assert all(x.glance.now.low > before.low + 0.2 for x in settled)
    assert {x.verdict.test for x in settled} == {False}


def test_what_nobody_counted_is_to_be_counted_and_no_need_is_short_for_it(small):
    larder = small.larder
    entry.add_seeds(larder, ActRef(), [packet("parsnip", "Long Candle", 2026, "", kept_line=True)])
    targets.set_target(
        larder, ActRef(), product="parsnips, root cellar", crop="parsnip", per_week=0.3, weeks=20
    )
    line = next(x for x in lot_lines(larder) if x.variety == "Long Candle")
    assert (line.verdict.standing, line.next_act) == ("uncounted", "count it first")
    (need,) = chains.needs_room(larder).lines
    assert (need.says, need.next_act) == ("not counted", f"count first: {line.code}")
    lot_acts.log_event(larder, ActRef(), line.lot_id, "wet", "")
    wet = next(x for x in lot_lines(larder) if x.lot_id == line.lot_id)
    assert wet.next_act == "dry it first, then test it"


def test_too_many_packets_of_one_kind_are_said_at_entry_and_in_stock(small):
    larder = small.larder
    pile = [
        packet("parsnip", name, 2025, "400") for name in ("Old Weir", "Long Candle", "Quernstone")
    ]
    assert entry.add_seeds(larder, ActRef(), pile[:2]).too_many == []
    (told,) = entry.add_seeds(larder, ActRef(), pile[2:]).too_many
    assert told.startswith("3 packets of parsnip: ")
    lines = lot_lines(larder)
    assert {x.plenty for x in lines if x.kind == "parsnip"} == {told}
    assert not any(x.plenty for x in lines if x.kind != "parsnip")
