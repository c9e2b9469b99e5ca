"""Readings of a new logger on their way in: written in shares, so that nobody waits for all of them.

Until their act they belong to a series that stands nowhere, so no room reads them. The file says who
brings them; what a killed program left on its way is swept at the next opening (``data.store``).
"""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlmodel import Session, select

from ...data.queries import key
from ...data.store import COMING, Store, process_mark, sweep_coming
from ...data.tables import Deployment, ImportBatch, Meta, Series
from ...formats.readings_csv import Columns
from .import_helper import Helper, Progress


@dataclass(frozen=True)
class Coming:
    """What is on its way: its series and its batch, which is not live yet."""

    key: str
    series_id: int
    batch_id: int


def bring(
    store: Store, helper: Helper, device: str, file_name: str, columns: Columns, progress: Progress
) -> Coming:
    """Write the rows of a file ahead of its act. ``progress`` (a share of one) may raise to stop: then
    nothing is left. Raises CannotWrite."""
    with store.write() as session:
        series = Series(name=device, origin="logger")
        session.add(series)
        session.flush()
        batch = ImportBatch(
            file_name=file_name, sha256="", series_id=key(series), rows=0, deleted_s=1
        )
        session.add(batch)
        session.flush()
        made = Coming(f"{COMING}{batch.id}", key(series), key(batch))
        pid = helper.pid
        told = {
            "series": made.series_id,
            "batch": made.batch_id,
            "pid": pid,
            "mark": process_mark(pid),
        }
        session.add(Meta(key=made.key, value=json.dumps(told)))
    try:
        helper.write(store.path, made.series_id, made.batch_id, columns, progress)
    except BaseException:
        helper.close()  # or it would go on writing what is taken away here
        drop(store, made)
        raise
    return made


def arrived(session: Session, coming: Coming, node_id: int) -> tuple[int, ImportBatch]:
    """Within the act: the rows stand in a node from now on; returns their series and live batch."""
    batch = session.get(ImportBatch, coming.batch_id)
    assert batch is not None, "written by this process a moment ago"
    batch.deleted_s = None
    session.add(batch)
    session.add(Deployment(series_id=coming.series_id, node_id=node_id, from_s=0))
    meta = session.exec(select(Meta).where(Meta.key == coming.key)).one()
    session.delete(meta)
    session.flush()
    return coming.series_id, batch


def drop_within(session: Session, coming: Coming) -> None:
    """Within a transaction: nothing of it was ever here."""
    sweep_coming(session.connection().exec_driver_sql, coming.key)


def drop(store: Store, coming: Coming) -> None:
    """Nothing of it was ever here; does nothing once it has arrived."""
    with store.write() as session:
        drop_within(session, coming)
