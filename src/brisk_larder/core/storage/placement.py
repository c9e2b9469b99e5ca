"""Who gets the few good places: an exact assignment of lots to room in them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from ..base.errors import InvalidValue
from ..base.figures import Figures, PlacementFigures
from .moisture import Floats

Ints = NDArray[np.int64]
STAYS = -1


@dataclass(frozen=True)
class Placed:
    """Place of each lot (STAYS or a column of ``worth``) [L], the gain of each [L], and the total."""

    place: Ints
    gain: Floats
    total: float


def best_use(
    worth: Floats, worth_outside: Floats, now: Ints, capacity: Ints, effort: float
) -> Placed:
    """Give room in S scarce places to the L lots that gain most, all together.

    ``worth`` [L, S]: what a lot is worth at its next use if kept in each place (nan: not fit for it);
    ``worth_outside`` [L]: kept where it is, or for a lot that stands in a scarce place, in the best
    ordinary one; ``now`` [L]: the scarce place it stands in, or STAYS; ``capacity`` [S] lots in all;
    ``effort``: worth that a move must bring to be worth making. Exact (Hungarian method, scipy).
    ``gain``: against leaving everything as it is. Raises InvalidValue when the places hold more than
    their capacity or shapes differ.
    """
    lots, places = worth.shape
    if worth_outside.shape != (lots,) or now.shape != (lots,) or capacity.shape != (places,):
        raise InvalidValue(
            "shapes", worth.shape, "worth [L, S], outside [L], now [L], capacity [S]"
        )
    if not lots:
        return Placed(np.empty(0, dtype=np.int64), np.empty(0), 0.0)
    inside = now >= 0
    capacity = np.maximum(capacity, np.bincount(now[inside], minlength=places))
    value = np.where(np.isfinite(worth), worth, -1e9) - effort
    value[inside, now[inside]] += effort  # to stay costs nothing
    outside = worth_outside - np.where(inside, effort, 0.0)
    slots = np.repeat(np.arange(places), np.minimum(capacity, lots))
    table = np.concatenate([value[:, slots], np.full((lots, lots), -1e12)], axis=1)
    table[np.arange(lots), len(slots) + np.arange(lots)] = outside
    row, column = linear_sum_assignment(table, maximize=True)
    place = np.full(lots, STAYS, dtype=np.int64)
    took = column < len(slots)
    place[row[took]] = slots[column[took]]
    # equal places are as good as each other: a lot stays where it is if its slot is merely swapped
    at = np.arange(lots)
    after = np.where(place >= 0, worth[at, np.maximum(place, 0)], worth_outside)
    before = np.where(inside, worth[at, np.maximum(now, 0)], worth_outside)
    before = np.where(np.isfinite(before), before, 0.0)
    gain = after - before
    return Placed(place, gain, float(gain.sum()))


def good_places(speeds: Floats, f: PlacementFigures) -> NDArray[np.bool_]:
    """Which places are good ones: seed ages there much slower than in the middle one [S]."""
    if not len(speeds):
        return np.zeros(0, dtype=bool)
    return speeds < f.good_place_speed_share * float(np.median(speeds))


def counted_seeds(seeds: float, known: bool, f: PlacementFigures) -> float:
    """How many seeds of a lot count when room is shared out."""
    return min(seeds, f.seeds_cap) if known else f.uncounted_seeds


def worth_of_one(kept_line: bool, f: PlacementFigures) -> float:
    """What a living seed of a lot is worth against another."""
    return f.kept_line_worth if kept_line else 1.0


def unfit(erh25: Floats, cold: bool, sealed: bool, figures: Figures) -> NDArray[np.bool_]:
    """Which lots are too damp for a place: for the freezer, or to be shut in [L]."""
    f = figures.moisture
    limit = f.freeze_at_or_below_erh25 if cold else f.never_seal_above_erh25 if sealed else 1.0
    return erh25 > limit
