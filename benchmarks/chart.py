"""A container's chart over 5,000,000 stored readings at any zoom, through the running server.

The whole answer (request, query, JSON, response) against the bare SQL on the same table with
fetchall, in the same run. Usage: python benchmarks/chart.py [--quick]. The last line is JSON.
"""

from __future__ import annotations

import http.client
import json
import socket
import sqlite3
import sys
import threading
import time

import uvicorn
from scale import NOW, make

from brisk_larder.api.app import make_app
from brisk_larder.services.air.standing import DeploymentRow
from brisk_larder.services.storage import charts

QUICK = "--quick" in sys.argv
SIZE = (60, 4, 40_000, 2.0) if QUICK else (2000, 40, 5_000_000, 10.0)
ROUNDS = 5 if QUICK else 40
NODE, SERIES = 9, 2


def middle(times: list[float]) -> float:
    return sorted(times)[len(times) // 2]


def main() -> None:
    larder = make(*SIZE)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(make_app(larder), port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    raw = sqlite3.connect(larder.store.path)
    line = http.client.HTTPConnection("127.0.0.1", port)
    found = {}
    for days in (3, 30, 365, 1100, 3650):
        start = NOW - days * 86_400
        run = lambda sql, values: raw.execute(sql, values).fetchall()  # noqa: E731
        here = run("SELECT count(*) FROM deployment WHERE node_id = ?", (NODE,))[0][0]
        deployed = DeploymentRow(SERIES, NODE, 0, None)
        points = charts.MOST_POINTS // here
        sql, values, table = charts.plan(run, deployed, "logger", start, NOW + 1, points)
        api, bare, inside, points = [], [], [], 0
        for _ in range(ROUNDS):
            began = time.perf_counter()
            rows = raw.execute(sql, values).fetchall()
            bare.append(time.perf_counter() - began)
            began = time.perf_counter()
            charts.readings_json(larder, NODE, start, NOW + 1)
            inside.append(time.perf_counter() - began)
            began = time.perf_counter()
            line.request("GET", f"/api/storage/nodes/{NODE}/read?from_s={start}&to_s={NOW + 1}")
            body = line.getresponse().read()
            api.append(time.perf_counter() - began)
        points = len(json.loads(body)["series"][0]["at_s"])
        assert points == len(rows) < 2000
        found[f"{days}d"] = {
            "table": table, "points": points, "api_ms": 1000 * middle(api),
            "service_ms": 1000 * middle(inside),
            "sql_ms": 1000 * middle(bare), "ratio": middle(api) / middle(bare),
            "service_ratio": middle(inside) / middle(bare),
        }  # fmt: skip
        f = found[f"{days}d"]
        print(f"{days:>5} days {table:<8}{points:>6} points  api {f['api_ms']:7.2f} ms  "
              f"sql {f['sql_ms']:7.2f} ms  ratio {f['ratio']:.2f}, "
              f"without HTTP {f['service_ratio']:.2f}")  # fmt: skip
    server.should_exit = True
    thread.join()
    larder.store.close()
    print(json.dumps({"worst_ratio": max(f["ratio"] for f in found.values()), "by_span": found}))


main()
