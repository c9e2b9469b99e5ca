"""Derived values: an increment equals a full rebuild; acts mark exactly what they touch."""

from contextlib import suppress

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlmodel import select

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue
from brisk_larder.core.base.units import month_start_s, next_month_s
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Act, Dirty, DLeg, DMonth, Household, Part, Reading, ReadingPast
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.air.look import looking_at
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.forecast.current import bring_up_to_date, whole_outlook
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.forecast.sowing import climate_of
from brisk_larder.services.forecast.tracks import STATE_FIELDS, tracks
from brisk_larder.services.papers import history
from brisk_larder.services.storage import containers, imports, readings
from tests.conftest import DAY, NOW, packet


def months(larder):
    bring_up_to_date(larder)
    with larder.store.read() as session:
        rows = session.exec(select(DMonth).order_by(DMonth.part_id, DMonth.month_s)).all()
        parts = {row.part_id: [r for r in rows if r.part_id == row.part_id] for row in rows}
        drawn = tracks(session, [*parts, 10**6], month_start_s(larder.now_s()))
    # what is kept in one piece is the same to the bit, for every part with a month behind it
    assert drawn.keys() == parts.keys()
    for part, mine in parts.items():
        assert drawn[part].a_probit.tolist() == [m.a_probit for m in mine]
        assert drawn[part].ends_s.tolist() == [next_month_s(m.month_s) for m in mine]
        assert drawn[part].state == tuple(getattr(mine[-1], name) for name in STATE_FIELDS)
    return [tuple(r.model_dump().values()) for r in rows]


def rebuilt(larder):
    """Everything thrown away and computed from the records."""
    with larder.store.write() as session:
        for table in (DMonth, DLeg, Dirty):
            for row in session.exec(select(table)).all():
                session.delete(row)
    return months(larder)


def test_random_acts_leave_the_increment_equal_to_a_full_rebuild(small):
    larder = small.larder
    rng = np.random.default_rng(3)
    for _ in range(14):
        what = rng.integers(4)
        node = ["larder", "porch", "tin"][rng.integers(3)]
        lot = ["kale", "onion", "carrot"][rng.integers(3)]
        days = float(rng.uniform(1, 500))
        if what <= 1:
            small.read(node, float(rng.uniform(2, 30)), float(rng.uniform(30, 85)), days)
        elif what == 2:
            # before its present stay began it is refused, and nothing changes
            at = larder.now_s() - int(rng.uniform(1, 200) * DAY)
            with suppress(InvalidValue):
                lot_acts.move_lot(larder, ActRef(), small.lots[lot], small.nodes[node], at_s=at)
        else:
            with larder.store.read() as session:
                row = session.exec(select(Reading)).first()
            if row is not None:
                readings.void_reading(larder, ActRef(), row.series_id, row.at_s)
        months(larder)  # keep it incremental
    assert months(larder) == rebuilt(larder)


def test_a_lot_moved_into_a_tin_keeps_the_doubt_of_where_it_was(small):
    """The unread porch knows little of its damp: what lay there does not become sure in a tin."""
    larder, lot = small.larder, small.lots["onion"]
    for name in ("tin", "larder"):
        for ago in range(200, 0, -10):
            small.read(name, 12, 50, ago)
    lot_acts.move_lot(larder, ActRef(), lot, small.nodes["porch"], at_s=NOW - 150 * DAY)
    lot_acts.move_lot(larder, ActRef(), lot, small.nodes["tin"], at_s=NOW - 1 * DAY)
    look = whole_outlook(larder)
    i = next(i for i, r in enumerate(look.rows) if r.part.lot_id == lot)
    with looking_at(larder) as v:
        porch = v.air.past(small.nodes["porch"])
    at = np.searchsorted(porch.panels.end_s, NOW - 1 * DAY)
    # as little as the book knows of a house, and what an instrument would be off there
    damp = float(np.hypot(porch.sd_erh[at] * porch.times[at], 0.02))
    assert porch.times[at] > 1.4
    assert look.state.start_sd[i] == pytest.approx(damp, rel=0.05)
    assert look.state.remain[i] > 0.2


def test_a_reading_marks_only_what_stands_there_and_from_the_reading_before(small):
    larder = small.larder
    small.read("tin", 12, 50, 200)
    bring_up_to_date(larder)
    small.read("tin", 12, 50, 20)
    with larder.store.read() as session:
        marks = {d.part_id: d.from_s for d in session.exec(select(Dirty))}
        with larder.store.read() as other:
            parts = {p.lot_id: p.id for p in other.exec(select(Part))}
    assert set(marks) == {parts[small.lots["kale"]], parts[small.lots["onion"]]}
    assert all(abs(s - (larder.now_s() - 200 * DAY)) < 2 for s in marks.values())


def test_heat_and_damp_shorten_and_undo_restores_to_the_bit(small):
    larder = small.larder
    before = months(larder)
    start = small.line("onion").glance
    for days in (60, 50, 40):
        small.read("tin", 34, 80, days)
    hot = small.line("onion").glance
    assert hot.now.mid < start.now.mid - 0.1
    assert hot.good_until_s < start.good_until_s
    for done in history.recent(larder, 3):
        history.undo(larder, ActRef(), done.act_id)
    assert months(larder) == before
    assert small.line("onion").glance.now == start.now


def test_redo_brings_a_reading_back_and_voided_ones_stay_visible(small):
    larder = small.larder
    small.read("tin", 30, 70, 30)
    act = history.recent(larder, 1)[0]
    back = history.undo(larder, ActRef(), act.act_id)
    with larder.store.read() as session:
        assert session.exec(select(Reading)).all() == []
        assert len(session.exec(select(ReadingPast)).all()) == 1
        undo_id = session.exec(select(Act).where(Act.undoes_act_id == act.act_id)).one().id
    history.undo(larder, ActRef(), undo_id)
    with larder.store.read() as session:
        (row,) = session.exec(select(Reading)).all()
    assert (row.temperature_c, row.erh) == (30, 0.7)
    assert back.undone == act.act_id
    with pytest.raises(Conflict, match="already been taken back"):
        history.undo(larder, ActRef(), undo_id)


def test_moving_there_and_back_at_once_changes_nothing(small):
    larder = small.larder
    before = small.line("kale").glance.now
    at = larder.now_s() - 3 * DAY
    lot_acts.move_lot(larder, ActRef(), small.lots["kale"], small.nodes["porch"], at_s=at)
    lot_acts.move_lot(larder, ActRef(), small.lots["kale"], small.nodes["tin"], at_s=at + 1)
    after = small.line("kale").glance.now
    assert after.mid == pytest.approx(before.mid, abs=0.002)


def test_a_file_taken_back_leaves_the_forecast_as_it_was(small):
    larder = small.larder
    before = months(larder)
    rows = "\n".join(f"2026-07-{d:02d} {h:02d}:00,38,75" for d in range(1, 20) for h in range(24))
    text = f"time,temperature_c,humidity_pct\n{rows}\n".encode()
    done = imports.import_readings(larder, ActRef(), small.nodes["porch"], "hot.csv", text)
    assert (done.new_rows, done.known_rows) == (19 * 24, 0)
    again = imports.import_readings(larder, ActRef(), small.nodes["porch"], "hot.csv", text)
    assert (again.new_rows, again.known_rows) == (0, 19 * 24)
    assert small.line("carrot").glance.episodes
    for act in history.recent(larder, 2):
        history.undo(larder, ActRef(), act.act_id)
    assert months(larder) == before


def test_another_model_drops_the_caches(small, monkeypatch):
    months(small.larder)
    monkeypatch.setattr("brisk_larder.services.forecast.rebuild.MODEL_VERSION", "other")
    ensure_model_rev(small.larder.store)
    with small.larder.store.read() as session:
        assert session.exec(select(DMonth)).all() == []


def test_days_and_months_go_by_without_any_act(small):
    larder = small.larder
    months(larder)
    larder.clock.at_s += 75 * DAY
    assert months(larder) == rebuilt(larder)


@settings(
    deadline=None, max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(st.binary(max_size=400) | st.text(max_size=300).map(str.encode))
def test_no_file_is_half_taken_in_and_none_breaks_the_reader(small, data):
    with small.larder.store.read() as session:
        count = len(session.exec(select(Reading)).all())
    with pytest.raises(BadFile):
        imports.import_readings(small.larder, ActRef(), small.nodes["tin"], "x.csv", data)
    with small.larder.store.read() as session:
        assert len(session.exec(select(Reading)).all()) == count


def test_a_container_in_a_container_moves_with_all_in_it(small):
    larder = small.larder
    new = containers.NewNode("jar", container_kind="glass_jar_gasket", parent_id=small.nodes["tin"])
    jar = containers.add_node(larder, ActRef(), new).node_id
    add_seeds(larder, ActRef(), [packet("pea", "Millrace", node_id=jar)])
    world_path = [x.place for x in forecast_lines.lot_lines(larder) if x.variety == "Millrace"]
    assert world_path == ["larder · tin · jar"]
    containers.move_node(larder, ActRef(), small.nodes["tin"], small.nodes["porch"])
    assert [x.place for x in forecast_lines.lot_lines(larder) if x.variety == "Millrace"] == [
        "porch · tin · jar"
    ]
    with pytest.raises(Exception, match="not itself inside"):
        containers.move_node(larder, ActRef(), small.nodes["tin"], jar)
    with pytest.raises(Conflict, match="still holds"):
        containers.remove_node(larder, ActRef(), small.nodes["tin"])


def test_ten_packets_alone_give_forecasts_marked_as_guesses(larder):
    add_seeds(
        larder, ActRef(), [NewSeeds(kind=k) for k in ("pea", "kale", "onion", "leek", "swede")]
    )
    lines = forecast_lines.lot_lines(larder)
    assert len(lines) == 5
    assert all(0 <= x.glance.now.low < x.glance.now.mid < x.glance.now.high < 1 for x in lines)
    assert all(x.glance.climate_source == "usual" for x in lines)


def test_months_that_are_none_stop_no_room():
    home = Household(name="x", sow_months="3,13,x,0,10")
    assert climate_of(home).sow_months == (3, 10)
