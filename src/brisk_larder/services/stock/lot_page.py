"""One lot in full: the strip, the why, tests, history, cautions, and what elsewhere would change."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from sqlmodel import Session, col

from ...core.base.errors import NotFound
from ...core.base.units import DAY_S, YEAR_S
from ...core.judging.edible import uses_of
from ...core.seed import worlds as wo
from ...core.storage.moisture import erh_at, moisture_pct_fwb
from ...core.trials.when_to_test import what_n_tells
from ...data.queries import live
from ...data.tables import Cohort, Lot, LotEvent, Variety
from ...formats.labels_pdf import Label
from ..acts.ledger import Balance, balance
from ..acts.lot_acts import lot_version
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..forecast.current import bring_up_to_date
from ..forecast.elsewhere import Option, cautions, fates, standing
from ..forecast.glance_data import Likely, TestMark
from ..forecast.kin_words import KinSays, kin_says
from ..forecast.lines import LotLine, cautions_of, lot_lines, packet_year_of
from ..forecast.outlook import Outlook, outlook
from ..forecast.soil_words import sowings_say
from ..household.kinds import Kind, figures
from ..household.larder import Larder
from ..household.past_acts import HistoryLine, history_of
from ..household.planting_stock import as_set
from ..household.possible_values import get_live
from ..household.wording import day_words, dryness, out_of_ten, percent, prose, temperature
from .family import Family, family
from .filing_page import FilesAt, files_at
from .labels import label_of
from .where_it_went import Spell, spell_words, spells
from .why_pieces import WhyLine, why_pieces
from .written import Written, written_of


@dataclass(frozen=True)
class Elsewhere:
    """The same lot moved now: germination at its next sowing and until when it is good."""

    node_id: int
    name: str
    at_sowing: Likely | None
    good_until_s: float | None
    caution: str


@dataclass(frozen=True)
class TestLine:
    """One test of the lot with what its number of seeds can tell."""

    trial_id: int
    code: str
    sown_s: int
    closed: bool
    n: int
    up: int
    says: str


@dataclass(frozen=True)
class LotPage:
    """Everything on a lot's page. ``guide``: what to do after it got wet."""

    line: LotLine
    version: int
    why: list[WhyLine]
    elsewhere: list[Elsewhere]
    tests: list[TestLine]
    history: list[HistoryLine]
    cautions: list[str]
    events: list[str]
    packet: list[str]
    species: str
    moisture_pct: float
    dryness: str
    where_it_went: list[Spell]
    guide: list[str]
    balance: Balance
    family: Family
    files_at: FilesAt | None
    label: Label
    parts: list[PartLine]
    uses: list[str]
    written: Written


@dataclass(frozen=True)
class PartLine:
    """One part of a mixed bag: its share and its germination now."""

    year: str
    variety: str
    share: float
    share_sd: float
    now: Likely


WET_GUIDE = (
    "Within the hour: spread it one seed deep on paper in moving air, below 35 °C, out of the sun.",
    "Sow at once what has sprouted; it will not keep.",
    "Throw out what is mouldy, with a mask; wash your hands.",
    "Mark the packet, and test some once it is dry: nobody can say how much it cost.",
)
GUIDE_DAYS = 10


def lot_page(larder: Larder, lot_id: int) -> LotPage:
    """The page of one lot. Raises NotFound."""
    # long: what is read, then one field after the other of the page
    bring_up_to_date(larder)
    lines = {line.lot_id: line for line in lot_lines(larder)}
    kin_tree, files = family(larder, lot_id), files_at(larder, lot_id)
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        lot = get_live(v.session, Lot, lot_id, "lot")
        if lot_id not in lines:
            raise NotFound(f"Lot {lot.code} was let go; undo that in the history to see it again")
        line = lines[lot_id]
        air = v.air
        look = outlook(v.session, air, kinds, [lot_id])
        row = look.rows[0]
        kind = row.kind
        variety = get_live(v.session, Variety, row.variety.id, "variety")
        cohort = get_live(v.session, Cohort, row.cohort.id, "seed")
        now_c = float(air.past(row.legs[-1].node).temperature_c[-1])
        state = np.array([[line.glance.erh25]])
        moisture = float(
            moisture_pct_fwb(
                kinds.classes.iso,
                np.array([kinds.classes.iso_ix[kind.class_ix]]),
                state,
            )[0, 0]
        )
        shown = float(erh_at(line.glance.erh25, figures().moisture.told_at_c))
        return LotPage(
            line=line,
            version=lot_version(v.session, lot_id),
            why=(
                why_pieces(v.session, air, kind, line)
                if line.form
                else _why(
                    air,
                    look,
                    line,
                    kind,
                    now_c,
                    shown,
                    moisture,
                    _moved(v.session, look, air.now_s),
                )
            ),
            elsewhere=_elsewhere(air, look, line) if line.verdict.may_move else [],
            tests=[_test_line(t) for t in line.glance.tests],
            history=history_of(v.session, f"lot:{lot_id}"),
            cautions=cautions_of(kind, variety, cohort),
            events=_events(v.session, lot_id),
            packet=_packet(variety, cohort, as_set(kind, line.form), line.form),
            species=kind.crop.species if kind.known else "",
            moisture_pct=moisture,
            dryness=dryness(shown),
            where_it_went=[] if line.form else spells(air, look, line),
            guide=_guide(v.session, lot_id, air.now_s),
            balance=_balance(v.session, line, air.now_s),
            family=kin_tree,
            files_at=files,
            label=label_of(v.session, air, kinds, line, home.address or ""),
            parts=[] if line.form else _parts(look, air.now_s),
            uses=uses_of(line.kind, line.known_kind, line.treated),
            written=written_of(v.session, look, lot, variety, cohort, home),
        )


def _moved(session: Session, look: Outlook, now_s: int) -> list[KinSays]:
    """What moved the forecast beside tests of its own: relatives, and what was sown of it."""
    row = look.rows[0]
    lots = {step.lot_id for step in row.steps}
    return [*kin_says(session, row), *sowings_say(session, look, lots, now_s)]


def _balance(session: Session, line: LotLine, now_s: int) -> Balance:
    g = line.glance
    found = balance(session, line.lot_id, now_s, g.good_until_s, g.good_beyond, line.spare)
    # how long dead seed would last is nothing to be told, nor how long what is set
    return found if line.verdict.alive and not line.form else replace(found, says="")


def _parts(look: Outlook, now_s: int) -> list[PartLine]:
    blend = look.blends.get(0)
    if blend is None:
        return []
    out = []
    for i, row in enumerate(blend.parts.rows):
        a = blend.parts.a_at(i, np.array([float(now_s)]))[None, :]
        q = wo.quantiles(blend.parts.belief.rows(np.array([i])), a, (0.1, 0.5, 0.9))[0, 0]
        year = "year unknown" if row.cohort.year_guessed else str(packet_year_of(row.cohort))
        out.append(
            PartLine(
                year,
                row.variety.name,
                row.part.share_mean,
                row.part.share_sd,
                Likely(*(round(float(v), 3) for v in q)),
            )
        )
    return out


def _guide(session: Session, lot_id: int, now_s: int) -> list[str]:
    wet = session.exec(
        live(LotEvent).where(
            LotEvent.lot_id == lot_id,
            col(LotEvent.kind).in_(["wet", "sprouted", "mould"]),
            LotEvent.at_s > now_s - GUIDE_DAYS * DAY_S,
        )
    ).first()
    return [prose(step) for step in WET_GUIDE] if wet else []


CAME_AS = {"bought": "bought seed", "own": "your own seed", "gift": "seed from friends"}
AIR_IS = {
    "logged": "read by a logger",
    "bridged": "read now and then",
    "usual": "never read lately: the usual curve of such a place, a guess",
}
GRADES = {
    "A": "The figures of this crop are measured ones.",
    "B": "The figures of this crop are measured, but doubtful.",
    "C": "The figures of this crop are an educated guess until you have tested it.",
    "guess": "Nobody has figures for this kind: a wide guess until you have tested it.",
}


def _why(
    air: Air,
    look: Outlook,
    line: LotLine,
    kind: Kind,
    now_c: float,
    shown: float,
    moisture: float,
    relatives: list[KinSays],
) -> list[WhyLine]:
    # long: one sentence after the other, as the page shows them
    g, home, row = line.glance, air.home, look.rows[0]
    years = (air.now_s - row.start_s) / YEAR_S
    out = []
    source = CAME_AS.get(row.cohort.source, "seed of unknown age")
    out.append(
        WhyLine(
            f"It set out as {source}: about {percent(g.start)} could come up.",
            f"Ki prior of that source; median germination at the record's start {g.start:.3f}",
        )
    )
    place = line.place or "no place named: taken as a cupboard in the house"
    out.append(
        WhyLine(
            f"It stands in {place}, now {temperature(now_c, home)}, seed {dryness(shown)} "
            f"({percent(shown)}); the air there is {AIR_IS[g.climate_source]}.",
            f"erh25 {g.erh25:.3f}, moisture {moisture:.1f} % of fresh weight; wall time constant "
            f"{row.legs[-1].tau_days:.0f} d",
        )
    )
    lost = max(0.0, g.start - g.now.mid)
    out.append(
        WhyLine(
            f"In {years:.1f} years of record it lost about {100 * lost:.0f} points.",
            f"A = {g.a_probit:.3f} probits, sd of log10 A {g.sd_log10_a:.2f}",
        )
    )
    said = spell_words(spells(air, look, line))
    if said:
        out.append(WhyLine(said, "ageing during each stay as a share of A, times the whole fall"))
    out += [
        WhyLine(
            f"{day_words(e.from_s)[-8:]} took {100 * e.points:.0f} of those points "
            f"({node_path(air, e.node_id) or 'away from its place'}).",
            "share of A in that month times the whole fall",
        )
        for e in sorted(g.episodes, key=lambda e: -e.points)[:3]
    ]
    out.append(
        WhyLine(
            GRADES[kind.grade],
            f"grade {kind.grade}; sd of log10 sigma {kind.sd_log10_sigma:.2f}; "
            f"{kind.viability.evidence}",
        )
    )
    out += [WhyLine(x.says, x.behind) for x in relatives]
    closed = [t for t in g.tests if t.share is not None]
    if closed:
        last = closed[-1]
        out.append(
            WhyLine(
                f"Tests: {len(closed)}; the last, {last.code}, had {last.up} of {last.n} up.",
                "posterior over Ki, d and what could grow; beta-binomial counts",
            )
        )
    out.append(
        WhyLine(
            f"So now {out_of_ten(g.now.mid)} come up: {g.now.says}.",
            "median and 80 % interval of living * Phi(Ki - A * 10^-d)",
        )
    )
    return out


def _elsewhere(air: Air, look: Outlook, line: LotLine) -> list[Elsewhere]:
    """What another place would do: the same projection through another air and other walls."""
    candidates = [n for n in air.nodes.values() if n.deleted_s is None]
    out = []
    for node in candidates:
        if node.id == line.node_id:
            continue
        if node.role == "place" and any(air.parent_now(n.id) == node.id for n in candidates):
            continue  # its containers are offered instead
        setting = standing(air, node.id)
        fate = fates(air, look, setting, air.home.sow_level, [line.glance.next_sowing_s])[0]
        warned = cautions(look, setting, Option(node_id=node.id))
        caution = warned[0] if warned else ""
        path = node_path(air, node.id)
        out.append(Elsewhere(node.id, path, fate.at_sowing, fate.good_until_s, caution))
    out.sort(key=lambda e: -(e.good_until_s or 9e12))
    return out[:4]


def _test_line(test: TestMark) -> TestLine:
    if test.share is None:
        says = "running"
    elif test.told:
        says = f"{percent(test.share)} was written down, {test.told}"
    else:
        told = what_n_tells(test.n, min(test.up, test.n))
        bound = f"at least {percent(told.low)}" if test.up else f"at most {percent(told.high)}"
        says = f"by itself says: {bound}, nineteen times in twenty"
    return TestLine(
        trial_id=test.trial_id,
        code=test.code,
        sown_s=test.at_s,
        closed=test.share is not None,
        n=0 if test.told else test.n,
        up=0 if test.told else test.up,
        says=says,
    )


def _events(session: Session, lot_id: int) -> list[str]:
    rows = session.exec(
        live(LotEvent).where(LotEvent.lot_id == lot_id).order_by(col(LotEvent.at_s))
    )
    return [f"{day_words(e.at_s)}: {e.kind}" + (f", {e.note}" if e.note else "") for e in rows]


def _packet(variety: Variety, cohort: Cohort, kind: Kind, form: str) -> list[str]:
    """What the packet says, and the book where it is silent; each says which it is."""
    out = []
    if cohort.stated_germination is not None:
        out.append(f"Stated germination {percent(cohort.stated_germination)} (packet)")
    if variety.packet_sow_window:
        out.append(f"Sow {variety.packet_sow_window} (packet)")
    if variety.packet_days_to_sprout:
        out.append(f"Up in {variety.packet_days_to_sprout} days (packet)")
    elif kind.known and not form:
        c = kind.crop
        out.append(f"Up in {c.first_count_days:g} to {c.final_count_days:g} days (book)")
    if variety.packet_days_to_harvest:
        out.append(f"Ready in {variety.packet_days_to_harvest} days (packet)")
    elif kind.known:
        span = kind.crop.days_to_maturity
        out.append(f"Ready in {span.low:g} to {span.high:g} days (book)")
    if cohort.person_from:
        out.append(f"From {cohort.person_from}")
    return out
