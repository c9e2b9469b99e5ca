"""Processes killed (SIGKILL) in the middle of acts, imports, undos, migration, restore and backup.

After each kill the file is opened: it must be whole, hold every act that was acknowledged, and all
of an act or nothing of it. Prints how often; ends with an error at the first loss.
Usage: python benchmarks/kills.py [--quick].
"""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from alembic import command

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import Conflict
from brisk_larder.data import files
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.acts import entry, ledger, lot_acts
from brisk_larder.services.acts.acting import step, together
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.acts.stays_told import say_since
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.growing import settling
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import buying
from brisk_larder.services.papers import history
from brisk_larder.services.storage import containers, imports, readings

QUICK = "--quick" in sys.argv
ACTS, EACH, LARGE = (6, 3, 2) if QUICK else (200, 40, 20)
NOW = 1_795_507_200
DAY = 86_400
OLD_ROWS = 20_000 if QUICK else 200_000
PACKS = 100_000
KINDS = (
    "count", "note", "tag", "pieces", "read", "since", "file", "undo", "order", "came", "many", "settle",
)  # fmt: skip
SEVERAL = ("order", "came", "many", "settle")
# what an act writes in several rows, as a number that is nothing when all of them or none are there
WHOLE = {
    "an order": f"SELECT (SELECT packs_left FROM seed_offer) + (SELECT coalesce(sum(packs), 0) "
    f"FROM seed_order WHERE deleted_s IS NULL) - {PACKS}",
    "an order that came": "SELECT (SELECT count(*) FROM seed_order WHERE deleted_s IS NULL AND "
    "state = 'arrived') - (SELECT count(*) FROM seed_order o JOIN lot ON lot.id = o.lot_id "
    "WHERE o.deleted_s IS NULL AND lot.deleted_s IS NULL)",
    "an act on many": "SELECT count(DISTINCT note) - 1 FROM lot WHERE id IN (2, 3)",
    "a settling": "SELECT count(*) FROM (SELECT year FROM plan_cell WHERE deleted_s IS NULL "
    "GROUP BY year HAVING count(*) <> 2)",
}
rng = random.Random(20_261)


def killed_within(work: Callable[[int], None], seconds: float) -> list[str]:
    """Run work in a child that is killed within so many seconds; what it acknowledged."""
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        try:
            work(into)
        finally:
            os._exit(0)
    os.close(into)
    time.sleep(rng.uniform(0, seconds))
    os.kill(child, signal.SIGKILL)
    with os.fdopen(out) as pipe:
        said = pipe.read().splitlines()
    os.waitpid(child, 0)
    return said


def whole(path: Path) -> sqlite3.Connection:
    """Open a file as the program would, and check all of it."""
    Store(path).close()
    files.verify(path)
    return sqlite3.connect(path)


def logger_file(folder: Path, first: int) -> Path:
    path = folder / f"log-{first}.csv"
    lines = ["time,temperature_c,humidity_pct"]
    for i in range(3_000 if QUICK else 8_000):
        at = datetime.fromtimestamp(NOW - 300 * DAY + first + 600 * i, UTC)
        lines.append(f"{at:%Y-%m-%dT%H:%M:%S}Z,{10 + i % 7},{50 + i % 9}")
    path.write_text("\n".join(lines))
    return path


def make(path: Path) -> tuple[int, int]:
    store = Store(path)
    ensure_model_rev(store)
    larder = Larder(store, MovedClock(NOW))
    home.ensure_household(larder, "Pellwick Mill", "UTC")
    place = containers.NewNode("larder", place_kind="larder")
    node = int(str(containers.add_node(larder, ActRef(), place).node_id))
    seeds = NewSeeds(kind="kale", variety="Slate Curl", year=2024, quantity="300", node_id=node)
    (lot,) = entry.add_seeds(larder, ActRef(), [seeds]).lot_ids  # type: ignore[misc]
    # a pair that only acts on both change, and an offer that orders take from
    pair = [replace(seeds, variety=name, kept_line=True) for name in ("Ash Frill", "Beck Plain")]
    entry.add_seeds(larder, ActRef(), pair)
    packet = buying.OfferSaid("Rushbank", "pea", 100, 2.5, "Millrace", packs_left=PACKS)
    buying.say_offer(larder, ActRef(), packet)
    store.close()
    return node, lot


def several(
    kind: str, larder: Larder, ref: ActRef, there: tuple[int, int], dice: random.Random
) -> None:
    """An act that writes several rows that belong together."""
    node, lot = there
    if kind == "order":
        buying.order(larder, ref, {1: dice.randrange(1, 5)})
    elif kind == "came":
        with larder.store.read() as session:
            run = session.connection().exec_driver_sql
            waits = run(
                "SELECT id FROM seed_order WHERE state = 'ordered' AND deleted_s IS NULL LIMIT 2"
            )
            ids = [int(row[0]) for row in waits]
        if not ids:
            raise Conflict("nothing is on its way")
        buying.came(larder, ref, ids, node)
    elif kind == "many":
        both = LotEdit(note=f"n{dice.random()}")
        steps = [step(lot_acts.edit_lot, i, both) for i in (lot + 1, lot + 2)]
        together(larder, ref, "note_lots", steps)
    else:
        settling.settle_all(larder, ref, 2027 + dice.randrange(4), [(2, False), (3, False)])


def busy(path: Path, folder: Path, node: int, lot: int, seed: int) -> Callable[[int], None]:
    """A child that acts and says the id of each act once it was answered."""

    def work(into: int) -> None:
        larder = Larder(Store(path), MovedClock(NOW - rng.randrange(40) * DAY))
        dice = random.Random(seed)
        made: list[str] = []
        while True:
            ref = ActRef()
            kind = dice.choice(KINDS)
            try:
                if kind == "count":
                    ledger.book_quantity(larder, ref, lot, "counted", str(dice.randrange(9, 900)))
                elif kind == "note":
                    edit = LotEdit(note=f"n{dice.random()}")
                    lot_acts.edit_lot(larder, ref, lot, edit)
                elif kind == "tag":
                    lot_acts.tag_lot(larder, ref, lot, f"t{dice.randrange(9)}", dice.random() < 0.4)
                elif kind == "pieces":
                    some = NewSeeds(kind="potato", quantity="40 tubers", year=2024, node_id=node)
                    entry.add_seeds(larder, ref, [some])
                elif kind == "since":
                    said = dice.choice(("since it came", "only from then", "2025"))
                    say_since(larder, ref, said, [lot], [node])
                elif kind in SEVERAL:
                    several(kind, larder, ref, (node, lot), dice)
                elif kind == "read":
                    at = NOW - 50 * DAY - dice.randrange(200 * DAY)
                    readings.log_reading(
                        larder, ref, node, readings.DialReading(9.0, 50.0, at_s=at)
                    )
                elif kind == "file":
                    file = logger_file(folder, dice.randrange(500))
                    imports.import_file(larder, ref, node, file, file.name)
                elif made:
                    history.undo(larder, ref, dice.choice(made))
                else:
                    continue
            except Conflict:
                continue
            made.append(ref.id)
            os.write(into, f"{ref.id}\n".encode())

    return work


def acts(folder: Path) -> int:
    path = folder / "acts.sqlite3"
    node, lot = make(path)
    kept = 0
    for i in range(ACTS):
        said = killed_within(busy(path, folder, node, lot, i), 1.2)
        with closing(whole(path)) as raw:
            known = {row[0] for row in raw.execute("SELECT id FROM act")}
            missing = set(said) - known
            assert not missing, f"kill {i}: acknowledged and lost: {missing}"
            half = raw.execute(
                "SELECT b.id, b.rows, count(r.at_s) FROM import_batch b LEFT JOIN reading r "
                "ON r.batch_id = b.id WHERE b.deleted_s IS NULL GROUP BY b.id "
                "HAVING b.rows <> count(r.at_s)"
            ).fetchall()
            assert not half, f"kill {i}: half a file: {half}"
            for name, sums in WHOLE.items():
                (found,) = raw.execute(sums).fetchone()
                assert found == 0, f"kill {i}: half of {name}: {found}"
        kept += len(said)
    return kept


def large_files(folder: Path) -> int:
    """Killed while a process of its own brings a large file in: all of it or nothing in sight, and what
    was on its way is swept once that process has noticed."""
    path = folder / "large.sqlite3"
    node, _ = make(path)
    file = folder / "large.csv"
    count = 150_000
    with file.open("w") as out:
        out.write("device: large\ntime,temperature_c,humidity_pct\n")
        for i in range(count):
            at = datetime.fromtimestamp(NOW - 600 * DAY + 300 * i, UTC)
            out.write(f"{at:%Y-%m-%dT%H:%M:%S}Z,{10 + i % 7},{50 + i % 9}\n")
    template = path.read_bytes()

    def bring(into: int) -> None:
        larder = Larder(Store(path), MovedClock(NOW))
        imports.import_file(larder, ActRef(), node, file, file.name)

    usual = timed(lambda: killed_within(bring, 0.0)) + 4.0
    for i in range(LARGE):
        files.remove_database(path)
        path.write_bytes(template)
        killed_within(bring, usual)
        time.sleep(1.2)  # the other process ends with its parent
        with closing(whole(path)) as raw:
            seen = raw.execute(
                "SELECT count(*) FROM reading WHERE series_id IN (SELECT series_id FROM deployment)"
            ).fetchone()[0]
            rest = raw.execute("SELECT count(*) FROM reading").fetchone()[0] - seen
            acts = raw.execute("SELECT count(*) FROM act WHERE kind = 'import_readings'").fetchone()
            assert (seen, acts[0], rest) in ((0, 0, 0), (count, 1, 0)), (i, seen, acts, rest)
    return LARGE


def old_file(path: Path) -> None:
    """A file of the first release with many readings."""
    command.upgrade(files.alembic_config(path), "0001")
    with closing(sqlite3.connect(path)) as raw:
        raw.executescript(
            "INSERT INTO series (id, version, name, origin) VALUES (1, 1, 'mill-a', 'logger');"
            "INSERT INTO node (id, version, code, name, role, place_kind, walk_order, note) "
            "VALUES (1, 1, 'P1', 'larder', 'place', 'larder', 1, '');"
            "INSERT INTO deployment (series_id, node_id, from_s) VALUES (1, 1, 0);"
        )
        raw.executemany(
            "INSERT INTO reading (series_id, at_s, temperature_c) VALUES (1, ?, 9.5)",
            ((NOW - 600 * i,) for i in range(OLD_ROWS)),
        )
        raw.commit()


def timed(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def rows_of(path: Path) -> int:
    with closing(whole(path)) as raw:
        return int(raw.execute("SELECT count(*) FROM reading").fetchone()[0])


def migration(folder: Path) -> int:
    template, path = folder / "old.sqlite3", folder / "migrated.sqlite3"
    old_file(template)
    path.write_bytes(template.read_bytes())
    usual = timed(lambda: files.migrate(path))
    for _ in range(EACH):
        files.remove_database(path)
        path.write_bytes(template.read_bytes())
        killed_within(lambda into: files.migrate(path) and None, usual)
        assert rows_of(path) == OLD_ROWS
    return EACH


def restoring(folder: Path) -> int:
    copy, path = folder / "migrated.sqlite3", folder / "restored.sqlite3"
    make(path)
    usual = timed(lambda: files.restore(copy, path))
    for i in range(EACH):
        files.remove_database(path)
        make(path)
        killed_within(lambda into: files.restore(copy, path) and None, usual)
        assert rows_of(path) in (0, OLD_ROWS), f"kill {i}"
    return EACH


def backing_up(folder: Path) -> int:
    source, target = folder / "migrated.sqlite3", folder / "copy.sqlite3"
    usual = timed(lambda: files.copy_database(source, target))
    for _ in range(EACH):
        target.unlink(missing_ok=True)
        killed_within(lambda into: files.copy_database(source, target), usual)
        assert not target.exists() or rows_of(target) == OLD_ROWS
        assert rows_of(source) == OLD_ROWS
    files.copy_database(source, folder / "last.sqlite3")
    files.sweep_asides(target)
    assert not list(folder.glob(".copy.sqlite3.*.part*")), "what killed copies left is swept"
    return EACH


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        found = {
            "kills_in_acts": ACTS, "acknowledged_and_kept": acts(folder),
            "kills_in_large_files": large_files(folder),
            "kills_in_migration": migration(folder), "kills_in_restore": restoring(folder),
            "kills_in_backup": backing_up(folder), "lost": 0,
        }  # fmt: skip
    for what, value in found.items():
        print(f"{what:<24}{value:>8}")
    print(json.dumps(found))


main()
