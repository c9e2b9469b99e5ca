"""Storage: shelves, readings by eye, files, containers; what a place says of itself."""

import numpy as np
import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import NodeEvent, Reading, ReadingPast
from brisk_larder.formats.readings_csv import read_columns
from brisk_larder.formats.readings_layout import look, with_answers
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.air.air import Air, place_curve
from brisk_larder.services.forecast import lines
from brisk_larder.services.household import home
from brisk_larder.services.household.wording import dryness
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.storage import containers, readings, shelves
from brisk_larder.services.storage.containers import NewNode
from brisk_larder.services.storage.shelves import speed_words
from brisk_larder.standins.logger import Spell, logger_csv, simulate
from tests.conftest import DAY, NOW, packet


def box(larder, name):
    return next(b for s in shelves.shelves(larder) for b in [s.place, *s.boxes] if b.name == name)


def test_a_shelf_shows_its_latest_dial_dryness_and_speed(small):
    before = box(small.larder, "tin")
    assert (before.dial_at_s, before.source, before.lots) == (None, "usual", 2)
    small.read("tin", 14.5, 55)
    now = box(small.larder, "tin")
    assert (now.dial_temperature_c, now.dial_erh) == (14.5, 0.55)
    assert now.source == "bridged"
    assert now.now_temperature_c == pytest.approx(14.5, abs=0.5)
    assert now.path == "larder · tin"
    assert now.airtight == "partly"


def test_the_worst_place_comes_first_and_is_called_so(small):
    larder = small.larder
    for days in range(0, 330, 10):
        small.read("porch", 28, 72, days)
    first = shelves.shelves(larder)[0].place
    assert first.name == "porch"
    assert first.hurting
    assert first.speed > 4
    assert "costs as much as" in first.says
    assert not box(larder, "tin").hurting


def test_a_single_hot_day_is_said_today(small):
    small.read("tin", 36, 82, 10)
    small.read("tin", 36, 82)
    tin = box(small.larder, "tin")
    assert tin.hurting
    assert tin.says.startswith("today a day here costs as much as")


@pytest.mark.parametrize(
    ("speed", "says"),
    [(4.0, "as much as 4.0"), (1.0, "about what it does"), (0.25, "4.0 years here")],
)
def test_speed_in_words(speed, says):
    assert says in speed_words(speed)


@pytest.mark.parametrize(
    ("erh", "word"),
    [(0.2, "crisp"), (0.25, "dry"), (0.39, "dry"), (0.5, "middling"), (0.7, "damp"), (0.9, "wet")],
)
def test_dryness_words_follow_the_table(erh, word):
    assert dryness(erh) == word


def test_two_readings_in_one_second_are_both_kept_and_a_dated_one_is_not_doubled(small):
    small.read("tin", 12, 50)
    dial = readings.DialReading(12, 51)
    readings.log_reading(small.larder, ActRef(), small.nodes["tin"], dial)
    readings.log_reading(small.larder, ActRef(), small.nodes["tin"], dial)
    with small.larder.store.read() as session:
        assert len(session.exec(select(Reading)).all()) == 3
    with pytest.raises(Conflict, match="already has a reading"):
        small.read("tin", 13, 50)


@pytest.mark.parametrize(
    ("place", "temperature", "fits"),
    [
        ("freezer_deep", -18, True), ("freezer_deep", 35, "chest freezer"), ("larder", -18, "larder"),
        ("heated_room", 22, True), ("heated_room", -30, "kitchen"), ("greenhouse", 58, True),
        ("outdoors", -35, True), ("outdoors", 70, "outdoors"), ("fridge", 40, "fridge"), ("attic", 48, True),
    ],
)  # fmt: skip
def test_what_a_place_cannot_have_is_a_slip_of_the_pen(larder, place, temperature, fits):
    new = NewNode("p", place_kind=place)
    node = containers.add_node(larder, ActRef(), new).node_id
    dial = readings.DialReading(temperature=temperature)
    if fits is True:
        readings.log_reading(larder, ActRef(), node, dial)
    else:
        with pytest.raises(InvalidValue, match=fits):
            readings.log_reading(larder, ActRef(), node, dial)


def test_min_and_max_count_as_a_swing_and_shorten_life(small):
    at = NOW - 2 * DAY
    for extra in (0, 1):
        small.read("porch", 20, 60, 3 - extra)
    steady = small.line("carrot").glance.a_probit
    history.undo(small.larder, ActRef(), history.recent(small.larder, 1)[0].act_id)
    dial = readings.DialReading(20, 60, t_min=5, t_max=38, at_s=at)
    readings.log_reading(small.larder, ActRef(), small.nodes["porch"], dial)
    assert small.line("carrot").glance.a_probit > steady


def test_voiding_keeps_the_reading_among_the_past_ones_and_can_be_taken_back(small):
    made = small.read("tin", 30, 80, 20)
    hot = small.line("onion").glance.now
    readings.void_reading(small.larder, ActRef(), made.series_id, made.at_s, "misread")
    assert small.line("onion").glance.now.mid > hot.mid
    with small.larder.store.read() as session:
        assert session.exec(select(ReadingPast)).one().why == "misread"
    history.undo(small.larder, ActRef(), history.recent(small.larder, 1)[0].act_id)
    assert small.line("onion").glance.now == hot
    with pytest.raises(Conflict, match="not there any more"):
        readings.void_reading(small.larder, ActRef(), made.series_id, made.at_s + 5)


def test_events_of_a_container_are_kept(small):
    for kind in ("opened", "gone_through"):
        containers.node_event(small.larder, ActRef(), small.nodes["tin"], kind)
    with pytest.raises(InvalidValue, match="event"):
        containers.node_event(small.larder, ActRef(), small.nodes["tin"], "polished")
    with small.larder.store.read() as session:
        assert [e.kind for e in session.exec(select(NodeEvent))] == ["opened", "gone_through"]


def test_renaming_and_removing(small):
    larder = small.larder
    tin = box(larder, "tin")
    containers.edit_node(larder, ActRef(), tin.node_id, tin.version, name="Tin 1")
    with pytest.raises(Conflict, match="changed meanwhile"):
        containers.edit_node(larder, ActRef(), tin.node_id, tin.version, name="Tin 2")
    empty = containers.add_node(
        larder,
        ActRef(),
        NewNode("crate", container_kind="wooden_box", parent_id=small.nodes["porch"]),
    ).node_id
    containers.remove_node(larder, ActRef(), empty)
    assert "crate" not in {b.name for s in shelves.shelves(larder) for b in s.boxes}
    with pytest.raises(NotFound):
        lot_acts.move_lot(larder, ActRef(), small.lots["kale"], empty)
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert "crate" in {b.name for s in shelves.shelves(larder) for b in s.boxes}


def test_undo_never_leaves_a_lot_in_a_container_that_is_gone(small):
    larder = small.larder
    made = containers.add_node(
        larder,
        ActRef(),
        NewNode("jar", container_kind="glass_jar_gasket", parent_id=small.nodes["larder"]),
    ).node_id
    added = history.recent(larder, 1)[0].act_id
    lot_acts.move_lot(larder, ActRef(), small.lots["kale"], made)
    with pytest.raises(Conflict, match="stands in it"):
        history.undo(larder, ActRef(), added)
    assert small.line("kale").place == "larder · jar"


def test_a_container_keeps_the_damp_out_for_as_long_as_its_wall_says(small):
    larder = small.larder
    jar = containers.add_node(
        larder,
        ActRef(),
        NewNode("jar", container_kind="glass_jar_gasket", parent_id=small.nodes["porch"]),
    ).node_id
    for days in range(0, 400, 20):
        small.read("porch", 18, 85, days)
    with larder.store.read() as session:
        from brisk_larder.services.household.larder import household

        world = Air(session, household(session), larder.now_s())
        outside, inside = world.past(small.nodes["porch"]), world.past(jar)
    assert outside.erh25[-1] > 0.8
    assert inside.erh25[-1] < outside.erh25[-1] - 0.1
    assert inside.temperature_c[-1] == outside.temperature_c[-1]


def test_the_curve_turns_with_the_hemisphere_and_shifts_with_the_outdoor_mean(larder):
    with larder.store.read() as session:
        from brisk_larder.services.household.larder import household

        north = place_curve("cellar", household(session))
    settings_page.settle(larder, ActRef(), "cool_upland", southern=True)
    with larder.store.read() as session:
        south = place_curve("cellar", household(session))
    july = np.array([1_783_000_000.0])
    assert north.temperature_c(july)[0] > south.temperature_c(july)[0]
    assert south.mean_c < north.mean_c  # cool hills
    assert home.describe(larder).household.year_starts_month == 4


@pytest.fixture
def parsed_file(tmp_path):
    def parse(data, tz="UTC"):
        path = tmp_path / "x.csv"
        path.write_bytes(data)
        seen = look(path, "x.csv", tz)
        return read_columns(path, "x.csv", with_answers(seen.layout, {}), seen.header)

    return parse


def test_the_simulated_logger_writes_what_the_reader_reads(larder, parsed_file):
    with larder.store.read() as session:
        from brisk_larder.services.household.larder import household

        curve = place_curve("porch", household(session))
    spell = Spell(NOW - 20 * DAY, NOW - 15 * DAY, 15.0, 0.2)
    at, t, h = simulate(curve, NOW - 60 * DAY, NOW, 3600, 5, (spell,))
    again = simulate(curve, NOW - 60 * DAY, NOW, 3600, 5, (spell,))
    assert all(np.array_equal(x, y) for x, y in zip((at, t, h), again, strict=True))
    parsed = parsed_file(logger_csv("mill-b", at, t, h).encode())
    assert parsed.at_s.tolist() == at.tolist()
    assert parsed.temperature_c.tolist() == pytest.approx(t.tolist(), abs=0.051)
    inside = (at >= spell.start_s) & (at < spell.end_s)
    assert t[inside].mean() > t[~inside].mean() + 8


@pytest.mark.parametrize(
    ("cell", "epoch"),
    [
        ("2026-03-01 14:00", 1_772_373_600), ("2026-03-01T14:00:00Z", 1_772_373_600),
        ("2026-03-01T15:00+01:00", 1_772_373_600), ("01.03.2026 14:00", 1_772_373_600),
        ("01/03/2026 14:00", 1_772_373_600), ("2026-03-01 14:00:30", 1_772_373_630),
    ],
)  # fmt: skip
def test_times_as_loggers_write_them(cell, epoch, parsed_file):
    data = f"time;temp\n{cell};12,5\n".encode()
    assert parsed_file(data).at_s.tolist() == [epoch]


def test_local_times_respect_the_hour_that_changes(parsed_file):
    data = b"time,temp_c\n2026-03-29 00:30,5\n2026-03-29 02:30,6\n"
    at = parsed_file(data, "Europe/London").at_s
    assert at[1] - at[0] == 3600  # the clocks went forward at one


def test_utf16_files_are_read_and_broken_ones_name_their_line(parsed_file):
    text = "time,temp_c,humidity\n2026-03-01 10:00,5,40\n"
    assert parsed_file(text.encode("utf-16")).erh.tolist() == [0.4]
    broken = parsed_file(text.encode() + b"\xff\xff")
    assert [b["line"] for b in broken.bad] == [3]
    with pytest.raises(BadFile, match="line 3"):
        parsed_file(text.encode() + b"\x00\x00")


def test_lots_without_a_place_take_the_cupboard_and_say_so(larder):
    from brisk_larder.services.acts.entry import add_seeds

    lot = add_seeds(larder, ActRef(), [packet("kale", "Slate Curl")]).lot_ids[0]
    line = next(x for x in lines.lot_lines(larder) if x.lot_id == lot)
    assert (line.place, line.glance.climate_source) == ("", "usual")
    node = containers.add_node(larder, ActRef(), NewNode("cold", place_kind="freezer_deep")).node_id
    lot_acts.move_lot(larder, ActRef(), lot, node)
    moved = next(x for x in lines.lot_lines(larder) if x.lot_id == lot)
    assert moved.glance.good_beyond or moved.glance.good_until_s > line.glance.good_until_s
