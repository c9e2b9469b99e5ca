"""Replays three years at Pellwick Mill with a moving clock, through the services."""

from __future__ import annotations

import heapq
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from itertools import pairwise
from pathlib import Path

import numpy as np

from ..clock import MovedClock
from ..core.base.errors import BadFile
from ..core.base.units import DAY_S, day_start_s, local_day
from ..core.hand import origins
from ..core.seed.belief import quality
from ..data.acts import ActRef
from ..data.files import Hold, remove_database
from ..data.store import Store
from ..data.tables import Household, Meta
from ..services.acts import entry as acts_entry
from ..services.acts import lot_acts
from ..services.acts.new_seeds import NewSeeds
from ..services.air.air import place_curve
from ..services.forecast import lines
from ..services.forecast.rebuild import ensure_model_rev
from ..services.household import home
from ..services.household.kinds import figures, reference
from ..services.household.larder import Larder
from ..services.needs import chain_acts, targets
from ..services.papers import settings_page
from ..services.storage import containers, imports, loggers, readings, sachets
from ..standins.logger import Faults, Sender, Spell, logger_csv, simulate
from . import plans, scene, stock_at_the_end
from .growing_there import (
    hear_what_is_over,
    plan_sowings,
    plan_tests,
    sow_the_lines,
    sow_the_season,
)
from .mill import TZ, YEARS, Pellwick, ignore, last_summer
from .scene import SELLERS, TYPES

MILL = "Pellwick Mill"
SEED = 20_240


def refuse_another_household(path: Path) -> None:
    """Raises BadFile when the file is there and holds anything but an earlier demo (renamed or not)."""
    if not path.exists():
        return
    try:
        with closing(sqlite3.connect(path)) as raw:
            names = [row[0] for row in raw.execute("SELECT name FROM household")]
            marked = raw.execute("SELECT 1 FROM meta WHERE key = 'demo'").fetchone()
    except sqlite3.DatabaseError as error:
        raise BadFile(f"{path} is not a demo file; it is left alone") from error
    if names and not marked:
        raise BadFile(f"{path} is the larder of {names[0]!r}, not the demo; it is left alone")


def build(path: Path, now_s: int) -> list[str]:
    """Make the demo's file anew, so that its last day is that of ``now_s`` (epoch s); nothing in it
    lies ahead of that. Returns what of it could not be had on that day, in words."""
    today = local_day(now_s, TZ)
    refuse_another_household(path)
    hold = Hold(path)
    try:
        hold.alone()  # a demo that is served keeps its file
        remove_database(path)
    finally:
        hold.close()
    store = Store(path)
    try:
        ensure_model_rev(store)
        end_s = min(day_start_s(today, TZ) + 8 * 3600, now_s)
        start_s = day_start_s(today - timedelta(days=round(YEARS * 365.25)), TZ) + 9 * 3600
        clock = MovedClock(start_s)
        larder = Larder(store, clock)
        home.ensure_household(larder, MILL, TZ)
        with store.write() as session:
            session.add(Meta(key="demo", value=today.isoformat()))
        mill = Pellwick(larder, clock, end_s, np.random.default_rng(SEED))
        _settle(mill, start_s)
        _plan_stock(mill, start_s)
        _plan_readings(mill, start_s)
        plan_tests(mill, start_s)
        plan_sowings(mill)
        _plan_handling(mill)
        plans.plan_pantry(mill)
        heapq.heapify(mill.events)
        while mill.events:
            when, _, do = heapq.heappop(mill.events)
            clock.at_s = max(clock.at_s, when)
            mill.tried(f"Something of {local_day(when, TZ)}", do)
        clock.at_s = end_s
        mill.tried("The foods", lambda: _wants(mill))
        mill.tried("Work on the stock", lambda: stock_at_the_end.do(mill))
        mill.tried("The plans", lambda: plans.plan_ahead(mill))
        mill.tried("The lines of the year", lambda: sow_the_lines(mill))
        mill.tried("The season so far", lambda: sow_the_season(mill))
        mill.tried("What was heard", lambda: hear_what_is_over(mill))
        lines.lot_lines(larder)  # the first look is ready when the door opens
        return mill.left_out
    finally:
        store.close()


def _settle(mill: Pellwick, start_s: int) -> None:
    for name in scene.PEOPLE:
        made = settings_page.add_person(mill.larder, ActRef(), name)
        mill.people.append(made.person_id)
    settings_page.settle(mill.larder, mill.ref(), "cool_upland")
    for name, kind in scene.PLACES:
        new = containers.NewNode(name=name, place_kind=kind)
        mill.nodes[name] = containers.add_node(mill.larder, mill.ref(), new).node_id
    for box in scene.CONTAINERS:
        new = containers.NewNode(
            name=box.name,
            container_kind=box.kind,
            parent_id=mill.nodes[box.place],
            capacity_lots=box.capacity,
        )
        mill.nodes[box.name] = containers.add_node(mill.larder, mill.ref(), new).node_id


def _plan_stock(mill: Pellwick, start_s: int) -> None:
    """Lots come in when they were harvested or bought; those older than the record on day one."""
    end_year = local_day(mill.end_s, TZ).year
    for kept in scene.LOTS:
        year = end_year - round(kept.age)
        month, day = (10, 5) if kept.source == "own" else (3, 4)
        came_s = day_start_s(date(year, month, day), TZ) + 10 * 3600
        if came_s > mill.end_s - 20 * DAY_S:
            year -= 1
            came_s = day_start_s(date(year, month, day), TZ) + 10 * 3600

        def add(kept: scene.Kept = kept, year: int = year) -> None:
            new = NewSeeds(
                kind=kept.kind,
                variety=kept.variety,
                year=year,
                quantity=str(kept.seeds),
                source=kept.source,
                node_id=mill.nodes[kept.container],
                since="since it came",
                types=TYPES.get(kept.variety, ""),
                hybrid=kept.hybrid,
                kept_line=kept.kept,
                **SELLERS.get(kept.variety, {}),
                stated_germination=0.85
                if kept.source == "bought" and kept.seeds % 3 == 0
                else None,
            )
            made = acts_entry.add_seeds(mill.larder, mill.ref(), [new])
            mill.lots[kept.variety] = made.lot_ids[0]

        mill.at(max(came_s, start_s + 3600), add)
        source = {"bought": "bought", "own": "own"}.get(kept.source, "gift")
        sd = reference().viability[kept.kind].sd_log10_sigma
        mill.truth[kept.variety] = (
            float(mill.rng.normal(*quality(source, None, None, figures().belief))),
            float(mill.rng.normal(0, sd)),
        )
    mystery = NewSeeds(
        note="yellow, tall, by the sluice",
        quantity="a pinch",
        source="unknown",
        node_id=mill.nodes["Stair tin 2"],
        since="since it came",
    )
    mill.at(
        mill.end_s - 200 * DAY_S,
        lambda: ignore(acts_entry.add_seeds(mill.larder, mill.ref(), [mystery])),
    )
    mill.at(mill.end_s - 140 * DAY_S, lambda: _own_kind(mill))


def _own_kind(mill: Pellwick) -> None:
    made = settings_page.add_own_kind(mill.larder, mill.ref(), "mill marshmallow", None, "herb")
    new = NewSeeds(
        kind=str(made.key),
        variety="Bank Mallow",
        year=local_day(mill.clock.at_s, TZ).year - 1,
        quantity="80",
        source="gift",
        node_id=mill.nodes["Album"],
        since="since it came",
    )
    acts_entry.add_seeds(mill.larder, mill.ref(), [new])


def _plan_readings(mill: Pellwick, start_s: int) -> None:
    with mill.larder.store.read() as session:
        house = session.get(Household, 1)
        assert house is not None, "made a moment ago"
        curves = {name: place_curve(kind, house) for name, kind in scene.PLACES}
    hot = last_summer(mill.end_s, 7, 6)
    spells = {
        "South porch": (Spell(hot, hot + 11 * DAY_S, 13.0, 0.16),),
        "Greenhouse": (Spell(hot - 2 * DAY_S, hot + 17 * DAY_S, 14.0, 0.06),),
    }
    for name, since, device in (
        ("Stone larder", start_s + 5 * DAY_S, "mill-a"),
        ("South porch", mill.end_s - 500 * DAY_S, "mill-b"),
    ):
        record = simulate(curves[name], since, mill.end_s - 7200, 3600, SEED, spells.get(name, ()))
        for part in _quarters(len(record[0])):
            at, t, h = (column[part] for column in record)
            text = logger_csv(device, at, t, h)

            def take(name: str = name, device: str = device, text: str = text) -> None:
                imports.import_readings(
                    mill.larder, mill.ref(), mill.nodes[name], f"{device}.csv", text.encode(), "UTC"
                )

            mill.at(float(at[-1]) + 3600, take)
    for box in scene.CONTAINERS:
        if not box.read_every:
            continue
        at, t, h = simulate(
            curves[box.place],
            start_s,
            mill.end_s,
            6 * 3600,
            SEED + len(box.name),
            spells.get(box.place, ()),
        )
        damp = {"Tin 2": -0.24, "Jar 3": -0.30, "Drawer box": -0.18, "Tin 1": -0.19}.get(
            box.name, 0.0
        )
        next_s = start_s + float(mill.rng.uniform(2, box.read_every)) * DAY_S
        while next_s < mill.end_s - DAY_S:
            i = int(np.searchsorted(at, next_s))
            gap = 3.5 if mill.rng.random() < 0.06 else float(mill.rng.uniform(0.6, 1.5))
            _one_reading(
                mill, box, float(at[i]), float(t[i]), float(np.clip(h[i] + damp, 0.2, 0.9))
            )
            next_s += gap * box.read_every * DAY_S
        if box.name == "Crate":  # forgotten in the heat, found on the fifth and the twelfth day
            for day in (4.3, 11.3):
                i = int(np.searchsorted(at, hot + day * DAY_S))
                _one_reading(mill, box, float(at[i]), float(t[i]) + 4, float(h[i]))


def _one_reading(mill: Pellwick, box: scene.Container, at: float, t: float, h: float) -> None:
    dial = readings.DialReading(temperature=round(t, 1), humidity_pct=round(100 * h))

    def log() -> None:
        readings.log_reading(mill.larder, mill.ref(), mill.nodes[box.name], dial)

    mill.at(at, log)


def _quarters(rows: int) -> list[slice]:
    edges = np.linspace(0, rows, max(2, rows // 2200 + 1)).astype(int)
    return [slice(int(a), int(b)) for a, b in pairwise(edges) if b > a]


def _plan_handling(mill: Pellwick) -> None:
    """What hands do between readings: openings, a sachet, a sealed can, a logger that sends."""
    day, end = DAY_S, mill.end_s
    larder = mill.larder

    def event(box: str, kind: str, ago: float, note: str = "", **figures: float) -> None:
        mill.at(
            end - ago * day,
            lambda: ignore(
                containers.node_event(
                    larder, mill.ref(), mill.nodes[box], kind, note, figures=dict(figures)
                )
            ),
        )

    for ago in (250, 200, 131, 60, 12):
        event("Tin 1", "opened", ago)
    event("Stair tin 2", "vented", 90, "lid dented")
    event("Trunk", "gone_through", 30)
    event("Bean can", "sealed", 75, "speckled beans, to the brim", food_kg=3.9, shut_days=60)
    mill.at(
        end - 330 * day,
        lambda: ignore(
            sachets.add_desiccant(larder, mill.ref(), mill.nodes["Jar 3"], "silica_gel", 60.0)
        ),
    )
    mill.at(
        end - 5.2 * 3600,
        lambda: ignore(containers.take_out(larder, mill.ref(), mill.nodes["Album"])),
    )
    mill.at(end - 9 * day, lambda: _sender(mill))


def _sender(mill: Pellwick) -> None:
    """A logger that sends by itself stands in the trunk; some readings are lost, some senseless."""
    made = loggers.add_device(mill.larder, mill.ref(), "mill-c", mill.nodes["Trunk"])
    with mill.larder.store.read() as session:
        house = session.get(Household, 1)
        assert house is not None, "made long ago"
        curve = place_curve("attic", house)
    limit = loggers.RateLimit(lambda: float(mill.clock.at_s))
    sender = Sender(
        lambda body: _over_the_air(mill, limit, str(made.token), body),
        SEED,
        Faults(drop=0.05, nonsense=0.01),
    )
    record = simulate(curve, mill.clock.at_s, mill.end_s - 3 * 3600, 1800, SEED + 3)
    for rows in sender.batches(*record, 48):
        mill.at(
            float(str(rows[-1]["at_s"])) + 60,
            lambda rows=rows: ignore(sender.send(mill.clock.at_s, rows, 12.0)),  # type: ignore[misc]
        )


def _over_the_air(
    mill: Pellwick, limit: loggers.RateLimit, token: str, body: dict[str, object]
) -> tuple[int, dict[str, object]]:
    rows = body["readings"]
    assert isinstance(rows, list), "as the sender makes them"
    batch = loggers.Batch(
        float(str(body["sent_s"])),
        [loggers.Reading1(**r) for r in rows],
        float(str(body["battery_pct"])),
    )
    return 200, loggers.ingest(mill.larder, limit, token, batch)


def _wants(mill: Pellwick) -> None:
    day = local_day(mill.end_s, TZ)
    year = origins.household_year(day, 10)
    # the shelf is full after the harvest and empties towards the next
    months = (day.month - 9) % 12
    still = max(0.0, 1.0 - months / 11) / (1.0 - 2 / 11)
    for product, name, per_week, weeks, shelf in scene.FOODS:
        targets.set_target(
            mill.larder, mill.ref(), product=product, per_week=per_week, weeks=weeks, name=name,
            year=year,
        )  # fmt: skip
        if shelf:
            there = round(shelf * still, 1 if shelf < 1 else 0)
            chain_acts.book_pantry(mill.larder, mill.ref(), product, "counted", there)
    for variety, plants, purpose in scene.PICKS:
        if variety in mill.lots:
            chain_acts.set_pick(mill.larder, mill.ref(), mill.lots[variety], plants, purpose)
    lot_acts.log_event(
        mill.larder,
        mill.ref(),
        mill.lots["Cobblestone"],
        "insects",
        "two weevil holes, sorted out by hand",
    )
