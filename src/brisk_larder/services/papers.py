"""Papers: what can be taken out and brought in."""

from __future__ import annotations

import csv
import json
from datetime import UTC, datetime
from io import StringIO

from sqlmodel import select

from ..core.errors import BadFile, InvalidValue
from ..data.acts import ActRef, act
from ..data.tables import HISTORY_TABLES, Reading
from ..formats.packets_csv import PacketRow, parse_packets
from .crops import load_kinds
from .forecast import touch
from .larder import Larder, household
from .stock import lot_lines
from .stock_entry import NewSeeds, add_one, check_new, codes_in_use, resolve_kind

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
        until = g.good_until_s
        writer.writerow(
            [
                line.code,
                line.kind_name,
                line.variety,
                line.origin,
                "" if line.seeds is None else round(line.seeds),
                "" if line.mass_g is None else round(line.mass_g, 2),
                line.place,
                round(100 * g.now.mid),
                round(100 * g.now.low),
                round(100 * g.now.high),
                "" if until is None else datetime.fromtimestamp(until, UTC).date().isoformat(),
                g.last_safe_year or "",
                line.next_act,
                line.note,
            ]
        )
    return out.getvalue()


def readings_csv(larder: Larder) -> str:
    """All readings as CSV, one row each, with the series they belong to."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["series", "time", "temperature_c", "humidity_pct"])
    with larder.store.read() as session:
        for r in session.exec(select(Reading)):
            moment = datetime.fromtimestamp(r.at_s, UTC).isoformat().replace("+00:00", "Z")
            damp = "" if r.erh is None else round(100 * r.erh, 3)
            writer.writerow([r.series_id, moment, r.temperature_c, damp])
    return out.getvalue()


def everything_json(larder: Larder) -> str:
    """The whole household as JSON: every table as a list of rows."""
    data: dict[str, object] = {"format": "brisk-larder", "schema": larder.store.schema_rev}
    with larder.store.read() as session:
        for name, model in HISTORY_TABLES.items():
            data[name] = [row.model_dump() for row in session.exec(select(model))]
        data["reading"] = [row.model_dump() for row in session.exec(select(Reading))]
    return json.dumps(data, indent=1)


def import_packets(
    larder: Larder, ref: ActRef, file_name: str, data: bytes, node_id: int | None = None
) -> dict[str, object]:
    """Bring in a spreadsheet of packets as people keep them: all or nothing, one act.

    What is missing stays missing (a year, a quantity, even the kind); what was assumed is listed.
    Raises BadFile with line and field for what cannot be.
    """
    rows = parse_packets(data, file_name)
    with act(larder.store, larder.clock, ref, "import_packets") as a:
        if a.replayed:
            return a.result
        home, kinds = household(a.session), load_kinds(a.session)
        taken = codes_in_use(a.session)
        problems: list[dict[str, object]] = []
        notes: list[str] = []
        items: list[tuple[PacketRow, NewSeeds]] = []
        for row in rows:
            item = NewSeeds(
                kind=row.kind, variety=row.variety, year=row.year, quantity=row.quantity,
                source=row.source, node_id=node_id, stated_germination=row.stated_germination,
                hybrid=row.hybrid, note=row.note, kept_line=row.kept_line,
            )  # fmt: skip
            try:
                check_new(item, kinds, home, a.now_s)
            except InvalidValue as error:
                problems.append({"line": row.line, "field": error.field, "reason": error.message})
                continue
            items.append((row, item))
            who = item.variety or item.kind or item.note
            if resolve_kind(item.kind, kinds) is None:
                notes.append(
                    f"line {row.line}: {who!r} is no known kind; kept as unknown, not edible"
                )
            if item.year is None:
                notes.append(f"line {row.line}: {who!r} has no year; taken as up to four years old")
            if not item.quantity:
                notes.append(
                    f"line {row.line}: {who!r} has no quantity; it covers nothing until counted"
                )
        if problems:
            first = problems[0]
            more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
            raise BadFile(
                f"{file_name}, line {first['line']}: {first['reason']}{more} Nothing was taken in.",
                problems,
            )
        ids = [add_one(a.session, item, kinds, home, a.now_s, taken).id for _, item in items]
        touch(a.session)
        a.about(*(f"lot:{i}" for i in ids))
        a.result = {"lot_ids": ids, "assumed": notes}
        a.summary = f"Brought in {len(ids)} packets from {file_name}"
        return a.result
