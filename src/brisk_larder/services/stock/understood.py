"""What a typed line of a packet means before it is saved: kind, type, dates, amount, past, twins."""

from __future__ import annotations

from dataclasses import dataclass

from rapidfuzz import fuzz
from sqlmodel import Session, col, select

from ...core.base.errors import InvalidValue
from ...core.base.units import YEAR_S, local_day
from ...core.hand.amounts import read_amount, says_no_count
from ...core.hand.stay_start import began
from ...core.hand.told_tests import read_tested
from ...core.hand.writing import way_of
from ...core.seed.pieces import FRESH, SEED
from ...data.queries import key
from ...data.tables import Cohort, Household, Lot, Part, Variety
from ..acts.ages import Ages, starts_of
from ..acts.lot_codes import codes_in_use
from ..acts.new_seeds import (
    NewSeeds,
    ages_with,
    check_new,
    form_said,
    origins_of,
    resolve_kind,
    types_of,
)
from ..air.look import looking_at
from ..household.kind_types import TypeChoice, type_choices, type_names
from ..household.kinds import Kind, Kinds, called
from ..household.larder import Larder
from ..household.lot_quantity import seeds_left
from ..household.naming import Candidate, candidates
from ..household.own_units import measures_of
from ..household.planting_stock import unit_of
from ..household.wording import day_words, many

ALIKE = 88.0  # likeness of names that are taken for the same (0-100)


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
    form: str
    item: NewSeeds


def _since_words(
    item: NewSeeds, kind: Kind, form: str, home: Household, now_s: int, likely: tuple[int, int]
) -> str:
    """What is taken as the past of a packet that is put somewhere: where it lay, and since when."""
    if item.node_id is None:
        return ""
    try:
        origins = origins_of(item, local_day(now_s, home.tz), home)
        starts = starts_of(origins, kind, form, item.source, home, now_s, likely)
        came_s = min(x.record_s for x in starts)
        here = began(item.since, came_s, now_s, home.tz, way_of(home.locale))
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
        unit = unit_of(kinds.get(crop), lot.form, 1)
        much = many(have.mean, unit) if have.known else "not counted"
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
    ages: Ages,
) -> Understood:
    """What a line means; nothing is saved."""
    # long: one thing after the other that a line says
    problems: dict[str, str] = {}
    try:
        check_new(item, kinds, home, now_s, taken=taken)
    except InvalidValue as error:
        problems[error.field] = error.message.removeprefix(f"{error.field}: ").rstrip(".")
    crop = resolve_kind(item.kind, kinds)
    kind = kinds.get(crop)
    dates, amount, said_mass, plants, form = "", "", False, False, SEED
    try:
        origins = origins_of(item, local_day(now_s, home.tz), home)
        dates = ", ".join(
            f"{o.words} ({100 * o.share:.0f} %)" if len(origins) > 1 else o.words for o in origins
        )
    except InvalidValue as error:
        problems["date"] = error.allowed
    try:
        form = form_said(item, kinds)
        measures = measures_of(kind, form=form)
        plants = says_no_count(item.quantity, measures)
        said = (
            None if plants else read_amount(item.quantity, measures, item.sure, way_of(home.locale))
        )
        amount = said.words if said else ""
        said_mass = said is not None and (said.mass_g is not None or said.share is not None)
        if said is not None and said.share is not None:
            full = measures.packet_seeds or 0.0
            amount = f"{100 * said.share:.0f} % of a packet, about {said.share * full:.0f} seeds"
    except InvalidValue as error:
        problems["quantity"] = error.allowed
    twins = _twins(session, item, crop, kinds)
    typed = "" if problems.get("type") else types_of(item, crop)
    assumed = []
    if crop is None and (item.kind or item.variety or item.note):
        assumed.append("no known kind: kept as unknown, not edible, a wide guess")
    if not dates and "date" not in problems and form != SEED:
        fresh = form in FRESH
        assumed.append(
            "no date: taken as come today" if fresh else "no year: taken as of the last harvest"
        )
    elif not dates and "date" not in problems:
        low_s, about_s = ages.of(crop)
        about = max(0, round((now_s - about_s) / YEAR_S))
        most = max(1, round((now_s - low_s) / YEAR_S))
        assumed.append(f"no year: taken as about {many(about, 'year')} old, {most} at most")
    assumed += _tested_words(item)
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
        since_words=_since_words(item, kind, form, home, now_s, ages.of(crop)),
        form=form or "seed",
        item=item,
    )


def _tested_words(item: NewSeeds) -> list[str]:
    """What is taken of a test that was written down."""
    try:
        said = read_tested(item.tested)
    except InvalidValue:
        return []  # told where it stands
    if said is None:
        return []
    when = "" if item.tested_on.strip() else ", nobody wrote when: it counts less"
    return [f"a test: {said.words}{when}"]


def check_lines(larder: Larder, items: list[NewSeeds]) -> list[Understood]:
    """What typed lines mean; nothing is saved."""
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        taken = codes_in_use(v.session)
        ages = ages_with(v.session, items, kinds, home, larder.now_s())
        return [
            understand(v.session, x, kinds, home, larder.now_s(), i, taken, ages)
            for i, x in enumerate(items, start=1)
        ]
