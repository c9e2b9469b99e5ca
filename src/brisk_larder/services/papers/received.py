"""A parcel from another household taken in: new lots that go on from where they had aged to."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import day_start_s, local_day
from ...core.hand.origins import Origin
from ...core.seed.pieces import SEED
from ...data.acts import Recorder
from ...data.queries import key, live
from ...data.tables import (
    Cohort,
    Household,
    Lot,
    LotEvent,
    Parcel,
    ParcelLine,
    Part,
    Stay,
    StockEntry,
    Trial,
    TrialCount,
    Variety,
)
from ...data.tables_stock import PACKET_WORDS
from ...formats.parcel_json import ParcelFile, ParcelLot, ParcelPart, ParcelTest, read_parcel
from ..acts.acting import Doing, act
from ..acts.ages import lifted
from ..acts.entry import known_variety
from ..acts.lot_codes import codes_in_use, free_code
from ..household.kind_types import types_typed
from ..household.kinds import UNKNOWN, Kind, Kinds, reference
from ..household.naming import guess_kind
from ..household.wording import many


@dataclass(frozen=True)
class Received:
    """The lots that came with a parcel."""

    lot_ids: list[int]
    parcel_id: int


@act("parcel_receive")
def receive(a: Doing, file_name: str, data: bytes, node_id: int | None = None) -> Received:
    """Take a parcel in as new lots, each going on from where it had aged to. All or nothing.

    Raises BadFile for what is no parcel, Conflict for one that was taken in before.
    """
    parcel = read_parcel(data, file_name)
    known = a.session.exec(live(Parcel).where(Parcel.origin == parcel.id)).first()
    if known is not None:
        raise Conflict(f"This parcel is here already, as {known.code} from {known.person}")
    home, kinds = a.home, a.kinds
    if parcel.packed_on > local_day(a.now_s, home.tz):
        raise InvalidValue("packed on", parcel.packed_on.isoformat(), "today or earlier")
    number = len(a.session.exec(select(Parcel.id)).all()) + 1
    row = Parcel(
        code=f"P-{number}",
        direction="in",
        person=parcel.household or "somebody",
        state="received",
        made_s=a.now_s,
        sent_s=day_start_s(parcel.packed_on, home.tz),
        note=parcel.note,
        origin=parcel.id,
    )
    a.session.add(row)
    a.session.flush()
    taken = codes_in_use(a.session)
    ids = [_lot_in(a, kinds, home, taken, parcel, lot, key(row), node_id) for lot in parcel.lots]
    a.about(f"parcel:{row.id}", *(f"lot:{i}" for i in ids))
    a.summary = f"Took in {many(len(ids), 'packet')} from {row.person}"
    return Received(lot_ids=ids, parcel_id=key(row))


def _lot_in(
    a: Recorder,
    kinds: Kinds,
    home: Household,
    taken: set[str],
    parcel: ParcelFile,
    new: ParcelLot,
    parcel_id: int,
    node_id: int | None,
) -> int:
    # long: one row after the other, each needs the one before
    session = a.session
    crop = new.kind if new.kind in kinds.by_key and new.kind != UNKNOWN else None
    crop = crop or guess_kind(new.kind_name, kinds)
    variety = _variety_in(session, crop, new)
    lot = Lot(
        code=free_code(home, kinds.get(crop).name, crop is not None, taken),
        note=new.note,
        seeds_per_g=new.seeds_per_g,
        form=new.form if new.form in reference().forms else "",
    )
    session.add(lot)
    session.flush()
    start_s = a.now_s
    if new.spoilt:  # its ageing has borne it already: only that it is no food is told on
        said = "spoilt before it came: never to be eaten"
        session.add(LotEvent(lot_id=key(lot), at_s=start_s, kind="treated", note=said))
    tests = 0
    for p in new.parts:
        low = day_start_s(p.origin_from, home.tz) if p.origin_from else start_s
        high = day_start_s(p.origin_to, home.tz) if p.origin_to else start_s
        cohort = Cohort(
            variety_id=key(variety),
            source="gift",
            origin_lo_s=min(low, start_s),
            origin_hi_s=max(min(high, start_s), min(low, start_s)),
            record_from_s=_record_s(p, kinds.get(crop), lot.form, home, start_s),
            year_guessed=int(p.origin_from is None),
            stated_germination=p.stated_germination,
            person_from=parcel.household,
            crossed_risk=int(p.crossed_risk),
            from_kitchen=int(p.from_kitchen),
            description="" if crop else new.kind_name,
        )
        session.add(cohort)
        session.flush()
        part = Part(
            lot_id=key(lot),
            cohort_id=key(cohort),
            share_mean=p.share,
            share_sd=p.share_sd,
            from_s=start_s,
            start_a_probit=p.a_probit,
            start_sd_log10_a=p.sd_log10_a,
            start_erh25=p.erh25,
        )
        session.add(part)
        for t in p.tests:
            tests += 1
            _test_in(a, home, lot, tests, t)
    if node_id is not None:
        session.add(Stay(lot_id=lot.id, parent_node_id=node_id, from_s=a.now_s))
    _amount_in(a, lot, new, parcel_id)
    return key(lot)


def _variety_in(session: Session, crop: str | None, new: ParcelLot) -> Variety:
    name = new.variety or new.kind_name or "unnamed"
    breeding = "hybrid" if new.hybrid else "open"
    types = types_typed(crop, new.kind_name, name)
    variety = known_variety(session, crop, name, breeding, new.treated, types)
    if variety is None:
        variety = Variety(
            crop=crop, name=name, breeding=breeding, treated=int(new.treated), types=types
        )
        for field in PACKET_WORDS:
            setattr(variety, field, new.packet.get(field, ""))
        session.add(variety)
        session.flush()
    return variety


def _test_in(a: Recorder, home: Household, lot: Lot, number: int, t: ParcelTest) -> None:
    """A test that the giver made: closed, with the ageing that the seed had when it was sown."""
    trial = Trial(
        code=f"{lot.code}-{number}",
        lot_id=key(lot),
        sown_s=min(day_start_s(t.day, home.tz), a.now_s),
        n=t.seeds,
        medium=t.medium,
        temperature_c=t.temperature_c,
        weight=t.weight,
        closed_s=a.now_s,
        a_probit=t.a_probit,
    )
    a.session.add(trial)
    a.session.flush()
    a.session.add(TrialCount(trial_id=key(trial), at_s=a.now_s, normal=min(t.viable, t.seeds)))


def _record_s(p: ParcelPart, kind: Kind, form: str, home: Household, now_s: int) -> int:
    """Where the record of what came begins: of seed with today, for how far it aged is told; of pieces when
    they were lifted."""
    if form == SEED:
        return now_s
    origin = None
    if p.origin_from is not None and p.origin_to is not None:
        origin = Origin(p.origin_from, p.origin_to)
    return lifted(origin, kind, form, home, now_s).record_s


def _amount_in(a: Recorder, lot: Lot, new: ParcelLot, parcel_id: int) -> None:
    """What came, in the lot's ledger and on the parcel's list."""
    session = a.session
    entry = StockEntry(
        lot_id=key(lot),
        at_s=a.now_s,
        kind="found",
        seeds_mean=new.seeds,
        seeds_sd=new.seeds_sd,
        as_said=new.as_said,
        ref=f"parcel:{parcel_id}",
    )
    session.add(entry)
    session.flush()
    session.add(
        ParcelLine(
            parcel_id=parcel_id,
            lot_id=key(lot),
            seeds_mean=new.seeds,
            seeds_sd=new.seeds_sd,
            as_said=new.as_said,
            entry_id=entry.id,
        )
    )
