"""A household that lives by what Today says: somebody does each week what the list asks for, with a hidden
truth of what seed and orders really do. Used by ``benchmarks/year.py``."""

from collections import Counter
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path

import numpy as np
from scipy.special import ndtr
from sqlmodel import col, select

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import LarderError
from brisk_larder.core.base.units import DAY_S, day_start_s, local_day
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.data.tables import DMonth, Part, Sowing, Trial
from brisk_larder.services.acts import entry, ledger
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.growing.sowings import growing_room
from brisk_larder.services.household.kinds import load_kinds, reference
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import buying, chain_acts, targets
from brisk_larder.services.needs.basket_page import basket_room
from brisk_larder.services.needs.chains import needs_room, season_room
from brisk_larder.services.papers import settings_page
from brisk_larder.services.storage import containers, readings
from brisk_larder.services.today import jobs
from brisk_larder.services.today.this_years_list import Proposal
from brisk_larder.services.trials import trial_acts as trials
from brisk_larder.services.trials.bench import bench

TZ = "Europe/London"
# minutes that a job takes (guesses: they only weigh the weeks against one another)
MINUTES = {
    "sow": 20, "test": 15, "count": 5, "order": 10, "read": 3, "alarm": 10, "regrow": 0, "missed": 1,
    "less": 1, "name": 30, "ask": 5, "seed": 60, "warm": 2, "move": 5, "own": 10,
}  # fmt: skip
NEVER_COMES = 0.1


@dataclass
class Diary:
    """What a life by the list came to."""

    weeks: list[int] = field(default_factory=list)
    minutes: float = 0.0
    refused: list[str] = field(default_factory=list)
    back: list[str] = field(default_factory=list)
    kinds: Counter[str] = field(default_factory=Counter)
    sown_in_window: int = 0
    had_seed: int = 0
    not_sown: list[str] = field(default_factory=list)
    short: Counter[str] = field(default_factory=Counter)
    vanished: list[str] = field(default_factory=list)


class Lived:
    """One household on a moved clock."""

    def __init__(self, path: Path, seed: int) -> None:
        self.store = Store(path)
        self.clock = MovedClock(0)
        self.larder = Larder(self.store, self.clock)
        self.rng = np.random.default_rng(seed)
        self.diary = Diary()
        self.truth: dict[int, tuple[float, float]] = {}
        self.settled: dict[str, tuple[str, date, str]] = {}  # key -> state, until when, title
        self.offered: dict[str, Proposal] = {}
        self.done_sowing: set[str] = set()
        self.ordered = 0

    def ref(self) -> ActRef:
        return ActRef()

    def go_to(self, day: date, hour: int = 9) -> None:
        self.clock.at_s = day_start_s(day, TZ) + hour * 3600

    @property
    def today(self) -> date:
        return local_day(self.clock.at_s, TZ)

    # what is true and nobody knows
    def germinates(self, lot: int) -> float:
        bring_up_to_date(self.larder)
        with self.store.read() as session:
            part = session.exec(select(Part).where(Part.lot_id == lot)).first()
            assert part is not None
            a = session.exec(
                select(DMonth.a_probit)
                .where(DMonth.part_id == part.id)
                .order_by(col(DMonth.month_s).desc())
            ).first()
            line = next((x for x in lot_lines(self.larder) if x.lot_id == lot), None)
            living = load_kinds(session).get(line.kind).living if line else 0.9
        ki, d = self.truth.setdefault(
            part.cohort_id, (float(self.rng.normal(1.9, 0.35)), float(self.rng.normal(0, 0.25)))
        )
        return float(living * ndtr(ki - (a or 0.0) * 10**-d))

    # one week
    def week(self, day: date, by_the_list: bool = True) -> None:
        self.go_to(day)
        self._nature()
        room = jobs.today_room(self.larder)
        active = {p.origin_key: p for p in (*room.jobs, *room.later)}
        self._came_back(active)
        self._vanished(active)
        horizon = self.clock.at_s + 7 * DAY_S
        acted = 0
        for row in room.rows:
            mine = [
                p for p in row.jobs if p.due_s is None or p.due_s <= horizon or p.kind == "name"
            ]
            if not mine or not by_the_list:
                continue
            before = self.ordered
            for p in mine:
                self._do(p)
            if row.kind in ("regrow", "order") and self.ordered == before:
                continue  # there was nothing to do about it this week
            acted += 1
            self.diary.kinds[row.kind] += 1
            self.diary.minutes += MINUTES.get(row.kind, 5)
        self.diary.weeks.append(acted)
        after = jobs.today_room(self.larder)
        self.offered = {p.origin_key: p for p in (*after.jobs, *after.later) if p.kind == "sow"}

    def _came_back(self, active: dict[str, Proposal]) -> None:
        """What was done, dropped or moved on must not stand there again (under whatever key)."""
        names = {(p.kind, p.subject, p.title): p for p in active.values() if p.state == "open"}
        for key, (state, until, title) in list(self.settled.items()):
            p = active.get(key)
            if p is not None and p.state == "open":
                self.diary.back.append(f"{self.today} {state}: {title}")
                del self.settled[key]
            elif state == "moved" and self.today < until:
                kind, subject = key.split(":")[0], title
                if any(k[0] == kind and k[2] == subject for k in names):
                    self.diary.back.append(f"{self.today} moved, under another name: {title}")
            elif self.today > until:
                del self.settled[key]

    def _vanished(self, active: dict[str, Proposal]) -> None:
        """A sowing that was offered and not done is still there, or its word is."""
        told = {p.subject for p in active.values() if p.kind in ("missed", "less")}
        for key, p in self.offered.items():
            need = ":".join(key.split(":")[1:3])
            gone = key not in active and key not in self.done_sowing
            if gone and need not in told and not any(need in k for k in active):
                lines = {x.key: x for x in season_room(self.larder).lines}
                x = lines.get(need)
                if x is not None and not x.sown_plants and x.plants and not x.covered:
                    self.diary.vanished.append(f"{self.today} {p.title}")

    def _set(self, p: Proposal, state: str, **more: object) -> None:
        try:
            jobs.set_job(self.larder, self.ref(), p.origin_key, state, **more)  # type: ignore[arg-type]
        except LarderError as error:
            self.diary.refused.append(f"{self.today} {p.title}: {error.message}")

    def _do(self, p: Proposal) -> None:
        chance = self.rng.random()
        if p.kind not in ("sow", "order", "seed", "name") and p.state == "open" and chance < 0.06:
            until = self.today + timedelta(days=10)
            self._set(p, "moved", moved_to_s=self.clock.at_s + 10 * DAY_S)
            self.settled[p.origin_key] = ("moved", until, p.title)
            return
        if p.moved_to_s is not None and p.moved_to_s > self.clock.at_s:
            return
        try:
            getattr(self, f"_{p.kind}", self._plain)(p)
        except LarderError as error:
            self.diary.refused.append(f"{self.today} {p.title}: {error.message}")

    def _plain(self, p: Proposal) -> None:
        self._set(p, "done")
        self.settled[p.origin_key] = ("done", self.today + timedelta(days=365), p.title)

    def _missed(self, p: Proposal) -> None:
        self.diary.short["sowing was over"] += 1
        self._plain(p)

    def _less(self, p: Proposal) -> None:
        self.diary.short["too late to order"] += 1
        self._plain(p)

    def _sow(self, p: Proposal) -> None:
        self._set(p, "done")
        self.done_sowing.add(p.origin_key)
        self.settled[p.origin_key] = ("done", self.today + timedelta(days=365), p.title)

    def _regrow(self, p: Proposal) -> None:
        """Nothing to do before its sowing."""

    def _alarm(self, p: Proposal) -> None:
        self._set(p, "done")

    def _test(self, p: Proposal) -> None:
        if not p.seeds or not p.subject.startswith("lot:"):
            return
        if p.evening and date.fromisoformat(p.evening) > self.today + timedelta(days=6):
            return
        lot = int(p.subject.removeprefix("lot:"))
        trials.start_trial(self.larder, self.ref(), lot, p.seeds)

    def _count(self, p: Proposal) -> None:
        what, _, number = p.subject.partition(":")
        if what == "lot":
            line = next(x for x in lot_lines(self.larder) if x.lot_id == int(number))
            ledger.book_quantity(
                self.larder, self.ref(), line.lot_id, "counted", str(int(line.seeds or 60))
            )
            return
        if what != "trial":
            for x in needs_room(self.larder).lines:
                if x.key == p.subject:
                    for c in x.covered:
                        if c.lot_id > 0:
                            ledger.book_quantity(
                                self.larder, self.ref(), c.lot_id, "counted", str(max(1, c.seeds))
                            )
            return
        with self.store.read() as session:
            trial = session.get(Trial, int(number))
            assert trial is not None
            lot, n, sown = trial.lot_id, trial.n, trial.sown_s
        r = next(x for x in bench(self.larder).running if x.trial_id == int(number))
        draw = np.random.default_rng(int(number))
        alive = int(draw.binomial(n, self.germinates(lot)))
        share = min(1.0, max(0.0, (r.day - r.first_day * 0.6) / max(r.days - r.first_day * 0.6, 1)))
        up = max(r.up, round(alive * share))
        last = r.day >= r.days
        assert sown <= self.clock.at_s
        trials.count_trial(
            self.larder,
            self.ref(),
            int(number),
            trials.CountEntry(normal=alive if last else up),
            last,
        )

    def _warm(self, p: Proposal) -> None:
        self._set(p, "done")

    def _read(self, p: Proposal) -> None:
        if p.subject.startswith("node:"):
            month = self.today.month
            warm = 10.0 - 6.0 * np.cos(2 * np.pi * (month - 1) / 12)
            dial = readings.DialReading(round(float(warm + self.rng.normal(0, 1)), 1), 55)
            readings.log_reading(self.larder, self.ref(), int(p.subject[5:]), dial)

    def _order(self, p: Proposal) -> None:
        chosen = {o.offer_id: o.chosen for o in basket_room(self.larder).offers if o.chosen}
        if chosen:
            buying.order(self.larder, self.ref(), chosen)
            self.ordered += 1

    def _ask(self, p: Proposal) -> None:
        order = int(p.subject.removeprefix("order:"))
        buying.never_came(self.larder, self.ref(), order)

    def _name(self, p: Proposal) -> None:
        foods = [
            targets.TakenOver(f.target_id, f.proposed) for f in targets.last_year(self.larder).foods
        ]
        targets.take_over(self.larder, self.ref(), foods)

    def _seed(self, p: Proposal) -> None:
        lot = int(p.subject.removeprefix("lot:"))
        line = next(x for x in lot_lines(self.larder) if x.lot_id == lot)
        mothers = reference().crops[line.kind].min_plants_viable
        new = NewSeeds(
            kind=line.kind, variety=line.variety, year=self.today.year, quantity=str(6 * mothers),
            source="own", kept_line=True, node_id=line.node_id,
        )  # fmt: skip
        entry.add_seeds(self.larder, self.ref(), [new])
        self._plain(p)

    # what happens by itself
    def _nature(self) -> None:
        """Orders come, or do not; what is sown comes up and is counted; jars are opened and put up."""
        for o in basket_room(self.larder).orders:
            if o.state != "ordered" or o.expected_s > self.clock.at_s:
                continue
            if np.random.default_rng(o.order_id).random() >= NEVER_COMES:
                buying.came(self.larder, self.ref(), [o.order_id], self._a_place())
        with self.store.read() as session:
            open_ = session.exec(
                select(Sowing).where(
                    col(Sowing.settled_s).is_(None),
                    col(Sowing.deleted_s).is_(None),
                    Sowing.at_s < self.clock.at_s - 30 * DAY_S,
                )
            ).all()
            waiting = [(int(s.id or 0), s.lot_id, s.n) for s in open_]
        for sowing, lot, n in waiting:
            share = 0.75 * self.germinates(lot)
            up = int(np.random.default_rng(sowing).binomial(n, min(1.0, share)))
            sowings.count_sowing(self.larder, self.ref(), sowing, up, True)
        if self.today.month == 9 and self.today.day <= 7:
            for x in season_room(self.larder).lines:
                if x.kind == "food" and x.chain is not None and x.plants:
                    share = min(1.0, x.sown_plants / max(1, x.sown_plants + x.short_plants))
                    units = float(round(x.chain.to_put_up.mid * share))
                    if units >= 1:
                        chain_acts.book_pantry(self.larder, self.ref(), x.product, "put_up", units)

    def _a_place(self) -> int | None:
        return next((x.node_id for x in lot_lines(self.larder) if x.node_id), None)

    # how a season went
    def season(self) -> None:
        """What became of this season's needs, looked at when all its sowing is over."""
        for x in season_room(self.larder).lines:
            if not x.plants:
                continue
            held = any(
                y.kind == x.crop and (y.seeds or 0) > 0 and y.verdict.may_sow
                for y in lot_lines(self.larder)
            )
            if x.sown_plants:
                self.diary.had_seed += 1
                self.diary.sown_in_window += 1
            elif held and x.missed_s is not None and x.how[:6] != "set as":
                self.diary.had_seed += 1
                self.diary.not_sown.append(f"{self.today.year} {x.name}: {x.says}; {x.next_act}")

    def lines_lost(self) -> set[str]:
        """Kept lines of which no living seed is left and nothing grows."""
        room = growing_room(self.larder)
        return {r.variety for r in room.regrow if r.code == "regrow_find_again"}


def made_up(path: Path, seed: int, begin: date) -> Lived:
    """A household drawn by a seed: thirty packets, some nine foods, four picks, nobody who sells."""
    from brisk_larder.services.forecast.rebuild import ensure_model_rev
    from brisk_larder.services.household import home

    one = Lived(path, seed)
    ensure_model_rev(one.store)
    one.go_to(begin)
    home.ensure_household(one.larder, "A house by the ford", TZ)
    d, ref = one.rng, reference()
    settings_page.settle(one.larder, one.ref(), "cool_upland")
    places = [
        containers.add_node(one.larder, one.ref(), containers.NewNode(n, place_kind=k)).node_id
        for n, k in (("Pantry", "larder"), ("Landing", "inner_cupboard"), ("Shed", "shed"))
    ]
    vegetables = sorted(
        k for k, c in ref.crops.items()
        if (c.food_yield_kg_per_plant is not None and c.sow_outdoors_weeks_rel_last_frost is not None)
        or k in ("tomato", "sweet_pepper", "aubergine")
    )  # fmt: skip
    kinds = [str(k) for k in d.choice(vegetables, 22, replace=False)]
    pile = []
    for i, kind in enumerate([*kinds, *kinds[:8]]):
        pile.append(
            NewSeeds(
                kind=kind,
                variety=f"Ford {i + 1}",
                year=begin.year - int(d.integers(0, 6)),
                quantity=str(int(d.choice([25, 60, 120, 300, 900]))),
                source=str(d.choice(["own", "bought", "gift"])),
                kept_line=bool(d.random() < 0.3),
                node_id=int(d.choice(places)),
            )
        )
    lots = entry.add_seeds(one.larder, one.ref(), pile).lot_ids
    products = sorted(p.product for p in ref.products.values() if p.crop in kinds)
    spare = sorted(
        p.product for p in ref.products.values() if p.crop not in kinds and p.crop in vegetables
    )
    chosen = [*d.choice(products, min(8, len(products)), replace=False), *d.choice(spare, 1)]
    for product in chosen:
        targets.set_target(
            one.larder, one.ref(), product=str(product), per_week=float(d.choice([0.2, 0.5, 1.0])),
            weeks=float(d.choice([12, 26, 40])),
        )  # fmt: skip
    for lot in d.choice(lots, 4, replace=False):
        chain_acts.set_pick(one.larder, one.ref(), int(lot), int(d.choice([6, 12, 30])))
    return one


__all__ = ["Lived", "made_up"]
