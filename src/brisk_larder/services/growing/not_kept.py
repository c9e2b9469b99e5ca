"""What was settled of the years and is not kept: a year whose sowing is over, years that cannot all be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.lines.regrow_plan import YearsPlan, possible
from ..household.wording import all_of
from .kept_lines import Kept
from .ways_out import WayOut


@dataclass(frozen=True)
class MissedYear:
    """A line that was to be sown in a year and was not: what it was called, when it is grown now (None: in no
    year of the plan), and the chance of its mothers then."""

    variety_id: int
    name: str
    year: int
    lot_id: int
    now_in: int | None
    chance: float


def missed_years(k: Kept, first: int | None, chance: float) -> list[MissedYear]:
    """Years settled for a line in which it was not sown while it could be; ``first``: when it is grown now,
    with what chance of its mothers."""
    return [
        MissedYear(k.variety_id, k.name, year, k.members[0].lot_id, first, chance)
        for year in k.missed
    ]


def not_together(kept: Sequence[Kept], plan: YearsPlan, start: int) -> list[WayOut]:
    """Years settled for a line that cannot all be."""
    out = []
    for k in kept:
        if k.line is None or not (lost := plan.not_kept(k.line)):
            continue

        def years(some: Sequence[int]) -> str:
            return all_of([str(start + i) for i in some])

        can = possible(k.line)
        way = f"grow it in {years(sorted(can))}, and leave" if can else "leave"
        out.append(
            WayOut(
                start + lost[0],
                "settled",
                f"{k.name} was settled for {years(sorted(k.line.agreed))}, and that cannot all be: it is not "
                "sown anew before it has flowered",
                f"{way} {years(lost)} to the plan",
                [k.variety_id],
            )
        )
    return out
