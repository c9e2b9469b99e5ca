"""The stock out to CSV, nothing lost."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, select

from ...data.queries import key, live
from ...data.tables import Cohort, Earmark, Lot, Part, StockEntry, Variety
from ...data.tables_stock import PACKET
from ...formats.stock_csv import write_stock
from ..air.air import Air
from ..air.look import looking_at
from ..household.kinds import load_kinds
from ..household.larder import Larder, is_live
from ..household.lot_quantity import seeds_left

SEPARATOR = " / "


def _place(air: Air, node_id: int) -> tuple[str, str]:
    chain = [air.nodes[n] for n in reversed(air.chain(node_id))]
    kinds = [n.place_kind or n.container_kind or "" for n in chain]
    return SEPARATOR.join(n.name for n in chain), SEPARATOR.join(kinds)


def _largest_first(row: tuple[Part, Cohort, Variety]) -> tuple[float, int]:
    return -row[0].share_mean, key(row[0])


def stock_rows(session: Session, air: Air) -> list[dict[str, Any]]:
    """One row of values for each living part of each lot in hand, by code."""
    # long: one column after the other of the file
    lots = [x for x in session.exec(select(Lot)) if is_live(x) and x.state != "gone"]
    seeds = seeds_left(session, [key(x) for x in lots])
    kinds = load_kinds(session)
    codes_of: dict[int, str] = {}
    parts: dict[int, list[tuple[Part, Cohort, Variety]]] = {}
    for part, code, cohort, variety in session.exec(
        select(Part, Lot.code, Cohort, Variety)
        .join(Lot, col(Part.lot_id) == Lot.id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(col(Part.deleted_s).is_(None))
        .order_by(col(Part.id))
    ):
        codes_of.setdefault(part.cohort_id, code)
        if part.to_s is None:
            parts.setdefault(part.lot_id, []).append((part, cohort, variety))
    said_last = {
        entry.lot_id: entry
        for entry in session.exec(
            live(StockEntry).order_by(col(StockEntry.at_s), col(StockEntry.id))
        )
    }
    aside: dict[int, list[str]] = {}
    for mark_ in session.exec(live(Earmark)):
        said = f"{mark_.intended_use}:{mark_.seeds_mean!r}"
        aside.setdefault(mark_.lot_id, []).append(said)
    out = []
    for lot in sorted(lots, key=lambda x: x.code):
        stays = air.lot_stays.get(key(lot), [])
        stay = stays[-1] if stays and stays[-1].to_s is None else None
        have = seeds[key(lot)]
        last = said_last.get(key(lot))
        for part, cohort, variety in sorted(parts.get(key(lot), []), key=_largest_first):
            path, place_kinds = _place(air, stay.parent_node_id) if stay else ("", "")
            mother = cohort.mother_cohort_id
            row = {
                "code": lot.code,
                "kind": variety.crop or "",
                "kind_name": kinds.get(variety.crop).name,
                "variety": variety.name,
                "breeding": variety.breeding,
                "kept_line": variety.kept_line,
                "treated": variety.treated,
                "description": cohort.description,
                "source": cohort.source,
                "person_from": cohort.person_from,
                "seller": cohort.seller,
                "price": cohort.price,
                "crossed_risk": cohort.crossed_risk,
                "from_kitchen": cohort.from_kitchen,
                "origin_from": cohort.origin_lo_s,
                "origin_to": cohort.origin_hi_s,
                "year_guessed": cohort.year_guessed,
                "record_from": cohort.record_from_s,
                "stated_germination": cohort.stated_germination,
                "mother_code": codes_of.get(mother, "") if mother else "",
                "share": part.share_mean,
                "share_sd": part.share_sd,
                "start_a_probit": part.start_a_probit,
                "start_sd_log10_a": part.start_sd_log10_a,
                "start_erh25": part.start_erh25,
                "seeds": have.mean if have.known else None,
                "seeds_sd": have.sd if have.known else None,
                "counted": last.at_s if last else None,
                "as_said": last.as_said if last else "",
                "seeds_per_g": lot.seeds_per_g,
                "intended_use": lot.intended_use,
                "set_aside": "; ".join(aside.get(key(lot), [])),
                "state": lot.state,
                "tags": lot.tags,
                "note": lot.note,
                "place": path,
                "place_kinds": place_kinds,
                "section": stay.section if stay else "",
                "slot": stay.slot if stay else "",
                "wrapper_kind": stay.wrapper_kind if stay else "",
                "here_since": stay.from_s if stay else None,
                "types": variety.types,
                "stated_as": cohort.stated_as,
                "as_typed": lot.as_typed,
                "form": lot.form,
                "since": ("told" if stay is not stays[0] else stay.since) if stay else "",
                "packet_note": variety.packet_note,
            }
            out.append(row | {f: getattr(variety, f) for f in PACKET})
    return out


def stock_csv(larder: Larder) -> str:
    """The stock as CSV from which it can be brought in again."""
    with looking_at(larder) as v:
        air = v.air
        return write_stock(stock_rows(v.session, air))
