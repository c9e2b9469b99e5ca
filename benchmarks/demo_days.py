"""python benchmarks/demo_days.py [--quick]

Pellwick Mill is built for the first and the fifteenth of every month of a year, and looked into: each room
answers, nothing is left out, and how long it takes. ``--quick``: one day a season."""

import json
import sys
import tempfile
import time
from datetime import date
from pathlib import Path

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.units import day_start_s
from brisk_larder.data.store import Store
from brisk_larder.demo import build
from brisk_larder.services.growing.calendar_page import calendar_page
from brisk_larder.services.growing.sowings import growing_room
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs.basket_page import basket_room
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.needs.pantry_page import pantry_room
from brisk_larder.services.saving.saving_page import saving_room
from brisk_larder.services.today import calendar, jobs, ribbon

YEAR = 2027
DAYS = [date(YEAR, month, day) for month in range(1, 13) for day in (1, 15)]
QUICK = [date(YEAR, month, 15) for month in (3, 6, 9, 12)]
ROOMS = (
    growing_room, basket_room, pantry_room, calendar_page, saving_room, ribbon.ribbon, calendar.calendar,
)  # fmt: skip


def looked_at(path: Path, day: date) -> dict[str, object]:
    now_s = day_start_s(day, "Europe/London") + 8 * 3600
    begun = time.perf_counter()
    left_out = build(path, now_s)
    took = time.perf_counter() - begun
    store = Store(path)
    try:
        larder = Larder(store, MovedClock(now_s + 3600))
        today, needs = jobs.today_room(larder), needs_room(larder)
        for room in ROOMS:
            room(larder)
        return {
            "day": day.isoformat(),
            "seconds": round(took, 1),
            "left_out": left_out,
            "rows": len(today.rows),
            "jobs": len(today.jobs),
            "sow": sum(p.kind == "sow" for p in (*today.jobs, *today.later)),
            "missed": sum(p.kind == "missed" for p in (*today.jobs, *today.later)),
            "foods": sum(x.kind == "food" for x in needs.lines),
            "sown": sum(bool(x.sown_plants) for x in needs.lines),
            "short": sum(bool(x.short_plants) for x in needs.lines),
        }
    finally:
        store.close()


def main() -> None:
    out = []
    with tempfile.TemporaryDirectory() as folder:
        for day in QUICK if "--quick" in sys.argv else DAYS:
            out.append(looked_at(Path(folder) / "demo.sqlite3", day))
            print(json.dumps(out[-1]), flush=True)
    print(json.dumps({"days": len(out), "most_seconds": max(x["seconds"] for x in out)}))


if __name__ == "__main__":
    main()
