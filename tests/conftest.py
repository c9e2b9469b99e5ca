"""An empty larder on a clock that the test moves, and a small one with a place and a few lots."""

import os
import shutil
import time
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import settings

from brisk_larder.api.app import make_app, serves
from brisk_larder.clock import MovedClock
from brisk_larder.core.hand.measures import Writing
from brisk_larder.data import store as store_module
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Shared, Store, copy_database
from brisk_larder.demo import build
from brisk_larder.services.acts import entry
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household import larder as read_last
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.papers import settings_page
from brisk_larder.services.storage import containers, readings
from brisk_larder.services.today import jobs

# no example is failed for being slow on a busy machine; CI takes the same examples every time
settings.register_profile("house", deadline=None, derandomize=bool(os.environ.get("CI")))
settings.load_profile("house")

DAY = 86_400
_LIKE: list = []


def _engine_like_the_first(path, how=None, made=store_module._engine):
    """Statements are compiled once in a worker, not once for each of its thousand files."""
    engine = made(path, how)
    if _LIKE:
        first = _LIKE[0]
        engine.dialect = engine.pool._dialect = first.dialect
        engine._compiled_cache = first._compiled_cache
    else:
        with engine.connect():
            _LIKE.append(engine)
    return engine


store_module._engine = _engine_like_the_first


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
ON_DEMO = NOW + 3600
_ROOMS: dict[
    str, object
] = {}  # what rooms of an untouched demo are, once they were reckoned in this worker
_AIRS: dict[object, object] = {}


class Rooms(dict):
    """What a copy of the demo remembers; what it reckons before it is written to, later copies know too."""

    def __init__(self, state):
        super().__init__({name: (state, room) for name, room in _ROOMS.items()})
        self.state = state

    def __setitem__(self, name, kept):
        if kept[0] == self.state:
            _ROOMS[name] = kept[1]
        super().__setitem__(name, kept)


class Airs(Shared):
    """Climates of the demo's state are made once in a worker; those of another state as ever."""

    def get(self, state, name, make):
        told = _AIRS.setdefault("state", state)
        if told != state:
            return super().get(state, name, make)
        if name not in _AIRS:
            _AIRS[name] = make()
        return _AIRS[name]


@contextmanager
def opened_demo(demo_file: Path, folder: Path):
    """A copy of the demo of its own, an hour on. All copies are the same file at the same minute, so what
    one reckoned before anything was written the next need not reckon again."""
    shutil.copy(demo_file, folder / "demo.sqlite3")
    store = Store(folder / "demo.sqlite3")
    ensure_model_rev(store)
    store._memo = Rooms((store.version(), ON_DEMO // 60))
    store._shared = Airs()
    yield Larder(store, MovedClock(ON_DEMO))
    store.close()


_FREE, _TAKEN = [], []


@pytest.fixture(autouse=True)
def _speaks_of_no_household():
    """How an earlier test's household writes its measures and hours is forgotten: each test begins as a fresh
    process does."""
    read_last._ZONE.set("UTC")
    read_last._HERE.set(Writing())


@pytest.fixture(autouse=True)
def _apps_are_free_again():
    yield
    _FREE.extend(_TAKEN)
    _TAKEN.clear()


def app_of(larder: Larder):
    """The application serving a larder till the end of the test. Putting one together takes most of a
    second: the next test's is the same one."""
    app = _FREE.pop() if _FREE else make_app(None)
    _TAKEN.append(app)
    serves(app, larder)
    return app


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
