"""How much seed there is: the last count plus what came and went since, and how long that lasts."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot

from ..base.figures_stock import QuantityFigures
from ..base.units import YEAR_S, Z80

COMES = frozenset({"found", "joined"})
USED = frozenset({"sown", "eaten", "given", "tested"})
LEAVES = frozenset({"given", "eaten", "lost", "thrown"})
ROUNDING = 0.5  # seeds are whole: half of one more than there is was a matter of rounding


@dataclass(frozen=True)
class Seeds:
    """Seeds in a lot: mean, sd; ``known`` is False when nobody ever counted or guessed them."""

    mean: float
    sd: float
    known: bool

    @property
    def whole(self) -> int:
        """A whole number to plan with."""
        return max(0, round(self.mean))

    @property
    def likely(self) -> tuple[float, float]:
        """80 % interval, never below zero."""
        return max(0.0, self.mean - Z80 * self.sd), self.mean + Z80 * self.sd


NOTHING_SAID = Seeds(0.0, 0.0, False)


def after(before: Seeds, kind: str, mean: float, sd: float) -> Seeds:
    """The balance after one entry: a count starts anew, all else comes or goes."""
    if kind == "counted":
        return Seeds(mean, sd, True)
    sign = 1.0 if kind in COMES else -1.0
    left = max(0.0, before.mean + sign * mean)
    # of a lot that is used up nothing is left to doubt
    return Seeds(left, hypot(before.sd, sd) if left > 0 else 0.0, before.known or kind in COMES)


def more_than_there_is(have: Seeds, wanted: float, f: QuantityFigures, aside: float = 0.0) -> bool:
    """Whether more is to leave a lot than can be in it beside what is set aside (some sd above its
    count). A lot that nobody ever counted gives what is asked of it."""
    most = have.mean - aside + f.most_sd_beyond_a_count * have.sd + ROUNDING
    return have.known and wanted > most


def held_when_full(entries: Iterable[tuple[str, float]]) -> float | None:
    """What a lot held when it was last counted or came in: what "half left" is half of. Entries
    (kind, seeds) in time order."""
    held: float | None = None
    for kind, seeds in entries:
        if kind == "counted" or (kind in COMES and held is None):
            held = seeds
        elif kind in COMES and held is not None:
            held += seeds
    return held


@dataclass(frozen=True)
class Entry:
    """One entry of a lot's ledger: epoch s, kind, seeds with sd."""

    at_s: float
    kind: str
    mean: float
    sd: float


@dataclass(frozen=True)
class Use:
    """Balances after each entry, what goes in a year (None: too young a record, or none went), and
    how many years that lasts."""

    after: list[Seeds]
    a_year: float | None
    years_left: float | None


def use_of(entries: Iterable[Entry], now_s: float, f: QuantityFigures) -> Use:
    """The ledger of a lot gone through. Used is what was sown, eaten, given or tested, and what a count
    found to be gone without a word; nothing from a young record."""
    now, balances = NOTHING_SAID, []
    used, first_s = 0.0, None
    for e in entries:
        before = now
        now = after(now, e.kind, e.mean, e.sd)
        balances.append(now)
        first_s = e.at_s if first_s is None else first_s
        if e.kind in USED:
            used += e.mean
        elif e.kind == "counted" and before.known and now.mean < before.mean:
            used += before.mean - now.mean
    years = (now_s - first_s) / YEAR_S if first_s is not None else 0.0
    a_year = used / years if years >= f.use_record_years and used > 0 else None
    return Use(balances, a_year, now.mean / a_year if a_year else None)


def use_against_life(
    years_left: float | None, life_years: float | None, beyond: bool, f: QuantityFigures
) -> tuple[str, float]:
    """Yearly use against the life left: a code and the share that could be given away.

    nothing (no use known), longer (it keeps for longer than can be said), over (its good years are),
    spare (it lasts well beyond its life) or in_time.
    """
    if years_left is None:
        return "nothing", 0.0
    if beyond or life_years is None:
        return "longer", 0.0
    if life_years <= 0:
        return "over", 0.0
    if years_left > life_years * f.spare_beyond_life_times:
        return "spare", 1 - life_years / years_left
    return "in_time", 0.0
