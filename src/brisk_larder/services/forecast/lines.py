"""Stock: every lot at a glance."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import NamedTuple, Protocol

from ...core.codes import natural
from ...core.units import YEAR_S
from ...data.tables import Cohort, Variety
from ..air.air import World
from ..air.paths import node_path, position_of
from ..household.kinds import Kind, Kinds, load_kinds
from ..household.larder import Larder, household, remembered
from ..household.quantity import Seeds, earmarks, seeds_left
from ..household.wording import day_words
from .glance import glances
from .glance_data import Glance


@dataclass(frozen=True)
class LotLine:
    """One lot in the list: what it is, how much, where, how alive, what next."""

    lot_id: int
    code: str
    kind: str
    kind_name: str
    season: str
    known_kind: bool
    grade: str
    variety: str
    hybrid: bool
    kept_line: bool
    note: str
    state: str
    source: str
    origin: str
    origin_s: float
    age_years: float
    seeds: float | None
    seeds_sd: float
    mass_g: float | None
    node_id: int | None
    place: str
    place_id: int | None
    position: str
    family: str
    intended_use: str
    tags: str
    treated: bool
    crossed_risk: bool
    parts: int
    years: list[int]
    earmarked: float
    seeds_per_g: float
    next_act: str
    next_code: str
    urgency: int
    glance: Glance


class Origin(Protocol):
    """What says where seed comes from: a cohort, or the columns of one."""

    @property
    def source(self) -> str: ...  # noqa: D102
    @property
    def origin_lo_s(self) -> int | None: ...  # noqa: D102
    @property
    def origin_hi_s(self) -> int | None: ...  # noqa: D102
    @property
    def record_from_s(self) -> int: ...  # noqa: D102
    @property
    def year_guessed(self) -> int: ...  # noqa: D102


def origin_words(cohort: Origin, now_s: float) -> str:
    """How old the seed is, in words."""
    if cohort.year_guessed:
        return "year unknown"
    year = year_of(cohort)
    return {"own": f"own seed of {year}", "gift": f"a gift, {year}"}.get(
        cohort.source, f"bought {year}"
    )


def next_act(
    line_seeds: Seeds, glance: Glance, sow_level: float, now_s: float
) -> tuple[str, str, int]:
    """What the keeper would do next with a lot: words, code, urgency 0 (calm) to 3."""
    advice = glance.advice
    if any(t.running for t in glance.tests):
        return "test is running", "running", 2
    if line_seeds.known and line_seeds.mean < 1:
        return "used up", "empty", 0
    year = day_words(now_s)[-4:]
    if glance.regrow_asked and (
        glance.last_safe_year is None or glance.last_safe_year <= int(year) + 1
    ):
        if glance.last_safe_year is None:
            return "regrow: not enough mothers to be safe", "regrow", 3
        return f"regrow {glance.last_safe_year}: last safe year", "regrow", 3
    if advice.wanted and advice.due_s is not None:
        soon = advice.due_s < now_s + 120 * 86_400
        return f"test {advice.seeds} seeds by {day_words(advice.due_s)}", "test", 2 if soon else 1
    if advice.code == "certainly_poor":
        return "sow thickly or replace", "poor", 2
    if glance.good_beyond:
        return "good for longer than can be said", "good", 0
    if glance.good_until_s is not None and glance.good_until_s < now_s:
        return "below the level you sow at", "poor", 2
    if glance.good_until_s is not None:
        return f"good to {day_words(glance.good_until_s)[-4:]}", "good", 0
    return "no forecast", "none", 0


class LineRow(NamedTuple):
    """Columns of a lot's part that a line needs, straight from the driver."""

    lot_id: int
    code: str
    note: str
    state: str
    intended_use: str
    seeds_per_g: float | None
    tags: str
    share: float
    source: str
    origin_lo_s: int | None
    origin_hi_s: int | None
    record_from_s: int
    year_guessed: int
    crossed_risk: int
    crop: str | None
    variety: str
    breeding: str
    kept_line: int
    treated: int


LINE_ROWS = (
    "SELECT lot.id, lot.code, lot.note, lot.state, lot.intended_use, lot.seeds_per_g, lot.tags, "
    "part.share_mean, cohort.source, cohort.origin_lo_s, cohort.origin_hi_s, cohort.record_from_s, "
    "cohort.year_guessed, cohort.crossed_risk, variety.crop, variety.name, variety.breeding, "
    "variety.kept_line, variety.treated FROM lot JOIN part ON part.lot_id = lot.id "
    "JOIN cohort ON cohort.id = part.cohort_id JOIN variety ON variety.id = cohort.variety_id "
    "WHERE lot.deleted_s IS NULL AND lot.state <> 'gone' AND part.deleted_s IS NULL "
    "AND part.to_s IS NULL ORDER BY part.share_mean DESC, part.id"
)


@remembered
def lot_lines(larder: Larder) -> list[LotLine]:
    """All live lots, by code."""
    return lines_with(larder, glances(larder))


def lines_with(larder: Larder, found: dict[int, Glance]) -> list[LotLine]:
    """The lines of lots whose glances are given, by code."""
    with larder.store.read() as session:
        home = household(session)
        world, kinds = World(session, home, larder.now_s()), load_kinds(session)
        seeds = seeds_left(session, found)
        set_aside = earmarks(session)
        whole: dict[int, list[LineRow]] = {}
        for columns in session.connection().exec_driver_sql(LINE_ROWS):
            if columns[0] in found:
                whole.setdefault(columns[0], []).append(LineRow(*columns))
        paths: dict[int | None, str] = {}
        out = [
            _line(
                world, kinds, parts, found[lot], seeds[lot], home.sow_level, set_aside.get(lot, 0.0),
                paths,
            )
            for lot, parts in whole.items()
        ]  # fmt: skip
    return sorted(out, key=lambda x: natural(x.code))


def _line(
    world: World, kinds: Kinds, parts: list[LineRow], glance: Glance, seeds: Seeds,
    sow_level: float, earmarked: float, paths: dict[int | None, str],
) -> LotLine:  # fmt: skip
    row = parts[0]
    kind = kinds.get(row.crop)
    stays = world.lot_stays.get(row.lot_id, [])
    stay = stays[-1] if stays and stays[-1].to_s is None else None
    node = stay.parent_node_id if stay else None
    if node not in paths:
        paths[node] = node_path(world, node)
    words, code, urgency = next_act(seeds, glance, sow_level, world.now_s)
    years = sorted({year_of(p) for p in parts if not p.year_guessed})
    per_g = row.seeds_per_g or kind.crop.seeds_per_g
    origin = origin_words(row, world.now_s)
    # packets of one origin poured together again are no mixture
    origins = len({(p.variety, p.source, p.record_from_s, p.origin_lo_s) for p in parts})
    names = {p.variety for p in parts}
    if origins > 1:
        origin = "mixed: " + ", ".join(map(str, years)) if years else "mixed"
    age = sum(p.share * (world.now_s - p.record_from_s) for p in parts)
    return LotLine(
        lot_id=row.lot_id,
        code=row.code,
        kind=kind.key,
        kind_name=kind.name,
        season=kind.season,
        known_kind=kind.known,
        grade=kind.grade,
        variety=row.variety if len(names) == 1 else f"{row.variety} and others",
        hybrid=row.breeding == "hybrid",
        kept_line=bool(row.kept_line),
        note=row.note,
        state=row.state,
        source=row.source,
        origin=origin,
        origin_s=float(min(p.record_from_s for p in parts)),
        age_years=age / sum(p.share for p in parts) / YEAR_S,
        seeds=seeds.mean if seeds.known else None,
        seeds_sd=seeds.sd,
        mass_g=seeds.mean / per_g if seeds.known else None,
        node_id=node,
        place=paths[node],
        place_id=world.root(node) if node is not None else None,
        position=position_of(stay),
        family=kind.crop.family if kind.known else "",
        intended_use=row.intended_use,
        tags=row.tags,
        treated=any(p.treated for p in parts),
        crossed_risk=any(p.crossed_risk for p in parts),
        parts=origins,
        years=years,
        earmarked=earmarked,
        seeds_per_g=per_g,
        next_act=words,
        next_code=code,
        urgency=urgency,
        glance=glance,
    )


def year_of(cohort: Origin) -> int:
    """The year on the packet: the middle of its range of origin."""
    if cohort.origin_lo_s is None or cohort.origin_hi_s is None:
        return datetime.fromtimestamp(cohort.record_from_s, UTC).year
    return datetime.fromtimestamp((cohort.origin_lo_s + cohort.origin_hi_s) / 2, UTC).year


def cautions_of(kind: Kind, variety: Variety, cohort: Cohort) -> list[str]:
    """Cautions where they apply, short; they defer to the packet and to local authorities."""
    out = [kind.hazard] if kind.hazard else []
    if variety.treated:
        out.append("Dressed seed: never for food, feed or shoots; wash hands after handling")
    if kind.key == "hot_pepper":
        out.append("Cleaning this seed: gloves, keep away from the eyes, wash afterwards")
    if kind.crop.family == "Cucurbitaceae":
        out.append("A bitter fruit from saved seed may be a bad cross: do not eat it")
    if variety.breeding == "hybrid":
        out.append("A hybrid does not come true from saved seed")
    if cohort.source in ("gift", "own") and kind.known:
        out.append("Before passing seed on, look at local plant-health and variety rules")
    return out
