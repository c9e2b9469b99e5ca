"""Full recomputation of the ageing of many lots, hourly over ten years in forty containers.

Against two baselines in the same run, both scaled up from a part: a plain numpy loop (hour by hour,
the lots of a container at once) and a plain loop over lots and hours. The last line is JSON.

Usage: python benchmarks/ageing.py [--quick]
"""

from __future__ import annotations

import json
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from brisk_larder.core.seed import ageing
from brisk_larder.core.storage import climate, moisture
from brisk_larder.services.household.kinds import Kinds, reference

QUICK = "--quick" in sys.argv
LOTS, YEARS, BOXES = (200, 1, 4) if QUICK else (2000, 10, 40)
PLAIN_HOURS, LOOP_LOTS, LOOP_HOURS = (2000, 2, 2000) if QUICK else (8766, 3, 8766)
GRID = np.linspace(0, 1, moisture.GRID_POINTS)


NODES = np.sqrt(2) * np.cos((2 * np.arange(1, 9) - 1) * np.pi / 16)


def rates(classes, c, mean, dry, box, i):
    """The viability equation written out once more, for one class or an array of them; ``dry``: doubt of
    the humidity behind the wall."""
    ke, cw, ch, cq = (np.asarray(getattr(classes, n))[c] for n in ("ke", "cw", "ch", "cq"))
    t, sd = box.temperature_c[i], box.sd_c[i]
    log_m = moisture.log10_moisture(classes.iso, np.atleast_1d(c), np.atleast_1d(mean))
    x = np.clip(t + box.swing_sd_c[i] * NODES, -20, 45)[:, None]
    swung = (10 ** (ch * x + cq * x * x)).mean(axis=0)
    room = 1 - 2 * np.log(10) * cq * sd**2
    apart = np.exp((np.log(10) * (ch + 2 * cq * t)) ** 2 * sd**2 / (2 * room)) / np.sqrt(room)
    step = 1 / (moisture.GRID_POINTS - 1)
    at = np.minimum(np.atleast_1d(mean) // step * step, 1 - step)
    low, high = (moisture.log10_moisture(classes.iso, np.atleast_1d(c), v) for v in (at, at + step))
    damp = np.exp(0.5 * (np.log(10) * cw * (high - low) / step * dry) ** 2)
    return 10 ** (-ke + cw * log_m) * swung * apart * damp


def main() -> None:
    keys, classes = tuple(reference().crops), Kinds({}).classes
    rng = np.random.default_rng(1)
    hours = YEARS * 8766
    at = climate.Panels(np.arange(hours) * 3600, np.full(hours, 1.0))
    curve = climate.PlaceCurve(12.5, 4.5, 225, 0.8, 0.64, 0.06, 225, 1.2, 0.06, 35)
    boxes = []
    for _ in range(BOXES):
        box = climate.usual(curve, at)
        box.temperature_c[:] += rng.normal(0, 1, hours)
        boxes.append(box)
    per_box = LOTS // BOXES
    class_ix = rng.integers(0, len(keys), (BOXES, per_box))
    tau = rng.uniform(0.5, 400, (BOXES, per_box))
    start = ageing.fresh_state(np.full(per_box, 0.4), np.full(per_box, 0.1))
    stop = np.arange(hours) % 730 == 729

    def box_of(b):
        return ageing.carry(start, classes, class_ix[b], boxes[b], tau[b], stop).state.a_probit

    ageing.carry(start, classes, class_ix[0], boxes[0].slice(0, 9), tau[0])  # compiled before
    started = time.perf_counter()
    ours = [box_of(b) for b in range(BOXES)]
    one = time.perf_counter() - started
    started = time.perf_counter()
    with ThreadPoolExecutor(2) as pool:
        both = list(pool.map(box_of, range(BOXES)))
    two = time.perf_counter() - started
    assert all(np.array_equal(a, b) for a, b in zip(ours, both, strict=True))

    def numpy_loop(b, count):
        c, box = class_ix[b], boxes[b].slice(0, count)
        towards = moisture.balance(classes.iso, c, box.erh25, box.temperature_c)
        u, a, remain = np.full(per_box, 0.4), np.zeros(per_box), np.ones(per_box)
        pace = moisture.vapour_pace(box.temperature_c)
        for i in range(count):
            x = pace[i] / 24 / tau[b]
            q = np.exp(-x)
            mean = towards[:, i] + (u - towards[:, i]) * (1 - q) / x
            u = towards[:, i] + (u - towards[:, i]) * q
            remain *= q
            a += rates(classes, c, mean, box.sd_erh[i] * (1 - remain), box, i) / 24
        return a

    started = time.perf_counter()
    check = numpy_loop(0, PLAIN_HOURS)
    plain = (time.perf_counter() - started) * BOXES * hours / PLAIN_HOURS
    same = ageing.carry(start, classes, class_ix[0], boxes[0].slice(0, PLAIN_HOURS), tau[0]).state
    worst = float(np.abs(check / same.a_probit - 1).max())

    started = time.perf_counter()
    for j in range(LOOP_LOTS):  # the same without numpy's help over lots
        c, u = class_ix[0, j], 0.4
        pace = moisture.vapour_pace(boxes[0].temperature_c)
        towards = moisture.balance(classes.iso, class_ix[0, j : j + 1], boxes[0].erh25,
                                   boxes[0].temperature_c)[0]  # fmt: skip
        for i in range(LOOP_HOURS):
            x = pace[i] / 24 / tau[0, j]
            mean = towards[i] + (u - towards[i]) * (1 - np.exp(-x)) / x
            u = towards[i] + (u - towards[i]) * np.exp(-x)
            rates(classes, c, mean, boxes[0].sd_erh[i], boxes[0], i)
    loop = (time.perf_counter() - started) * LOTS / LOOP_LOTS * hours / LOOP_HOURS
    found = {
        "one_thread_s": one, "two_threads_s": two, "numpy_loop_s": plain, "loop_s": loop,
        "ratio": plain / one, "ratio_loop": loop / one, "difference": worst,
    }  # fmt: skip
    print(f"{LOTS} lots x {hours} hours x {BOXES} containers")
    for name, value in found.items():
        print(f"{name:<20}{value:12.3g}")
    print(json.dumps(found))


main()
