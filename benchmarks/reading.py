"""A new reading at Pellwick Mill: logged, rebuilt, listed again; against a full rebuild.

Usage: python benchmarks/reading.py [--quick]. The last line is JSON.
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
from datetime import date
from pathlib import Path

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.demo import build
from brisk_larder.services import readings, stock, storage
from brisk_larder.services.forecast import fresh, remark_everything
from brisk_larder.services.larder import Larder

ROUNDS = 3 if "--quick" in sys.argv else 10


def timed(do) -> float:
    started = time.perf_counter()
    do()
    return time.perf_counter() - started


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "mill.sqlite3"
        build(path, date(2026, 11, 24))
        larder = Larder(Store(path), MovedClock(1_795_507_200))
        node = next(
            b.node_id for s in storage.shelves(larder) for b in s.boxes if b.name == "Tin 1"
        )
        log, rebuild, listed, full = [], [], [], []
        for i in range(ROUNDS):
            larder.clock.at_s += 3600
            dial = readings.DialReading(12.0 + i, 55)
            log.append(timed(lambda dial=dial: readings.log_reading(larder, ActRef(), node, dial)))
            rebuild.append(timed(lambda: fresh(larder)))
            listed.append(timed(lambda: stock.lot_lines(larder)))
        for _ in range(ROUNDS):
            with larder.store.write() as session:
                remark_everything(session)
            full.append(timed(lambda: fresh(larder)))
        larder.store.close()
    middle = {k: sorted(v)[len(v) // 2] for k, v in
              {"log_s": log, "increment_s": rebuild, "list_s": listed, "full_s": full}.items()}  # fmt: skip
    for name, value in middle.items():
        print(f"{name:<16}{1000 * value:9.1f} ms")
    middle["full_over_increment"] = middle["full_s"] / middle["increment_s"]
    print(f"{'full/increment':<16}{middle['full_over_increment']:9.1f}")
    print(json.dumps(middle))


main()
