"""Readings by eye: log one or a whole round, correct, void."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlmodel import Session, col

from ...core.base.errors import Conflict, InvalidValue
from ...data.acts import Recorder
from ...data.queries import key, live
from ...data.tables import Deployment, Household, Node, NodeEvent, Reading, Series
from ..acts.acting import Doing, Done, act
from ..acts.readings_past import nodes_of_series, put_in_place, set_aside
from ..air.air import Air
from ..air.reach import kinds_read, previous_s
from ..forecast.stale import mark_node
from ..household.possible_values import (
    erh_possible,
    get_live,
    temperature_possible,
    to_c,
    within_records,
)
from ..household.wording import percent, temperature


@dataclass(frozen=True)
class DialReading:
    """A dial as read: temperatures in the household's unit, humidity in per cent.

    ``opened``: the container was just opened to read it.
    """

    temperature: float | None = None
    humidity_pct: float | None = None
    t_min: float | None = None
    t_max: float | None = None
    at_s: int | None = None
    opened: bool = False
    note: str = ""


def dial_series(session: Session, node_id: int) -> Series:
    """The series of dial readings of a node, deployed there from the start."""
    found = session.exec(
        live(Series)
        .join(Deployment, col(Deployment.series_id) == Series.id)
        .where(
            Deployment.node_id == node_id,
            Series.origin == "dial",
            col(Deployment.deleted_s).is_(None),
        )
    ).first()
    if found is not None:
        return found
    made = Series(name="dial", origin="dial")
    session.add(made)
    session.flush()
    session.add(Deployment(series_id=key(made), node_id=node_id, from_s=0))
    session.flush()
    return made


@dataclass(frozen=True)
class _Written:
    series_id: int
    at_s: int
    said: str


def _values(dial: DialReading, place: str, home: Household) -> dict[str, float | None]:
    """A dial in degC and fraction. Raises InvalidValue naming the field for what cannot be."""
    values: dict[str, float | None] = {}
    for name, field, given in (
        ("temperature_c", "temperature", dial.temperature),
        ("t_min_c", "lowest", dial.t_min),
        ("t_max_c", "highest", dial.t_max),
    ):
        values[name] = value = None if given is None else to_c(given, home)
        if value is not None:
            temperature_possible(value, place, home, field)
    low, high = values["t_min_c"], values["t_max_c"]
    if (low is None) != (high is None):
        raise InvalidValue("lowest and highest", low or high, "both or neither")
    if low is not None and high is not None and low > high:
        raise InvalidValue("lowest", dial.t_min, f"at most the highest, {dial.t_max:g}")
    if dial.humidity_pct is not None:
        erh_possible(dial.humidity_pct / 100)
    if dial.temperature is None and dial.humidity_pct is None:
        raise InvalidValue("reading", None, "a temperature, a humidity, or both")
    values["erh"] = None if dial.humidity_pct is None else dial.humidity_pct / 100
    return values


def _row(series_id: int, at_s: int, values: dict[str, float | None]) -> Reading:
    return Reading(
        series_id=series_id,
        at_s=at_s,
        temperature_c=values["temperature_c"],
        erh=values["erh"],
        t_min_c=values["t_min_c"],
        t_max_c=values["t_max_c"],
    )


def _write(a: Recorder, home: Household, node: Node, dial: DialReading) -> _Written:
    """Write one dial reading of a node and mark what it touches."""
    session, node_id = a.session, key(node)
    air = Air(session, home, a.now_s)
    when = dial.at_s if dial.at_s is not None else a.now_s
    within_records("read on", when, a.now_s, home)
    values = _values(dial, air.place_kind(node_id), home)
    series = dial_series(session, node_id)
    while session.get(Reading, (series.id, when)) is not None:
        if dial.at_s is not None:
            raise Conflict(f"{node.name} already has a reading at that time: correct that one")
        when += 1
    session.add(_row(key(series), when, values))
    for kind, wanted in (("opened", dial.opened), ("note", bool(dial.note.strip()))):
        if wanted:
            note = dial.note.strip() if kind == "note" else ""
            session.add(NodeEvent(node_id=node_id, at_s=when, kind=kind, note=note))
    session.flush()
    air = Air(session, home, a.now_s)
    read = kinds_read(values["temperature_c"] is not None, values["erh"] is not None)
    mark_node(session, air, [node_id], previous_s(air, node_id, when, read), read=True)
    a.about(f"node:{node_id}", f"reading:{series.id}:{when}")
    return _Written(key(series), when, _said(values, home))


def _said(values: dict[str, float | None], home: Household) -> str:
    t, h = values["temperature_c"], values["erh"]
    shown = ["" if t is None else temperature(t, home), "" if h is None else percent(h)]
    return ", ".join(filter(None, shown))


@dataclass(frozen=True)
class ReadingMade:
    """Where a reading is filed."""

    series_id: int
    at_s: int


@act("reading")
def log_reading(a: Doing, node_id: int, dial: DialReading) -> ReadingMade:
    """Log a dial. Raises InvalidValue naming the field for what cannot be."""
    node = get_live(a.session, Node, node_id, "place or container")
    done = _write(a, a.home, node, dial)
    a.summary = f"Read {node.name}: {done.said}"
    return ReadingMade(done.series_id, done.at_s)


@dataclass(frozen=True)
class RoundMade:
    """Where the readings of a round are filed."""

    readings: list[ReadingMade]


@act("reading")
def log_round(a: Doing, dials: Sequence[tuple[int, DialReading]]) -> RoundMade:
    """Log a whole round (node, dial) as one act: all or nothing, one undo.

    Raises InvalidValue with the container's name before the field.
    """
    if not dials:
        raise InvalidValue("round", "nothing", "at least one reading")
    if len({node for node, _ in dials}) != len(dials):
        raise InvalidValue("round", "a container twice", "each container once")
    written = []
    for node_id, dial in dials:
        node = get_live(a.session, Node, node_id, "place or container")
        try:
            written.append(_write(a, a.home, node, dial))
        except InvalidValue as error:
            raise InvalidValue(f"{node.name}, {error.field}", error.given, error.allowed) from error
    a.summary = f"A round of {len(written)} dials"
    return RoundMade([ReadingMade(w.series_id, w.at_s) for w in written])


@act("correct_reading")
def correct_reading(a: Doing, series_id: int, at_s: int, dial: DialReading) -> Done:
    """Put other values in place of a reading; the old ones stay among the past readings.

    The forecast follows. Raises Conflict when the reading is gone, InvalidValue for a bad value.
    """
    air = Air(a.session, a.home, a.now_s)
    nodes = nodes_of_series(a.session, series_id, at_s)
    place = air.place_kind(nodes[0]) if nodes else "outdoors"
    values = _values(dial, place, a.home)
    set_aside(a.session, a.now_s, a.id, series_id, at_s, "corrected")
    put_in_place(a.session, a.now_s, _row(series_id, at_s, values))
    a.about(*(f"node:{n}" for n in nodes), f"reading:{series_id}:{at_s}")
    a.summary = f"Corrected a reading to {_said(values, a.home)}"
    return Done()


@act("void_reading")
def void_reading(a: Doing, series_id: int, at_s: int, why: str = "voided") -> Done:
    """Take one reading out of account; it moves to the past readings and stays visible there."""
    nodes = set_aside(a.session, a.now_s, a.id, series_id, at_s, why)
    a.about(*(f"node:{n}" for n in nodes), f"reading:{series_id}:{at_s}")
    a.summary = f"Took back a reading ({why})"
    return Done()
