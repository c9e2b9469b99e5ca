"""Which lots deserve a test, by when, and how many seeds: core's rules over what the house wants."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...core import worlds as wo
from ...core.moisture import Floats
from ...core.quantity import Seeds
from ...core.reasons import Reason
from ...core.trials import Advice, TestSize, retest, seeds_to_test
from ...core.units import DAY_S, YEAR_DAYS
from ...core.windows import Sown
from ...data.tables import Household
from ..household.kinds import figures
from ..household.wording import sentence
from .counts import TestSoFar
from .glance_data import TestAdvice
from .outlook import Outlook
from .parts import PartRecord
from .wishes import Wishes


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


def test_advice(
    look: Outlook,
    home: Household,
    now_s: int,
    seeds: dict[int, Seeds],
    tests: dict[int, list[TestSoFar]],
    sowings: list[Sown | None],
    asked: Wishes,
) -> list[TestAdvice]:
    """Whether each row deserves a test, by when and how many seeds, with the reason in words."""
    f = figures().trials
    at_use = _at_use(look, home.sow_level, now_s, sowings, asked)
    known, fall, tested = _last_known(look, tests)
    have = [seeds[row.part.lot_id] for row in look.rows]
    left = np.array([s.mean if s.known else np.inf for s in have])
    days = np.array([row.kind.crop.final_count_days for row in look.rows])
    advice = retest(
        at_use.below, fall, known, tested, at_use.next_use_s, days, left, now_s,
        home.order_lead_days, f,
    )  # fmt: skip
    running = {t.trial.lot_id for ts in tests.values() for t in ts if t.trial.closed_s is None}
    wanted = [i for i, one in enumerate(advice) if one.wanted]
    spare = np.where(np.isfinite(left), left, f.uncounted_seeds)
    sizes = _sizes(look, wanted, at_use.a_probit, at_use.use_s(now_s), home.sow_level, spare)
    out = []
    for i, (one, row) in enumerate(zip(advice, look.rows, strict=True)):
        why = sentence(one.reason, home)
        if row.part.lot_id in running:
            one = Advice("running", None, one.chance_below, one.reason)
            why = "A test of this packet is running."
        size = sizes.get(i) if one.wanted else None
        if one.wanted and (size is None or not size.worth_it(f)):
            one = Advice("not_worth", None, one.chance_below, one.reason)
            why = sentence(Reason("test_not_worth", one.reason.figures), home)
            size = None
        out.append(
            TestAdvice(
                code=one.code,
                wanted=one.wanted,
                due_s=one.due_s,
                seeds=size.seeds if size else None,
                error_before=size.error_before if size else None,
                error_after=size.error_after if size else None,
                chance_below=one.chance_below,
                why=why,
            )
        )
    return out


def _sizes(
    look: Outlook, index: list[int], at_use: Floats, use_s: Floats, level: float, left: Floats
) -> dict[int, TestSize | None]:
    """The best size of test for some rows, reckoned together."""
    if not index:
        return {}
    at = np.array(index)
    g = wo.even(look.belief.rows(at), at_use[at])
    for j, i in enumerate(index):
        if i in look.blends:
            g[j] = wo.slices(look.g_at(i, use_s[i : i + 1])[0])
    return dict(
        zip(
            index,
            seeds_to_test(g, level, left[at], figures().trials, figures().belief.test_rho_good),
            strict=True,
        )
    )
