"""Giving away: promise, pack, send; take in what another household sent, its past kept."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import local_day
from ...core.needs.seed_needed import line_reserve
from ...core.seed.plants import Seed
from ...data.acts import ActRef
from ...data.queries import key, live
from ...data.tables import Household, Lot, Parcel, ParcelLine, StockEntry, Variety
from ...data.tables_stock import PACKET
from ...formats.parcel_json import (
    FORMAT,
    VERSION,
    ParcelFile,
    ParcelLot,
    ParcelPart,
    ParcelTest,
    write_parcel,
)
from ..acts.acting import Doing, Done, act
from ..acts.ask_before import packing
from ..acts.ledger import leaving
from ..air.air import Air
from ..air.look import looking_at
from ..forecast.counts import all_tests
from ..forecast.current import bring_up_to_date, whole_outlook
from ..forecast.outlook import outlook
from ..forecast.sowing import seed_of, sowing_of
from ..household.kinds import Kinds
from ..household.larder import Larder, is_live, today
from ..household.lineage import spoilt_lots
from ..household.lot_quantity import check_in_hand, earmarks, promised, seeds_left
from ..household.possible_values import get_live


def reserve_of(larder: Larder, lot_id: int) -> int:
    """Seeds that must stay in a lot for the mothers of its line: the rule that Needs has, so that two lots of
    a line, each of which could give them, are not both given away."""
    look = whole_outlook(larder)
    with looking_at(larder) as v:
        home = v.home
        seeds = seeds_left(v.session, [r.part.lot_id for r in look.rows])
        held = {
            x.id for x in v.session.exec(select(Lot).where(Lot.state == "here")) if is_live(x)
        } | {lot_id}
    index = next((i for i, r in enumerate(look.rows) if r.part.lot_id == lot_id), None)
    if index is None or not look.rows[index].variety.kept_line:
        return 0
    row = look.rows[index]
    sowing = sowing_of(row.kind, today(larder, home), home)
    at, setting = (sowing[0], sowing[1]) if sowing else (None, None)

    def lot(i: int) -> tuple[Seed, int]:
        one = seed_of(look, i, at if at is not None else look.rows[i].start_s, setting)
        return one, seeds[look.rows[i].part.lot_id].whole

    line = [
        i
        for i, r in enumerate(look.rows)
        if r.variety.id == row.variety.id and r.part.lot_id in held
    ]
    mothers = row.kind.crop.min_plants_viable
    keep = line_reserve([lot(i) for i in line], mothers, home.line_confidence)
    return keep[line.index(index)]


@dataclass(frozen=True)
class Promised:
    """The parcel it was promised in."""

    parcel_id: int
    code: str


@act("parcel_promise")
def promise(
    a: Doing,
    person: str,
    lots: dict[int, str],
    note: str = "",
    parcel_id: int | None = None,
) -> Promised:
    """Promise amounts of lots to somebody (a new parcel, or more into an open one).

    Raises InvalidValue for nobody, nothing, or more than there is.
    """
    if not person.strip() and parcel_id is None:
        raise InvalidValue("for whom", person, "a name")
    if not lots:
        raise InvalidValue("packets", 0, "at least one")
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
        before = promised(a.session).get(lot_id, 0.0)
        if before:  # no seed is promised twice
            beside = f"{amount.strip()} beside {before:.0f} promised"
            check_in_hand(a.session, lot_id, mean + before, "quantity", beside)
        a.session.add(
            ParcelLine(
                parcel_id=key(parcel),
                lot_id=lot_id,
                seeds_mean=mean,
                seeds_sd=sd,
                as_said=amount.strip(),
            )
        )
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
    with looking_at(larder) as v:
        rows = [*v.session.exec(live(ParcelLine).where(ParcelLine.parcel_id == parcel_id))]
    reserves = {x.lot_id: reserve_of(larder, x.lot_id) for x in rows}
    said = packing(larder, [x.lot_id for x in rows])
    return _pack(larder, ref, parcel_id, rows, reserves, said, anyway)


@act("parcel_pack")
def _pack(
    a: Doing,
    parcel_id: int,
    rows: list[ParcelLine],
    reserves: dict[int, int],
    said: list[str],
    anyway: bool,
) -> ParcelPacked:
    parcel = get_live(a.session, Parcel, parcel_id, "parcel")
    if parcel.state != "promised":
        raise Conflict(f"{parcel.code} is {parcel.state} already")
    warnings = [*said]
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
            lot_id=x.lot_id,
            at_s=a.now_s,
            kind="given",
            seeds_mean=x.seeds_mean,
            seeds_sd=x.seeds_sd,
            as_said=x.as_said,
            ref=f"parcel:{parcel_id}",
        )
        a.session.add(entry)
        a.session.flush()
        mine = get_live(a.session, ParcelLine, key(x), "line of a parcel")
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
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        parcel = get_live(v.session, Parcel, parcel_id, "parcel")
        if parcel.state == "promised":
            raise Conflict(f"{parcel.code} is only promised: pack it first")
        rows = [*v.session.exec(live(ParcelLine).where(ParcelLine.parcel_id == parcel_id))]
        air = v.air
        lots = [_lot_out(v.session, air, kinds, home, x) for x in rows]
        # the same parcel written twice is the same parcel to whoever takes it in
        identity = f"{home.name}:{parcel.code}:{parcel.made_s}".encode()
        made = ParcelFile(
            format=FORMAT,
            version=VERSION,
            id=hashlib.sha256(identity).hexdigest()[:24],
            household=home.name,
            packed_on=local_day(larder.now_s(), home.tz),
            to=parcel.person,
            note=parcel.note,
            lots=lots,
        )
    return f"parcel-{parcel.code}.json", write_parcel(made)


def _lot_out(session: Session, air: Air, kinds: Kinds, home: Household, x: ParcelLine) -> ParcelLot:
    # long: one field after the other of the file
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
                share=row.part.share_mean,
                share_sd=row.part.share_sd,
                origin_from=None if c.year_guessed else day(c.origin_lo_s),
                origin_to=None if c.year_guessed else day(c.origin_hi_s),
                source=c.source,
                stated_germination=c.stated_germination,
                crossed_risk=bool(c.crossed_risk),
                from_kitchen=bool(c.from_kitchen),
                a_probit=round(float(whole.state.a_probit[i]), 6),
                sd_log10_a=round(float(whole.state.sd_log10_a[i]), 6),
                erh25=round(float(whole.state.erh25[i]), 5),
                tests=[
                    ParcelTest(
                        day=local_day(t.trial.sown_s, home.tz),
                        seeds=t.n,
                        viable=t.viable,
                        a_probit=round(
                            t.trial.a_probit
                            if t.trial.a_probit is not None
                            else float(whole.a_at(i, np.array([float(t.trial.sown_s)]))[0]),
                            6,
                        ),
                        medium=t.trial.medium,
                        temperature_c=t.trial.temperature_c,
                        weight=t.trial.weight,
                    )
                    for t in tests
                    if t.trial.lot_id in lots_behind and len(whole.rows) == 1
                ],
            )
        )
    v, kind = whole.rows[0].variety, whole.rows[0].kind
    printed = get_live(session, Variety, v.id, "variety")
    packet = {f: str(getattr(printed, f)) for f in PACKET if getattr(printed, f)}
    g = look.g_at(0, np.array([float(air.now_s)]))
    middle = float(g.mean())
    return ParcelLot(
        code=lot.code,
        kind=kind.key if kind.known else "",
        kind_name=kind.name,
        variety=v.name,
        form=lot.form,
        hybrid=v.breeding == "hybrid",
        treated=any(r.variety.treated for r in whole.rows),
        spoilt=x.lot_id in spoilt_lots(session, [x.lot_id]),
        note=lot.note,
        seeds=x.seeds_mean,
        seeds_sd=x.seeds_sd,
        as_said=x.as_said,
        seeds_per_g=lot.seeds_per_g,
        packet=packet,
        germination_now=[] if lot.form else [round(middle, 3)],
        parts=parts,
    )


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
