"""Loggers' readings drawn together by UTC hour and day: what charts and the ageing read."""

from __future__ import annotations

import numpy as np
from sqlmodel import Session

from ...core.base.units import DAY_S
from ...core.storage.hours import drawn_together

WIDTHS = {"d_hour": 3600, "d_day": DAY_S}
COLUMNS = "series_id, at_s, n, t_n, t_sum, t_min, t_max, h_n, h_sum, h_min, h_max"
# rounded sums: adding the same readings in another order must not leave another bit
_FROM_RAW = (
    "SELECT series_id, at_s / {w} * {w} AS b, count(*), count(temperature_c), "
    "round(total(temperature_c), 6), min(temperature_c), max(temperature_c), "
    "count(erh), round(total(erh), 6), min(erh), max(erh) FROM reading "
)


def rebuild_buckets(session: Session) -> None:
    """Make d_hour and d_day of all loggers anew."""
    run = session.connection().exec_driver_sql
    for table, width in WIDTHS.items():
        run(f"DELETE FROM {table}")
        run(
            f"INSERT INTO {table} ({COLUMNS}) {_FROM_RAW.format(w=width)} "
            "WHERE series_id IN (SELECT id FROM series WHERE origin = 'logger') GROUP BY series_id, b"
        )


def refresh_buckets(session: Session, series_id: int, first_s: int, last_s: int) -> None:
    """Make the hours and days of a span anew after its readings changed."""
    run = session.connection().exec_driver_sql
    if not run("SELECT 1 FROM series WHERE id = ? AND origin = 'logger'", (series_id,)).first():
        return
    for table, width in WIDTHS.items():
        a, b = first_s // width * width, last_s // width * width + width
        run(
            f"DELETE FROM {table} WHERE series_id = ? AND at_s >= ? AND at_s < ?", (series_id, a, b)
        )
        run(
            f"INSERT INTO {table} ({COLUMNS}) {_FROM_RAW.format(w=width)} "
            "WHERE series_id = ? AND at_s >= ? AND at_s < ? GROUP BY series_id, b",
            (series_id, a, b),
        )


def insert_rows(
    session: Session,
    series_id: int,
    batch_id: int | None,
    at_s: np.ndarray,
    temperature_c: np.ndarray,
    erh: np.ndarray,
) -> None:
    """Write readings of one series, straight to the driver (nan humidity: unread)."""
    read: list[float | None] = erh.tolist()
    if np.isnan(erh).any():
        read = [None if h != h else h for h in read]
    raw = session.connection().connection.cursor()
    raw.executemany(
        "INSERT INTO reading (series_id, at_s, temperature_c, erh, batch_id) "
        f"VALUES ({int(series_id)}, ?, ?, ?, {int(batch_id) if batch_id else 'NULL'})",
        list(zip(at_s.tolist(), temperature_c.tolist(), read, strict=True)),
    )
    raw.close()


def put_buckets(
    session: Session, series_id: int, at_s: np.ndarray, temperature_c: np.ndarray, erh: np.ndarray
) -> None:
    """Hours and days of rows just written (in time order, nan: unread).

    Where none are kept for their span yet they are summed here; else they are made anew.
    """
    run = session.connection().exec_driver_sql
    first, last = int(at_s[0]), int(at_s[-1])
    kept = run(
        "SELECT 1 FROM d_day WHERE series_id = ? AND at_s >= ? AND at_s <= ? LIMIT 1",
        (series_id, first // DAY_S * DAY_S, last),
    ).first()
    if kept:
        refresh_buckets(session, series_id, first, last)
        return
    marks = ", ".join("?" * 11)
    raw = session.connection().connection.cursor()
    for table, width in WIDTHS.items():
        rows = [(series_id, *row) for row in drawn_together(at_s, temperature_c, erh, width)]
        raw.executemany(f"INSERT INTO {table} ({COLUMNS}) VALUES ({marks})", rows)
    raw.close()
