"""Splitting a lot and joining lots: parts end and begin, nothing of their past is lost."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

import numpy as np
from sqlmodel import Session

from ...core.base.errors import Conflict, InvalidValue
from ...core.hand.codes import check_code
from ...core.hand.seed_count import Seeds
from ...core.seed.mixture import Poured, mixes, shares_by_count
from ...data.acts import Recorder
from ...data.queries import key
from ...data.tables import Cohort, Lot, Node, Part, Stay, StockEntry, Variety
from ...data.tables_stock import USES
from ..acts.acting import Doing, act
from ..acts.ledger import leaving
from ..acts.lot_acts import refuse_unsafe
from ..acts.lot_codes import codes_in_use, free_code
from ..air.stays import end_stay, open_stay
from ..forecast.lines import packet_year_of
from ..household.kinds import figures, load_kinds
from ..household.larder import household
from ..household.lot_quantity import seeds_left
from ..household.own_units import kind_of_lot, parts_of
from ..household.possible_values import get_live

MOST_PARTS = 8


@dataclass(frozen=True)
class Mixing:
    """What joining lots would mix: warnings in words, and the shares of the bag by code."""

    warnings: list[str]
    shares: dict[str, float]


@dataclass(frozen=True)
class LotMade:
    """The lot that was split off."""

    lot_id: int
    code: str


@act("split")
def split_lot(
    a: Doing,
    lot_id: int,
    amount: str,
    *,
    node_id: int | None = None,
    code: str = "",
    note: str | None = None,
    intended_use: str | None = None,
) -> LotMade:
    """Part of a lot becomes a lot of its own, with the same past and its own future.

    Tests made before teach both. Raises InvalidValue for more than there is, or a code in use.
    """
    lot = get_live(a.session, Lot, lot_id, "lot")
    mean, sd = leaving(a.session, lot_id, amount)
    new = carve(a, lot, mean, sd, amount.strip(), code=code, note=note, intended_use=intended_use)
    stay = open_stay(a.session, lot_id)
    where = node_id or (stay.parent_node_id if stay else None)
    if where is not None:
        get_live(a.session, Node, where, "place or container")
        a.session.add(
            Stay(
                lot_id=new.id,
                parent_node_id=where,
                from_s=a.now_s,
                wrapper_kind=stay.wrapper_kind if stay else a.home.unplaced_wrapper,
            )
        )
    a.summary = f"Split {amount.strip()} of {lot.code} off as {new.code}"
    return LotMade(lot_id=key(new), code=new.code)


def carve(
    a: Recorder,
    lot: Lot,
    mean: float,
    sd: float,
    as_said: str,
    *,
    code: str = "",
    note: str | None = None,
    intended_use: str | None = None,
) -> Lot:
    """Within an act: a new lot out of an old one, with its parts and its entry in the ledger."""
    session = a.session
    taken = codes_in_use(session)
    if code:
        code = check_code(code)
        if code in taken:
            raise InvalidValue("code", code, "a code that no packet has or had")
    kind = kind_of_lot(session, key(lot))
    use = intended_use or lot.intended_use
    if use not in USES:
        raise InvalidValue("meant for", use, ", ".join(USES))
    new = Lot(
        code=code or free_code(household(session), kind.name, kind.key != "unknown", taken),
        note=lot.note if note is None else note,
        intended_use=use,
        seeds_per_g=lot.seeds_per_g,
        tags=lot.tags,
        as_typed=lot.as_typed,
        form=lot.form,
    )
    session.add(new)
    session.flush()
    made = [
        Part(
            lot_id=key(new), cohort_id=p.cohort_id, share_mean=p.share_mean,
            share_sd=p.share_sd, from_part_id=p.id, from_s=a.now_s,
        )
        for p in parts_of(session, key(lot))
    ]  # fmt: skip
    session.add_all(made)
    session.flush()
    refuse_unsafe(session, new, use)
    for one, kind_word, tie in ((lot, "split", new), (new, "found", lot)):
        session.add(
            StockEntry(
                lot_id=key(one),
                at_s=a.now_s,
                kind=kind_word,
                seeds_mean=mean,
                seeds_sd=sd,
                as_said=as_said,
                ref=f"lot:{tie.id}",
            )
        )
    session.flush()
    a.about(f"lot:{lot.id}", f"lot:{new.id}")
    return new


def mixing(session: Session, lot_ids: list[int]) -> Mixing:
    """What joining these lots would mix. Raises NotFound and InvalidValue."""
    if len(set(lot_ids)) < 2:
        raise InvalidValue("lots", len(set(lot_ids)), "two or more to join")
    lots = [get_live(session, Lot, i, "lot") for i in dict.fromkeys(lot_ids)]
    parts = {lot.id: parts_of(session, key(lot)) for lot in lots}
    if sum(len(p) for p in parts.values()) > MOST_PARTS:
        raise InvalidValue("packets", len(lots), f"at most {MOST_PARTS} different parts in one bag")
    kinds = load_kinds(session)
    seen: list[tuple[str, Variety, int | None]] = []
    for rows in parts.values():
        for part in rows:
            cohort = session.get(Cohort, part.cohort_id)
            assert cohort is not None, "a part has a cohort"
            variety = session.get(Variety, cohort.variety_id)
            assert variety is not None, "a cohort has a variety"
            year = None if cohort.year_guessed else packet_year_of(cohort)
            seen.append((kinds.get(variety.crop).name, variety, year))
    poured = [Poured(k, v.name, year, bool(v.treated), v.breeding) for k, v, year in seen]
    codes = mixes(poured, [lot.intended_use for lot in lots])
    said = [_mixed_words(code, poured, lots) for code in codes]
    shares, _ = _shares(session, lots)
    return Mixing(said, {lot.code: s for lot, s in zip(lots, shares, strict=True)})


def _mixed_words(code: str, poured: list[Poured], lots: list[Lot]) -> str:
    """One thing that would be mixed, in words."""
    match code:
        case "kinds":
            names = ", ".join(sorted({p.kind for p in poured}))
            return f"Different kinds: {names}. Nothing could tell them apart again."
        case "varieties":
            names = ", ".join(sorted({p.variety for p in poured}))
            return f"Different varieties: {names}. The line would be lost."
        case "years":
            years = ", ".join(map(str, sorted({p.year for p in poured if p.year is not None})))
            return f"Different years: {years}. The bag will fade as the mixture does."
        case "no_year":
            return "One of them has no year."
        case "dressed":
            return "Dressed with undressed seed: all of it counts as dressed."
        case "hybrid":
            return "A hybrid with seed that comes true."
        case _:
            uses = ", ".join(f"{lot.code} for {lot.intended_use}" for lot in lots)
            return f"They are meant for different uses: {uses}."


def _shares(session: Session, lots: list[Lot]) -> tuple[list[float], list[float]]:
    """Share of each lot in the bag with its sd; uncounted lots are taken as equal."""
    have = seeds_left(session, [key(lot) for lot in lots])
    seeds = [have[key(lot)] for lot in lots]
    counts = np.array([s.mean if s.known else np.nan for s in seeds])
    shares, sds = shares_by_count(
        counts, np.array([s.sd for s in seeds]), figures().belief.uncounted_share_sd
    )
    return shares.tolist(), sds.tolist()


@dataclass(frozen=True)
class Merged:
    """The lot that holds it all, and what was mixed."""

    lot_id: int
    warnings: list[str]


@act("merge")
def merge_lots(a: Doing, into_id: int, other_ids: list[int], anyway: bool = False) -> Merged:
    """Pour other lots into one. Mixed kinds, varieties or years are refused unless ``anyway``."""
    session = a.session
    ids = [into_id, *(i for i in dict.fromkeys(other_ids) if i != into_id)]
    mix = mixing(session, ids)
    if mix.warnings and not anyway:
        raise Conflict(" ".join(mix.warnings), warnings=mix.warnings)
    lots = [get_live(session, Lot, i, "lot") for i in ids]
    if len({lot.form for lot in lots}) > 1:
        raise Conflict("Seed and what is set (tubers, sets, plants) are not poured together")
    into, others = lots[0], lots[1:]
    shares, sds = _shares(session, lots)
    have = seeds_left(session, ids)
    made = []
    for lot, share, sd in zip(lots, shares, sds, strict=True):
        for part in parts_of(session, key(lot)):
            part.to_s = max(a.now_s, part.from_s + 1)
            session.add(part)
            made.append(
                Part(
                    lot_id=key(into),
                    cohort_id=part.cohort_id,
                    share_mean=part.share_mean * share,
                    share_sd=min(0.5, hypot(part.share_sd * share, sd * part.share_mean)),
                    from_part_id=part.id,
                    from_s=part.to_s,
                )
            )
    session.flush()
    session.add_all(made)
    for lot in others:
        _empty_into(a, lot, into, have[key(lot)])
    session.flush()
    a.about(*(f"lot:{i}" for i in ids))
    a.summary = f"Poured {', '.join(lot.code for lot in others)} into {into.code}"
    return Merged(lot_id=key(into), warnings=mix.warnings)


def _empty_into(a: Recorder, lot: Lot, into: Lot, have: Seeds) -> None:
    for one, kind, tie in ((lot, "split", into), (into, "joined", lot)):
        if have.known:
            a.session.add(
                StockEntry(
                    lot_id=key(one),
                    at_s=a.now_s,
                    kind=kind,
                    seeds_mean=have.mean,
                    seeds_sd=have.sd,
                    as_said="all of it",
                    ref=f"lot:{tie.id}",
                )
            )
    stay = open_stay(a.session, key(lot))
    if stay is not None:
        end_stay(a.session, stay, a.now_s, a.now_s)
    lot.state = "gone"
    a.session.add(lot)
