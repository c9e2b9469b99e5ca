"""Keeping a line alive: the last year in which its seed still gives enough mother plants."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .moisture import Floats
from .plants import Seed, Sown, chance
from .reasons import Reason


@dataclass(frozen=True)
class Line:
    """An open-pollinated variety to be kept.

    crossing_group: lines of one group cross in the garden; seasons: 2 for biennials;
    last_safe_year: None when not even this year is safe; safe_chance: P(enough mothers) by year.
    """

    key: int
    crossing_group: str
    seasons: int
    last_safe_year: int | None
    outcrossing: bool


@dataclass(frozen=True)
class Regrow:
    """One line's proposed year and why."""

    line: int
    year: int
    last_safe_year: int | None
    reason: Reason


def chance_of_mothers(held: Sequence[Floats], lots: Sequence[Seed], min_plants: int) -> float:
    """P(all lots of a line together give at least ``min_plants`` mother plants). ``held``: what may be in
    each lot in each world [S]."""
    return chance(min_plants, [Sown(n, one) for n, one in zip(held, lots, strict=True)])


def last_safe_year(
    years: Sequence[int], chances: Sequence[float], confidence: float = 0.95
) -> int | None:
    """Last year of an unbroken run from the first in which the chance holds; None if not even that."""
    safe = None
    for year, sure in zip(years, chances, strict=True):
        if sure < confidence:
            break
        safe = year
    return safe


def propose(
    lines: Sequence[Line],
    years: Sequence[int],
    per_year: int,
    locked: Mapping[int, int] | None = None,
) -> tuple[Regrow, ...]:
    """First proposal by year, greedily: the most urgent line first, each as late as is safe.

    One outcrossing line per crossing group and year; at most ``per_year`` lines a year. Where no
    year keeps all rules the line goes to its last safe year (or now) and its reason says so.
    Lines safe beyond the last year are left alone. ``locked``: years the keeper has set.
    """
    fixed = dict(locked or {})
    load = dict.fromkeys(years, 0)
    groups: dict[int, set[str]] = {year: set() for year in years}
    out: list[Regrow] = []
    last = years[-1]

    def place(line: Line, year: int, code: str) -> None:
        load[year] = load.get(year, 0) + 1
        if line.outcrossing:
            groups.setdefault(year, set()).add(line.crossing_group)
        figures = {"last_safe_year": line.last_safe_year, "year": year, "seasons": line.seasons}
        out.append(Regrow(line.key, year, line.last_safe_year, Reason(f"regrow_{code}", figures)))

    for line in lines:
        if line.key in fixed:
            place(line, fixed[line.key], "locked")
    free = [
        line
        for line in lines
        if line.key not in fixed and (line.last_safe_year is None or line.last_safe_year < last)
    ]
    for line in sorted(free, key=lambda x: (x.last_safe_year or 0, x.key)):
        if line.last_safe_year is None:
            place(line, years[0], "already_unsafe")
            continue
        allowed = [y for y in years if y <= line.last_safe_year]
        fits = [
            y
            for y in allowed
            if load[y] < per_year and not (line.outcrossing and line.crossing_group in groups[y])
        ]
        if fits:
            latest = fits[-1]
            place(line, latest, "last_safe" if latest == line.last_safe_year else "moved_forward")
        else:
            place(line, allowed[-1], "crowded")
    return tuple(sorted(out, key=lambda r: (r.year, r.line)))
