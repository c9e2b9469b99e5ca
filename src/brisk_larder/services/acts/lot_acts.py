"""What one does with a lot: move, fetch, put back, note what happened, change what is written."""

from __future__ import annotations

import json
from dataclasses import dataclass, fields
from zlib import crc32

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.hand.codes import check_code
from ...core.judging.edible import TABLE, refusal
from ...data.acts import Recorder, row_json
from ...data.queries import key, live
from ...data.tables import Cohort, Lot, LotEvent, MoistureObs, Node, Part, Stay, Variety
from ...data.tables_stock import USES
from ..air.stays import end_stay, open_stay
from ..household.kinds import figures, load_kinds, reference
from ..household.larder import household
from ..household.lineage import spoilt_lots
from ..household.own_units import main_part
from ..household.possible_values import get_live, moment_on, within_records
from .acting import Doing, Done, act
from .entry import tidy_tags
from .lot_codes import codes_in_use
from .mend_seed import SeedEdit, mend_seed
from .stays_told import first_stay_began


@act("move_lot")
def move_lot(
    a: Doing,
    lot_id: int,
    node_id: int,
    wrapper_kind: str | None = None,
    at_s: int | None = None,
    section: str = "",
    slot: str = "",
    on: str = "",
) -> Done:
    """Put a lot somewhere else, from a time or day on (now when none is given). A move is no opening. One
    that stood nowhere yet may have been there "since it came", or "since about 2023".

    Raises InvalidValue when the time lies before its present stay began.
    """
    first = a.session.exec(live(Stay).where(Stay.lot_id == lot_id)).first() is None
    if first and at_s is None and on.strip():
        get_live(a.session, Lot, lot_id, "lot")
        here = first_stay_began(a, lot_id, on)
        put_lot(a, lot_id, node_id, wrapper_kind, here.from_s, section, slot, here.since)
        return Done()
    when = moment_on(on, at_s, a.home, a.now_s)
    put_lot(a, lot_id, node_id, wrapper_kind, when, section, slot)
    return Done()


def put_lot(
    a: Recorder,
    lot_id: int,
    node_id: int,
    wrapper_kind: str | None = None,
    at_s: int | None = None,
    section: str = "",
    slot: str = "",
    since: str = "told",
) -> None:
    """Within an act: a lot stands in another node from a time on. Raises as move_lot."""
    home = household(a.session)
    lot = get_live(a.session, Lot, lot_id, "lot")
    node = get_live(a.session, Node, node_id, "place or container")
    when = at_s if at_s is not None else a.now_s
    within_records("moved on", when, a.now_s, home)
    stay = open_stay(a.session, lot_id)
    wrapper = wrapper_kind or (stay.wrapper_kind if stay else home.unplaced_wrapper)
    if wrapper not in reference().storage:
        raise InvalidValue("wrapper", wrapper, ", ".join(reference().storage))
    if stay is not None:
        end_stay(a.session, stay, when, a.now_s)
    a.session.add(
        Stay(
            lot_id=lot_id,
            parent_node_id=node_id,
            wrapper_kind=wrapper,
            from_s=when,
            since=since,
            section=section.strip(),
            slot=slot.strip(),
        )
    )
    if lot.state in ("fetched", "missing"):
        lot.state = "here"
    a.session.flush()
    a.about(f"lot:{lot_id}", f"node:{node_id}")
    a.summary = f"Moved {lot.code} to {node.name}"


LOT_EVENTS = ("wet", "mould", "sprouted", "insects", "rodents", "spilled", "treated", "note")


@act("lot_event")
def log_event(a: Doing, lot_id: int, kind: str, note: str, on: str = "") -> Done:
    """Note something that happened to a lot, ``on`` a day. Raises InvalidValue for an unknown kind."""
    if kind not in LOT_EVENTS:
        raise InvalidValue("event", kind, ", ".join(LOT_EVENTS))
    lot = get_live(a.session, Lot, lot_id, "lot")
    when = moment_on(on, None, a.home, a.now_s)
    a.session.add(LotEvent(lot_id=lot_id, at_s=when, kind=kind, note=note.strip()))
    if kind == "wet":
        # known damage goes through the climate: it is damp from now on and dries behind its walls
        f = figures().moisture
        a.session.add(
            MoistureObs(
                lot_id=lot_id,
                at_s=when,
                erh25=f.wet_event_erh25,
                sd=f.wet_event_erh25_sd,
                how="stated",
            )
        )
    a.about(f"lot:{lot_id}")
    a.summary = f"{lot.code}: {kind}" + (f", {note.strip()}" if note.strip() else "")
    return Done()


STATES = {
    "here": "back in its place", "fetched": "fetched, to be put back",
    "missing": "could not be found", "gone": "let go",
}  # fmt: skip


@dataclass(frozen=True)
class LotEdit(SeedEdit):
    """What is written of a lot and of its seed; None leaves a field as it is. ``state`` gone: let it go.

    ``version``: of the lot as it was seen, against a stale page.
    """

    version: int | None = None
    note: str | None = None
    state: str | None = None
    code: str | None = None
    tags: str | None = None
    intended_use: str | None = None
    section: str | None = None
    slot: str | None = None


@act("edit_lot")
def edit_lot(a: Doing, lot_id: int, edit: LotEdit) -> Done:
    """Change what is written of a lot. Raises Conflict for a stale version, InvalidValue."""
    lot = get_live(a.session, Lot, lot_id, "lot")
    _refuse_stale(a.session, lot, edit.version)
    was = lot.code
    said = [*_edit_lot(a, lot, edit), *_edit_seed(a, lot, edit)]
    a.about(f"lot:{lot_id}")
    a.summary = f"{was}: " + (", ".join(said) or "nothing changed")
    return Done()


@act("tag_lot")
def tag_lot(a: Doing, lot_id: int, tags: str, off: bool = False) -> Done:
    """Put tags on a lot beside those it has, or take them off."""
    lot = get_live(a.session, Lot, lot_id, "lot")
    theirs, ours = ([t.strip() for t in x.split(",") if t.strip()] for x in (lot.tags, tags))
    gone = {o.lower() for o in ours}
    kept = [t for t in theirs if t.lower() not in gone] if off else [*theirs, *ours]
    lot.tags = tidy_tags(", ".join(kept))
    a.session.add(lot)
    a.about(f"lot:{lot_id}")
    a.summary = f"{lot.code}: tagged {lot.tags}" if lot.tags else f"{lot.code}: no tags any more"
    return Done()


def lot_version(session: Session, lot_id: int) -> int:
    """A number for all that the form of a lot shows: the lot, where it stands, its seed, its variety."""
    lot = session.get(Lot, lot_id)
    stay = open_stay(session, lot_id)
    _, cohort, variety = main_part(session, lot_id)
    shown = (
        lot.version if lot else 0,
        cohort.id,
        cohort.version,
        variety.id,
        variety.version,
        (stay.id, stay.section, stay.slot) if stay else None,
    )
    return crc32(repr(shown).encode())


def _refuse_stale(session: Session, lot: Lot, version: int | None) -> None:
    theirs = lot_version(session, key(lot))
    if version is not None and version != theirs:
        raise Conflict(
            f"Packet {lot.code} was changed meanwhile; look at it again before saving",
            yours=version,
            theirs=theirs,
            current=json.loads(row_json(lot)),
        )


def _edit_lot(a: Recorder, lot: Lot, edit: LotEdit) -> list[str]:
    said = []
    if edit.note is not None and edit.note != lot.note:
        lot.note = edit.note
        said.append("note")
    if edit.state is not None and edit.state != lot.state:
        if edit.state not in STATES:
            raise InvalidValue("state", edit.state, "here, fetched, missing or gone")
        lot.state = edit.state
        said.append(STATES[edit.state])
    if edit.code is not None and edit.code.strip() != lot.code:
        code = check_code(edit.code)
        if code in codes_in_use(a.session):
            raise InvalidValue("code", code, "a code that no packet has or had")
        lot.code = code
        said.append(f"now called {code}")
    if edit.tags is not None and tidy_tags(edit.tags) != lot.tags:
        lot.tags = tidy_tags(edit.tags)
        said.append(f"tagged {lot.tags}" if lot.tags else "no tags any more")
    if edit.intended_use is not None and edit.intended_use != lot.intended_use:
        if edit.intended_use not in USES:
            raise InvalidValue("meant for", edit.intended_use, ", ".join(USES))
        lot.intended_use = edit.intended_use
        refuse_unsafe(a.session, lot, edit.intended_use)
        said.append(f"meant for {lot.intended_use}")
    stay = open_stay(a.session, key(lot))
    if edit.section is not None or edit.slot is not None:
        if stay is None:
            raise InvalidValue("slot", edit.slot or edit.section, "a packet that stands somewhere")
        stay.section = stay.section if edit.section is None else edit.section.strip()
        stay.slot = stay.slot if edit.slot is None else edit.slot.strip()
        a.session.add(stay)
        said.append("position " + " ".join(filter(None, [stay.section, stay.slot])))
    a.session.add(lot)
    return said


def _edit_seed(a: Recorder, lot: Lot, edit: LotEdit) -> list[str]:
    asked = {f.name: getattr(edit, f.name) for f in fields(SeedEdit)}
    if all(value is None for value in asked.values()):
        return []
    said = mend_seed(a, lot, SeedEdit(**asked))
    if edit.treated or edit.kind is not None:
        refuse_unsafe(a.session, lot, lot.intended_use)
    return said


def refuse_unsafe(session: Session, lot: Lot, use: str) -> None:
    """Raises InvalidValue for dressed seed, or seed nobody can name, meant for food or shoots."""
    if use not in TABLE:
        return
    kinds = load_kinds(session)
    rows = session.exec(
        select(Variety)
        .join(Cohort, col(Cohort.variety_id) == Variety.id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .where(Part.lot_id == lot.id, col(Part.deleted_s).is_(None), col(Part.to_s).is_(None))
    ).all()
    here = [kinds.get(v.crop) for v in rows]
    spoilt = spoilt_lots(session, [key(lot)]).get(key(lot), "")
    found = refusal(
        use, [(k.key, k.known) for k in here], any(v.treated for v in rows), bool(spoilt)
    )
    if found is None:
        return
    code, kind_key = found
    kind = kinds.get(kind_key)
    hazard = f" ({kind.hazard})" if kind.hazard else ""
    words = {
        "dressed": "never food or shoots: this seed is dressed",
        "spoilt": f"never food or shoots after {spoilt}",
        "unknown": "never food or shoots: nobody knows its hazards",
        "not_as_shoots": f"not {kind.name} as shoots{hazard}",
    }
    raise InvalidValue("meant for", use, words[code])
