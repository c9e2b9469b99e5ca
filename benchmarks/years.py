"""How long the plan of the years takes, and how much better it is than a greedy one.

    python benchmarks/years.py [--quick] [lines 60] [years 6] [cases 5]

Made-up households: lines of some crossing groups, some biennial, whose seed in hand fails in some year and
whose new seed keeps some years. The greedy plan (the baseline) takes the lines by how soon they must
be grown, and gives each the pattern that costs least beside those already placed.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from time import perf_counter

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from brisk_larder.core.base.figures import Figures
from brisk_larder.core.base.figures_planning import RegrowFigures
from brisk_larder.core.lines import regrow_plan as ye
from brisk_larder.reference import load_reference

PROMISED = 0.95


def figures() -> Figures:
    """The figures of the model."""
    return load_reference().figures


def household(rng: np.random.Generator, lines: int, years: int) -> list[ye.KeptLine]:
    """Lines whose chances fall below what is promised after some years."""
    groups = max(2, lines // 5)
    out = []
    for key in range(lines):
        safe, life = int(rng.integers(-1, years + 3)), int(rng.integers(1, years + 3))
        at, after = np.arange(years), np.arange(years + 1)
        chances = np.clip(0.97 - 0.2 * np.maximum(at - safe, 0), 0.02, 1.0)
        fresh = np.clip(0.98 - 0.15 * np.maximum(after - life, 0), 0.02, 1.0)
        out.append(
            ye.KeptLine(
                key,
                f"group {rng.integers(groups)}",
                1 + int(rng.random() < 0.25),
                bool(rng.random() < 0.6),
                bool(rng.random() < 0.3),
                str(rng.choice(ye.PURITY, p=[0.3, 0.5, 0.2])),
                float(rng.choice([0.5, 1.0, 2.0, 4.0])),
                tuple(chances.tolist()),
                tuple(fresh.tolist()),
            )
        )
    return out


def limits(lines: list[ye.KeptLine], years: int) -> ye.Limits:
    """What years bear in which about two thirds of the work falls due."""
    bed = sum(x.bed_m2 for x in lines)
    return ye.Limits(PROMISED, bed / years * 1.2, max(2, round(len(lines) / years * 1.1)))


def greedy(lines: list[ye.KeptLine], bounds: ye.Limits, f: RegrowFigures) -> ye.YearsPlan:
    """One line after the other, the most urgent first, each as is cheapest beside those placed."""
    order = sorted(lines, key=lambda x: (x.safe_to(bounds.promised), x.key))
    chosen: dict[int, ye.Pattern] = {}
    placed: list[ye.KeptLine] = []
    for line in order:
        placed.append(line)
        chosen[line.key] = min(
            ye.patterns(line, bounds.promised, f),
            key=lambda p: ye.priced(placed, {**chosen, line.key: p}, bounds, f).cost,
        )
    return ye.priced(lines, chosen, bounds, f)


def after(word: str, usual: int) -> int:
    """The number that follows a word of the command line."""
    return int(sys.argv[sys.argv.index(word) + 1]) if word in sys.argv else usual


def main() -> None:
    """A line for each case, then one of JSON: seconds, gap, what the greedy plan costs more (percent)."""
    quick = "--quick" in sys.argv
    f, count, years = figures().regrow, after("lines", 12 if quick else 60), after("years", 6)
    found: dict[str, list[float]] = {"seconds": [], "again_s": [], "gap": [], "greedy_pct": []}
    for seed in range(after("cases", 2 if quick else 5)):
        lines = household(np.random.default_rng(seed), count, years)
        bounds = limits(lines, years)
        begin = perf_counter()
        plan = ye.plan_years(lines, bounds, f)
        seconds = perf_counter() - begin
        other = greedy(lines, bounds, f)
        begin = perf_counter()
        one = lines[0]
        wish = ye.KeptLine(**{**vars(one), "agreed": frozenset({1})})
        ye.plan_years([wish, *lines[1:]], bounds, f)
        again = perf_counter() - begin
        more = 100 * (other.cost / plan.cost - 1)
        print(
            f"{seconds:.2f} s, again after one wish {again:.2f} s, gap {plan.gap:.4f}, cost {plan.cost:.1f}, "
            f"greedy {other.cost:.1f} (+{more:.1f} %)"
        )
        for name, value in zip(found, (seconds, again, plan.gap, more), strict=True):
            found[name].append(round(value, 4))
    print(json.dumps(found))


if __name__ == "__main__":
    main()
