"""A packet as somebody types it: what may stand in it, what it means, and what cannot be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

from sqlmodel import Session

from ...core.base.errors import InvalidValue
from ...core.base.units import local_day
from ...core.hand.amounts import Measures, read_amount, says_no_count
from ...core.hand.codes import check_code
from ...core.hand.origins import Origin, read_origin
from ...core.hand.stay_start import began
from ...core.hand.told_tests import read_tested
from ...core.hand.writing import way_of
from ...core.seed.pieces import SEED
from ...data.limits import NAME, NOTE
from ...data.tables import Household
from ...data.tables_stock import USES
from ..household.kind_types import read_types, types_typed
from ..household.kinds import UNKNOWN, Kinds, reference
from ..household.naming import guess_kind
from ..household.own_units import measures_of
from ..household.planting_stock import form_of
from ..household.possible_values import EARLIEST_YEAR, moment_on
from ..household.wording import prose
from .ages import Ages, record_of

STATED_AS = ("", "tested", "at_least")
SOURCES = ("bought", "own", "gift", "unknown")


@dataclass(frozen=True)
class NewSeeds:
    """One packet as somebody types it. All but a kind or a name may be missing.

    kind: a key or the word on the packet; year, or date as written ("Sep 2024", "2021, 2022");
    quantity: as said ("120", "3.5 g", "2 packets", "a pinch"), sure: counted, about or guess;
    node_id: where it stands, section and slot in it, since: since when;
    stated_germination: fraction, stated_as: tested or at_least (empty: as
    is usual); types: within its kind, keys with commas (empty: by its words); form: seed, or what is set
    (tuber, set, plant; empty: by its words); tested: what came up of it once ("9/10", "72 %"), tested_on:
    when;
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
    form: str = ""
    tested: str = ""
    tested_on: str = ""
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
    measures = measures_as_said(item, kinds)
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
        _test_fits(item, kinds, home, now_s)
        began(item.since, now_s, now_s, home.tz, way_of(home.locale))
        if item.code:
            code = check_code(item.code)
            if taken is not None and code in taken:
                raise InvalidValue("code", code, "a code that no packet has or had")
        if item.quantity.strip() and not says_no_count(item.quantity, measures):
            read_amount(item.quantity, measures, item.sure, way_of(home.locale))
    except InvalidValue as error:
        field = "quantity" if error.field == "unit" else error.field
        raise InvalidValue(f"{line}{field}", error.given, error.allowed) from error


def _test_fits(item: NewSeeds, kinds: Kinds, home: Household, now_s: int) -> None:
    if read_tested(item.tested) is not None and form_said(item, kinds) != SEED:
        raise InvalidValue("tested", item.tested, "left empty: what is set is not tested")
    if item.tested_on.strip():
        moment_on(item.tested_on, None, home, now_s)


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


def form_said(item: NewSeeds, kinds: Kinds) -> str:
    """Seed (empty) or something that is set: as was chosen, else as its words say. Raises InvalidValue."""
    kind = kinds.get(resolve_kind(item.kind, kinds))
    return form_of(kind, item.form, item.kind, item.quantity, item.variety)


def measures_as_said(item: NewSeeds, kinds: Kinds) -> Measures:
    """What its amount is measured by. Raises InvalidValue."""
    kind = kinds.get(resolve_kind(item.kind, kinds))
    return measures_of(kind, form=form_said(item, kinds))


def types_of(item: NewSeeds, crop: str | None) -> str:
    """The types of a packet: those that were chosen, else those that its words name."""
    if item.types.strip():
        return read_types(item.types, crop)
    return types_typed(crop, item.kind, item.variety, item.note)


def typed_words(item: NewSeeds) -> str:
    """What was written of a packet, in the words it was written in."""
    if item.as_typed.strip():
        return item.as_typed.strip()[:NOTE]
    said = (item.kind, item.variety, item.date or str(item.year or ""), item.quantity)
    return " | ".join(x.strip() for x in said if x.strip())[:NOTE]


def ages_with(
    session: Session, pile: Sequence[NewSeeds], kinds: Kinds, home: Household, now_s: int
) -> Ages:
    """How old seed without a year may be here, by what the household keeps and by what comes with it (a pile
    that was checked, as far as its days can be read)."""
    beside: list[tuple[str | None, int]] = []
    day = local_day(now_s, home.tz)
    for item in pile:
        try:
            origins = origins_of(item, day, home)
        except InvalidValue:
            continue  # told where it stands: here it says nothing
        crop = resolve_kind(item.kind, kinds)
        if origins and not form_of(kinds.get(crop), "", item.kind, item.quantity):
            beside += [(crop, record_of(o, item.source, home, now_s).record_s) for o in origins]
    return Ages(session, now_s, beside)
