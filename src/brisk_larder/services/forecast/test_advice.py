"""Which lots deserve a test, by when, and how many seeds: core's rules over what the house wants."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, col, select

from ...core import belief as be
from ...core.moisture import Floats
from ...core.quantity import Seeds
from ...core.reasons import Reason
from ...core.trials import Advice, TestSize, retest, seeds_to_test
from ...core.units import DAY_S
from ...core.windows import Sown
from ...data.tables import FoodTarget, Household, Pick
from ..household.kinds import figures
from ..household.wording import sentence
from .counts import TestSoFar
from .glance_data import TestAdvice
from .outlook import Outlook
from .parts import PartRecord


@dataclass(frozen=True)
class Uses:
    """What the household means to grow: kinds for foods, picked lots; ``any_use``: nothing was
    said yet, so every lot may be wanted."""

    kinds: frozenset[str]
    lots: frozenset[int]
    any_use: bool

    def wants(self, row: PartRecord) -> bool:
        """Whether a lot has a use in sight: a food, a pick, or a line to keep."""
        return (
            self.any_use
            or row.kind.key in self.kinds
            or row.part.lot_id in self.lots
            or bool(row.variety.kept_line)
        )


def uses_of(session: Session, year: int) -> Uses:
    """Foods and picks of a planning year."""
    foods = session.exec(
        select(FoodTarget.crop).where(FoodTarget.year == year, col(FoodTarget.deleted_s).is_(None))
    ).all()
    picks = session.exec(
        select(Pick.lot_id).where(Pick.year == year, col(Pick.deleted_s).is_(None))
    ).all()
    return Uses(frozenset(foods), frozenset(picks), not foods and not picks)


def test_advice(
    look: Outlook,
    home: Household,
    now_s: int,
    seeds: dict[int, Seeds],
    tests: dict[int, list[TestSoFar]],
    sowings: list[Sown | None],
    uses: Uses,
) -> list[TestAdvice]:
    """Whether each row deserves a test, by when and how many seeds, with the reason in words."""
    n, f = len(look.rows), figures().trials
    next_use = np.array(
        [
            s[0] if s and uses.wants(row) else np.nan
            for s, row in zip(sowings, look.rows, strict=True)
        ]
    )
    at_use = np.array(
        [
            look.a_at(i, np.array([next_use[i] if np.isfinite(next_use[i]) else now_s]))[0]
            for i in range(n)
        ]
    )
    below = be.chance_below(look.belief, at_use[:, None], home.sow_level)[:, 0]
    use_s = np.where(np.isfinite(next_use), next_use, float(now_s))
    for i in look.blends:
        below[i] = look.chance_below(i, float(use_s[i]), home.sow_level)
    known, fall, tested = np.empty(n), np.empty(n), np.zeros(n, dtype=bool)
    for i, row in enumerate(look.rows):
        closed = [t for t in tests.get(row.part.lot_id, []) if t.trial.closed_s is not None]
        tested[i] = bool(closed)
        known[i] = max([row.start_s, *(float(t.trial.sown_s) for t in closed)])
    a_known = np.array([look.a_at(i, known[i : i + 1])[0] for i in range(n)])
    g_known = be.quantiles(look.belief, a_known[:, None], (0.5,))[:, 0, 0]
    a_fall = be.ageing_until(look.belief, f.fallen_share * g_known, 0.5)
    for i in range(n):
        fall[i] = min(
            (look.date_of(i, float(a_fall[i])) - known[i]) / DAY_S, 365.25 * f.longest_hold_years
        )
    days = np.array([row.kind.crop.final_count_days for row in look.rows])
    left = np.array(
        [
            seeds[row.part.lot_id].mean if seeds[row.part.lot_id].known else np.inf
            for row in look.rows
        ]
    )
    advice = retest(
        below,
        np.maximum(fall, 1.0),
        known,
        tested,
        next_use,
        days,
        left,
        now_s,
        home.order_lead_days,
        f,
    )
    running = {t.trial.lot_id for ts in tests.values() for t in ts if t.trial.closed_s is None}
    wanted = [i for i, one in enumerate(advice) if one.wanted]
    sizes = _sizes(
        look, wanted, at_use, use_s, home.sow_level, np.where(np.isfinite(left), left, 200.0)
    )
    out = []
    for i, (one, row) in enumerate(zip(advice, look.rows, strict=True)):
        why = sentence(one.reason, home)
        if row.part.lot_id in running:
            one = Advice("running", None, one.chance_below, one.reason)
            why = "A test of this lot is running."
        size = sizes.get(i) if one.wanted else None
        if one.wanted and (size is None or not size.worth_it(f)):
            one = Advice("not_worth", None, one.chance_below, one.reason)
            why = sentence(Reason("test_not_worth", one.reason.figures), home)
            size = None
        out.append(
            TestAdvice(
                one.code,
                one.wanted,
                one.due_s,
                size.seeds if size else None,
                size.error_before if size else None,
                size.error_after if size else None,
                one.chance_below,
                why,
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
    g = be.nodes(look.belief.rows(at), at_use[at])
    for j, i in enumerate(index):
        if i in look.blends:
            mixed = look.g_at(i, use_s[i : i + 1])
            g.g[j], g.weight[j] = mixed.g[0], mixed.weight[0]
    return dict(
        zip(
            index,
            seeds_to_test(
                g.g, g.weight, level, left[at], figures().trials, figures().belief.test_rho_good
            ),
            strict=True,
        )
    )
