"""A large made-up larder: 2,000 lots in 40 containers, 5,000,000 readings of 40 loggers in ten years.

Written straight into the tables; used by the other scripts and kept under the temporary folder.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from brisk_larder.clock import MovedClock
from brisk_larder.data import tables as t
from brisk_larder.data.store import Store
from brisk_larder.services.air.buckets import rebuild_buckets
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home, larder
from brisk_larder.services.household.kinds import reference

NOW = 1_795_507_200
YEAR = 31_557_600


def make(lots: int, boxes: int, readings: int, years: float, own: str = "") -> larder.Larder:
    """A larder of that size, made anew unless it is there; ageing not yet computed.

    ``own``: the name of a script that changes what is in it; its file is made anew each time.
    """
    size = f"{lots}-{boxes}-{readings}"
    path = Path(tempfile.gettempdir()) / f"larder-scale-{own and own + '-'}{size}.sqlite3"
    if own:
        for end in ("", "-wal", "-shm"):
            path.with_name(path.name + end).unlink(missing_ok=True)
    fresh_file = not path.exists()
    store = Store(path)
    ensure_model_rev(store)
    made = larder.Larder(store, MovedClock(NOW))
    if fresh_file:
        home.ensure_household(made, "Pellwick Mill", "UTC")
        _fill(store, lots, boxes, readings, years)
    return made


def _fill(store: Store, lots: int, boxes: int, readings: int, years: float) -> None:
    rng = np.random.default_rng(5)
    start = int(NOW - years * YEAR)
    kinds = list(reference().crops)
    places, each = 8, readings // boxes
    with store.write() as session:
        for i in range(1, places + 1):
            kind = "larder" if i % 2 else "cellar"
            session.add(t.Node(id=i, code=f"P{i}", name=f"Room {i}", role="place", place_kind=kind))
        for b in range(boxes):
            node, series = places + 1 + b, b + 2
            session.add(
                t.Node(id=node, code=f"C{b}", name=f"Tin {b}", role="container",
                       container_kind="metal_tin_plain")
            )  # fmt: skip
            session.flush()
            session.add(t.Stay(node_id=node, parent_node_id=1 + b % places, from_s=start - YEAR))
            session.add(t.Series(id=series, name=f"logger {b}", origin="logger"))
            session.flush()
            session.add(t.Deployment(series_id=series, node_id=node, from_s=0))
        for lot in range(1, lots + 1):
            kind = kinds[int(rng.integers(len(kinds)))]
            session.add(t.Variety(id=lot, crop=kind, name=f"Sort {lot}"))
            session.add(t.Lot(id=lot, code=f"L{lot}"))
            session.flush()
            session.add(t.Cohort(id=lot, variety_id=lot, source="own", record_from_s=start))
            session.flush()
            session.add(t.Part(lot_id=lot, cohort_id=lot, from_s=start))
            session.add(t.Stay(lot_id=lot, parent_node_id=places + 1 + lot % boxes, from_s=start))
        session.flush()
        raw = session.connection().connection.cursor()
        for b in range(boxes):
            at = np.linspace(start, NOW - 7200, each).astype(int)
            season = np.cos(2 * np.pi * (at / YEAR - 0.6))
            c = np.round(12 + 5 * season + rng.normal(0, 1, each), 1)
            h = np.round(np.clip(0.55 + 0.05 * season + rng.normal(0, 0.03, each), 0.1, 0.95), 3)
            raw.executemany(
                "INSERT INTO reading (series_id, at_s, temperature_c, erh) VALUES (?, ?, ?, ?)",
                zip([b + 2] * each, at.tolist(), c.tolist(), h.tolist(), strict=True),
            )
        raw.close()
        rebuild_buckets(session)
