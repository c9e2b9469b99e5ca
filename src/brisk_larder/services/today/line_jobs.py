"""Lines that are grown anew, as jobs: their sowing on its day, their harvest of seed, and a word when the
year that was planned is missed."""

from __future__ import annotations

from datetime import timedelta

from ...core.base.units import day_start_s
from ...core.growing.life_cycle import remnant, ripe_on
from ...core.needs.seed_needed import line_reserve
from ..air.look import Look, looking_at
from ..forecast.current import whole_outlook
from ..forecast.line_sowings import LINE, LineSown, lines_sown
from ..forecast.lines import LotLine, lot_lines
from ..forecast.outlook import Outlook
from ..forecast.sowing import reckoned_s, seed_of, sowing_of, windows_of
from ..growing.not_kept import MissedYear
from ..growing.regrow_page import RegrowLine
from ..growing.sowings import GrowingRoom
from ..household.kinds import figures
from ..household.larder import Larder
from ..household.lot_quantity import seeds_left
from ..household.memory import Told, recall, remember
from ..household.wording import date_words, many, percent
from .this_years_list import Proposal

NOT_SOWN = ("regrow_find_again", "regrow_count", "regrow_wait", "regrow_on_its_way")


def line_jobs(larder: Larder, growing: GrowingRoom) -> list[Proposal]:
    """Sowings, harvests and missed years of lines."""
    stock = {x.lot_id: x for x in lot_lines(larder)}
    look = whole_outlook(larder)
    with looking_at(larder) as v:
        sown = lines_sown(v.session, v.home)
        before = recall(v.session, "regrow")
        in_ground = {s.variety_id for s in sown if s.day.year == v.today.year and not s.failed}
        out = []
        for r in growing.regrow:
            out += _sow(v, r, stock, look, in_ground)
        out += _harvests(v, sown, stock)
        told = {
            str(r.variety_id): {"year": r.year, "name": f"{r.variety} {r.kind_name}"}
            for r in growing.regrow
            if r.code not in NOT_SOWN
        }
        proposed = _told_and_missed(v, before, told, growing, stock, in_ground)
        missed = {(m.variety_id, m.year): m for m in (*growing.missed, *proposed)}
        out += [_missed(m, v) for m in missed.values()]
        # what was told for a year that is over stays until New Year, so that its word does
        for key, one in before.items():
            if one["year"] == v.today.year and told.get(key, {}).get("year") != v.today.year:
                told[key] = one
    remember(larder, "regrow", before, told)
    return out


def _sow(
    v: Look, r: RegrowLine, stock: dict[int, LotLine], look: Outlook, in_ground: set[int]
) -> list[Proposal]:
    """The sowing of a line, in the weeks before it."""
    here = [stock[i] for i in r.lot_ids if i in stock and stock[i].verdict.alive and stock[i].seeds]
    if r.code in NOT_SOWN or r.variety_id in in_ground or not here:
        return []
    kind = v.kinds.get(here[0].kind)
    when = sowing_of(kind, v.today, v.home)
    if when is None or when.first.year != r.year:
        return []
    soon = v.today + timedelta(days=figures().growing.sow_soon_days)
    if when.first > soon:
        return []
    rows = {row.part.lot_id: i for i, row in enumerate(look.rows)}
    at_s = reckoned_s(when, v.today, v.home)
    seeds = seeds_left(v.session, [x.lot_id for x in here])
    pairs = [
        (seed_of(look, rows[x.lot_id], at_s, when.setting), seeds[x.lot_id].whole) for x in here
    ]
    take = line_reserve(pairs, r.mothers, v.home.line_confidence)
    if not any(take):
        take = [n for _, n in pairs]  # it cannot promise its mothers: all but a remnant
    ending, out = v.today >= when.last_days, []
    says = (
        f"Last days: its sowing {when.setting} ends on {date_words(when.until)}. " if ending else ""
    )
    for x, n, (_, whole) in zip(here, take, pairs, strict=True):
        n = min(n, whole - remnant(whole, figures().growing))
        if n < 1:
            continue
        what = f"{x.code} {x.variety}"
        out.append(
            Proposal(
                origin_key=f"sow:{LINE}{r.variety_id}:{x.lot_id}:{r.year}:0",
                kind="sow",
                title=f"Sow {many(n, 'seed')} of {what} ({x.kind_name}) {when.setting}, for its seed",
                why=f"{says}The line is grown anew in {r.year}, {many(r.mothers, 'mother')} or more. "
                f"{r.why}",
                where="greenhouse" if when.setting == "indoors" else "garden",
                due_s=float(day_start_s(when.first, v.home.tz)),
                subject=f"lot:{x.lot_id}",
                urgent=ending,
                short=f"{what} ({x.kind_name}, {n}, for its seed)",
                seeds=n,
                setting=when.setting,
                until_s=float(day_start_s(when.until, v.home.tz)),
            )
        )
    return out


def _harvests(v: Look, sown: list[LineSown], stock: dict[int, LotLine]) -> list[Proposal]:
    """Seed of lines in the ground that will be ripe in the coming weeks, until new seed of the line is in."""
    soon = v.today + timedelta(days=figures().growing.sow_soon_days)
    newest: dict[str, int] = {}
    for x in stock.values():
        newest[x.variety] = max(newest.get(x.variety, 0), int(x.origin_s))
    out = []
    for s in sown:
        if s.failed or s.lot_id not in stock:
            continue
        x = stock[s.lot_id]
        crop = v.kinds.get(x.kind).crop
        grows, ripens = crop.days_to_maturity.high, crop.days_seed_maturity_after_food_stage
        ripe = ripe_on(s.day, grows, ripens, crop.life_cycle)
        late = (v.today - ripe).days
        came = newest[x.variety] > day_start_s(s.day, v.home.tz)
        if ripe > soon or late > figures().growing.seed_waited_for_days or came:
            continue
        out.append(
            Proposal(
                origin_key=f"seed:{s.variety_id}:{s.day.year}",
                kind="seed",
                title=f"Gather the seed of {x.variety} ({x.kind_name})",
                why=f"Sown {date_words(s.day, year=True)} for its seed, ripe about {date_words(ripe)} "
                "(a guess: days to eating and from there to seed, by the book). "
                "Dry it, and write the new packet down.",
                where="garden",
                due_s=float(day_start_s(ripe, v.home.tz)),
                subject=f"lot:{s.lot_id}",
                urgent=late > 0,
                short=f"{x.variety} ({x.kind_name})",
            )
        )
    return list({p.origin_key: p for p in out}.values())


def _told_and_missed(
    v: Look, before: Told, told: Told, growing: GrowingRoom, stock: dict[int, LotLine],
    in_ground: set[int],
) -> list[MissedYear]:  # fmt: skip
    """Lines that were to be grown this year, nobody sowed, and that stand in another year now because their
    sowing is over."""
    out = []
    for key, one in before.items():
        variety, year = int(key), int(str(one["year"]))
        row = next((r for r in growing.rows if r.variety_id == variety), None)
        if year != v.today.year or variety in in_ground or row is None:
            continue
        line, now = stock.get(row.lot_id), told.get(key)
        windows = windows_of(v.kinds.get(line.kind), year, v.home) if line else []
        window = max(windows, key=lambda w: w.last, default=None)
        if window is None or v.today <= window.closes(figures().calendar):
            continue
        later = now if now is not None and now["year"] != year else None
        cell = next((c for c in row.cells if later and c.year == later["year"]), None)
        out.append(
            MissedYear(
                variety, str(one["name"]), year, row.lot_id,
                cell.year if cell else None, cell.chance if cell else 0.0,
            )
        )  # fmt: skip
    return out


def _missed(m: MissedYear, v: Look) -> Proposal:
    """The word that a year was missed, and what it means for the line."""
    then = (
        f"It stands in {m.now_in} now; enough mothers then with a chance of {percent(m.chance)}."
        if m.now_in is not None
        else "It stands in no year of the plan now."
    )
    return Proposal(
        origin_key=f"missed:{LINE}{m.variety_id}:{m.year}",
        kind="missed",
        title=f"{m.name} was to be grown anew in {m.year}: its sowing is over",
        why=f"Nobody wrote down a sowing of it. {then} Sow it late all the same, or ask a neighbour for "
        "plants, if the line is to be sure; if it was sown, write it down with its day.",
        where="house",
        due_s=None,
        subject=f"lot:{m.lot_id}",
        urgent=False,
        short=f"{m.name} ({m.year})",
    )
