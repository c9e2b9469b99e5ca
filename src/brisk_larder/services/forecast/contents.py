"""What lies in a container: how much seed, how dry it is and how much water it holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session

from ...core.errors import Conflict
from ...core.moisture import Floats
from ...core.units import month_start_s
from ..air.air import Air
from ..household.kinds import figures, load_kinds
from ..household.quantity import seeds_left
from .outlook import states_now
from .parts import load_rows


@dataclass(frozen=True)
class Contents:
    """Seed in a container and in what stands in it: grams (a share guessed), the mean dryness, and
    the moisture curve of the mixture (percent dry basis over an even erh25 grid)."""

    lot_ids: list[int]
    mass_g: float
    guessed_lots: int
    erh25: float
    driest: float
    dampest: float
    dry_basis: Floats


def contents(
    session: Session, air: Air, node_id: int, only: Sequence[int] | None = None
) -> Contents:
    """What lies in a container now (or some lots, wherever they lie). ``bring_up_to_date`` comes first.

    Raises Conflict when there is no seed.
    """
    kinds = load_kinds(session)
    if only is not None:
        lots = list(only)
    else:
        below = [n for n in air.below(node_id) if node_id in air.chain(n)]
        lots = [lot for node in below for lot in air.lots_in(node)]
    rows = load_rows(session, air, kinds, lots) if lots else []
    rows = [r for r in rows if r.part.to_s is None]
    if not rows:
        raise Conflict("There is no seed in it")
    seeds = seeds_left(session, lots)
    mass, guessed = [], 0
    for row in rows:
        have = seeds[row.part.lot_id]
        guessed += not have.known
        grams = (
            have.mean / row.kind.crop.seeds_per_g
            if have.known
            else figures().moisture.unweighed_lot_g
        )
        mass.append(max(grams * row.part.share_mean, 0.01))
    state, _, _ = states_now(air, kinds, rows)
    weight = np.array(mass)
    iso = kinds.classes.iso
    curves = iso.dry_basis[[kinds.classes.iso_ix[r.kind.class_ix] for r in rows]]
    mixed = (curves / (100 + curves) * weight[:, None]).sum(axis=0) / weight.sum()
    return Contents(
        lots,
        float(weight.sum()),
        guessed,
        float(np.average(state.erh25, weights=weight)),
        float(state.erh25.min()),
        float(state.erh25.max()),
        100 * mixed / (1 - mixed),
    )


def inside_erh25(air: Air) -> dict[int, float]:
    """Mean dryness of the seed in each node, from the last month's end of its lots."""
    rows = air.query(
        "SELECT s.parent_node_id, avg(m.erh25) FROM stay s JOIN part p ON p.lot_id = s.lot_id "
        "JOIN d_month m ON m.part_id = p.id AND m.month_s = "
        "(SELECT max(month_s) FROM d_month x WHERE x.part_id = p.id AND x.month_s < ?) "
        "WHERE s.deleted_s IS NULL AND s.to_s IS NULL AND s.lot_id IS NOT NULL "
        "AND p.deleted_s IS NULL AND p.to_s IS NULL GROUP BY 1",
        (month_start_s(air.now_s),),
    )
    return {int(node): float(mean) for node, mean in rows}
