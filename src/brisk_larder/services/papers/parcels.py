"""Giving away: promise, pack, send; take in what another household sent, its past kept."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, col, select

from ...core.errors import Conflict, InvalidValue
from ...core.needs import others_can_give, reserve
from ...core.units import day_start_s, local_day
from ...data.acts import ActRef, Recorder
from ...data.queries import key
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
from ...formats.parcel_json import (
    FORMAT,
    VERSION,
    ParcelFile,
    ParcelLot,
    ParcelPart,
    ParcelTest,
    read_parcel,
    write_parcel,
)
from ..acts.acting import Doing, Done, act
from ..acts.codes import codes_in_use, free_code
from ..acts.entry import PACKET, PACKET_WORDS, known_variety
from ..acts.ledger import leaving
from ..acts.lot_acts import spoilt_lots
from ..air.air import Air
from ..forecast.counts import all_tests
from ..forecast.outlook import outlook, whole_outlook
from ..forecast.rebuild import bring_up_to_date
from ..forecast.sowing import seed_success, sowing_of
from ..household.kinds import UNKNOWN, Kinds, guess_kind, load_kinds
from ..household.larder import Larder, household, is_live, today
from ..household.quantity import check_in_hand, earmarks, seeds_left
from ..household.told import get_live


def reserve_of(larder: Larder, lot_id: int) -> int:
    """Seeds that must stay in a lot: the mothers of its line that no other lot of it can give."""
    look = whole_outlook(larder)
    with larder.store.read() as session:
        home = household(session)
        seeds = seeds_left(session, [r.part.lot_id for r in look.rows])
        held = {
            x.id for x in session.exec(select(Lot).where(Lot.state == "here")) if is_live(x)
        } | {lot_id}
    index = next((i for i, r in enumerate(look.rows) if r.part.lot_id == lot_id), None)
    if index is None or not look.rows[index].variety.kept_line:
        return 0
    row = look.rows[index]
    sowing = sowing_of(row.kind, today(larder, home), home)
    at, setting = (sowing[0], sowing[1]) if sowing else (None, None)

    def keeps(i: int) -> tuple[int, int]:
        row, have = look.rows[i], seeds[look.rows[i].part.lot_id].whole
        one = seed_success(look, i, at if at is not None else row.start_s, setting)
        mothers, kept = row.kind.crop.min_plants_viable, bool(row.variety.kept_line)
        return reserve(mothers, one, home.line_confidence, have, kept), have

    others = [
        keeps(i)
        for i, r in enumerate(look.rows)
        if i != index and r.variety.id == row.variety.id and r.part.lot_id in held
    ]
    if others_can_give(others):
        return 0
    return keeps(index)[0]


@dataclass(frozen=True)
class Promised:
    """The parcel it was promised in."""

    parcel_id: int
    code: str


@act("parcel_promise")
def promise(
    a: Doing, person: str, lots: dict[int, str], note: str = "",
    parcel_id: int | None = None,
) -> Promised:  # fmt: skip
    """Promise amounts of lots to somebody (a new parcel, or more into an open one).

    Raises InvalidValue for nobody, nothing, or more than there is.
    """
    if not person.strip() and parcel_id is None:
        raise InvalidValue("for whom", person, "a name")
    if not lots:
        raise InvalidValue("lots", 0, "at least one")
    if parcel_id is None:
        number = len(a.session.exec(select(Parcel.id)).all()) + 1
        parcel = Parcel(
            code=f"P-{number}", person=person.strip(), made_s=a.now_s, note=note.strip()
        )
    else:
        parcel = get_live(a.session, Parcel, parcel_id, "parcel")
        if parcel.state != "promised":
            raise Conflict(f"{parcel.code} is {parcel.state}: make a new one")
    a.session.add(parcel)
    a.session.flush()
    codes = []
    for lot_id, amount in lots.items():
        lot = get_live(a.session, Lot, lot_id, "lot")
        mean, sd = leaving(a.session, lot_id, amount)
        a.session.add(
            ParcelLine(
                parcel_id=parcel.id or 0, lot_id=lot_id, seeds_mean=mean, seeds_sd=sd,
                as_said=amount.strip(),
            )
        )  # fmt: skip
        codes.append(lot.code)
        a.about(f"lot:{lot_id}")
    a.about(f"parcel:{parcel.id}")
    a.summary = f"Promised {', '.join(codes)} to {parcel.person}"
    return Promised(parcel_id=key(parcel), code=parcel.code)


@dataclass(frozen=True)
class ParcelPacked:
    """What was said against packing it."""

    warnings: list[str]


def pack(larder: Larder, ref: ActRef, parcel_id: int, anyway: bool = False) -> ParcelPacked:
    """Take a parcel's amounts out of their lots. Below a line's reserve it warns (Conflict) unless
    ``anyway``. Raises InvalidValue for more than there is."""
    with larder.store.read() as session:
        rows = [
            x for x in session.exec(select(ParcelLine).where(ParcelLine.parcel_id == parcel_id)) if is_live(x)
        ]  # fmt: skip
    reserves = {x.lot_id: reserve_of(larder, x.lot_id) for x in rows}
    return _pack(larder, ref, parcel_id, rows, reserves, anyway)


@act("parcel_pack")
def _pack(
    a: Doing, parcel_id: int, rows: list[ParcelLine], reserves: dict[int, int], anyway: bool
) -> ParcelPacked:
    parcel = get_live(a.session, Parcel, parcel_id, "parcel")
    if parcel.state != "promised":
        raise Conflict(f"{parcel.code} is {parcel.state} already")
    warnings = []
    for x in rows:
        lot = get_live(a.session, Lot, x.lot_id, "lot")
        check_in_hand(a.session, x.lot_id, x.seeds_mean, "quantity", x.as_said)
        have = seeds_left(a.session, [x.lot_id])[x.lot_id]
        left = have.mean - x.seeds_mean
        aside = earmarks(a.session).get(x.lot_id, 0.0)
        if have.known and left < reserves[x.lot_id]:
            warnings.append(
                f"{lot.code}: {left:.0f} seeds would be left, its line needs "
                f"{reserves[x.lot_id]} for its mothers."
            )
        elif have.known and left < aside:
            warnings.append(f"{lot.code}: {aside:.0f} are set aside, {left:.0f} would be left.")
    if warnings and not anyway:
        raise Conflict(" ".join(warnings), warnings=warnings)
    for x in rows:
        entry = StockEntry(
            lot_id=x.lot_id, at_s=a.now_s, kind="given", seeds_mean=x.seeds_mean,
            seeds_sd=x.seeds_sd, as_said=x.as_said, ref=f"parcel:{parcel_id}",
        )  # fmt: skip
        a.session.add(entry)
        a.session.flush()
        mine = get_live(a.session, ParcelLine, x.id or 0, "line of a parcel")
        mine.entry_id = entry.id
        a.session.add(mine)
        a.about(f"lot:{x.lot_id}")
    parcel.state = "packed"
    a.session.add(parcel)
    a.about(f"parcel:{parcel_id}")
    a.summary = f"Packed {parcel.code} for {parcel.person}"
    return ParcelPacked(warnings)


@act("parcel_send")
def send(a: Doing, parcel_id: int) -> Done:
    """It is on its way. Raises Conflict unless it is packed."""
    parcel = get_live(a.session, Parcel, parcel_id, "parcel")
    if parcel.state != "packed":
        raise Conflict(f"{parcel.code} is {parcel.state}: pack it first")
    parcel.state, parcel.sent_s = "sent", a.now_s
    a.session.add(parcel)
    a.about(f"parcel:{parcel_id}")
    a.summary = f"Sent {parcel.code} to {parcel.person}"
    return Done()


def parcel_file(larder: Larder, parcel_id: int) -> tuple[str, str]:
    """(file name, text) of a packed parcel as JSON. Raises NotFound and Conflict."""
    bring_up_to_date(larder)
    with larder.store.read() as session:
        home, kinds = household(session), load_kinds(session)
        parcel = get_live(session, Parcel, parcel_id, "parcel")
        if parcel.state == "promised":
            raise Conflict(f"{parcel.code} is only promised: pack it first")
        rows = [
            x for x in session.exec(select(ParcelLine).where(ParcelLine.parcel_id == parcel_id)) if is_live(x)
        ]  # fmt: skip
        air = Air(session, home, larder.now_s())
        lots = [_lot_out(session, air, kinds, home, x) for x in rows]
        # the same parcel written twice is the same parcel to whoever takes it in
        identity = f"{home.name}:{parcel.code}:{parcel.made_s}".encode()
        made = ParcelFile(
            format=FORMAT, version=VERSION, id=hashlib.sha256(identity).hexdigest()[:24], household=home.name,
            packed_on=local_day(larder.now_s(), home.tz), to=parcel.person, note=parcel.note, lots=lots,
        )  # fmt: skip
    return f"parcel-{parcel.code}.json", write_parcel(made)


def _lot_out(session: Session, air: Air, kinds: Kinds, home: Household, x: ParcelLine) -> ParcelLot:
    lot = get_live(session, Lot, x.lot_id, "lot")
    look = outlook(session, air, kinds, [x.lot_id])
    whole = look.blends[0].parts if 0 in look.blends else look
    tests = [
        t for t in all_tests(session, [s.lot_id for r in whole.rows for s in r.steps], air.now_s)
        if t.trial.closed_s is not None and t.count is not None and t.n > 0
    ]  # fmt: skip
    parts = []
    for i, row in enumerate(whole.rows):
        c = row.cohort
        lots_behind = {s.lot_id for s in row.steps}

        def day(at_s: int | None) -> object:
            return None if at_s is None else local_day(at_s, home.tz)

        parts.append(
            ParcelPart(
                share=row.part.share_mean, share_sd=row.part.share_sd,
                origin_from=None if c.year_guessed else day(c.origin_lo_s),
                origin_to=None if c.year_guessed else day(c.origin_hi_s),
                source=c.source, stated_germination=c.stated_germination,
                crossed_risk=bool(c.crossed_risk), from_kitchen=bool(c.from_kitchen),
                a_probit=round(float(whole.state.a_probit[i]), 6),
                sd_log10_a=round(float(whole.state.sd_log10_a[i]), 6),
                erh25=round(float(whole.state.erh25[i]), 5),
                tests=[
                    ParcelTest(
                        day=local_day(t.trial.sown_s, home.tz), seeds=t.n, viable=t.viable,
                        a_probit=round(
                            t.trial.a_probit if t.trial.a_probit is not None
                            else float(whole.a_at(i, np.array([float(t.trial.sown_s)]))[0]), 6),
                        medium=t.trial.medium, temperature_c=t.trial.temperature_c,
                        weight=t.trial.weight,
                    )
                    for t in tests if t.trial.lot_id in lots_behind and len(whole.rows) == 1
                ],
            )
        )  # fmt: skip
    v, kind = whole.rows[0].variety, whole.rows[0].kind
    printed = get_live(session, Variety, v.id, "variety")
    packet = {f: str(getattr(printed, f)) for f in PACKET if getattr(printed, f)}
    g = look.g_at(0, np.array([float(air.now_s)]))
    middle = float((g.g[0] * g.weight[0]).sum() / g.weight[0].sum())
    return ParcelLot(
        code=lot.code, kind=kind.key if kind.known else "", kind_name=kind.name, variety=v.name,
        hybrid=v.breeding == "hybrid", treated=any(r.variety.treated for r in whole.rows),
        spoilt=x.lot_id in spoilt_lots(session, [x.lot_id]), note=lot.note, seeds=x.seeds_mean,
        seeds_sd=x.seeds_sd, as_said=x.as_said, seeds_per_g=lot.seeds_per_g, packet=packet,
        germination_now=[round(middle, 3)], parts=parts,
    )  # fmt: skip


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
    known = a.session.exec(
        select(Parcel).where(Parcel.origin == parcel.id, col(Parcel.deleted_s).is_(None))
    ).first()
    if known is not None:
        raise Conflict(f"This parcel is here already, as {known.code} from {known.person}")
    home, kinds = a.home, a.kinds
    if parcel.packed_on > local_day(a.now_s, home.tz):
        raise InvalidValue("packed on", parcel.packed_on.isoformat(), "today or earlier")
    number = len(a.session.exec(select(Parcel.id)).all()) + 1
    row = Parcel(
        code=f"P-{number}", direction="in", person=parcel.household or "somebody",
        state="received", made_s=a.now_s, sent_s=day_start_s(parcel.packed_on, home.tz),
        note=parcel.note, origin=parcel.id,
    )  # fmt: skip
    a.session.add(row)
    a.session.flush()
    taken = codes_in_use(a.session)
    ids = [_lot_in(a, kinds, home, taken, parcel, lot, row.id or 0, node_id) for lot in parcel.lots]
    a.about(f"parcel:{row.id}", *(f"lot:{i}" for i in ids))
    a.summary = f"Took in {len(ids)} lots from {row.person}"
    return Received(lot_ids=ids, parcel_id=key(row))


def _lot_in(
    a: Recorder, kinds: Kinds, home: Household, taken: set[str], parcel: ParcelFile, new: ParcelLot,
    parcel_id: int, node_id: int | None,
) -> int:  # fmt: skip
    session = a.session
    crop = new.kind if new.kind in kinds.by_key and new.kind != UNKNOWN else None
    crop = crop or guess_kind(new.kind_name, kinds)
    name = new.variety or new.kind_name or "unnamed"
    breeding = "hybrid" if new.hybrid else "open"
    variety = known_variety(session, crop, name, breeding, new.treated)
    if variety is None:
        variety = Variety(crop=crop, name=name, breeding=breeding, treated=int(new.treated))
        for field in PACKET_WORDS:
            setattr(variety, field, new.packet.get(field, ""))
        session.add(variety)
        session.flush()
    lot = Lot(
        code=free_code(home, kinds.get(crop).name, crop is not None, taken), note=new.note,
        seeds_per_g=new.seeds_per_g,
    )  # fmt: skip
    session.add(lot)
    session.flush()
    start_s = a.now_s
    if new.spoilt:  # its ageing has borne it already: only that it is no food is told on
        said = "spoilt before it came: never to be eaten"
        session.add(LotEvent(lot_id=lot.id or 0, at_s=start_s, kind="treated", note=said))
    made = []
    tests = 0
    for p in new.parts:
        low = day_start_s(p.origin_from, home.tz) if p.origin_from else start_s
        high = day_start_s(p.origin_to, home.tz) if p.origin_to else start_s
        cohort = Cohort(
            variety_id=variety.id or 0, source="gift", origin_lo_s=min(low, start_s),
            origin_hi_s=max(min(high, start_s), min(low, start_s)), record_from_s=start_s,
            year_guessed=int(p.origin_from is None), stated_germination=p.stated_germination,
            person_from=parcel.household, crossed_risk=int(p.crossed_risk),
            from_kitchen=int(p.from_kitchen), description="" if crop else new.kind_name,
        )  # fmt: skip
        session.add(cohort)
        session.flush()
        part = Part(
            lot_id=lot.id or 0, cohort_id=cohort.id or 0, share_mean=p.share, share_sd=p.share_sd,
            from_s=start_s, start_a_probit=p.a_probit, start_sd_log10_a=p.sd_log10_a,
            start_erh25=p.erh25,
        )  # fmt: skip
        session.add(part)
        session.flush()
        made.append(part.id or 0)
        for t in p.tests:
            tests += 1
            sown = min(day_start_s(t.day, home.tz), start_s)
            trial = Trial(
                code=f"{lot.code}-{tests}", lot_id=lot.id or 0, sown_s=sown, n=t.seeds, medium=t.medium,
                temperature_c=t.temperature_c, weight=t.weight, closed_s=start_s,
                a_probit=t.a_probit,
            )  # fmt: skip
            session.add(trial)
            session.flush()
            session.add(
                TrialCount(trial_id=trial.id or 0, at_s=start_s, normal=min(t.viable, t.seeds))
            )
    if node_id is not None:
        session.add(Stay(lot_id=lot.id, parent_node_id=node_id, from_s=start_s))
    entry = StockEntry(
        lot_id=lot.id or 0, at_s=start_s, kind="found", seeds_mean=new.seeds, seeds_sd=new.seeds_sd,
        as_said=new.as_said, ref=f"parcel:{parcel_id}",
    )  # fmt: skip
    session.add(entry)
    session.flush()
    session.add(
        ParcelLine(
            parcel_id=parcel_id, lot_id=lot.id or 0, seeds_mean=new.seeds, seeds_sd=new.seeds_sd,
            as_said=new.as_said, entry_id=entry.id,
        )
    )  # fmt: skip
    return lot.id or 0


@act("parcel_drop")
def drop_parcel(a: Doing, parcel_id: int) -> Done:
    """Take a promise back. Raises Conflict once it is packed: undo the packing first."""
    parcel = get_live(a.session, Parcel, parcel_id, "parcel")
    if parcel.state != "promised":
        raise Conflict(f"{parcel.code} is {parcel.state}: take the packing back first")
    for x in a.session.exec(select(ParcelLine).where(ParcelLine.parcel_id == parcel_id)):
        x.deleted_s = a.now_s
        a.session.add(x)
    parcel.deleted_s = a.now_s
    a.session.add(parcel)
    a.summary = f"Took back the promise to {parcel.person}"
    return Done()
