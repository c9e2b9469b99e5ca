"""Readings by eye: log one or a whole round, correct, void."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...core.errors import Conflict, InvalidValue
from ...data.acts import ActRef, Recorder, act
from ...data.tables import Deployment, Household, Node, NodeEvent, Reading, Series
from ..acts.readings_past import nodes_of_series, put_in_place, set_aside
from ..air.air import Air
from ..air.reach import kinds_read, previous_s
from ..forecast.stale import mark_node
from ..household.larder import Larder, household
from ..household.told import erh_possible, get_live, temperature_possible, to_c, within_records
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
        select(Series)
        .join(Deployment, col(Deployment.series_id) == Series.id)
        .where(
            Deployment.node_id == node_id,
            Series.origin == "dial",
            col(Deployment.deleted_s).is_(None),
            col(Series.deleted_s).is_(None),
        )
    ).first()
    if found is not None:
        return found
    made = Series(name="dial", origin="dial")
    session.add(made)
    session.flush()
    session.add(Deployment(series_id=made.id or 0, node_id=node_id, from_s=0))
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
        series_id=series_id, at_s=at_s, temperature_c=values["temperature_c"], erh=values["erh"],
        t_min_c=values["t_min_c"], t_max_c=values["t_max_c"],
    )  # fmt: skip


def _write(a: Recorder, home: Household, node: Node, dial: DialReading) -> _Written:
    """Write one dial reading of a node and mark what it touches."""
    session, node_id = a.session, node.id or 0
    air = Air(session, home, a.now_s)
    when = dial.at_s if dial.at_s is not None else a.now_s
    within_records("read on", when, a.now_s, home)
    values = _values(dial, air.place_kind(node_id), home)
    series = dial_series(session, node_id)
    while session.get(Reading, (series.id, when)) is not None:
        if dial.at_s is not None:
            raise Conflict(f"{node.name} already has a reading at that time: correct that one")
        when += 1
    session.add(_row(series.id or 0, when, values))
    for kind, wanted in (("opened", dial.opened), ("note", bool(dial.note.strip()))):
        if wanted:
            note = dial.note.strip() if kind == "note" else ""
            session.add(NodeEvent(node_id=node_id, at_s=when, kind=kind, note=note))
    session.flush()
    air = Air(session, home, a.now_s)
    read = kinds_read(values["temperature_c"] is not None, values["erh"] is not None)
    mark_node(session, air, [node_id], previous_s(air, node_id, when, read), read=True)
    if dial.opened:
        mark_node(session, air, [node_id], when)
    a.about(f"node:{node_id}", f"reading:{series.id}:{when}")
    return _Written(series.id or 0, when, _said(values, home))


def _said(values: dict[str, float | None], home: Household) -> str:
    t, h = values["temperature_c"], values["erh"]
    shown = ["" if t is None else temperature(t, home), "" if h is None else percent(h)]
    return ", ".join(filter(None, shown))


def log_reading(larder: Larder, ref: ActRef, node_id: int, dial: DialReading) -> dict[str, object]:
    """Log a dial. Raises InvalidValue naming the field for what cannot be."""
    with act(larder.store, larder.clock, ref, "reading") as a:
        if a.replayed:
            return a.result
        node = get_live(a.session, Node, node_id, "place or container")
        done = _write(a, household(a.session), node, dial)
        a.result = {"series_id": done.series_id, "at_s": done.at_s}
        a.summary = f"Read {node.name}: {done.said}"
        return a.result


def log_round(
    larder: Larder, ref: ActRef, dials: Sequence[tuple[int, DialReading]]
) -> dict[str, object]:
    """Log a whole round (node, dial) as one act: all or nothing, one undo.

    Raises InvalidValue with the container's name before the field.
    """
    if not dials:
        raise InvalidValue("round", "nothing", "at least one reading")
    if len({node for node, _ in dials}) != len(dials):
        raise InvalidValue("round", "a container twice", "each container once")
    with act(larder.store, larder.clock, ref, "reading") as a:
        if a.replayed:
            return a.result
        home = household(a.session)
        written = []
        for node_id, dial in dials:
            node = get_live(a.session, Node, node_id, "place or container")
            try:
                written.append(_write(a, home, node, dial))
            except InvalidValue as error:
                raise InvalidValue(
                    f"{node.name}, {error.field}", error.given, error.allowed
                ) from error
        a.result = {"readings": [{"series_id": w.series_id, "at_s": w.at_s} for w in written]}
        a.summary = f"A round of {len(written)} dials"
        return a.result


def correct_reading(
    larder: Larder, ref: ActRef, series_id: int, at_s: int, dial: DialReading
) -> dict[str, object]:
    """Put other values in place of a reading; the old ones stay among the past readings.

    The forecast follows. Raises Conflict when the reading is gone, InvalidValue for a bad value.
    """
    with act(larder.store, larder.clock, ref, "correct_reading") as a:
        if a.replayed:
            return a.result
        home = household(a.session)
        air = Air(a.session, home, a.now_s)
        nodes = nodes_of_series(a.session, series_id, at_s)
        place = air.place_kind(nodes[0]) if nodes else "outdoors"
        values = _values(dial, place, home)
        set_aside(a.session, a.now_s, a.id, series_id, at_s, "corrected")
        put_in_place(a.session, a.now_s, _row(series_id, at_s, values))
        a.about(*(f"node:{n}" for n in nodes), f"reading:{series_id}:{at_s}")
        a.summary = f"Corrected a reading to {_said(values, home)}"
        return a.result


def void_reading(
    larder: Larder, ref: ActRef, series_id: int, at_s: int, why: str = "voided"
) -> dict[str, object]:
    """Take one reading out of account; it moves to the past readings and stays visible there."""
    with act(larder.store, larder.clock, ref, "void_reading") as a:
        if a.replayed:
            return a.result
        nodes = set_aside(a.session, a.now_s, a.id, series_id, at_s, why)
        a.about(*(f"node:{n}" for n in nodes), f"reading:{series_id}:{at_s}")
        a.summary = f"Took back a reading ({why})"
        return a.result
