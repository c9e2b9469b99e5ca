"""The chance that a seed that germinates becomes a plant: by the book, and by the household's own sowings."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session

from ...core.base.units import DAY_S
from ...core.needs.seed_needed import emergence as emerging
from ...core.seed.emerging import as_logit, could_come_up
from ...core.seed.plants import Emergence
from ...core.trials.when_to_test import Ceiling, ceiling
from ...data.queries import listed
from ..household.kinds import Emerged, Kind, figures


def emergence_by_the_book(kind: Kind, setting: str | None) -> float:
    """Emergence factor of a kind in a setting by the tables or the household's own figure."""
    return emerging(kind.crop.field_emergence_factor, setting, figures().needs)


def own_emergence(kind: Kind, setting: str | None) -> Emerged | None:
    """What the household's own sowings say of it; None: nothing."""
    where = setting or "outdoors"
    return next((e for e in kind.emerged if e.setting == where), None)


def emergence(kind: Kind, setting: str | None) -> float:
    """Emergence factor of a kind in a setting: own sowings beat the book."""
    return emergence_of(kind, setting).mean


def emergence_of(kind: Kind, setting: str | None) -> Emergence:
    """The same with its doubt."""
    own = own_emergence(kind, setting)
    if own is not None:
        return Emergence(own.mean, own.weight)
    return Emergence(emergence_by_the_book(kind, setting), figures().needs.emergence_beta_weight)


@dataclass(frozen=True)
class SowingSoFar:
    """A sowing with its last count, and what the others let its emergence expect (mean, sd of its logit;
    None: not yet reckoned)."""

    sowing_id: int
    lot_id: int
    at_s: float
    n: int
    setting: str
    settled: bool
    counted_s: float
    up: int
    x_mean: float | None
    x_sd: float | None
    failed: float | None

    def could(self, kind: Kind) -> Ceiling:
        """Share of what will come up at all that could be up by its last count."""
        crop, f = kind.crop, figures()
        slow = 1.0 if self.setting == "indoors" else f.growing.open_ground_times
        days = max((self.counted_s - self.at_s) / DAY_S / slow, 0.01)
        return ceiling(self.settled, days, crop.first_count_days, crop.final_count_days, f.trials)

    def expected(self, kind: Kind) -> tuple[float, float]:
        """Mean and sd of the logit of its emergence before its own count; the book's until reckoned."""
        if self.x_mean is not None and self.x_sd is not None:
            return self.x_mean, self.x_sd
        weight = figures().needs.emergence_beta_weight
        mean, variance = as_logit(np.array(emergence_by_the_book(kind, self.setting)), weight)
        return float(mean), float(np.sqrt(variance))

    def nodes(self, kind: Kind) -> tuple[float, float, float]:
        """Share of its living seed that may have come up: three nodes."""
        low, middle, high = could_come_up(*self.expected(kind), self.could(kind).nodes)
        return float(low), float(middle), float(high)


def counted_sowings(
    session: Session, now_s: float, lot_ids: Iterable[int] | None = None, pieces: bool = False
) -> list[SowingSoFar]:
    """Sowings of seed of some lots (None: all) that were counted, each with its last count up to now;
    ``pieces``: what was set of tubers, sets and plants too, which teaches nothing of seed."""
    only_seed = "lot.form = '' AND "
    where = "" if lot_ids is None else f" AND s.lot_id IN ({listed(lot_ids)})"
    found = session.connection().exec_driver_sql(
        "SELECT s.id, s.lot_id, s.at_s, s.n, s.setting, s.settled_s IS NOT NULL, c.at_s, c.up, "
        "d.x_mean, d.x_sd, d.failed FROM sowing s JOIN sowing_count c ON c.sowing_id = s.id "
        "LEFT JOIN d_sowing d ON d.sowing_id = s.id JOIN lot ON lot.id = s.lot_id "
        f"WHERE {'' if pieces else only_seed}s.deleted_s IS NULL AND c.deleted_s IS NULL "
        f"AND c.at_s <= ?{where} "
        "ORDER BY s.id, c.at_s, c.id",
        (now_s,),
    )
    last = {int(r[0]): r for r in found}
    return [
        SowingSoFar(
            int(r[0]), int(r[1]), float(r[2]), int(r[3]), str(r[4]), bool(r[5]), float(r[6]),
            min(int(r[7]), int(r[3])), *r[8:11],
        )
        for r in last.values()
    ]  # fmt: skip
