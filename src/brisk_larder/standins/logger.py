"""A simulated recording logger: hourly temperature and humidity of a kind of place, as its CSV."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np

from ..core.climate import PlaceCurve

DAY_S = 86_400


@dataclass(frozen=True)
class Spell:
    """A hot or damp stretch on top of the usual: degC and humidity added, day and night."""

    start_s: float
    end_s: float
    add_c: float
    add_erh: float


def simulate(
    curve: PlaceCurve, start_s: float, end_s: float, every_s: int, seed: int,
    spells: tuple[Spell, ...] = (),
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:  # fmt: skip
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
