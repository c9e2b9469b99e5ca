"""Whether the year fits: bed and cells at their fullest time, evenings, jars; and the least to give up.

Bed is held from sowing outdoors (or setting out) to harvest, cells from sowing to setting out, so what one
food leaves another takes: the fullest fortnight counts, not the sum. What is given up is the cheapest by how
much each food matters (HiGHS; Huangfu & Hall 2018): a part of several rather than one wholly, yet few foods
rather than a little of all.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np
from scipy.optimize import Bounds, milp

from ..base.figures_planning import RoomFigures
from ..base.solving import Rows

FORTNIGHT = timedelta(days=14)


@dataclass(frozen=True)
class Held:
    """What is held from a day to another: so much bed (m2) or so many cells."""

    amount: float
    first: date
    last: date

    def at(self, day: date) -> bool:
        """Whether it is held during the fortnight from a day on."""
        return self.first < day + FORTNIGHT and self.last >= day


@dataclass(frozen=True)
class Stand:
    """How plants of one sowing stand: the day it is sown and, begun indoors, the day it is set out; the last
    ripening takes ``days``, one sowing is eaten for ``feeds_weeks`` (None: until ``first_frost``, the first
    after it stands outdoors); ``fresh_weeks``: eaten fresh for so long, by sowings one after the other."""

    sown: date
    out: date
    days: float
    feeds_weeks: float | None
    first_frost: date | None
    fresh_weeks: float = 0.0

    @property
    def share(self) -> float:
        """The share of the plants that stands at the fullest time: a sowing stands for its days and its weeks
        of eating, and another follows as soon as it is eaten."""
        feeds = self.feeds_weeks
        if not feeds or self.fresh_weeks <= feeds:
            return 1.0
        return min(1.0, (self.days / 7 + feeds) / self.fresh_weeks)

    @property
    def last(self) -> date:
        """The day of its last harvest."""
        feeds = self.feeds_weeks
        span = self.fresh_weeks if self.fresh_weeks and feeds else (feeds or 0.0)
        last = self.out + timedelta(days=self.days) + timedelta(weeks=span)
        if feeds is None and self.first_frost is not None:  # it bears, and stands, until the frost
            last = max(last, self.first_frost)
        return last


def set_out(sown: date, weeks_inside: float, last_frost: date | None) -> date:
    """The day on which what is begun indoors is set out: not before the last frost; where there is none,
    after its weeks indoors."""
    return max(sown, last_frost) if last_frost is not None else sown + timedelta(weeks=weeks_inside)


def plants_held(s: Stand, bed_m2: float, cells: float) -> tuple[Held, Held | None]:
    """Bed (m2) from setting out to the last harvest, and cells (None: none) from sowing to setting out, that
    so many plants hold."""
    inside = Held(cells * s.share, s.sown, s.out) if cells else None
    return Held(bed_m2 * s.share, s.out, s.last), inside


BY_THE_KILO = ("freeze", "dry", "ferment")  # put up in an evening by the kilo; jars by the jar


def evenings(
    f: RoomFigures, cells: float, row_m: float, jars: float, method: str, fresh_kg: float
) -> float:
    """Evenings of work: sowing cells, tending rows, and putting up what is kept (guesses of the room's
    figures)."""
    work = cells / f.cells_an_evening + row_m / f.row_m_an_evening
    if jars:
        return work + jars / f.jars_an_evening
    return work + (fresh_kg / f.kg_an_evening if method in BY_THE_KILO else 0.0)


@dataclass(frozen=True)
class Takes:
    """What one food or pick takes, and how much it matters (1 little)."""

    key: str
    weight: float
    bed: Held | None = None
    cells: Held | None = None
    evenings: float = 0.0
    jars: Mapping[float, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Has:
    """What there is; None: nobody said. Jars: empty ones by size (l)."""

    bed_m2: float | None = None
    cells: float | None = None
    evenings: float | None = None
    jars: Mapping[float, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Use:
    """One thing there is only so much of: ``what`` (bed_m2, cells, evenings, jars), of jars their size;
    needed at the fullest time (``day``; None: over the year), and what there is (None: not said)."""

    what: str
    needed: float
    has: float | None
    day: date | None = None
    litres: float = 0.0

    @property
    def missing(self) -> float:
        """What is missing."""
        return 0.0 if self.has is None else max(0.0, self.needed - self.has)


@dataclass(frozen=True)
class Fit:
    """What is used of all there is; shares (0-1) of foods to give up so that it fits, by key; ``gap``: how
    far a better choice could be (share of its cost)."""

    uses: tuple[Use, ...]
    give_up: dict[str, float]
    gap: float

    @property
    def fits(self) -> bool:
        """Whether all fits as it is."""
        return not any(u.missing > 1e-9 for u in self.uses)


def _fortnights(takes: Sequence[Takes]) -> list[date]:
    held = [h for t in takes for h in (t.bed, t.cells) if h is not None]
    if not held:
        return []
    day, last = min(h.first for h in held), max(h.last for h in held)
    out = []
    while day <= last:
        out.append(day)
        day += FORTNIGHT
    return out


def _fullest(held: Sequence[Held | None], days: Sequence[date]) -> tuple[float, date | None]:
    sums = [(sum(h.amount for h in held if h is not None and h.at(d)), d) for d in days]
    return max(sums, key=lambda s: s[0], default=(0.0, None))


def fit(takes: Sequence[Takes], has: Has, f: RoomFigures) -> Fit:
    """What is used, and where it does not fit what to give up."""
    days = _fortnights(takes)
    bed, bed_day = _fullest([t.bed for t in takes], days)
    cells, cells_day = _fullest([t.cells for t in takes], days)
    uses = [
        Use("bed_m2", bed, has.bed_m2, bed_day),
        Use("cells", cells, has.cells, cells_day),
        Use("evenings", sum(t.evenings for t in takes), has.evenings),
    ]
    sizes = sorted({size for t in takes for size, n in t.jars.items() if n > 0})
    for size in sizes:
        needed = sum(t.jars.get(size, 0.0) for t in takes)
        # sizes that nobody counted are not known; those of a household that counted any are none
        have = has.jars.get(size, 0.0) if has.jars else None
        uses.append(Use("jars", needed, have, None, size))
    found = Fit(tuple(uses), {}, 0.0)
    return found if found.fits else _given_up(found, takes, has, days, f)


QUARTERS = 4


def _quarters(i: int) -> range:
    return range(QUARTERS * i, QUARTERS * (i + 1))


def quarter_rate(k: int, f: RoomFigures) -> float:
    """What the k-th quarter of a food costs to give up, per share and weight: the first is missed least, the
    last most; all four together cost its weight."""
    return 1.0 + f.rising * (2.0 * k / (QUARTERS - 1) - 1.0)


def _given_up(
    found: Fit, takes: Sequence[Takes], has: Has, days: Sequence[date], f: RoomFigures
) -> Fit:
    """The cheapest shares to give up: of each food its quarters, and whether it is touched at all."""
    n = len(takes)
    touched = QUARTERS * n
    rows = Rows()

    def at_most(used: Sequence[float], limit: float | None) -> None:
        if limit is None or sum(used) <= limit:
            return
        # used (1 - given up) <= limit
        terms = [(q, -u) for i, u in enumerate(used) if u for q in _quarters(i)]
        rows.add(terms, limit - sum(used))

    for d in days:
        for name, limit in (("bed", has.bed_m2), ("cells", has.cells)):
            held = [getattr(t, name) for t in takes]
            at_most([h.amount if h is not None and h.at(d) else 0.0 for h in held], limit)
    at_most([t.evenings for t in takes], has.evenings)
    if has.jars:
        for size in {s for t in takes for s in t.jars}:
            at_most([t.jars.get(size, 0.0) for t in takes], has.jars.get(size, 0.0))
    for i in range(n):
        rows.add([*((q, 1.0) for q in _quarters(i)), (touched + i, -1.0)], 0.0)
    rates = [quarter_rate(k, f) for k in range(QUARTERS)]
    solved = milp(
        np.array([*(t.weight * r for t in takes for r in rates), *([f.touch_cost] * n)]),
        integrality=np.array([0] * touched + [1] * n),
        bounds=Bounds(0, np.array([1.0 / QUARTERS] * touched + [1.0] * n)),
        constraints=rows.constraint(touched + n),
        options={"time_limit": f.time_limit_s},
    )
    if solved.x is None:
        return Fit(found.uses, {}, 1.0)
    shares = np.asarray(solved.x[:touched]).reshape(n, QUARTERS).sum(axis=1)
    given = {t.key: round(float(x), 3) for t, x in zip(takes, shares, strict=True) if x > 1e-6}
    gap = max(0.0, float(solved.fun) - float(solved.mip_dual_bound)) / max(float(solved.fun), 1e-9)
    return Fit(found.uses, given, 0.0 if gap < 1e-4 else gap)
