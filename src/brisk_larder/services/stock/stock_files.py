"""The stock out to CSV and in again, nothing lost."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col

from ...core.base.errors import BadFile, InvalidValue
from ...core.hand.writing import way_of
from ...data.acts import ActRef
from ...data.queries import key, live
from ...data.tables import Cohort, Earmark, Lot, Node, Part, Stay, StockEntry, Variety
from ...formats.stock_csv import is_ours, read_stock
from ...formats.text import decode
from ..acts.acting import Doing, act
from ..acts.entry import known_variety
from ..acts.lot_codes import codes_in_use, new_node_code
from ..air.look import looking_at
from ..household.kinds import UNKNOWN, load_kinds, reference
from ..household.larder import Larder
from ..household.wording import many
from .sheet import SheetLook, SheetTaken, check_sheet, look_at_sheet, take_sheet
from .stock_table import SEPARATOR


@dataclass(frozen=True)
class LotsMade:
    """The lots that were made, and what was assumed: nothing, for a stock written by this program."""

    lot_ids: list[int]
    assumed: list[str] = field(default_factory=list)


@act("import_stock")
def import_stock(a: Doing, name: str, data: bytes) -> LotsMade:
    """Bring in a stock that this program wrote: all of it or nothing, in one act.

    Lots whose code is in use here are refused, so the same file is never taken in twice. Places
    are found by their path or made. Raises BadFile with line and field.
    """
    rows = read_stock(data, name)
    session = a.session
    kinds, taken = load_kinds(session), codes_in_use(session)
    problems = []
    for line, row in rows:
        if row["code"] in taken:
            problems.append(_problem(line, "code", f"{row['code']} is in use here already"))
        if row["kind"] and (row["kind"] not in kinds.by_key or row["kind"] == UNKNOWN):
            problems.append(_problem(line, "kind", f"{row['kind']!r} is not known here"))
    if problems:
        raise _refuse(name, problems)
    by_code: dict[str, int] = {}
    cohorts: dict[str, int] = {}
    made: list[int] = []
    for line, row in rows:
        try:
            with session.no_autoflush:
                part = _take(a.session, row, by_code, cohorts, a.now_s)
            made.append(part)
        except (IntegrityError, InvalidValue) as error:
            said = error.message if isinstance(error, InvalidValue) else str(error.orig)
            reason = said.split(": ", 1)[-1]
            raise _refuse(name, [_problem(line, "row", f"not possible: {reason}")]) from error
    for line, row in rows:
        if not row["mother_code"]:
            continue
        mother = cohorts.get(row["mother_code"])
        if mother is None:
            raise _refuse(name, [_problem(line, "mother_code", f"no lot {row['mother_code']!r}")])
        child = session.get(Cohort, cohorts[row["code"]])
        if child is not None and child.id != mother:
            child.mother_cohort_id = mother
            session.add(child)
    a.about(*(f"lot:{i}" for i in by_code.values()))
    a.summary = f"Brought in {many(len(by_code), 'packet')} from {name}"
    return LotsMade(lot_ids=list(by_code.values()))


def _problem(line: int, field: str, reason: str) -> dict[str, object]:
    return {"line": line, "field": field, "reason": reason}


def _refuse(name: str, problems: list[dict[str, object]]) -> BadFile:
    first = problems[0]
    more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
    return BadFile(
        f"{name}, line {first['line']}, {first['field']}: {first['reason']}{more}. Nothing was taken in",
        problems,
    )


def _take(
    session: Session,
    row: dict[str, Any],
    by_code: dict[str, int],
    cohorts: dict[str, int],
    now_s: int,
) -> int:
    # long: one column after the other of the file
    crop = row["kind"] or None
    variety = known_variety(
        session, crop, row["variety"], row["breeding"], row["treated"], row["types"]
    )
    if variety is None:
        variety = Variety(
            crop=crop,
            name=row["variety"],
            breeding=row["breeding"],
            treated=row["treated"],
            types=row["types"],
            kept_line=row["kept_line"],
            packet_note=row["packet_note"],
            packet_count=None if row["packet_count"] is None else int(row["packet_count"]),
            packet_depth_cm=row["packet_depth_cm"],
            packet_sow_window=row["packet_sow_window"],
            packet_days_to_sprout=row["packet_days_to_sprout"],
            packet_days_to_harvest=row["packet_days_to_harvest"],
        )
        session.add(variety)
        session.flush()
    record_from = now_s if row["record_from"] is None else row["record_from"]
    cohort = Cohort(
        variety_id=key(variety),
        description=row["description"],
        source=row["source"] or "unknown",
        origin_lo_s=row["origin_from"],
        origin_hi_s=row["origin_to"],
        record_from_s=record_from,
        year_guessed=row["year_guessed"],
        stated_germination=row["stated_germination"],
        stated_as=row["stated_as"],
        person_from=row["person_from"],
        crossed_risk=row["crossed_risk"],
        from_kitchen=row["from_kitchen"],
        seller=row["seller"],
        price=row["price"],
    )
    session.add(cohort)
    session.flush()
    cohorts.setdefault(row["code"], key(cohort))
    if row["code"] not in by_code:
        by_code[row["code"]] = _lot(session, row, record_from)
    part = Part(
        lot_id=by_code[row["code"]],
        cohort_id=key(cohort),
        from_s=record_from,
        share_mean=1.0 if row["share"] is None else row["share"],
        share_sd=row["share_sd"] or 0.0,
        start_a_probit=row["start_a_probit"],
        start_sd_log10_a=row["start_sd_log10_a"],
        start_erh25=row["start_erh25"],
    )
    session.add(part)
    session.flush()
    return key(part)


def _lot(session: Session, row: dict[str, Any], record_from: int) -> int:
    lot = Lot(
        code=row["code"],
        note=row["note"],
        state=row["state"] or "here",
        tags=row["tags"],
        as_typed=row["as_typed"],
        form=row["form"] if row["form"] in reference().forms else "",
        intended_use=row["intended_use"] or "seed",
        seeds_per_g=row["seeds_per_g"],
    )
    session.add(lot)
    session.flush()
    if row["place"]:
        node = _node(session, row["place"].split(SEPARATOR), row["place_kinds"].split(SEPARATOR))
        session.add(
            Stay(
                lot_id=lot.id,
                parent_node_id=node,
                section=row["section"],
                slot=row["slot"],
                wrapper_kind=row["wrapper_kind"] or "paper_envelope",
                from_s=record_from if row["here_since"] is None else row["here_since"],
                since=row["since"] or "supposed",
            )
        )
    if row["seeds"] is not None:
        session.add(
            StockEntry(
                lot_id=key(lot),
                kind="counted",
                seeds_mean=row["seeds"],
                at_s=record_from if row["counted"] is None else row["counted"],
                seeds_sd=row["seeds_sd"] or 0.0,
                as_said=row["as_said"],
            )
        )
    for piece in filter(None, row["set_aside"].split("; ")):
        use, _, amount = piece.partition(":")
        session.add(Earmark(lot_id=key(lot), intended_use=use, seeds_mean=float(amount)))
    session.flush()
    return key(lot)


def _node(session: Session, names: list[str], kinds: list[str]) -> int:
    """The node of a path, made where it is missing."""
    parent: int | None = None
    for name, kind in zip(names, kinds, strict=False):
        found: int | None = None
        for node in session.exec(live(Node).where(Node.name == name)):
            stay = session.exec(
                live(Stay).where(Stay.node_id == node.id, col(Stay.to_s).is_(None))
            ).first()
            if (stay.parent_node_id if stay else None) == parent:
                found = node.id
        if found is None:
            made = Node(
                code=new_node_code(session, parent is None)[0],
                name=name,
                role="place" if parent is None else "container",
                place_kind=kind if parent is None else None,
                container_kind=None if parent is None else kind,
            )
            session.add(made)
            session.flush()
            if parent is not None:
                session.add(
                    Stay(node_id=made.id, parent_node_id=parent, from_s=0, since="supposed")
                )
                session.flush()
            found = made.id
        parent = found
    assert parent is not None, "a path has at least one name"
    return parent


MOST_BYTES = 8 * 2**20


def _plain(file_name: str, data: bytes) -> tuple[str, SheetLook]:
    """A spreadsheet of packets with how its columns are meant. Raises BadFile."""
    if len(data) > MOST_BYTES:
        raise BadFile(f"{file_name} is larger than {MOST_BYTES // 2**20} MB: split it")
    text = decode(data, file_name)
    look = look_at_sheet(text, file_name)
    if not is_ours(text) and (not {"kind", "variety"} & set(look.mapping) or not look.has_header):
        raise BadFile(
            f"{file_name}, line 1: no column is called kind or variety; the header reads "
            f"{', '.join(look.header)!r}. Known columns: " + ", ".join(look.fields),
            [{"line": 1, "field": "header", "reason": "kind or variety column needed"}],
        )
    return text, look


def before_import(
    larder: Larder, file_name: str, data: bytes, node_id: int | None, month_first: bool | None
) -> list[str]:
    """What is to be known before a spreadsheet of packets is brought in: columns that are not read, rows
    without a year, days that could be two. Raises BadFile."""
    text, look = _plain(file_name, data)
    if is_ours(text):
        return []
    out = []
    if look.unread:
        out.append(f"not read: {', '.join(look.unread)}")
    first = None if month_first is None else not month_first
    rows = check_sheet(larder, text, file_name, look.mapping, node_id, day_first=first)
    yearless = sum(not r.date_words and "date" not in r.problems for r in rows)
    if yearless:
        out.append(
            f"{yearless} of {many(len(rows), 'row')} {'has' if yearless == 1 else 'have'} no year"
        )
    if look.either_day and month_first is None:
        said, day, month = look.either_day
        with looking_at(larder) as v:
            here = day if way_of(v.home.locale).day_first else month
        out.append(f"{said} is taken as {here}; --day-first or --month-first says it otherwise")
    return out


def import_packets(
    larder: Larder,
    ref: ActRef,
    file_name: str,
    data: bytes,
    node_id: int | None = None,
    month_first: bool | None = None,
) -> SheetTaken | LotsMade:
    """Bring in a spreadsheet of packets as people keep them, or the stock as this program wrote
    it: all or nothing, one act. ``month_first``: how figures that could be two days are meant.

    What is missing stays missing (a year, a quantity, even the kind); what was assumed is listed.
    Raises BadFile with line and field for what cannot be.
    """
    text, look = _plain(file_name, data)
    if is_ours(text):
        return import_stock(larder, ref, file_name, data)
    first = None if month_first is None else not month_first
    return take_sheet(larder, ref, text, file_name, look.mapping, node_id, [], day_first=first)
