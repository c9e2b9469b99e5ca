"""A simulated recording logger: temperature and humidity of a kind of place, as the file it writes or
as the batches it sends; it can drop out, repeat itself, drift and send nonsense."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np

from ..core.storage.climate import PlaceCurve

DAY_S = 86_400


@dataclass(frozen=True)
class Spell:
    """A hot or damp stretch on top of the usual: degC and humidity added, day and night."""

    start_s: float
    end_s: float
    add_c: float
    add_erh: float


def simulate(
    curve: PlaceCurve,
    start_s: float,
    end_s: float,
    every_s: int,
    seed: int,
    spells: tuple[Spell, ...] = (),
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times (epoch s), degC and humidity fractions of a place: season, weather, day and night.

    Weather is a first-order autoregressive departure with the curve's sd and memory; the day is a
    sine with the curve's swing. Seeded: the same arguments give the same record.
    """
    rng = np.random.default_rng(seed)
    at = np.arange(int(start_s), int(end_s), every_s, dtype=np.int64)
    keep = float(np.exp(-every_s / (curve.memory_days * DAY_S)))
    noise_c = rng.normal(0, curve.anomaly_sd_c * np.sqrt(1 - keep**2), len(at))
    noise_erh = rng.normal(0, curve.anomaly_sd_erh * np.sqrt(1 - keep**2), len(at))
    weather_c, weather_erh = np.empty(len(at)), np.empty(len(at))
    c = erh = 0.0
    for i in range(len(at)):
        c, erh = keep * c + noise_c[i], keep * erh + noise_erh[i]
        weather_c[i], weather_erh[i] = c, erh
    hour = (at % DAY_S) / 3600
    day = np.sqrt(2) * curve.swing_sd_c * np.sin(2 * np.pi * (hour - 9) / 24)
    temperature = curve.temperature_c(at.astype(float)) + weather_c + day
    humidity = curve.erh(at.astype(float)) + weather_erh - 0.008 * day
    for spell in spells:
        inside = (at >= spell.start_s) & (at < spell.end_s)
        temperature[inside] += spell.add_c
        humidity[inside] += spell.add_erh
    return at, np.round(temperature, 1), np.round(np.clip(humidity, 0.08, 0.97), 3)


def logger_csv(device: str, at_s: np.ndarray, temperature_c: np.ndarray, erh: np.ndarray) -> str:
    """The file such a logger writes: a device line, a header, UTC times."""
    lines = [f"device: {device}", "time,temperature_c,humidity_pct"]
    for at, t, h in zip(at_s, temperature_c, erh, strict=True):
        moment = datetime.fromtimestamp(int(at), UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        lines.append(f"{moment},{t:.1f},{100 * h:.1f}")
    return "\n".join(lines) + "\n"


@dataclass(frozen=True)
class Faults:
    """What goes wrong: chances per reading of dropping out and of nonsense, per batch of being sent
    again, drift in degC a day, and by how many seconds its clock is off."""

    drop: float = 0.0
    nonsense: float = 0.0
    repeat: float = 0.0
    drift_c_per_day: float = 0.0
    clock_off_s: float = 0.0


@dataclass
class Sender:
    """A logger that sends: ``post`` carries one batch and answers (status, body).

    When it is told that its clock is off (409 with ``skew_s``) it sets it and sends again.
    """

    post: Callable[[dict[str, object]], tuple[int, dict[str, object]]]
    seed: int
    faults: Faults = field(default_factory=Faults)
    clock_off_s: float = 0.0
    sent: int = 0
    taken: int = 0
    known: int = 0
    refused: int = 0
    last: str = ""

    def __post_init__(self) -> None:
        self.clock_off_s = self.faults.clock_off_s

    def batches(
        self, at_s: np.ndarray, temperature_c: np.ndarray, erh: np.ndarray, size: int
    ) -> Iterator[list[dict[str, object]]]:
        """A record cut into batches, with its faults put in."""
        rng = np.random.default_rng(self.seed)
        rows: list[dict[str, object]] = []
        start = float(at_s[0]) if len(at_s) else 0.0
        for at, t, h in zip(at_s, temperature_c, erh, strict=True):
            if rng.random() < self.faults.drop:
                continue
            t = t + self.faults.drift_c_per_day * (at - start) / DAY_S
            row: dict[str, object] = {
                "at_s": int(at),
                "temperature_c": round(float(t), 1),
                "humidity_pct": round(100 * float(h), 1),
            }
            if rng.random() < self.faults.nonsense:
                wrong: tuple[str, float | None] = [
                    ("temperature_c", 999.9),
                    ("humidity_pct", -4.0),
                    ("temperature_c", None),
                ][int(rng.integers(3))]
                row[wrong[0]] = wrong[1]
            rows.append(row)
            if len(rows) == size:
                yield rows
                if rng.random() < self.faults.repeat:
                    yield rows
                rows = []
        if rows:
            yield rows

    def send(self, now_s: float, rows: list[dict[str, object]], battery_pct: float) -> int:
        """Send one batch at its own idea of the time; returns the last status."""
        status, body = 0, dict[str, object]()
        for _ in range(2):
            batch = {
                "sent_s": now_s + self.clock_off_s,
                "battery_pct": battery_pct,
                "readings": rows,
            }
            status, body = self.post(batch)
            if status == 409 and "skew_s" in body:
                self.clock_off_s -= float(str(body["skew_s"]))
                continue
            break
        self.last = str(body.get("detail", ""))
        if status == 200:
            self.sent += len(rows)
            self.taken += int(str(body["taken"]))
            self.known += int(str(body["known"]))
            self.refused += int(str(body["refused_count"]))
        return status


def as_json(batch: dict[str, object]) -> bytes:
    """The body of one batch."""
    return json.dumps(batch).encode()
