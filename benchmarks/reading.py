"""A new reading at 2,000 lots and 5,000,000 readings: logged, all it touches rebuilt; against a full rebuild.

Usage: python benchmarks/reading.py [--quick]. The last line is JSON.
"""

from __future__ import annotations

import json
import sys
import time

from scale import make

from brisk_larder.data.acts import ActRef
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.forecast.stale import remark_everything
from brisk_larder.services.storage import readings

QUICK = "--quick" in sys.argv
SIZE = (60, 4, 40_000, 2.0) if QUICK else (2000, 40, 5_000_000, 10.0)
ROUNDS = 3 if QUICK else 12


def timed(do) -> float:
    started = time.perf_counter()
    do()
    return time.perf_counter() - started


def states(larder):
    with larder.store.read() as session:
        run = session.connection().exec_driver_sql
        return run("SELECT * FROM d_month ORDER BY part_id, month_s").fetchall()


def main() -> None:
    larder = make(*SIZE, own="reading")

    def everything() -> None:
        with larder.store.write() as session:
            remark_everything(session)

    everything()
    bring_up_to_date(larder)  # compiled, and the file's pages in memory
    everything()
    full = timed(lambda: bring_up_to_date(larder))
    places, log, rebuild = 8, [], []
    for i in range(ROUNDS):
        node = places + 1 + i % SIZE[1]
        larder.clock.at_s += 1800
        dial = readings.DialReading(12.0 + i / 4, 55)
        log.append(timed(lambda d=dial, n=node: readings.log_reading(larder, ActRef(), n, d)))
        rebuild.append(timed(lambda: bring_up_to_date(larder)))
    increment = states(larder)
    everything()
    bring_up_to_date(larder)
    same = increment == states(larder)
    larder.store.close()
    # the first of each kind opens connections and plans queries
    log_s, rebuild_s = sorted(log)[len(log) // 2], sorted(rebuild)[len(rebuild) // 2]
    found = {
        "log_s": log_s, "rebuild_s": rebuild_s, "both_s": log_s + rebuild_s, "worst_s": max(
            a + b for a, b in zip(log[1:], rebuild[1:], strict=True)
        ), "full_s": full, "full_over_both": full / (log_s + rebuild_s), "increment_equals_full": same,
    }  # fmt: skip
    for name, value in found.items():
        print(f"{name:<24}{value:10.4g}")
    print(json.dumps(found))


main()
