"""The ledger of one lot: counts and uses, what it is meant for, its own seeds per gram."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col

from ...core.base.errors import InvalidValue, NotFound
from ...core.base.units import YEAR_S
from ...core.hand.amounts import Said, read_amount, scale_slipped, seeds_per_gram
from ...core.hand.seed_count import (
    LEAVES,
    NOTHING_SAID,
    Entry,
    held_when_full,
    more_than_there_is,
    use_against_life,
    use_of,
)
from ...core.hand.writing import way_of
from ...data.queries import key, live
from ...data.tables import Earmark, Lot, StockEntry
from ...data.tables_stock import USES
from ..household.kinds import figures
from ..household.larder import household, writing_here
from ..household.lot_quantity import check_in_hand, earmarks, promised, seeds_left
from ..household.own_units import kind_of_lot, measures_of, measures_of_lot
from ..household.possible_values import get_live, moment_on
from ..household.wording import prose
from .acting import Doing, Done, act
from .lot_acts import refuse_unsafe

LEDGER_WORDS = {
    "counted": "Counted", "given": "Gave away from", "eaten": "Ate from", "lost": "Lost from",
    "found": "Found more of", "thrown": "Threw out from",
}  # fmt: skip
ENTRY_WORDS = {
    "counted": "counted", "given": "given away", "eaten": "eaten", "lost": "lost", "found": "came in",
    "thrown": "thrown out", "sown": "sown", "tested": "tested", "split": "split off",
    "joined": "joined to it",
}  # fmt: skip


@dataclass(frozen=True)
class LedgerLine:
    """One entry, with the balance after it and its likely range (80 %)."""

    entry_id: int
    at_s: int
    kind: str
    words: str
    as_said: str
    seeds: float
    left: float
    left_low: float
    left_high: float


@dataclass(frozen=True)
class Balance:
    """A lot's quantity: what is left, what is set aside for another use, what goes a year."""

    seeds: float | None
    low: float
    high: float
    set_aside: dict[str, float]
    promised: float
    a_year: float | None
    years_left: float | None
    life_years: float | None
    says: str
    lines: list[LedgerLine]


def _understood(session: Session, lot_id: int, amount: str, sure: str) -> Said:
    way = way_of(household(session).locale)
    said = read_amount(amount, measures_of_lot(session, lot_id), sure, way)
    if said is None:
        raise InvalidValue(
            "quantity", amount, prose("write a count (120), a mass (3.5 g) or half left")
        )
    return said


def last_full(session: Session, lot_id: int) -> float | None:
    """What a lot held when it was last counted or came in: what "half left" is half of."""
    rows = session.exec(
        live(StockEntry)
        .where(StockEntry.lot_id == lot_id)
        .order_by(col(StockEntry.at_s), col(StockEntry.id))
    ).all()
    return held_when_full((row.kind, row.seeds_mean) for row in rows)


def counted_of(session: Session, lot_id: int, said: Said) -> tuple[float, float]:
    """Seeds and sd that a count means; a share is one of what the lot last held, or of a packet."""
    if said.seeds is not None:
        return said.seeds, said.sd
    full = last_full(session, lot_id) or measures_of_lot(session, lot_id).packet_seeds
    return (said.share or 0.0) * full, said.sd * full if said.share else 0.0


def leaving(session: Session, lot_id: int, amount: str) -> tuple[float, float]:
    """Seeds and sd of an amount that is to leave a lot; a share is one of what is there now.

    Raises InvalidValue for nothing, or for more than there is.
    """
    said = _understood(session, lot_id, amount, "")
    if said.share is not None:
        have = seeds_left(session, [lot_id])[lot_id]
        mean, sd = said.share * have.mean, said.sd * have.mean
    else:
        mean, sd = said.seeds or 0.0, said.sd
    if mean <= 0:
        raise InvalidValue("quantity", amount, "more than nothing")
    check_in_hand(session, lot_id, mean, "quantity", amount)
    return mean, sd


@dataclass(frozen=True)
class Booked:
    """What an amount was understood as."""

    seeds: float
    words: str


@act("quantity")
def book_quantity(
    a: Doing, lot_id: int, kind: str, amount: str, sure: str = "", on: str = ""
) -> Booked:
    """Count a lot, or book what was given, eaten, lost, thrown or found, ``on`` a day. ``amount`` as said.

    Eating is refused from seed that is dressed, of unknown kind, or meant for something else.
    """
    if kind not in LEDGER_WORDS:
        raise InvalidValue("kind", kind, ", ".join(LEDGER_WORDS))
    lot = get_live(a.session, Lot, lot_id, "lot")
    when = moment_on(on, None, a.home, a.now_s)
    said = _understood(a.session, lot_id, amount, sure)
    if said.seeds is None and kind != "counted":
        have = seeds_left(a.session, [lot_id])[lot_id]
        mean, sd = (said.share or 0.0) * have.mean, said.sd * have.mean
    else:
        mean, sd = counted_of(a.session, lot_id, said)
    if kind in LEAVES:
        check_in_hand(a.session, lot_id, mean, "quantity", amount)
    if kind == "eaten":
        _eat(a.session, lot, mean, amount, a.now_s)
    a.session.add(
        StockEntry(
            lot_id=lot_id,
            at_s=when,
            kind=kind,
            seeds_mean=mean,
            seeds_sd=sd,
            mass_g=said.mass_g,
            as_said=amount.strip(),
        )
    )
    if lot.state == "missing" and kind in ("counted", "found"):
        lot.state = "here"
        a.session.add(lot)
    a.about(f"lot:{lot_id}")
    a.summary = f"{LEDGER_WORDS[kind]} {lot.code}: {amount.strip()}"
    return Booked(seeds=mean, words=said.words)


def _eat(session: Session, lot: Lot, mean: float, amount: str, now_s: int) -> None:
    """Refuse what must not be eaten; draw down what was set aside for the table."""
    refuse_unsafe(session, lot, "food")
    if lot.intended_use in ("food", "shoots"):
        return
    rows = session.exec(
        live(Earmark).where(
            Earmark.lot_id == lot.id, col(Earmark.intended_use).in_(["food", "shoots"])
        )
    ).all()
    if sum(r.seeds_mean for r in rows) + 0.5 < mean:
        raise InvalidValue(
            "eaten",
            amount,
            f"{lot.code} is meant for {lot.intended_use}: set some aside for food first, or change "
            "what it is meant for",
        )
    for row in rows:
        taken = min(mean, row.seeds_mean)
        mean -= taken
        if row.seeds_mean - taken < 0.5:
            row.deleted_s = now_s
        else:
            row.seeds_mean -= taken
        session.add(row)


def refuse_sowing(session: Session, lot: Lot, seeds: float) -> None:
    """Raises InvalidValue when a lot, or too much of it, is meant for something else than sowing."""
    if lot.intended_use in ("food", "shoots", "sale"):
        raise InvalidValue(
            "sow", lot.code, f"a lot meant for seed; {lot.code} is meant for {lot.intended_use}"
        )
    have = seeds_left(session, [key(lot)])[key(lot)]
    aside = earmarks(session).get(key(lot), 0.0)
    if aside and more_than_there_is(have, seeds, figures().quantity, aside):
        raise InvalidValue(
            "seeds",
            round(seeds),
            f"at most {max(0, have.mean - aside):.0f}: {aside:.0f} are set aside for another use",
        )


@act("earmark")
def set_aside(a: Doing, lot_id: int, use: str, amount: str) -> Done:
    """Set part of a lot aside for a use; an empty amount lifts it. Raises InvalidValue."""
    if use not in USES:
        raise InvalidValue("meant for", use, ", ".join(USES))
    lot = get_live(a.session, Lot, lot_id, "lot")
    refuse_unsafe(a.session, lot, use)
    for row in a.session.exec(
        live(Earmark).where(Earmark.lot_id == lot_id, Earmark.intended_use == use)
    ):
        row.deleted_s = a.now_s
        a.session.add(row)
    a.summary = f"{lot.code}: nothing set aside for {use} any more"
    if amount.strip():
        mean = counted_of(a.session, lot_id, _understood(a.session, lot_id, amount, ""))[0]
        others = earmarks(a.session).get(lot_id, 0.0)
        check_in_hand(a.session, lot_id, mean + others, "quantity", amount)
        if mean <= 0:
            raise InvalidValue("quantity", amount, "more than nothing")
        a.session.add(
            Earmark(lot_id=lot_id, intended_use=use, seeds_mean=mean, as_said=amount.strip())
        )
        a.summary = f"{lot.code}: {amount.strip()} set aside for {use}"
    a.about(f"lot:{lot_id}")
    return Done()


@dataclass(frozen=True)
class Weighed:
    """Seeds per gram as weighed, and by the book."""

    seeds_per_g: float
    book: float


@act("weigh")
def weigh_seeds(a: Doing, lot_id: int, count: float, mass_g: float) -> Weighed:
    """The lot's own seeds per gram, from weighing so many; what was weighed before follows it.

    Raises InvalidValue for a figure far from the book's (a slip of the scale).
    """
    lot = get_live(a.session, Lot, lot_id, "lot")
    own = seeds_per_gram(count, mass_g)
    book = measures_of(kind_of_lot(a.session, lot_id), form=lot.form).seeds_per_g
    if scale_slipped(own, book, figures().amounts):
        raise InvalidValue(
            "mass",
            f"{writing_here().mass(mass_g)} for {count:g} seeds",
            f"near the book's {writing_here().mass(count / book)}: is the scale set to that unit?",
        )
    lot.seeds_per_g = own
    a.session.add(lot)
    measures = measures_of(kind_of_lot(a.session, lot_id), None, lot)
    for row in a.session.exec(
        live(StockEntry).where(StockEntry.lot_id == lot_id, col(StockEntry.mass_g).is_not(None))
    ):
        row.seeds_mean = (row.mass_g or 0.0) * own
        row.seeds_sd = measures.per_g_sd * row.seeds_mean
        a.session.add(row)
    a.about(f"lot:{lot_id}")
    here = writing_here()
    a.summary = f"{lot.code}: {here.per_gram(own)}, weighed (the book says {here.per_gram(book)})"
    return Weighed(seeds_per_g=own, book=book)


def balance(
    session: Session,
    lot_id: int,
    now_s: int,
    good_until_s: float | None,
    beyond: bool,
    spare: int,
) -> Balance:
    """The ledger of a lot with its balance, and its yearly use against the life left to it."""
    lot = session.get(Lot, lot_id)
    if lot is None:
        raise NotFound(f"There is no lot number {lot_id}")
    rows = session.exec(
        live(StockEntry)
        .where(StockEntry.lot_id == lot_id)
        .order_by(col(StockEntry.at_s), col(StockEntry.id))
    ).all()
    use = use_of(
        (Entry(r.at_s, r.kind, r.seeds_mean, r.seeds_sd) for r in rows), now_s, figures().quantity
    )
    lines = [
        LedgerLine(
            entry_id=key(row), at_s=row.at_s, kind=row.kind, words=ENTRY_WORDS[row.kind],
            as_said=row.as_said, seeds=row.seeds_mean, left=left.mean, left_low=left.likely[0],
            left_high=left.likely[1],
        )
        for row, left in zip(rows, use.after, strict=True)
    ]  # fmt: skip
    now = use.after[-1] if use.after else NOTHING_SAID
    life = None if good_until_s is None else max(0.0, (good_until_s - now_s) / YEAR_S)
    aside: dict[str, float] = {}
    for mark in session.exec(live(Earmark).where(Earmark.lot_id == lot_id)):
        aside[mark.intended_use] = aside.get(mark.intended_use, 0.0) + mark.seeds_mean
    low, high = now.likely
    return Balance(
        seeds=now.mean if now.known else None,
        low=low,
        high=high,
        set_aside=aside,
        promised=promised(session).get(lot_id, 0.0),
        a_year=use.a_year,
        years_left=use.years_left,
        life_years=life,
        says=use_words(use.years_left, life, beyond, spare),
        lines=lines[::-1],
    )


def use_words(years_left: float | None, life_years: float | None, beyond: bool, spare: int) -> str:
    """Yearly use against life left: nine years of seed, six of life; ``spare``: seeds that nothing asks
    for, by the verdict."""
    code, _ = use_against_life(years_left, life_years, beyond, figures().quantity)

    most = figures().verdict.longest_use_years

    def said(years: float | None) -> str:
        many = years or 0.0
        if many > most:
            return f"more than {most:.0f} years"
        return f"{many:.0f} years" if many >= 2 else f"{12 * many:.0f} months"

    left, life = said(years_left), said(life_years)
    return {
        "nothing": "",
        "longer": f"{left} of seed at your usual use; it keeps longer than that can be said.",
        "over": f"{left} of seed at your usual use, and its good years are over.",
        "spare": f"{left} of seed, {life} of life"
        + (f": about {spare} seeds could be given away." if spare else "."),
        "in_time": f"{left} of seed, {life} of life: you will use it in time.",
    }[code]
