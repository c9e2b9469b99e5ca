"""What a household's file holds: its live rows, what is derived of them, what the rooms show; and
whether what was carried along equals what a copy of the file makes of its records from nothing."""

import tempfile
from dataclasses import asdict
from math import isclose
from pathlib import Path

from sqlmodel import SQLModel

from brisk_larder.core.base.units import month_start_s
from brisk_larder.data.store import Store, copy_database
from brisk_larder.data.tables import HISTORY_TABLES
from brisk_larder.services.air.buckets import rebuild_buckets
from brisk_larder.services.forecast import current, lines
from brisk_larder.services.forecast.stale import remark_everything, unsettle
from brisk_larder.services.growing import sowings
from brisk_larder.services.household.larder import Larder, household, today
from brisk_larder.services.needs import chains
from brisk_larder.services.saving import saving_page
from brisk_larder.services.storage import shelves
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import bench


def live(larder: Larder) -> dict[str, list]:
    """All live rows, without versions; a series with nothing read in it, and where it would
    stand, is nothing."""
    out = {}
    with larder.store.read() as session:
        run = session.connection().execute
        one = session.connection().exec_driver_sql
        used = {r[0] for r in one("SELECT DISTINCT series_id FROM reading")}
        used |= {r[0] for r in one("SELECT series_id FROM device WHERE deleted_s IS NULL")}
        for name in [*HISTORY_TABLES, "reading"]:
            rows = [dict(r) for r in run(SQLModel.metadata.tables[name].select()).mappings()]
            for row in rows:
                row.pop("version", None)
            kept = [r for r in rows if r.get("deleted_s") is None]
            if name in ("series", "deployment"):
                key = "id" if name == "series" else "series_id"
                kept = [r for r in kept if r[key] in used]
            out[name] = kept
    return out


def rooms(larder: Larder) -> dict:
    room = jobs.today_room(larder)
    return {
        "stock": [asdict(x) for x in lines.lot_lines(larder)],
        "shelves": [asdict(x) for x in shelves.shelves(larder)],
        "needs": [asdict(x) for x in chains.needs_room(larder).lines],
        "bench": asdict(bench.bench(larder)),
        "growing": asdict(sowings.growing_room(larder)),
        "saving": [asdict(x) for x in saving_page.saving_room(larder)],
        "jobs": [asdict(x) for x in [*room.jobs, *room.later]],
    }  # fmt: skip


def derived(larder: Larder) -> dict[str, dict]:
    """What is kept up to the current month, by its key."""
    current.bring_up_to_date(larder)
    now = month_start_s(larder.now_s())
    out = {}
    with larder.store.read() as session:
        run = session.connection().exec_driver_sql
        for table, keys, until in (
            ("d_month", 2, f"WHERE month_s < {now} AND part_id IN (SELECT id FROM part WHERE "
                           "deleted_s IS NULL)"),
            ("d_leg", 3, f"WHERE month_s < {now} AND part_id IN (SELECT id FROM part WHERE "
                         "deleted_s IS NULL)"),
            ("d_kin", 1, ""), ("d_air", 2, f"WHERE month_s < {now}"), ("d_hour", 2, ""), ("d_day", 2, ""),
        ):  # fmt: skip
            rows = run(f"SELECT * FROM {table} {until}").all()
            out[table] = {tuple(r[:keys]): tuple(r[keys:]) for r in rows}
    return out


def forget_what_was_told(larder: Larder, session) -> None:
    run = session.connection().exec_driver_sql
    day = today(larder, household(session)).isoformat()
    run("DELETE FROM d_glance WHERE day <> ?", (day,))  # what it said on that day would be held to
    run("DELETE FROM meta WHERE key LIKE 'told:%'")
    # a % b: the driver takes a lone one for its own
    run("DELETE FROM d_glance WHERE instr(data, '\"as_told\":true') > 0")


def carried_along(larder: Larder) -> tuple[dict, dict]:
    """What is derived and what the rooms show, as it stands in the file."""
    derived(larder)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "as_it_is.sqlite3"
        copy_database(larder.store.path, path)
        copy = Larder(Store(path), larder.clock)
        with copy.store.write() as session:
            forget_what_was_told(copy, session)
        found = derived(copy), rooms(copy)
        copy.store.close()
    return found


def compare(larder: Larder) -> None:
    """Everything carried along against everything made from nothing, on copies. What was told on earlier days
    stands, and is no matter of records: it is forgotten on both sides."""
    mine, shown = carried_along(larder)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "copy.sqlite3"
        copy_database(larder.store.path, path)
        copy = Larder(Store(path), larder.clock)
        with copy.store.write() as session:
            for table in ("d_month", "d_leg", "d_track", "d_air", "d_glance", "d_kin", "dirty"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            forget_what_was_told(copy, session)
            rebuild_buckets(session)
            unsettle(session)
            remark_everything(session)
        theirs, anew = derived(copy), rooms(copy)
        copy.store.close()
    for table in mine:
        a, b = mine[table], theirs[table]
        if table == "d_air":  # made for what is looked at, so not all are there on both sides
            a, b = {k: a[k] for k in a if k in b}, {k: b[k] for k in b if k in a}
        off = {
            k: (a.get(k), b.get(k)) for k in a.keys() | b.keys() if not alike(a.get(k), b.get(k))
        }
        assert not off, (table, len(off), dict(list(sorted(off.items()))[:3]))
    for room in shown:
        off = difference(shown[room], anew[room])
        assert off is None, (room, off)


def alike(a, b) -> bool:
    # the air behind a wall is begun some time constants before it is asked for: what was before that is
    # forgotten to 1e-9 of a share, and ageing makes a little more of it
    return difference(a, b) is None


def difference(a, b, path="", tolerance=1e-6) -> str | None:
    """Where two values differ by more than the last bits of a float; None where they do not."""
    if a == b:
        return None
    if (
        isinstance(a, float)
        and isinstance(b, float)
        and isclose(a, b, rel_tol=tolerance, abs_tol=1e-12)
    ):
        return None
    if isinstance(a, dict) and isinstance(b, dict) and a.keys() == b.keys():
        pairs = [(f"{path}.{k}", a[k], b[k]) for k in a]
    elif isinstance(a, list | tuple) and isinstance(b, list | tuple) and len(a) == len(b):
        pairs = [(f"{path}[{i}]", x, y) for i, (x, y) in enumerate(zip(a, b, strict=True))]
    else:
        return f"{path}: {str(a)[:300]} != {str(b)[:300]}"
    return next(
        (off for p, x, y in pairs if (off := difference(x, y, p, tolerance)) is not None), None
    )
