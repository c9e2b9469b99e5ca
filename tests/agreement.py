"""Whether any two rooms disagree about one packet: a table of what may never be said together.

``disagreements(larder)`` reads every room; ``python -m tests.agreement --households 40 --seed 1`` tries
households made up at random, with old, uncounted, wet, split, tested and dead packets in them.
"""

import sys
import tempfile
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from random import Random

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import LarderError
from brisk_larder.core.judging.verdict import ACTS, STANDINGS
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.acts import entry, lot_acts
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.lines import LotLine, lot_lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.growing import sowings
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.stock import lot_page, rows, splitting, triage_page
from brisk_larder.services.storage import best_places, containers
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import bench
from brisk_larder.services.trials import trial_acts as trials_acts

DAY, NOW = 86_400, 1_795_507_200


@dataclass(frozen=True)
class Said:
    """What the rooms say of one packet, in short marks."""

    line: LotLine
    marks: frozenset[str]


def said_of(larder: Larder) -> list[Said]:
    """Every room's word on every packet."""
    lines = lot_lines(larder)
    room, needs, growing = (
        bench.bench(larder),
        chains.needs_room(larder),
        sowings.growing_room(larder),
    )
    today = jobs.today_room(larder)
    proposed = [p for p in [*today.jobs, *today.later] if p.state != "dropped"]
    decided = {t.line.lot_id: t for t in triage_page.triage_room(larder).lines}
    stock = {r.lot_id: r for r in rows.stock_list(larder, "kind").rows}
    moves = {m.lot_id for m in best_places.best_places(larder).moves if m.gain > 0}
    marks: dict[int, set[str]] = {x.lot_id: set() for x in lines}

    def put(mark: str, lots) -> None:
        for lot in lots:
            if lot in marks:
                marks[lot].add(mark)

    put("tests: wanted", (w.line.lot_id for w in room.wanted))
    put("needs: covers", (c.lot_id for x in needs.lines for c in x.covered))
    put("needs: to spare", (s.lot_id for s in needs.surplus))
    put("storage: move", moves)
    codes = {x.code: x.lot_id for x in lines}
    for r in growing.regrow:
        find = r.code == "regrow_find_again"
        put("growing: find again", r.lot_ids if find else [])
        if not find and r.code not in ("regrow_wait", "regrow_count"):
            put("growing: regrow", (codes[c] for c in r.lots))
    for p in proposed:
        if p.subject.startswith("lot:") and not p.origin_key.startswith("triage:"):
            put(f"today: {p.kind}", [int(p.subject[4:])])
    for lot, t in decided.items():
        marks[lot] |= {f"triage: {t.advice[0]}"} if t.advice else set()
    for x in lines:
        marks[x.lot_id] |= _of_one(larder, x, stock[x.lot_id])
    return [Said(x, frozenset(marks[x.lot_id])) for x in lines]


def _of_one(larder: Larder, x: LotLine, row: rows.StockRow) -> set[str]:
    page, v = lot_page.lot_page(larder, x.lot_id), x.verdict
    told = {
        "stock: another next act": (row.next_act, row.urgency) != (x.next_act, x.urgency),
        "lot page: another next act": page.line.next_act != x.next_act,
        "lot page: elsewhere": bool(page.elsewhere),
        "ledger: give": "given away" in page.balance.says,
        "uncounted": x.seeds is None,
        "below seven in ten": x.glance.now.mid < 0.7,
        "dressed": x.treated,
        "food only": x.intended_use == "food",
        "none left": x.seeds is not None and x.seeds < 0.5,
        f"verdict: {v.standing}": True,
        f"next: {v.code}": True,
    }
    return {mark for mark, holds in told.items() if holds} | {f"act: {a}" for a in v.acts}


USELESS = (
    "tests: wanted", "needs: covers", "needs: to spare", "storage: move", "growing: regrow", "today: test",
    "today: regrow", "triage: sow_thick", "triage: keep", "triage: give", "triage: regrow", "triage: test",
    "lot page: elsewhere", "ledger: give", "act: test", "act: regrow", "act: sow_thick", "act: give",
)  # fmt: skip
UNSETTLED = ("needs: to spare", "ledger: give", "triage: give", "act: give")
# what may never be said of one packet together
FORBIDDEN: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("verdict: dead", USELESS),
    ("verdict: empty", USELESS),
    ("none left", ("verdict: good", "verdict: uncounted", "act: test")),
    ("verdict: running", (*UNSETTLED, "tests: wanted", "today: test", "today: regrow", "triage: test",
                          "triage: let_go", "growing: regrow")),
    ("verdict: wet", (*UNSETTLED, "tests: wanted", "today: test")),
    ("uncounted", (*UNSETTLED, "verdict: empty", "next: regrow_unsafe", "growing: regrow", "needs: covers")),
    ("food only", ("tests: wanted", "today: test", "act: test", "needs: covers", "needs: to spare")),
    ("tests: wanted", (*UNSETTLED, "triage: let_go")),
    ("today: test", (*UNSETTLED, "triage: let_go")),
    ("dressed", (*UNSETTLED, "triage: food", "triage: shoots")),
    ("below seven in ten", UNSETTLED),
    ("growing: regrow", ("triage: let_go", "growing: find again", "needs: to spare")),
    ("growing: find again", ("triage: keep", "triage: sow_thick", "needs: covers")),
    ("verdict: spoilt", (*UNSETTLED, "tests: wanted", "needs: covers", "storage: move")),
)  # fmt: skip
ALWAYS = ("stock: another next act", "lot page: another next act")
# what one room says makes another say it too
TOGETHER = (("act: test", "verdict: wet", "tests: wanted"), ("tests: wanted", "", "act: test"))


def disagreements(larder: Larder, said: list[Said] | None = None) -> list[str]:
    """Each forbidden pair that is said, by packet; and one test for each origin, not more."""
    out = []
    said = said_of(larder) if said is None else said
    for s in said:
        head = f"{s.line.code} {s.line.variety} ({s.line.next_act})"
        out += [f"{head}: {mark}" for mark in ALWAYS if mark in s.marks]
        for mark, others in FORBIDDEN:
            if mark in s.marks:
                out += [f"{head}: {mark} and {other}" for other in others if other in s.marks]
        for mark, unless, other in TOGETHER:
            if mark in s.marks and not {unless, other} & s.marks and s.line.state == "here":
                out.append(f"{head}: {mark} but not {other}")
        g = s.line.glance
        ends = [
            x for x in (g.good_until_low_s, g.good_until_s, g.good_until_high_s) if x is not None
        ]
        if ends != sorted(ends) or (g.good_until_s or 0) > larder.now_s() > ends[0]:
            out.append(f"{head}: good until {ends}")
        v = s.line.verdict
        if v.standing not in STANDINGS or not set(v.acts) <= set(ACTS) or not v.acts:
            out.append(f"{head}: {v}")
    with larder.store.read() as session:
        cohorts: dict[int, list[int]] = {}
        for lot, cohort in session.connection().exec_driver_sql(
            "SELECT lot_id, cohort_id FROM part WHERE to_s IS NULL AND deleted_s IS NULL"
        ):
            cohorts.setdefault(cohort, []).append(lot)
    wanted = {s.line.lot_id for s in said if "tests: wanted" in s.marks}
    out += [
        f"{sorted(set(lots) & wanted)}: more than one test of the same seed"
        for lots in cohorts.values()
        if len(set(lots) & wanted) > 1
    ]
    return out


KINDS = (
    "kale",
    "onion",
    "carrot",
    "pea",
    "lettuce",
    "maize",
    "tomato",
    "bean_bush",
    "parsnip",
    "wheat",
)


def made_up(path: Path, seed: int) -> Larder:
    """A household with packets of every sort, half of them half-known."""
    d = Random(seed)
    larder = Larder(Store(path), MovedClock(NOW))
    ensure_model_rev(larder.store)
    home.ensure_household(larder, "Pellwick Mill", "Europe/London")

    def do(act, *what, **how):
        with suppress(LarderError):
            return act(larder, ActRef(), *what, **how)

    for kind in ("larder", "attic"):
        do(containers.add_node, containers.NewNode(kind, place_kind=kind))
    do(containers.add_node, containers.NewNode("tin", container_kind="glass_jar_gasket", parent_id=1,
                                               capacity_lots=20))  # fmt: skip
    for _ in range(d.randrange(8, 16)):
        do(entry.add_seeds, [NewSeeds(
            kind=d.choice((*KINDS, "")), variety=d.choice(("Slate Curl", "Ember Root", "Millrace")),
            year=d.choice((None, *range(2004, 2027))), source=d.choice(("own", "bought", "gift")),
            quantity=d.choice(("300", "40", "a pinch", "1 packet", "", "", "2 g", "5000")),
            kept_line=d.random() < 0.4, hybrid=False, treated=d.random() < 0.1,
            node_id=d.choice((1, 2, 3)),
        )])  # fmt: skip
    lots = [x.lot_id for x in lot_lines(larder)]
    for _ in range(d.randrange(4, 10)):
        lot, what = d.choice(lots), d.randrange(8)
        if what == 0:
            do(splitting.split_lot, lot, "20")
        elif what in (1, 2):
            started = do(trials_acts.start_trial, lot, d.choice((10, 20)))
            if started is not None and what == 2:
                larder.clock.at_s += 30 * DAY
                n = d.randrange(0, 11)
                do(
                    trials_acts.count_trial,
                    started.trial_id,
                    trials_acts.CountEntry(normal=n),
                    close=True,
                )
        elif what == 3:
            do(lot_acts.log_event, lot, d.choice(("wet", "mould", "rodents", "sprouted")), "")
        elif what == 4:
            do(lot_acts.edit_lot, lot, lot_acts.LotEdit(intended_use=d.choice(("food", "swap"))))
        elif what == 5:
            do(sowings.sow, lot, 10, at_s=larder.now_s() - d.randrange(0, 900) * DAY)
        elif what == 6:
            do(needs_acts.set_pick, lot, 12)
        else:
            do(targets.set_target, product="soup", crop=d.choice(KINDS), per_week=1.0, weeks=20)
    do(
        triage_page.choose_school,
        d.choice(("forecast", "forecast", "age_rule", "test", "routine", "count")),
    )
    return larder


def main() -> None:
    told = dict(zip(sys.argv[1::2], sys.argv[2::2], strict=True))
    first, many = int(told.get("--seed", 1)), int(told.get("--households", 20))
    found = 0
    for seed in range(first, first + many):
        with tempfile.TemporaryDirectory() as folder:
            larder = made_up(Path(folder) / "larder.sqlite3", seed)
            wrong = disagreements(larder)
            larder.store.close()
        found += len(wrong)
        sys.stdout.writelines(f"seed {seed}: {w}\n" for w in wrong)
    sys.stdout.write(f"{many} households, {found} disagreements\n")


if __name__ == "__main__":
    main()
