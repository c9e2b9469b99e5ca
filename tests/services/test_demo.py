"""Pellwick Mill: what stands there, that it is current, made up, and the same every time."""

from datetime import UTC, date, datetime

import numpy as np
import pytest
from sqlmodel import func, select

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import day_start_s
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Act, Reading, Trial
from brisk_larder.demo import build, scene
from brisk_larder.demo.mill import Pellwick
from brisk_larder.reference import load_reference
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import chains
from brisk_larder.services.storage import shelves as storage_shelves
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import bench as trials_bench
from tests.conftest import DAY, NOW, opened_demo


@pytest.fixture(scope="module")
def mill(tmp_path_factory, demo_file):
    with opened_demo(demo_file, tmp_path_factory.mktemp("mill")) as larder:
        yield larder


def test_the_household_has_what_it_should(mill):
    lines = forecast_lines.lot_lines(mill)
    assert 85 <= len(lines) <= 105
    assert len({x.kind for x in lines}) >= 35
    shelves = storage_shelves.shelves(mill)
    assert len(shelves) == 7  # one of them the table on which the album lies today
    assert sum(len(s.boxes) for s in shelves) == 15
    room = chains.needs_room(mill)
    assert sum(x.kind == "food" for x in room.lines) == 22
    assert sum(x.kind == "pick" for x in room.lines) == 12
    with mill.store.read() as session:
        assert 50 <= session.exec(select(func.count()).select_from(Trial)).one() <= 65
        assert session.exec(select(func.count()).select_from(Reading)).one() > 30_000
        first, last = session.exec(select(func.min(Act.at_s), func.max(Act.at_s))).one()
    assert (last - first) / DAY > 1090
    assert NOW - last < DAY


def test_it_tells_the_story_it_should(mill):
    lines = {x.variety: x for x in forecast_lines.lot_lines(mill)}
    crate = [x for x in lines.values() if x.place == "Greenhouse · Crate"]
    assert any(e.points > 0.03 for x in crate for e in x.glance.episodes)  # forgotten in July
    assert lines["Lantern Frill"].glance.good_beyond  # dry in the freezer
    assert lines["Brackenbulb"].glance.now.mid < 0.6  # onions in the loft
    assert lines["Bank Mallow"].grade == "guess"
    assert {
        s.place.name for s in storage_shelves.shelves(mill) if any(b.hurting for b in s.boxes)
    } == {"Greenhouse"}
    bench = trials_bench.bench(mill)
    assert len(bench.running) == 4
    assert 5 <= len(bench.wanted) <= 25
    today = jobs.today_room(mill)
    assert today.jobs
    assert today.due
    assert len(sowings.growing_room(mill).regrow) >= 5
    assert any(x.short_plants for x in chains.needs_room(mill).lines)
    assert any(not x.short_plants for x in chains.needs_room(mill).lines)


def test_every_number_shown_is_possible(mill):
    for line in forecast_lines.lot_lines(mill):
        g = line.glance
        assert 0 <= g.now.low <= g.now.mid <= g.now.high <= 1
        assert g.a_probit >= 0
        assert g.strip.mid == sorted(g.strip.mid, reverse=True)
        assert all(
            a <= b <= c for a, b, c in zip(g.strip.low, g.strip.mid, g.strip.high, strict=True)
        )
        assert line.seeds is None or line.seeds >= 0
        assert g.advice.why
        assert line.next_act
    for x in chains.needs_room(mill).lines:
        assert x.why
        if x.chain and x.chain.plants:
            assert x.chain.plants.low <= x.chain.plants.mid <= x.chain.plants.high
        assert sum(c.seeds for c in x.covered) >= 0


def test_no_lot_is_promised_twice(mill):
    lines = {x.lot_id: x for x in forecast_lines.lot_lines(mill)}
    given: dict[int, int] = {}
    for x in chains.needs_room(mill).lines:
        for c in x.covered:
            given[c.lot_id] = given.get(c.lot_id, 0) + c.seeds
    assert given
    assert all(n <= round(lines[lot].seeds) for lot, n in given.items())


def test_it_is_the_same_every_time_and_moves_with_the_day(mill, tmp_path):
    build(tmp_path / "again.sqlite3", NOW)
    again = Larder(Store(tmp_path / "again.sqlite3"), MovedClock(NOW + 3600))
    assert [x.glance.now for x in forecast_lines.lot_lines(again)] == [
        x.glance.now for x in forecast_lines.lot_lines(mill)
    ]
    again.store.close()


def test_every_kind_and_place_of_the_scene_is_in_the_tables():
    ref = load_reference()
    assert {k.kind for k in scene.LOTS} <= set(ref.crops)
    assert {c.kind for c in scene.CONTAINERS} <= set(ref.storage)
    assert {kind for _, kind in scene.PLACES} <= set(ref.places)
    assert {f[0] for f in scene.FOODS} <= set(ref.products)
    names = [k.variety for k in scene.LOTS]
    assert len(names) == len(set(names))
    assert {p[0] for p in scene.PICKS} <= set(names)
    assert {c.place for c in scene.CONTAINERS} == {name for name, _ in scene.PLACES}


TODAY = datetime.now(UTC).date()


def test_it_is_made_on_any_day_of_the_year(tmp_path):
    """A first or a fifteenth, another from day to day; all of them in benchmarks/demo_days.py."""
    days = [date(2027, month, day) for month in range(1, 13) for day in (1, 15)]
    day = days[TODAY.toordinal() * 5 % len(days)]
    now_s = day_start_s(day, "Europe/London") + 8 * 3600
    assert build(tmp_path / "demo.sqlite3", now_s) == [], day
    larder = Larder(Store(tmp_path / "demo.sqlite3"), MovedClock(now_s + 3600))
    room = chains.needs_room(larder)
    today = jobs.today_room(larder)
    assert sum(x.kind == "food" for x in room.lines) == 22
    assert sowings.growing_room(larder).rows
    assert 4 <= len(today.rows) <= 40
    # by summer what is eaten is sown, not forgotten
    sown = sum(bool(x.sown_plants) for x in room.lines)
    assert sown >= (12 if 6 <= day.month <= 9 else 0)
    larder.store.close()


def test_what_cannot_be_had_is_left_out_and_named(larder):
    def refuse():
        raise InvalidValue("jars", 3, "fewer")

    replay = Pellwick(larder, larder.clock, NOW, np.random.default_rng(1))
    replay.tried("The plans", refuse)
    replay.tried("The foods", lambda: None)
    assert replay.left_out == ["The plans: jars: 3 is not possible; fewer."]
    with pytest.raises(ZeroDivisionError):  # a fault of the program is none of the day
        replay.tried("The foods", lambda: 1 / 0)
