"""Where everything stood and what the air there was: climates of nodes and routes of parts."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple, TypeVar

import numpy as np
from sqlmodel import Session

from ..core import climate as cl
from ..core.moisture import wall_tau_days
from ..data.tables import Household
from .crops import reference

EPOCH_S = (
    631_152_000  # 1990-01-01: one fixed start of all records, so increments equal recomputation
)
UNPLACED = 0  # a lot that stands nowhere: the household's own usual cupboard
GAP_STRIDE = 10_000_000
FUTURE_YEARS = 10.0


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


T = TypeVar("T", bound=tuple[object, ...])


@dataclass(frozen=True)
class Leg:
    """A stretch of a part's life in one measured air behind walls.

    ``reset``: (erh25, sd) when the moisture of the seed became known at its start.
    """

    start_s: float
    end_s: float
    node: int
    tau_days: float
    reset: tuple[float, float] | None = None


def place_curve(place_kind: str, home: Household) -> cl.PlaceCurve:
    """The usual curve of a kind of place for this household.

    Phase from the hemisphere; shifted with the household's outdoor mean by the place's share.
    """
    row = reference().places[place_kind]
    half = 0.0 if home.hemisphere == "north" else 182.6
    shift = 0.0
    if home.outdoor_mean_c is not None:
        shift = row.outdoor_share * (home.outdoor_mean_c - reference().places["outdoors"].mean_c)
    return cl.PlaceCurve(
        row.mean_c + shift,
        row.amplitude_c,
        row.peak_day_of_year_north + half,
        row.swing_sd_c,
        row.erh_mean,
        row.erh_amplitude,
        row.erh_peak_day_of_year_north + half,
        row.anomaly_sd_c,
        row.anomaly_sd_erh,
        row.memory_days,
    )


def wall(container_kind: str) -> tuple[float, float]:
    """Range of the time constant of a container or wrapper in days."""
    span = reference().storage[container_kind].moisture_exchange_time_constant_days
    return span.low, span.high


class World:
    """One snapshot of places, stays and readings, with climates computed when asked for."""

    def __init__(self, session: Session, home: Household, now_s: int) -> None:
        self.session = session
        self.home = home
        self.now_s = now_s
        session.flush()  # the driver sees only what was flushed
        # plain tuples from the driver: a snapshot is taken for every act and every look
        self.nodes = {r.id: r for r in self._all(NodeRow, "node", "1 = 1", "id")}
        self.lot_stays: dict[int, list[StayRow]] = {}
        self.node_stays: dict[int, list[StayRow]] = {}
        for stay in self._all(StayRow, "stay", "deleted_s IS NULL", "from_s, id"):
            if stay.lot_id is not None:
                self.lot_stays.setdefault(stay.lot_id, []).append(stay)
            elif stay.node_id is not None:
                self.node_stays.setdefault(stay.node_id, []).append(stay)
        self.deployments: dict[int, list[DeploymentRow]] = {}
        for row in self._all(DeploymentRow, "deployment", "deleted_s IS NULL", "id"):
            self.deployments.setdefault(row.node_id, []).append(row)
        self.observations: dict[int, list[MoistureRow]] = {}
        for seen in self._all(MoistureRow, "moisture_obs", "deleted_s IS NULL", "at_s, id"):
            self.observations.setdefault(seen.lot_id, []).append(seen)
        self._readings: dict[int, cl.Readings] = {}
        self._base: dict[int, cl.Climate] = {}
        self._past: dict[int, cl.Climate] = {}
        self._future: dict[int, cl.Climate] = {}
        self._hourly: dict[int, set[int]] = {}

    def _all(self, kind: type[T], table: str, where: str, order: str) -> list[T]:
        names = ", ".join(kind._fields)  # type: ignore[attr-defined]
        raw = self.session.connection().connection.cursor()
        raw.execute(f"SELECT {names} FROM {table} WHERE {where} ORDER BY {order}")
        rows = [kind(*row) for row in raw.fetchall()]
        raw.close()
        return rows

    def readings(self, node: int) -> cl.Readings:
        """All readings taken in a node up to now, in time order."""
        if node not in self._readings:
            # plain tuples from the driver: a year of hourly rows is read in milliseconds
            raw = self.session.connection().connection.cursor()
            rows: list[tuple[float | None, ...]] = []
            for d in self.deployments.get(node, []):
                raw.execute(
                    "SELECT at_s, temperature_c, erh, t_min_c, t_max_c FROM reading "
                    "WHERE series_id = ? AND at_s >= ? AND at_s < ? AND at_s <= ? ORDER BY at_s",
                    (d.series_id, d.from_s, d.to_s or 2**62, self.now_s),
                )
                rows += raw.fetchall()
            raw.close()
            table = np.array(rows, dtype=float).reshape(-1, 5)
            table = table[np.argsort(table[:, 0], kind="stable")]
            self._readings[node] = cl.Readings(
                table[:, 0].astype(np.int64), table[:, 1], table[:, 2], table[:, 3], table[:, 4]
            )
        return self._readings[node]

    def measured(self, node: int) -> bool:
        """Whether a node has any reading of its own."""
        return len(self.readings(node).at_s) > 0

    def parents(self, node: int) -> list[tuple[float, float, int]]:
        """Where a node stood: (from, to, parent), without gaps, the last one open-ended.

        The first stay reaches back to the start, and a gap belongs to the stay before it.
        """
        stays = self.node_stays.get(node, [])
        out = []
        for i, stay in enumerate(stays):
            start = float(EPOCH_S) if i == 0 else float(stay.from_s)
            end = float(stays[i + 1].from_s) if i + 1 < len(stays) else float("inf")
            out.append((start, end, stay.parent_node_id))
        return out

    def parent_now(self, node: int) -> int | None:
        """The node in which a node stands now; None for a place."""
        stays = self.parents(node)
        return stays[-1][2] if stays else None

    def root(self, node: int) -> int:
        """The place in which a node stands now (itself for a place)."""
        while (parent := self.parent_now(node)) is not None:
            node = parent
        return node

    def _place_kind(self, node: int) -> str:
        root = self.nodes.get(self.root(node)) if node != UNPLACED else None
        return (root.place_kind if root else None) or self.home.unplaced_kind

    def memory_days(self, node: int) -> float:
        """How long a departure from the usual curve lasts in the place of a node, in days."""
        return reference().places[self._place_kind(node)].memory_days

    def hourly(self, node: int) -> set[int]:
        """UTC days with hourly readings in a node or anywhere it stood."""
        if node not in self._hourly:
            days = cl.hourly_days(self.readings(node).at_s)
            for _, _, parent in self.parents(node):
                days = days | self.hourly(parent)
            self._hourly[node] = days
        return self._hourly[node]

    def base(self, node: int) -> cl.Climate:
        """What a node's past would be without its own readings."""
        if node not in self._base:
            at = cl.panels(EPOCH_S, self.now_s, self.hourly(node))
            stays = self.parents(node)
            if not stays:
                made = cl.usual(place_curve(self._place_kind(node), self.home), at)
            else:
                outer = _joined([(end, cl.resample(self.past(p), at)) for _, end, p in stays])
                made = cl.lagged(outer, self._own_tau(node))
            self._base[node] = made
        return self._base[node]

    def _own_tau(self, node: int) -> float:
        kind = self.nodes[node].container_kind
        return wall_tau_days([wall(kind)] if kind else []).tau_days

    def past(self, node: int) -> cl.Climate:
        """The air in a node from 1990 to the end of today (UTC), with its doubts."""
        if node not in self._past:
            made = cl.fill(self.base(node), self.readings(node), self.memory_days(node))
            self._past[node] = cl.Climate(
                made.panels,
                made.temperature_c,
                made.erh25,
                made.swing_sd_c,
                made.sd_c,
                made.sd_erh,
                made.source,
                made.gap % GAP_STRIDE + node * GAP_STRIDE,
            )
        return self._past[node]

    def future(self, node: int) -> cl.Climate:
        """The air in a node from now on: its usual curve with what its readings taught."""
        if node not in self._future:
            at = cl.future_panels(self.now_s, FUTURE_YEARS)
            parent = self.parent_now(node)
            if parent is None:
                base = cl.usual(place_curve(self._place_kind(node), self.home), at)
            else:
                start = float(self.base(node).erh25[-1])
                base = cl.lagged(self.future(parent), self._own_tau(node), start)
            offset = cl.offset_ahead(
                self.base(node), self.readings(node), self.now_s, self.memory_days(node)
            )
            self._future[node] = cl.shifted(base, *offset)
        return self._future[node]

    def walls_up(self, node: int, at_s: float) -> tuple[int, list[tuple[float, float]]]:
        """The nearest measured air around a node at a time, and the walls up to it."""
        walls: list[tuple[float, float]] = []
        while node != UNPLACED and not self.measured(node):
            stays = self.parents(node)
            if not stays:
                break
            kind = self.nodes[node].container_kind
            if kind:
                walls.append(wall(kind))
            node = next(p for start, end, p in stays if start <= at_s < end)
        return node, walls

    def _breaks(self, node: int, start_s: float, end_s: float) -> set[float]:
        """Times at which anything in the chain above a node was moved."""
        out: set[float] = set()
        for start, _, parent in self.parents(node):
            if start_s < start < end_s:
                out.add(start)
            out |= self._breaks(parent, start_s, end_s)
        return out

    def legs(self, lot_id: int, from_s: float, to_s: float | None = None) -> list[Leg]:
        """The route of a lot from a time on; the last leg is open-ended (inf).

        Before its first stay a lot is taken to have stood where it first stands; between stays
        it lies in the household's usual cupboard.
        """
        end_all = float("inf") if to_s is None else float(to_s)
        spans: list[tuple[float, float, int, str]] = []
        at = float(from_s)
        for stay in self.lot_stays.get(lot_id, []):
            start = float(stay.from_s) if spans else float(from_s)
            end = float(stay.to_s) if stay.to_s is not None else float("inf")
            if end <= from_s:
                continue
            if spans and start > at:
                spans.append((at, start, UNPLACED, "paper_envelope"))
            spans.append((max(start, float(from_s)), end, stay.parent_node_id, stay.wrapper_kind))
            at = end
        if not spans or at < end_all:
            spans.append((at, end_all, UNPLACED, "paper_envelope"))
        seen = {float(o.at_s): (o.erh25, o.sd) for o in self.observations.get(lot_id, [])}
        out: list[Leg] = []
        for start, end, node, wrapper in spans:
            last = min(end, end_all)
            cuts = {start} | {t for t in seen if start < t < last}
            cuts |= self._breaks(node, start, last) if node != UNPLACED else set()
            edges = [*sorted(cuts), last]
            for a, b in pairwise(edges):
                if a >= b:
                    continue
                air, walls = self.walls_up(node, a)
                tau = wall_tau_days([wall(wrapper), *walls]).tau_days
                out.append(Leg(a, b, air, tau, seen.get(a)))
        return out

    def tau_of(self, walls: list[tuple[float, float]], lot_id: int) -> float:
        """Time constant of a lot behind other walls, in the wrapper it lies in now."""
        stays = self.lot_stays.get(lot_id, [])
        wrapper = stays[-1].wrapper_kind if stays else "paper_envelope"
        return wall_tau_days([wall(wrapper), *walls]).tau_days

    def source_now(self, node: int) -> str:
        """Where knowledge of a node's air today comes from: logged, bridged or usual."""
        air = self.walls_up(node, self.now_s)[0] if node != UNPLACED else node
        past = self.past(air)
        return cl.SOURCES[int(past.source[-1])]


def _joined(segments: list[tuple[float, cl.Climate]]) -> cl.Climate:
    """One climate out of several on the same panels: each holds until its end."""
    first = segments[0][1]
    if len(segments) == 1:
        return first
    ends = np.array([end for end, _ in segments[:-1]])
    which = np.searchsorted(ends, first.panels.middle_s, side="right")

    def pick(name: str) -> np.ndarray:
        return np.choose(which, [getattr(c, name) for _, c in segments])

    return cl.Climate(
        first.panels,
        pick("temperature_c"),
        pick("erh25"),
        pick("swing_sd_c"),
        pick("sd_c"),
        pick("sd_erh"),
        pick("source"),
        pick("gap"),
    )


def start_moisture(source: str) -> tuple[float, float]:
    """erh25 and its sd of a lot nobody measured when its record starts (model.csv: guesses)."""
    which = "own" if source == "own" else "bought"
    ref = reference()
    return ref.figure(f"start_erh_{which}"), ref.figure(f"start_erh_sd_{which}")
