"""Which kept line is grown anew in which year, over several years: no line past its last safe year, no two
that cross in flower together unless one is kept apart, the beds, the work and the winter store of each year
kept.

Of each line the sensible patterns of years are listed, and the solver takes one pattern a line (HiGHS;
Huangfu & Hall 2018). All is counted in growings: a pattern costs its growings, a year in which too few
mothers are promised, and earliness; lines together cost what must be kept apart, beds to borrow and work
beyond what a year bears. What no plan can keep is paid for and told, so that there is always a plan.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.optimize import Bounds, milp

from ..base.figures_planning import RegrowFigures
from ..base.solving import Rows, Term

Pattern = tuple[int, ...]
PURITY = ("strict", "mostly", "any")


@dataclass(frozen=True)
class KeptLine:
    """A line over H years, numbered from 0. ``chances`` [H]: P(enough mothers) from the seed in hand;
    ``fresh`` [H + 1]: from seed harvested so many years before; ``seasons`` in the ground (of two it flowers
    in the second); ``crosses``: with its group, by wind or by insects; ``purity``: of PURITY; bed (m2);
    years that the keeper has settled on (``agreed``) or ruled out (``barred``), and years in flower in which
    it is kept apart by the keeper's own word (``apart``); ``hedge``: pollen of its group comes over it;
    ``roots``: to store over the winter between its two seasons; ``late``: years at the start in which its
    sowing is over; ``told``: the year that was told for its first growing (None: none was)."""

    key: int
    group: str
    seasons: int
    crosses: bool
    by_wind: bool
    purity: str
    bed_m2: float
    chances: tuple[float, ...]
    fresh: tuple[float, ...]
    agreed: frozenset[int] = frozenset()
    barred: frozenset[int] = frozenset()
    apart: frozenset[int] = frozenset()
    hedge: bool = False
    roots: int = 0
    late: int = 0
    told: int | None = None

    @property
    def cares(self) -> bool:
        """Whether it is to come true."""
        return self.purity != "any"

    @property
    def years(self) -> int:
        """H."""
        return len(self.chances)

    def flowers(self, sown: int) -> int:
        """The year in which it flowers, sown in one."""
        return sown + self.seasons - 1

    def safe_to(self, promised: float) -> int:
        """The last year of an unbroken run from the first that promises its mothers; -1: none."""
        return _run(self.chances, promised) - 1

    def fresh_for(self, promised: float) -> int:
        """Years after a harvest in which its seed promises its mothers."""
        return max(_run(self.fresh, promised) - 1, 1)


def how_it_stands(line: KeptLine, first: int, promised: float, *, running: bool) -> str:
    """The code of how a line stands that is grown first in year ``first``; ``running``: a test of its seed is
    under way, and nothing is said before it. In this order: settled by the keeper, not safe any more, later
    than is safe for want of room, in its last safe year, before it."""
    safe = line.safe_to(promised)
    if running:
        return "regrow_wait"
    if first in line.agreed:
        return "regrow_locked"
    if safe < 0:
        return "regrow_already_unsafe"
    if first > safe:
        return "regrow_crowded"
    return "regrow_last_safe" if first == safe else "regrow_moved_forward"


def _run(chances: Sequence[float], promised: float) -> int:
    return next((i for i, c in enumerate(chances) if c < promised), len(chances))


@dataclass(frozen=True)
class Limits:
    """What a year bears: bed for seed growing (m2, None: nobody said), lines to tend, roots in the winter
    store (None: nobody said); and the chance of mothers that is promised."""

    promised: float
    bed_m2: float | None
    lines: int
    winter_roots: int | None = None


@dataclass(frozen=True)
class YearsPlan:
    """Years of each line (by key), lines kept apart as (line, year in flower), m2 to borrow and lines beyond
    what is borne by year [H], roots beyond the store in the winter after each year [H], the cost in growings,
    and how far a better plan could at most be (share; 0: proven best)."""

    chosen: dict[int, Pattern]
    apart: frozenset[tuple[int, int]]
    borrowed_m2: tuple[float, ...]
    beyond: tuple[float, ...]
    cost: float
    gap: float = 0.0
    parts: dict[str, float] = field(default_factory=dict)
    over_store: tuple[float, ...] = ()

    def not_kept(self, line: KeptLine) -> list[int]:
        """Years that were agreed for a line and are not in the plan."""
        return sorted(line.agreed - set(self.chosen.get(line.key, ())))


def lost(chance: float, promised: float, f: RegrowFigures) -> float:
    """What it costs to rely on a chance of mothers that is less than promised."""
    return 0.0 if chance >= promised else f.unsafe_cost + f.loss_cost * (promised - chance)


def _at_the_end(chance: float, promised: float, f: RegrowFigures) -> float:
    """The same after the last year: who left a line unsafe still owes it a growing."""
    rest = lost(chance, promised, f)
    return rest + f.owed_cost if rest else 0.0


def own_cost(line: KeptLine, pattern: Pattern, promised: float, f: RegrowFigures) -> float:
    """What a pattern of a line costs by itself."""
    last = line.years - 1
    retold = line.told is not None and (pattern[0] if pattern else None) != line.told
    if not pattern:
        return _at_the_end(line.chances[last], promised, f) + f.retold_cost * retold
    cost = f.retold_cost * retold + len(pattern) * (1.0 + f.season_cost * (line.seasons - 1))
    cost += lost(line.chances[pattern[0]], promised, f)
    cost += f.late_cost * max(0, pattern[0] - max(line.safe_to(promised), 0))
    cost += f.early_cost * max(0, line.safe_to(promised) - pattern[0])
    harvests = [line.flowers(year) for year in pattern]
    for harvest, again in zip(harvests, pattern[1:], strict=False):
        cost += lost(line.fresh[again - harvest], promised, f)
        cost += f.early_cost * max(0, line.fresh_for(promised) - (again - harvest))
    if last > harvests[-1]:
        cost += _at_the_end(line.fresh[last - harvests[-1]], promised, f)
    moved = len(line.agreed - set(pattern))
    return cost + f.moved_cost * moved


def possible(line: KeptLine) -> frozenset[int]:
    """Of the years that are agreed those that can be had together, the earlier first: a line is not sown anew
    before it has flowered, nor in a year that is ruled out."""
    kept: list[int] = []
    for year in sorted(line.agreed):
        free = not kept or year > line.flowers(kept[-1])
        if 0 <= year < line.years and year not in line.barred and free:
            kept.append(year)
    return frozenset(kept)


def patterns(line: KeptLine, promised: float, f: RegrowFigures) -> list[Pattern]:
    """Patterns of years worth a thought, the cheapest first: grown again when its fresh seed is nearly past,
    and in every year that is agreed; no year that is ruled out. Where the years that are agreed cannot
    all be (a biennial in two years running), in as many as can, the earlier first: there is always one."""
    asked, line = line, replace(line, agreed=possible(line))
    life = line.fresh_for(promised)

    def on(done: Pattern) -> Iterator[Pattern]:
        if line.agreed <= set(done):
            yield done
        harvest = line.flowers(done[-1]) if done else -1
        safe = harvest + life if done else line.safe_to(promised)
        for year in range(harvest + 1 if done else 0, line.years):
            if year in line.barred:
                continue
            soon = done and year < harvest + max(1, life - f.patterns_early_years)
            needless = safe >= line.years - 1  # it is safe to the end as it is
            if (soon or needless) and year not in line.agreed:
                continue
            yield from on((*done, year))

    found = sorted({p for p in on(())}, key=lambda p: (own_cost(asked, p, promised, f), p))
    return found[: f.patterns_most]


def apart_cost(line: KeptLine, f: RegrowFigures) -> float:
    """What keeping a flowering line apart costs: a bag and a brush, or for wind a place out of reach."""
    cost = f.apart_wind if line.by_wind else f.apart_insect
    return cost * (f.apart_strict if line.purity == "strict" else 1.0)


def kept_apart(
    flowering: Sequence[KeptLine], year: int, f: RegrowFigures
) -> tuple[set[int], float]:
    """Which lines of one group that flower together are kept apart at least cost, and the cost: one that
    cares may stand open where all others are apart and no pollen comes over the hedge; lines that
    welcome surprises may stand open together."""
    told = {x.key for x in flowering if year in x.apart}
    cost = {x.key: 0.0 if x.key in told else apart_cost(x, f) for x in flowering}
    ways = [told | {x.key for x in flowering if x.cares}]  # every one that cares
    ways += [
        told | {x.key for x in flowering if x.key != one.key}
        for one in flowering
        if one.cares and not one.hedge and one.key not in told
    ]
    best = min(ways, key=lambda way: (sum(cost[k] for k in way), sorted(way)))
    return best, sum(cost[k] for k in best)


def _groups(lines: Sequence[KeptLine]) -> dict[str, list[KeptLine]]:
    out: dict[str, list[KeptLine]] = {}
    for line in lines:
        if line.crosses:
            out.setdefault(line.group, []).append(line)
    return out


def priced(
    lines: Sequence[KeptLine], chosen: Mapping[int, Pattern], limits: Limits, f: RegrowFigures
) -> YearsPlan:
    """What a choice of patterns costs in all, and what follows from it."""
    years = max((x.years for x in lines), default=0)
    by_itself = sum(own_cost(x, chosen[x.key], limits.promised, f) for x in lines)
    apart, together = set[tuple[int, int]](), 0.0
    for members in _groups(lines).values():
        for year in range(years):
            open_ = [x for x in members if year in map(x.flowers, chosen[x.key])]
            if open_:
                who, cost = kept_apart(open_, year, f)
                apart |= {(k, year) for k in who}
                together += cost
    bed, work, stored = np.zeros(years), np.zeros(years), np.zeros(years)
    for x in lines:
        for sown in chosen[x.key]:
            work[sown] += 1
            stored[sown] += x.roots if x.seasons > 1 else 0
            bed[sown : x.flowers(sown) + 1] += x.bed_m2
    borrowed = np.zeros(years)
    if limits.bed_m2 is not None:
        borrowed = np.maximum(bed - limits.bed_m2, 0.0)
    beyond = np.maximum(work - limits.lines, 0.0)
    over = np.zeros(years)
    if limits.winter_roots is not None:
        over = np.maximum(stored - limits.winter_roots, 0.0)
    parts = {
        "lines": by_itself,
        "apart": together,
        "bed": float(f.borrow_cost * borrowed.sum()),
        "work": float(f.beyond_cost * beyond.sum()),
        "store": float(f.store_cost * over.sum()),
    }
    return YearsPlan(
        dict(chosen), frozenset(apart), tuple(borrowed.tolist()), tuple(beyond.tolist()),
        sum(parts.values()), 0.0, parts, tuple(over.tolist()),
    )  # fmt: skip


def _when(
    lines: Sequence[KeptLine], listed: Sequence[tuple[int, Pattern]]
) -> tuple[dict[tuple[int, int], list[int]], dict[int, list[int]], dict[int, list[Term]]]:
    """Columns of patterns in which a line flowers in a year (by line and year), is sown, and takes bed."""
    flowering: dict[tuple[int, int], list[int]] = {}
    sown: dict[int, list[int]] = {}
    in_bed: dict[int, list[Term]] = {}
    for j, (i, pattern) in enumerate(listed):
        last = lines[i].years - 1
        for year in pattern:
            flowers = lines[i].flowers(year)
            if flowers <= last:
                flowering.setdefault((i, flowers), []).append(j)
            sown.setdefault(year, []).append(j)
            for y in range(year, min(flowers, last) + 1):
                in_bed.setdefault(y, []).append((j, lines[i].bed_m2))
    return flowering, sown, in_bed


def plan_years(lines: Sequence[KeptLine], limits: Limits, f: RegrowFigures) -> YearsPlan:
    """The cheapest choice of one pattern for each line; at the solver's time limit the best found, with its
    gap. The same input gives the same plan: HiGHS is deterministic, and of equals the first in the order of
    lines and of their patterns is taken."""
    # long: the columns, then one kind of condition after the other
    if not lines:
        return YearsPlan({}, frozenset(), (), (), 0.0)
    years = lines[0].years
    listed = [(i, p) for i, x in enumerate(lines) for p in patterns(x, limits.promised, f)]
    n = len(listed)
    cost = [own_cost(lines[i], p, limits.promised, f) for i, p in listed]
    cost = [c + f.tie * j / n for j, c in enumerate(cost)]
    rows, whole = Rows(), [True] * n
    of_line: list[list[Term]] = [[] for _ in lines]
    for j, (i, _) in enumerate(listed):
        of_line[i].append((j, 1.0))
    for terms in of_line:  # one pattern each
        rows.add(terms, 1.0, 1.0)
    flowering, sown, in_bed = _when(lines, listed)

    def column(price: float, integral: bool) -> int:
        cost.append(price)
        whole.append(integral)
        return len(cost) - 1

    number = {x.key: i for i, x in enumerate(lines)}
    for members in _groups(lines).values():
        for year in range(years):
            here = [number[x.key] for x in members if (number[x.key], year) in flowering]
            if here:
                _crossings(rows, lines, here, year, flowering, column, f)
    for year in range(years):
        if limits.bed_m2 is not None and year in in_bed:
            rows.add([*in_bed[year], (column(f.borrow_cost, False), -1.0)], limits.bed_m2)
        if len(sown.get(year, ())) > limits.lines:
            more = column(f.beyond_cost, False)
            rows.add([*((j, 1.0) for j in sown[year]), (more, -1.0)], float(limits.lines))
        roots = [(j, float(lines[listed[j][0]].roots)) for j in sown.get(year, ())]
        stored = [(j, n) for j, n in roots if n and lines[listed[j][0]].seasons > 1]
        if limits.winter_roots is not None and stored:
            rows.add([*stored, (column(f.store_cost, False), -1.0)], float(limits.winter_roots))
    upper = np.full(len(cost), np.inf)
    upper[np.array(whole)] = 1.0
    found = milp(
        np.array(cost),
        integrality=np.array(whole, dtype=int),
        bounds=Bounds(0, upper),
        constraints=rows.constraint(len(cost)),
        options={"time_limit": f.time_limit_s, "mip_rel_gap": f.gap},
    )
    if found.x is None:  # at the limit with nothing found: each line by itself
        chosen = {x.key: patterns(x, limits.promised, f)[0] for x in lines}
        return _with_gap(priced(lines, chosen, limits, f), 0.0)
    chosen = {lines[i].key: p for j, (i, p) in enumerate(listed) if found.x[j] > 0.5}
    return _with_gap(priced(lines, chosen, limits, f), float(found.mip_dual_bound))


def _with_gap(plan: YearsPlan, bound: float) -> YearsPlan:
    gap = max(0.0, plan.cost - bound) / max(plan.cost, 1e-9)
    return YearsPlan(
        plan.chosen, plan.apart, plan.borrowed_m2, plan.beyond, plan.cost,
        0.0 if gap < 1e-3 else gap, plan.parts, plan.over_store,
    )  # fmt: skip


def _crossings(
    rows: Rows, lines: Sequence[KeptLine], here: Sequence[int], year: int,
    flowering: Mapping[tuple[int, int], list[int]], column: Callable[[float, bool], int],
    f: RegrowFigures,
) -> None:  # fmt: skip
    """Conditions of one group in one year: of the lines that stand open at most one cares for its purity, and
    then no other stands open; none that cares where pollen comes over the hedge."""
    if len(here) == 1 and not lines[here[0]].hedge:
        return
    care: list[Term] = []
    welcome: list[list[Term]] = []
    for i in here:
        line = lines[i]
        # whole by itself wherever the patterns are: the cheapest are kept apart
        apart = column(0.0 if year in line.apart else apart_cost(line, f), True)
        stands = [(j, 1.0) for j in flowering[i, year]]
        rows.add([(apart, 1.0), *((j, -v) for j, v in stands)], 0.0)
        if line.cares and line.hedge:
            rows.add([*stands, (apart, -1.0)], 0.0)
        if not line.cares:
            welcome.append([*stands, (apart, -1.0)])
        else:
            care += [*stands, (apart, -1.0)]
    if not care:
        return
    rows.add(care, 1.0)
    for one in welcome:  # beside one that cares none stands open
        rows.add([*one, *care], 1.0)
