"""What a test that is asked for tells of other seed of its kind and line, and saves there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...core.trials.worth_of_test import Stakes, learnt_beside
from ...data.tables import Household
from ..forecast.lines import LotLine, test_seeds
from ..forecast.outlook import Outlook, of_lots
from ..forecast.trial_advice import stakes
from ..household.kinds import figures
from ..household.wording import percent


@dataclass(frozen=True)
class Beside:
    """What one test tells of other packets, in a sentence (empty: hardly anything), and packets' worth saved
    there."""

    says: str
    gain: float


NOTHING = Beside("", 0.0)


def told_beside(
    whole: Outlook, lines: Sequence[LotLine], wanted: Sequence[LotLine], home: Household
) -> dict[int, Beside]:
    """For each test wanted (by lot): what it tells of all other living seed of its kind; ``whole``: the
    outlook of all lots."""
    kinds = {x.kind for x in wanted if x.known_kind}
    near = {
        x.lot_id: x
        for x in lines
        if x.kind in kinds and x.verdict.alive and x.glance.next_sowing_s is not None
    }
    if len(near) < 2:
        return {}
    look = of_lots(whole, near)
    at = {row.part.lot_id: i for i, row in enumerate(look.rows)}
    lines_here = [near[row.part.lot_id] for row in look.rows]
    use = np.array([x.glance.next_sowing_s for x in lines_here], dtype=float)
    left = np.array([x.seeds or figures().trials.uncounted_seeds for x in lines_here], dtype=float)
    settings = [x.glance.sowing_setting for x in lines_here]
    stands = stakes(look, list(range(len(look.rows))), use, left, settings, home, in_worlds=True)
    found = {
        x.lot_id: _one(look, stands, lines_here, at[x.lot_id]) for x in wanted if x.lot_id in at
    }
    return {lot: beside for lot, beside in found.items() if beside.says}


def _one(look: Outlook, whole: Stakes, lines: list[LotLine], tested: int) -> Beside:
    """What a test of one row tells of the others of its kind."""
    f, mine = figures(), look.rows[tested]
    others = [
        i
        for i, row in enumerate(look.rows)
        if row.kind.key == mine.kind.key and row.part.cohort_id != mine.part.cohort_id
    ]
    if not others:
        return NOTHING
    n = test_seeds(lines[tested].glance)
    rho = f.belief.test_rho_good
    some = whole.rows(np.array(others, dtype=np.intp))
    shares, gains = learnt_beside(some, whole.g[tested], n, rho, f.worth)
    told = [j for j in np.argsort(-shares).tolist() if shares[j] >= f.telling.beside_share]
    if not told:
        return NOTHING
    named = [
        f"{lines[others[j]].code} ({percent(float(shares[j]))} of its doubt)" for j in told[:3]
    ]
    return Beside(f"It also tells of {', '.join(named)}.", float(gains[told].sum()))
