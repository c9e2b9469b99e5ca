"""Stock: every lot at a glance, one lot in full, and what one does with a lot."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ..core.errors import InvalidValue
from ..core.units import YEAR_S, seeds_from_text
from ..data.acts import ActRef, Recorder, act, expect_version
from ..data.tables import (
    Cohort,
    Lot,
    LotEvent,
    MoistureObs,
    Node,
    Part,
    Stay,
    StockEntry,
    Variety,
)
from .checks import get_live, not_future
from .crops import Kind, Kinds, load_kinds, reference
from .forecast import mark, touch
from .glance import glances
from .glance_data import Glance
from .larder import Larder, household, remembered
from .quantity import Seeds, check_in_hand, seeds_left
from .wording import day_words
from .world import World


@dataclass(frozen=True)
class LotLine:
    """One lot in the list: what it is, how much, where, how alive, what next."""

    lot_id: int
    code: str
    kind: str
    kind_name: str
    season: str
    known_kind: bool
    grade: str
    variety: str
    hybrid: bool
    kept_line: bool
    note: str
    state: str
    source: str
    origin: str
    origin_s: float
    age_years: float
    seeds: float | None
    seeds_sd: float
    mass_g: float | None
    node_id: int | None
    place: str
    place_id: int | None
    next_act: str
    next_code: str
    urgency: int
    glance: Glance


def node_path(world: World, node: int | None) -> str:
    """Where something stands, from the place inward: Stone larder · tin 2."""
    if node is None or node not in world.nodes:
        return ""
    names = [world.nodes[node].name]
    while (parent := world.parent_now(node)) is not None:
        names.append(world.nodes[parent].name)
        node = parent
    return " · ".join(reversed(names))


def origin_words(cohort: Cohort, now_s: float) -> str:
    """How old the seed is, in words."""
    if cohort.year_guessed:
        return "year unknown"
    year = day_words(cohort.record_from_s)[-4:]
    return {"own": f"own seed of {year}", "gift": f"a gift, {year}"}.get(
        cohort.source, f"bought {year}"
    )


def next_act(
    line_seeds: Seeds, glance: Glance, sow_level: float, now_s: float
) -> tuple[str, str, int]:
    """What the keeper would do next with a lot: words, code, urgency 0 (calm) to 3."""
    advice = glance.advice
    if any(t.running for t in glance.tests):
        return "test is running", "running", 2
    if line_seeds.known and line_seeds.mean < 1:
        return "used up", "empty", 0
    year = day_words(now_s)[-4:]
    if glance.regrow_asked and (
        glance.last_safe_year is None or glance.last_safe_year <= int(year) + 1
    ):
        if glance.last_safe_year is None:
            return "regrow: not enough mothers to be safe", "regrow", 3
        return f"regrow {glance.last_safe_year}: last safe year", "regrow", 3
    if advice.wanted and advice.due_s is not None:
        soon = advice.due_s < now_s + 120 * 86_400
        return f"test {advice.seeds} seeds by {day_words(advice.due_s)}", "test", 2 if soon else 1
    if advice.code == "certainly_poor":
        return "sow thickly or replace", "poor", 2
    if glance.good_beyond:
        return "good for longer than can be said", "good", 0
    if glance.good_until_s is not None and glance.good_until_s < now_s:
        return "below the level you sow at", "poor", 2
    if glance.good_until_s is not None:
        return f"good to {day_words(glance.good_until_s)[-4:]}", "good", 0
    return "no forecast", "none", 0


@remembered
def lot_lines(larder: Larder) -> list[LotLine]:
    """All live lots, by code."""
    found = glances(larder)
    with larder.store.read() as session:
        home = household(session)
        world, kinds = World(session, home, larder.now_s()), load_kinds(session)
        seeds = seeds_left(session, found)
        query = (
            select(Lot, Cohort, Variety)
            .join(Part, col(Part.lot_id) == Lot.id)
            .join(Cohort, col(Part.cohort_id) == Cohort.id)
            .join(Variety, col(Cohort.variety_id) == Variety.id)
            .where(col(Lot.id).in_(list(found)), col(Part.deleted_s).is_(None))
        )
        out = []
        for lot, cohort, variety in session.exec(query):
            assert lot.id is not None, "a lot in the file has an id"
            out.append(
                _line(
                    world, kinds, lot, cohort, variety, found[lot.id], seeds[lot.id], home.sow_level
                )
            )
    return sorted(out, key=lambda x: (x.code[:1], int(x.code[1:]) if x.code[1:].isdigit() else 0))


def _line(
    world: World, kinds: Kinds, lot: Lot, cohort: Cohort, variety: Variety, glance: Glance,
    seeds: Seeds, sow_level: float,
) -> LotLine:  # fmt: skip
    kind = kinds.get(variety.crop)
    stays = world.lot_stays.get(lot.id or 0, [])
    node = stays[-1].parent_node_id if stays and stays[-1].to_s is None else None
    words, code, urgency = next_act(seeds, glance, sow_level, world.now_s)
    return LotLine(
        lot_id=lot.id or 0,
        code=lot.code,
        kind=kind.key,
        kind_name=kind.name,
        season=kind.season,
        known_kind=kind.known,
        grade=kind.grade,
        variety=variety.name,
        hybrid=variety.breeding == "hybrid",
        kept_line=bool(variety.kept_line),
        note=lot.note,
        state=lot.state,
        source=cohort.source,
        origin=origin_words(cohort, world.now_s),
        origin_s=float(cohort.record_from_s),
        age_years=(world.now_s - cohort.record_from_s) / YEAR_S,
        seeds=seeds.mean if seeds.known else None,
        seeds_sd=seeds.sd,
        mass_g=seeds.mean / kind.crop.seeds_per_g if seeds.known else None,
        node_id=node,
        place=node_path(world, node),
        place_id=world.root(node) if node is not None else None,
        next_act=words,
        next_code=code,
        urgency=urgency,
        glance=glance,
    )


def cautions_of(kind: Kind, variety: Variety, cohort: Cohort) -> list[str]:
    """Cautions where they apply, short; they defer to the packet and to local authorities."""
    out = [kind.hazard] if kind.hazard else []
    if variety.treated:
        out.append("Dressed seed: never for food, feed or shoots; wash hands after handling")
    if kind.key == "hot_pepper":
        out.append("Cleaning this seed: gloves, keep away from the eyes, wash afterwards")
    if kind.crop.family == "Cucurbitaceae":
        out.append("A bitter fruit from saved seed may be a bad cross: do not eat it")
    if variety.breeding == "hybrid":
        out.append("A hybrid does not come true from saved seed")
    if cohort.source in ("gift", "own") and kind.known:
        out.append("Before passing seed on, look at local plant-health and variety rules")
    return out


def move_lot(
    larder: Larder, ref: ActRef, lot_id: int, node_id: int, wrapper_kind: str | None = None,
    at_s: int | None = None,
) -> dict[str, object]:  # fmt: skip
    """Put a lot somewhere else, from a time on (now when none is given). A move is no opening.

    Raises InvalidValue when the time lies before its present stay began.
    """
    with act(larder.store, larder.clock, ref, "move_lot") as a:
        if a.replayed:
            return a.result
        put_lot(a, lot_id, node_id, wrapper_kind, at_s)
        return a.result


def put_lot(
    a: Recorder, lot_id: int, node_id: int, wrapper_kind: str | None, at_s: int | None
) -> None:
    """Within an act: a lot stands in another node from a time on. Raises as move_lot."""
    home = household(a.session)
    lot = get_live(a.session, Lot, lot_id, "lot")
    node = get_live(a.session, Node, node_id, "place or container")
    when = at_s if at_s is not None else a.now_s
    not_future("moved on", when, a.now_s, home)
    stay = open_stay(a.session, lot_id)
    wrapper = wrapper_kind or (stay.wrapper_kind if stay else "paper_envelope")
    if wrapper not in reference().storage:
        raise InvalidValue("wrapper", wrapper, ", ".join(reference().storage))
    if stay is not None:
        end_stay(a.session, stay, when, a.now_s)
    a.session.add(Stay(lot_id=lot_id, parent_node_id=node_id, wrapper_kind=wrapper, from_s=when))
    if lot.state in ("fetched", "missing"):
        lot.state = "here"
    # a stay that never was leaves the new one reaching back to the start
    never_was = stay is not None and stay.deleted_s is not None
    mark_lot(a.session, lot_id, 0 if never_was else when)
    a.about(f"lot:{lot_id}", f"node:{node_id}")
    a.summary = f"Moved {lot.code} to {node.name}"


def open_stay(session: Session, lot_id: int) -> Stay | None:
    """Where a lot stands now."""
    return session.exec(
        select(Stay).where(
            Stay.lot_id == lot_id, col(Stay.to_s).is_(None), col(Stay.deleted_s).is_(None)
        )
    ).first()


def end_stay(session: Session, stay: Stay, when: int, now_s: int) -> None:
    """End a stay at a time. One that began at that very time never was: it is taken away.

    Raises InvalidValue for a time before it began.
    """
    if when < stay.from_s:
        began = day_words(stay.from_s)
        raise InvalidValue(
            "moved on", day_words(when), f"after {began}, when it came to where it is"
        )
    if when == stay.from_s:
        stay.deleted_s = now_s
    else:
        stay.to_s = when
    session.add(stay)
    session.flush()


def mark_lot(session: Session, lot_id: int, from_s: float) -> None:
    """Mark all parts of a lot."""
    parts = session.exec(select(Part.id).where(Part.lot_id == lot_id)).all()
    mark(session, [p for p in parts if p is not None], from_s)


LEDGER_WORDS = {
    "counted": "Counted", "given": "Gave away from", "eaten": "Ate from", "lost": "Lost from",
    "found": "Found more of",
}  # fmt: skip


def book_quantity(
    larder: Larder, ref: ActRef, lot_id: int, kind: str, amount: str
) -> dict[str, object]:
    """Count a lot, or book what was given, eaten, lost or found. ``amount`` as said."""
    if kind not in LEDGER_WORDS:
        raise InvalidValue("kind", kind, ", ".join(LEDGER_WORDS))
    with act(larder.store, larder.clock, ref, "quantity") as a:
        if a.replayed:
            return a.result
        lot = get_live(a.session, Lot, lot_id, "lot")
        crop = kind_of_lot(a.session, lot_id)
        counted = seeds_from_text(amount, crop.crop.seeds_per_g)
        if counted is None:
            raise InvalidValue("quantity", amount, "write a count (120) or a mass (3.5 g)")
        if kind in ("given", "eaten", "lost"):
            check_in_hand(a.session, lot_id, counted[0], "quantity", amount)
        a.session.add(
            StockEntry(
                lot_id=lot_id, at_s=a.now_s, kind=kind, seeds_mean=counted[0],
                seeds_sd=counted[1], as_said=amount.strip(),
            )
        )  # fmt: skip
        touch(a.session, [lot_id])
        a.about(f"lot:{lot_id}")
        a.summary = f"{LEDGER_WORDS[kind]} {lot.code}: {amount.strip()}"
        return a.result


def kind_of_lot(session: Session, lot_id: int) -> Kind:
    """The kind of a lot's first part."""
    variety = variety_of_lot(session, lot_id)
    return load_kinds(session).get(variety.crop if variety else None)


def variety_of_lot(session: Session, lot_id: int) -> Variety | None:
    """The variety of a lot's first part."""
    return session.exec(
        select(Variety)
        .join(Cohort, col(Cohort.variety_id) == Variety.id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .where(Part.lot_id == lot_id)
    ).first()


def log_event(larder: Larder, ref: ActRef, lot_id: int, kind: str, note: str) -> dict[str, object]:
    """Note something that happened to a lot. Raises InvalidValue for an unknown kind."""
    allowed = (
        "wet", "mould", "sprouted", "insects", "rodents", "spilled", "treated", "note",
    )  # fmt: skip
    if kind not in allowed:
        raise InvalidValue("event", kind, ", ".join(allowed))
    with act(larder.store, larder.clock, ref, "lot_event") as a:
        if a.replayed:
            return a.result
        lot = get_live(a.session, Lot, lot_id, "lot")
        a.session.add(LotEvent(lot_id=lot_id, at_s=a.now_s, kind=kind, note=note.strip()))
        if kind == "wet":
            # known damage goes through the climate: it is damp from now on and dries behind its walls
            ref_figure = reference().figure
            a.session.add(
                MoistureObs(
                    lot_id=lot_id, at_s=a.now_s, erh25=ref_figure("wet_event_erh25"),
                    sd=ref_figure("wet_event_erh25_sd"), how="stated",
                )
            )  # fmt: skip
            mark_lot(a.session, lot_id, a.now_s)
        touch(a.session, [lot_id])
        a.about(f"lot:{lot_id}")
        a.summary = f"{lot.code}: {kind}" + (f", {note.strip()}" if note.strip() else "")
        return a.result


def edit_lot(
    larder: Larder, ref: ActRef, lot_id: int, version: int | None, *, note: str | None = None,
    state: str | None = None, variety: str | None = None, kept_line: bool | None = None,
    kind: str | None = None,
) -> dict[str, object]:  # fmt: skip
    """Change what is written of a lot. Raises Conflict for a stale version.

    ``state`` gone: let it go (recoverable by undo); missing: could not be found.
    """
    with act(larder.store, larder.clock, ref, "edit_lot") as a:
        if a.replayed:
            return a.result
        lot = get_live(a.session, Lot, lot_id, "lot")
        expect_version(lot, version, f"Lot {lot.code}")
        row = variety_of_lot(a.session, lot_id)
        assert row is not None, "every lot has a part, a cohort and a variety"
        said = []
        if note is not None and note != lot.note:
            lot.note = note
            said.append("note")
        if state is not None and state != lot.state:
            if state not in ("here", "fetched", "missing", "gone"):
                raise InvalidValue("state", state, "here, fetched, missing or gone")
            lot.state = state
            said.append({"gone": "let go", "missing": "could not be found"}.get(state, state))
        if variety is not None and variety.strip() and variety.strip() != row.name:
            row.name = variety.strip()
            said.append(f"named {row.name}")
        if kept_line is not None and int(kept_line) != row.kept_line:
            row.kept_line = int(kept_line)
            said.append("a line to keep" if kept_line else "no longer a kept line")
        if kind is not None and kind != (row.crop or ""):
            kinds = load_kinds(a.session)
            if kind not in kinds.by_key:
                raise InvalidValue("kind", kind, "a kind of the table or one of your own")
            row.crop = kind
            said.append(f"it is {kinds.get(kind).name}")
            mark_lot(a.session, lot_id, 0)
        a.session.add_all([lot, row])
        touch(a.session)
        a.about(f"lot:{lot_id}")
        a.summary = f"{lot.code}: " + (", ".join(said) or "nothing changed")
        return a.result
