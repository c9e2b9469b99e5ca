"""What the air was, is and will be around everything that stands in the snapshot."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from functools import cached_property
from itertools import chain
from uuid import uuid4

import numpy as np
from sqlmodel import Session

from ...core.base.units import DAY_S, month_start_s, next_month_s, zone
from ...core.storage import climate as cl
from ...core.storage import dials
from ...core.storage.barrier import tau_per_panel
from ...core.storage.moisture import Floats, vapour_pace
from ...data.store import Shared
from ...data.tables import Household
from ..household.kinds import figures, reference
from .standing import AHEAD_S, EPOCH_S, UNPLACED, Standing

GAP_STRIDE = 2**33
UNREAD = 9e99  # stands for NULL on the way from the file
FUTURE_YEARS = 10.0
LOOK_BACK_DAYS = 400  # what rooms look at: a year, and the readings that teach the future


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
        mean_c=row.mean_c + shift,
        amplitude_c=row.amplitude_c,
        peak_day=row.peak_day_of_year_north + half,
        swing_sd_c=row.swing_sd_c,
        erh_mean=row.erh_mean,
        erh_amplitude=row.erh_amplitude,
        erh_peak_day=row.erh_peak_day_of_year_north + half,
        anomaly_sd_c=row.anomaly_sd_c,
        anomaly_sd_erh=row.anomaly_sd_erh,
        memory_days=row.memory_days,
    )


def usual_air(place_kind: str, home: Household, at: cl.Panels) -> cl.Climate:
    """The air of a kind of place where nothing was read, on panels."""
    return cl.usual(place_curve(place_kind, home), at, figures().places.house_departs_times)


def climate_stamp(session: Session) -> str:
    """A word that changes with everything written that the air of some place hangs on."""
    row = session.connection().exec_driver_sql("SELECT value FROM meta WHERE key = 'climate'")
    found = row.first()
    return str(found[0]) if found else ""


def new_climate(session: Session) -> None:
    """Say that the air of some place changed."""
    session.connection().exec_driver_sql(
        "INSERT INTO meta (key, value) VALUES ('climate', ?) "
        "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (uuid4().hex,),
    )


class Air(Standing):
    """The snapshot with climates, computed when asked for, from ``from_s`` on.

    ``from_s`` is rounded down to a month's start; by default a little over a year ago. Whatever the
    window, the climate inside it is the same to the bit.
    """

    def __init__(
        self, session: Session, home: Household, now_s: int, from_s: float | None = None
    ) -> None:
        super().__init__(session, home, now_s)
        since = now_s - LOOK_BACK_DAYS * DAY_S if from_s is None else from_s
        self.from_s = month_start_s(max(min(since, now_s), EPOCH_S))
        self._readings: dict[int, cl.Readings] = {}
        self._kept: dict[tuple[int, int], cl.Readings] = {}
        self._base: dict[int, cl.Climate] = {}
        self._air_ends: dict[int, Floats] = {}
        self._past: dict[int, cl.Climate] = {}
        self._wanted: dict[int, int] = {}
        self._future: dict[int, cl.Climate] = {}
        self._deeper: Air | None = None
        # an act changes rows as it goes, so only what reads a settled file shares its climates
        self._shared: Shared | None = session.info.get("shared") if from_s is None else None
        # all that a past hangs on, beside the reference; what is read later in the hour has its stamp
        self._state = (
            climate_stamp(session) if self._shared else "",
            now_s // 3600,
            home.hemisphere,
            home.outdoor_mean_c,
            self.nodes,
            self.node_stays,
            self.deployments,
            self.events,
        )

    def readings(self, node: int) -> cl.Readings:
        """Readings taken in a node in the window, and the last ones before it, in time order.

        A logger's are drawn together by hour (d_hour), a dial's are as read.
        """
        self.past(node)
        return self._readings[node]

    def _read(self, node: int, start_s: int) -> cl.Readings:
        if (node, start_s) not in self._kept:
            self._kept[node, start_s] = self._fetch(node, start_s)
        return self._kept[node, start_s]

    def _fetch(self, node: int, start_s: int) -> cl.Readings:
        tables = [np.empty((0, 5))]
        for d in self.deployments.get(node, []):
            tables.append(self._rows(d.series_id, d.from_s, d.to_s or 2**62, start_s))
        table = np.concatenate(tables)
        table = table[np.argsort(table[:, 0], kind="stable")]
        return cl.Readings(
            table[:, 0].astype(np.int64), table[:, 1], table[:, 2], table[:, 3], table[:, 4]
        )

    def _start_of(self, node: int, wanted_s: int) -> int:
        """From where a node's air is reckoned, so that it is right from ``wanted_s`` on.

        What was read last before that still shapes what follows, so its own day must be inside.
        """
        before = self._read(node, wanted_s)
        early = before.at_s < wanted_s
        start = wanted_s
        for values in (before.temperature_c, before.erh):
            last = before.at_s[early & np.isfinite(values)]
            if len(last):
                start = min(start, int(last.max()))
        return month_start_s(max(EPOCH_S, start))

    def _rows(self, series: int, from_s: int, to_s: int, start_s: int) -> Floats:
        logger = self.query("SELECT 1 FROM series WHERE id = ? AND origin = 'logger'", (series,))
        if logger:
            # an hour counts as one reading at its middle; numbers only, which are ten times as quick
            what = (
                f"SELECT at_s + 1800, coalesce(t_sum / nullif(t_n, 0), {UNREAD}), "
                f"coalesce(h_sum / nullif(h_n, 0), {UNREAD}) "
                "FROM d_hour WHERE series_id = ? AND at_s >= ? AND at_s < ?"
            )
            has = ("t_n > 0", "h_n > 0")
        else:
            what = (
                f"SELECT at_s, coalesce(temperature_c, {UNREAD}), coalesce(erh, {UNREAD}), "
                f"coalesce(t_min_c, {UNREAD}), coalesce(t_max_c, {UNREAD}) "
                "FROM reading WHERE series_id = ? AND at_s >= ? AND at_s < ?"
            )
            has = ("temperature_c IS NOT NULL", "erh IS NOT NULL")
        first, end = max(from_s, start_s), min(to_s, self.now_s + AHEAD_S + 1)
        rows = self.query(what, (series, first, end))
        if first > from_s:
            before: dict[tuple[float, ...], None] = {}
            for known in has:
                last = f"{what} AND {known} ORDER BY at_s DESC LIMIT 1"
                before |= dict.fromkeys(self.query(last, (series, from_s, first)))
            rows += before
        found = np.fromiter(chain.from_iterable(rows), dtype=float).reshape(-1, 3 if logger else 5)
        table = np.full((len(found), 5), np.nan)
        table[:, : found.shape[1]] = np.where(found == UNREAD, np.nan, found)
        return table

    def memory_days(self, node: int) -> float:
        """How long a departure from the usual curve lasts in the place of a node, in days."""
        return reference().places[self.place_kind(node)].memory_days

    def _hourly(self, node: int, start_s: int) -> set[int]:
        """UTC days with hourly readings in a node or anywhere it stood."""
        days = cl.hourly_days(self._read(node, start_s).at_s)
        for _, _, parent in self.parents(node):
            days = days | self._hourly(parent, start_s)
        return days

    def base(self, node: int) -> cl.Climate:
        """What a node's past would be without its own readings."""
        self.past(node)
        return self._base[node]

    def _make_base(self, node: int, start_s: int) -> tuple[cl.Climate, Floats]:
        at = cl.panels(start_s, self.now_s, self._hourly(node, start_s))
        stays = [s for s in self.parents(node) if s[1] > start_s]
        if not stays:
            made = usual_air(self.place_kind(node), self.home, at)
            return made, made.erh25
        outer = _joined([(end, cl.resample(self.past(p, start_s), at)) for _, end, p in stays])
        return self._inside(node, outer, start_s)

    def _inside(self, node: int, outer: cl.Climate, start_s: int) -> tuple[cl.Climate, Floats]:
        """The air inside a container, run by run between the desiccants put in."""
        parts = self.stretches(node)
        tau = tau_per_panel(parts, outer.panels.start_s, outer.panels.hours)
        start = None if start_s <= EPOCH_S else self._air_start(node, start_s)
        # a sachet starts at the panel that holds its hour: it takes days to work anyway
        resets = [
            (int(np.searchsorted(outer.panels.end_s, p.start_s, side="right")), p.reset)
            for p in parts
            if p.reset is not None and p.start_s >= start_s
        ]
        edges = [(0, start), *(r for r in resets if r[0] < len(tau))]
        runs, ends = [], []
        for i, (first, begin) in enumerate(edges):
            last = edges[i + 1][0] if i + 1 < len(edges) else len(tau)
            if last <= first:
                continue
            run, end = cl.lagged(outer.slice(first, last), tau[first:last], begin)
            runs.append(run)
            ends.append(end)
        return replace(
            outer,
            erh25=np.concatenate([r.erh25 for r in runs]),
            sd_erh=np.concatenate([r.sd_erh for r in runs]),
        ), np.concatenate(ends)

    def _air_start(self, node: int, start_s: int) -> float:
        """The erh25 inside a container where the window opens: kept, or run up to from further back."""
        kept = self.query(
            "SELECT month_s, erh25 FROM d_air WHERE node_id = ? AND month_s < ? "
            "ORDER BY month_s DESC LIMIT 1",
            (node, start_s),
        )
        if kept and next_month_s(int(kept[0][0] or 0)) == start_s:
            return float(kept[0][1] or 0.0)
        since = next_month_s(int(kept[0][0] or 0)) if kept else EPOCH_S
        if self._deeper is None or self._deeper.from_s > since:
            self._deeper = Air(self.session, self.home, self.now_s, since)
        return self._deeper.air_before(node, start_s)

    def air_before(self, node: int, at_s: float) -> float:
        """The erh25 inside a container at a month's start, but for its own readings."""
        last = int(np.searchsorted(self.base(node).panels.end_s, at_s, side="left"))
        return float(self._air_ends[node][last])

    def air_at_months(self) -> list[tuple[int, int, float]]:
        """(node, month, erh25 at its end) of all containers looked at, for the whole months."""
        out = []
        for node, ends in self._air_ends.items():
            if not self.node_stays.get(node):
                continue
            end_s = self._base[node].panels.end_s
            month = self._wanted[node]
            while (after := next_month_s(month)) <= self.now_s:
                at = int(np.searchsorted(end_s, after, side="left"))
                if at < len(end_s) and end_s[at] == after:
                    out.append((node, month, float(ends[at])))
                month = after
        return out

    def past(self, node: int, wanted_s: int | None = None) -> cl.Climate:
        """The air in a node from the window's start to the end of today (UTC), with its doubts.

        ``wanted_s``: a month's start before the window, where what stands in it needs that.
        """
        wanted = self.from_s if wanted_s is None else min(wanted_s, self.from_s)
        if node not in self._past or self._wanted[node] > wanted:
            name = (node, self.from_s, wanted)
            made = (
                self._shared.get(self._state, name, lambda: self._make_past(node, wanted))
                if self._shared
                else self._make_past(node, wanted)
            )
            self._past[node], self._base[node], self._air_ends[node], self._readings[node] = made
            self._wanted[node] = wanted
        return self._past[node]

    @cached_property
    def east_h(self) -> float:
        """Hours by which the household's clock (in winter time) is ahead of UTC."""
        day = datetime(
            2026, 1 if self.home.hemisphere == "north" else 7, 15, tzinfo=zone(self.home.tz)
        )
        offset = day.utcoffset()
        return 0.0 if offset is None else offset.total_seconds() / 3600.0

    def _make_past(
        self, node: int, wanted: int
    ) -> tuple[cl.Climate, cl.Climate, Floats, cl.Readings]:
        """Past, base, the air's ends and the readings of a node from a month's start on."""
        start = self._start_of(node, wanted)
        base, ends = self._make_base(node, start)
        readings = self._read(node, start)
        # by the place of each time: a move must not change what was before it
        spans = self.place_spans(node)
        days = np.array([reference().places[kind].memory_days for _, _, kind in spans])
        since = np.array([first for first, _, _ in spans[1:]])
        memory = days[np.searchsorted(since, base.panels.middle_s, side="right")]
        # what is shut in keeps its dryness as long as its wall lets it
        walls = tau_per_panel(self.stretches(node), base.panels.start_s, base.panels.hours)
        walls = walls / vapour_pace(base.temperature_c)
        f = figures().places
        told = dials.as_day_means(base, readings, self.east_h)
        error = f.dial_error_c, f.dial_error_erh
        lasting = f.house_lasting_share, f.house_known_days
        made = cl.fill(base, told, memory, np.maximum(memory, walls), error, lasting)
        made = replace(made, gap=made.gap % GAP_STRIDE + node * GAP_STRIDE)
        # before the wanted month it only served to lead in
        first = int(np.searchsorted(base.panels.start_s, wanted, side="left"))
        count = len(base.panels.hours)
        return made.slice(first, count), base.slice(first, count), ends[first:], readings

    def future(self, node: int) -> cl.Climate:
        """The air in a node from now on: its usual curve with what its readings taught."""
        if node not in self._future:
            at = cl.future_panels(self.now_s, FUTURE_YEARS)
            parent = self.parent_now(node)
            if parent is None:
                base = usual_air(self.place_kind(node), self.home, at)
            else:
                start = float(self.base(node).erh25[-1])
                tau = self.stretch_at(node, self.now_s).tau_days
                base, _ = cl.lagged(self.future(parent), tau, start)
            offset = dials.offset_ahead(
                self.base(node),
                dials.as_day_means(self.base(node), self.readings(node), self.east_h),
                self.now_s,
                self.memory_days(node),
            )
            self._future[node] = dials.shifted(base, *offset)
        return self._future[node]

    def now_panel(self, node: int) -> int:
        """The panel of a node's past that holds this moment (today's go on to the day's end)."""
        starts = self.past(node).panels.start_s
        return max(0, int(np.searchsorted(starts, self.now_s, side="right")) - 1)

    def source_now(self, node: int) -> str:
        """Where knowledge of a node's air today comes from: logged, bridged or usual."""
        known = self.walls_up(node, self.now_s)[0] if node != UNPLACED else node
        # an hour's readings come when it is over, a file's later still: a logger counts for a day
        past, last = self.past(known), self.now_panel(known)
        first = int(np.searchsorted(past.panels.end_s, self.now_s - DAY_S, side="right"))
        return cl.SOURCES[int(past.source[min(first, last) : last + 1].min())]


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
        panels=first.panels,
        temperature_c=pick("temperature_c"),
        erh25=pick("erh25"),
        swing_sd_c=pick("swing_sd_c"),
        sd_c=pick("sd_c"),
        sd_erh=pick("sd_erh"),
        source=pick("source"),
        gap=pick("gap"),
        far=pick("times"),
    )


def start_moisture(source: str) -> tuple[float, float]:
    """erh25 and its sd of a lot nobody measured when its record starts."""
    f = figures().moisture
    if source == "own":
        return f.start_erh_own, f.start_erh_sd_own
    return f.start_erh_bought, f.start_erh_sd_bought
