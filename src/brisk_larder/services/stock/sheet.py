"""The entry sheet: what each typed line means before it is saved; spreadsheets with a mapping."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from rapidfuzz import fuzz
from sqlmodel import Session, col, select

from ...core.amounts import read_amount, says_no_count
from ...core.errors import BadFile, InvalidValue
from ...core.since import began
from ...core.units import YEAR_S, local_day
from ...core.writing import way_of
from ...data.acts import ActRef
from ...data.queries import key
from ...data.tables import Cohort, Household, Lot, Part, Variety
from ...formats.packets_csv import COLUMNS as FIELDS
from ...formats.packets_csv import GIFT_WORDS, OWN_WORDS
from ...formats.packets_csv import YES_WORDS as YES
from ...formats.text import number, rows_of
from ..acts.acting import Doing, act
from ..acts.codes import codes_in_use
from ..acts.entry import (
    NewSeeds,
    add_one,
    check_new,
    likely_of,
    origins_of,
    record_of,
    resolve_kind,
    types_of,
)
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.standing import EPOCH_S
from ..household.kinds import Kinds, called
from ..household.larder import Larder, household
from ..household.measures import measures_of
from ..household.naming import Candidate, candidates
from ..household.quantity import seeds_left
from ..household.types import TypeChoice, type_choices, type_names
from ..household.wording import day_words, many

ALIKE = 88.0  # likeness of names that are taken for the same (0-100)
MOST_ROWS, MOST_BYTES = 5000, 5_000_000


@dataclass(frozen=True)
class Twin:
    """A lot in hand that a typed line seems to be again."""

    lot_id: int
    code: str
    words: str


@dataclass(frozen=True)
class Understood:
    """One line as it will be kept: kind, date and amount in words; what is wrong, by field; where the kind is
    not known for sure, the likeliest ones."""

    line: int
    kind: str
    kind_name: str
    date_words: str
    quantity_words: str
    twins: list[Twin]
    twin_words: str
    assumed: list[str]
    problems: dict[str, str]
    candidates: list[Candidate]
    types: list[str]
    type_choices: list[TypeChoice]
    since_words: str
    item: NewSeeds


def _since_words(item: NewSeeds, home: Household, now_s: int) -> str:
    """What is taken as the past of a packet that is put somewhere: where it lay, and since when."""
    if item.node_id is None:
        return ""
    try:
        day = local_day(now_s, home.tz)
        starts = [
            record_of(o, item.source, home, now_s).record_s for o in origins_of(item, day, home)
        ]
        here = began(item.since, min(starts, default=EPOCH_S), now_s, home.tz, way_of(home.locale))
    except InvalidValue:
        return ""
    if here.since != "told":
        return "there since it came"
    when = "only from now" if here.from_s == now_s else f"since {day_words(here.from_s)}"
    return f"there {when}; before in the usual place, {called(home.unplaced_kind)}"


def _twins(session: Session, item: NewSeeds, crop: str | None, kinds: Kinds) -> list[Twin]:
    if not item.variety.strip() or crop is None:
        return []
    rows = session.exec(
        select(Lot, Variety, Cohort)
        .join(Part, col(Part.lot_id) == Lot.id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(
            Variety.crop == crop,
            col(Lot.deleted_s).is_(None),
            Lot.state != "gone",
            col(Part.deleted_s).is_(None),
            col(Part.to_s).is_(None),
        )
    ).all()
    wanted = item.variety.strip().lower()
    found = [
        (lot, variety)
        for lot, variety, _ in rows
        if fuzz.ratio(wanted, variety.name.lower()) >= ALIKE
    ]
    seeds = seeds_left(session, [key(lot) for lot, _ in found])
    out = []
    for lot, variety in found:
        have = seeds[key(lot)]
        much = f"{have.mean:.0f} seeds" if have.known else "not counted"
        out.append(Twin(key(lot), lot.code, f"{lot.code} {variety.name}, {much}"))
    return out


def understand(
    session: Session,
    item: NewSeeds,
    kinds: Kinds,
    home: Household,
    now_s: int,
    line: int,
    taken: set[str],
) -> Understood:
    """What a line means; nothing is saved."""
    problems: dict[str, str] = {}
    try:
        check_new(item, kinds, home, now_s, taken=taken)
    except InvalidValue as error:
        problems[error.field] = error.message.removeprefix(f"{error.field}: ").rstrip(".")
    crop = resolve_kind(item.kind, kinds)
    kind = kinds.get(crop)
    dates, amount, said_mass, plants = "", "", False, False
    try:
        origins = origins_of(item, local_day(now_s, home.tz), home)
        dates = ", ".join(
            f"{o.words} ({100 * o.share:.0f} %)" if len(origins) > 1 else o.words for o in origins
        )
    except InvalidValue as error:
        problems["date"] = error.allowed
    try:
        plants = says_no_count(item.quantity)
        said = (
            None
            if plants
            else read_amount(item.quantity, measures_of(kind), item.sure, way_of(home.locale))
        )
        amount = said.words if said else ""
        said_mass = said is not None and (said.mass_g is not None or said.share is not None)
        if said is not None and said.share is not None:
            full = measures_of(kind).packet_seeds or 0.0
            amount = f"{100 * said.share:.0f} % of a packet, about {said.share * full:.0f} seeds"
    except InvalidValue as error:
        problems["quantity"] = error.allowed
    twins = _twins(session, item, crop, kinds)
    typed = "" if problems.get("type") else types_of(item, crop)
    assumed = []
    if crop is None and (item.kind or item.variety or item.note):
        assumed.append("no known kind: kept as unknown, not edible, a wide guess")
    if not dates and "date" not in problems:
        low_s, about_s = likely_of(session, crop, now_s)
        about = max(0, round((now_s - about_s) / YEAR_S))
        most = max(1, round((now_s - low_s) / YEAR_S))
        assumed.append(f"no year: taken as about {many(about, 'year')} old, {most} at most")
    if crop is None and said_mass:
        amount = ""
        assumed.append(
            "how many seeds that is nobody can say until its kind is known; the words are kept"
        )
    elif plants:
        assumed.append(
            f"{item.quantity.strip()}: how many seeds that is nobody can say; count it when you like"
        )
    elif not amount and "quantity" not in problems:
        assumed.append("no quantity: it covers nothing until counted")
    words = ""
    if twins:
        count = "one" if len(twins) == 1 else str(len(twins))
        words = f"You already have {count} of these: " + "; ".join(t.words for t in twins[:3])
    return Understood(
        line=line,
        kind=crop or "",
        kind_name=kind.name if crop else "",
        date_words=dates,
        quantity_words=amount,
        twins=twins,
        twin_words=words,
        assumed=assumed,
        problems=problems,
        candidates=candidates(item.kind, kinds) if crop is None else [],
        types=type_names(typed, crop),
        type_choices=type_choices(crop),
        since_words=_since_words(item, home, now_s),
        item=item,
    )


def check_lines(larder: Larder, items: list[NewSeeds]) -> list[Understood]:
    """What typed lines mean; nothing is saved."""
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        taken = codes_in_use(v.session)
        return [
            understand(v.session, x, kinds, home, larder.now_s(), i, taken)
            for i, x in enumerate(items, start=1)
        ]


@dataclass(frozen=True)
class SheetLook:
    """A pasted or opened table: its header, the guessed mapping of our fields to its columns, the
    first rows, and how many there are."""

    header: list[str]
    mapping: dict[str, int]
    fields: list[str]
    sample: list[list[str]]
    rows: int
    has_header: bool


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
    )


class _Row:
    """One row of a table under a mapping of our fields to its columns, with what is wrong in it."""

    def __init__(
        self, cells: list[str], mapping: dict[str, int], width: int, mended: Mapping[str, str]
    ) -> None:
        self.cells, self.mapping, self.mended = cells, mapping, mended
        self.problems: dict[str, str] = {}
        if len(cells) > width:
            self.problems["row"] = f"{len(cells)} cells, the header has {width}"

    def cell(self, field: str) -> str:
        """What stands in a field, as it was mended; empty where it has no column."""
        if field in self.mended:
            return self.mended[field].strip()
        i = self.mapping.get(field)
        return self.cells[i].strip() if i is not None and i < len(self.cells) else ""

    def numeric(self, field: str) -> float | None:
        """The number in a field; None, and a problem, where it is none."""
        try:
            return number(self.cell(field).rstrip("% "))
        except ValueError:
            self.problems[field] = f"{self.cell(field)!r} is not a number"
            return None

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
    node, stated = row.place(node_id, places), row.numeric("germination")
    count, depth = row.numeric("packet_count"), row.numeric("packet_depth_cm")
    variety, quantity = row.cell("variety"), row.cell("quantity")
    said = f"{variety} . {row.cell('note')}"
    return NewSeeds(
        types=row.cell("types"),
        since=row.cell("since"),
        kind=row.cell("kind"),
        variety=re.sub(r"\s*\bF1\b", "", variety).strip(),
        date=row.cell("year"),
        quantity="" if quantity.lower() in ("?", "some", "unknown", "-") else quantity,
        sure=row.cell("sure").lower(),
        source=row.source(),
        node_id=node,
        section=row.cell("section"),
        slot=row.cell("slot"),
        stated_germination=None if stated is None else stated / 100,
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
) -> list[tuple[int, NewSeeds, dict[str, str]]]:
    """(line, packet, problems by field) of each row under a mapping, with the fields that were ``mended`` in
    it. Raises BadFile, InvalidValue."""
    look = look_at_sheet(text, name)
    for field, i in mapping.items():
        if field not in FIELDS:
            raise InvalidValue("mapping", field, ", ".join(FIELDS))
        if not 0 <= i < len(look.header):
            raise InvalidValue("column", i, f"0 to {len(look.header) - 1}")
    if not {"kind", "variety", "note"} & set(mapping):
        raise InvalidValue("mapping", ", ".join(mapping) or "nothing", "a column for kind or name")
    rows = rows_of(text, name)
    out = []
    for line, cells in rows[1:] if look.has_header else rows:
        if cells == look.header and look.has_header:
            continue
        row = _Row(cells, mapping, len(look.header), mended.get(line, {}))
        item = _packet(row, node_id, places)
        out.append((line, item, row.problems))
    if not out:
        raise BadFile(f"{name} has a header and no packets under it")
    return out


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
) -> list[Understood]:
    """The dry run of a table: each row as it would be kept, with its errors; nothing is saved."""
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        items = sheet_items(
            text, name, mapping, node_id, place_names(v.session, larder), mended or {}
        )
        taken = codes_in_use(v.session)
        out = []
        for line, item, problems in items:
            seen = understand(v.session, item, kinds, home, larder.now_s(), line, taken)
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
) -> SheetTaken:
    """Bring a table in: all rows but those to skip, in one act, or nothing.

    Raises BadFile naming each row and field that cannot be.
    """
    found = check_sheet(larder, text, name, mapping, node_id, mended)
    rows = [u for u in found if u.line not in skip]
    problems = [
        {"line": u.line, "field": field, "reason": reason}
        for u in rows
        for field, reason in u.problems.items()
    ]
    if problems:
        first = problems[0]
        raise BadFile(
            f"{name}, line {first['line']}, {first['field']}: {first['reason']}. Nothing was taken in",
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
    pile = [u.item for u in rows]
    ids = [add_one(a.session, u.item, kinds, home, a.now_s, taken, pile).id or 0 for u in rows]
    a.about(*(f"lot:{i}" for i in ids))
    notes = [
        f"line {u.line}, {u.item.variety or u.item.kind or u.item.note}: {note}"
        for u in rows
        for note in u.assumed
    ]
    a.summary = f"Brought in {len(ids)} packets from {name}"
    return SheetTaken(ids, notes)
