"""How long the four searches take at sizes nobody has: a plan of 300 lines with locks that cannot all be, a
year of 200 foods, a bench of 150 tests, an order of 60 gaps from 500 offers.

    python benchmarks/sizes.py [--quick]

The baseline of each is the same search at a household's usual size in the same run (``ratio``: how many times
as long); ``gap``: how far a better answer could be (share).
"""

from __future__ import annotations

import json
import sys
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from time import perf_counter

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent))

from years import figures, household, limits

from brisk_larder.core.lines import regrow_plan as ye
from brisk_larder.core.needs import basket as ba
from brisk_larder.core.needs.room import Has, Held, Takes, fit
from brisk_larder.core.trials import benchplan as bp

DAY = date(2027, 4, 1)


def years(n: int) -> float:
    """A plan in which a third of the lines has years settled that stand against each other."""
    dice = np.random.default_rng(1)
    lines = [
        replace(x, agreed=frozenset({0, 1, 2})) if dice.random() < 0.33 else x
        for x in household(dice, n, 6)
    ]
    return ye.plan_years(lines, limits(lines, 6), figures().regrow).gap


def room(n: int) -> float:
    """A year of so many foods of which about two thirds fit."""
    dice = np.random.default_rng(2)

    def held(amount: float) -> Held:
        first = DAY + timedelta(days=int(dice.integers(0, 150)))
        return Held(amount, first, first + timedelta(days=int(dice.integers(30, 140))))

    takes = [
        Takes(
            f"k{i}",
            float(dice.integers(1, 10)),
            held(float(dice.uniform(1, 30))),
            held(float(dice.uniform(0, 200))),
            float(dice.uniform(0, 5)),
            {1.0: float(dice.uniform(0, 40))},
        )
        for i in range(n)
    ]
    has = Has(7.0 * n / 2, 45.0 * n / 2, 1.6 * n, {1.0: 13.0 * n})
    return fit(takes, has, figures().room).gap


def bench(n: int) -> float:
    """So many tests over eight evenings in six spots, of which half find room."""
    dice = np.random.default_rng(3)
    spots = [bp.Spot(float(t), "either", max(2, n // 12)) for t in (12, 15, 18, 20, 23, 26)]
    tests = [
        bp.Asked(
            float(dice.integers(-5, 60)), float(dice.integers(5, 25)), 0.0, int(dice.integers(1, 3)),
            low := float(dice.integers(10, 22)), low + 6.0, 4.0, 34.0, "either", float(dice.uniform(0.1, 3)),
        )
        for _ in range(n)
    ]  # fmt: skip
    evenings = [7.0 * i for i in range(8)]
    return bp.planned(tests, spots, evenings, figures().trials, figures().bench).gap


def basket(n: int) -> float:
    """So many offers of twenty sellers for an eighth as many gaps."""
    dice = np.random.default_rng(4)
    kinds = [f"kind {i}" for i in range(max(2, n // 10))]
    offers = [
        ba.Offer(
            i, f"seller {i % 20}", str(dice.choice(kinds)), "", int(dice.integers(15, 120)),
            float(dice.integers(2, 9)), 7.0, 3,
        )
        for i in range(n)
    ]  # fmt: skip
    gaps = [
        ba.Gap(
            f"g{i}", frozenset({str(dice.choice(kinds))}), "", 60.0, 1.0 + i % 5,
            int(dice.integers(20, 150)),
        )
        for i in range(max(2, n * 3 // 25))
    ]  # fmt: skip

    def needs(gap: ba.Gap, offer: ba.Offer, beside) -> int:
        have = sum(0.8 * seeds for _, seeds in beside)
        return max(0, int(np.ceil((gap.plants - have) / 0.8 - 1e-9)))

    post = {f"seller {i}": 3.0 for i in range(20)}
    return ba.cheapest(gaps, offers, post, 60.0 + n / 4, needs, figures().basket).gap


CASES = {
    "years": (years, 20, 300),
    "room": (room, 20, 200),
    "bench": (bench, 15, 150),
    "basket": (basket, 40, 500),
}


def main() -> None:
    """A line for each search, then one of JSON."""
    quick = "--quick" in sys.argv
    out: dict[str, dict[str, float]] = {}
    for name, (search, usual, large) in CASES.items():
        took = []
        for size in (usual, usual * 2 if quick else large):
            begin = perf_counter()
            gap = search(size)
            took.append(perf_counter() - begin)
        out[name] = {
            "usual_s": round(took[0], 3),
            "large_s": round(took[1], 3),
            "ratio": round(took[1] / took[0], 1),
            "gap": round(gap, 4),
        }
        print(
            f"{name}: {usual} in {took[0]:.2f} s, {size} in {took[1]:.2f} s, gap {gap:.4f}",
            flush=True,
        )
    print(json.dumps(out))


if __name__ == "__main__":
    main()
