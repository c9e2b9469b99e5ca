"""Advice keeps its word: what was told stands until a fact, its own day, or New Year."""

import re
from datetime import UTC, date, datetime, timedelta

import pytest

from brisk_larder.core.base.units import DAY_S, day_start_s, local_day
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.growing.settling import settle
from brisk_larder.services.growing.sowings import count_sowing, growing_room, sow
from brisk_larder.services.household.kinds import figures
from brisk_larder.services.needs import basket_page, buying, chains, pull, targets
from brisk_larder.services.papers import settings_page
from brisk_larder.services.today import jobs, ribbon
from brisk_larder.services.today.calendar import calendar
from brisk_larder.services.trials import trial_acts as trials
from brisk_larder.services.trials.bench import bench
from tests.conftest import packet

TZ = "Europe/London"


def go(larder, day, hour=9):
    larder.clock.at_s = day_start_s(day, TZ) + hour * 3600


def listed(larder, *kinds):
    room = jobs.today_room(larder)
    return [p for p in (*room.jobs, *room.later) if not kinds or p.kind in kinds]


def of(larder, key):
    return next((p for p in listed(larder) if p.origin_key == key), None)


def want(larder, product, per_week=0.2, weeks=20, **more):
    made = targets.set_target(
        larder, ActRef(), product=product, per_week=per_week, weeks=weeks, **more
    )
    return f"food:{made.target_id}"


def line_of(larder, key):
    return next(x for x in chains.needs_room(larder).lines if x.key == key)


def bought(larder, kind, name, seeds, year=2026, **more):
    return add_seeds(larder, ActRef(), [packet(kind, name, year, str(seeds), **more)]).lot_ids[0]


@pytest.fixture
def tomatoes(small):
    """Tomatoes that are wanted, with seed in hand: their two weeks indoors are 20 March to 3 April."""
    bought(small.larder, "tomato", "Mill Vine", 200)
    small.key = want(small.larder, "tomato sauce, thin", 0.4, 20)
    return small


def test_a_sowing_is_there_on_every_day_of_its_weeks_its_end_is_told_and_then_its_word(tomatoes):
    larder, key = tomatoes.larder, tomatoes.key
    line = line_of(larder, key)
    first, until = (local_day(s, TZ) for s in (line.sow_from_s, line.sow_until_s))
    assert (until - first).days >= 11
    dues, day = set(), first - timedelta(days=15)
    while day <= until:
        go(larder, day)
        (job,) = [p for p in listed(larder, "sow") if p.origin_key.startswith(f"sow:{key}:")]
        dues.add((job.origin_key, job.due_s, job.until_s, job.seeds))
        ending = (until - day).days <= 2
        assert (job.urgent and "Last days" in job.why) or not ending
        assert line_of(larder, key).says == "covered"
        day += timedelta(days=1)
    assert len(dues) == 1  # said once: nothing of it slides
    for after in (1, 20):
        go(larder, until + timedelta(days=after))
        assert not [p for p in listed(larder, "sow") if key in p.origin_key]
        (missed,) = [p for p in listed(larder, "missed") if key in p.origin_key]
        line = line_of(larder, key)
        assert line.missed_s is not None
        assert (line.says, line.covered, line.order) == ("sowing is over", [], "")
        assert line.short_plants == line.plants
    assert line.next_act == "sow it late, by 18 May at most"
    for way in ("jars will be missing", "by 18 May", "buy plants", "another kind", "19 Mar 2028"):
        assert way in missed.why, missed.why
    # it is heard once, and never said again
    jobs.set_job(larder, ActRef(), missed.origin_key, "done")
    go(larder, until + timedelta(days=40))
    assert not listed(larder, "missed")
    # sown late all the same and written down, it is no longer missing
    tomato = next(x.lot_id for x in lot_lines(larder) if x.kind == "tomato")
    sow(larder, ActRef(), tomato, 150, "indoors")
    assert line_of(larder, key).says == "sown"


def test_seed_for_a_part_is_sown_beside_the_order_and_the_order_has_its_days(small):
    larder = small.larder
    lot = bought(larder, "pea", "Mill Pod", 60)
    key = want(larder, "peas, shelled, frozen", 0.4, 40)
    line = line_of(larder, key)
    first, until = (local_day(s, TZ) for s in (line.sow_from_s, line.sow_until_s))
    lead = timedelta(days=21)
    order_by = line.order_by_s
    assert local_day(order_by, TZ) == first - lead
    seen = {}
    for day in (
        first - lead - timedelta(days=9), first - lead + timedelta(days=1), first + timedelta(days=1),
        until - lead + timedelta(days=1), until - timedelta(days=1), until + timedelta(days=1),
    ):  # fmt: skip
        go(larder, day)
        line = line_of(larder, key)
        seen[line.order] = line.next_act
        assert line.order_by_s == (
            order_by if line.order else None
        )  # it never jumps to next year's
        mine = [p for p in listed(larder) if p.subject == key or f":{key}:" in p.origin_key]
        sown = [p for p in mine if p.kind == "sow"]
        kinds = {p.kind for p in mine}
        if first <= day <= until:
            assert [p.subject for p in sown] == [f"lot:{lot}"]
            assert "It is what there is" in sown[0].why
            assert sown[0].seeds == 60
        assert kinds - {"sow"} == {
            "in_time": {"order"}, "late": {"order"}, "too_late": {"less"}, "": {"missed"}
        }[line.order]  # fmt: skip
        gaps = [g.key for g in basket_page.basket_room(larder).gaps]
        assert (key in gaps) == (line.order in ("in_time", "late"))
    assert list(seen) == ["in_time", "late", "too_late", ""]
    assert "order or regrow" in seen["in_time"]
    assert "order at once" in seen["late"]
    assert seen["too_late"].startswith("too late to order for sowing by")
    assert "sow what is there, or eat about" in seen["too_late"]


def offered(larder, kind="pea", seeds=500, lead_days=7.0, **more):
    said = buying.OfferSaid("Fellside seed barn", kind, seeds, 3.0, lead_days=lead_days, **more)
    buying.say_offer(larder, ActRef(), said)
    return basket_page.basket_room(larder).offers[0].offer_id


def test_what_is_ordered_counts_is_asked_after_and_opens_the_gap_again_when_it_never_comes(small):
    larder = small.larder
    key = want(larder, "peas, shelled, frozen", 0.2, 20)
    offer = offered(larder)
    assert line_of(larder, key).short_plants
    (order,) = buying.order(larder, ActRef(), {offer: 1}).order_ids
    line = line_of(larder, key)
    assert (line.says, line.short_plants, line.order) == ("ordered", 0, "")
    (coming,) = line.covered
    assert (coming.lot_id, coming.code) == (-order, "ordered")
    assert 0 < coming.seeds <= 500
    assert local_day(coming.coming_s, TZ) == local_day(larder.now_s(), TZ) + timedelta(days=7)
    # nothing of it is proposed again, nothing is sown or fetched that is not there
    assert basket_page.basket_room(larder).gaps == []
    assert not [p for p in listed(larder) if key in p.origin_key]
    assert pull.pull_list(larder).stops == []
    assert ribbon.ribbon(larder).marks
    # late, it is asked after, from the day on which it was to come, which does not slide
    ordered_s = larder.now_s()
    for days in (9, 30):
        larder.clock.at_s = ordered_s + days * DAY_S
        (ask,) = listed(larder, "ask")
        assert (ask.origin_key, ask.due_s) == (f"late_order:{order}", ordered_s + 7 * DAY_S)
        assert "it is still reckoned with" in ask.why
        assert line_of(larder, key).says == "ordered"
    larder.clock.at_s = ordered_s + 36 * DAY_S  # told before: four weeks late it no longer counts
    assert "no longer reckoned with" in listed(larder, "ask")[0].why
    assert line_of(larder, key).short_plants
    larder.clock.at_s = ordered_s + 9 * DAY_S
    buying.never_came(larder, ActRef(), order)
    assert line_of(larder, key).short_plants
    assert not listed(larder, "ask")
    assert [g.key for g in basket_page.basket_room(larder).gaps] == [key]


def test_an_order_that_comes_too_late_for_its_sowing_covers_nothing(small):
    larder = small.larder
    key = want(larder, "peas, shelled, frozen", 0.2, 20)
    offer = offered(larder, lead_days=200.0)
    buying.order(larder, ActRef(), {offer: 1})
    line = line_of(larder, key)
    assert line.short_plants
    assert line.covered == []


def test_two_packets_of_one_food_are_sown_one_after_the_other_by_the_names_they_had(small):
    larder = small.larder
    lots = [bought(larder, "pea", f"Mill Pod {i}", 70) for i in range(2)]
    key = want(larder, "peas, shelled, frozen", 0.1, 20)
    go(larder, local_day(line_of(larder, key).sow_from_s, TZ))
    first, second = [p for p in listed(larder, "sow") if f":{key}:" in p.origin_key]
    assert {p.subject for p in (first, second)} == {f"lot:{i}" for i in lots}
    assert "beside it" in first.why
    # both from the page as it was loaded, one after the other; then one that is done once more
    jobs.set_job(larder, ActRef(), first.origin_key, "done")
    jobs.set_job(larder, ActRef(), second.origin_key, "done")
    assert (
        line_of(larder, key).says in ("sown", "sowing is over") or line_of(larder, key).sown_plants
    )
    left = {x.lot_id: x.seeds for x in lot_lines(larder) if x.lot_id in lots}
    assert sum(left.values()) == 140 - first.seeds - second.seeds


def test_a_count_that_was_moved_or_dropped_stays_so(small):
    larder = small.larder
    made = trials.start_trial(larder, ActRef(), small.lots["onion"], 20)
    started = local_day(larder.now_s(), TZ)
    go(larder, started + timedelta(days=8))
    (count,) = [p for p in listed(larder, "count") if p.subject == f"trial:{made.trial_id}"]
    until = larder.now_s() + 4 * DAY_S
    jobs.set_job(larder, ActRef(), count.origin_key, "moved", moved_to_s=until)
    for days in (9, 10, 11):
        go(larder, started + timedelta(days=days))
        (again,) = [p for p in listed(larder, "count") if p.subject == f"trial:{made.trial_id}"]
        assert (again.origin_key, again.state, again.due_s) == (count.origin_key, "moved", until)
    jobs.set_job(larder, ActRef(), count.origin_key, "dropped")
    go(larder, started + timedelta(days=15))
    assert not [p for p in listed(larder, "count") if p.subject == f"trial:{made.trial_id}"]
    # counted all the same, the next look is another job; after its last day it says how long ago
    trials.count_trial(larder, ActRef(), made.trial_id, trials.CountEntry(normal=4))
    go(larder, started + timedelta(days=25))
    (late,) = [p for p in listed(larder, "count") if p.subject == f"trial:{made.trial_id}"]
    assert late.origin_key != count.origin_key
    assert "after its last count was due" in late.why


def shown(larder):
    """All that is promised: evenings, sizes of tests, packets for foods, years, until when seed is good."""
    room = bench(larder)
    year = lambda s: None if s is None else datetime.fromtimestamp(s, UTC).year  # noqa: E731
    return {
        "evenings": {t.code: (e.day, t.spot) for e in room.plan.evenings for t in e.tests},
        "sizes": {w.line.code: (w.seeds, w.line.glance.advice.due_s) for w in room.wanted},
        "cover": {
            x.name: [(c.code, c.seeds) for c in x.covered] for x in chains.needs_room(larder).lines
        },
        "years": {r.variety: r.year for r in growing_room(larder).regrow},
        "verdicts": {x.code: (x.verdict.code, x.next_act) for x in lot_lines(larder)},
        "good": {x.code: year(x.glance.good_until_s) for x in lot_lines(larder)},
    }


@pytest.fixture
def pile(small):
    """Readings of a year, and packets of many ages that are wanted."""
    larder = small.larder
    for days in range(12, 380, 40):
        small.read("tin", 14.0 + days % 7, 55.0, days)
        small.read("porch", 12.0, 70.0, days + 3)
    for i, (kind, year, seeds) in enumerate((
        ("pea", 2021, 90), ("pea", 2024, 120), ("carrot", 2020, 500), ("beet", 2022, 150),
        ("lettuce", 2021, 400), ("cabbage", 2019, 90), ("leek", 2023, 200), ("parsnip", 2025, 150),
    )):  # fmt: skip
        bought(larder, kind, f"Mill {i}", seeds, year, node_id=small.nodes["porch"])
    for product in (
        "peas, shelled, frozen",
        "carrots, root cellar",
        "beets, root cellar",
        "kale, frozen",
    ):
        want(larder, product, 0.2, 20)
    return small


def test_over_quiet_days_nothing_changes_but_an_evening_that_is_past(pile):
    larder = pile.larder
    start = date(2026, 11, 25)
    go(larder, start)
    before = shown(larder)
    assert len(before["evenings"]) >= 4
    for days in (1, 2, 3, 9, 16, 24):
        day = start + timedelta(days=days)
        go(larder, day)
        now = shown(larder)
        for what in ("sizes", "cover", "years", "verdicts", "good"):
            assert now[what] == before[what], (day, what)
        for code, told in before["evenings"].items():
            if told[0] >= day.isoformat():
                assert now["evenings"][code] == told
        before = now


def test_a_test_moved_to_an_evening_by_hand_is_planned_for_it(pile):
    larder = pile.larder
    go(larder, date(2026, 11, 25))
    told = shown(larder)["evenings"]
    job = next(p for p in listed(larder, "test") if p.evening)
    code = job.short.split()[0]
    day = date.fromisoformat(told[code][0]) + timedelta(days=2)
    jobs.set_job(
        larder, ActRef(), job.origin_key, "moved", moved_to_s=day_start_s(day, TZ) + 43_200
    )
    for days in (0, 1):
        go(larder, date(2026, 11, 25) + timedelta(days=days))
        now = shown(larder)["evenings"]
        assert now.pop(code)[0] == day.isoformat()
        assert now == {
            k: v for k, v in told.items() if k != code
        }  # the others stay where they were


def test_what_is_tested_with_enough_seeds_is_not_asked_again_and_needs_agrees(pile):
    larder = pile.larder
    by_day = sorted(bench(larder).wanted, key=lambda w: (w.due_s, w.line.code))
    wanted = {w.line.code: w.line for w in by_day}
    assert wanted
    for line in chains.needs_room(larder).lines:
        first = [c.code for c in line.covered if c.in_hand and c.code in wanted]
        assert ("test first" in line.next_act) <= bool(first)
        assert line.tests_first <= bool(first)
    line = next(x for x in wanted.values() if (x.seeds or 0) >= 90)
    made = trials.start_trial(larder, ActRef(), line.lot_id, 20)
    larder.clock.at_s += 25 * DAY_S
    trials.count_trial(larder, ActRef(), made.trial_id, trials.CountEntry(normal=4), True)
    again = next(x for x in lot_lines(larder) if x.lot_id == line.lot_id)
    assert not again.verdict.test
    assert again.glance.advice.code == "certainly_poor"
    # what a test told before the damage is not enough after it
    larder.clock.at_s += 2 * DAY_S
    lot_acts.log_event(larder, ActRef(), line.lot_id, "insects", "")
    again = next(x for x in lot_lines(larder) if x.lot_id == line.lot_id)
    assert again.glance.advice.code != "known_enough"
    assert again.verdict.test


def test_late_in_the_year_its_list_stands_until_the_next_is_named(small):
    larder = small.larder
    bought(larder, "lettuce", "Mill Leaf", 3000)
    key = want(larder, "fresh lettuce", 0.6, 24)
    go(larder, date(2027, 6, 30))
    before = [(x.key, x.says) for x in chains.needs_room(larder).lines]
    assert not listed(larder, "name")
    go(larder, date(2027, 7, 1))
    assert [(x.key, x.says) for x in chains.needs_room(larder).lines] == before
    (name,) = listed(larder, "name")
    assert local_day(name.due_s, TZ) == date(2027, 9, 30)
    assert [f.name for f in targets.last_year(larder).foods] == ["fresh lettuce"]
    (food,) = targets.last_year(larder).foods
    targets.take_over(larder, ActRef(), [targets.TakenOver(food.target_id, 0.6)])
    now = chains.needs_room(larder)
    assert now.year == 2027
    assert [x.key for x in now.lines] != [key]
    assert not listed(larder, "name")
    # what is still to be sown of this year is not lost for it
    assert chains.season_room(larder).year == 2026
    assert [p for p in listed(larder, "sow") if f":{key}:" in p.origin_key]


def test_a_line_has_its_sowing_its_harvest_and_its_word_when_it_is_missed(small):
    larder = small.larder
    lot = bought(larder, "pea", "Mill Line", 400, 2015, kept_line=True, source="own")
    row = next(r for r in growing_room(larder).regrow if r.variety == "Mill Line")
    assert row.year == 2027
    (regrow,) = [p for p in listed(larder, "regrow") if "Mill Line" in p.title]
    opens = local_day(regrow.due_s, TZ)
    go(larder, opens - timedelta(days=3))
    jobs.today_room(larder)
    (job,) = [p for p in listed(larder, "sow") if p.subject == f"lot:{lot}"]
    assert job.origin_key.startswith("sow:line:")
    assert not [p for p in listed(larder, "regrow") if "Mill Line" in p.title]  # said once
    assert job.seeds <= 390  # a remnant stays
    missed_day = local_day(job.until_s, TZ) + timedelta(days=1)
    go(larder, missed_day)
    (missed,) = [p for p in listed(larder, "missed") if "Mill Line" in p.title]
    assert missed.title.endswith("in 2027: its sowing is over")
    assert "2028" in missed.why
    go(larder, missed_day + timedelta(days=50))
    assert [p.origin_key for p in listed(larder, "missed")] == [missed.origin_key]
    # had it been sown, its seed is asked for when it is ripe, and no longer once it is in
    go(larder, opens)
    jobs.set_job(larder, ActRef(), job.origin_key, "done")
    assert not [p for p in listed(larder) if "Mill Line" in p.title and p.kind != "seed"]
    for day in range(60, 200, 10):
        go(larder, opens + timedelta(days=day))
        if seed := listed(larder, "seed"):
            break
    assert "Mill Line" in seed[0].title
    year_of = {r.variety: r.cells[0] for r in growing_room(larder).rows}
    assert (year_of["Mill Line"].year, year_of["Mill Line"].act) == (2027, "sow")
    bought(larder, "pea", "Mill Line", 200, 2027, kept_line=True, source="own")
    assert not listed(larder, "seed")


def test_while_a_line_stands_in_the_ground_all_but_a_remnant_of_it_is_free(small):
    larder = small.larder
    lot = bought(larder, "pea", "Mill Line", 400, 2026, kept_line=True, source="own")
    key = want(larder, "peas, shelled, frozen", 3, 50)
    (line,) = [r for r in growing_room(larder).rows if r.variety == "Mill Line"]

    def given():
        return sum(c.seeds for c in line_of(larder, key).covered if c.lot_id == lot)

    go(larder, date(2027, 4, 10))
    kept = 400 - given()
    assert kept > 20  # its mothers come first
    settle(larder, ActRef(), line.variety_id, 2027, anyway=True)  # a sowing in it is for the line
    sow(larder, ActRef(), lot, 60)
    assert given() == 340 - figures().growing.remnant_seeds
    # of a sowing that failed nothing comes: its mothers are held back again
    (due,) = growing_room(larder).due
    count_sowing(larder, ActRef(), due.sowing_id, 0, settled=True)
    assert given() <= 340 - kept + 1


def test_a_house_that_writes_the_month_first_reads_it_so_everywhere(small):
    larder = small.larder
    settings_page.change_household(larder, ActRef(), {"locale": "en-US"})
    key = want(larder, "tomato sauce, thin", 0.4, 20)
    go(larder, date(2027, 3, 25))
    said = line_of(larder, key).next_act
    assert "Apr 2" in said
    go(larder, date(2027, 4, 20))
    (missed,) = listed(larder, "missed")
    told = " ".join([said, missed.why, *(p.title + p.why for p in listed(larder))])
    assert not re.search(r"\d (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\b", told)
    assert "Mar 20 to Apr 3" in missed.why


def test_every_room_answers_on_every_month_of_a_year_and_in_the_south(pile):
    larder = pile.larder
    for south in (False, True):
        if south:
            settings_page.settle(larder, ActRef(), "cool_upland", True)
        for month in range(1, 13, 2 if south else 1):
            go(larder, date(2027, month, 15))
            for room in (
                jobs.today_room, chains.needs_room, chains.season_room, basket_page.basket_room, growing_room,
                ribbon.ribbon, calendar, bench, jobs.counts,
            ):  # fmt: skip
                assert room(larder)
