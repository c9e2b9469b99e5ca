"""One packet on the list of a stocktake, and what came of all of them."""

from __future__ import annotations

from dataclasses import dataclass

from ...data.tables_taking_stock import CONDITIONS
from ..forecast.lines import LotLine


@dataclass(frozen=True)
class TakeLine:
    """One lot on the list of a stocktake; ``result`` empty while it waits."""

    lot_id: int
    code: str
    variety: str
    kind_name: str
    origin: str
    seeds: float | None
    unit: str
    position: str
    result: str
    condition: str
    as_said: str
    came_from: str
    changed: str
    order: int


def waiting(x: LotLine) -> TakeLine:
    """A packet that stands nowhere, as a line that waits: it may well be here."""
    return TakeLine(
        lot_id=x.lot_id,
        code=x.code,
        variety=x.variety,
        kind_name=x.kind_name,
        origin=x.origin,
        seeds=x.seeds,
        unit=x.unit,
        position="",
        result="",
        condition="",
        as_said="",
        came_from="",
        changed="",
        order=0,
    )


def report_of(lines: list[TakeLine]) -> list[str]:
    """What came of it: found, missing, moved, the spoilt, what changed."""

    def named(rows: list[TakeLine]) -> str:
        return ", ".join(f"{x.code} {x.variety}".strip() for x in rows)

    out = []
    found = [x for x in lines if x.result in ("found", "counted")]
    out.append(f"Found: {len(found)} of {len(lines)}.")
    for word, rows in (
        ("Missing", [x for x in lines if x.result == "missing"]),
        ("Not looked at", [x for x in lines if not x.result]),
    ):
        if rows:
            out.append(f"{word}: {named(rows)}.")
    moved = [x for x in lines if x.result == "moved" or x.came_from]
    if moved:
        said = ", ".join(f"{x.code} {x.variety} (from {x.came_from or 'nowhere'})" for x in moved)
        out.append(f"Moved here: {said}.")
    for condition in filter(None, CONDITIONS):
        rows = [x for x in lines if x.condition == condition]
        if rows:
            out.append(f"{condition.capitalize()}: {named(rows)}.")
    changed = [x for x in lines if x.changed]
    if changed:
        out.append("Changed: " + "; ".join(f"{x.code} {x.changed}" for x in changed) + ".")
    return out
