"""The verdict on each packet, from its forecast, its amount, its line and what is wanted of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Protocol

from sqlmodel import Session

from ...core.base.units import DAY_S, YEAR_S
from ...core.hand.seed_count import Seeds
from ...core.judging.edible import TABLE, fit_for_food, fit_for_shoots
from ...core.judging.triage import Opinions, by_age, by_forecast, by_test
from ...core.judging.verdict import (
    Packet,
    Verdict,
    dead,
    good_to_give,
    one_test_each,
    only_guessed,
    seeds_to_spare,
    used_up,
    verdict,
)
from ...data.tables import Household
from ..household.kinds import UNKNOWN, Kind, Kinds, figures
from .emergence import emergence
from .glance_data import Glance
from .kept_pieces import Kept
from .wishes import Wishes

PENDING = Verdict("none", "none", (), "none", 0)


class Row(Protocol):
    """What is asked of a lot's largest part."""

    @property
    def lot_id(self) -> int: ...  # noqa: D102
    @property
    def cohort_id(self) -> int: ...  # noqa: D102
    @property
    def variety_id(self) -> int: ...  # noqa: D102
    @property
    def crop(self) -> str | None: ...  # noqa: D102
    @property
    def kept_line(self) -> int: ...  # noqa: D102
    @property
    def treated(self) -> int: ...  # noqa: D102
    @property
    def intended_use(self) -> str: ...  # noqa: D102
    @property
    def record_from_s(self) -> int: ...  # noqa: D102
    @property
    def year_guessed(self) -> int: ...  # noqa: D102
    @property
    def form(self) -> str: ...  # noqa: D102


@dataclass(frozen=True)
class Judged:
    """A verdict, the three opinions behind it, seeds that nothing asks for, and the code of the test or
    packet that its next act waits for."""

    verdict: Verdict
    opinions: Opinions
    spare: int
    waits_for: str


@dataclass(frozen=True)
class Seen:
    """What is read of the file for verdicts: tests under way by origin, lots that were spoilt or got wet."""

    running: Mapping[int, str]
    spoilt: Mapping[int, str]
    wet: frozenset[int]


def seen(session: Session, spoilt: Mapping[int, str], now_s: float) -> Seen:
    """Read it. ``spoilt``: lots no longer food, with what spoilt them; dressed seed is sown all the same."""
    run = session.connection().exec_driver_sql
    running = run(
        "SELECT part.cohort_id, trial.code FROM trial JOIN part ON part.lot_id = trial.lot_id "
        "WHERE trial.closed_s IS NULL AND trial.deleted_s IS NULL AND part.deleted_s IS NULL"
    )
    since = now_s - figures().verdict.wet_days * DAY_S
    wet = run(
        "SELECT lot_id FROM lot_event WHERE kind = 'wet' AND deleted_s IS NULL AND at_s > ?",
        (since,),
    )
    return Seen(
        {int(row[0]): str(row[1]) for row in running},
        {lot: what for lot, what in spoilt.items() if what != "treated"},
        frozenset(int(row[0]) for row in wet),
    )


def _age_years(rows: Sequence[Row], now_s: float) -> float:
    return (now_s - min(r.record_from_s for r in rows)) / YEAR_S


def _opinions(rows: Sequence[Row], kind: Kind, g: Glance, level: float, now_s: float) -> Opinions:
    f, at = figures().triage, g.at_sowing or g.now
    low, high = kind.crop.years_cool_dry
    tests = [t for t in g.tests if t.share is not None]
    guessed = bool(rows[0].year_guessed)
    return Opinions(
        by_age(_age_years(rows, now_s), low, high, guessed),
        by_test(tests[-1].share, tests[-1].n, level, f) if tests else "none",
        by_forecast(g.advice.chance_below, at.mid, level, f),
    )


def _condemned_by_guess(g: Glance, o: Opinions, level: float) -> bool:
    mid = (g.at_sowing or g.now).mid
    return only_guessed(o, mid, g.now.high, level, figures().triage)


def judge(
    rows: Mapping[int, Sequence[Row]],
    found: Mapping[int, Glance],
    seeds: Mapping[int, Seeds],
    aside: Mapping[int, float],
    asked: Wishes,
    looked: Seen,
    kinds: Kinds,
    home: Household,
    now_s: float,
    pieces: Mapping[int, Kept],
) -> dict[int, Judged]:
    """The verdict on each of some lots: ``rows`` their parts, the largest first; ``found`` their glances.

    A glance that is still being made gives no verdict yet.
    """
    # long: one fact after the other of what a verdict hangs on
    f, year = figures(), datetime.fromtimestamp(now_s, UTC).year
    ready = {lot: parts for lot, parts in rows.items() if found[lot].now.mid >= 0}
    living: dict[int, set[int]] = {}
    uncounted: set[int] = set()
    for lot, parts in rows.items():
        g, have = found[lot], seeds[lot]
        gone = (
            lot in ready
            and lot not in pieces
            and (dead(g.now.mid, g.now.high, f.verdict) or used_up(have, g.now.high, f.triage))
        )
        if not gone:
            living.setdefault(parts[0].variety_id, set()).add(lot)
            if not have.known:
                uncounted.add(parts[0].variety_id)
    opinions = {
        lot: _opinions(parts, kinds.get(parts[0].crop), found[lot], home.sow_level, now_s)
        for lot, parts in ready.items()
    }
    habit = home.school == "test"
    asking = [
        (lot, parts[0].cohort_id, seeds[lot].mean if seeds[lot].known else 0.0)
        for lot, parts in ready.items()
        if (
            found[lot].advice.wanted
            or (habit and opinions[lot].test == "none")
            or _condemned_by_guess(found[lot], opinions[lot], home.sow_level)
        )
        and parts[0].intended_use not in TABLE
        and lot not in pieces
    ]
    tested = one_test_each(asking)
    out: dict[int, Judged] = {}
    for lot, parts in rows.items():
        if lot not in ready:
            out[lot] = Judged(PENDING, Opinions("none", "none", "none"), 0, "")
            continue
        row, g, have = parts[0], found[lot], seeds[lot]
        kind, at = kinds.get(row.crop), g.at_sowing or g.now
        wanted = asked.wants(lot, kind.key, bool(row.kept_line))
        own = next((t.code for t in g.tests if t.running), "")
        running = own or looked.running.get(row.cohort_id, "")
        spoilt, dressed = lot in looked.spoilt, any(p.treated for p in parts)
        life = None if g.good_until_s is None else (g.good_until_s - now_s) / YEAR_S
        spare = 0
        if row.intended_use == "seed" and good_to_give(
            at.mid, at.low, home.sow_level, dressed, f.verdict
        ):
            free = Seeds(max(0.0, have.mean - aside.get(lot, 0.0)), have.sd, have.known)
            spare = seeds_to_spare(
                free,
                at.mid * emergence(kind, g.sowing_setting),
                asked.plants_of(kind.key, lot),
                wanted,
                life,
                kind.crop.min_plants_good if row.kept_line else 0,
                g.advice.seeds or 0 if g.advice.wanted else 0,
                f,
            )
        sibling = tested.get(lot, lot)
        said = verdict(
            Packet(
                seeds=have, now_mid=g.now.mid, now_high=g.now.high, mid=at.mid,
                chance_below=g.advice.chance_below, level=home.sow_level, opinions=opinions[lot],
                school=home.school, use=row.intended_use, spoilt=spoilt, wet=lot in looked.wet,
                wanted=wanted, running=bool(running), asked_of_sibling=sibling != lot,
                test_due_s=g.advice.due_s if g.advice.wanted else None, advice=g.advice.code,
                regrow_asked=g.regrow_asked, last_safe_year=g.last_safe_year,
                line_lives=bool(living.get(row.variety_id, set()) - {lot}),
                line_uncounted=row.variety_id in uncounted, good_until_s=g.good_until_s,
                beyond=g.good_beyond, spare=spare / have.mean if have.mean > 0 else 0.0,
                shoots=fit_for_shoots(kind.key, kind.known, dressed, spoilt),
                food=fit_for_food(kind.key, kind.known, dressed, spoilt),
                named=kind.key != UNKNOWN or any(t.share is not None for t in g.tests),
                pieces=pieces[lot].state if lot in pieces else "",
            ),
            now_s, year, f,
        )  # fmt: skip
        # a line that has to be grown within the years looked at gives nothing away
        unsafe = g.regrow_asked and not all(c >= home.line_confidence for c in g.mothers[:-1])
        kept_back = not said.settled or not said.may_sow or unsafe
        waits = running if said.code == "running" else ""
        if said.code == "sibling":
            waits = str(sibling)
        out[lot] = Judged(said, opinions[lot], 0 if kept_back else spare, waits)
    return out
