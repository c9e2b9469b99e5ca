"""This year's list: tests, regrowing, shortfalls; the same that the rooms show."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime

from ...core.base.units import DAY_S, day_start_s
from ..air.look import looking_at
from ..forecast.line_sowings import lines_sown
from ..forecast.lines import LotLine, lot_lines
from ..forecast.sowing import window_in
from ..growing.sowings import GrowingRoom, growing_room
from ..household.kinds import figures
from ..household.larder import Larder, today
from ..household.wording import day_words
from ..needs.chain_lines import ChainLine, NeedsRoom
from ..needs.chains import needs_room
from ..trials.bench import Bench, bench


@dataclass(frozen=True)
class Proposal:
    """One thing to do. ``origin_key``: rule + subject + season, so a dropped one stays dropped.

    kind: test, count, regrow, order, less (too late to order), missed (its sowing is over), ask (for an order
    that is late), name (next year's foods), sow, look (over what
    keeps no longer), read, alarm, move, own (typed by somebody), sown (due emergence);
    where: house, cold store, greenhouse, garden; due_s: by when (None: any time). ``short``: what it is
    called among others of its kind; ``seeds``, ``spot_c`` and the ``evening`` it is planned for: of a test;
    ``waits_for``: subjects whose test comes first; ``every_weeks``: of one that comes again; ``setting`` of a
    sowing, ``pieces``: what is set and not sown, ``held_up`` what moved it, ``until_s`` the last day for it.
    """

    origin_key: str
    kind: str
    title: str
    why: str
    where: str
    due_s: float | None
    subject: str
    urgent: bool
    state: str = "open"
    job_id: int | None = None
    version: int = 0
    moved_to_s: int | None = None
    person: str = ""
    short: str = ""
    seeds: int = 0
    spot_c: float | None = None
    evening: str = ""
    waits_for: tuple[str, ...] = ()
    every_weeks: int = 0
    setting: str = ""
    pieces: bool = False
    held_up: str = ""
    until_s: float | None = None


@dataclass(frozen=True)
class YearList:
    """This year's list: tests, regrowing and shortfalls, each with its reason."""

    tests: list[Proposal]
    regrow: list[Proposal]
    shortfalls: list[Proposal]
    wanted_foods: int
    season: str


WAITS = ("regrow_wait", "regrow_on_its_way")  # nothing to be done about it by now
REGROW = {
    "": "Regrow {name} in {year}: {mothers} mothers or more, from {lots}",
    "regrow_find_again": "Find seed of {name} again",
    "regrow_count": "Count {lots}, {name}",
}


def _shortfall(x: ChainLine, year: int, now_s: int) -> Proposal | None:
    """What is short of a food or pick: to be ordered or tested while that helps, told once when it is too
    late to order, and once when its sowing is over."""
    if not x.short_plants:
        return None
    soon_s = now_s + figures().growing.order_soon_days * DAY_S
    plain = Proposal(
        origin_key=f"order:{x.key}:{year}",
        kind="order",
        title=f"{x.name}: {x.says}; {x.next_act}",
        why=" ".join(x.why[-2:]),
        where="house",
        due_s=x.order_by_s,
        subject=x.key,
        urgent=x.order_by_s is not None and x.order_by_s < soon_s,
        short=f"{x.name} ({x.says})",
    )
    if x.missed_s is not None:
        return replace(
            plain, origin_key=f"missed:{x.key}:{year}", kind="missed", due_s=x.missed_s,
            why=x.why[-1], urgent=False, short=x.name,
        )  # fmt: skip
    if x.tests_first:
        waits = tuple(f"lot:{c.lot_id}" for c in x.covered if c.in_hand)
        return replace(plain, kind="test", waits_for=waits)
    if x.order == "too_late" and x.asks == "order":
        return replace(
            plain, origin_key=f"less:{x.key}:{year}", kind="less", due_s=x.sow_last_s, urgent=False,
            short=x.name,
        )  # fmt: skip
    return replace(plain, kind="count") if x.asks in ("count", "wait") else plain


def shortfalls_of(needs: NeedsRoom, now_s: int) -> list[Proposal]:
    """What is short of all foods and picks of a year."""
    return [p for x in needs.lines if (p := _shortfall(x, needs.year, now_s))]


def _line_days(larder: Larder, growing: GrowingRoom) -> tuple[dict[int, float], set[int]]:
    """By line the day on which its sowing opens in the year it is grown anew; and lines that are sown for it
    already."""
    kinds = {x.lot_id: x.kind for x in lot_lines(larder)}
    with looking_at(larder) as v:
        sown = {(s.variety_id, s.day.year) for s in lines_sown(v.session, v.home) if not s.failed}
        out = {}
        for r in growing.regrow:
            window = window_in(v.kinds.get(kinds.get(r.lot_ids[0], "")), r.year, v.home)
            if window is not None:
                out[r.variety_id] = float(day_start_s(window.first, v.home.tz))
    return out, {r.variety_id for r in growing.regrow if (r.variety_id, r.year) in sown}


def test_key(line: LotLine, year: int) -> str:
    """What a test of a packet is about: the sowing that it comes before."""
    sowing = line.glance.next_sowing_s
    return (
        f"test:{line.lot_id}:{year if sowing is None else datetime.fromtimestamp(sowing, UTC).year}"
    )


def year_of(
    larder: Larder,
    room: Bench | None = None,
    needs: NeedsRoom | None = None,
    growing: GrowingRoom | None = None,
) -> YearList:
    """This year's list; the same that Tests, Growing and Needs show."""
    # long: one kind of proposal after the other
    room, needs = room or bench(larder), needs or needs_room(larder)
    growing = growing or growing_room(larder)
    with looking_at(larder) as v:
        day = today(larder, v.home)
    evenings = {t.lot_id: (e, t) for e in room.plan.evenings for t in e.tests}
    tests = [
        Proposal(
            origin_key=test_key(w.line, needs.year),
            kind="test",
            title=f"Test {w.seeds} seeds of {w.line.code} {w.line.variety} ({w.line.kind_name})",
            why=w.why,
            where="house",
            due_s=w.due_s,
            subject=f"lot:{w.line.lot_id}",
            urgent=w.line.urgency >= 2,
            short=f"{w.line.code} {w.line.variety}",
            seeds=w.seeds,
            spot_c=planned[1].temperature_c if planned else w.spot_c,
            evening=planned[0].day if planned else "",
        )
        for w in room.wanted
        for planned in (evenings.get(w.line.lot_id),)
    ]
    first = growing.years[0] if growing.years else day.year
    sown_from, in_ground = _line_days(larder, growing)
    regrow = [
        Proposal(
            origin_key=f"regrow:{r.variety_id}:{r.year}",
            kind={"regrow_find_again": "order", "regrow_count": "count"}.get(r.code, "regrow"),
            title=REGROW.get(r.code, REGROW[""]).format(
                name=f"{r.variety} ({r.kind_name})",
                year=r.year,
                mothers=r.mothers,
                lots=" + ".join(r.lots),
            ),
            why=r.why,
            where="garden",
            due_s=sown_from.get(r.variety_id),
            subject=f"lot:{r.lot_ids[0]}",
            short=f"{r.variety} ({r.kind_name}, {r.year})",
            urgent=r.code in ("regrow_already_unsafe", "regrow_crowded", "regrow_find_again"),
        )
        for r in growing.regrow
        if r.year <= first + 1 and r.code not in WAITS and r.variety_id not in in_ground
    ]
    shortfalls = shortfalls_of(needs, larder.now_s())
    return YearList(
        tests, regrow, shortfalls, sum(x.kind == "food" for x in needs.lines), needs.season
    )


def short_words(year: YearList) -> str:
    """The list as plain text for the command line."""
    out = [f"This year's list ({year.season})"]
    for head, rows in (
        ("Tests", year.tests),
        ("Regrow", year.regrow),
        ("Short for the table", year.shortfalls),
    ):
        out.append(f"\n{head}: {len(rows) or 'nothing'}")
        for p in rows:
            by = f" by {day_words(p.due_s)}" if p.due_s and p.kind not in ("missed", "less") else ""
            out.append(f"  - {p.title}{by}")
            out.append(f"      {p.why}")
    return "\n".join(out)
