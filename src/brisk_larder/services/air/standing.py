"""One snapshot of places, containers, stays and events: where everything stood behind which walls."""

from __future__ import annotations

import json
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, NamedTuple, TypeVar

from sqlmodel import Session

from ...core.storage.barrier import Change, Stretch, stretches
from ...core.storage.moisture import wall_sd, wall_tau_days
from ...data.tables import Household
from ..household.kinds import figures, reference

EPOCH_S = (
    631_152_000  # 1990-01-01: one fixed start of all records, so increments equal recomputation
)
UNPLACED = 0  # a lot that stands nowhere: the household's own usual cupboard
INF = float("inf")
AHEAD_S = 700  # readings so far ahead of our clock are seen: loggers' clocks may be off by as much


class NodeRow(NamedTuple):
    """A node as the snapshot holds it."""

    id: int
    code: str
    name: str
    role: str
    place_kind: str | None
    container_kind: str | None
    capacity_lots: int | None
    walk_order: int
    former_use: str | None
    version: int
    deleted_s: int | None


class StayRow(NamedTuple):
    """A live stay."""

    node_id: int | None
    lot_id: int | None
    parent_node_id: int
    wrapper_kind: str
    from_s: int
    to_s: int | None
    is_out: int
    section: str = ""
    slot: str = ""
    since: str = "told"

    @property
    def reaches_back(self) -> bool:
        """Whether it is taken to have begun with the seed, or with the container."""
        return self.since != "told"


class DeploymentRow(NamedTuple):
    """A live deployment."""

    series_id: int
    node_id: int
    from_s: int
    to_s: int | None


class MoistureRow(NamedTuple):
    """How dry a lot was found to be."""

    lot_id: int
    at_s: int
    erh25: float
    sd: float


class EventRow(NamedTuple):
    """An event at a node."""

    id: int
    node_id: int
    at_s: int
    kind: str
    note: str
    figures: str


T = TypeVar("T", bound=tuple[object, ...])


@dataclass(frozen=True)
class Leg:
    """A stretch of a part's life in one known air behind walls.

    ``tau_days`` at 20 degC and ``wall_sd``, its doubt (sd of its natural log); ``reset``: (erh25, sd) when
    the moisture of the seed became known at its start.
    """

    start_s: float
    end_s: float
    node: int
    tau_days: float
    wall_sd: float
    reset: tuple[float, float] | None = None


def wall(container_kind: str) -> tuple[float, float]:
    """Range of the time constant of a container or wrapper in days."""
    span = reference().storage[container_kind].moisture_exchange_time_constant_days
    return span.low, span.high


class Standing:
    """What stood where and when, read once from the file."""

    def __init__(self, session: Session, home: Household, now_s: int) -> None:
        self.session = session
        self.home = home
        self.now_s = now_s
        session.flush()  # the driver sees only what was flushed
        # plain tuples from the driver: a snapshot is taken for every act and every look
        self.nodes = {r.id: r for r in self._all(NodeRow, "node", "1 = 1", "id")}
        self.node_stays: dict[int, list[StayRow]] = {}
        where = "deleted_s IS NULL AND node_id IS NOT NULL"
        for stay in self._all(StayRow, "stay", where, "from_s, id"):
            self.node_stays.setdefault(stay.node_id or 0, []).append(stay)
        self.deployments: dict[int, list[DeploymentRow]] = {}
        for row in self._all(DeploymentRow, "deployment", "deleted_s IS NULL", "id"):
            self.deployments.setdefault(row.node_id, []).append(row)
        self.events: dict[int, list[EventRow]] = {}
        for event in self._all(EventRow, "node_event", "deleted_s IS NULL", "at_s, id"):
            self.events.setdefault(event.node_id, []).append(event)
        self._lot_stays: dict[int, list[StayRow]] | None = None
        self._observations: dict[int, list[MoistureRow]] | None = None
        self._measured: dict[int, bool] = {}
        self._stretches: dict[int, list[Stretch]] = {}
        self._breaks: dict[int, list[float]] = {}
        self._walls: dict[tuple[int, int], tuple[int, tuple[tuple[float, float, float], ...]]] = {}

    def query(self, sql: str, values: Sequence[object] = ()) -> list[tuple[Any, ...]]:
        """Rows as plain tuples from the driver: a year of hours is read in milliseconds."""
        raw = self.session.connection().connection.cursor()
        raw.execute(sql, tuple(values))
        rows = raw.fetchall()
        raw.close()
        return list(rows)

    def _all(self, kind: type[T], table: str, where: str, order: str) -> list[T]:
        names = ", ".join(kind._fields)  # type: ignore[attr-defined]
        return [
            kind(*row)
            for row in self.query(f"SELECT {names} FROM {table} WHERE {where} ORDER BY {order}")
        ]

    def only_lots(self, lot_ids: Iterable[int]) -> None:
        """Read the stays and dryness of some lots only: enough for their routes."""
        listed = ", ".join(str(int(lot)) for lot in lot_ids) or "0"
        self._read_lots(f" AND lot_id IN ({listed})")

    def _read_lots(self, more: str) -> None:
        self._lot_stays, self._observations = {}, {}
        where = "deleted_s IS NULL AND lot_id IS NOT NULL"
        for stay in self._all(StayRow, "stay", where + more, "from_s, id"):
            self._lot_stays.setdefault(stay.lot_id or 0, []).append(stay)
        for seen in self._all(MoistureRow, "moisture_obs", "deleted_s IS NULL" + more, "at_s, id"):
            self._observations.setdefault(seen.lot_id, []).append(seen)

    @property
    def lot_stays(self) -> dict[int, list[StayRow]]:
        """Stays of lots, in time order."""
        if self._lot_stays is None:
            self._read_lots("")
        assert self._lot_stays is not None, "read a line above"
        return self._lot_stays

    @property
    def observations(self) -> dict[int, list[MoistureRow]]:
        """How dry lots were found to be, in time order."""
        if self._observations is None:
            self._read_lots("")
        assert self._observations is not None, "read a line above"
        return self._observations

    def measured(self, node: int) -> bool:
        """Whether a node has any reading of its own."""
        if node not in self._measured:
            self._measured[node] = any(
                self.query(
                    "SELECT 1 FROM reading WHERE series_id = ? AND at_s >= ? AND at_s < ? "
                    "AND at_s <= ? LIMIT 1",
                    (d.series_id, d.from_s, d.to_s or 2**62, self.now_s + AHEAD_S),
                )
                for d in self.deployments.get(node, [])
            )
        return self._measured[node]

    def parents(self, node: int) -> list[tuple[float, float, int]]:
        """Where a node stood: (from, to, parent), without gaps, the last one open-ended.

        Before its first stay it was in the household's usual cupboard, unless that stay reaches back to the
        start; a gap belongs to the stay before it.
        """
        stays = self.node_stays.get(node, [])
        out = []
        if stays and not stays[0].reaches_back and stays[0].from_s > EPOCH_S:
            out.append((float(EPOCH_S), float(stays[0].from_s), UNPLACED))
        for i, stay in enumerate(stays):
            first = i == 0 and stay.reaches_back
            start = float(EPOCH_S) if first else float(stay.from_s)
            end = float(stays[i + 1].from_s) if i + 1 < len(stays) else INF
            out.append((start, end, stay.parent_node_id))
        return out

    def parent_now(self, node: int) -> int | None:
        """The node in which a node stands now; None for a place."""
        stays = self.parents(node)
        return stays[-1][2] if stays else None

    def root(self, node: int) -> int:
        """The place in which a node stands now (itself for a place)."""
        return self.chain(node)[-1]

    def circle(self) -> int | None:
        """A container that stands inside itself at some time; None: there is none, as it must be."""
        for node in self.node_stays:
            for start, _, parent in self.parents(node):
                seen, at = {node}, parent
                while at not in seen:
                    seen.add(at)
                    up = [p for a, b, p in self.parents(at) if a <= start < b]
                    if not up:
                        break
                    at = up[0]
                else:
                    return node
        return None

    def place_kind(self, node: int) -> str:
        """Kind of the place in which a node stands now."""
        root = self.nodes.get(self.root(node)) if node != UNPLACED else None
        return (root.place_kind if root else None) or self.home.unplaced_kind

    def place_spans(self, node: int) -> list[tuple[float, float, str]]:
        """In which kind of place a node stood: (from, to, place kind), without gaps."""
        stays = self.parents(node)
        if not stays:
            return [(-INF, INF, self.place_kind(node))]
        return [
            (max(a, start), min(b, end), kind)
            for start, end, parent in stays
            for a, b, kind in self.place_spans(parent)
            if a < end and b > start
        ]

    def ever_in(self, node_id: int) -> list[int]:
        """Nodes that stood in a node at any time."""
        return [
            node
            for node, stays in self.node_stays.items()
            if any(s.parent_node_id == node_id for s in stays)
        ]

    def below(self, node_id: int) -> set[int]:
        """A node and everything that ever stood in it, at any depth."""
        found, frontier = {node_id}, [node_id]
        while frontier:
            new = set(self.ever_in(frontier.pop())) - found
            found |= new
            frontier += new
        return found

    def stretches(self, node: int) -> list[Stretch]:
        """How a container's wall stood over time."""
        if node not in self._stretches:
            kind = self.nodes[node].container_kind if node != UNPLACED else None
            changes = []
            for e in self.events.get(node, []):
                told = json.loads(e.figures)
                changes.append(
                    Change(float(e.at_s), e.kind, told.get("erh25"), told.get("slow", 1.0))
                )
            self._stretches[node] = stretches(
                wall(kind) if kind else None, changes, figures().walls
            )
        return self._stretches[node]

    def stretch_at(self, node: int, at_s: float) -> Stretch:
        """The stretch of a container's wall that holds a time."""
        return next(s for s in self.stretches(node) if s.start_s <= at_s < s.end_s)

    def own_air(self, node: int, at_s: float) -> bool:
        """Whether the air inside a node is known by itself: read there, or kept by a desiccant."""
        return self.measured(node) or self.stretch_at(node, at_s).dried

    def breaks(self, node: int) -> list[float]:
        """Times at which the walls between a node's inside and a known air change."""
        if node not in self._breaks:
            found: set[float] = set()
            if node != UNPLACED and not self.measured(node):
                found |= {s.start_s for s in self.stretches(node)[1:]}
                for start, _, parent in self.parents(node):
                    found.add(start)
                    found |= set(self.breaks(parent))
            self._breaks[node] = sorted(found)
        return self._breaks[node]

    def walls_up(
        self, node: int, at_s: float
    ) -> tuple[int, tuple[tuple[float, float, float], ...]]:
        """The nearest known air around a node at a time, and the walls up to it (low, high, slow)."""
        key = (node, bisect_right(self.breaks(node), at_s))
        if key not in self._walls:
            walls: list[tuple[float, float, float]] = []
            inner, gone_by = node, set[int]()
            while inner != UNPLACED and not self.own_air(inner, at_s):
                if inner in gone_by:
                    raise ValueError("a container stands inside itself")
                gone_by.add(inner)
                stays = self.parents(inner)
                if not stays:
                    break
                standing = self.stretch_at(inner, at_s)
                if standing.wall:
                    walls.append((*standing.wall, standing.slow))
                inner = next(p for start, end, p in stays if start <= at_s < end)
            self._walls[key] = (inner, tuple(walls))
        return self._walls[key]

    def legs(self, lot_id: int, from_s: float, to_s: float | None = None) -> list[Leg]:
        """The route of a lot from a time on; the last leg is open-ended (inf).

        Before its first stay and between stays a lot lies in the household's usual cupboard, unless the
        first reaches back to the start.
        """
        usual = self.home.unplaced_wrapper
        end_all = INF if to_s is None else float(to_s)
        spans: list[tuple[float, float, int, str]] = []
        at = float(from_s)
        for i, stay in enumerate(self.lot_stays.get(lot_id, [])):
            back = i == 0 and stay.reaches_back
            start = float(from_s) if back else max(float(stay.from_s), float(from_s))
            end = float(stay.to_s) if stay.to_s is not None else INF
            if end <= from_s:
                continue
            if start >= end_all:
                break
            if start > at:
                spans.append((at, start, UNPLACED, usual))
            spans.append((max(start, float(from_s)), end, stay.parent_node_id, stay.wrapper_kind))
            at = end
        if not spans or at < end_all:
            spans.append((at, end_all, UNPLACED, usual))
        seen = {float(o.at_s): (o.erh25, o.sd) for o in self.observations.get(lot_id, [])}
        out: list[Leg] = []
        for start, end, node, wrapper in spans:
            last = min(end, end_all)
            cuts = {start} | {t for t in seen if start < t < last}
            cuts |= {t for t in self.breaks(node) if start < t < last}
            for a, b in pairwise([*sorted(cuts), last]):
                if a < b:
                    known, tau, doubt = self.tau(node, wrapper, a)
                    out.append(Leg(a, b, known, tau, doubt, seen.get(a)))
        return out

    def tau(self, node: int, wrapper: str, at_s: float) -> tuple[int, float, float]:
        """The known air around a lot in its wrapper in a node, the time constant up to it and its doubt."""
        known, walls = self.walls_up(node, at_s)
        ranges = [wall(wrapper), *((low * slow, high * slow) for low, high, slow in walls)]
        return known, wall_tau_days(ranges), wall_sd(ranges)

    def wrapper_of(self, lot_id: int) -> str:
        """The wrapper a lot lies in now."""
        stays = self.lot_stays.get(lot_id, [])
        return stays[-1].wrapper_kind if stays else self.home.unplaced_wrapper

    def node_of(self, lot_id: int) -> int:
        """The node in which a lot lies now; UNPLACED when it lies nowhere."""
        stays = self.lot_stays.get(lot_id, [])
        return stays[-1].parent_node_id if stays and stays[-1].to_s is None else UNPLACED

    def chain(self, node: int) -> list[int]:
        """A node and what it stands in now, outward."""
        out = [node]
        while (parent := self.parent_now(out[-1])) is not None:
            if parent in out:
                raise ValueError("a container stands inside itself")
            out.append(parent)
        return out

    def codes(self) -> dict[int, str]:
        """Codes of all lots."""
        return dict(self.query("SELECT id, code FROM lot"))

    def lots_in(self, node: int) -> list[int]:
        """Lots that lie in a node now (not in what stands in it)."""
        return [
            lot
            for lot, stays in self.lot_stays.items()
            if stays[-1].to_s is None and stays[-1].parent_node_id == node
        ]
