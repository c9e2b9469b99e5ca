"""First contentful paint and script weight of a warm server, median of five fresh pages.

Usage: python benchmarks/first_paint.py [--quick]. Baseline: the API's own docs page
from the same server.
The last line is JSON.
"""

from __future__ import annotations

import json
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from statistics import median

from playwright.sync_api import sync_playwright

FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"]
ROUNDS = 3 if "--quick" in sys.argv else 5
PAINT = "performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? -1"
WEIGHT = (
    "performance.getEntriesByType('resource').filter(r => r.name.endsWith('.js'))"
    ".reduce((sum, r) => sum + r.encodedBodySize, 0)"
)


def main() -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory() as folder:
        command = [
            str(Path(sys.executable).with_name("larder")), "demo", "--port", str(port),
            "--data", f"{folder}/demo.sqlite3",
        ]  # fmt: skip
        server = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        url = f"http://127.0.0.1:{port}"
        try:
            for _ in range(400):
                try:
                    urllib.request.urlopen(f"{url}/api/today").read()
                    break
                except OSError:
                    time.sleep(0.2)
            with sync_playwright() as p:
                chromium = p.chromium.launch(
                    executable_path=shutil.which("chromium") or "/usr/bin/chromium", args=FLAGS
                )

                def look(path: str) -> tuple[float, float]:
                    page = chromium.new_context().new_page()
                    page.goto(url + path)
                    page.wait_for_load_state("networkidle")
                    got = page.evaluate(PAINT), page.evaluate(WEIGHT)
                    page.context.close()
                    return got

                ours = [look("/stock") for _ in range(ROUNDS)]
                plain = [look("/docs") for _ in range(ROUNDS)]
                chromium.close()
        finally:
            server.terminate()
            server.wait()
    out = {
        "first_contentful_paint_ms": median(o[0] for o in ours),
        "script_kb": median(o[1] for o in ours) / 1000,
        "api_docs_paint_ms": median(o[0] for o in plain),
    }
    for name, value in out.items():
        print(f"{name:<28}{value:9.1f}")
    out["ratio"] = out["first_contentful_paint_ms"] / max(out["api_docs_paint_ms"], 1)
    print(json.dumps(out))


main()
