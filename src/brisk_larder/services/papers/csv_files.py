"""Papers: what can be taken out and brought in."""

from __future__ import annotations

import csv
from datetime import UTC, datetime
from io import StringIO

from ...formats.stock_csv import safe
from ..forecast.lines import lot_lines
from ..household.larder import Larder

LOT_COLUMNS = (
    "code", "kind", "variety", "origin", "seeds", "mass_g", "place", "germination_pct",
    "likely_low_pct", "likely_high_pct", "good_until", "last_safe_year", "next_act", "note",
)  # fmt: skip


def lots_csv(larder: Larder) -> str:
    """All lots with their forecast as CSV (UTF-8, comma, decimal point)."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(LOT_COLUMNS)
    for line in lot_lines(larder):
        g = line.glance
        until = g.good_until_s if line.verdict.told else line.kept_until_s
        writer.writerow(
            [
                safe(line.code),
                safe(line.kind_name),
                safe(line.variety),
                safe(line.origin),
                "" if line.seeds is None else round(line.seeds),
                "" if line.mass_g is None else round(line.mass_g, 2),
                safe(line.place),
                *(
                    [round(100 * x) for x in (g.now.mid, g.now.low, g.now.high)]
                    if line.verdict.told
                    else ["", "", ""]
                ),
                "" if until is None else datetime.fromtimestamp(until, UTC).date().isoformat(),
                g.last_safe_year or "",
                safe(line.next_act),
                safe(line.note),
            ]
        )
    return out.getvalue()
