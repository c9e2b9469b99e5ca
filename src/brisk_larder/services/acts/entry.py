"""Bringing seed in: a pile of packets in one act, each with only what is known of it."""

from __future__ import annotations

from dataclasses import dataclass, field

from sqlmodel import Session

from ...core.base.errors import InvalidValue
from ...core.base.units import local_day
from ...core.hand.amounts import Measures, read_amount, says_no_count
from ...core.hand.codes import check_code
from ...core.hand.origins import Origin
from ...core.hand.stay_start import began
from ...core.hand.told_tests import read_tested
from ...core.hand.writing import Way, way_of
from ...data.queries import key, live
from ...data.tables import Cohort, Household, Lot, Node, Part, Stay, StockEntry, Variety
from ...data.tables_stock import PACKET
from ..forecast.plenty import plenty
from ..forecast.wishes import wishes
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import planning_year, today
from ..household.own_units import measures_of
from ..household.possible_values import get_live, moment_on
from .acting import Doing, act
from .ages import Ages, starts_of
from .early_tests import note_told
from .lot_codes import codes_in_use, free_code
from .new_seeds import (
    NewSeeds,
    ages_with,
    check_new,
    form_said,
    origins_of,
    resolve_kind,
    typed_words,
    types_of,
)


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
    ages = ages_with(a.session, items, kinds, home, a.now_s)
    for number, item in enumerate(items, start=1):
        where = f"packet {number}, " if several else ""
        check_new(item, kinds, home, a.now_s, where, taken)
        lot = add_one(a.session, item, kinds, home, a.now_s, taken, ages)
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
    ages: Ages,
) -> Lot:
    """Write one packet (checked before) as variety, cohort, lot, part, stay and quantity.

    A bag of several years becomes one lot of several cohorts, each with its share. ``ages``: how old one
    without a year may be.
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
        form=form_said(item, kinds),
    )
    session.add(lot)
    session.flush()
    if item.mother_cohort_id is not None:
        get_live(session, Cohort, item.mother_cohort_id, "mother seed")
    starts = _add_parts(session, item, lot, variety, kind, home, now_s, ages)
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
    said = read_tested(item.tested)
    if said is not None:
        when = moment_on(item.tested_on, None, home, now_s) if item.tested_on.strip() else None
        note_told(session, key(lot), said, when, min(starts), now_s, kind)
    measures, way = measures_of(kind, variety, lot), way_of(home.locale)
    _add_quantity(session, item, lot, measures, max(starts), way, crop is not None)
    session.flush()
    return lot


def _add_parts(
    session: Session,
    item: NewSeeds,
    lot: Lot,
    variety: Variety,
    kind: Kind,
    home: Household,
    now_s: int,
    ages: Ages,
) -> list[int]:
    """One cohort and part for each origin of a packet; where the records begin."""
    origins = origins_of(item, local_day(now_s, home.tz), home)
    each: list[Origin | None] = list(origins) or [None]
    likely, starts = ages.of(variety.crop), []
    spans = starts_of(origins, kind, lot.form, item.source, home, now_s, likely)
    for origin, (low_s, high_s, start_s) in zip(each, spans, strict=True):
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
    if says_no_count(item.quantity, measures):
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
