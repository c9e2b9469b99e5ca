"""5,000 lots: the list, the strips in view, all forecasts, find, and the list scrolled in Chromium.

Each against the bare SQL that reads the same columns, in one run. Usage: python
benchmarks/stock.py [--quick]. The last line is JSON.
"""

from __future__ import annotations

import gc
import json
import shutil
import socket
import statistics
import sys
import threading
import time
from collections.abc import Callable

import uvicorn
from fastapi.testclient import TestClient
from playwright.sync_api import sync_playwright
from scale import make

from brisk_larder.api.app import make_app
from brisk_larder.services.forecast import glance, lines
from brisk_larder.services.forecast.lines import LINE_ROWS
from brisk_larder.services.stock import finding, rows

LOTS = 400 if "--quick" in sys.argv else 5000
FLAGS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]


def median(do: Callable[[], object], times: int = 7) -> float:
    """Median seconds of some runs."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        do()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def browser(url: str) -> dict[str, float]:
    """The list in a real browser: to the first strip, and the long tasks while it is scrolled."""
    with sync_playwright() as p:
        chromium = p.chromium.launch(
            executable_path=shutil.which("chromium") or "/usr/bin/chromium", args=FLAGS
        )
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{url}/papers")
        page.wait_for_load_state("networkidle")
        page.evaluate(
            "() => { window.long = []; new PerformanceObserver(l => l.getEntries().forEach("
            "e => window.long.push(e.duration))).observe({type: 'longtask'}) }"
        )
        start = time.perf_counter()
        page.keyboard.press("2")
        page.wait_for_selector(".lot")
        first = time.perf_counter() - start
        page.wait_for_selector(".lot .strip[role=img]")
        strips = time.perf_counter() - start
        page.wait_for_load_state("networkidle")
        opening = page.evaluate("() => Math.max(0, ...window.long.splice(0))")
        for _ in range(60):
            page.mouse.wheel(0, 900)
            page.wait_for_timeout(40)
        page.wait_for_timeout(500)
        long = page.evaluate("() => window.long")
        drawn = page.locator(".lot").count()
        chromium.close()
    print(f"browser: first row {1000 * first:.0f} ms, first strip {1000 * strips:.0f} ms")
    print(f"browser: longest task while opening {opening:.0f} ms")
    print(
        f"browser: 60 turns of the wheel: {len(long)} tasks over 50 ms"
        f" (longest {max(long, default=0):.0f} ms), {drawn} rows drawn"
    )
    return {"first_row_s": first, "first_strip_s": strips, "long_tasks": len(long)}


def main() -> None:
    """All of it."""
    larder = make(LOTS, 40, 40_000 if LOTS < 1000 else 400_000, 10)
    lines.lot_lines(larder)
    gc.collect()  # as the server does before it serves
    gc.freeze()
    client = TestClient(make_app(larder), base_url="http://127.0.0.1")

    def sql() -> object:
        with larder.store.read() as session:
            return session.connection().exec_driver_sql(LINE_ROWS).all()

    bare = median(sql)
    build = (
        median(lambda: lines.lines_with(larder, kept), 5) if (kept := glance.glances(larder)) else 0
    )
    served = median(lambda: client.get("/api/stock/rows").raise_for_status())
    print(f"{LOTS} lots; bare SQL of the list's columns {1000 * bare:.0f} ms")
    print(f"lines made anew {1000 * build:.0f} ms, ratio {build / bare:.1f}")
    print(f"list over HTTP, remembered {1000 * served:.0f} ms, ratio {served / bare:.1f}")

    def drop() -> None:
        with larder.store.write() as session:
            session.connection().exec_driver_sql("DELETE FROM d_glance")

    drop()
    start = time.perf_counter()
    rows.stock_list(larder, "season")
    print(f"list with no forecast ready {1000 * (time.perf_counter() - start):.0f} ms")
    start = time.perf_counter()
    rows.strips(larder, list(range(200, 230)))
    print(f"30 strips in view, cold {1000 * (time.perf_counter() - start):.0f} ms")
    drop()
    start = time.perf_counter()
    glance.glances(larder)
    cold = time.perf_counter() - start
    warm = median(lambda: glance.glances(larder), 5)
    print(f"all forecasts cold {cold:.1f} s, from the day's cache {1000 * warm:.0f} ms")

    words = ("Sort 4711", "Srot 4171", "tin 17", "L4999", "Sort 12 Tin 3", "kael")
    finding.find(larder, "warm up")
    found = {w: median(lambda w=w: finding.find(larder, w), 5) for w in words}  # type: ignore[misc]

    def like() -> object:
        with larder.store.read() as session:
            return (
                session.connection()
                .exec_driver_sql(
                    f"SELECT * FROM ({LINE_ROWS}) WHERE name LIKE '%4711%' OR code LIKE '%4711%'"
                )
                .all()
            )

    scan = median(like)
    worst = max(found.values())
    print(
        "find: "
        + ", ".join(f"{w!r} {1000 * t:.0f} ms" for w, t in found.items())
        + f"; a LIKE over the same rows {1000 * scan:.0f} ms, worst ratio {worst / scan:.1f}"
    )

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = uvicorn.Server(
        uvicorn.Config(make_app(larder), host="127.0.0.1", port=port, log_level="error")
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    seen = browser(f"http://127.0.0.1:{port}")
    server.should_exit = True
    thread.join()
    figures = {
        "lots": LOTS, "sql_s": bare, "lines_s": build, "ratio": build / bare, "http_s": served,
        "cold_s": cold, "warm_s": warm, "find_s": worst, "find_ratio": worst / scan, **seen,
    }  # fmt: skip
    print(json.dumps(figures))


if __name__ == "__main__":
    main()
