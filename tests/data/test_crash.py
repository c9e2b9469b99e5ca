"""A killed process: all of an act or nothing of it, and a file that is whole."""

import signal
import sqlite3
import subprocess
import sys
import time

import pytest
from sqlmodel import select

from brisk_larder.clock import MovedClock
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Act, DMonth, ImportBatch, Reading
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.household.larder import Larder
from tests.conftest import NOW

CHILD = """
import sys
from pathlib import Path
from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.storage import containers, imports
store = Store(Path(sys.argv[1]))
ensure_model_rev(store)
larder = Larder(store, MovedClock(1795507200))
home.ensure_household(larder, "Pellwick Mill")
node = containers.add_node(larder, ActRef(), containers.NewNode("larder", place_kind="larder")).node_id
lines = ["time,temperature_c"]
from datetime import UTC, datetime
for i in range(60000):
    lines.append(f"{datetime.fromtimestamp(1700000000 + 600 * i, UTC):%Y-%m-%d %H:%M:%S},{10 + i % 7}")
data = "\\n".join(lines).encode()
print("ready", flush=True)
imports.import_readings(larder, ActRef(), node, "log.csv", data, "UTC")
"""


@pytest.mark.parametrize("wait_s", [0.15, 0.45, 0.9, 3.0])
def test_kill_9_in_an_import_leaves_all_or_nothing(tmp_path, wait_s):
    path = tmp_path / "larder.sqlite3"
    child = subprocess.Popen(
        [sys.executable, "-c", CHILD, str(path)], stdout=subprocess.PIPE, text=True
    )
    assert child.stdout is not None
    assert child.stdout.readline().strip() == "ready"
    time.sleep(wait_s)
    child.send_signal(signal.SIGKILL)
    child.wait()
    child.stdout.close()
    store = Store(path)
    with store.read() as session:
        batches = session.exec(select(ImportBatch)).all()
        rows = len(session.exec(select(Reading.at_s)).all())
        acts = [a for a in session.exec(select(Act)) if a.kind == "import_readings"]
    assert (rows, len(batches), len(acts)) in ((0, 0, 0), (60_000, 1, 1))
    store.close()
    with sqlite3.connect(path) as raw:
        assert raw.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert raw.execute("PRAGMA foreign_key_check").fetchall() == []
    raw.close()


def test_marks_survive_so_that_a_rebuild_is_never_forgotten(small, tmp_path):
    """The process ends after an act and before any look: the next one finds the mark."""
    small.read("tin", 35, 80, 20)
    path = small.larder.store.path
    again = Larder(Store(path), MovedClock(NOW))
    bring_up_to_date(again)
    with again.store.read() as session:
        months = session.exec(select(DMonth)).all()
    assert months
    hot = {x.lot_id: x.glance.now.mid for x in lines.lot_lines(again)}
    assert hot[small.lots["onion"]] < 0.85
    again.store.close()
