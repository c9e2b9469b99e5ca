"""Spreadsheets of packets as people keep them: a mapping of columns, a dry run, all of it or nothing."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from sqlmodel import Session

from ...core.base.errors import BadFile, InvalidValue
from ...core.hand.day_order import either_day, in_order, order_shown
from ...data.acts import ActRef
from ...formats.packets_csv import COLUMNS as FIELDS
from ...formats.packets_csv import GIFT_WORDS, OWN_WORDS
from ...formats.packets_csv import YES_WORDS as YES
from ...formats.text import number, rows_of
from ..acts.acting import Doing, act
from ..acts.entry import add_one
from ..acts.lot_codes import codes_in_use
from ..acts.new_seeds import NewSeeds, ages_with, check_new
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..household.larder import Larder, household
from .understood import Understood, understand

MOST_ROWS, MOST_BYTES = 5000, 5_000_000
TOLD = 20  # rows that are named in one refusal


@dataclass(frozen=True)
class SheetLook:
    """A pasted or opened table: its header, the guessed mapping of our fields to its columns, the
    first rows, and how many there are; ``either_day``: of a day in figures that could be two, which no other
    of the sheet settles, the day as it stands, day first and month first in words; ``unread``: columns that
    are not read."""

    header: list[str]
    mapping: dict[str, int]
    fields: list[str]
    sample: list[list[str]]
    rows: int
    has_header: bool
    either_day: list[str]
    unread: list[str]


def look_at_sheet(text: str, name: str) -> SheetLook:
    """The table in a text and how its columns seem to be meant. Raises BadFile."""
    if len(text) > MOST_BYTES:
        raise BadFile(f"{name} is larger than {MOST_BYTES // 1_000_000} MB: split it")
    rows = [cells for _, cells in rows_of(text, name)]
    if len(rows) > MOST_ROWS + 1:
        raise BadFile(f"{name} has {len(rows)} rows, more than {MOST_ROWS}: split it")
    header = rows[0]
    mapping: dict[str, int] = {}
    for i, cell in enumerate(header):
        word = cell.strip().lower().rstrip("?:")
        for field, words in FIELDS.items():
            if field not in mapping and (word in words or word == field):
                mapping[field] = i
                break
    has_header = bool(mapping)
    if (
        not has_header
    ):  # a paste without a header: kind, name, year, how much, as the sheet has them
        usual = ("kind", "variety", "year", "quantity", "source", "note")
        mapping = {field: i for i, field in enumerate(usual) if i < len(header)}
    return SheetLook(
        header,
        mapping,
        list(FIELDS),
        rows[1:6] if has_header else rows[:5],
        len(rows) - int(has_header),
        has_header,
        _either(_days_in(mapping, rows[1:] if has_header else rows)),
        [h for i, h in enumerate(header) if h.strip() and i not in mapping.values()]
        if has_header
        else [],
    )


def _either(days: list[str]) -> list[str]:
    unsure = next((d for d in days if either_day(d)), None)
    if unsure is None or order_shown(days) is not None:
        return []
    both = either_day(unsure)
    assert both is not None, "it could be two days"
    return [unsure.strip(), *(f"{d.day} {d:%B %Y}" for d in both)]


class _Row:
    """One row of a table under a mapping of our fields to its columns, with what is wrong in it."""

    def __init__(
        self,
        cells: list[str],
        mapping: dict[str, int],
        width: int,
        mended: Mapping[str, str],
        day_first: bool | None,
    ) -> None:
        self.cells, self.mapping, self.mended = cells, mapping, mended
        self.day_first = day_first
        self.problems: dict[str, str] = {}
        if len(cells) > width:
            self.problems["row"] = f"{len(cells)} cells, the header has {width}"

    def cell(self, field: str) -> str:
        """What stands in a field, as it was mended; empty where it has no column."""
        if field in self.mended:
            return self.mended[field].strip()
        i = self.mapping.get(field)
        return self.cells[i].strip() if i is not None and i < len(self.cells) else ""

    def day(self, field: str) -> str:
        """A day as it was written; where figures could be two, in the order of the sheet."""
        said = self.cell(field)
        return said if self.day_first is None else in_order(said, self.day_first)

    def numeric(self, field: str) -> float | None:
        """The number in a field; None, and a problem, where it is none."""
        try:
            return number(self.cell(field).rstrip("% "))
        except ValueError:
            self.problems[field] = f"{self.cell(field)!r} is not a number"
            return None

    def germination(self) -> float | None:
        """A germination as a fraction, of "72 %" or "9/10"; None, and a problem, where it is none."""
        if found := re.fullmatch(
            r"(\d+)\s*(?:/|of|out of)\s*(\d+)", self.cell("stated_germination")
        ):
            up, n = int(found[1]), int(found[2])
            return up / n if 0 <= up <= n and n else None
        stated = self.numeric("stated_germination")
        return None if stated is None else stated / 100

    def yes(self, field: str) -> bool:
        """Whether a field says yes."""
        return self.cell(field).lower() in YES

    def source(self) -> str:
        """Where its seed comes from, as far as a word says so."""
        said = self.cell("source").lower()
        if any(word in said for word in OWN_WORDS):
            return "own"
        return "gift" if any(word in said for word in GIFT_WORDS) else "bought"

    def place(self, node_id: int | None, places: dict[str, int]) -> int | None:
        """The place it names, else the one for all."""
        where = self.cell("place")
        if where and where.lower() not in places:
            self.problems["place"] = f"{where!r} is no place here"
        return places.get(where.lower()) if where else node_id


# what is written beside a name, and what it means
CROSSED = re.compile(
    r"\bF[2-9]\b|\bcrossed\b|father unknown|unknown father|\bvolunteer\b|\s[x\u00d7]\s",
    re.I,
)
OPEN = re.compile(r"\bopen[- ]pollinated\b|\bOP\b")


def _packet(row: _Row, node_id: int | None, places: dict[str, int]) -> NewSeeds:
    node, stated = row.place(node_id, places), row.germination()
    count, depth = row.numeric("packet_count"), row.numeric("packet_depth_cm")
    variety, quantity = row.cell("variety"), row.cell("quantity")
    said = f"{variety} . {row.cell('note')}"
    return NewSeeds(
        types=row.cell("types"),
        as_typed=" | ".join(c.strip() for c in row.cells if c.strip()),
        since=row.day("since"),
        kind=row.cell("kind"),
        variety=re.sub(r"\s*\bF1\b", "", variety).strip(),
        date=row.day("year"),
        tested=row.cell("tested"),
        tested_on=row.day("tested_on"),
        form=row.cell("form").lower(),
        quantity="" if quantity.lower() in ("?", "some", "unknown", "-") else quantity,
        sure=row.cell("sure").lower(),
        source=row.source(),
        node_id=node,
        section=row.cell("section"),
        slot=row.cell("slot"),
        stated_germination=stated,
        stated_as="tested" if "/" in row.cell("stated_germination") else "",
        hybrid=row.yes("hybrid") or (bool(re.search(r"\bF1\b", said)) and not OPEN.search(said)),
        crossed_risk=bool(CROSSED.search(said)),
        kept_line=row.yes("kept_line"),
        treated=row.yes("treated"),
        intended_use=row.cell("intended_use").lower() or "seed",
        note=row.cell("note"),
        tags=row.cell("tags"),
        code=row.cell("code"),
        person_from=row.cell("person_from"),
        seller=row.cell("seller"),
        price=row.numeric("price"),
        packet_sow_window=row.cell("packet_sow_window"),
        packet_depth_cm=depth,
        packet_days_to_sprout=row.cell("packet_days_to_sprout"),
        packet_days_to_harvest=row.cell("packet_days_to_harvest"),
        packet_count=None if count is None else round(count),
    )


Mended = Mapping[int, Mapping[str, str]]


def sheet_items(
    text: str,
    name: str,
    mapping: dict[str, int],
    node_id: int | None,
    places: dict[str, int],
    mended: Mended,
    day_first: bool | None,
) -> list[tuple[int, NewSeeds, dict[str, str]]]:
    """(line, packet, problems by field) of each row under a mapping, with the fields that were ``mended`` in
    it. ``day_first``: how figures that could be two days are meant, by what was said (None: as the sheet
    shows elsewhere, else as the household writes). Raises BadFile, InvalidValue."""
    look = look_at_sheet(text, name)
    for field, i in mapping.items():
        if field not in FIELDS:
            raise InvalidValue("mapping", field, ", ".join(FIELDS))
        if not 0 <= i < len(look.header):
            raise InvalidValue("column", i, f"0 to {len(look.header) - 1}")
    if not {"kind", "variety", "note"} & set(mapping):
        raise InvalidValue("mapping", ", ".join(mapping) or "nothing", "a column for kind or name")
    rows = rows_of(text, name)
    if day_first is None:
        day_first = order_shown(_days_in(mapping, (cells for _, cells in rows)))
    out = []
    for line, cells in rows[1:] if look.has_header else rows:
        if cells == look.header and look.has_header:
            continue
        row = _Row(cells, mapping, len(look.header), mended.get(line, {}), day_first)
        item = _packet(row, node_id, places)
        out.append((line, item, row.problems))
    if not out:
        raise BadFile(f"{name} has a header and no packets under it")
    return out


def _days_in(mapping: Mapping[str, int], rows: Iterable[list[str]]) -> list[str]:
    """What stands in the columns of days."""
    columns = [mapping[f] for f in ("year", "since", "tested_on") if f in mapping]
    return [cells[i] for cells in rows for i in columns if i < len(cells)]


def place_names(session: Session, larder: Larder) -> dict[str, int]:
    """Places and containers by name, path and code, in small letters."""
    air = Air(session, household(session), larder.now_s())
    out: dict[str, int] = {}
    for node in air.nodes.values():
        if node.deleted_s is None:
            for word in (node.name, node_path(air, node.id), node.code):
                out.setdefault(word.lower(), node.id)
    return out


def check_sheet(
    larder: Larder,
    text: str,
    name: str,
    mapping: dict[str, int],
    node_id: int | None,
    mended: Mended | None = None,
    day_first: bool | None = None,
) -> list[Understood]:
    """The dry run of a table: each row as it would be kept, with its errors; nothing is saved."""
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        items = sheet_items(
            text, name, mapping, node_id, place_names(v.session, larder), mended or {}, day_first
        )
        taken = codes_in_use(v.session)
        ages = ages_with(v.session, [x for _, x, _ in items], kinds, home, larder.now_s())
        out = []
        for line, item, problems in items:
            seen = understand(v.session, item, kinds, home, larder.now_s(), line, taken, ages)
            out.append(replace(seen, problems={**seen.problems, **problems}))
            if item.code and not seen.problems:
                taken.add(item.code)
    return out


@dataclass(frozen=True)
class SheetTaken:
    """The lots that were made, and what was assumed of them."""

    lot_ids: list[int]
    assumed: list[str]


def take_sheet(
    larder: Larder,
    ref: ActRef,
    text: str,
    name: str,
    mapping: dict[str, int],
    node_id: int | None,
    skip: list[int],
    mended: Mended | None = None,
    day_first: bool | None = None,
) -> SheetTaken:
    """Bring a table in: all rows but those to skip, in one act, or nothing.

    Raises BadFile naming each row and field that cannot be.
    """
    found = check_sheet(larder, text, name, mapping, node_id, mended, day_first)
    rows = [u for u in found if u.line not in skip]
    problems = [
        {"line": u.line, "field": field, "reason": reason}
        for u in rows
        for field, reason in u.problems.items()
    ]
    if problems:
        said = "; ".join(f"line {p['line']}, {p['field']}: {p['reason']}" for p in problems[:TOLD])
        more = f"; and {len(problems) - TOLD} more" if len(problems) > TOLD else ""
        raise BadFile(
            f"{name}, {said}{more}. Nothing was taken in",
            problems,
        )
    if not rows:
        raise BadFile(f"{name}: all rows are left out, so nothing was taken in")
    return _take(larder, ref, rows, name)


@act("import_packets")
def _take(a: Doing, rows: list[Understood], name: str) -> SheetTaken:
    home, kinds = a.home, a.kinds
    taken = codes_in_use(a.session)
    for u in rows:  # asked again inside the write: a code may have been taken meanwhile
        check_new(u.item, kinds, home, a.now_s, f"line {u.line}, ", taken)
    ages = ages_with(a.session, [u.item for u in rows], kinds, home, a.now_s)
    ids = [add_one(a.session, u.item, kinds, home, a.now_s, taken, ages).id or 0 for u in rows]
    a.about(*(f"lot:{i}" for i in ids))
    notes = [
        f"line {u.line}, {u.item.variety or u.item.kind or u.item.note}: {note}"
        for u in rows
        for note in u.assumed
    ]
    a.summary = f"Brought in {len(ids)} packets from {name}"
    return SheetTaken(ids, notes)
