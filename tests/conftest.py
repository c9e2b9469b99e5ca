"""An empty larder on a clock that the test moves, and a small one with a place and a few lots."""

import os
import time
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import settings

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store, copy_database
from brisk_larder.demo import build
from brisk_larder.services.acts import entry
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.papers import settings_page
from brisk_larder.services.storage import containers, readings
from brisk_larder.services.today import jobs

# no example is failed for being slow on a busy machine; CI takes the same examples every time
settings.register_profile("house", deadline=None, derandomize=bool(os.environ.get("CI")))
settings.load_profile("house")

DAY = 86_400


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory) -> Path:
    """Pellwick Mill on its day, built once for all workers; tests work on copies."""
    base = tmp_path_factory.getbasetemp()
    # one worker of several has its folder beside theirs; alone, what lies beside is of other runs
    shared = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "demo"
    shared.mkdir(exist_ok=True)
    path, claim = shared / "demo.sqlite3", shared / "claimed"
    try:
        claim.touch(exist_ok=False)
    except FileExistsError:
        deadline = time.monotonic() + 300
        while not path.exists():
            assert not (shared / "failed").exists(), "another worker could not build the demo"
            assert time.monotonic() < deadline, "the worker that builds the demo never finished"
            time.sleep(0.2)
        return path
    try:
        build(shared / "building.sqlite3", NOW)
        # an hour on, as the browser tests find it: what is kept for speed is worked out once for all copies
        store = Store(shared / "building.sqlite3")
        jobs.today_room(Larder(store, MovedClock(NOW + 3600)))
        store.close()
    except BaseException:
        (shared / "failed").touch()
        raise
    (shared / "building.sqlite3").rename(path)
    return path


NOW = 1_795_507_200  # 24 November 2026, 08:00 UTC


@pytest.fixture(scope="session")
def templates(tmp_path_factory) -> tuple[Path, Path, dict[str, int], dict[str, int]]:
    """An empty larder and the small one, made once for each worker: every test takes a copy."""
    folder = tmp_path_factory.mktemp("templates")
    made = Larder(Store(folder / "empty.sqlite3"), MovedClock(NOW))
    ensure_model_rev(made.store)
    home.ensure_household(made, "Pellwick Mill", "Europe/London")
    copy_database(folder / "empty.sqlite3", folder / "small.sqlite3")
    made.store.close()
    made = Larder(Store(folder / "small.sqlite3"), MovedClock(NOW))
    nodes, lots = settle(made)
    made.store.close()
    return folder / "empty.sqlite3", folder / "small.sqlite3", nodes, lots


def opened(template: Path, path: Path):
    copy_database(template, path)
    store = Store(path)
    yield Larder(store, MovedClock(NOW))
    store.close()


@pytest.fixture
def larder(templates, tmp_path):
    yield from opened(templates[0], tmp_path / "larder.sqlite3")


@dataclass
class Small:
    """A settled household: a larder with a tin and a porch, kale and onion lots by name."""

    larder: Larder
    nodes: dict[str, int]
    lots: dict[str, int]

    def line(self, name: str):
        return next(x for x in lines.lot_lines(self.larder) if x.lot_id == self.lots[name])

    def read(self, node: str, temperature: float, humidity: float, days_ago: float = 0.0):
        at = self.larder.now_s() - int(days_ago * DAY)
        dial = readings.DialReading(temperature, humidity, at_s=at)
        return readings.log_reading(self.larder, ActRef(), self.nodes[node], dial)


def packet(kind, variety, year=2024, quantity="300", **more):
    more.setdefault("since", "since it came")
    return NewSeeds(kind=kind, variety=variety, year=year, quantity=quantity, **more)


def settle(larder: Larder) -> tuple[dict[str, int], dict[str, int]]:
    """What stands in the small larder: places and lots by name."""
    settings_page.settle(larder, ActRef(), "cool_upland")
    nodes = {}
    for name, kind in (("larder", "larder"), ("porch", "porch")):
        nodes[name] = containers.add_node(
            larder, ActRef(), containers.NewNode(name, place_kind=kind)
        ).node_id
    tin = containers.NewNode("tin", container_kind="metal_tin_plain", parent_id=nodes["larder"])
    nodes["tin"] = containers.add_node(larder, ActRef(), tin).node_id
    pile = [
        packet(
            "kale", "Slate Curl", 2023, "700", source="own", kept_line=True, node_id=nodes["tin"]
        ),
        packet("onion", "Brackenbulb", 2025, "400", node_id=nodes["tin"]),
        packet("carrot", "Ember Root", 2025, "2 g", node_id=nodes["porch"]),
    ]
    ids = entry.add_seeds(larder, ActRef(), pile).lot_ids
    return nodes, dict(zip(("kale", "onion", "carrot"), ids, strict=True))


@pytest.fixture
def small(templates, tmp_path):
    _, file, nodes, lots = templates
    for larder in opened(file, tmp_path / "larder.sqlite3"):
        yield Small(larder, dict(nodes), dict(lots))
