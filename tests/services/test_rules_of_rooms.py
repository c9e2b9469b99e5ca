"""Rules that stand in the rooms, one by one, each on the least household that shows it."""

from datetime import date

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import YEAR_S, day_start_s
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit, edit_lot
from brisk_larder.services.air.look import looking_at
from brisk_larder.services.forecast.line_sowings import lines_sown, years_grown
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.forecast.trial_advice import cold_days
from brisk_larder.services.growing import own_days, settling
from brisk_larder.services.growing.sowings import count_sowing, growing_room, sow
from brisk_larder.services.needs import chain_acts, chains, pantry_page, targets
from brisk_larder.services.papers import giving, parcels, settings_page
from brisk_larder.services.saving.saving_page import saving_room
from brisk_larder.services.stock import lot_page
from brisk_larder.services.today import jobs, nights_ahead
from brisk_larder.services.trials import spots, trial_acts
from brisk_larder.services.trials.bench import bench
from tests.conftest import packet


def on(larder, day):
    larder.clock.at_s = day_start_s(day, "Europe/London") + 9 * 3600


def line(larder, variety):
    return next(x for x in lot_lines(larder) if x.variety == variety)


def test_a_sowing_of_which_nothing_came_up_has_not_grown_the_line(small):
    larder = small.larder
    variety = next(r.variety_id for r in growing_room(larder).rows if r.variety == "Slate Curl")
    settling.settle(larder, ActRef(), variety, 2027, apart=True, anyway=True)
    on(larder, date(2027, 5, 10))
    made = sow(larder, ActRef(), small.lots["kale"], 40)

    def grown():
        with looking_at(larder) as v:
            found = lines_sown(v.session, v.home)
        return [s.failed for s in found], years_grown(found)

    assert grown() == ([False], {variety: frozenset({2027})})
    on(larder, date(2027, 6, 20))
    count_sowing(larder, ActRef(), made.sowing_id, 0)
    assert grown()[0] == [False]  # none yet: it is still watched
    count_sowing(larder, ActRef(), made.sowing_id, 0, settled=True)
    assert grown() == ([True], {})
    again = sow(larder, ActRef(), small.lots["kale"], 40)
    on(larder, date(2027, 7, 10))
    count_sowing(larder, ActRef(), again.sowing_id, 1, settled=True)
    assert grown() == ([True, False], {variety: frozenset({2027})})


def test_guests_eat_at_the_table_and_not_from_the_trough(small):
    larder = small.larder
    for eaten_by in ("table", "animals"):
        targets.set_target(
            larder, ActRef(), product="kale, frozen", name=eaten_by, per_week=1, weeks=20,
            eaten_by=eaten_by,
        )  # fmt: skip

    def wanted():
        return {x.name: x.chain.wanted.mid for x in chains.needs_room(larder).lines}

    before = wanted()
    settings_page.change_household(larder, ActRef(), {"people": 2, "guest_weeks": 26.0})
    assert wanted()["animals"] == before["animals"]
    assert wanted()["table"] == pytest.approx(1.25 * before["table"])


def test_jars_are_past_their_time_by_the_months_of_the_book(small):
    larder = small.larder
    chain_acts.book_pantry(larder, ActRef(), "frozen peas", "put_up", 12)

    def past():
        (shelf,) = pantry_page.pantry_room(larder).lines
        return shelf.past

    larder.clock.at_s += 10 * 86_400
    assert not past()
    larder.clock.at_s += 2 * int(YEAR_S)
    assert past()
    chain_acts.book_pantry(larder, ActRef(), "frozen peas", "opened", 12)
    assert not past()  # nothing is left that could be


def test_the_next_of_several_sowings_is_no_job_where_it_would_not_ripen(small):
    larder = small.larder
    add_seeds(larder, ActRef(), [packet("lettuce", "Mill Leaf", 2026, "3000")])
    targets.set_target(larder, ActRef(), product="fresh lettuce", per_week=0.6, weeks=12)
    own_days.set_days(larder, ActRef(), "lettuce", "outdoors", "04-20", "10-20")
    on(larder, date(2027, 8, 1))

    def sowings():
        room = jobs.today_room(larder)
        return [p for p in [*room.jobs, *room.later] if p.kind == "sow"]

    (first,) = sowings()
    assert first.title.endswith("sowing 1 of 4")
    jobs.set_job(larder, ActRef(), first.origin_key, "done")
    assert (
        sowings() == []
    )  # its days for sowing go on to October, the frost comes before it is ripe


def test_what_is_promised_is_not_to_spare(small):
    larder = small.larder
    (lot,) = add_seeds(larder, ActRef(), [packet("tomato", "Wheelwright", 2026, "3000")]).lot_ids
    before = line(larder, "Wheelwright").spare
    parcels.promise(larder, ActRef(), "Morwen", {lot: "1000"})
    assert line(larder, "Wheelwright").spare == pytest.approx(before - 1000, abs=2)
    targets.set_target(larder, ActRef(), product="tomato sauce, thin", per_week=1, weeks=20)
    (covered,) = chains.needs_room(larder).lines[0].covered
    with pytest.raises(InvalidValue, match="2900 beside 1000 promised"):
        parcels.promise(larder, ActRef(), "Tam", {lot: "2900"})
    parcels.promise(larder, ActRef(), "Tam", {lot: "1995"})
    assert lot_page.lot_page(larder, lot).balance.promised == 2995
    (left,) = chains.needs_room(larder).lines[0].covered
    assert left.seeds <= 5 < covered.seeds  # nor does it cover a need


def test_a_line_that_is_not_safe_through_the_years_looked_at_gives_nothing_away(small):
    larder = small.larder
    for days in range(1, 1200, 30):
        small.read("tin", 10.0, 38.0, days)
    new = packet(
        "kale", "Ash Frill", 2023, "1000", source="own", kept_line=True, node_id=small.nodes["tin"]
    )
    add_seeds(larder, ActRef(), [new])
    settings_page.change_household(larder, ActRef(), {"line_confidence": 0.9})
    safe = line(larder, "Ash Frill")
    assert safe.spare > 0
    settings_page.change_household(larder, ActRef(), {"line_confidence": 0.99})
    unsafe = line(larder, "Ash Frill")
    assert (unsafe.verdict.code, unsafe.verdict.may_sow) == (safe.verdict.code, True)
    assert unsafe.spare == 0


def test_a_packet_that_could_not_be_found_is_worth_nothing(small):
    larder = small.larder
    before = giving.giving_room(larder).worth.total
    edit_lot(larder, ActRef(), small.lots["onion"], LotEdit(state="missing"))
    without = giving.giving_room(larder).worth.total
    assert without < before
    edit_lot(larder, ActRef(), small.lots["onion"], LotEdit(state="gone"))
    assert giving.giving_room(larder).worth.total == pytest.approx(without)


def test_only_what_crosses_has_partners_and_neighbours(small):
    larder = small.larder
    kept = {"source": "own", "kept_line": True}
    add_seeds(
        larder, ActRef(),
        [packet("pea", "Millrace", 2025, "200", **kept), packet("pea", "Weirside", 2025, "200", **kept),
         packet("kale", "Ash Frill", 2025, "200", **kept)],
    )  # fmt: skip
    partners = {x.variety: x.crosses_with for x in saving_room(larder)}
    assert partners["Millrace"] == partners["Weirside"] == []
    assert partners["Slate Curl"] == ["Ash Frill kale"]
    said = ", ".join(settling.group_names().values()).split(", ")
    assert "kale" in said
    assert "pea" not in said


def test_days_in_the_cold_count_in_a_test_and_its_plan(small):
    larder = small.larder
    with looking_at(larder) as v:
        cold = {k: (cold_days(x, 30.0), cold_days(x, 3000.0)) for k, x in v.kinds.by_key.items()}
    assert cold["kale"] == (0.0, 0.0)
    fresh_only = {k for k, (fresh, old) in cold.items() if fresh > 0 and old == 0}
    always = {k for k, (fresh, old) in cold.items() if old > 0}
    assert "lettuce" in fresh_only
    assert always
    made = trial_acts.start_trial(larder, ActRef(), small.lots["onion"], 10, cold_days=14.0)
    running = next(t for t in bench(larder).running if t.trial_id == made.trial_id)
    warm = trial_acts.start_trial(larder, ActRef(), small.lots["carrot"], 10)
    other = next(t for t in bench(larder).running if t.trial_id == warm.trial_id)
    assert (running.cold_until_s, other.cold_until_s) == (larder.now_s() + 14 * 86_400, None)


def test_a_night_whose_doubt_is_not_said_has_the_usual_one(small):
    larder = small.larder
    told = b'{"made": "2026-11-24T06:00:00+00:00", "nights": [{"day": "2026-11-25", "low_c": 1}]}'
    nights_ahead.bring_forecast(larder, ActRef(), told)
    with looking_at(larder) as v:
        run = v.session.connection().exec_driver_sql
        assert run("SELECT low_c, low_sd_c FROM forecast_night").all() == [(1.0, 2.0)]


@pytest.mark.parametrize("cold", [0.0, 40.0])
def test_a_test_that_lies_in_the_cold_keeps_its_layer_for_those_days_too(small, cold):
    larder = small.larder
    spots.set_spots(larder, ActRef(), [spots.SpotSaid("sill", 18.0, boxes=1, layers=1)])
    made = trial_acts.start_trial(larder, ActRef(), small.lots["onion"], 10, cold_days=cold)
    room = bench(larder)
    running = next(t for t in room.running if t.trial_id == made.trial_id)
    (evening,) = [
        e for e in room.plan.evenings if any(t.lot_id == small.lots["carrot"] for t in e.tests)
    ]
    # the one layer of the house is free when the running test ends, and not before
    assert evening.day_s >= larder.now_s() + (cold + running.days) * 86_400 - 2 * 86_400
    assert evening.day_s <= larder.now_s() + (cold + running.days) * 86_400 + 16 * 86_400


def test_what_is_late_is_said_of_seed_as_of_seed_and_of_tubers_as_of_tubers(small):
    larder = small.larder
    (tubers,) = add_seeds(
        larder, ActRef(), [packet("potato", "Mill Floury", 2026, "20", form="tuber")]
    ).lot_ids
    for lot in (tubers, small.lots["carrot"]):
        sow(larder, ActRef(), lot, 10)

    def said():
        return {d.lot_id: d.says for d in growing_room(larder).due}

    assert all(words.startswith("expected from") for words in said().values())
    larder.clock.at_s += 200 * 86_400
    late = said()
    assert "dig one up" in late[tubers]
    assert "look at the seed" in late[small.lots["carrot"]]


def test_a_test_that_was_put_off_is_not_planned_before_its_day(small):
    larder = small.larder

    def evening():
        plan = bench(larder).plan
        lots = {t.lot_id: e.day_s for e in plan.evenings for t in e.tests}
        return lots[small.lots["carrot"]]

    room = jobs.today_room(larder)
    job = next(
        p
        for p in [*room.jobs, *room.later]
        if p.kind == "test" and p.subject == f"lot:{small.lots['carrot']}"
    )
    to = int(evening()) + 30 * 86_400
    jobs.set_job(larder, ActRef(), job.origin_key, "moved", moved_to_s=to)
    assert evening() >= to - 86_400
