"""What is done to places and containers: adding, moving, closing, opening, desiccant, in and out."""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.hand.stay_start import began
from ...core.hand.writing import way_of
from ...data.acts import expect_version
from ...data.limits import NAME
from ...data.queries import key, live
from ...data.tables import Node, NodeEvent, Stay
from ..acts.acting import Doing, Done, act
from ..acts.lot_codes import new_node_code
from ..air.air import Air
from ..air.standing import EPOCH_S
from ..air.stays import end_stay, open_node_stay
from ..household.kinds import figures, reference
from ..household.larder import household, is_live
from ..household.possible_values import get_live, moment_on, whole
from ..household.wording import many

PLAIN_EVENTS = {
    "opened": "opened",
    "sealed": "sealed",
    "airtight": "closed airtight",
    "vented": "left with its lid ajar",
    "breathing": "left open",
    "gone_through": "gone through",
    "wet": "got wet",
    "cleaned": "cleaned",
    "desiccant_out": "desiccant taken out",
    "note": "noted",
}
OUT_KIND = "heated_room"  # where a case stands that was taken out, unless the keeper says (guess)
OUT_NAME = "Out on the table"


@dataclass(frozen=True)
class NewNode:
    """A place (place_kind) or a container (container_kind, standing in parent_id, ``since`` when)."""

    name: str
    place_kind: str | None = None
    container_kind: str | None = None
    parent_id: int | None = None
    capacity_lots: int | None = None
    former_use: str | None = None
    since: str = ""


def _named(name: str) -> None:
    """Raises InvalidValue for a name without a letter or of more than a label can hold."""
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    if len(name.strip()) > NAME:
        raise InvalidValue("name", f"{len(name.strip())} signs", f"at most {NAME}")


def _node_row(session: Session, new: NewNode) -> Node:
    role = "place" if new.place_kind else "container"
    code, number = new_node_code(session, role == "place")
    node = Node(
        code=code,
        name=new.name.strip(),
        role=role,
        place_kind=new.place_kind,
        container_kind=new.container_kind,
        capacity_lots=new.capacity_lots,
        former_use=new.former_use,
        walk_order=number,
    )
    session.add(node)
    session.flush()
    return node


@dataclass(frozen=True)
class NodeMade:
    """The place or container that was added."""

    node_id: int


@act("add_node")
def add_node(a: Doing, new: NewNode) -> NodeMade:
    """Add a place or a container. Raises InvalidValue for a bad kind."""
    ref_tables = reference()
    _named(new.name)
    if (new.place_kind is None) == (new.container_kind is None):
        raise InvalidValue("kind", None, "either a kind of place or a kind of container")
    if new.place_kind is not None and new.place_kind not in ref_tables.places:
        raise InvalidValue("kind of place", new.place_kind, ", ".join(ref_tables.places))
    if new.container_kind is not None and new.container_kind not in ref_tables.storage:
        raise InvalidValue("kind of container", new.container_kind, ", ".join(ref_tables.storage))
    if new.container_kind is not None and new.parent_id is None:
        raise InvalidValue("stands in", None, "a place or another container")
    if new.capacity_lots is not None:
        whole("room", new.capacity_lots, 1, 10_000)
    if new.container_kind is not None:
        get_live(a.session, Node, new.parent_id or 0, "place or container")
    node = _node_row(a.session, new)
    if new.container_kind is not None:
        # a container is taken to have stood there ever since, unless somebody says when it came there
        said = new.since.strip() or "since it came"
        here = began(
            said,
            a.now_s if said == "since it came" else EPOCH_S,
            a.now_s,
            a.home.tz,
            way_of(a.home.locale),
        )
        a.session.add(
            Stay(
                node_id=node.id,
                parent_node_id=new.parent_id or 0,
                from_s=here.from_s,
                since=here.since,
            )
        )
    elif not a.home.settled:
        a.home.settled = 1
    a.about(f"node:{node.id}")
    a.summary = f"Added {node.name}"
    return NodeMade(node_id=key(node))


@act("move_node")
def move_node(
    a: Doing, node_id: int, parent_id: int, at_s: int | None = None, on: str = ""
) -> Done:
    """Put a container with all in it somewhere else, from a day on. A move is no opening.

    Raises InvalidValue when it would stand inside itself or before it came to where it stands.
    """
    node = get_live(a.session, Node, node_id, "container")
    parent = get_live(a.session, Node, parent_id, "place or container")
    when = moment_on(on, at_s, a.home, a.now_s)
    _stand(a.session, a.now_s, node, parent, when, is_out=0)
    a.about(f"node:{node_id}", f"node:{parent_id}")
    a.summary = f"Moved {node.name} to {parent.name}"
    return Done()


def _stand(session: Session, now_s: int, node: Node, parent: Node, when: int, is_out: int) -> None:
    if node.role == "place":
        raise InvalidValue("container", node.name, "a container: a place cannot be moved")
    home = household(session)
    air = Air(session, home, now_s)
    if node.id in air.chain(key(parent)):
        raise InvalidValue(
            "stands in", parent.name, f"anything that is not itself inside {node.name}"
        )
    stay = open_node_stay(session, key(node))
    if stay is not None:
        end_stay(session, stay, when, now_s)
    session.add(Stay(node_id=node.id, parent_node_id=key(parent), from_s=when, is_out=is_out))
    session.flush()
    if Air(session, home, now_s).circle() is not None:  # moved back in time, into what stood in it
        raise InvalidValue(
            "stands in", parent.name, f"anything that was not inside {node.name} at that time"
        )


@act("take_out")
def take_out(a: Doing, node_id: int, to_node_id: int | None = None) -> Done:
    """A case is taken out of store for a while: the climate of those hours counts.

    Without a place it stands in a heated room; an evening reminder asks for it back. Raises Conflict
    when it is out already.
    """
    node = get_live(a.session, Node, node_id, "container")
    stay = open_node_stay(a.session, node_id)
    if stay is not None and stay.is_out:
        raise Conflict(f"{node.name} is out already: put it back first")
    if to_node_id is not None:
        place = get_live(a.session, Node, to_node_id, "place")
    else:
        found = a.session.exec(select(Node).where(Node.place_kind == OUT_KIND)).all()
        place = next((n for n in found if is_live(n)), None) or _node_row(
            a.session, NewNode(OUT_NAME, place_kind=OUT_KIND)
        )
    _stand(a.session, a.now_s, node, place, a.now_s, is_out=1)
    a.about(f"node:{node_id}")
    a.summary = f"Took {node.name} out, to {place.name}"
    return Done()


@act("put_back")
def put_back(a: Doing, node_id: int) -> Done:
    """Put a case back where it stood before it was taken out. Raises Conflict when it is not out."""
    node = get_live(a.session, Node, node_id, "container")
    stay = open_node_stay(a.session, node_id)
    if stay is None or not stay.is_out:
        raise Conflict(f"{node.name} is not out")
    air = Air(a.session, a.home, a.now_s)
    before = [s for s in air.node_stays.get(node_id, []) if s.to_s is not None and not s.is_out]
    if not before:
        raise Conflict(f"Nobody noted where {node.name} stood: move it instead")
    parent = get_live(a.session, Node, before[-1].parent_node_id, "place or container")
    _stand(a.session, a.now_s, node, parent, a.now_s, is_out=0)
    hours = (a.now_s - stay.from_s) / 3600
    a.about(f"node:{node_id}")
    a.summary = f"Put {node.name} back in {parent.name} after {hours:.0f} h"
    return Done()


@act("edit_node")
def edit_node(
    a: Doing,
    node_id: int,
    version: int | None,
    *,
    name: str | None = None,
    capacity_lots: int | None = None,
    former_use: str | None = None,
    container_kind: str | None = None,
) -> Done:
    """Change what is written of a place or container. Raises Conflict for a stale version."""
    if name is not None:
        _named(name)
    if capacity_lots is not None:
        whole("room", capacity_lots, 1, 10_000)
    if container_kind is not None and container_kind not in reference().storage:
        raise InvalidValue("kind of container", container_kind, ", ".join(reference().storage))
    node = get_live(a.session, Node, node_id, "place or container")
    expect_version(node, version, node.name)
    a.summary = f"Changed {node.name}"
    if name is not None and name.strip() != node.name:
        a.summary = f"{node.name} is now called {name.strip()}"
        node.name = name.strip()
    if container_kind is not None and node.role == "container":
        node.container_kind = container_kind
    node.capacity_lots = capacity_lots if capacity_lots is not None else node.capacity_lots
    node.former_use = former_use if former_use is not None else node.former_use
    a.about(f"node:{node_id}")
    return Done()


@act("walk_order")
def set_walk_order(a: Doing, node_ids: list[int]) -> Done:
    """The order in which the round is walked: these first, in this order."""
    for place, node_id in enumerate(node_ids):
        get_live(a.session, Node, node_id, "place or container").walk_order = place + 1
    a.summary = "Changed the order of the round"
    return Done()


@act("remove_node")
def remove_node(a: Doing, node_id: int) -> Done:
    """Take a place or container out of use; refused (Conflict) while anything is in it."""
    node = get_live(a.session, Node, node_id, "place or container")
    inside = a.session.exec(
        live(Stay).where(Stay.parent_node_id == node_id, col(Stay.to_s).is_(None))
    ).all()
    if inside:
        raise Conflict(f"{node.name} still holds {many(len(inside), 'thing')}: move them first")
    node.deleted_s = a.now_s
    a.about(f"node:{node_id}")
    a.summary = f"Took {node.name} out of use"
    return Done()


def _can_figures_allowed(kind: str, told: dict[str, float | str]) -> None:
    if not told:
        return
    if kind != "sealed" or not set(told) <= {"food_kg", "shut_days"} or "food_kg" not in told:
        raise InvalidValue("figures", sorted(told), "food_kg and shut_days, of a sealed can")
    least = figures().handling.can_least_shut_days
    for name, low, high in (("food_kg", 0.01, 1000.0), ("shut_days", least, 3650.0)):
        value = told.get(name, low)
        if not isinstance(value, int | float) or not low <= value <= high:
            raise InvalidValue(name, value, f"{low:g} to {high:g}")


@act("node_event")
def node_event(
    a: Doing,
    node_id: int,
    kind: str,
    note: str = "",
    at_s: int | None = None,
    figures: dict[str, float | str] | None = None,
    on: str = "",
) -> Done:
    """Note what happened to a container, ``on`` a day; openings and closings change the climate inside.

    ``figures`` of a sealed can: food_kg, shut_days. Raises InvalidValue for an unknown kind.
    """
    if kind not in PLAIN_EVENTS:
        raise InvalidValue("event", kind, ", ".join(PLAIN_EVENTS))
    _can_figures_allowed(kind, figures or {})
    node = get_live(a.session, Node, node_id, "place or container")
    when = moment_on(on, at_s, a.home, a.now_s)
    a.session.add(
        NodeEvent(
            node_id=node_id,
            at_s=when,
            kind=kind,
            note=note.strip(),
            figures=json.dumps(figures or {}),
        )
    )
    a.about(f"node:{node_id}")
    a.summary = f"{node.name}: {PLAIN_EVENTS[kind]}" + (f", {note.strip()}" if note else "")
    return Done()
