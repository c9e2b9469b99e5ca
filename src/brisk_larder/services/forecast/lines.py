"""Stock: every lot at a glance."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple, Protocol

from ...core.base.units import YEAR_S, day_start_s
from ...core.hand.codes import natural
from ...core.hand.origins import packet_year
from ...core.hand.seed_count import Seeds
from ...core.judging.as_sure import years_apart_told
from ...core.judging.edible import cautions
from ...core.judging.triage import Opinions
from ...core.judging.verdict import Verdict
from ...data.tables import Cohort, Variety
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path, position_of
from ..household.kind_types import type_names
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, planning_year, remembered
from ..household.lineage import spoilt_lots
from ..household.lot_quantity import earmarks, held_back, seeds_left
from ..household.planting_stock import as_set
from ..household.wording import day_words
from .glance import glances
from .glance_data import Glance, TestAdvice
from .kept_pieces import Kept, kept_pieces
from .plenty import plenty
from .verdicts import Judged, judge, seen
from .wishes import wishes


@dataclass(frozen=True)
class LotLine:
    """One lot in the list: what it is, how much, where, how alive, what next. Of what is set as pieces
    (``form``; ``unit``: what one is called) until when about it keeps, and from when it is set."""

    lot_id: int
    code: str
    kind: str
    kind_name: str
    season: str
    known_kind: bool
    grade: str
    variety: str
    type_name: str
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
    form: str
    record_from_s: int
    unit: str
    kept_until_s: float | None
    set_from_s: float | None
    verdict: Verdict
    opinions: Opinions
    spare: int
    plenty: str
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
    year = packet_year_of(cohort)
    return {"own": f"own seed of {year}", "gift": f"a gift, {year}"}.get(
        cohort.source, f"bought {year}"
    )


NEXT_ACTS = {
    "unnamed": "say what kind it is",
    "running": "wait for {waits}", "sibling": "the test of {waits} settles it", "empty": "used up",
    "few": "too few left to go on with", "table": "for the table", "spoilt": "spoilt: let it go",
    "spoilt_regrow": "spoilt: regrow at once", "dead": "dead: let it go",
    "dead_find": "dead: find seed of this line again", "dry": "dry it",
    "dry_test": "dry it first, then test it", "count": "count it first",
    "regrow_unsafe": "regrow: not enough mothers to be safe",
    "regrow": "regrow {safe}: last safe year", "test": "test {seeds} seeds by {due}",
    "test_school": "test {seeds} seeds", "over": "too little comes up: let it go or replace it",
    "thick": "sow thickly", "poor": "sow thickly or replace",
    "good_beyond": "good for longer than can be said", "below": "below the level you sow at",
    "good": "good to {until}", "none": "no forecast",
    "pieces": "keeps till about {kept}; set {days}",
    "pieces_soon": "set {days}: keeps only till about {kept}",
    "pieces_short": "keeps till about {kept}, and is set {days}: {or_else}",
    "pieces_over": "past its days: look it over, count what is sound",
}  # fmt: skip


OR_ELSE = {True: "set it at once, eat it or give it away", False: "set it at once or give it away"}


def next_words(said: Judged, glance: Glance, kept: Kept | None = None) -> str:
    """The next act in words; ``kept``: of what is set as pieces."""
    due = glance.advice.due_s
    code = said.verdict.code
    if code == "test" and due is None:
        code = "test_school"
    return NEXT_ACTS[code].format(
        waits=said.waits_for,
        safe=glance.last_safe_year,
        seeds=test_seeds(glance),
        due=day_words(due) if due is not None else "",
        until=until_words(glance),
        kept=kept.until if kept else "",
        or_else=OR_ELSE[kept is not None and kept.eaten],
        days=(kept.days if kept else "") or "when you like",
    )


def until_words(glance: Glance) -> str:
    """The year until which seed is good, with its 80 % range, short enough for a list: 2034 (2031-36);
    the range alone where it is wide."""
    if glance.good_until_s is None:
        return ""
    year = day_words(glance.good_until_s)[-4:]
    low, high = (
        None if at is None else day_words(at)[-4:]
        for at in (glance.good_until_low_s, glance.good_until_high_s)
    )
    if low is None or (low == high == year):
        return year
    if high is None:
        return f"{year} (from {low})"
    if not years_apart_told(int(low), int(high)):
        return f"{low}\u2013{high[-2:] if high[:2] == low[:2] else high}"
    return f"{year} ({low}\u2013{high[-2:] if high[:2] == low[:2] else high})"


NO_TEST = {
    "running": "A test of this seed is running: {waits}.",
    "sibling": "{waits} is the same seed: a test of it settles this one too.",
    "empty": "There is nothing left to test.", "few": "There is too little left to test.",
    "table": "Meant for the table: no germination test is asked of it.",
    "spoilt": "It is spoilt: nothing a test says would change that.",
    "spoilt_regrow": "It is spoilt: regrow it at once, a test would only cost time.",
    "dead": "Nothing comes up any more, for all that is known: a test would only confirm it.",
    "dead_find": "Nothing comes up any more, for all that is known: a test would only confirm it.",
    "dry": "It got wet: dry it first.", "dry_test": "It got wet: dry it first, then test it.",
    "count": "Nobody counted it: count it first, then it is known whether a test is worth its seeds.",
    "pieces": "Nothing is tested of what is set: look whether it is firm.",
    "pieces_soon": "Nothing is tested of what is set: look whether it is firm.",
    "pieces_short": "Nothing is tested of what is set: look whether it is firm.",
    "pieces_over": "Nothing is tested of what is set: look whether it is firm.",
}  # fmt: skip


def advice_of(said: Judged, glance: Glance) -> TestAdvice:
    """The advice on a test as the verdict leaves it: no room asks for one that the verdict does not."""
    advice, code = glance.advice, said.verdict.code
    if code in NO_TEST:
        why = NO_TEST[code].format(waits=said.waits_for)
        standing = code if code in ("running", "sibling") else said.verdict.standing
        return replace(advice, code=standing, wanted=False, due_s=None, seeds=None, why=why)
    if not said.verdict.test:
        return replace(advice, wanted=False, due_s=None, seeds=None)
    if not advice.wanted and "sow_thick" in said.verdict.acts and said.opinions.test == "none":
        why = "Only the book speaks against it, and nobody tested it: test it before you let it go."
        return replace(advice, why=why)
    return advice


def test_seeds(glance: Glance) -> int:
    """Seeds for a test: what pays best, else what the household's habit takes."""
    return glance.advice.seeds or int(figures().triage.yearly_test_seeds)


class LineRow(NamedTuple):
    """Columns of a lot's part that a line needs, straight from the driver."""

    lot_id: int
    code: str
    note: str
    state: str
    intended_use: str
    cohort_id: int
    variety_id: int
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
    types: str
    form: str


LINE_ROWS = (
    "SELECT lot.id, lot.code, lot.note, lot.state, lot.intended_use, part.cohort_id, variety.id, "
    "lot.seeds_per_g, lot.tags, "
    "part.share_mean, cohort.source, cohort.origin_lo_s, cohort.origin_hi_s, cohort.record_from_s, "
    "cohort.year_guessed, cohort.crossed_risk, variety.crop, variety.name, variety.breeding, "
    "variety.kept_line, variety.treated, variety.types, lot.form FROM lot JOIN part ON part.lot_id = lot.id "
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
    with looking_at(larder) as v:
        air, kinds = v.air, v.kinds
        seeds = seeds_left(v.session, found)
        set_aside, kept = earmarks(v.session), held_back(v.session)
        whole: dict[int, list[LineRow]] = {}
        for columns in v.session.connection().exec_driver_sql(LINE_ROWS):
            if columns[0] in found:
                whole.setdefault(columns[0], []).append(LineRow(*columns))
        pieces = kept_pieces(v.session, air, kinds, whole)
        asked = wishes(v.session, kinds, planning_year(v.session, v.today, v.home), v.now_s)
        judged = judge(
            whole,
            found,
            seeds,
            kept,
            asked,
            seen(v.session, spoilt_lots(v.session, list(whole)), v.now_s),
            kinds,
            v.home,
            v.now_s,
            pieces,
        )
        codes = {lot: parts[0].code for lot, parts in whole.items()}
        many = {
            k: p.words(kinds.get(k).name)
            for k, p in plenty(v.session, kinds, asked, v.now_s).items()
        }
        paths: dict[int | None, str] = {}
        out = [
            _line(
                air,
                kinds,
                parts,
                found[lot],
                seeds[lot],
                set_aside.get(lot, 0.0),
                paths,
                _named(judged[lot], codes),
                many,
                pieces.get(lot),
            )
            for lot, parts in whole.items()
        ]
    return sorted(out, key=lambda x: natural(x.code))


def _named(said: Judged, codes: dict[int, str]) -> Judged:
    """With the code of the packet whose test settles it instead of its number."""
    if said.verdict.code != "sibling":
        return said
    return replace(said, waits_for=codes[int(said.waits_for)])


def _line(
    air: Air,
    kinds: Kinds,
    parts: list[LineRow],
    glance: Glance,
    seeds: Seeds,
    earmarked: float,
    paths: dict[int | None, str],
    said: Judged,
    many: dict[str, str],
    kept: Kept | None,
) -> LotLine:
    # long: one field after the other of what lists show
    row = parts[0]
    kind = kinds.get(row.crop)
    stays = air.lot_stays.get(row.lot_id, [])
    stay = stays[-1] if stays and stays[-1].to_s is None else None
    node = stay.parent_node_id if stay else None
    if node not in paths:
        paths[node] = node_path(air, node)
    years = sorted({packet_year_of(p) for p in parts if not p.year_guessed})
    per_g = row.seeds_per_g or as_set(kind, row.form).crop.seeds_per_g
    origin = origin_words(row, air.now_s)
    # packets of one origin poured together again are no mixture
    origins = len({(p.variety, p.source, p.record_from_s, p.origin_lo_s) for p in parts})
    names = {p.variety for p in parts}
    if origins > 1:
        origin = "mixed: " + ", ".join(map(str, years)) if years else "mixed"
    age = sum(p.share * (air.now_s - p.record_from_s) for p in parts)
    return LotLine(
        lot_id=row.lot_id,
        code=row.code,
        kind=kind.key,
        kind_name=kind.name,
        season=kind.season,
        known_kind=kind.known,
        grade=kind.grade,
        variety=row.variety if len(names) == 1 else f"{row.variety} and others",
        type_name=", ".join(type_names(row.types, row.crop)),
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
        place_id=air.root(node) if node is not None else None,
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
        form=row.form,
        record_from_s=row.record_from_s,
        unit=kept.unit if kept else "seed",
        kept_until_s=(kept.last.low_s + kept.last.high_s) / 2 if kept else None,
        set_from_s=float(day_start_s(kept.window[0], air.home.tz))
        if kept and kept.window
        else None,
        next_act=next_words(said, glance, kept),
        next_code=said.verdict.group,
        urgency=said.verdict.urgency,
        verdict=said.verdict,
        opinions=said.opinions,
        spare=said.spare,
        plenty=many.get(kind.key, "") if row.intended_use == "seed" and not row.form else "",
        glance=replace(glance, advice=advice_of(said, glance)),
    )


def packet_year_of(cohort: Origin) -> int:
    """The year on the packet."""
    return packet_year(cohort.origin_lo_s, cohort.origin_hi_s, cohort.record_from_s)


CAUTIONS = {
    "dressed": "Dressed seed: never for food, feed or shoots; wash hands after handling",
    "burns": "Cleaning this seed: gloves, keep away from the eyes, wash afterwards",
    "bitter_cross": "A bitter fruit from saved seed may be a bad cross: do not eat it",
    "hybrid": "A hybrid does not come true from saved seed",
    "passing_on": "Before passing seed on, look at local plant-health and variety rules",
}


def cautions_of(kind: Kind, variety: Variety, cohort: Cohort) -> list[str]:
    """Cautions where they apply, short; they defer to the packet and to local authorities."""
    codes = cautions(
        kind.key,
        kind.crop.family,
        kind.known,
        bool(kind.hazard),
        bool(variety.treated),
        variety.breeding == "hybrid",
        cohort.source,
    )
    return [kind.hazard if code == "hazard" else CAUTIONS[code] for code in codes]
