"""A year lived: households that do, week by week, what Today says, with a hidden truth of what seed and
orders do; and days without any new fact, on which nothing may change but what was told before.

    python benchmarks/year.py [--quick] [--weeks 104] [--seed 7] [--walk 40]

Says of each household: jobs a week, hours a year, acts refused, jobs that came back, sowings that vanished,
foods sown in their window, what was short and why, lines lost; and of each season how often a verdict, an
act, a size, an evening, what covers a need, a year of the plan or a good-until flipped without a fact.
"""

import argparse
import json
import shutil
import sys
import tempfile
from collections import Counter
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from statistics import median

from lived import TZ, Lived, made_up

from brisk_larder.core.base.units import day_start_s
from brisk_larder.demo import build
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.forecast.sowing import windows_of
from brisk_larder.services.growing.sowings import growing_room
from brisk_larder.services.household.kinds import figures, load_kinds
from brisk_larder.services.household.larder import household
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.today import jobs
from brisk_larder.services.trials.bench import bench

KINDS = (
    "verdict",
    "act",
    "size",
    "evening",
    "cover",
    "says",
    "plan",
    "good",
    "safe",
    "due",
    "gone",
)
BEGIN = date(2026, 10, 17)
SPRING = date(2027, 2, 20)  # the short form's: most is asked for in these weeks


def shown(one: Lived) -> dict[tuple[str, str], object]:
    """All that is told on a day."""
    out: dict[tuple[str, str], object] = {}
    larder = one.larder
    for x in lot_lines(larder):
        g = x.glance
        until = g.good_until_s
        out["verdict", x.code] = (x.verdict.standing, x.verdict.code)
        out["act", x.code] = x.next_act
        out["good", x.code] = None if until is None else datetime.fromtimestamp(until, UTC).year
        out["safe", x.code] = g.last_safe_year
    room = bench(larder)
    for w in room.wanted:
        out["size", w.line.code] = (w.seeds, w.line.glance.advice.more)
    for e in room.plan.evenings:
        for t in e.tests:
            out["evening", t.code] = (e.day, t.spot)
    for need in needs_room(larder).lines:
        out["cover", need.name] = tuple((c.code, c.seeds) for c in need.covered)
        out["says", need.name] = (need.says, need.order)
    for r in growing_room(larder).regrow:
        out["plan", r.variety] = r.year
    today = jobs.today_room(larder)
    for p in (*today.jobs, *today.later):
        out["due", p.origin_key] = p.due_s
    return out


def announced(key: tuple[str, str], before: object, day: date, one: Lived) -> bool:
    """Whether a change was told before: the day of an evening or a due date that is past, a window that opens
    or ends, an order-by that is over, New Year, a job that comes into view."""
    what, name = key
    if (day.month, day.day) == (10, 1):
        return True  # their year begins: the list of the last ends, as the job to name foods said
    if what == "evening":
        return before is None or (isinstance(before, tuple) and str(before[0]) < day.isoformat())
    if what == "due":
        return before is None or (isinstance(before, float) and before < one.clock.at_s)
    if what in ("says", "cover"):
        crops = {x.crop for x in needs_room(one.larder).lines if x.name == name}
    elif what == "plan":
        crops = {x.kind for x in lot_lines(one.larder) if x.variety == name}
    else:
        crops = {x.kind for x in lot_lines(one.larder) if x.code == name}
    if any(a_day_of(crop, day, one) for crop in crops):
        return True
    until = {x.code: x.glance.good_until_s for x in lot_lines(one.larder)}.get(name)
    over = until is not None and abs(until - one.clock.at_s) < 86_400
    return over or (day.month, day.day) == (1, 1)


def a_day_of(crop: str, day: date, one: Lived) -> bool:
    """Whether a window of a kind opens or ends, its order-by is over, or it can no longer be had by an order:
    all days that were told."""
    with one.store.read() as session:
        kind, house = load_kinds(session).get(crop), household(session)
        lead = timedelta(days=house.order_lead_days)
        f = figures().calendar
        days = {
            d
            for year in (day.year - 1, day.year, day.year + 1)
            for w in windows_of(kind, year, house)
            for d in (w.first, w.last_days(f), w.closes(f), w.first - lead, w.closes(f) - lead)
        }
    return bool(days & {day, day - timedelta(days=1)})


def walk(path: Path, begin: date, days: int) -> tuple[Counter[str], list[str]]:
    """Days without a fact from a day on: flips by what flipped, but for what was told before."""
    one = Lived(path, 0)
    flips: Counter[str] = Counter()
    said: list[str] = []
    before: dict[tuple[str, str], object] | None = None
    try:
        for i in range(days):
            day = begin + timedelta(days=i)
            one.clock.at_s = day_start_s(day, TZ) + 9 * 3600
            now = shown(one)
            if before is not None:
                for key in sorted(before.keys() | now.keys(), key=str):
                    a, b = before.get(key), now.get(key)
                    if a == b or announced(key, a, day, one):
                        continue
                    if key[0] == "due" and (a is None or b is None):
                        continue  # comes into view, or is done with on its day
                    flips[key[0]] += 1
                    said.append(f"{day} {key[0]} {key[1]}: {a} -> {b}")
            before = now
    finally:
        one.store.close()
    return flips, said


def live(one: Lived, begin: date, weeks: int, keep: dict[int, Path]) -> dict[str, object]:
    """Week by week by the list; ``keep``: weeks after which a copy is put down."""
    one.go_to(begin)
    gone = one.lines_lost()
    for i in range(weeks):
        day = begin + timedelta(days=7 * i)
        one.week(day)
        if i in keep:
            with one.store.read() as session:
                session.connection().exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
            shutil.copy(one.store.path, keep[i])
        if day.month == 9 and 8 <= day.day <= 14:
            one.season()
    d = one.diary
    return {
        "weeks": len(d.weeks),
        "jobs_a_week": {"median": median(d.weeks), "most": max(d.weeks)},
        "hours_a_year": round(d.minutes / 60 / (weeks / 52), 1),
        "by_kind": dict(d.kinds.most_common()),
        "refused": len(d.refused),
        "came_back": len(d.back),
        "vanished": len(d.vanished),
        "sown_in_window": f"{d.sown_in_window} of {d.had_seed} that had seed",
        "not_sown": len(d.not_sown),
        "short": dict(d.short),
        "lines_lost": sorted(one.lines_lost() - gone),
        "said": [*d.refused[:8], *d.back[:8], *d.vanished[:8], *d.not_sown[:12]],
    }


def main() -> None:
    ask = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    ask.add_argument("--quick", action="store_true")
    ask.add_argument("--weeks", type=int, default=104)
    ask.add_argument("--walk", type=int, default=40)
    ask.add_argument("--seed", type=int, default=7)
    ask.add_argument("--only", default="", choices=["", "mill", "made up"])
    asked = ask.parse_args()
    quick = "--quick" in sys.argv
    begin = SPRING if quick else BEGIN
    weeks, days = (11, 4) if quick else (asked.weeks, asked.walk)
    seasons = {w: i for i, w in enumerate((6,) if quick else (20, 33, 46, 59)) if w < weeks}
    out: dict[str, object] = {}
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        houses = ["made up"] if quick else ["mill", "made up"]
        for name in [h for h in houses if asked.only in ("", h)]:
            path = home / f"{name}.sqlite3"
            if name == "mill":
                build(path, day_start_s(begin, TZ) + 8 * 3600)
                one = Lived(path, asked.seed)
            else:
                one = made_up(path, asked.seed, begin)
            copies = {w: home / f"{name}-{i}.sqlite3" for w, i in seasons.items()}
            lived = live(one, begin, weeks, copies)
            one.store.close()
            flips: Counter[str] = Counter()
            said: list[str] = []
            for w, copy in copies.items():
                found, words = walk(copy, begin + timedelta(days=7 * w + 1), days)
                flips += found
                said += words
            lived["flips"] = {k: flips[k] for k in KINDS if flips[k]}
            lived["days_walked"] = days * len(copies)
            out[name] = lived
            print(f"\n{name}")
            for k, v in lived.items():
                if k != "said":
                    print(f"  {k}: {v}")
            for line in (*lived["said"], *said[:30]):  # type: ignore[misc]
                print(f"    {line}")
            sys.stdout.flush()
    print(json.dumps(out))


if __name__ == "__main__":
    main()
