"""The real application in a real browser: Pellwick Mill served in a thread, on a clock the test moves."""

import os
import shutil
import socket
import threading
import time
from dataclasses import dataclass
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import Page, expect, sync_playwright

from brisk_larder.clock import MovedClock
from brisk_larder.data.store import Store
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from tests.conftest import app_of, opened_demo

NOW = 1_795_507_200 + 3600
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PATIENCE_MS = int(os.environ.get("UI_PATIENCE_MS", "30000"))
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser():
    chromium = os.environ.get("CHROMIUM", shutil.which("chromium") or "/usr/bin/chromium")
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path=chromium, args=FLAGS)
        yield made
        made.close()


@dataclass
class Served:
    """A running server: its address, its larder, and the clock to move."""

    url: str
    larder: Larder
    clock: MovedClock


def serve(path: Path, port: int | None = None):
    store = Store(path)
    ensure_model_rev(store)
    larder = Larder(store, MovedClock(NOW))
    home.ensure_household(larder, "Our larder", "Europe/London")
    yield from serving(larder, port)
    store.close()


def serving(larder: Larder, port: int | None = None):
    if port is None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
    config = uvicorn.Config(app_of(larder), host="127.0.0.1", port=port, log_level="error")
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield Served(f"http://127.0.0.1:{port}", larder, larder.clock)
    server.should_exit = True
    thread.join()


@pytest.fixture
def mill(demo_file, tmp_path):
    with opened_demo(demo_file, tmp_path) as larder:
        yield from serving(larder)


@pytest.fixture
def empty(tmp_path):
    yield from serve(tmp_path / "empty.sqlite3")


@pytest.fixture
def page(browser):
    """A desktop page that fails the test on any script error or request to elsewhere."""
    yield from open_page(browser, {"width": 1280, "height": 800})


@pytest.fixture
def phone(browser):
    yield from open_page(browser, {"width": 390, "height": 844})


def open_page(browser, viewport):
    context = browser.new_context(
        viewport=viewport, locale="en-GB", timezone_id="Europe/London", reduced_motion="reduce"
    )
    context.set_default_timeout(PATIENCE_MS)
    made: Page = context.new_page()
    problems: list[str] = []
    made.on("pageerror", lambda error: problems.append(str(error)))

    def heard(message):
        # a refused input answers 4xx, which the browser logs by itself; that is no fault of the page
        if message.type in ("error", "warning") and "Failed to load resource" not in message.text:
            problems.append(message.text)

    def asked(request):
        if not request.url.startswith(("http://127.0.0.1:", "data:", "blob:")):
            problems.append(f"asked {request.url}")

    made.on("console", heard)
    made.on("request", asked)
    yield made
    context.close()
    assert problems == []
