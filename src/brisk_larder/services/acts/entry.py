"""Bringing seed in: a pile of packets in one act, each with only what is known of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date

from sqlmodel import Session, col, select

from ...core.amounts import Measures, read_amount, says_no_count
from ...core.codes import check_code
from ...core.errors import InvalidValue
from ...core.origins import Origin, Span, likely_age, read_origin, record_start
from ...core.since import began
from ...core.units import local_day
from ...core.writing import Way, way_of
from ...data.limits import NAME, NOTE
from ...data.queries import key, live
from ...data.tables import Cohort, Household, Lot, Node, Part, Stay, StockEntry, Variety
from ...data.tables_stock import PACKET, USES
from ..air.standing import EPOCH_S
from ..forecast.plenty import plenty
from ..forecast.wishes import wishes
from ..household.kinds import UNKNOWN, Kinds, figures, reference
from ..household.larder import planning_year, today
from ..household.measures import measures_of
from ..household.naming import guess_kind
from ..household.told import EARLIEST_YEAR, get_live
from ..household.types import read_types, types_typed
from ..household.wording import prose
from .acting import Doing, act
from .codes import codes_in_use, free_code

STATED_AS = ("", "tested", "at_least")
SOURCES = ("bought", "own", "gift", "unknown")


@dataclass(frozen=True)
class NewSeeds:
    """One packet as somebody types it. All but a kind or a name may be missing.

    kind: a key or the word on the packet; year, or date as written ("Sep 2024", "2021, 2022");
    quantity: as said ("120", "3.5 g", "2 packets", "a pinch"), sure: counted, about or guess;
    node_id: where it stands, section and slot in it, since: since when;
    stated_germination: fraction, stated_as: tested or at_least (empty: as
    is usual); types: within its kind, keys with commas (empty: by its words);
    as_typed: the words it was written in, where these are not all that stand here; code: one of the
    household's own, else the next of its scheme; price in the household's currency.
    """

    kind: str = ""
    variety: str = ""
    year: int | None = None
    date: str = ""
    quantity: str = ""
    sure: str = ""
    source: str = "bought"
    node_id: int | None = None
    section: str = ""
    slot: str = ""
    wrapper_kind: str = "paper_envelope"
    since: str = ""
    stated_germination: float | None = None
    stated_as: str = ""
    as_typed: str = ""
    types: str = ""
    hybrid: bool = False
    kept_line: bool = False
    treated: bool = False
    crossed_risk: bool = False
    from_kitchen: bool = False
    intended_use: str = "seed"
    note: str = ""
    tags: str = ""
    code: str = ""
    person_from: str = ""
    seller: str = ""
    price: float | None = None
    mother_cohort_id: int | None = None
    packet_sow_window: str = ""
    packet_depth_cm: float | None = None
    packet_days_to_sprout: str = ""
    packet_days_to_harvest: str = ""
    packet_count: int | None = None


def origins_of(item: NewSeeds, today: date, home: Household) -> list[Origin]:
    """Where its seed comes from in time; empty when nobody knows. Raises InvalidValue."""
    if item.date.strip():
        return read_origin(item.date, today, way_of(home.locale))
    if item.year is None:
        return []
    if not EARLIEST_YEAR <= item.year <= today.year:
        raise InvalidValue("year", item.year, f"{EARLIEST_YEAR} to {today.year}, or left empty")
    return [Origin(date(item.year, 1, 1), date(item.year, 12, 31))]


def likely_of(
    session: Session, crop: str | None, now_s: int, beside: Sequence[int] = ()
) -> tuple[int, int]:
    """How old seed of a kind without a year may be here (``core.origins.likely_age``), by what else the
    household keeps, and by what comes with it (``beside``: where its records begin, epoch s)."""
    rows = session.exec(
        select(Variety.crop, Cohort.record_from_s)
        .join(Cohort, col(Cohort.variety_id) == Variety.id)
        .where(Cohort.year_guessed == 0, col(Cohort.deleted_s).is_(None))
    ).all()
    mine = [*beside, *(at for kind, at in rows if kind is not None and kind == crop)]
    known = mine or [at for _, at in rows]
    return likely_age(known, now_s, figures().belief.unknown_years)


def record_of(
    origin: Origin | None,
    source: str,
    home: Household,
    now_s: int,
    likely: tuple[int, int] | None = None,
) -> Span:
    """Where seed of an origin comes from in time, and where its record begins; ``likely``: without a year."""
    f = figures()
    return record_start(
        origin,
        own=source == "own",
        north=home.hemisphere == "north",
        tz=home.tz,
        now_s=now_s,
        earliest_s=EPOCH_S,
        likely=likely or likely_age((), now_s, f.belief.unknown_years),
        f=f.calendar,
    )


def check_new(
    item: NewSeeds,
    kinds: Kinds,
    home: Household,
    now_s: int,
    line: str = "",
    taken: set[str] | None = None,
) -> None:
    """Raises InvalidValue for what cannot be, naming the field (and the line of a pile)."""

    def bad(field: str, given: object, allowed: str) -> InvalidValue:
        return InvalidValue(f"{line}{field}", given, allowed)

    if not item.kind.strip() and not item.variety.strip() and not item.note.strip():
        raise bad("kind", item.kind, "a kind, a name or a description: something to find it by")
    today = local_day(now_s, home.tz)
    if item.source not in SOURCES:
        raise bad("source", item.source, ", ".join(SOURCES))
    read_types(item.types, resolve_kind(item.kind, kinds))
    if item.intended_use not in USES:
        raise bad("meant for", item.intended_use, ", ".join(USES))
    if item.wrapper_kind not in reference().storage:
        raise bad("wrapper", item.wrapper_kind, ", ".join(reference().storage))
    if item.stated_as not in STATED_AS:
        raise bad("stated as", item.stated_as, "tested, at_least or left empty")
    _numbers_fit(item, bad)
    for word, given, longest in (("variety", item.variety, NAME), ("note", item.note, NOTE)):
        if len(given) > longest:
            raise bad(word, f"{len(given)} signs", f"at most {longest}")
    unsafe = item.treated or resolve_kind(item.kind, kinds) is None
    if item.intended_use in ("food", "shoots") and unsafe:
        raise bad(
            "meant for",
            item.intended_use,
            "seed, sale or swap: dressed seed and seed of "
            "unknown kind are never for food or shoots",
        )
    try:
        origins_of(item, today, home)
        began(item.since, now_s, now_s, home.tz, way_of(home.locale))
        if item.code:
            code = check_code(item.code)
            if taken is not None and code in taken:
                raise InvalidValue("code", code, "a code that no packet has or had")
        if item.quantity.strip() and not says_no_count(item.quantity):
            kind = kinds.get(resolve_kind(item.kind, kinds))
            read_amount(item.quantity, measures_of(kind), item.sure, way_of(home.locale))
    except InvalidValue as error:
        field = "quantity" if error.field == "unit" else error.field
        raise InvalidValue(f"{line}{field}", error.given, error.allowed) from error


def _numbers_fit(item: NewSeeds, bad: Callable[[str, object, str], InvalidValue]) -> None:
    for word, number, least, most, allowed in (
        ("stated germination", item.stated_germination, 0.0, 1.0, "0 to 100 %"),
        ("price", item.price, 0.0, 99_999.99, "zero or more"),
        ("seeds in the packet", item.packet_count, 1, 9_999_999, "1 or more"),
        ("depth", item.packet_depth_cm, 0.0, 50.0, prose("0 to 50 cm")),
    ):
        if number is not None and not least <= number <= most:
            raise bad(word, number, allowed)


def resolve_kind(word: str, kinds: Kinds) -> str | None:
    """The key for a key or a word on a packet; None: unknown."""
    if word in kinds.by_key and word != UNKNOWN:
        return word
    return guess_kind(word, kinds)


@dataclass(frozen=True)
class SeedsAdded:
    """The lots that were made; ``too_many``: a sentence for each kind the house has more of than it can
    use while it lives."""

    lot_ids: list[int]
    codes: list[str]
    too_many: list[str] = field(default_factory=list)


@act("add_seeds")
def add_seeds(a: Doing, items: list[NewSeeds]) -> SeedsAdded:
    """Add a pile of packets in one act; returns ``lot_ids``. Nothing is saved if one is wrong."""
    if not items:
        raise InvalidValue("packets", 0, "at least one")
    home, kinds = a.home, a.kinds
    taken = codes_in_use(a.session)
    ids, codes = [], []
    several = len(items) > 1
    for number, item in enumerate(items, start=1):  # one without a year looks at all the others
        check_new(item, kinds, home, a.now_s, f"packet {number}, " if several else "")
    for number, item in enumerate(items, start=1):
        where = f"packet {number}, " if several else ""
        check_new(item, kinds, home, a.now_s, where, taken)
        lot = add_one(a.session, item, kinds, home, a.now_s, taken, items)
        ids.append(key(lot))
        a.about(f"lot:{lot.id}")
        first = first_name(item, kinds)
        codes.append(lot.code)
    a.summary = f"Added {first}" if len(items) == 1 else f"Added {len(items)} packets"
    added = {resolve_kind(item.kind, kinds) for item in items if item.intended_use == "seed"}
    asked = wishes(a.session, kinds, planning_year(a.session, today(a.of, home), home), a.now_s)
    found = plenty(a.session, kinds, asked, a.now_s)
    many = [found[k].words(kinds.get(k).name) for k in sorted(found.keys() & added)]
    return SeedsAdded(lot_ids=ids, codes=codes, too_many=many)


def first_name(item: NewSeeds, kinds: Kinds) -> str:
    """How a packet is called in a summary."""
    return item.variety.strip() or kinds.get(resolve_kind(item.kind, kinds)).name


def known_variety(
    session: Session,
    crop: str | None,
    name: str,
    breeding: str,
    treated: bool | int,
    types: str = "",
) -> Variety | None:
    """The variety of that name, breeding, dressing and types (as far as both say them); seed of unknown kind
    is never one and the same."""
    if crop is None:
        return None
    found = session.exec(
        live(Variety).where(
            Variety.crop == crop,
            Variety.name == name,
            Variety.treated == int(treated),
            Variety.breeding == breeding,
        )
    )
    return next((x for x in found if not types or x.types in ("", types)), None)


def types_of(item: NewSeeds, crop: str | None) -> str:
    """The types of a packet: those that were chosen, else those that its words name."""
    if item.types.strip():
        return read_types(item.types, crop)
    return types_typed(crop, item.kind, item.variety, item.note)


def _variety(session: Session, item: NewSeeds, crop: str | None) -> Variety:
    name = item.variety.strip() or item.note.strip()[:60] or (item.kind.strip() if not crop else "")
    breeding, types = "hybrid" if item.hybrid else "open", types_of(item, crop)
    if name:
        known = known_variety(session, crop, name, breeding, item.treated, types)
        if known is not None:
            known.types = known.types or types
            if item.kept_line and not known.kept_line:
                known.kept_line = 1
            for field in PACKET:  # what the packet says of a known variety fills gaps only
                if getattr(item, field) and not getattr(known, field):
                    setattr(known, field, getattr(item, field))
            return known
    made = Variety(
        crop=crop,
        name=name or "unnamed",
        breeding=breeding,
        kept_line=int(item.kept_line),
        treated=int(item.treated),
        types=types,
        **{field: getattr(item, field) for field in PACKET},
    )
    session.add(made)
    session.flush()
    return made


def add_one(
    session: Session,
    item: NewSeeds,
    kinds: Kinds,
    home: Household,
    now_s: int,
    taken: set[str],
    pile: Sequence[NewSeeds] = (),
) -> Lot:
    """Write one packet (checked before) as variety, cohort, lot, part, stay and quantity.

    A bag of several years becomes one lot of several cohorts, each with its share. ``pile``: what comes with
    it, which tells how old one without a year may be.
    """
    crop = resolve_kind(item.kind, kinds)
    kind = kinds.get(crop)
    variety = _variety(session, item, crop)
    code = check_code(item.code) if item.code else ""
    taken.add(code)
    lot = Lot(
        code=code or free_code(home, kind.name, crop is not None, taken),
        note=item.note,
        intended_use=item.intended_use,
        tags=tidy_tags(item.tags),
        as_typed=typed_words(item),
    )
    session.add(lot)
    session.flush()
    if item.mother_cohort_id is not None:
        get_live(session, Cohort, item.mother_cohort_id, "mother seed")
    beside = [
        s for x in pile if resolve_kind(x.kind, kinds) == crop for s in _starts(x, home, now_s)
    ]
    likely = likely_of(session, crop, now_s, beside)
    starts = _add_parts(session, item, lot, variety, home, now_s, likely)
    if item.node_id is not None:
        get_live(session, Node, item.node_id, "place or container")
        here = began(item.since, min(starts), now_s, home.tz, way_of(home.locale))
        session.add(
            Stay(
                lot_id=lot.id,
                parent_node_id=item.node_id,
                wrapper_kind=item.wrapper_kind,
                section=item.section.strip(),
                slot=item.slot.strip(),
                from_s=here.from_s,
                since=here.since,
            )
        )
    measures, way = measures_of(kind, variety), way_of(home.locale)
    _add_quantity(session, item, lot, measures, max(starts), way, crop is not None)
    session.flush()
    return lot


def typed_words(item: NewSeeds) -> str:
    """What was written of a packet, in the words it was written in."""
    if item.as_typed.strip():
        return item.as_typed.strip()[:NOTE]
    said = (item.kind, item.variety, item.date or str(item.year or ""), item.quantity)
    return " | ".join(x.strip() for x in said if x.strip())[:NOTE]


def _starts(item: NewSeeds, home: Household, now_s: int) -> list[int]:
    """Where the records of a packet with a year begin."""
    day = local_day(now_s, home.tz)
    return [record_of(o, item.source, home, now_s).record_s for o in origins_of(item, day, home)]


def _add_parts(
    session: Session,
    item: NewSeeds,
    lot: Lot,
    variety: Variety,
    home: Household,
    now_s: int,
    likely: tuple[int, int],
) -> list[int]:
    """One cohort and part for each origin of a packet; where the records begin."""
    origins: list[Origin | None] = list(origins_of(item, local_day(now_s, home.tz), home))
    starts = []
    for origin in origins or [None]:
        low_s, high_s, start_s = record_of(origin, item.source, home, now_s, likely)
        known = origin is not None or item.source == "own"
        cohort = Cohort(
            variety_id=key(variety),
            description=item.note if variety.crop is None else "",
            source=item.source if known else "unknown",
            mother_cohort_id=item.mother_cohort_id,
            origin_lo_s=low_s,
            origin_hi_s=high_s,
            record_from_s=start_s,
            year_guessed=int(origin is None),
            stated_germination=item.stated_germination,
            stated_as=item.stated_as,
            person_from=item.person_from,
            crossed_risk=int(item.crossed_risk),
            from_kitchen=int(item.from_kitchen),
            seller=item.seller,
            price=item.price,
        )
        session.add(cohort)
        session.flush()
        part = Part(
            lot_id=key(lot),
            cohort_id=key(cohort),
            from_s=start_s,
            share_mean=origin.share if origin else 1.0,
            share_sd=figures().belief.share_sd_of_years if len(origins) > 1 else 0.0,
        )
        session.add(part)
        session.flush()
        starts.append(start_s)
    return starts


def _add_quantity(
    session: Session,
    item: NewSeeds,
    lot: Lot,
    measures: Measures,
    at_s: int,
    way: Way,
    named: bool,
) -> None:
    if says_no_count(item.quantity):
        return  # the words stay with the packet until somebody counts
    said = read_amount(item.quantity, measures, item.sure, way)
    if said is not None and (said.mass_g is not None or said.share is not None) and not named:
        return  # nobody knows how many seeds weigh that: the words stay with the packet
    if said is not None and said.seeds is None:
        # "half a packet" of a lot never seen before: half of what such a packet holds
        said = read_amount(f"{(said.share or 0) * measures.packet_seeds:.0f}", measures, "guess")
    if said is not None and said.seeds is not None:
        session.add(
            StockEntry(
                lot_id=key(lot),
                at_s=at_s,
                kind="found",
                seeds_mean=said.seeds,
                seeds_sd=said.sd,
                mass_g=said.mass_g,
                as_said=item.quantity.strip(),
            )
        )


def tidy_tags(text: str) -> str:
    """Tags as the household writes them, each once, separated by a comma and a space."""
    return ", ".join(dict.fromkeys(t.strip() for t in text.split(",") if t.strip()))
