"""A populated file of the first release comes to the newest schema with all it held, and a backup."""

import sqlite3
from pathlib import Path

import pytest
from alembic import command
from alembic.script import ScriptDirectory
from sqlalchemy.exc import IntegrityError
from sqlmodel import select

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.files import _known_revisions, alembic_config
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Household, NodeEvent, Stay
from brisk_larder.services.acts import ledger
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.storage import alarms_now, containers
from tests.conftest import DAY, NOW


@pytest.fixture
def old_file(tmp_path):
    path = tmp_path / "larder.sqlite3"
    command.upgrade(alembic_config(path), "0001")
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
    assert lines.lot_lines(larder) == []
    assert alarms_now.alarms(larder) == []
    store.close()


def test_the_second_releases_stock_is_brought_up_with_its_ledger(old_file):
    command.upgrade(alembic_config(old_file), "0002")
    with sqlite3.connect(old_file) as raw:
        raw.executescript(
            f"""
            INSERT INTO variety (id, version, crop, name, breeding, kept_line, treated,
              packet_sow_window, packet_days_to_sprout, packet_days_to_harvest, packet_note)
              VALUES (1, 1, 'kale', 'Slate Curl', 'open', 1, 0, '', '', '', '');
            INSERT INTO cohort (id, version, variety_id, description, source, record_from_s,
              year_guessed, person_from) VALUES (1, 1, 1, '', 'own', {NOW - 700 * DAY}, 0, '');
            INSERT INTO lot (id, version, code, note, state) VALUES (1, 1, 'K1', 'by the door', 'here');
            INSERT INTO part (lot_id, cohort_id, share_mean, share_sd, from_s)
              VALUES (1, 1, 1.0, 0.0, {NOW - 700 * DAY});
            INSERT INTO stay (lot_id, parent_node_id, wrapper_kind, slot, from_s, is_out)
              VALUES (1, 2, 'paper_envelope', '4', {NOW - 700 * DAY}, 0);
            INSERT INTO stock_entry (lot_id, at_s, kind, seeds_mean, seeds_sd, as_said, ref)
              VALUES (1, {NOW - 700 * DAY}, 'found', 300.0, 6.0, '300', ''),
                     (1, {NOW - 90 * DAY}, 'sown', 40.0, 0.0, '', 'sowing:1');
            """
        )
    store = Store(old_file)
    assert store.saved_before_migration is not None
    ensure_model_rev(store)
    larder = Larder(store, MovedClock(NOW))
    (line,) = lines.lot_lines(larder)
    assert (line.code, line.seeds, line.position, line.note) == ("K1", 260, "slot 4", "by the door")
    assert (line.intended_use, line.tags, line.parts) == ("seed", "", 1)
    with store.read() as session:
        run = session.connection().exec_driver_sql
        assert run("PRAGMA foreign_key_check").all() == []
        assert run("SELECT strict FROM pragma_table_list WHERE name = 'stock_entry'").scalar() == 1
        assert run("SELECT school, code_scheme FROM household").one() == ("forecast", "letter")
    # the new kinds of entry are allowed now, nonsense still is not
    ledger.book_quantity(larder, ActRef(), 1, "thrown", "10")
    assert lines.lot_lines(larder)[0].seeds == 250
    with store.write() as session, pytest.raises(IntegrityError):
        session.connection().exec_driver_sql(
            "INSERT INTO stock_entry (lot_id, at_s, kind, seeds_mean, seeds_sd, as_said, ref) "
            "VALUES (1, 0, 'burnt', 1.0, 0.0, '', '')"
        )
    with store.write() as session, pytest.raises(IntegrityError):
        session.connection().exec_driver_sql("UPDATE lot SET intended_use = 'hats'")
    store.close()


def test_our_list_of_revisions_is_that_of_alembic():
    script = ScriptDirectory.from_config(alembic_config(Path("x")))
    assert [s.revision for s in script.walk_revisions()] == _known_revisions()
