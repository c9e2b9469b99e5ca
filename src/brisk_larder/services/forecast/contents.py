"""What lies in a container: how much seed, how dry it is and how much water it holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session

from ...core.base.errors import Conflict
from ...core.hand.seed_count import Seeds
from ...core.storage.moisture import Floats
from ..air.air import Air
from ..air.look import looking_at
from ..household.kinds import figures, load_kinds
from ..household.larder import Larder, remembered
from ..household.lot_quantity import seeds_left
from .current import whole_outlook
from .kept_pieces import lots_of_pieces
from .outlook import states_now
from .parts import PartRecord, load_rows


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
    pieces = lots_of_pieces(session)
    rows = [r for r in rows if r.part.to_s is None and r.part.lot_id not in pieces]
    if not rows:
        raise Conflict("There is no seed in it")
    seeds = seeds_left(session, lots)
    mass = _grams(rows, seeds)
    guessed = sum(not seeds[row.part.lot_id].known for row in rows)
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


@remembered
def inside_erh25(larder: Larder) -> dict[int, float]:
    """Mean dryness now of the seed in each place or container and in what stands in it, by mass:
    what ``contents`` tells of one, for all of them at once."""
    look = whole_outlook(larder)
    with looking_at(larder) as v:
        seeds = seeds_left(v.session, [r.part.lot_id for r in look.rows])
        pieces = lots_of_pieces(v.session)
        standing = [
            (i, r)
            for i, r in enumerate(look.rows)
            if r.part.to_s is None and r.part.lot_id not in pieces
        ]
        grams = _grams([r for _, r in standing], seeds)
        held: dict[int, list[tuple[float, float]]] = {}
        for (i, row), mass in zip(standing, grams, strict=True):
            node = v.air.node_of(row.part.lot_id)
            for above in v.air.chain(node) if node else []:
                held.setdefault(above, []).append((float(look.state.erh25[i]), mass))
    return {
        node: float(np.average([e for e, _ in found], weights=[m for _, m in found]))
        for node, found in held.items()
    }


def _grams(rows: Sequence[PartRecord], seeds: Mapping[int, Seeds]) -> list[float]:
    """Grams of each part; what nobody weighed counts as a usual packet."""
    out = []
    for row in rows:
        have = seeds[row.part.lot_id]
        whole = (
            have.mean / row.kind.crop.seeds_per_g
            if have.known
            else figures().moisture.unweighed_lot_g
        )
        out.append(max(whole * row.part.share_mean, 0.01))
    return out
