"""Acts: replay, history, undo and redo, refusal when something changed since."""

import json

import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import Conflict
from brisk_larder.data.acts import (
    ActRef,
    Recorder,
    expect_version,
    is_undone,
    one_act,
    restore_rows,
)
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Act, Change, Person, Variety


class Clock:
    t = 1_700_000_000

    def now_s(self) -> int:
        self.t += 60
        return self.t


@pytest.fixture
def store(tmp_path):
    made = Store(tmp_path / "larder.sqlite3")
    yield made
    made.close()


CLOCK = Clock()


def add(store, name, ref=None):
    with one_act(store, CLOCK, ref or ActRef(), "add_person", Recorder) as a:
        if a.replayed:
            return a
        person = Person(name=name)
        a.session.add(person)
        a.session.flush()
        a.result = {"id": person.id}
        a.summary = f"added {name}"
    return a


def rename(store, person_id, name, version=None):
    with one_act(store, CLOCK, ActRef(), "rename", Recorder) as a:
        person = a.session.get(Person, person_id)
        expect_version(person, version, "This person")
        person.name = name
        a.summary = f"renamed to {name}"
    return a


def undo(store, act_id):
    with one_act(store, CLOCK, ActRef(), "undo", Recorder) as a:
        a.undoes = act_id
        restore_rows(a, a.session.get(Act, act_id))
        a.summary = "undo"
    return a


def names(store):
    with store.read() as session:
        return [p.name for p in session.exec(select(Person)).all() if p.deleted_s is None]


def test_the_same_act_twice_is_done_once(store):
    ref = ActRef()
    first, second = add(store, "Ysolde", ref), add(store, "Ysolde", ref)
    assert (first.replayed, second.replayed) == (False, True)
    assert first.result == second.result
    assert names(store) == ["Ysolde"]


def test_changes_keep_before_and_after(store):
    person = add(store, "Ysolde").result["id"]
    done = rename(store, person, "Isolde")
    with store.read() as session:
        (change,) = session.exec(select(Change).where(Change.act_id == done.id)).all()
    before, after = json.loads(change.before), json.loads(change.after)
    assert (before["name"], after["name"]) == ("Ysolde", "Isolde")
    assert (before["version"], after["version"]) == (1, 2)


def test_undo_redo_and_undo_of_an_insert(store):
    made = add(store, "Ysolde")
    changed = rename(store, made.result["id"], "Isolde")
    back = undo(store, changed.id)
    assert names(store) == ["Ysolde"]
    undo(store, back.id)
    assert names(store) == ["Isolde"]
    with store.read() as session:
        assert not is_undone(session, changed.id)
    undo(store, changed.id)
    undo(store, made.id)
    assert names(store) == []


def test_undo_is_refused_as_a_whole_and_names_the_later_act(store):
    made = add(store, "Ysolde")
    first = rename(store, made.result["id"], "Isolde")
    rename(store, made.result["id"], "Iseult")
    with pytest.raises(Conflict, match="renamed to Iseult"):
        undo(store, first.id)
    assert names(store) == ["Iseult"]


def test_a_stale_write_is_refused_with_both_versions(store):
    made = add(store, "Ysolde")
    rename(store, made.result["id"], "Isolde", version=1)
    with pytest.raises(Conflict) as caught:
        rename(store, made.result["id"], "Iseult", version=1)
    assert (caught.value.details["yours"], caught.value.details["theirs"]) == (1, 2)
    assert names(store) == ["Isolde"]


def test_an_error_in_an_act_leaves_no_history(store):
    def broken():
        with one_act(store, CLOCK, ActRef(), "x", Recorder) as a:
            a.session.add(Variety(name="Millrace"))
            a.session.flush()
            raise RuntimeError

    with pytest.raises(RuntimeError):
        broken()
    with store.read() as session:
        assert session.exec(select(Act)).all() == []
        assert session.exec(select(Change)).all() == []
