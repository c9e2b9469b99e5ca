"""Ageing of many lots over ten years of hourly climate, against a plain loop over lots.

Usage: python benchmarks/ageing.py [--quick]. The last line is JSON.
"""

from __future__ import annotations

import json
import sys
import time

import numpy as np

from brisk_larder.core import ageing, climate, moisture
from brisk_larder.services.crops import _base

QUICK = "--quick" in sys.argv
LOTS, YEARS = (200, 2) if QUICK else (1000, 5)
PLAIN_LOTS = 4 if QUICK else 8


def main() -> None:
    _, keys, classes = _base()
    rng = np.random.default_rng(1)
    hours = YEARS * 8766
    at = climate.Panels(np.arange(hours) * 3600, np.full(hours, 1.0))
    curve = climate.PlaceCurve(12.5, 4.5, 225, 0.8, 0.64, 0.06, 225, 1.2, 0.06, 35)
    base = climate.usual(curve, at)
    base.temperature_c[:] += rng.normal(0, 1, hours)
    class_ix = rng.integers(0, len(keys), LOTS)
    tau = rng.uniform(0.5, 400, LOTS)
    state = ageing.fresh_state(np.full(LOTS, 0.4), np.full(LOTS, 0.1))
    month = 730
    started = time.perf_counter()
    for first in range(0, hours, month):
        state = ageing.integrate(
            state, classes, class_ix, base.slice(first, first + month), tau
        ).state
    ours = time.perf_counter() - started

    # the plain baseline: one lot at a time, one hour at a time, the same formulas
    grid = np.linspace(0, 1, moisture.GRID_POINTS)
    started = time.perf_counter()
    worst = 0.0
    for lot in range(PLAIN_LOTS):
        c = int(class_ix[lot])
        towards = moisture.balance(
            classes.iso, class_ix[lot : lot + 1], base.erh25, base.temperature_c
        )[0]
        log_m = classes.iso.log10_mc_fwb[c]
        ke, cw, ch, cq = (float(getattr(classes, n)[c]) for n in ("ke", "cw", "ch", "cq"))
        u, a, q = 0.4, 0.0, float(np.exp(-1 / 24 / tau[lot]))
        x = 1 / 24 / tau[lot]
        for i in range(hours):
            mean = towards[i] + (u - towards[i]) * (1 - q) / x
            u = towards[i] + (u - towards[i]) * q
            t = float(base.temperature_c[i])
            rate = 10 ** (-ke + cw * np.interp(mean, grid, log_m) + ch * t + cq * t * t)
            s2 = float(base.swing_sd_c[i]) ** 2
            slope, bend = np.log(10) * (ch + 2 * cq * t), np.log(10) * cq
            room = 1 - 2 * bend * s2
            a += rate * np.exp(slope**2 * s2 / (2 * room)) / np.sqrt(room) / 24
        worst = max(worst, abs(a / state.a_probit[lot] - 1))
    plain = (time.perf_counter() - started) * LOTS / PLAIN_LOTS
    print(f"{'lots x hours':<28}{LOTS} x {hours}")
    print(f"{'ours':<28}{ours:8.2f} s")
    print(f"{'plain loop (scaled up)':<28}{plain:8.2f} s")
    print(f"{'ratio':<28}{plain / ours:8.1f}")
    print(f"{'largest difference of A':<28}{worst:8.1e}")
    print(
        json.dumps({"ours_s": ours, "plain_s": plain, "ratio": plain / ours, "difference": worst})
    )


main()
