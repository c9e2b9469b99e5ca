"""Logger files: looked at, asked about, taken in as a whole or not at all, with progress and cancel."""

from __future__ import annotations

import hashlib
import json
import tempfile
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from itertools import chain
from pathlib import Path
from typing import Any

import numpy as np
from sqlmodel import Session, col, select

from ...core.base.errors import BadFile, Conflict
from ...core.base.units import DAY_S, zone
from ...core.storage.places import spikes
from ...data.acts import ActRef
from ...data.queries import key, live
from ...data.tables import Act, Deployment, ImportBatch, Node, Series
from ...formats.readings_csv import Columns, read_columns
from ...formats.readings_layout import Layout, check_layout, look, unanswered, with_answers
from ..acts.acting import doing
from ..air.air import UNREAD
from ..air.buckets import insert_rows, put_buckets
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.reach import kinds_read, previous_s
from ..forecast.stale import mark_node
from ..household.kinds import figures
from ..household.larder import Larder, writing_here
from ..household.possible_values import get_live, temperature_limits_c
from . import coming
from .import_helper import helper_for

INSERT_ROWS = 50_000
MOST_LISTED = 200
REMEMBERED = (
    "unit", "tz", "month_first", "humidity_share", "time", "temperature", "humidity", "date",
)  # fmt: skip
Progress = Callable[[float], None]


def _silent(share: float) -> None:
    """Nobody watches."""


@dataclass(frozen=True)
class Preview:
    """What a file seems to be, before anything is taken in.

    ``asks``: what the file does not say (unit, tz, day_order, columns); ``layout`` None: columns
    must be chosen. ``known``: a file of this look was taken in here before, its answers are used.
    """

    file_name: str
    header: list[str]
    rows: list[list[str]]
    layout: dict[str, Any] | None
    asks: list[str]
    note: str
    known: bool


@dataclass(frozen=True)
class TakenIn:
    """Summary of a file: rows in the file, new, known, bad, in conflict, span and what is odd."""

    batch_id: int
    rows: int
    new_rows: int
    known_rows: int
    bad_rows: int
    conflicts: int
    first_s: int
    last_s: int
    gaps: int
    longest_gap_days: float
    spikes: int
    ambiguous: int
    blanks: int
    node: str
    bad: list[dict[str, Any]] = field(default_factory=list)
    conflict_list: list[dict[str, Any]] = field(default_factory=list)


def preview(larder: Larder, node_id: int, path: Path, name: str) -> Preview:
    """Look at a file and say what is still to be asked. Raises BadFile for what is no table."""
    with looking_at(larder) as v:
        home = v.home
        get_live(v.session, Node, node_id, "place or container")
        seen = look(path, name, home.tz, home.temperature_unit)
        earlier = _earlier_answers(v.session, node_id, seen.header)
    layout, asks, note = seen.layout, seen.asks, seen.note
    if earlier and layout is not None:
        # day and month are read off each file anew: its dates may decide what the last one left open
        if "day_order" not in asks:
            earlier.pop("month_first", None)
        layout, asks = with_answers(layout, earlier), []
    return Preview(
        name, seen.header, seen.rows, asdict(layout) if layout else None, asks, note, bool(earlier)
    )


def _earlier_answers(session: Session, node_id: int, header: list[str]) -> dict[str, Any]:
    rows = session.exec(
        select(ImportBatch.mapping)
        .join(Deployment, col(Deployment.series_id) == ImportBatch.series_id)
        .where(Deployment.node_id == node_id, col(ImportBatch.deleted_s).is_(None))
        .order_by(col(ImportBatch.id).desc())
    )
    for mapping in rows:
        told = json.loads(mapping)
        if told.get("header") == header:
            return {k: v for k, v in told["layout"].items() if k in REMEMBERED}
    return {}


def layout_of(
    larder: Larder, path: Path, name: str, answers: dict[str, Any] | None
) -> tuple[Layout, list[str]]:
    """The layout to read a file by: as guessed, with the keeper's answers; and its header.

    Raises BadFile when the columns cannot be told, or when something stays open that nobody should
    guess in silence; InvalidValue for an answer that cannot be.
    """
    said = answers or {}
    with looking_at(larder) as v:
        home = v.home
    seen = look(path, name, home.tz, home.temperature_unit, said)
    if seen.layout is None:
        raise BadFile(seen.note, [{"line": 1, "field": "header", "reason": seen.note}])
    layout = with_answers(seen.layout, said)
    check_layout(layout, len(seen.header))
    if missing := unanswered(seen.asks, said):
        raise BadFile(
            f"{name} does not say {'; nor '.join(missing)}"
            + (f" ({seen.note})" if seen.note else "")
            + ". Say so, then try again",
            [{"line": 1, "field": "header", "reason": m} for m in missing],
        )
    zone(layout.tz)
    return layout, seen.header


def import_file(
    larder: Larder,
    ref: ActRef,
    node_id: int,
    path: Path,
    name: str,
    *,
    answers: dict[str, Any] | None = None,
    partial: bool = False,
    progress: Progress = _silent,
) -> TakenIn:
    """Take in a logger's file for a node.

    The same times and values again add nothing; a time that already holds another value keeps it,
    and the conflict is listed. Bad rows refuse the file (BadFile with line and field) unless
    ``partial``. Nothing is written before all is read; ``progress`` may raise to stop at any time.
    """
    layout, header = layout_of(larder, path, name, answers)
    with helper_for(path) as helper:
        reader = read_columns if helper is None else helper.read
        columns = reader(path, name, layout, header, lambda share: progress(0.6 * share))
        with looking_at(larder) as v:
            get_live(v.session, Node, node_id, "place or container")
            air = v.air
            low, high = temperature_limits_c(air.place_kind(node_id))
            # a logger that is new here, and not an act that was done already
            fresh_here = (
                find_logger_series(v.session, node_id, layout.device) is None
                and v.session.get(Act, ref.id) is None
            )
        columns = _possible(columns, low, high, larder.now_s())
        if columns.bad_count and not partial:
            first = columns.bad[0]
            more = f" (and {columns.bad_count - 1} more)" if columns.bad_count > 1 else ""
            raise BadFile(
                f"{name}, line {first['line']}, {first['field']}: {first['reason']}{more}. "
                "Nothing was taken in",
                columns.bad,
            )
        if not len(columns.at_s):
            raise BadFile(f"{name} holds no reading that can be taken in", columns.bad)
        ahead = None
        if helper is not None and fresh_here:
            ahead = coming.bring(
                larder.store,
                helper,
                layout.device,
                name,
                columns,
                lambda share: progress(0.6 + 0.35 * share),
            )
    try:
        return _take_in(larder, ref, node_id, path, name, header, layout, columns, ahead, progress)
    except BaseException:
        if ahead is not None:
            coming.drop(larder.store, ahead)
        raise


def _take_in(
    larder: Larder,
    ref: ActRef,
    node_id: int,
    path: Path,
    name: str,
    header: list[str],
    layout: Layout,
    columns: Columns,
    ahead: coming.Coming | None,
    progress: Progress,
) -> TakenIn:
    # long: one transaction, its rows in the order they depend on
    sha256 = _digest(path)
    steps = np.diff(columns.at_s)
    odd = spikes(columns.temperature_c, figures().places)
    with doing(larder, ref, "import_readings") as a:
        if a.replayed:
            if ahead is not None:
                coming.drop_within(a.session, ahead)
            return TakenIn(**a.result)
        node = get_live(a.session, Node, node_id, "place or container")
        if ahead is not None and find_logger_series(a.session, node_id, layout.device) is not None:
            raise Conflict(
                f"{node.name} was given readings of {layout.device} meanwhile: try again"
            )
        if ahead is None:
            series_id = logger_series(a.session, node_id, layout.device).id or 0
            new, known, conflicts = compare(a.session, series_id, columns)
            batch = ImportBatch(file_name=name, sha256=sha256, series_id=series_id, rows=0)
        else:
            series_id, batch = coming.arrived(a.session, ahead, node_id)
            new, known, conflicts = np.arange(len(columns.at_s)), 0, []
        batch.sha256, batch.rows, batch.known_rows = sha256, len(new), known
        batch.first_s, batch.last_s = int(columns.at_s[0]), int(columns.at_s[-1])
        batch.bad_rows, batch.conflicts = columns.bad_count, len(conflicts)
        batch.mapping = json.dumps({"header": header, "layout": asdict(layout)})
        a.session.add(batch)
        a.session.flush()
        if ahead is None:
            store_rows(a.session, series_id, columns, new, batch.id, progress)
        air = a.air()
        if len(new):
            first_new = float(columns.at_s[new[0]])
            read = kinds_read(True, bool(np.isfinite(columns.erh[new]).any()))
            since = previous_s(air, node_id, first_new, read)
            mark_node(a.session, air, [node_id], since, read=True)
        a.about(f"node:{node_id}", f"batch:{batch.id}")
        taken = TakenIn(
            batch_id=key(batch),
            rows=len(columns.at_s) + columns.repeats,
            new_rows=len(new),
            known_rows=known + columns.repeats,
            bad_rows=columns.bad_count,
            conflicts=len(conflicts),
            first_s=int(columns.at_s[0]),
            last_s=int(columns.at_s[-1]),
            gaps=int((steps > DAY_S).sum()),
            longest_gap_days=round(float(steps.max(initial=0)) / DAY_S, 1),
            spikes=odd,
            ambiguous=columns.ambiguous,
            blanks=columns.blanks,
            node=node_path(air, node_id),
            bad=columns.bad,
            conflict_list=conflicts[:MOST_LISTED],
        )
        a.result = asdict(taken)
        a.summary = f"Took in {name} for {node.name}: {len(new)} readings"
        progress(1.0)
        return taken


def import_readings(
    larder: Larder, ref: ActRef, node_id: int, file_name: str, data: bytes, tz: str | None = None
) -> TakenIn:
    """The same from a few bytes in memory, all rows or none."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "file.csv"
        path.write_bytes(data)
        answers = {} if tz is None else {"tz": tz}
        return import_file(larder, ref, node_id, path, file_name, answers=answers)


def _possible(columns: Columns, low_c: float, high_c: float, now_s: int) -> Columns:
    """Rows outside what such a place can have, or in the future, are bad rows."""
    future = columns.at_s > now_s + 60
    odd = (columns.temperature_c < low_c) | (columns.temperature_c > high_c)
    here = writing_here()
    wrong = np.flatnonzero(future | odd)
    for i in wrong[:MOST_LISTED]:
        if future[i]:
            what = ("time", "lies in the future; is the logger's clock right?")
        else:
            what = (
                "temperature",
                f"{here.exactly(columns.temperature_c[i])} is outside {here.span(low_c, high_c)} in such "
                "a place",
            )
        columns.bad.append({"line": int(columns.lines[i]), "field": what[0], "reason": what[1]})
    columns.bad.sort(key=lambda b: b["line"])
    good = ~(future | odd)
    return Columns(
        at_s=columns.at_s[good],
        temperature_c=columns.temperature_c[good],
        erh=columns.erh[good],
        lines=columns.lines[good],
        bad=columns.bad[:MOST_LISTED],
        bad_count=columns.bad_count + len(wrong),
        repeats=columns.repeats,
        ambiguous=columns.ambiguous,
        blanks=columns.blanks,
    )


def _digest(path: Path) -> str:
    with path.open("rb") as raw:
        return hashlib.file_digest(raw, "sha256").hexdigest()


def find_logger_series(session: Session, node_id: int, device: str) -> Series | None:
    """The series of a logger in a node, if it was read there before."""
    return session.exec(
        live(Series)
        .join(Deployment, col(Deployment.series_id) == Series.id)
        .where(
            Deployment.node_id == node_id,
            Series.origin == "logger",
            Series.name == device,
            col(Deployment.deleted_s).is_(None),
        )
    ).first()


def logger_series(session: Session, node_id: int, device: str) -> Series:
    """The series of a logger in a node, deployed there from the start when it is new."""
    found = find_logger_series(session, node_id, device)
    if found is not None:
        return found
    made = Series(name=device, origin="logger")
    session.add(made)
    session.flush()
    session.add(Deployment(series_id=key(made), node_id=node_id, from_s=0))
    session.flush()
    return made


def compare(
    session: Session, series_id: int, columns: Columns
) -> tuple[np.ndarray, int, list[dict[str, Any]]]:
    """Which rows are new (their places), how many are known, and which disagree with what is stored."""
    raw = session.connection().connection.cursor()
    raw.execute(
        f"SELECT at_s, coalesce(temperature_c, {UNREAD}), coalesce(erh, {UNREAD}) FROM reading "
        "WHERE series_id = ? AND at_s BETWEEN ? AND ?",
        (series_id, int(columns.at_s[0]), int(columns.at_s[-1])),
    )
    # streamed: a million rows as objects would be 400 MB
    have = np.fromiter(chain.from_iterable(iter(raw.fetchone, None)), dtype=float).reshape(-1, 3)
    raw.execute(
        "SELECT p.at_s FROM reading_past p JOIN act a ON a.id = p.act_id AND a.kind = 'void_reading' "
        "WHERE p.series_id = ? AND p.at_s BETWEEN ? AND ?",
        (series_id, int(columns.at_s[0]), int(columns.at_s[-1])),
    )
    # what the keeper took out of account does not come back with the next file or batch
    voided = np.isin(columns.at_s, [int(row[0]) for row in raw.fetchall()])
    raw.close()
    if not len(have):
        return np.flatnonzero(~voided), int(voided.sum()), []
    have[have == UNREAD] = np.nan
    at = np.searchsorted(have[:, 0], columns.at_s)
    at = np.minimum(at, len(have) - 1)
    known = have[at, 0] == columns.at_s
    same_t = have[at, 1] == columns.temperature_c
    same_h = (have[at, 2] == columns.erh) | (np.isnan(have[at, 2]) & np.isnan(columns.erh))
    here = writing_here()
    clash = np.flatnonzero(known & ~(same_t & same_h))
    conflicts = [
        {
            "line": int(columns.lines[i]), "at_s": int(columns.at_s[i]),
            "stored_c": float(have[at[i], 1]), "file_c": float(columns.temperature_c[i]),
            "reason": f"holds {here.exactly(have[at[i], 1])}, the file says "
            f"{here.exactly(columns.temperature_c[i])}; the stored value stays",
        }
        for i in clash
    ]  # fmt: skip
    voided &= ~known
    return (
        np.flatnonzero(~known & ~voided),
        int(known.sum()) + int(voided.sum()) - len(clash),
        conflicts,
    )


def store_rows(
    session: Session,
    series_id: int,
    columns: Columns,
    new: np.ndarray,
    batch_id: int | None,
    progress: Progress,
) -> None:
    """Write new rows and their hours and days; ``progress`` may raise between runs of rows."""
    if not len(new):
        return
    at, warm, damp = columns.at_s[new], columns.temperature_c[new], columns.erh[new]
    for first in range(0, len(new), INSERT_ROWS):
        run = slice(first, first + INSERT_ROWS)
        insert_rows(session, series_id, batch_id, at[run], warm[run], damp[run])
        progress(0.6 + 0.35 * min(1.0, (first + INSERT_ROWS) / len(new)))
    put_buckets(session, series_id, at, warm, damp)
