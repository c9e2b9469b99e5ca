"""A populated file of the first release comes to the newest schema with all it held, and a backup."""

import sqlite3

import pytest
from alembic import command
from sqlmodel import select

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store, _alembic
from brisk_larder.data.tables import Household, NodeEvent, Stay
from brisk_larder.services import alarms, containers, stock
from brisk_larder.services.forecast import ensure_model_rev
from brisk_larder.services.larder import Larder

from ..conftest import DAY, NOW


@pytest.fixture
def old_file(tmp_path):
    path = tmp_path / "larder.sqlite3"
    command.upgrade(_alembic(path), "0001")
    with sqlite3.connect(path) as raw:
        raw.executescript(
            f"""
            INSERT INTO node (id, version, code, name, role, place_kind, walk_order, note)
              VALUES (1, 1, 'P1', 'larder', 'place', 'larder', 1, '');
            INSERT INTO node (id, version, code, name, role, container_kind, walk_order, note)
              VALUES (2, 1, 'C1', 'tin', 'container', 'metal_tin_plain', 2, '');
            INSERT INTO stay (node_id, parent_node_id, wrapper_kind, slot, from_s)
              VALUES (2, 1, 'paper_envelope', '', {NOW - 900 * DAY});
            INSERT INTO node_event (node_id, at_s, kind, note)
              VALUES (2, {NOW - 100 * DAY}, 'opened', 'by the door');
            INSERT INTO series (id, version, name, origin) VALUES (1, 1, 'mill-a', 'logger');
            INSERT INTO deployment (series_id, node_id, from_s) VALUES (1, 1, 0);
            INSERT INTO import_batch (id, file_name, sha256, series_id, rows, known_rows, state)
              VALUES (1, 'a.csv', 'x', 1, 48, 0, 'in');
            """
        )
        home = Household(id=1, name="Pellwick Mill", tz="UTC", settled=1).model_dump()
        known = {row[1] for row in raw.execute("PRAGMA table_info(household)")}
        home = {name: value for name, value in home.items() if name in known}
        marks = ", ".join("?" * len(home))
        raw.execute(f"INSERT INTO household ({', '.join(home)}) VALUES ({marks})", [*home.values()])
        raw.executemany(
            "INSERT INTO reading (series_id, at_s, temperature_c, erh, batch_id) VALUES (1, ?, ?, 0.6, 1)",
            [(NOW - 5 * DAY + 3600 * i, 9.0 + i % 5) for i in range(48)],
        )
    return path


def test_the_first_release_is_brought_up_with_all_it_held(old_file):
    store = Store(old_file)
    assert store.saved_before_migration is not None
    assert store.saved_before_migration.exists()
    ensure_model_rev(store)
    larder = Larder(store, MovedClock(NOW))
    with store.read() as session:
        (event,) = session.exec(select(NodeEvent)).all()
        (stay,) = session.exec(select(Stay)).all()
        run = session.connection().exec_driver_sql
        assert run("SELECT count(*), sum(n) FROM d_hour").one() == (48, 48)
        assert run("SELECT sum(n), max(t_max) FROM d_day").one() == (48, 13.0)
        assert run("PRAGMA foreign_key_check").all() == []
        assert run("SELECT strict FROM pragma_table_list WHERE name = 'node_event'").scalar() == 1
    assert (event.kind, event.note, event.figures) == ("opened", "by the door", "{}")
    assert stay.is_out == 0
    containers.node_event(larder, ActRef(), 2, "vented")
    containers.take_out(larder, ActRef(), 2)
    assert stock.lot_lines(larder) == []
    assert alarms.alarms(larder) == []
    store.close()
