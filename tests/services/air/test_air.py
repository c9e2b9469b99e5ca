"""What hands do to containers: openings, closings, desiccant, in and out, and what would be better."""

from contextlib import suppress

import numpy as np
import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.air.air import Air
from brisk_larder.services.forecast import elsewhere, lines
from brisk_larder.services.household.kinds import figures
from brisk_larder.services.papers import history
from brisk_larder.services.stock import lot_page
from brisk_larder.services.storage import (
    alarms_now,
    best_places,
    container_page,
    containers,
    drying,
    readings,
    rounds,
    sachets,
    shelves,
    what_if,
)
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import trial_acts
from tests.conftest import DAY
from tests.services.forecast.test_forecast import months, rebuilt


def test_random_handling_leaves_the_increment_equal_to_a_full_rebuild(small):
    larder = small.larder
    rng = np.random.default_rng(11)
    new = containers.NewNode("jar", container_kind="glass_jar_gasket", parent_id=small.nodes["tin"])
    small.nodes["jar"] = containers.add_node(larder, ActRef(), new).node_id
    lot_acts.move_lot(
        larder, ActRef(), small.lots["onion"], small.nodes["jar"], at_s=larder.now_s() - 200 * DAY
    )
    for _ in range(16):
        at = larder.now_s() - int(rng.uniform(1, 900) * DAY)
        box = small.nodes[["tin", "jar"][rng.integers(2)]]
        what = rng.integers(5)
        with suppress(InvalidValue, Conflict):
            if what == 0:
                kind = ["opened", "vented", "breathing", "airtight"][rng.integers(4)]
                containers.node_event(larder, ActRef(), box, kind, at_s=at)
            elif what == 1:
                sachets.add_desiccant(larder, ActRef(), box, "silica_gel", 30.0, at_s=at)
            elif what == 2:
                to = small.nodes[["larder", "porch"][rng.integers(2)]]
                containers.move_node(larder, ActRef(), small.nodes["tin"], to, at_s=at)
            elif what == 3:
                small.read(
                    "jar",
                    float(rng.uniform(2, 30)),
                    float(rng.uniform(20, 80)),
                    rng.uniform(1, 600),
                )
            else:
                history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
        months(larder)
    assert months(larder) == rebuilt(larder)


def test_rooms_share_the_air_until_something_changes_it(small, monkeypatch):
    larder, made = small.larder, []
    make = Air._make_past

    def noted(self, node, wanted):
        made.append((node, wanted))
        return make(self, node, wanted)

    monkeypatch.setattr(Air, "_make_past", noted)

    def asked(what):
        made.clear()
        what()
        return set(made), len(made)

    small.read("tin", 14, 50, 3)
    once, count = asked(lambda: shelves.shelves(larder))
    assert once
    assert len(once) == count, "nothing is reckoned twice"
    assert asked(lambda: alarms_now.all_alarms(larder))[1] == 0
    lot_acts.edit_lot(larder, ActRef(), small.lots["kale"], LotEdit(note="by the door"))
    ledger.book_quantity(larder, ActRef(), small.lots["onion"], "given", "10")
    assert asked(lambda: (shelves.shelves(larder), lines.lot_lines(larder)))[1] == 0
    # a reading, taking it back, and an opening change the air for every room
    before = {b.node_id: b.now_temperature_c for s in shelves.shelves(larder) for b in s.boxes}
    small.read("tin", 31, 50)
    assert asked(lambda: shelves.shelves(larder))[1]
    after = {b.node_id: b.now_temperature_c for s in shelves.shelves(larder) for b in s.boxes}
    assert after[small.nodes["tin"]] > before[small.nodes["tin"]] + 5
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert asked(lambda: shelves.shelves(larder))[1]
    assert {
        b.node_id: b.now_temperature_c for s in shelves.shelves(larder) for b in s.boxes
    } == before
    containers.node_event(larder, ActRef(), small.nodes["tin"], "vented")
    assert asked(lambda: shelves.shelves(larder))[1]


def test_out_on_the_table_and_back_counts_and_is_reminded(small):
    larder, tin = small.larder, small.nodes["tin"]
    larder.clock.at_s += DAY
    containers.take_out(larder, ActRef(), tin)
    with pytest.raises(Conflict, match="out already"):
        containers.take_out(larder, ActRef(), tin)
    assert small.line("kale").place == "Out on the table · tin"
    larder.clock.at_s += 6 * 3600
    (left,) = [a for a in alarms_now.alarms(larder) if a.code == "left_out"]
    assert "6 hours" in left.evidence
    assert any(j.origin_key == left.key for j in jobs.today_room(larder).jobs)
    containers.put_back(larder, ActRef(), tin)
    assert small.line("kale").place == "larder · tin"
    assert not [a for a in alarms_now.alarms(larder) if a.code == "left_out"]
    with pytest.raises(Conflict, match="not out"):
        containers.put_back(larder, ActRef(), tin)


def test_a_sachet_dries_what_is_inside_and_is_taken_back(small):
    larder, tin = small.larder, small.nodes["tin"]
    before = months(larder)
    wet = small.line("onion").glance
    done = sachets.add_desiccant(
        larder, ActRef(), tin, "silica_gel", 40.0, at_s=larder.now_s() - 200 * DAY
    )
    assert done.erh25 < 0.3 < done.erh25_before
    dry = small.line("onion").glance
    assert dry.erh25 < wet.erh25 - 0.1
    assert dry.good_until_s > wet.good_until_s
    assert container_page.node_page(larder, tin).box.closing == "desiccant"
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert months(larder) == before
    containers.node_event(larder, ActRef(), tin, "breathing")
    with pytest.raises(Conflict, match="close it first"):
        sachets.add_desiccant(larder, ActRef(), tin, "silica_gel", 40.0)


def test_a_round_is_one_act_and_an_odd_value_is_known_beforehand(small):
    larder = small.larder
    small.read("tin", 9, 55, 3)
    stops = rounds.round_list(larder)
    assert [s.name for s in stops] == ["tin", "porch"]
    assert stops[0].last_erh == 0.55
    assert stops[0].low_c < 9 < stops[0].high_c < 25
    dials = [
        (small.nodes["tin"], readings.DialReading(9.5, 54, opened=True, note="musty")),
        (small.nodes["porch"], readings.DialReading(4, 70)),
    ]
    before = months(larder)
    readings.log_round(larder, ActRef(), dials)
    assert [s.last_erh for s in rounds.round_list(larder)] == [0.54, 0.70]
    page = container_page.node_page(larder, small.nodes["tin"])
    assert {e.kind for e in page.events} == {"opened", "note"}
    round_act = history.recent(larder, 1)[0]
    back = ActRef()
    history.undo(larder, back, round_act.act_id)
    assert months(larder) == before
    assert container_page.node_page(larder, small.nodes["tin"]).events == []
    history.undo(larder, ActRef(), back.id)
    assert [s.last_erh for s in rounds.round_list(larder)] == [0.54, 0.70]
    bad = [*dials[:1], (small.nodes["porch"], readings.DialReading(4, 700))]
    with pytest.raises(InvalidValue, match="porch, humidity"):
        readings.log_round(larder, ActRef(), bad)
    containers.set_walk_order(larder, ActRef(), [small.nodes["porch"], small.nodes["tin"]])
    assert [s.name for s in rounds.round_list(larder)] == ["porch", "tin"]


def test_a_corrected_reading_keeps_both_and_goes_back_and_forth(small):
    larder = small.larder
    made = small.read("tin", 34, 80, 30)
    wrong = months(larder)
    readings.correct_reading(
        larder, ActRef(), made.series_id, made.at_s, readings.DialReading(14, 50)
    )
    right = months(larder)
    assert right != wrong
    act = history.recent(larder, 1)[0]
    undone = ActRef()
    history.undo(larder, undone, act.act_id)
    assert months(larder) == wrong
    history.undo(larder, ActRef(), undone.id)
    assert months(larder) == right


def test_what_if_says_what_would_change_and_changes_nothing(small):
    larder = small.larder
    before = months(larder), small.line("kale").glance
    lots = [small.lots["kale"], small.lots["onion"]]
    options = [
        elsewhere.Option(place_kind="greenhouse"),
        elsewhere.Option(place_kind="freezer_deep", container_kind="glass_jar_gasket"),
        elsewhere.Option(place_kind="freezer_deep", container_kind="glass_jar_gasket",
                      desiccant="silica_gel", desiccant_g=30),
        elsewhere.Option(node_id=small.nodes["porch"]),
    ]  # fmt: skip
    found = what_if.what_if(larder, lots, options)
    here, hot, cold, dry = (o.new_years for o in found.options[:4])
    assert hot < here < cold < dry
    assert any("before freezing" in c for c in found.options[2].cautions)
    assert not any("before freezing" in c for c in found.options[3].cautions)
    assert found.lots[0].fates[1].at_sowing.mid < found.lots[0].fates[0].at_sowing.mid
    hot_fate = found.lots[0].fates[
        1
    ]  # new seed has all of its life before it, old seed what is left
    assert hot_fate.new_until_s > hot_fate.good_until_s + 30 * DAY
    assert (months(larder), small.line("kale").glance) == before
    stays = found.lots[0].fates[0].good_until_s
    assert stays == pytest.approx(before[1].good_until_s, abs=40 * DAY)
    schools = what_if.schools(larder, lots)
    shelf, freezer = schools.options[1], schools.options[-1]
    assert freezer.new_years > 4 * shelf.new_years
    with pytest.raises(InvalidValue, match="at least one packet"):
        what_if.what_if(larder, [], options)
    with pytest.raises(InvalidValue, match="kind of place"):
        what_if.what_if(larder, lots, [elsewhere.Option(place_kind="moon")])


def test_the_few_good_places_are_given_and_the_moves_are_made_when_ticked(small):
    larder = small.larder
    freezer = containers.add_node(
        larder, ActRef(), containers.NewNode("freezer", place_kind="freezer_deep")
    ).node_id
    drawer = containers.add_node(
        larder, ActRef(),
        containers.NewNode("drawer", container_kind="glass_jar_gasket", parent_id=freezer, capacity_lots=1),
    ).node_id  # fmt: skip
    box = containers.NewNode("box", container_kind="cardboard_box", parent_id=small.nodes["porch"])
    containers.add_node(larder, ActRef(), box)
    assert best_places.best_places(larder).too_damp  # all of it is too damp for the freezer
    sachets.note_dryness(
        larder, ActRef(), list(small.lots.values()), humidity_pct=28, temperature=20
    )
    found = best_places.best_places(larder)
    assert [p.path for p in found.places] == ["freezer · drawer"]
    (move,) = found.moves
    assert move.to_node_id == drawer
    assert move.living_if_moved > move.living_if_stays + figures().placement.effort_seeds
    best_places.moves_to_jobs(larder, ActRef(), [(move.lot_id, move.to_node_id)])
    (job,) = [j for j in jobs.today_room(larder).jobs if j.kind == "move"]
    jobs.set_job(larder, ActRef(), job.origin_key, "done")
    line = next(x for x in lines.lot_lines(larder) if x.lot_id == move.lot_id)
    assert line.place == "freezer · drawer"
    assert not [j for j in jobs.today_room(larder).jobs if j.kind == "move"]
    assert not [m for m in best_places.best_places(larder).moves if m.lot_id == move.lot_id]
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    line = next(x for x in lines.lot_lines(larder) if x.lot_id == move.lot_id)
    assert line.place != "freezer · drawer"


def test_drying_advice_follows_what_was_found(small):
    larder, tin = small.larder, small.nodes["tin"]
    before = drying.drying(larder, tin)
    gel = before.sachets[0]
    assert before.now_erh > before.target_erh
    assert gel.grams > 0
    assert gel.days > 0
    assert before.may_seal.startswith(("no", "better not"))
    sachets.note_dryness(
        larder, ActRef(), [small.lots["kale"], small.lots["onion"]], humidity_pct=30, temperature=20
    )
    after = drying.drying(larder, tin)
    assert after.now_erh == pytest.approx(0.30, abs=0.01)
    assert after.may_seal.startswith("yes")
    assert after.may_freeze.startswith("yes")
    assert after.sachets[0].grams == 0
    with pytest.raises(InvalidValue, match="15 to 60"):
        drying.drying(larder, tin, 0.9)
    with pytest.raises(InvalidValue, match="either"):
        sachets.note_dryness(larder, ActRef(), [small.lots["kale"]])
    sachets.note_dryness(larder, ActRef(), [small.lots["kale"]], moisture_pct=9.0)
    worst = drying.drying(larder, tin).lots[0]
    assert worst.moisture_pct == pytest.approx(9.0, abs=0.1)
    assert "Leave it shut" not in drying.dew(larder, tin, 6.0, 40).says
    plan = drying.can_plan(3.9, 0.2)
    assert plan.filled_kg + plan.left_kg == pytest.approx(3.9)
    assert max(size for size, _ in plan.cans) <= plan.best_size_l


def test_getting_wet_shakes_the_belief_and_a_later_test_settles_it(small):
    larder = small.larder
    before = small.line("onion").glance.now
    lot_acts.log_event(larder, ActRef(), small.lots["onion"], "wet", "the roof")
    page = lot_page.lot_page(larder, small.lots["onion"])
    shaken = page.line.glance.now
    assert shaken.mid < before.mid
    assert (shaken.low, shaken.high) < (before.low, before.high)
    assert len(page.guide) == 4
    assert page.line.glance.erh25 > 0.8
    larder.clock.at_s += 20 * DAY
    trial = trial_acts.start_trial(larder, ActRef(), small.lots["onion"], 40).trial_id
    larder.clock.at_s += 16 * DAY
    trial_acts.count_trial(larder, ActRef(), trial, trial_acts.CountEntry(normal=37), True)
    settled = small.line("onion").glance
    assert settled.now.high - settled.now.low < shaken.high - shaken.low
    assert settled.now.mid > shaken.mid
    assert settled.erh25 < 0.86  # it dries slowly in its tin
    gone = lot_page.lot_page(larder, small.lots["onion"]).where_it_went
    assert sum(s.points for s in gone) == pytest.approx(settled.start - settled.now.mid, abs=1e-6)


def test_nine_days_in_the_greenhouse_are_told_in_words(small):
    larder = small.larder
    hot = containers.add_node(
        larder, ActRef(), containers.NewNode("greenhouse", place_kind="greenhouse")
    ).node_id
    summer = larder.now_s() - 130 * DAY
    for day in range(9):
        at = readings.DialReading(41, 75, at_s=summer + day * DAY + 3600)
        readings.log_reading(larder, ActRef(), hot, at)
    lot_acts.move_lot(larder, ActRef(), small.lots["carrot"], hot, at_s=summer)
    lot_acts.move_lot(
        larder, ActRef(), small.lots["carrot"], small.nodes["porch"], at_s=summer + 9 * DAY
    )
    why = [w.text for w in lot_page.lot_page(larder, small.lots["carrot"]).why]
    assert any("were lost in the 9 days in greenhouse" in text for text in why), "\n".join(why)


def test_a_quiet_week_holds_for_one_cause_only(small):
    larder = small.larder
    small.read("porch", 36, 40, 1)
    (hot,) = [a for a in alarms_now.alarms(larder) if a.code == "too_hot"]
    jobs.set_job(larder, ActRef(), hot.key, "moved", moved_to_s=larder.now_s() + 7 * DAY)
    assert "too_hot" not in {a.code for a in alarms_now.alarms(larder)}
    small.read("porch", 37, 40)
    assert "too_hot" not in {a.code for a in alarms_now.alarms(larder)}  # the same heat goes on
    larder.clock.at_s += DAY
    small.read("porch", 9, 60)
    larder.clock.at_s += 2 * DAY
    small.read("porch", 39, 60)
    assert "too_hot" in {a.code for a in alarms_now.alarms(larder)}  # another cause


def test_a_bean_can_rests_and_may_be_opened(small):
    larder, tin = small.larder, small.nodes["tin"]
    for bad in ({"food_kg": 4.0, "shut_days": 3.0}, {"food_kg": -1.0}, {"colour": "red"}):
        with pytest.raises(InvalidValue):
            containers.node_event(larder, ActRef(), tin, "sealed", figures=bad)
    can = {"food_kg": 4.0, "shut_days": 60.0}
    containers.node_event(larder, ActRef(), tin, "sealed", figures=can)
    assert "can_due" not in {a.code for a in alarms_now.alarms(larder)}
    larder.clock.at_s += 61 * DAY
    assert "can_due" in {a.code for a in alarms_now.alarms(larder)}
    containers.node_event(larder, ActRef(), tin, "opened", at_s=larder.now_s() - 40 * DAY)
    (early,) = [a for a in alarms_now.alarms(larder) if a.code.startswith("can")]
    assert "21 days only" in early.evidence
