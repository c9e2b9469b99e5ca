"""A household that does anything at random: acts, undos, redos, a clock that moves, another model.

Two things are asked. An undo that was taken leaves every live row as it was before the act, and its
redo as it was after it. And what is derived, carried along through all of it, equals what a copy of
the file makes of its records from nothing. ``python -m tests.random_household --acts 2000 --seed 7``.
"""

import json
import sys
import tempfile
import time
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from unittest import mock

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import LarderError
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.acts import entry, ledger, lot_acts
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.acts.stays_told import say_since
from brisk_larder.services.forecast import current, rebuild
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.growing import settling, sowings
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import buying, targets
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.papers import history, parcels, settings_page
from brisk_larder.services.stock import splitting, stocktakes, triage_page
from brisk_larder.services.storage import containers, imports, loggers, readings, sachets, shelves
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import bench
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.household_state import compare, live
from tests.random_forms import forms

DAY = 86_400
NOW = 1_795_507_200
KINDS = ("kale", "onion", "carrot", "pea", "lettuce", "marigold_tagetes", "")
USES = ("seed", "food", "swap", "sale")
PLACES = ("larder", "porch", "attic", "fridge", "cellar")
BOXES = ("metal_tin_plain", "wooden_box", "glass_jar_gasket")


class Household:
    """The household under test, with what it has made so far."""

    def __init__(self, path: Path, seed: int) -> None:
        self.dice = Random(seed)
        self.clock = MovedClock(NOW)
        self.larder = Larder(Store(path), self.clock)
        ensure_model_rev(self.larder.store)
        home.ensure_household(self.larder, "Pellwick Mill", "Europe/London")
        self.tokens: list[str] = []
        self.limit = loggers.RateLimit()
        self.done = {"acts": 0, "undos": 0, "redos": 0, "refused": 0, "compared": 0}
        self.seen: dict[str, int] = {}
        for kind in ("larder", "porch"):
            self.do(containers.add_node, containers.NewNode(kind, place_kind=kind))
        tin = containers.NewNode("tin", container_kind="metal_tin_plain", parent_id=1)
        self.do(containers.add_node, tin)
        for kind in KINDS[:4]:
            self.do(entry.add_seeds, [self.packet(kind)])

    # --- what there is -----------------------------------------------------------------------
    def ids(self, table: str, where: str = "deleted_s IS NULL") -> list[int]:
        return [r[0] for r in self.rows(f"SELECT id FROM {table} WHERE {where} ORDER BY id")]

    def rows(self, sql: str) -> list[tuple]:
        with self.larder.store.read() as session:
            return [tuple(r) for r in session.connection().exec_driver_sql(sql)]

    def one(self, values):
        return self.dice.choice(list(values)) if values else 0

    def lot(self) -> int:
        return self.one(self.ids("lot", "deleted_s IS NULL AND state <> 'gone'"))

    def node(self) -> int:
        return self.one(self.ids("node"))

    def box(self) -> int:
        return self.one(self.ids("node", "deleted_s IS NULL AND role = 'container'"))

    def past(self, days: float = 500) -> int:
        return self.clock.at_s - int(self.dice.uniform(0, days) * DAY)

    def maybe(self, value, chance: float = 0.5):
        return value if self.dice.random() < chance else None

    def packet(self, kind: str) -> NewSeeds:
        d = self.dice
        return NewSeeds(
            kind=kind, variety=d.choice(("Slate Curl", "Brackenbulb", "Ember Root", "Millrace")),
            year=self.maybe(d.randrange(2019, 2026), 0.8),
            quantity=d.choice(("300", "2 g", "a pinch", "1 packet", "")),
            source=d.choice(("own", "bought", "gift")), kept_line=d.random() < 0.3,
            node_id=self.maybe(self.node(), 0.8), since=d.choice(("", "since it came", "2024")),
            hybrid=d.random() < 0.1,
            date=d.choice(("", "", "", "2021, 2023")), tested=d.choice(("", "", "9/10", "72 %")),
            tested_on=d.choice(("", "2025-11-03")),
        )  # fmt: skip

    def pieces(self) -> NewSeeds:
        d = self.dice
        kind, much = d.choice((("potato", "40"), ("garlic", "3 heads"), ("onion sets", "2 kg"),
                               ("kale", "12 plants"), ("potato", "")))  # fmt: skip
        return NewSeeds(
            kind=kind, variety=d.choice(("Slate Curl", "Gate")), quantity=much,
            year=self.maybe(d.randrange(2024, 2026), 0.7), node_id=self.maybe(self.node(), 0.8),
            since=d.choice(("", "2025")), kept_line=d.random() < 0.2,
        )  # fmt: skip

    # --- acts --------------------------------------------------------------------------------
    def dial(self) -> readings.DialReading:
        d = self.dice
        warm, damp = round(d.uniform(0, 30), 1), round(d.uniform(25, 90))
        what = d.randrange(4)
        return readings.DialReading(
            temperature=None if what == 1 else warm, humidity_pct=None if what == 0 else damp,
            t_min=warm - 3 if what == 3 else None, t_max=warm + 4 if what == 3 else None,
            at_s=self.maybe(self.past(), 0.8), opened=d.random() < 0.15,
        )  # fmt: skip

    def file(self):
        d = self.dice
        start = self.past() // 600 * 600
        step = d.choice((600, 3600, 10800))
        damp = d.random() < 0.6
        lines = ["time,temperature_c" + (",humidity_pct" if damp else "")]
        for i in range(d.randrange(3, 60)):
            at = start + step * i
            if at < self.clock.at_s:
                stamp = datetime.fromtimestamp(at, UTC)
                row = f"{stamp:%Y-%m-%dT%H:%M:%S}Z,{8 + i % 5 + at % 7}"
                lines.append(row + (f",{40 + i % 20}" if damp else ""))
        return self.do(
            imports.import_readings, self.node(), "log.csv", "\n".join(lines).encode(), "UTC"
        )

    def device(self):
        made = self.do(loggers.add_device, "sender", self.node())
        if made:
            self.tokens.append(str(made.token))

    def send(self):
        if not self.tokens:
            return self.device()
        now = self.clock.at_s
        rows = [
            loggers.Reading1(now - 300 * i, 9.0 + i % 4, self.one((None, 50.0 + i)))
            for i in range(self.dice.randrange(1, 40))
        ]
        with suppress(LarderError):  # revoked, moved meanwhile, or a clock set back
            batch = loggers.Batch(float(now), rows)
            loggers.ingest(self.larder, self.limit, self.one(self.tokens), batch)

    def reading(self) -> tuple[int, int]:
        return self.one(self.rows("SELECT series_id, at_s FROM reading ORDER BY 1, 2")) or (0, 0)

    def edit(self):
        d = self.dice
        field, value = d.choice(
            [
                ("note", f"row {d.randrange(99)}"), ("variety", f"Curl {d.randrange(9)}"),
                ("kept_line", d.random() < 0.5), ("kind", d.choice(KINDS[:5])),
                ("treated", d.random() < 0.3), ("state", d.choice(("here", "missing", "gone"))),
                ("hybrid", d.random() < 0.3), ("intended_use", d.choice(USES)),
                ("mother_lot_id", self.lot()), ("slot", str(d.randrange(9))),
                ("types", d.choice(("", "dry", "shelling"))), ("stated_germination", 0.6),
                ("date", d.choice(("2022", "?", "2021, 2023"))),
            ]
        )  # fmt: skip
        return self.do(lot_acts.edit_lot, self.lot(), lot_acts.LotEdit(**{field: value}))

    def parcel(self):
        open_ones = self.ids("parcel")
        what = self.dice.randrange(4)
        if what == 0 or not open_ones:
            return self.do(parcels.promise, "Wenna", {self.lot(): "5"})
        act = (parcels.pack, parcels.send, parcels.drop_parcel)[what - 1]
        return self.do(act, self.one(open_ones))

    def trial(self):
        d = self.dice
        running = self.ids("trial", "deleted_s IS NULL AND closed_s IS NULL")
        what = d.randrange(4)
        if what < 2 or not running:
            return self.do(trials_acts.start_trial, self.lot(), d.randrange(5, 30))
        if what == 2:
            return self.do(trials_acts.drop_trial, self.one(running), "dried out")
        count = trials_acts.CountEntry(normal=d.randrange(0, 12))
        return self.do(trials_acts.count_trial, self.one(running), count, close=d.random() < 0.6)

    def setting(self):
        d = self.dice
        name, value = d.choice(
            [("sow_level", 0.6), ("outdoor_mean_c", d.uniform(5, 12)), ("unplaced_kind", "attic"),
             ("order_lead_days", d.randrange(60)), ("confidence", 0.8), ("hemisphere", "south"),
             ("hemisphere", "north"), ("tz", "Asia/Tokyo"), ("temperature_unit", "C")]
        )  # fmt: skip
        return self.do(settings_page.change_household, {name: value})

    def wet(self):
        kind = self.dice.choice(("wet", "mould", "note", "insects"))
        return self.do(lot_acts.log_event, self.lot(), kind, "")

    def count_sown(self):
        sown = self.ids("sowing", "deleted_s IS NULL AND settled_s IS NULL")
        return self.do(sowings.count_sowing, self.one(sown), self.dice.randrange(20))

    def buy(self):
        d, offers = self.dice, self.ids("seed_offer")
        waiting = self.ids("seed_order", "deleted_s IS NULL AND state = 'ordered'")
        what = d.randrange(5)
        if what == 0 or not offers:
            said = buying.OfferSaid(
                d.choice(("Fellside seed barn", "Dell & Daughter")), d.choice(KINDS[:4]), d.choice((40, 500)),
                3.0, variety=d.choice(("", "Slate Curl")), lead_days=d.choice((3.0, 40.0)),
                packs_left=self.maybe(2),
            )  # fmt: skip
            return self.do(buying.say_offer, said)
        if what == 1:
            return self.do(buying.drop_offer, self.one(offers))
        if what == 2 or not waiting:
            return self.do(buying.order, {self.one(offers): d.randrange(1, 4)})
        if what == 3:
            return self.do(buying.never_came, self.one(waiting))
        return self.do(buying.came, [self.one(waiting)], self.maybe(self.node()))

    def settle(self):
        lines = self.rows("SELECT id FROM variety WHERE kept_line = 1")
        year = 2026 + self.dice.randrange(4)
        if self.dice.random() < 0.2:
            return self.do(settling.settle_whole, year)
        line = (self.one(lines) or (0,))[0]
        more = {"from_year": self.maybe(year + 1, 0.2), "apart": self.dice.random() < 0.2}
        return self.do(settling.settle, line, year, anyway=self.dice.random() < 0.7, **more)

    def last_years(self):
        foods = self.ids("food_target")
        return self.do(targets.take_over, [targets.TakenOver(self.one(foods), 1.0)])

    def stocktake(self):
        takes = self.ids("stocktake", "deleted_s IS NULL AND state IN ('open', 'paused')")
        what = self.dice.randrange(4)
        if what == 0 or not takes:
            return self.do(stocktakes.begin, self.node())
        if what == 1:
            rest = self.dice.choice(("", "found", "missing"))
            return self.do(stocktakes.finish, self.one(takes), rest)
        found = self.dice.choice(("found", "missing"))
        return self.do(stocktakes.mark_lot_found, self.one(takes), self.lot(), found)

    def job(self):
        room = jobs.today_room(self.larder)
        keys = [j.origin_key for j in [*room.jobs, *room.later]]
        state = self.dice.choice(("done", "in_progress", "dropped"))
        return self.do(jobs.set_job, self.one(keys) or "none", state)

    def again(self):
        """Take an act back, and often do it again."""
        acts = history.recent(self.larder, 40)
        if not acts:
            return
        picked = self.dice.choice(acts[:3] if self.dice.random() < 0.6 else acts)
        before = live(self.larder)
        undone = ActRef()
        try:
            history.undo(self.larder, undone, picked.act_id)
        except LarderError:
            self.done["refused"] += 1
            assert live(self.larder) == before, f"a refused undo left something: {picked.summary}"
            return
        self.done["redos" if picked.is_undo else "undos"] += 1
        if self.dice.random() < 0.5:
            history.undo(self.larder, ActRef(), undone.id)
            self.done["redos"] += 1
            assert live(self.larder) == before, (
                f"undone and done again is another: {picked.summary}"
            )

    def move_on(self):
        d = self.dice
        # whole days: what lists show is kept for a day, as it was at the first look of that day
        self.clock.at_s += DAY * d.choice((1, 1, 5, 40, -3, -40))
        self.clock.at_s = max(self.clock.at_s, NOW - 30 * DAY)

    def other_model(self):
        """Another revision of the model: everything derived is dropped, as at a start."""
        with mock.patch.object(rebuild, "MODEL_VERSION", str(self.dice.random())):
            ensure_model_rev(self.larder.store)

    def do(self, act, *given, **more):
        """One act; whatever is refused must be refused in words."""
        ref = ActRef()
        before = live(self.larder) if self.dice.random() < 0.15 else None
        try:
            result = act(self.larder, ref, *given, **more)
        except LarderError:
            self.done["refused"] += 1
            return None
        self.done["acts"] += 1
        self.seen[act.__name__] = self.seen.get(act.__name__, 0) + 1
        if before is not None and act is not loggers.add_device:
            history.undo(self.larder, undone := ActRef(), ref.id)
            assert live(self.larder) == before, f"{act.__name__} was not taken back whole"
            self.done["undos"] += 1
            if self.dice.random() < 0.7:
                history.undo(self.larder, ActRef(), undone.id)
                self.done["redos"] += 1
        return result

    def step(self):
        d, do = self.dice, self.do
        kinds = [
            (12, lambda: do(readings.log_reading, self.node(), self.dial())),
            (3, lambda: do(readings.log_round, [(n, self.dial()) for n in {self.node(), self.node()}])),
            (4, lambda: do(readings.void_reading, *self.reading())),
            (4, lambda: do(readings.correct_reading, *self.reading(), self.dial())),
            (5, self.file), (1, self.device), (4, self.send),
            (1, lambda: do(loggers.move_device, self.one(self.ids("device")), self.node())),
            (1, lambda: do(loggers.revoke_device, self.one(self.ids("device")), None)),
            (4, lambda: do(entry.add_seeds, [self.packet(d.choice(KINDS))])),
            (5, lambda: do(lot_acts.move_lot, self.lot(), self.node(), at_s=self.maybe(self.past(90)))),
            (4, lambda: do(ledger.book_quantity, self.lot(), d.choice(("counted", "given", "lost")),
                           d.choice(("12", "1 g", "about 40", "half left")))),
            (1, lambda: do(ledger.set_aside, self.lot(), d.choice(USES), d.choice(("", "9")))),
            (3, self.wet), (7, self.edit), (2, self.parcel), (6, self.trial), (2, self.setting),
            (3, lambda: do(splitting.split_lot, self.lot(), d.choice(("10", "5")),
                           node_id=self.maybe(self.node()))),
            (2, lambda: do(splitting.merge_lots, self.lot(), [self.lot()], True)),
            (2, lambda: do(containers.add_node, containers.NewNode(
                f"b{d.randrange(999)}", container_kind=d.choice(BOXES), parent_id=self.node()))),
            (1, lambda: do(containers.add_node, containers.NewNode(
                f"p{d.randrange(999)}", place_kind=d.choice(PLACES)))),
            (4, lambda: do(containers.move_node, self.box(), self.node(), self.maybe(self.past(60)))),
            (2, lambda: do(containers.take_out, self.box())),
            (2, lambda: do(containers.put_back, self.box())),
            (1, lambda: do(containers.edit_node, self.box(), None, container_kind=d.choice(BOXES))),
            (1, lambda: do(containers.remove_node, self.node())),
            (4, lambda: do(containers.node_event, self.box(), d.choice(list(containers.PLAIN_EVENTS)),
                           at_s=self.maybe(self.past(200)))),
            (2, lambda: do(sachets.add_desiccant, self.box(), "silica_gel", 20.0)),
            (2, lambda: do(sachets.note_dryness, [self.lot()], humidity_pct=d.uniform(20, 70))),
            (2, lambda: do(sowings.sow, self.lot(), d.randrange(1, 40))), (1, self.count_sown),
            (2, lambda: do(targets.set_target, product=d.choice(("kale, frozen", "sauerkraut")),
                           per_week=1.0, weeks=20.0)),
            (2, lambda: do(entry.add_seeds, [self.pieces()])),
            (1, lambda: do(lot_acts.edit_lot, self.lot(), lot_acts.LotEdit(form=d.choice(("seed", "set"))))),
            (1, lambda: do(lot_acts.tag_lot, self.lot(), d.choice(("early", "late, seed bed")),
                           d.random() < 0.4)),
            (2, lambda: do(say_since, d.choice(("since it came", "only from then", "since about 2024")),
                           [self.lot()])),
            (1, lambda: do(say_since, d.choice(("since it came", "2025")), [], [self.box()])),
            (2, self.buy), (1, self.settle), (1, self.last_years),
            (1, lambda: do(needs_acts.set_pick, self.lot(), d.randrange(1, 30))),
            (1, lambda: do(needs_acts.remove_target, self.one(self.ids("food_target")))),
            (1, lambda: do(settings_page.overrule_crop, d.choice(KINDS[:3]), "seeds_per_g",
                           d.uniform(200, 400), "our scales")),
            (1, lambda: do(settings_page.settle, d.choice(list(settings_page.LIVING_PLACES)))),
            (1, lambda: do(settings_page.add_own_kind, f"skirret {d.randrange(5)}", None)),
            (1, lambda: do(settings_page.add_person, "Tamsel")), (2, self.stocktake), (1, self.job),
            (1, lambda: do(triage_page.decide, self.lot(), d.choice(list(triage_page.DECISIONS)))),
            (8, self.again), (3, self.move_on), (1, self.other_model), *forms(self),
        ]  # fmt: skip
        d.choices([act for _, act in kinds], [weight for weight, _ in kinds])[0]()
        if d.random() < 0.5:
            self.look_at_some()

    def look_at_some(self):
        """Rooms are looked at between acts, or nothing would ever be carried along."""
        look = self.dice.choice(
            (
                forecast_lines.lot_lines,
                shelves.shelves,
                bench.bench,
                jobs.today_room,
                current.bring_up_to_date,
            )
        )
        look(self.larder)

    def check(self):
        self.done["compared"] += 1
        compare(self.larder)


def live_through(path: Path, seed: int, acts: int, every: int) -> dict[str, int]:
    """So many acts, undos and redos, compared with the rebuild again and again."""
    house = Household(path, seed)
    try:
        steps = 0
        while sum(house.done[k] for k in ("acts", "undos", "redos")) < acts:
            house.step()
            steps += 1
            if steps % every == 0:
                house.check()
        house.check()
        return house.done
    except Exception as error:
        error.add_note(f"seed {seed}, after {house.done}; last: {_last(house)}")
        raise
    finally:
        house.larder.store.close()


def _last(house: Household) -> str:
    return "; ".join(a.summary for a in history.recent(house.larder, 6))


def main() -> None:
    told = dict(zip(sys.argv[1::2], sys.argv[2::2], strict=True))
    acts, seed = int(told.get("--acts", 2000)), int(told.get("--seed", 1))
    started = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        every = int(told.get("--every", 25))
        done = live_through(Path(folder) / "larder.sqlite3", seed, acts, every)
    seconds = round(time.perf_counter() - started)
    sys.stdout.write(json.dumps({"seed": seed, **done, "seconds": seconds}) + "\n")


if __name__ == "__main__":
    main()
