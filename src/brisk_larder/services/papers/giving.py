"""The giving room: parcels, people, what the stock is worth, and the slip for a parcel."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
from sqlmodel import col, select

from ...core.base.errors import NotFound
from ...core.hand.amounts import replacement_worth
from ...data.queries import key
from ...data.tables import Cohort, Lot, Parcel, ParcelLine, Part
from ...formats.labels_pdf import ListPage, lists_pdf
from ..air.look import looking_at
from ..forecast.lines import LotLine, lot_lines
from ..household.kinds import Kinds, figures
from ..household.larder import Larder, is_live
from ..household.own_units import measures_of
from ..household.wording import date_words

PLANT_HEALTH = "Before seed crosses a border, look at local plant-health and variety rules."


@dataclass(frozen=True)
class Packed:
    """One lot's amount in a parcel."""

    line_id: int
    lot_id: int
    code: str
    variety: str
    kind_name: str
    seeds: float
    as_said: str


@dataclass(frozen=True)
class ParcelView:
    """A parcel with what is in it."""

    parcel_id: int
    code: str
    direction: str
    person: str
    state: str
    made_s: int
    sent_s: int | None
    note: str
    lines: list[Packed]
    version: int


@dataclass(frozen=True)
class PersonLedger:
    """What was promised to, sent to and received from somebody: lots with their parcels."""

    person: str
    promised: list[str]
    sent: list[str]
    received: list[str]


@dataclass(frozen=True)
class Worth:
    """What the stock would cost to buy again, in the household's currency; part of it guessed."""

    total: float
    guessed_share: float
    currency: str
    packets: float
    says: str


@dataclass(frozen=True)
class GivingRoom:
    """Parcels, the people, and what the stock is worth."""

    parcels: list[ParcelView]
    people: list[PersonLedger]
    worth: Worth


def giving_room(larder: Larder) -> GivingRoom:
    """Parcels newest first, what stands with each person, what the stock is worth."""
    lines = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        codes = {x.id: x.code for x in v.session.exec(select(Lot))}
        inside: dict[int, list[ParcelLine]] = {}
        for x in v.session.exec(select(ParcelLine)):
            if is_live(x):
                inside.setdefault(x.parcel_id, []).append(x)
        parcels = []
        for p in v.session.exec(select(Parcel).order_by(col(Parcel.id).desc())):
            if not is_live(p):
                continue
            packed = [
                Packed(
                    key(x),
                    x.lot_id,
                    codes.get(x.lot_id, ""),
                    lines[x.lot_id].variety if x.lot_id in lines else "",
                    lines[x.lot_id].kind_name if x.lot_id in lines else "",
                    x.seeds_mean,
                    x.as_said,
                )
                for x in inside.get(key(p), [])
            ]
            parcels.append(
                ParcelView(
                    parcel_id=key(p),
                    code=p.code,
                    direction=p.direction,
                    person=p.person,
                    state=p.state,
                    made_s=p.made_s,
                    sent_s=p.sent_s,
                    note=p.note,
                    lines=packed,
                    version=p.version,
                )
            )
        gifts = v.session.exec(
            select(Cohort.person_from, Part.lot_id)
            .join(Part, col(Part.cohort_id) == Cohort.id)
            .where(Cohort.person_from != "", col(Part.to_s).is_(None))
        ).all()
        prices = v.session.exec(
            select(Part.lot_id, Cohort.price)
            .join(Part, col(Part.cohort_id) == Cohort.id)
            .where(col(Cohort.price).is_not(None))
        ).all()
    return GivingRoom(
        parcels,
        _people(parcels, gifts, lines),
        _worth(list(lines.values()), dict(prices), kinds, home.currency),
    )


def _people(
    parcels: list[ParcelView], gifts: Iterable[tuple[str, int]], lines: dict[int, LotLine]
) -> list[PersonLedger]:
    people: dict[str, PersonLedger] = {}

    def of(name: str) -> PersonLedger:
        return people.setdefault(name, PersonLedger(name, [], [], []))

    for p in parcels:
        for x in p.lines:
            words = f"{x.code} {x.variety}, {x.as_said or f'{x.seeds:.0f}'} ({p.code})"
            if p.direction == "in":
                of(p.person).received.append(words)
            elif p.state == "promised":
                of(p.person).promised.append(words)
            else:
                of(p.person).sent.append(words)
    told = {x.lot_id for p in parcels if p.direction == "in" for x in p.lines}
    for name, lot in gifts:
        if lot in lines and lot not in told:
            of(name).received.append(f"{lines[lot].code} {lines[lot].variety}")
    return sorted(people.values(), key=lambda x: x.person.lower())


def _worth(
    lines: list[LotLine], prices: dict[int, float | None], kinds: Kinds, currency: str
) -> Worth:
    """What the living seed would cost as packets: own prices first, of the same kind next, then a
    guess; a packet begun counts by its part."""
    f = figures().amounts
    guess = f.packet_price
    packet = [measures_of(kinds.get(x.kind)).packet_seeds or 1.0 for x in lines]
    held = [0 if x.state == "missing" else x.seeds or 0 for x in lines]
    worth = replacement_worth(
        np.array(held, dtype=float) / np.array(packet),
        np.array([x.glance.now.mid for x in lines]),
        np.array([prices.get(x.lot_id) or np.nan for x in lines], dtype=float),
        [x.kind for x in lines],
        guess,
        f.packet_worth_cap,
    )
    total, packets = worth.total, worth.packets
    share = worth.guessed / total if total else 0.0
    words = f"About {total:.0f} {currency}".rstrip() + " to buy again what is alive"
    words += (
        f"; {100 * share:.0f} % of that from a guessed price of {guess:g} a packet."
        if share
        else "."
    )
    return Worth(total, share, currency, packets, words)


def slip_rows(larder: Larder, parcel_id: int) -> tuple[ParcelView, str, list[list[str]]]:
    """What the printed slip of a parcel says, for people without the tool. Raises NotFound."""
    room = giving_room(larder)
    parcel = next((p for p in room.parcels if p.parcel_id == parcel_id), None)
    if parcel is None:
        raise NotFound(f"There is no parcel number {parcel_id}")
    lines = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        home = v.home
    rows = []
    for x in parcel.lines:
        line = lines.get(x.lot_id)
        if line is None:
            continue
        g = line.glance
        sow = ""
        if g.next_sowing_s is not None:
            sow = f"{datetime.fromtimestamp(g.next_sowing_s, UTC):%B}, {g.sowing_setting}"
        rows.append(
            [
                x.code,
                f"{line.variety} ({line.kind_name})",
                x.as_said or f"{x.seeds:.0f} seeds",
                line.origin,
                f"{100 * g.now.low:.0f}\u2013{100 * g.now.high:.0f} %",
                sow,
                "DRESSED: never eat" if line.treated else "",
            ]
        )
    return parcel, home.name, rows


def slip_pdf(larder: Larder, parcel_id: int, page: str = "A4") -> bytes:
    """The slip as PDF."""
    parcel, house, rows = slip_rows(larder, parcel_id)
    head = ["code", "what", "how much", "from", "comes up", "sow", "note"]
    day = datetime.fromtimestamp(parcel.sent_s or parcel.made_s, UTC)
    under = (
        f"{parcel.code}, {date_words(day, year=True)}. Keep it dry and cool; sow the oldest first."
    )
    said = ListPage(
        f"Seed for {parcel.person}, from {house}",
        under,
        parcel.note or PLANT_HEALTH,
        head,
        [14, 50, 24, 42, 22, 30, 24],
        rows,
    )
    return lists_pdf([said], page)
