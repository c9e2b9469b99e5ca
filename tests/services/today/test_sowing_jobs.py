"""Sowings as jobs: when, moved off frost that is forecast, done once and not asked for again."""

import json
from datetime import date, timedelta

import pytest

from brisk_larder.core.base.errors import BadFile, InvalidValue, NotFound
from brisk_larder.core.base.units import day_start_s, local_day
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.growing import calendar_page, own_days
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.papers import settings_page
from brisk_larder.services.today import jobs, nights_ahead
from brisk_larder.standins.weather import forecast_json
from tests.conftest import packet


def at(larder, day):
    larder.clock.at_s = day_start_s(day, "Europe/London") + 8 * 3600


def sowings_of(larder):
    room = jobs.today_room(larder)
    return [
        p for p in (*room.jobs, *room.later) if p.kind == "sow" and ":line:" not in p.origin_key
    ]


def forecast(day, lows):
    nights = [
        {"day": (day + timedelta(days=i + 1)).isoformat(), "low_c": low, "sd_c": 1.0}
        for i, low in enumerate(lows)
    ]
    return json.dumps({"made": f"{day}T06:00:00+00:00", "nights": nights}).encode()


@pytest.fixture
def kale(small):
    """Kale that is wanted and covered, on a day within its days outdoors."""
    larder = small.larder
    fresh = packet("kale", "Mill Frill", 2026, "900")
    small.lots["new"] = add_seeds(larder, ActRef(), [fresh]).lot_ids[0]
    targets.set_target(larder, ActRef(), product="kale, frozen", per_week=0.2, weeks=20)
    line = chains.needs_room(larder).lines[0]
    assert [c.lot_id for c in line.covered] == [small.lots["new"]]
    own_days.set_days(larder, ActRef(), "kale", "indoors", "03-20", "04-05")
    own_days.set_days(larder, ActRef(), "kale", "outdoors", "04-20", "06-10")
    at(larder, date(2027, 4, 21))
    return small


def test_a_sowing_is_a_job_moved_off_frost_and_done_it_is_sown(kale):
    larder = kale.larder
    (job,) = sowings_of(larder)
    # from the day it opens to the day it ends, which stays the same tomorrow
    assert local_day(job.due_s, "Europe/London") == date(2027, 4, 20)
    assert local_day(job.until_s, "Europe/London") == date(2027, 6, 5)
    assert not job.urgent
    assert "outdoors" in job.title
    assert not job.held_up
    nights_ahead.bring_forecast(larder, ActRef(), forecast(date(2027, 4, 21), [3, -7, -8, 2, 5, 6]))
    (moved,) = sowings_of(larder)
    assert local_day(moved.due_s, "Europe/London") == date(2027, 4, 25)
    assert moved.why.startswith("Not before 25 Apr")
    # a newer forecast is milder; an older one that comes late changes nothing
    nights_ahead.bring_forecast(larder, ActRef(), forecast(date(2027, 4, 22), [4, 4, 4, 4, 5]))
    nights_ahead.bring_forecast(larder, ActRef(), forecast(date(2027, 4, 20), [-9] * 7))
    assert not [p for p in sowings_of(larder) if p.held_up]
    before = kale.line("new").seeds
    need = chains.needs_room(larder).lines[0]
    jobs.set_job(larder, ActRef(), moved.origin_key, "done")
    assert kale.line("new").seeds == before - job.seeds
    after = chains.needs_room(larder).lines[0]
    assert after.says == "sown"
    assert after.sown_plants >= need.plants
    assert (after.covered, after.short_plants) == ([], 0)
    assert sowings_of(larder) == []


def test_a_forecast_is_read_whole_or_not_at_all(small):
    good = json.loads(forecast_json(date(2027, 4, 20), date(2027, 5, 9), 2))
    assert len(good["nights"]) == 10
    assert forecast_json(date(2027, 4, 20), date(2027, 5, 9), 2) == json.dumps(good, indent=1)
    nights_ahead.bring_forecast(small.larder, ActRef(), json.dumps(good).encode())
    at(small.larder, date(2027, 4, 20))
    assert len(calendar_page.calendar_page(small.larder).nights) == 10
    broken = {**good, "nights": [*good["nights"][:2], {"day": "soon", "low_c": 2}]}
    with pytest.raises(BadFile) as failed:
        nights_ahead.bring_forecast(small.larder, ActRef(), json.dumps(broken).encode())
    assert failed.value.problems[0]["line"] == 3
    with pytest.raises(BadFile, match="no forecast"):
        nights_ahead.bring_forecast(small.larder, ActRef(), b"[]")


def test_own_days_stand_instead_of_the_books_and_can_be_taken_back(small):
    larder = small.larder
    targets.set_target(larder, ActRef(), product="kale, frozen", per_week=0.2, weeks=20)

    def spans():
        line = next(k for k in calendar_page.calendar_page(larder).kinds if k.kind == "kale")
        return {s.what: s for s in line.spans}

    book = spans()["outdoors"]
    assert not book.own
    own_days.set_days(larder, ActRef(), "kale", "outdoors", "07-01", "07-20", "after the peas")
    mine = spans()
    assert (mine["outdoors"].first, mine["outdoors"].last) == ("2027-07-01", "2027-07-20")
    assert mine["outdoors"].own
    assert not mine["indoors"].own
    own_days.back_to_the_book(larder, ActRef(), "kale", "outdoors")
    assert spans()["outdoors"] == book
    with pytest.raises(NotFound):
        own_days.back_to_the_book(larder, ActRef(), "kale", "outdoors")
    with pytest.raises(InvalidValue, match="05-20"):
        own_days.set_days(larder, ActRef(), "kale", "outdoors", "31-12", "07-20")


def test_in_the_south_the_year_begins_in_july_and_its_harvest_is_not_cut(small):
    larder = small.larder
    targets.set_target(larder, ActRef(), product="kale, frozen", per_week=0.2, weeks=20)
    settings_page.change_household(
        larder, ActRef(), {"hemisphere": "south", "last_frost_day": 280, "first_frost_day": 130}
    )
    page = calendar_page.calendar_page(larder)
    assert page.begins == "2026-07-01"
    assert page.last_frost < page.first_frost
    assert page.first_frost.startswith("2027-05")
    for line in page.kinds:
        for s in line.spans:
            assert s.first <= s.last
        harvest = [s for s in line.spans if s.what == "harvest"]
        out = [s for s in line.spans if s.what == "outdoors"]
        if harvest and out:
            assert harvest[0].first > out[0].first


def test_a_fresh_food_is_sown_one_time_after_the_other(small):
    larder = small.larder
    fresh = packet("lettuce", "Mill Leaf", 2026, "3000")
    lot = add_seeds(larder, ActRef(), [fresh]).lot_ids[0]
    targets.set_target(larder, ActRef(), product="fresh lettuce", per_week=0.6, weeks=12)
    at(larder, date(2027, 5, 1))
    line = chains.needs_room(larder).lines[0]
    assert (line.rounds, line.round_days) == (4, 21)
    assert [c.lot_id for c in line.covered] == [lot]
    sown_seeds = []
    for n in range(4):
        (job,) = sowings_of(larder)
        assert job.title.endswith(f"sowing {n + 1} of 4")
        day = max(local_day(job.due_s, "Europe/London"), date(2027, 5, 1))
        assert day == date(2027, 5, 1) + timedelta(days=21 * n)
        sown_seeds.append(job.seeds)
        at(larder, day)
        jobs.set_job(larder, ActRef(), job.origin_key, "done")
    assert sowings_of(larder) == []
    # four about equal parts of what one sowing of all would take
    assert sum(sown_seeds) == pytest.approx(line.covered[0].seeds, rel=0.25)
    # what more is expected of the first than is wanted the last need not give
    assert sown_seeds == sorted(sown_seeds, reverse=True)
    # late in its year, and no food of the next is named: this year's list still stands
    assert [x.key for x in chains.needs_room(larder).lines] == [line.key]
    after = chains.season_room(larder).lines[0]
    assert (after.says, after.covered) == ("sown", [])
