"""Loggers that send over HTTP: a token each, kept as a hash; a batch sent twice adds nothing."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import text
from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue, Refused
from ...data.acts import ActRef, expect_version
from ...data.queries import key, live
from ...data.tables import Deployment, Device, DeviceSeen, Node, Series
from ...formats.readings_csv import RH_RANGE, Columns
from ..acts.acting import Doing, Done, act, doing
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.reach import kinds_read, previous_s
from ..forecast.stale import mark_node
from ..household.kinds import figures
from ..household.larder import Larder, household
from ..household.possible_values import get_live, temperature_limits_c
from .imports import compare, store_rows

MOST_ROWS = 5_000
A_MINUTE = 60  # batches a device may send in one minute
WRONG_A_MINUTE = 20  # wrong tokens in one minute, from all senders together
OLDEST_S = 400 * 86_400


@dataclass(frozen=True)
class DeviceLine:
    """A device as the page shows it. ``skew_s``: how far its clock was off when last heard of."""

    device_id: int
    name: str
    node_id: int | None
    place: str
    last_seen_s: int | None
    battery_pct: float | None
    skew_s: float
    refused: int
    revoked: bool
    version: int


@dataclass(frozen=True)
class Reading1:
    """One reading of a batch: epoch s, degC, per cent."""

    at_s: int
    temperature_c: float | None = None
    humidity_pct: float | None = None


@dataclass(frozen=True)
class Batch:
    """What a device sends: its clock now, its battery, and readings in any order."""

    sent_s: float
    readings: list[Reading1]
    battery_pct: float | None = None


def hash_of(token: str) -> str:
    """What is kept of a token (256 random bits need no salt)."""
    return hashlib.sha256(token.encode()).hexdigest()


@dataclass(frozen=True)
class DeviceMade:
    """The logger that was registered; its token, which is shown once."""

    device_id: int
    token: str = ""


def add_device(larder: Larder, ref: ActRef, name: str, node_id: int) -> DeviceMade:
    """Register a logger for a place or container. The token is in the answer, and nowhere else.

    A repeated request answers without the token: it was shown once.
    """
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    token = secrets.token_urlsafe(32)
    with doing(larder, ref, "add_device") as a:
        if a.replayed:
            return DeviceMade(**a.result)
        node = get_live(a.session, Node, node_id, "place or container")
        series = Series(name=name.strip(), origin="logger")
        a.session.add(series)
        a.session.flush()
        device = Device(name=name.strip(), series_id=key(series), token_hash=hash_of(token))
        a.session.add(device)
        a.session.add(Deployment(series_id=key(series), node_id=node_id, from_s=a.now_s))
        a.session.flush()
        a.about(f"node:{node_id}", f"device:{device.id}")
        a.result = {"device_id": key(device)}
        a.summary = f"Registered the logger {device.name} for {node.name}"
    return DeviceMade(key(device), token)


@act("move_device")
def move_device(a: Doing, device_id: int, node_id: int) -> Done:
    """From now on a logger stands in another place or container."""
    device = get_live(a.session, Device, device_id, "device")
    node = get_live(a.session, Node, node_id, "place or container")
    here = _deployed(a.session, device.series_id)
    if here is not None:
        if here.from_s >= a.now_s:
            here.deleted_s = a.now_s
        else:
            here.to_s = a.now_s
        a.session.flush()
    a.session.add(Deployment(series_id=device.series_id, node_id=node_id, from_s=a.now_s))
    a.session.flush()
    a.about(f"node:{node_id}", f"device:{device_id}")
    a.summary = f"The logger {device.name} stands in {node.name} now"
    return Done()


@act("revoke_device")
def revoke_device(a: Doing, device_id: int, version: int | None) -> Done:
    """Its token is worth nothing from now on; what it has sent stays."""
    device = get_live(a.session, Device, device_id, "device")
    expect_version(device, version, device.name)
    device.revoked_s = a.now_s
    a.about(f"device:{device_id}")
    a.summary = f"The logger {device.name} may not send any more"
    return Done()


def _deployed(session: Session, series_id: int) -> Deployment | None:
    return session.exec(
        live(Deployment)
        .where(Deployment.series_id == series_id, col(Deployment.to_s).is_(None))
        .order_by(col(Deployment.from_s).desc())
    ).first()


def devices(larder: Larder) -> list[DeviceLine]:
    """All devices, those heard of last first."""
    with looking_at(larder) as v:
        air = v.air
        seen = {d.device_id: d for d in v.session.exec(select(DeviceSeen))}
        out = []
        for device in v.session.exec(live(Device)):
            here = _deployed(v.session, device.series_id)
            last = seen.get(key(device))
            out.append(
                DeviceLine(
                    device_id=key(device),
                    name=device.name,
                    node_id=here.node_id if here else None,
                    place=node_path(air, here.node_id if here else None),
                    last_seen_s=last.at_s if last else None,
                    battery_pct=last.battery_pct if last else None,
                    skew_s=last.skew_s if last else 0.0,
                    refused=last.refused if last else 0,
                    revoked=device.revoked_s is not None,
                    version=device.version,
                )
            )
    return sorted(out, key=lambda d: -(d.last_seen_s or 0))


class RateLimit:
    """At most A_MINUTE batches a minute from one device, and few wrong tokens from all; kept in memory
    only, and by a clock that nobody sets."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._sent: dict[int, list[float]] = {}
        self._wrong: list[float] = []

    def _lately(self, times: list[float]) -> list[float]:
        return [t for t in times if t > self._clock() - 60]

    def take(self, device_id: int) -> None:
        """Count one batch. Raises Refused when there are too many."""
        with self._lock:
            lately = self._lately(self._sent.get(device_id, []))
            if len(lately) >= A_MINUTE:
                raise Refused(
                    "Too many batches in a minute: send more readings in one", too_many=True
                )
            self._sent[device_id] = [*lately, self._clock()]

    def wrong(self) -> None:
        """Count a wrong token. Raises Refused when there were too many; a right one is never held up."""
        with self._lock:
            self._wrong = self._lately(self._wrong)
            if len(self._wrong) >= WRONG_A_MINUTE:
                raise Refused("Too many wrong tokens: wait a minute", too_many=True)
            self._wrong.append(self._clock())


def find_device(session: Session, token: str) -> Device:
    """The device of a token. Raises Refused for a wrong or revoked one."""
    wanted = hash_of(token)
    found = session.exec(select(Device).where(Device.token_hash == wanted)).first()
    if (
        found is None
        or found.deleted_s is not None
        or found.revoked_s is not None
        or not hmac.compare_digest(found.token_hash, wanted)
    ):
        raise Refused("This token is not known here (or was revoked)")
    return found


def ingest(larder: Larder, limit: RateLimit, token: str, batch: Batch) -> dict[str, Any]:
    """Take in a device's batch; the same readings again add nothing.

    Not an act of a person, so it has no undo: one reading is voided like any other. Rows that cannot
    be (range, future, too old) are refused one by one and counted; a stored value stays where the
    batch says another. Raises Refused (token, rate), Conflict (clock), InvalidValue (too many rows).
    """
    now_s = larder.now_s()
    with looking_at(larder) as v:
        try:
            device = find_device(v.session, token)
        except Refused:
            limit.wrong()
            raise
    limit.take(key(device))
    if not 1 <= len(batch.readings) <= MOST_ROWS:
        raise InvalidValue("readings", len(batch.readings), f"1 to {MOST_ROWS} in one batch")
    skew = batch.sent_s - now_s
    if abs(skew) > figures().places.clock_skew_s:
        _heard(larder, key(device), now_s, batch, skew, len(batch.readings))
        raise Conflict(
            f"The logger's clock is off by {skew / 60:.0f} minutes: set it, then send again",
            skew_s=skew,
        )
    with larder.store.write() as session:
        here = _deployed(session, device.series_id)
        if here is None:
            raise Conflict(f"{device.name} stands nowhere: say where it is first")
        air = Air(session, household(session), now_s)
        columns, bad = _columns(batch, air.place_kind(here.node_id), now_s, here.from_s)
        new, known = np.empty(0, dtype=int), 0
        conflicts: list[dict[str, Any]] = []
        if len(columns.at_s):
            new, known, conflicts = compare(session, device.series_id, columns)
            store_rows(session, device.series_id, columns, new, None, lambda share: None)
        if len(new):
            read = kinds_read(True, bool(np.isfinite(columns.erh[new]).any()))
            since = previous_s(air, here.node_id, float(columns.at_s[new[0]]), read)
            mark_node(session, air, [here.node_id], since, read=True)
        _note(session, key(device), now_s, batch, skew, len(bad))
    return {
        "taken": len(new), "known": known + columns.repeats, "conflicts": len(conflicts),
        "refused": bad[:50], "refused_count": len(bad), "server_s": now_s,
    }  # fmt: skip


def _columns(
    batch: Batch, place_kind: str, now_s: int, from_s: int
) -> tuple[Columns, list[dict[str, Any]]]:
    low, high = temperature_limits_c(place_kind)
    good: dict[int, tuple[float, float]] = {}
    bad: list[dict[str, Any]] = []
    repeats = 0
    for i, r in enumerate(batch.readings):
        erh = float("nan") if r.humidity_pct is None else round(r.humidity_pct / 100, 6)
        reason = ""
        if r.at_s > now_s + figures().places.clock_skew_s or r.at_s < now_s - OLDEST_S:
            reason = "time: in the future or over 400 days old"
        elif r.at_s < from_s:
            reason = "time: before this logger stood here"
        elif r.temperature_c is None or not low <= r.temperature_c <= high:
            reason = f"temperature_c: {r.temperature_c} is outside {low:g} to {high:g}"
        elif r.humidity_pct is not None and not RH_RANGE[0] <= erh <= RH_RANGE[1]:
            reason = f"humidity_pct: {r.humidity_pct} is outside 1 to 100"
        if reason:
            bad.append({"index": i, "reason": reason})
            continue
        assert r.temperature_c is not None, "refused above"
        value = (round(r.temperature_c, 4), erh)
        repeats += r.at_s in good
        good.setdefault(r.at_s, value)
    at = np.array(sorted(good), dtype=np.int64)
    values = np.array([good[int(t)] for t in at], dtype=float).reshape(-1, 2)
    lines = np.arange(len(at), dtype=np.int64)
    return Columns(at, values[:, 0], values[:, 1], lines, repeats=repeats), bad


def _heard(
    larder: Larder, device_id: int, now_s: int, batch: Batch, skew: float, refused: int
) -> None:
    with larder.store.write() as session:
        _note(session, device_id, now_s, batch, skew, refused)


def _note(
    session: Session, device_id: int, now_s: int, batch: Batch, skew: float, refused: int
) -> None:
    session.execute(
        text(
            "INSERT INTO device_seen (device_id, at_s, battery_pct, skew_s, refused) "
            "VALUES (:d, :at, :b, :skew, :bad) ON CONFLICT (device_id) DO UPDATE SET at_s = :at, "
            "battery_pct = :b, skew_s = :skew, refused = refused + :bad"
        ),
        {"d": device_id, "at": now_s, "b": batch.battery_pct, "skew": skew, "bad": refused},
    )
