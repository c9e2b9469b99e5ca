"""Which lots deserve a test, by when, and how many seeds: core's rules over what the house wants."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...core.base.units import DAY_S, YEAR_DAYS, YEAR_S, day_start_s
from ...core.growing.windows import Sown
from ...core.hand.seed_count import Seeds
from ...core.seed import worlds as wo
from ...core.seed.shocks import Shock
from ...core.storage.moisture import Floats
from ...core.trials import worth_of_test as wt
from ...core.trials.setting_up import before
from ...core.trials.when_to_test import Advice, retest
from ...data.tables import Household
from ..household.kinds import Kind, figures
from ..household.own_units import measures_of
from ..household.wording import sentence
from .counts import TestSoFar
from .emergence import emergence_of
from .glance_data import TestAdvice
from .outlook import Outlook
from .parts import PartRecord
from .wishes import Wishes

STATES = 32
RUNNING = "A test of this packet is running."


@dataclass(frozen=True)
class _AtUse:
    """What is asked of each row [L]: its next use (nan: none in sight), A then, and P(below level)."""

    next_use_s: Floats
    a_probit: Floats
    below: Floats

    def use_s(self, now_s: float) -> Floats:
        """The next use, or now where none is in sight."""
        return np.where(np.isfinite(self.next_use_s), self.next_use_s, float(now_s))


def _wants(asked: Wishes, row: PartRecord) -> bool:
    return asked.wants(row.part.lot_id, row.kind.key, bool(row.variety.kept_line))


def _at_use(
    look: Outlook, level: float, now_s: float, sowings: list[Sown | None], asked: Wishes
) -> _AtUse:
    pairs = zip(sowings, look.rows, strict=True)
    next_use = np.array([s.at_s if s and _wants(asked, row) else np.nan for s, row in pairs])
    use_s = np.where(np.isfinite(next_use), next_use, float(now_s))
    a = np.array([look.a_at(i, use_s[i : i + 1])[0] for i in range(len(look.rows))])
    below = wo.chance_below(look.belief, a[:, None], level)[:, 0]
    for i in look.blends:
        below[i] = look.chance_below(i, float(use_s[i]), level)
    return _AtUse(next_use, a, below)


def _last_known(
    look: Outlook, tests: dict[int, list[TestSoFar]]
) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """When each row was last known (its record's start, or a closed test), days from then until it has
    fallen so far that a test no longer holds, and whether that was a test: all [L]."""
    n, f = len(look.rows), figures().trials
    known, fall, tested = np.empty(n), np.empty(n), np.zeros(n, dtype=bool)
    for i, row in enumerate(look.rows):
        closed = [t for t in tests.get(row.part.lot_id, []) if t.trial.closed_s is not None]
        tested[i] = bool(closed)
        known[i] = max([row.start_s, *(float(t.trial.sown_s) for t in closed)])
    a_known = np.array([look.a_at(i, known[i : i + 1])[0] for i in range(n)])
    g_known = wo.quantiles(look.belief, a_known[:, None], (0.5,))[:, 0, 0]
    a_fall = wo.ageing_until(look.belief, f.fallen_share * g_known, 0.5)
    most = YEAR_DAYS * f.longest_hold_years
    for i in range(n):
        fall[i] = min((look.date_of(i, float(a_fall[i])) - known[i]) / DAY_S, most)
    return known, np.maximum(fall, 1.0), tested


def _tested_lately(
    look: Outlook,
    tests: dict[int, list[TestSoFar]],
    shocks: Mapping[int, Sequence[Shock]],
    now_s: int,
) -> Floats:
    """Seeds in sound closed tests of each row that were begun in the last twelve months, and since any damage
    to it [L]."""
    out = np.zeros(len(look.rows))
    for i, row in enumerate(look.rows):
        since = max([now_s - YEAR_S, *(s.at_s for s in shocks.get(i, ()))])
        out[i] = sum(
            t.trial.n
            for t in tests.get(row.part.lot_id, [])
            if t.trial.closed_s is not None and not t.trial.flaws and t.trial.sown_s > since
        )
    return out


def cold_days(kind: Kind, age_days: float) -> float:
    """Days in the cold that a test of seed of an age begins with."""
    f = figures().bench
    return before(kind.crop.pretreatment, f).cold_for(age_days, f)


def _states(
    look: Outlook, index: list[int], use_s: Floats, in_worlds: bool
) -> tuple[Floats, Floats]:
    """Germination of rows at their use and a year on, as states of equal weight [L, K]: the worlds, or slices
    of them in the order of the first."""
    at = np.array(index, dtype=np.intp)
    a = np.array([look.a_at(i, np.array([use_s[i], use_s[i] + YEAR_S])) for i in index])
    belief = look.belief.rows(at)
    now, later = (wo.germination(belief, a[:, j]) for j in range(2))
    for j, i in enumerate(index):
        if i in look.blends:
            now[j], later[j] = look.g_at(i, np.array([use_s[i], use_s[i] + YEAR_S]))
    if in_worlds:
        return now, later
    order = np.argsort(now, axis=1, kind="stable")
    shape = (len(index), STATES, -1)
    return (
        np.take_along_axis(now, order, axis=1).reshape(shape).mean(axis=2),
        np.take_along_axis(later, order, axis=1).reshape(shape).mean(axis=2),
    )


def stakes(
    look: Outlook, index: list[int], use_s: Floats, left: Floats, settings: Sequence[str | None],
    home: Household, *, in_worlds: bool = False,
) -> wt.Stakes:  # fmt: skip
    """What hangs on some rows (``index``): all seed of one origin together. ``use_s`` and ``left`` (seeds)
    [L] and ``settings`` of all rows; ``in_worlds``: states are the worlds, which rows share."""
    f = figures()
    of_cohort: dict[int, float] = {}
    cohorts_of: dict[int, set[int]] = {}
    for i, row in enumerate(look.rows):
        of_cohort[row.part.cohort_id] = of_cohort.get(row.part.cohort_id, 0.0) + left[i]
        if left[i] > 0:
            cohorts_of.setdefault(row.variety.id, set()).add(row.part.cohort_id)
    columns = []
    for i in index:
        row = look.rows[i]
        emerges = emergence_of(row.kind, settings[i])
        have = of_cohort[row.part.cohort_id]
        alone = row.variety.kept_line and cohorts_of.get(row.variety.id) == {row.part.cohort_id}
        packet = wt.Packet(
            emerges.mean,
            emerges.weight,
            have,
            measures_of(row.kind).packet_seeds,
            row.kind.crop.typical_initial_germination_pct / 100,
            row.cohort.source == "bought",
            row.kind.crop.min_plants_viable if alone else 0.0,
        )
        sowings, stand_of = f.triage.usual_sowings_a_year, f.triage.stand_plants
        columns.append(wt.at_stake(packet, f.worth, f.trials.uncounted_seeds, sowings, stand_of))
    now, later = _states(look, index, use_s, in_worlds)
    emerges_mean, weight, have_all, packet, anew, stand, mothers = np.array(columns, dtype=float).T
    return wt.Stakes(
        now, later, emerges_mean, weight, have_all, packet, anew, stand, mothers,
        (home.confidence, home.line_confidence),
    )  # fmt: skip


def _best_tests(
    look: Outlook, home: Household, now_s: int, at_use: _AtUse, sowings: list[Sown | None], spare: Floats,
    days: Floats, running: set[int],
) -> list[wt.Worth | None]:  # fmt: skip
    """The test that pays best for each row that has a use in sight and none under way."""
    best: list[wt.Worth | None] = [None] * len(look.rows)
    used = [
        i
        for i, row in enumerate(look.rows)
        if np.isfinite(at_use.next_use_s[i]) and row.part.lot_id not in running
    ]
    if not used:
        return best
    f, at = figures().trials, np.array(used)
    settings = [sowing.setting if sowing else None for sowing in sowings]
    asked_of = stakes(look, used, at_use.use_s(now_s), spare, settings, home)
    twice = at_use.next_use_s[at] - (2 * days[at] + f.margin_days + home.order_lead_days) * DAY_S
    most = np.floor(spare[at] * f.most_share_of_lot)
    rho = figures().belief.test_rho_good
    found = wt.tests_worth(asked_of, most, (twice > now_s).tolist(), rho, figures().worth)
    for i, w in zip(used, found, strict=True):
        best[i] = w
    return best


def test_advice(
    look: Outlook,
    home: Household,
    now_s: int,
    seeds: dict[int, Seeds],
    tests: dict[int, list[TestSoFar]],
    sowings: list[Sown | None],
    asked: Wishes,
    shocks: Mapping[int, Sequence[Shock]],
) -> list[TestAdvice]:
    """Whether each row deserves a test, by when and how many seeds, with the reason in words. ``shocks``:
    damage to each row."""
    f = figures().trials
    at_use = _at_use(look, home.sow_level, now_s, sowings, asked)
    known, fall, tested = _last_known(look, tests)
    have = [seeds[row.part.lot_id] for row in look.rows]
    left = np.array([s.mean if s.known else np.inf for s in have])
    days = np.array([
        row.kind.crop.final_count_days + cold_days(row.kind, (now_s - row.start_s) / DAY_S)
        for row in look.rows
    ])  # fmt: skip
    running = {t.trial.lot_id for ts in tests.values() for t in ts if t.trial.closed_s is None}
    spare = np.where(np.isfinite(left), left, f.uncounted_seeds)
    best = _best_tests(look, home, now_s, at_use, sowings, spare, days, running)
    pays = np.array([np.nan if w is None else w.pays for w in best])
    days *= [2.0 if w is not None and w.more else 1.0 for w in best]
    until = np.array(
        [float(day_start_s(s.until, home.tz)) + DAY_S if s is not None else np.inf for s in sowings]
    )
    lately = _tested_lately(look, tests, shocks, now_s)
    by_worth, by_routine = (
        retest(
            at_use.below, fall, known, tested, at_use.next_use_s, days, left, pays, now_s,
            home.order_lead_days, f, routine, until, lately,
        )
        for routine in (False, True)
    )  # fmt: skip
    habit = np.minimum(figures().triage.yearly_test_seeds, np.floor(spare * f.most_share_of_lot))
    out = []
    for i, row in enumerate(look.rows):
        w, one = best[i], (by_routine if home.school == "routine" else by_worth)[i]
        why = sentence(one.reason, home)
        if row.part.lot_id in running:
            one, why = Advice("running", None, one.chance_below, one.reason), RUNNING
        paid = w if by_worth[i].wanted else None
        told = _told(one, paid if one.wanted else None, why)
        if_paid = paid.seeds if paid else 0
        if_routine = (if_paid or int(habit[i])) if by_routine[i].wanted else 0
        if one.code == "routine":
            told = replace(told, seeds=if_routine)
        out.append(replace(told, if_paid=if_paid, if_routine=if_routine))
    return out


def _told(one: Advice, w: wt.Worth | None, why: str) -> TestAdvice:
    bare = TestAdvice(one.code, one.wanted, one.due_s, one.chance_below, why)
    if w is None:
        return bare
    saved = w.saves
    return replace(
        bare,
        seeds=w.seeds,
        more=w.more,
        more_from=w.more_from,
        more_to=w.more_to,
        gain=round(w.gain, 3),
        cost=round(w.cost, 3),
        saves=[round(x, 3) for x in (saved.packets, saved.plants, saved.seeds, saved.lines)],
        then=[[t.low, t.high, t.sow, int(t.regrow)] for t in w.then],
    )
