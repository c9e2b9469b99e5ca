"""A logger's CSV of 1,000,000 rows taken in, checks and de-duplication included.

Against Python's csv module and executemany into the same table, in the same run. Memory is the
growth of the process while importing, in MB. Usage: python benchmarks/import_csv.py [--quick].
"""

from __future__ import annotations

import csv
import json
import resource
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.storage import containers, imports

QUICK = "--quick" in sys.argv
ROWS = 30_000 if QUICK else 1_000_000
NOW = 1_795_507_200


def write_file(path: Path) -> None:
    start = NOW - ROWS * 300 - 3600
    with path.open("w") as out:
        out.write("device: bench\ntime,temperature_c,humidity_pct\n")
        for i in range(ROWS):
            moment = datetime.fromtimestamp(start + 300 * i, UTC).strftime("%Y-%m-%d %H:%M:%S")
            out.write(
                f"{moment}Z,{12 + i % 50 / 10:.1f},{55 + i % 30 / 10:.1f}\n".replace(" ", "T", 1)
            )


def plain(store: Store, path: Path) -> float:
    """What the same file costs with no check at all: csv, three conversions, executemany."""
    started = time.perf_counter()
    with path.open() as lines, store.write() as session:
        next(lines), next(lines)
        raw = session.connection().connection.cursor()
        raw.executemany(
            "INSERT INTO reading (series_id, at_s, temperature_c, erh) VALUES (1, ?, ?, ?)",
            (
                (
                    int(datetime.fromisoformat(t.replace("Z", "+00:00")).timestamp()),
                    float(c),
                    float(h) / 100,
                )
                for t, c, h in csv.reader(lines)
            ),
        )
    return time.perf_counter() - started


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "log.csv"
        write_file(path)
        other = Store(Path(folder) / "plain.sqlite3")
        home.ensure_household(Larder(other, MovedClock(NOW)), "Pellwick Mill", "UTC")
        store = Store(Path(folder) / "larder.sqlite3")
        ensure_model_rev(store)
        larder = Larder(store, MovedClock(NOW))
        home.ensure_household(larder, "Pellwick Mill", "UTC")
        new = containers.NewNode("larder", place_kind="larder")
        node = containers.add_node(larder, ActRef(), new).node_id
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        started = time.perf_counter()
        done = imports.import_file(larder, ActRef(), node, path, "log.csv")
        ours = time.perf_counter() - started
        memory = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        started = time.perf_counter()
        again = imports.import_file(larder, ActRef(), node, path, "log.csv")
        twice = time.perf_counter() - started
        baseline = plain(other, path)
        assert (done.new_rows, again.new_rows) == (ROWS, 0)
        store.close(), other.close()
    found = {
        "rows": ROWS, "ours_s": ours, "again_s": twice, "plain_s": baseline,
        "ratio": ours / baseline, "memory_mb": memory,
        "whole_process_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
    }  # fmt: skip
    for name, value in found.items():
        print(f"{name:<20}{value:12.4g}")
    print(json.dumps(found))


main()
