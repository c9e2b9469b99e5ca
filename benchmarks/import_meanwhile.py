"""How long rooms and acts wait while a million rows come in, over HTTP, against the same when nothing does.

Pellwick Mill is served; one client brings a logger's file of 1,000,000 rows, another goes through the
rooms and books a count now and then. Usage: python benchmarks/import_meanwhile.py [--quick] [mill FILE]
(a file of the demo to work on a copy of, else one is built).
"""

from __future__ import annotations

import json
import shutil
import socket
import sys
import tempfile
import threading
import time
from datetime import UTC, datetime
from pathlib import Path

import httpx
import numpy as np
import uvicorn

from brisk_larder.api.app import make_app
from brisk_larder.clock import SystemClock
from brisk_larder.data.store import Store
from brisk_larder.demo import build
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household.larder import Larder

QUICK = "--quick" in sys.argv
ROWS = 12_000 if QUICK else 1_000_000
IDLE_S = 2.0 if QUICK else 8.0
ROOMS = ("today", "storage/shelves", "stock/rows", "needs", "tests", "counts", "storage/alarms")


def write_file(path: Path) -> None:
    start = int(time.time()) - ROWS * 300 - 7200
    with path.open("w") as out:
        out.write("time,temperature_c,humidity_pct\n")
        for i in range(ROWS):
            moment = datetime.fromtimestamp(start + 300 * i, UTC)
            out.write(
                f"{moment:%Y-%m-%dT%H:%M:%S}Z,{12 + i % 50 / 10:.1f},{55 + i % 30 / 10:.1f}\n"
            )


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def figures(times: list[float]) -> dict[str, float]:
    got = np.array(times) if times else np.zeros(1)
    p50, p99 = (float(np.quantile(got, q)) for q in (0.5, 0.99))
    return {"n": len(times), "p50_s": round(p50, 3), "p99_s": round(p99, 3),
            "most_s": round(float(got.max()), 3)}  # fmt: skip


class Keeper:
    """Somebody who goes through the rooms, and counts a lot now and then."""

    def __init__(self, base: str) -> None:
        self.client = httpx.Client(base_url=base, timeout=60)
        self.lot = self.client.get("/api/stock/lots").json()[0]["lot_id"]
        self.done = threading.Event()

    def walk(self) -> tuple[list[float], list[float]]:
        looks, acts, i = [], [], 0
        while not self.done.is_set():
            started = time.perf_counter()
            if i % 8 == 7:
                body = {"kind": "counted", "amount": str(100 + i)}
                answer = self.client.post(f"/api/stock/lots/{self.lot}/quantity", json=body)
                acts.append(time.perf_counter() - started)
            else:
                answer = self.client.get(f"/api/{ROOMS[i % len(ROOMS)]}")
                looks.append(time.perf_counter() - started)
            assert answer.status_code == 200, answer.text
            i += 1
        return looks, acts

    def while_doing(self, work: threading.Thread) -> tuple[list[float], list[float]]:
        self.done.clear()
        ended = threading.Thread(target=lambda: (work.start(), work.join(), self.done.set()))
        ended.start()
        got = self.walk()
        ended.join()
        return got


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "mill.sqlite3"
        if "mill" in sys.argv:
            shutil.copy(sys.argv[sys.argv.index("mill") + 1], path)
        else:
            build(path, int(time.time()))
        store = Store(path)
        ensure_model_rev(store)
        port = free_port()
        app = make_app(Larder(store, SystemClock()))
        server = uvicorn.Server(
            uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning")
        )
        serving = threading.Thread(target=server.run)
        serving.start()
        while not server.started:
            time.sleep(0.05)
        base = f"http://127.0.0.1:{port}"
        file = Path(folder) / "log.csv"
        write_file(file)
        keeper = Keeper(base)
        new = {"name": "mill loft", "place_kind": "attic"}
        node = keeper.client.post("/api/storage/nodes", json=new).json()["result"]["node_id"]
        state: dict[str, object] = {}

        def bring() -> None:
            with httpx.Client(base_url=base, timeout=120) as client, file.open("rb") as stream:
                desk = client.post(
                    f"/api/storage/nodes/{node}/imports", files={"file": ("log.csv", stream)}
                ).json()
                url = f"/api/storage/imports/{desk['token']}"
                client.post(f"{url}/take", json={"answers": {"tz": "UTC"}})
                while (now := client.get(url).json())["state"] == "reading":
                    time.sleep(0.2)
                state.update(now)

        keeper.while_doing(threading.Thread(target=lambda: time.sleep(IDLE_S)))  # warm
        idle = keeper.while_doing(threading.Thread(target=lambda: time.sleep(IDLE_S)))
        started = time.perf_counter()
        busy = keeper.while_doing(threading.Thread(target=bring))
        took = time.perf_counter() - started
        assert state["state"] == "done", state
        server.should_exit = True
        serving.join()
        store.close()
    found = {
        "rows": ROWS, "import_s": round(took, 2), "rooms_idle": figures(idle[0]),
        "acts_idle": figures(idle[1]), "rooms_meanwhile": figures(busy[0]),
        "acts_meanwhile": figures(busy[1]),
        "ratio": figures(busy[0])["p99_s"] / max(figures(idle[0])["p99_s"], 1e-3),
    }  # fmt: skip
    for name, value in found.items():
        print(f"{name:<20}{value}")
    print(json.dumps(found))


main()
