"""What is no larder, is damaged, open elsewhere, full or locked is said in words and left as it is."""

import sqlite3
import threading
from contextlib import closing

import pytest
from alembic import command
from fastapi.testclient import TestClient
from sqlmodel import select

from brisk_larder.core.base.errors import BadFile, CannotWrite
from brisk_larder.data import files
from brisk_larder.data import store as stores
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Act, Person
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.papers import settings_page
from brisk_larder.services.storage import readings
from tests.conftest import DAY, app_of


def named(path, name):
    store = Store(path)
    with store.write() as session:
        session.add(Person(name=name))
    store.close()
    return path


def people(path):
    with closing(sqlite3.connect(path)) as raw:
        return [row[0] for row in raw.execute("SELECT name FROM person")]


def with_revision(path, revision):
    with closing(sqlite3.connect(path)) as raw:
        raw.execute("UPDATE alembic_version SET version_num = ?", (revision,))
        raw.commit()


def broken(path, how):
    if how == "letter":
        path.write_text("dear aunt, " * 500)
    elif how == "foreign":
        with closing(sqlite3.connect(path)) as raw:
            raw.executescript("CREATE TABLE household (name TEXT); CREATE TABLE song (a TEXT);")
    elif how == "newer":
        with_revision(named(path, "Ysolde"), "9999")
    elif how == "short":
        whole = named(path, "Ysolde").read_bytes()
        path.write_bytes(whole[: len(whole) // 2])
    elif how == "scribbled":
        whole = bytearray(named(path, "Ysolde").read_bytes())
        whole[8192:24576] = b"\xa5" * 16384
        path.write_bytes(bytes(whole))
    else:
        path.mkdir()


BROKEN = {
    "letter": "not a Brisk Larder file", "foreign": "not a Brisk Larder file",
    "newer": "newer Brisk Larder", "short": "damaged", "scribbled": "damaged", "folder": "a folder",
}  # fmt: skip


@pytest.mark.parametrize("how", BROKEN)
def test_what_is_no_whole_larder_is_refused_in_words_and_left_as_it_is(tmp_path, how):
    path = tmp_path / "larder.sqlite3"
    broken(path, how)
    before = None if path.is_dir() else path.read_bytes()
    good = named(tmp_path / "good.sqlite3", "Tamsel")
    backup = tmp_path / "larder-before-0003-20261101-080000.sqlite3"
    files.copy_database(good, backup)
    calls = (
        lambda: Store(path), lambda: files.copy_database(path, tmp_path / "x.sqlite3"),
        lambda: files.restore(path, good),
    )  # fmt: skip
    for call in calls:
        with pytest.raises(BadFile, match=BROKEN[how]) as caught:
            call()
        if how in ("letter", "foreign", "short", "scribbled"):
            assert str(backup) in caught.value.message
    assert before is None or path.read_bytes() == before
    assert people(good) == ["Tamsel"]
    assert not (tmp_path / "x.sqlite3").exists()
    assert list(tmp_path.glob(".*.part*")) == []


def test_an_empty_file_becomes_a_larder_and_carries_its_mark(tmp_path):
    path = tmp_path / "odd name % # ?.sqlite3"
    path.touch()
    named(path, "Ysolde")
    with closing(sqlite3.connect(path)) as raw:
        assert raw.execute("PRAGMA application_id").fetchone()[0] == files.APPLICATION_ID
    with closing(sqlite3.connect(path)) as raw:
        raw.execute("PRAGMA application_id=0")  # as the releases before it wrote
    named(path, "Tamsel")
    assert people(path) == ["Ysolde", "Tamsel"]


def test_a_migration_works_on_a_copy_and_a_half_changed_file_is_told_with_its_backup(tmp_path):
    path = tmp_path / "larder.sqlite3"
    command.upgrade(files.alembic_config(path), "0002")
    with closing(sqlite3.connect(path)) as raw:  # what an older program left when it was killed
        raw.execute("CREATE TABLE earmark (id INTEGER)")
    before = path.read_bytes()
    with pytest.raises(BadFile, match="cannot be brought up to date") as caught:
        Store(path)
    assert path.read_bytes() == before
    assert "larder-before-" in caught.value.message


def test_nothing_is_put_back_or_brought_up_while_a_larder_is_open(tmp_path):
    path, copy = named(tmp_path / "larder.sqlite3", "Ysolde"), tmp_path / "copy.sqlite3"
    files.copy_database(path, copy)
    store = Store(path)
    with pytest.raises(CannotWrite, match="end that one first"):
        files.restore(copy, path)
    with store.write() as session:  # and what is acknowledged meanwhile is there afterwards
        session.add(Person(name="Tamsel"))
    with_revision(path, "0003")
    with pytest.raises(CannotWrite, match="end that one first"):
        Store(path)
    store.close()
    with_revision(path, files.head_revision())
    kept = files.restore(copy, path)
    assert people(path) == ["Ysolde"]
    assert people(kept) == ["Ysolde", "Tamsel"]
    assert kept != files.restore(copy, path), "two in one second keep two files"


def test_a_file_is_not_put_back_onto_itself(tmp_path):
    path = named(tmp_path / "larder.sqlite3", "Ysolde")
    link = tmp_path / "link.sqlite3"
    link.symlink_to(path)
    for source in (path, link):
        with pytest.raises(BadFile, match="present file itself"):
            files.restore(source, path)
    assert people(path) == ["Ysolde"]


def test_a_damaged_present_file_is_kept_to_the_byte_when_a_backup_is_put_back(tmp_path):
    path, copy = tmp_path / "larder.sqlite3", named(tmp_path / "copy.sqlite3", "Tamsel")
    broken(path, "scribbled")
    before = path.read_bytes()
    kept = files.restore(copy, path)
    assert kept.read_bytes() == before
    assert people(path) == ["Tamsel"]


def test_a_file_replaced_under_an_open_larder_takes_no_more_acts(small):
    path = small.larder.store.path
    path.rename(path.with_name("moved.sqlite3"))
    with pytest.raises(CannotWrite, match="moved or replaced"):
        settings_page.add_person(small.larder, ActRef(), "Tamsel")


def room_answers(client):
    paths = ("today", "counts", "needs", "tests", "storage/shelves", "stock/rows", "storage/alarms")
    return {p: client.get(f"/api/{p}") for p in paths}


@pytest.mark.parametrize("what", ["full", "locked"])
def test_a_full_disk_or_a_lock_refuses_acts_in_words_while_rooms_show_the_truth(
    small, what, monkeypatch
):
    """Not even what an act just marked is shown as it was before: rooms carry on by themselves."""
    monkeypatch.setattr(stores, "PATIENCE_MS", 50)
    larder = small.larder
    client = TestClient(app_of(larder), base_url="http://127.0.0.1")
    small.read("tin", 33, 77, 90)
    larder.clock.at_s += 70 * DAY
    if what == "full":
        with larder.store.write() as session:
            run = session.connection().exec_driver_sql
            run(f"PRAGMA max_page_count={run('PRAGMA page_count').scalar()}")
        says, other = "disk is full", None
    else:
        other = sqlite3.connect(larder.store.path, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        says = "Another program holds"
    body = {"note": "x" * 9000}
    lot = small.lots["kale"]
    refused = client.patch(f"/api/stock/lots/{lot}", json=body)
    assert refused.status_code == 503
    assert says in refused.json()["detail"]
    shown = room_answers(client)
    assert {a.status_code for a in shown.values()} == {200}
    marked = lines.lot_lines(larder)
    assert says in client.get("/api/household").json()["trouble"]
    with larder.store.read() as session:
        assert not [a for a in session.exec(select(Act)) if a.kind == "edit_lot"]
    if other is None:
        with larder.store.write() as session:
            session.connection().exec_driver_sql("PRAGMA max_page_count=1000000")
    else:
        other.rollback()
        other.close()
    larder.store._troubled_at -= 60
    bring_up_to_date(larder)
    after = lines.lot_lines(larder)
    for a, b in zip(marked, after, strict=True):
        # what relatives say is of when it could last be written
        assert a.glance.now.mid == pytest.approx(b.glance.now.mid, abs=0.005)
    assert client.patch(f"/api/stock/lots/{lot}", json=body).status_code == 200
    assert client.get("/api/household").json()["trouble"] == ""
    client.close()


def test_a_glance_made_while_an_act_lands_is_not_kept(small, monkeypatch):
    """Made from the file before the act, kept after it: it would stay wrong until tomorrow."""
    from brisk_larder.services.forecast import glance

    real = glance.make_glances
    landed = threading.Event()

    def slow(*given):
        made = real(*given)
        if not landed.is_set():
            landed.set()
            at = small.larder.now_s() - 90 * DAY
            dial = readings.DialReading(38, 75, at_s=at)
            readings.log_reading(small.larder, ActRef(), small.nodes["tin"], dial)
        return made

    monkeypatch.setattr(glance, "make_glances", slow)
    lines.lot_lines(small.larder)
    assert landed.is_set()
    shown = small.line("onion").glance.now.mid
    with small.larder.store.write() as session:
        session.connection().exec_driver_sql("DELETE FROM d_glance")
    assert small.line("onion").glance.now.mid == shown
