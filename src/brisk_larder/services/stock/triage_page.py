"""Triage of the whole stock: age rule, test and forecast side by side, and what follows."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from sqlmodel import col

from ...core.base.errors import InvalidValue
from ...core.base.units import DAY_S
from ...core.judging.edible import fit_for_food, fit_for_shoots
from ...core.judging.schools import SCHOOLS, Cost, Lots, school_costs
from ...core.judging.triage import Opinions, thick_sowing
from ...core.seed.plants import Seed
from ...core.seed.worlds import slices
from ...data.acts import ActRef
from ...data.queries import key, live
from ...data.tables import Job, Lot
from ..acts.acting import Doing, Done, act
from ..acts.lot_acts import LotEdit, edit_lot, refuse_unsafe
from ..air.look import looking_at
from ..forecast.counts import all_tests
from ..forecast.current import whole_outlook
from ..forecast.emergence import emergence
from ..forecast.lines import LotLine, lot_lines, test_seeds
from ..forecast.sowing import seed_of
from ..household.kinds import Kinds, figures
from ..household.larder import Larder, remembered, today
from ..household.possible_values import get_live
from ..household.wording import day_words

DECISIONS = {
    "keep": "keep", "sow_thick": "sow thickly", "test": "test first", "regrow": "regrow first",
    "shoots": "use up as shoots", "food": "use up as food", "give": "give away", "let_go": "let go",
    "count": "count first", "wait": "wait", "dry": "dry first", "find_again": "find seed of it again",
}  # fmt: skip
SCHOOL_WORDS = {
    "age_rule": "the age rule", "test": "test everything each year",
    "routine": "test when its interval is over", "forecast": "the forecast",
    "count": "just sow, count and learn",
}  # fmt: skip
JOBS = {
    "count": "Count {name}", "dry": "Dry {name}", "find_again": "Find seed of {name} again",
    "sow_thick": "Sow {name} thickly: about {thick} seeds for {stand} plants",
    "test": "Test {seeds} seeds of {name}", "regrow": "Regrow {name}",
    "shoots": "Use {name} up as shoots", "food": "Use {name} up as food", "give": "Give some of {name} away",
}  # fmt: skip


@dataclass(frozen=True)
class TriageLine:
    """One lot with three opinions, the household's school's choice and what else could be done."""

    line: LotLine
    age_rule: str
    age_words: str
    test: str
    test_words: str
    forecast: str
    forecast_words: str
    disagree: bool
    advice: list[str]
    why: str
    decided: str
    thick: int | None


@dataclass(frozen=True)
class SchoolLine:
    """What a school costs over this year's sowings."""

    school: str
    words: str
    cost: Cost
    chosen: bool


@dataclass(frozen=True)
class TriageRoom:
    """Lots to look at, those that disagree or need something first; and the schools' bill."""

    lines: list[TriageLine]
    schools: list[SchoolLine]
    school: str
    sowings: int
    stand: int
    decided: int


@remembered
def triage_room(larder: Larder) -> TriageRoom:
    """All lots in hand with what is said of them. The household's school orders the advice."""
    lines = [x for x in lot_lines(larder) if x.state != "missing" and not x.form]
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        last: dict[int, str] = {}
        for t in all_tests(v.session, [x.lot_id for x in lines], larder.now_s()):
            if t.trial.closed_s is not None and t.n > 0 and t.count is not None:
                told = f"{t.viable} of {t.n} in {day_words(t.trial.sown_s)[-8:]}"
                last[t.trial.lot_id] = told
        jobs = v.session.exec(live(Job).where(col(Job.origin_key).like("triage:%"))).all()
    season = today(larder, home).year
    mine = f"triage:{season}:"
    decided = {
        int(j.subject.removeprefix("lot:")): j.kind for j in jobs if j.origin_key.startswith(mine)
    }
    successes = _successes(larder, lines)
    out = [
        _line(
            x,
            kinds,
            successes.get(x.lot_id),
            home.confidence,
            last.get(x.lot_id, ""),
            decided.get(x.lot_id, ""),
        )
        for x in lines
    ]
    out.sort(key=lambda t: (bool(t.decided), not t.disagree, -t.line.urgency, t.line.code))
    lots, f = _lots(larder, lines, kinds), figures()
    costs = school_costs(lots, home.sow_level, home.confidence, f)
    return TriageRoom(
        out,
        [SchoolLine(c.school, SCHOOL_WORDS[c.school], c, c.school == home.school) for c in costs],
        home.school,
        len(lots.g),
        f.triage.stand_plants,
        len(decided),
    )


def _line(
    x: LotLine,
    kinds: Kinds,
    one: Seed | None,
    confidence: float,
    test: str,
    decided: str,
) -> TriageLine:
    kind, g, f = kinds.get(x.kind), x.glance, figures().triage
    low, high = kind.crop.years_cool_dry
    at, opinions = g.at_sowing or g.now, x.opinions
    acts = list(x.verdict.acts)
    thick = None
    if one is not None and "sow_thick" in acts:
        thick = thick_sowing(at.mid, one, confidence, f)
    return TriageLine(
        line=x,
        age_rule=opinions.age_rule,
        age_words=f"{x.age_years:.1f} years; the table says {low:g} to {high:g}",
        test=opinions.test,
        test_words=test or "never tested",
        forecast=opinions.forecast,
        forecast_words=f"{at.says} at its next sowing",
        disagree=opinions.disagree,
        advice=acts,
        why=_why(opinions, acts[0], thick) if acts else "",
        decided=decided,
        thick=thick,
    )


def _successes(larder: Larder, lines: list[LotLine]) -> dict[int, Seed]:
    """Chance of a plant per seed of each lot at its next sowing, as Needs has it."""
    look, out = whole_outlook(larder), {}
    by_id = {x.lot_id: x.glance for x in lines}
    for i, row in enumerate(look.rows):
        g = by_id.get(row.part.lot_id)
        if g is not None and g.next_sowing_s is not None:
            out[row.part.lot_id] = seed_of(look, i, g.next_sowing_s, g.sowing_setting)
    return out


def _why(said: Opinions, first: str, thick: int | None) -> str:
    words = {"good": "good", "doubtful": "doubtful", "poor": "over"}
    parts = [f"the age rule says {words[said.age_rule]}", f"the forecast {words[said.forecast]}"]
    if said.test != "none":
        parts.append(f"the last test {words[said.test]}")
    more = (
        f"; {thick} seeds give about {figures().triage.stand_plants} plants"
        if first == "sow_thick" and thick
        else ""
    )
    return (", ".join(parts) + more).capitalize() + "."


def _lots(larder: Larder, lines: list[LotLine], kinds: Kinds) -> Lots:
    """Lots that will be sown, with their germination at the next sowing as nodes."""
    by_id = {x.lot_id: x for x in lines}
    look = whole_outlook(larder)
    g, rows = [], []
    for i, row in enumerate(look.rows):
        x = by_id.get(row.part.lot_id)
        if x is None or x.glance.next_sowing_s is None or x.seeds == 0 or x.intended_use != "seed":
            continue
        g.append(slices(look.g_at(i, np.array([x.glance.next_sowing_s]))[0]))
        rows.append(x)
    crops = [kinds.get(x.kind) for x in rows]
    return Lots(
        g=np.array(g),
        age_years=np.array([x.age_years for x in rows]),
        rule_high=np.array([k.crop.years_cool_dry.high for k in crops]),
        emergence=np.array(
            [emergence(k, x.glance.sowing_setting) for k, x in zip(crops, rows, strict=True)]
        ),
        seeds=np.array([np.inf if x.seeds is None else x.seeds for x in rows], dtype=float),
        typical=np.array([k.crop.typical_initial_germination_pct / 100 for k in crops]),
        # whatever the household goes by now, the bill is of what each school would do
        tested=np.array([x.glance.advice.if_paid for x in rows], dtype=float),
        by_routine=np.array([x.glance.advice.if_routine for x in rows], dtype=float),
    )


@dataclass(frozen=True)
class Decided:
    """The job that a decision became."""

    job: str
    job_id: int


def decide(larder: Larder, ref: ActRef, lot_id: int, decision: str) -> Decided | Done:
    """A decision becomes a job for the season, or a done act: keep is noted, let go lets it go.

    Raises InvalidValue for what is not safe with this lot.
    """
    if decision not in DECISIONS:
        raise InvalidValue("decision", decision, ", ".join(DECISIONS))
    if decision == "let_go":
        return edit_lot(larder, ref, lot_id, LotEdit(state="gone"))
    found = next((t for t in triage_room(larder).lines if t.line.lot_id == lot_id), None)
    return _decide(larder, ref, lot_id, decision, found)


@act("triage")
def _decide(a: Doing, lot_id: int, decision: str, found: TriageLine | None) -> Decided:
    lot = get_live(a.session, Lot, lot_id, "lot")
    season = today(a.of, a.home).year
    if decision in ("shoots", "food") and (found is None or decision not in _safe(found)):
        raise InvalidValue("decision", decision, f"something safe: {lot.code} is not for the table")
    if decision in ("shoots", "food"):
        refuse_unsafe(a.session, lot, decision)
    name = f"{lot.code} {found.line.variety}" if found else lot.code
    origin = f"triage:{season}:lot:{lot_id}"
    job = a.session.exec(live(Job).where(Job.origin_key == origin)).first() or Job(
        origin_key=origin, kind=decision, title="", subject=f"lot:{lot_id}"
    )
    job.kind = decision
    f = figures().triage
    job.due_s = a.now_s + int(f.decided_within_days * DAY_S)
    job.reason = json.dumps({"why": found.why if found else "decided at triage"})
    words = JOBS.get(decision, "Keep {name}")
    job.title = words.format(
        name=name,
        stand=f.stand_plants,
        thick=(found.thick if found else None) or "more",
        seeds=test_seeds(found.line.glance) if found else f.yearly_test_seeds,
    )
    job.state = "done" if decision in ("keep", "wait") else "open"
    a.session.add(job)
    if decision in ("shoots", "food"):
        lot.intended_use = decision
        a.session.add(lot)
    a.session.flush()
    a.about(f"lot:{lot_id}")
    a.summary = f"{lot.code}: {DECISIONS[decision]}"
    return Decided(job.title, key(job))


def _safe(found: TriageLine) -> set[str]:
    x = found.line
    fit = {
        "shoots": fit_for_shoots(x.kind, x.known_kind, x.treated),
        "food": fit_for_food(x.kind, x.known_kind, x.treated),
    }
    return {word for word, ok in fit.items() if ok}


@act("school")
def choose_school(a: Doing, school: str) -> Done:
    """The household's school: how it decides on seed. Raises InvalidValue."""
    if school not in SCHOOLS:
        raise InvalidValue("school", school, ", ".join(SCHOOLS))
    a.home.school = school
    a.session.add(a.home)
    a.summary = f"Decides by {SCHOOL_WORDS[school]}"
    return Done()
