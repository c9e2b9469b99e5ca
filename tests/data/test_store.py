"""The file: schema, constraints, backup before a migration, one writer."""

import threading

import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import create_engine
from sqlalchemy.exc import IntegrityError
from sqlmodel import SQLModel, select

from brisk_larder.core.base.errors import CannotWrite
from brisk_larder.data import store as s
from brisk_larder.data.tables import Household, Lot, Node, Person, Reading, Series, Stay


@pytest.fixture
def store(tmp_path):
    made = s.Store(tmp_path / "larder.sqlite3")
    yield made
    made.close()


def test_every_table_is_strict_and_the_migration_makes_the_models(store):
    engine = create_engine(f"sqlite:///{store.path}")
    with engine.connect() as connection:
        kinds = connection.exec_driver_sql(
            "SELECT name, strict FROM pragma_table_list WHERE type='table' AND schema='main'"
        ).all()
        loose = [
            n for n, strict in kinds if not strict and not n.startswith(("sqlite_", "alembic"))
        ]
        assert loose == []
        context = MigrationContext.configure(connection)
        assert compare_metadata(context, SQLModel.metadata) == []
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"
    engine.dispose()


@pytest.mark.parametrize(
    "row",
    [
        Household(id=2, name="x"),
        Household(id=1, name="x", hemisphere="east"),
        Node(code="a", name="a", role="place"),
        Stay(lot_id=None, node_id=None, parent_node_id=1, from_s=1),
        Stay(node_id=1, parent_node_id=1, from_s=9, to_s=3),
        Reading(series_id=1, at_s=1, erh=1.4),
        Reading(series_id=99, at_s=1, erh=0.4),
        Reading(series_id=1, at_s=1, temperature_c=-80),
    ],
)
def test_the_file_itself_refuses_what_cannot_be(store, row):
    with store.write() as session:
        session.add_all(
            [
                Series(id=1, name="dial"),
                Node(id=1, code="p", name="p", role="place", place_kind="shed"),
            ]
        )
    with pytest.raises(IntegrityError), store.write() as session:
        session.add(row)


def test_a_reader_cannot_write_and_a_failed_write_leaves_nothing(store):
    with pytest.raises(CannotWrite, match="only be read"), store.read() as session:
        session.add(Person(name="Ysolde"))
        session.flush()

    def broken():
        with store.write() as session:
            session.add(Person(name="Ysolde"))
            session.flush()
            raise RuntimeError("power cut")

    with pytest.raises(RuntimeError):
        broken()
    with store.read() as session:
        assert session.exec(select(Person)).all() == []


def test_writers_queue_up(store):
    def add(i):
        with store.write() as session:
            count = len(session.exec(select(Lot)).all())
            session.add(Lot(code=f"L{i}", note=str(count)))

    threads = [threading.Thread(target=add, args=(i,)) for i in range(12)]
    [t.start() for t in threads]
    [t.join() for t in threads]
    with store.read() as session:
        notes = sorted(int(lot.note) for lot in session.exec(select(Lot)).all())
    assert notes == list(range(12))
