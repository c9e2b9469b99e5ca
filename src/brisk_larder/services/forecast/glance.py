"""What lists show of every lot: now, at the next sowing, the strip, what to do next, and why."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, date, datetime

import numpy as np
from sqlmodel import Session, col, select

from ...core.base.errors import CannotWrite
from ...core.base.units import DAY_S, YEAR_S, month_start_s
from ...core.growing.windows import Sown
from ...core.hand.seed_count import Seeds
from ...core.lines.safe_years import chance_of_mothers, last_safe_year
from ...core.seed import worlds as wo
from ...core.seed.ageing import beyond_telling, hard_months
from ...core.storage.moisture import Floats
from ...data.queries import key
from ...data.tables import Cohort, DLeg, Household, Lot, Part, Variety
from ..air.air import Air, climate_stamp
from ..air.look import looking_at
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, planning_year, today
from ..household.lot_quantity import seeds_left
from .counts import SIZE_UNKNOWN, TestSoFar, all_tests
from .current import bring_up_to_date
from .evidence import shocks_of
from .glance_data import Episode, Glance, Likely, Strip, TestMark, freeze, thaw
from .outlook import Outlook, outlook
from .sowing import in_worlds, seed_of, sowing_of
from .steady import steady
from .trial_advice import test_advice
from .wishes import wishes

STRIP_YEARS_BACK, STRIP_YEARS_AHEAD, STRIP_STEP_DAYS = 3, 7, 73.05
REGROW_YEARS = 8
QUANTILES = (0.10, 0.50, 0.90)


def strip_dates(now_s: float) -> np.ndarray:
    """The shared axis of all strips, epoch seconds [P]."""
    year = datetime.fromtimestamp(now_s, UTC).year
    start = datetime(year - STRIP_YEARS_BACK, 1, 1, tzinfo=UTC).timestamp()
    count = round((STRIP_YEARS_BACK + STRIP_YEARS_AHEAD) * 365.25 / STRIP_STEP_DAYS) + 1
    return start + np.arange(count) * STRIP_STEP_DAYS * DAY_S


def _later_sowings(kind: Kind, first_s: float) -> np.ndarray:
    return first_s + np.arange(REGROW_YEARS + 1) * YEAR_S


def _episodes(
    session: Session, look: Outlook, i: int, now_s: float, start: float, fall: float
) -> list[Episode]:
    """Spells of a part that are worth telling, with where it lay then. ``fall``: what it lost since
    its record's start (fraction)."""
    past = look.track_s[i] <= now_s
    at, gains = look.track_s[i][past], np.diff(look.track_a[i][past])
    out = []
    for j, points in hard_months(gains, start, fall, figures().growing):
        month = month_start_s(at[j])
        node = session.exec(
            select(DLeg.node_id)
            .where(DLeg.part_id == look.rows[i].part_id, DLeg.month_s == month)
            .order_by(col(DLeg.a_probit).desc())
        ).first()
        out.append(Episode(month, month + 31 * DAY_S, node or 0, points))
    return out


def _lines(
    look: Outlook,
    seeds: dict[int, Seeds],
    sowings: list[Sown | None],
    confidence: float,
    day: date,
) -> dict[int, tuple[int | None, list[float]]]:
    """Last safe year and chance of mothers by year for each kept variety (by variety id)."""
    lines: dict[int, list[int]] = {}
    for i, row in enumerate(look.rows):
        if row.variety.kept_line and row.variety.id is not None and sowings[i] is not None:
            lines.setdefault(row.variety.id, []).append(i)
    out: dict[int, tuple[int | None, list[float]]] = {}
    for variety, members in lines.items():
        held = [i for i in members if seeds[look.rows[i].part.lot_id].whole > 0]
        first = sowings[members[0]]
        assert first is not None, "filtered above"
        there = [in_worlds(lot, seeds[lot]) for lot in (look.rows[i].part.lot_id for i in held)]
        chances = []
        for at_s in _later_sowings(look.rows[members[0]].kind, first[0]):
            lots = [seed_of(look, i, float(at_s), first[1]) for i in held]
            need = look.rows[members[0]].kind.crop.min_plants_viable
            chances.append(chance_of_mothers(there, lots, need))
        year = datetime.fromtimestamp(first[0], UTC).year
        years = [year + j for j in range(len(chances))]
        out[variety] = (last_safe_year(years, chances, confidence), chances)
    return out


def _frozen(air: Air, node: int) -> bool:
    return bool(air.past(node).temperature_c[-1] < figures().places.frozen_below_c)


def _told(until_s: float, now_s: float, frozen: bool) -> float | None:
    """A date, unless it is too far off to be told."""
    return None if beyond_telling(until_s, now_s, frozen, figures().places) else until_s


@dataclass(frozen=True)
class _Curves:
    """Germination of each row: now and at its next sowing [L, 2, Q], along the strip [L, P, Q], at its
    start [L]; and when it falls below the sowing level (epoch s), with its 80 % range."""

    two: Floats
    strips: Floats
    starts: Floats
    untils: list[float]
    soonest: list[float]
    latest: list[float]


def _curves(look: Outlook, home: Household, now_s: float, sowings: list[Sown | None]) -> _Curves:
    rows, dates = range(len(look.rows)), strip_dates(now_s)
    at_two = np.array([[float(now_s), s.at_s if s else float(now_s)] for s in sowings])
    now_a = np.array([look.a_at(i, at_two[i]) for i in rows])
    two = wo.quantiles(look.belief, now_a, QUANTILES)
    strip_a = np.array([look.a_at(i, dates) for i in rows])
    strips = wo.quantile_curve(look.belief, strip_a, QUANTILES)
    start_a = np.array([[track[0]] for track in look.track_a])
    starts = wo.quantiles(look.belief, start_a, (0.5,))[:, 0, 0]
    soonest, untils, latest = (
        [look.date_of(i, float(a)) for i, a in enumerate(reached)]
        for reached in (wo.ageing_until(look.belief, home.sow_level, c) for c in QUANTILES)
    )
    for i in look.blends:  # a mixture fades as the sum of its parts
        two[i] = look.quantiles_at(i, at_two[i], QUANTILES)
        strips[i] = look.quantiles_at(i, dates, QUANTILES)
        starts[i] = look.quantiles_at(i, look.track_s[i][:1], (0.5,))[0, 0]
        untils[i] = look.blend_until(i, home.sow_level, float(now_s))
        soonest[i], latest[i] = min(soonest[i], untils[i]), max(latest[i], untils[i])
    return _Curves(np.round(two, 3), np.round(strips, 3), starts, untils, soonest, latest)


def _marks(tests: list[TestSoFar]) -> list[TestMark]:
    return [
        TestMark(
            trial_id=key(t.trial),
            code=t.trial.code,
            at_s=t.trial.sown_s,
            share=t.viable / t.n if t.count and t.n and t.trial.closed_s is not None else None,
            up=t.viable,
            n=t.trial.n,
            running=t.trial.closed_s is None,
            told=t.trial.flaws if t.trial.flaws.startswith(SIZE_UNKNOWN) else "",
        )
        for t in tests
    ]


def _strip(curve: Floats, dates: Floats, start_s: float) -> Strip:
    """The strip of a row from where its record begins."""
    begin = int(np.searchsorted(dates, start_s))
    first = float(dates[begin]) if begin < len(dates) else float(dates[-1])
    return Strip(first, STRIP_STEP_DAYS * DAY_S, *curve[begin:].T.tolist())


def make_glances(
    session: Session, air: Air, kinds: Kinds, home: Household, day: date, lot_ids: Iterable[int]
) -> list[Glance]:
    """Compute the glances of some lots together (kept lines over all their lots)."""
    # long: one field after the other of what is kept of a lot
    look = outlook(session, air, kinds, lot_ids)
    if not look.rows:
        return []
    now_s = air.now_s
    lots = [row.part.lot_id for row in look.rows]
    seeds = seeds_left(session, lots)
    tests: dict[int, list[TestSoFar]] = {}
    for test in all_tests(session, lots, now_s):
        tests.setdefault(test.trial.lot_id, []).append(test)
    by_kind = {row.kind.key: row.kind for row in look.rows}
    windows = {name: sowing_of(kind, day, home) for name, kind in by_kind.items()}
    sowings = [windows[row.kind.key] for row in look.rows]
    curves, dates = _curves(look, home, now_s, sowings), strip_dates(now_s)
    asked = wishes(session, kinds, planning_year(session, day, home), now_s)
    advice = test_advice(
        look, home, now_s, seeds, tests, sowings, asked, shocks_of(session, look.rows)
    )
    lines = _lines(look, seeds, sowings, home.line_confidence, day)
    around: dict[int, tuple[str, bool]] = {}
    doubt, out = look.state.sd_log10_a, []
    for i, row in enumerate(look.rows):
        node = row.legs[-1].node
        if node not in around:
            around[node] = (air.source_now(node), _frozen(air, node))
        source, frozen = around[node]
        beyond = beyond_telling(curves.untils[i], now_s, frozen, figures().places)
        marks = _marks(tests.get(row.part.lot_id, []))
        safe, sowing, start = lines.get(key(row.variety)), sowings[i], float(curves.starts[i])
        fall = start - float(curves.two[i, 0, 1])
        tested = any(m.share is not None for m in marks)
        out.append(
            Glance(
                lot_id=row.part.lot_id,
                part_id=row.part_id,
                now=Likely(*curves.two[i, 0].tolist()),
                at_sowing=Likely(*curves.two[i, 1].tolist()) if sowing else None,
                next_sowing_s=sowing.at_s if sowing else None,
                sowing_setting=sowing.setting if sowing else None,
                sowing_guessed=bool(sowing and sowing.guessed),
                good_until_s=None if beyond else curves.untils[i],
                # what is likely still good can at worst be over by now, not before
                good_until_low_s=None
                if beyond
                else max(curves.soonest[i], min(curves.untils[i], now_s)),
                good_until_high_s=_told(curves.latest[i], now_s, frozen),
                good_beyond=bool(beyond),
                strip=_strip(curves.strips[i], dates, row.start_s),
                advice=advice[i],
                start=round(start, 3),
                erh25=float(look.state.erh25[i]),
                a_probit=float(look.state.a_probit[i]),
                sd_log10_a=float(doubt[i]),
                climate_source=source,
                guess=not tested and (source == "usual" or row.kind.grade in ("C", "guess")),
                tests=marks,
                episodes=_episodes(session, look, i, now_s, start, fall),
                last_safe_year=safe[0] if safe else None,
                regrow_asked=safe is not None,
                mothers=[round(c, 4) for c in safe[1]] if safe else [],
                parts=len(look.blends[i].parts.rows) if i in look.blends else 1,
            )
        )
    return out


def with_their_lines(session: Session, lot_ids: list[int]) -> set[int]:
    """Some lots and all lots of the same kept varieties: a line's last safe year needs them all."""
    mine = (
        select(Cohort.variety_id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .where(col(Part.lot_id).in_(lot_ids))
    )
    relatives = session.exec(
        select(Part.lot_id)
        .join(Lot, col(Part.lot_id) == Lot.id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(
            Variety.kept_line == 1,
            col(Variety.id).in_(mine),
            col(Part.to_s).is_(None),
            col(Lot.deleted_s).is_(None),
            Lot.state != "gone",
        )
    ).all()
    return {*lot_ids, *relatives}


def _last_change(session: Session) -> tuple[object, ...]:
    """What changes with every act, and with whatever else may drop what lists show."""
    run = session.connection().exec_driver_sql
    return (run("SELECT max(rowid) FROM act").scalar(), climate_stamp(session))


def _held(session: Session, made: list[Glance], day: date, now_s: float) -> list[Glance]:
    """Glances as they were told before, where no act touched them since: an act drops what was kept."""
    listed = ", ".join(str(g.lot_id) for g in made) or "0"
    rows = session.connection().exec_driver_sql(
        f"SELECT lot_id, day, data FROM d_glance WHERE lot_id IN ({listed}) AND day < '{day.isoformat()}'"
    )
    before = {int(r[0]): (date.fromisoformat(str(r[1])), thaw(str(r[2]))) for r in rows}
    return [
        steady(before[g.lot_id][1], before[g.lot_id][0], g, day, float(now_s))
        if g.lot_id in before
        else g
        for g in made
    ]


def glances(larder: Larder, only: Iterable[int] | None = None) -> dict[int, Glance]:
    """The glances of all live lots (or of some), by lot; stale ones are made again and kept for
    the day."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        seen = _last_change(v.session)
        home = v.home
        day = today(larder, home)
        run = v.session.connection().exec_driver_sql
        asked = None if only is None else set(only)
        listed = "" if asked is None else f" AND id IN ({', '.join(map(str, asked)) or '0'})"
        ids = [
            int(row[0])
            for row in run(
                f"SELECT id FROM lot WHERE deleted_s IS NULL AND state <> 'gone'{listed}"
            )
        ]
        where = listed.replace(" id ", " lot_id ")
        kept = {
            int(row[0]): str(row[1])
            for row in run(
                f"SELECT lot_id, data FROM d_glance WHERE day = '{day.isoformat()}'{where}"
            )
        }
        missing = [lot for lot in ids if lot not in kept]
        made: list[Glance] = []
        if missing:
            air = v.air
            wanted = with_their_lines(v.session, missing)
            made = make_glances(v.session, air, v.kinds, home, day, wanted)
            made = _held(v.session, made, day, v.now_s)
    if made:
        # what cannot be kept is shown all the same, and made again at the next look
        with suppress(CannotWrite), larder.store.keep() as session:
            raw = session.connection().connection.cursor()
            if _last_change(session) == seen:  # an act meanwhile may have dropped just these
                raw.executemany(
                    "INSERT OR REPLACE INTO d_glance (lot_id, day, data) VALUES (?, ?, ?)",
                    [(g.lot_id, day.isoformat(), freeze(g)) for g in made],
                )
            raw.close()
    new = {g.lot_id: g for g in made}
    # a lot with no seed in it at all (another hand wrote the file) is left out, not stumbled over
    return {lot: new.get(lot) or thaw(kept[lot]) for lot in ids if lot in new or lot in kept}
