"""What is written of seed put right: what it is, where it comes from, when, and what its packet says.

A packet is mended with the seed it shares an origin with (packets split from it); other packets of the
same name keep theirs.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import local_day
from ...core.hand.origins import Origin, read_origin
from ...core.hand.writing import way_of
from ...core.seed.pieces import SEED, says_seed
from ...data.acts import Recorder
from ...data.limits import NAME, NOTE
from ...data.queries import key, live
from ...data.tables import Cohort, Household, Lot, Part, Variety
from ...data.tables_stock import PACKET
from ..household.kind_types import read_types, type_names, types_typed
from ..household.kinds import UNKNOWN, figures, load_kinds
from ..household.larder import household
from ..household.own_units import main_part
from ..household.planting_stock import form_of, unit_of
from ..household.possible_values import get_live
from .ages import Ages, lifted, record_of
from .entry import known_variety
from .new_seeds import SOURCES, STATED_AS


@dataclass(frozen=True)
class SeedEdit:
    """What may be put right of seed; None leaves a field as it is.

    kind: a key, empty: nobody knows; date: as written, "?" when nobody knows, several years for a bag of
    them; form: seed, or what is set; stated_germination: fraction, below 0: none was stated; packet: what
    the packet says.
    """

    kind: str | None = None
    variety: str | None = None
    description: str | None = None
    hybrid: bool | None = None
    treated: bool | None = None
    kept_line: bool | None = None
    crossed_risk: bool | None = None
    source: str | None = None
    person_from: str | None = None
    seller: str | None = None
    price: float | None = None
    date: str | None = None
    mother_lot_id: int | None = None
    stated_germination: float | None = None
    stated_as: str | None = None
    types: str | None = None
    form: str | None = None
    packet: dict[str, str | float | int | None] | None = None


def mend_seed(a: Recorder, lot: Lot, edit: SeedEdit) -> list[str]:
    """Within an act: write it, and say what changed. Raises InvalidValue and Conflict."""
    _, cohort, was = main_part(a.session, key(lot))
    had_pieces = load_kinds(a.session).get(was.crop).piece is not None
    said = [*_what_it_is(a.session, cohort, was, edit), *_where_from(a, lot, cohort, edit)]
    said_form = _form(a.session, lot, cohort, edit, had_pieces)
    said += said_form
    if edit.date is not None or edit.source is not None or said_form:
        said += _when(a, lot, cohort, edit)
    a.session.flush()
    return said


def _form(
    session: Session, lot: Lot, cohort: Cohort, edit: SeedEdit, had_pieces: bool
) -> list[str]:
    """Seed or what is set of it: as is said, or as its new kind is grown; ``had_pieces``: its old one was."""
    variety = session.get(Variety, cohort.variety_id)
    kind = load_kinds(session).get(variety.crop if variety else None)
    if edit.form is not None:
        form = form_of(kind, edit.form or "seed", "")
    elif edit.kind is None:
        return []
    elif kind.piece is not None:  # as its new kind is grown, unless it is seed by its words
        form = SEED if says_seed(lot.as_typed) else lot.form or kind.piece.form
    else:
        form = SEED if had_pieces else lot.form
    if form == lot.form:
        return []
    lot.form = form
    session.add(lot)
    return [f"as {unit_of(kind, form)}"]


def _what_it_is(session: Session, cohort: Cohort, variety: Variety, edit: SeedEdit) -> list[str]:
    kinds, said = load_kinds(session), []
    crop, name, breeding, treated = variety.crop, variety.name, variety.breeding, variety.treated
    if edit.kind is not None and (edit.kind or None) != crop:
        if edit.kind and (edit.kind not in kinds.by_key or edit.kind == UNKNOWN):
            raise InvalidValue("kind", edit.kind, "a kind of the table or one of your own")
        crop = edit.kind or None
        said.append(f"it is {kinds.get(crop).name}")
    if edit.variety is not None and edit.variety.strip() and edit.variety.strip() != name:
        name = _short("name", edit.variety, NAME)
        said.append(f"named {name}")
    if edit.hybrid is not None and edit.hybrid != (breeding == "hybrid"):
        breeding = "hybrid" if edit.hybrid else "open"
        said.append("a hybrid" if edit.hybrid else "open-pollinated")
    if edit.treated is not None and int(edit.treated) != treated:
        treated = int(edit.treated)
        said.append("dressed seed" if edit.treated else "not dressed")
    own = variety
    types = variety.types if crop == variety.crop else types_typed(crop, name)
    if edit.types is not None and read_types(edit.types, crop) != types:
        types = read_types(edit.types, crop)
        said.append(", ".join(type_names(types, crop)) or "of a type that nobody said")
    if said:
        own = _own_variety(session, cohort, variety, crop, name, breeding, treated, types)
    if edit.kept_line is not None and int(edit.kept_line) != own.kept_line:
        own.kept_line = int(edit.kept_line)
        said.append("a line to keep" if edit.kept_line else "no longer a kept line")
    packet = {k: v for k, v in (edit.packet or {}).items() if getattr(own, k, None) != v}
    if packet:
        if not set(packet) <= set(PACKET):
            raise InvalidValue(
                "packet", ", ".join(sorted(set(packet) - set(PACKET))), ", ".join(PACKET)
            )
        for field, value in packet.items():
            setattr(own, field, value)
        said.append("what the packet says")
    session.add(own)
    session.flush()
    return said


def _own_variety(
    session: Session,
    cohort: Cohort,
    variety: Variety,
    crop: str | None,
    name: str,
    breeding: str,
    treated: int,
    types: str,
) -> Variety:
    """The variety of that kind, name, breeding and dressing for one cohort: one that is there already,
    the same row when nothing else hangs on it, else a copy."""
    known = known_variety(session, crop, name, breeding, treated, types)
    if known is None or known.id == variety.id:
        others = session.exec(
            live(Cohort).where(Cohort.variety_id == variety.id, Cohort.id != cohort.id)
        ).first()
        if others is None:
            known = variety
        else:
            known = Variety(kept_line=variety.kept_line, **{f: getattr(variety, f) for f in PACKET})
        known.crop, known.name, known.breeding, known.treated = crop, name, breeding, treated
        known.types = types
        session.add(known)
        session.flush()
    elif variety.kept_line and not known.kept_line:
        known.kept_line = 1
        session.add(known)
    cohort.variety_id = key(known)
    session.add(cohort)
    return known


def _short(field: str, text: str, most: int) -> str:
    plain = text.strip()
    if len(plain) > most:
        raise InvalidValue(field, f"{len(plain)} signs", f"at most {most}")
    return plain


def _where_from(a: Recorder, lot: Lot, cohort: Cohort, edit: SeedEdit) -> list[str]:
    said = []
    if edit.description is not None and edit.description.strip() != cohort.description:
        cohort.description = _short("description", edit.description, NOTE)
        said.append("description")
    for field, words in (("person_from", "from"), ("seller", "bought from")):
        given = getattr(edit, field)
        if given is not None and given.strip() != getattr(cohort, field):
            setattr(cohort, field, _short(words, given, NAME))
            said.append(
                f"{words} {given.strip()}" if given.strip() else f"{words} nobody in particular"
            )
    if edit.price is not None and edit.price != cohort.price:
        if not 0 <= edit.price <= 99_999.99:
            raise InvalidValue("price", edit.price, "zero or more")
        cohort.price = edit.price
        said.append("price")
    if edit.crossed_risk is not None and int(edit.crossed_risk) != cohort.crossed_risk:
        cohort.crossed_risk = int(edit.crossed_risk)
        said.append("may have crossed" if edit.crossed_risk else "kept apart")
    if edit.stated_germination is not None:
        stated = None if edit.stated_germination < 0 else edit.stated_germination
        if stated is not None and stated > 1:
            raise InvalidValue("stated germination", stated, "0 to 100 %")
        if stated != cohort.stated_germination:
            cohort.stated_germination = stated
            said.append("stated germination")
    if edit.stated_as is not None and edit.stated_as != cohort.stated_as:
        if edit.stated_as not in STATED_AS:
            raise InvalidValue("stated as", edit.stated_as, "tested, at_least or left empty")
        cohort.stated_as = edit.stated_as
        said.append("how its germination was stated")
    if edit.mother_lot_id is not None:
        found = get_live(a.session, Lot, edit.mother_lot_id, "lot")
        mother = main_part(a.session, edit.mother_lot_id)[1]
        refuse_circle(a.session, cohort, mother)
        cohort.mother_cohort_id = mother.id
        said.append(f"grown from {found.code}")
    a.session.add(cohort)
    return said


def refuse_circle(session: Session, cohort: Cohort, mother: Cohort) -> None:
    """Raises InvalidValue when seed would be its own ancestor."""
    at: Cohort | None = mother
    seen = set[int | None]()
    while at is not None and at.id not in seen:
        seen.add(at.id)
        if at.id == cohort.id:
            raise InvalidValue("grown from", "itself", "seed that is older than this")
        up = at.mother_cohort_id
        at = session.get(Cohort, up) if up is not None else None


def origin_now(cohort: Cohort, home: Household) -> Origin | None:
    """The origin as it is kept, as one would write it again."""
    if cohort.year_guessed or cohort.origin_lo_s is None or cohort.origin_hi_s is None:
        return None
    low, high = local_day(cohort.origin_lo_s, home.tz), local_day(cohort.origin_hi_s, home.tz)
    if (low.month, low.day) == (1, 1) and (high - low) >= timedelta(days=300):
        high = high.replace(month=12, day=31)  # of the year under way only what is past is kept
    return Origin(low, max(high, low))


def _when(a: Recorder, lot: Lot, cohort: Cohort, edit: SeedEdit) -> list[str]:
    home, said = household(a.session), []
    if edit.source is not None and edit.source != cohort.source:
        if edit.source not in SOURCES:
            raise InvalidValue("source", edit.source, ", ".join(SOURCES))
        cohort.source = edit.source
        said.append({"own": "own seed", "gift": "a gift"}.get(edit.source, edit.source))
    today = local_day(a.now_s, home.tz)
    origins: list[Origin | None]
    if edit.date is None:
        origins = [origin_now(cohort, home)]
    else:
        origins = list(read_origin(edit.date, today, way_of(home.locale))) or [None]
    if len(origins) > 1:
        return [*said, _several_years(a, lot, cohort, origins, home)]
    (origin,) = origins
    variety = a.session.get(Variety, cohort.variety_id)
    crop = variety.crop if variety else None
    if lot.form != SEED:
        span = lifted(origin, load_kinds(a.session).get(crop), lot.form, home, a.now_s)
    else:
        likely = Ages(a.session, a.now_s).of(crop)
        span = record_of(origin, cohort.source, home, a.now_s, likely)
    low_s, high_s, start_s = span
    if origin is None and cohort.year_guessed and edit.form is None and edit.kind is None:
        return said  # nobody knew and nobody knows
    if (low_s, high_s, start_s) != (cohort.origin_lo_s, cohort.origin_hi_s, cohort.record_from_s):
        cohort.origin_lo_s, cohort.origin_hi_s, cohort.record_from_s = low_s, high_s, start_s
        cohort.year_guessed = int(origin is None)
        said.append(f"of {origin.words}" if origin else "year unknown")
        for part in a.session.exec(
            live(Part).where(Part.cohort_id == cohort.id, col(Part.from_part_id).is_(None))
        ):
            if part.to_s is not None and part.to_s <= start_s:
                raise Conflict(
                    f"Some of {lot.code} was poured elsewhere before then: that day cannot be right"
                )
            part.from_s = start_s
            a.session.add(part)
    a.session.add(cohort)
    return said


def _several_years(
    a: Recorder, lot: Lot, cohort: Cohort, origins: list[Origin | None], home: Household
) -> str:
    """One origin becomes several: a cohort and a part for each year, from the start. Only of a packet that
    nothing was split off from or poured into."""
    parts = a.session.exec(live(Part).where(Part.lot_id == lot.id)).all()
    kin = a.session.exec(
        select(Part).where(Part.cohort_id == cohort.id, Part.lot_id != lot.id)
    ).all()
    if len(parts) != 1 or parts[0].from_part_id is not None or kin:
        raise Conflict(
            f"{lot.code} was split or mixed: several years can be given only to a packet as it came"
        )
    (old,) = parts
    old.deleted_s = cohort.deleted_s = a.now_s
    a.session.add_all([old, cohort])
    same = ("variety_id", "description", "source", "mother_cohort_id", "stated_germination", "stated_as",
            "person_from", "crossed_risk", "from_kitchen", "seller", "price")  # fmt: skip
    for origin in origins:
        assert origin is not None, "several years are known ones"
        low_s, high_s, start_s = record_of(origin, cohort.source, home, a.now_s)
        one = Cohort(
            origin_lo_s=low_s, origin_hi_s=high_s, record_from_s=start_s, year_guessed=0,
            **{f: getattr(cohort, f) for f in same},
        )  # fmt: skip
        a.session.add(one)
        a.session.flush()
        a.session.add(
            Part(
                lot_id=key(lot),
                cohort_id=key(one),
                from_s=start_s,
                share_mean=origin.share,
                share_sd=figures().belief.share_sd_of_years,
            )
        )
    return "of " + ", ".join(o.words for o in origins if o is not None)
