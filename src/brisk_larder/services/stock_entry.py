"""Bringing seed in: a pile of packets in one act, each with only what is known of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlmodel import Session, select

from ..core.errors import InvalidValue
from ..core.units import YEAR_DAYS, day_start_s, local_day, seeds_from_text
from ..data.acts import ActRef, act
from ..data.tables import Cohort, Household, Lot, Node, Part, Stay, StockEntry, Variety
from .checks import EARLIEST_YEAR, get_live
from .crops import UNKNOWN, Kinds, guess_kind, load_kinds, reference
from .forecast import mark, touch
from .larder import Larder, household, live
from .world import EPOCH_S

SOURCES = ("bought", "own", "gift", "unknown")
UNKNOWN_YEARS = 4  # years of doubt of seed without a year (guess)


@dataclass(frozen=True)
class NewSeeds:
    """One packet as somebody types it. All but a kind or a name may be missing.

    kind: a key or the word on the packet; year: harvest or packing; quantity: as said
    ("120", "3.5 g", "a pinch"); node_id: where it stands; stated_germination: fraction.
    """

    kind: str = ""
    variety: str = ""
    year: int | None = None
    quantity: str = ""
    source: str = "bought"
    node_id: int | None = None
    wrapper_kind: str = "paper_envelope"
    stated_germination: float | None = None
    hybrid: bool = False
    kept_line: bool = False
    treated: bool = False
    note: str = ""
    person_from: str = ""
    mother_cohort_id: int | None = None
    packet_sow_window: str = ""
    packet_days_to_sprout: str = ""
    packet_days_to_harvest: str = ""


def record_start(
    year: int | None, source: str, home: Household, now_s: int
) -> tuple[int, int, int]:
    """(origin_lo, origin_hi, record_from) in epoch s of seed of a year.

    The clock starts at harvest for own seed (1 October of the year in the north, 1 April in the
    south) and at the buying season for the rest (1 March, 1 September); for seed of unknown year
    it starts today, with four years of doubt in its quality.
    """
    today = local_day(now_s, home.tz)
    if year is None:
        low = today - timedelta(days=UNKNOWN_YEARS * YEAR_DAYS)
        return max(day_start_s(low, home.tz), EPOCH_S), now_s, now_s
    north = home.hemisphere == "north"
    month = (10 if north else 4) if source == "own" else (3 if north else 9)
    low_s = day_start_s(date(year, 1, 1), home.tz)
    high_s = min(day_start_s(date(year, 12, 31), home.tz), now_s)
    start_s = min(day_start_s(date(year, month, 1), home.tz), now_s)
    return low_s, max(high_s, low_s), max(start_s, EPOCH_S)


def next_code(session: Session, kind_name: str, known: bool, taken: set[str]) -> str:
    """A short code: the kind's first letter and the next free number; ? for an unknown kind."""
    letter = kind_name[0].upper() if known else "?"
    used = {int(c[1:]) for c in taken if c[:1] == letter and c[1:].isdigit()}
    number = max(used, default=0) + 1
    code = f"{letter}{number}"
    taken.add(code)
    return code


def codes_in_use(session: Session) -> set[str]:
    """Codes that some lot ever had: a label in the tin may outlive its lot."""
    return {lot.code for lot in session.exec(select(Lot))}


def check_new(item: NewSeeds, kinds: Kinds, home: Household, now_s: int, line: str = "") -> None:
    """Raises InvalidValue for what cannot be, naming the field (and the line of a pile)."""

    def bad(field: str, given: object, allowed: str) -> InvalidValue:
        return InvalidValue(f"{line}{field}", given, allowed)

    if not item.kind.strip() and not item.variety.strip() and not item.note.strip():
        raise bad("kind", item.kind, "a kind, a name or a description: something to find it by")
    year = local_day(now_s, home.tz).year
    if item.year is not None and not EARLIEST_YEAR <= item.year <= year:
        raise bad("year", item.year, f"{EARLIEST_YEAR} to {year}, or left empty")
    if item.source not in SOURCES:
        raise bad("source", item.source, ", ".join(SOURCES))
    if item.wrapper_kind not in reference().storage:
        raise bad("wrapper", item.wrapper_kind, ", ".join(reference().storage))
    if item.stated_germination is not None and not 0 <= item.stated_germination <= 1:
        raise bad("stated germination", item.stated_germination, "0 to 100 %")
    if item.quantity.strip():
        kind = kinds.get(resolve_kind(item.kind, kinds))
        try:
            seeds_from_text(item.quantity, kind.crop.seeds_per_g)
        except InvalidValue as error:
            raise bad("quantity", item.quantity, error.allowed) from error


def resolve_kind(word: str, kinds: Kinds) -> str | None:
    """The key for a key or a word on a packet; None: unknown."""
    if word in kinds.by_key and word != UNKNOWN:
        return word
    return guess_kind(word, kinds)


def add_seeds(larder: Larder, ref: ActRef, items: list[NewSeeds]) -> dict[str, object]:
    """Add a pile of packets in one act; returns ``lot_ids``. Nothing is saved if one is wrong."""
    if not items:
        raise InvalidValue("packets", 0, "at least one")
    with act(larder.store, larder.clock, ref, "add_seeds") as a:
        if a.replayed:
            return a.result
        home, kinds = household(a.session), load_kinds(a.session)
        taken = codes_in_use(a.session)
        ids = []
        for number, item in enumerate(items, start=1):
            where = f"packet {number}, " if len(items) > 1 else ""
            check_new(item, kinds, home, a.now_s, where)
            lot = add_one(a.session, item, kinds, home, a.now_s, taken)
            ids.append(lot.id)
            a.about(f"lot:{lot.id}")
            first = first_name(item, kinds)
        a.result = {"lot_ids": ids}
        a.summary = f"Added {first}" if len(items) == 1 else f"Added {len(items)} packets"
        touch(a.session)
        return a.result


def first_name(item: NewSeeds, kinds: Kinds) -> str:
    """How a packet is called in a summary."""
    return item.variety.strip() or kinds.get(resolve_kind(item.kind, kinds)).name


def _variety(session: Session, item: NewSeeds, crop: str | None) -> Variety:
    name = item.variety.strip() or item.note.strip()[:60] or (item.kind.strip() if not crop else "")
    if name:
        known = session.exec(select(Variety).where(Variety.crop == crop, Variety.name == name))
        for row in known:
            if live(row) and crop is not None and bool(row.treated) == item.treated:
                if item.kept_line and not row.kept_line:
                    row.kept_line = 1
                return row
    made = Variety(
        crop=crop,
        name=name or "unnamed",
        breeding="hybrid" if item.hybrid else "open",
        kept_line=int(item.kept_line),
        treated=int(item.treated),
        packet_sow_window=item.packet_sow_window,
        packet_days_to_sprout=item.packet_days_to_sprout,
        packet_days_to_harvest=item.packet_days_to_harvest,
    )
    session.add(made)
    session.flush()
    return made


def add_one(
    session: Session, item: NewSeeds, kinds: Kinds, home: Household, now_s: int, taken: set[str]
) -> Lot:
    """Write one packet (checked before) as variety, cohort, lot, part, stay and quantity."""
    crop = resolve_kind(item.kind, kinds)
    kind = kinds.get(crop)
    variety = _variety(session, item, crop)
    low_s, high_s, start_s = record_start(item.year, item.source, home, now_s)
    cohort = Cohort(
        variety_id=variety.id or 0,
        description=item.note if crop is None else "",
        source=item.source if item.year is not None or item.source == "own" else "unknown",
        mother_cohort_id=item.mother_cohort_id,
        origin_lo_s=low_s,
        origin_hi_s=high_s,
        record_from_s=start_s,
        year_guessed=int(item.year is None),
        stated_germination=item.stated_germination,
        person_from=item.person_from,
    )
    lot = Lot(code=next_code(session, kind.name, crop is not None, taken), note=item.note)
    session.add_all([cohort, lot])
    session.flush()
    part = Part(lot_id=lot.id or 0, cohort_id=cohort.id or 0, from_s=start_s)
    session.add(part)
    if item.node_id is not None:
        get_live(session, Node, item.node_id, "place or container")
        session.add(
            Stay(
                lot_id=lot.id,
                parent_node_id=item.node_id,
                wrapper_kind=item.wrapper_kind,
                from_s=start_s,
            )
        )
    counted = seeds_from_text(item.quantity, kind.crop.seeds_per_g) if item.quantity else None
    if counted is not None:
        session.add(
            StockEntry(
                lot_id=lot.id or 0,
                at_s=start_s,
                kind="found",
                seeds_mean=counted[0],
                seeds_sd=counted[1],
                as_said=item.quantity.strip(),
            )
        )
    session.flush()
    mark(session, [part.id or 0], start_s)
    return lot
