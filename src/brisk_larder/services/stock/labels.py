"""What labels, container lists and drawer cards say, and the PDF of them."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlmodel import Session

from ...core.base.errors import InvalidValue, NotFound
from ...core.base.units import DAY_S, local_day
from ...core.hand.filing import arrange
from ...core.judging.edible import fit_for_food, fit_for_shoots
from ...data.tables import Cohort
from ...formats.labels_pdf import Label, ListPage, cards_pdf, labels_pdf, lists_pdf
from ...formats.sheets import SHEETS, Sheet, sheet_of
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..forecast.lines import LotLine, lot_lines
from ..household.kinds import Kinds
from ..household.larder import Larder, writing_here
from ..household.lineage import spoilt_lots
from ..household.own_units import main_part
from ..household.wording import date_words, many, percent
from .filing_page import all_filed, filing_order

MOST_LABELS = 2000
MOST_SPANS = 4
CAUTIONS = {
    "treated": "DRESSED SEED: NEVER EAT", "unknown": "UNKNOWN KIND: NEVER EAT",
    "spoilt": "SPOILT: NEVER EAT",
}  # fmt: skip


@dataclass(frozen=True)
class SheetChoice:
    """A label sheet to choose: its size and grid, in words and mm."""

    key: str
    words: str
    page: str
    columns: int
    rows: int
    width_mm: float
    height_mm: float


def sheets() -> list[SheetChoice]:
    """All label sheets."""
    here = writing_here()

    def words(s: Sheet) -> str:
        size = here.sheet(s.width_mm, s.height_mm)
        return re.sub(r"of [\d./ ]+ x [\d./ ]+ (mm|in)\b", f"of {size}", s.words)

    return [
        SheetChoice(s.key, words(s), s.page, s.columns, s.rows, s.width_mm, s.height_mm)
        for s in SHEETS.values()
    ]


def _month_year(cohort: Cohort) -> str:
    if cohort.year_guessed:
        return "year unknown"
    low, high = cohort.origin_lo_s, cohort.origin_hi_s
    if low is None or high is None:
        return str(datetime.fromtimestamp(cohort.record_from_s, UTC).year)
    middle = datetime.fromtimestamp((low + high) / 2, UTC)
    return f"{middle:%B %Y}" if high - low < 40 * 86_400 else str(middle.year)


FORECAST = {
    "good": "good seed", "doubtful": "test before use", "poor": "weak seed", "dead": "dead seed",
    "none": "age unknown", "unnamed": "kind unknown",
}  # fmt: skip


def _germination(line: LotLine, now_s: int, tz: str) -> str:
    if line.kept_until_s is not None:
        count = "" if line.seeds is None else f"{many(round(line.seeds), line.unit)}, "
        set_from = (
            ""
            if line.set_from_s is None
            else f", set from {date_words(local_day(line.set_from_s, tz))}"
        )
        return f"{count}keeps till about {local_day(line.kept_until_s, tz):%b %Y}{set_from}"
    return _tested(line, now_s, tz)


def _tested(line: LotLine, now_s: int, tz: str) -> str:
    """Germination with the date of the last test; without one the forecast as a word, and when it was made:
    a figure on a label outlives what it was reckoned from."""
    closed = [t for t in line.glance.tests if t.share is not None]
    if closed:
        last = closed[-1]
        day = local_day(last.at_s, tz)
        return f"germination {percent(last.share or 0)}, test {last.code}, {day:%b %Y}"
    standing = line.verdict.standing
    word = FORECAST[standing if standing in FORECAST else line.opinions.forecast]
    return f"{word}, forecast {local_day(now_s, tz):%b %Y}"


def _sealed(air: Air, node: int | None) -> str:
    """Sealed on, and open-from where an insect-safe seal says so."""
    if node is None:
        return ""
    events = [e for e in air.events.get(node, []) if e.kind in ("sealed", "opened")]
    if not events or events[-1].kind != "sealed":
        return ""
    day = datetime.fromtimestamp(events[-1].at_s, UTC)
    words = f"sealed {date_words(day, year=True)}"
    shut = json.loads(events[-1].figures).get("shut_days")
    if shut is None:
        return words
    opens = datetime.fromtimestamp(events[-1].at_s + shut * DAY_S, UTC)
    return f"{words}, open from {date_words(opens, year=True)}"


def _source(cohort: Cohort) -> str:
    who = cohort.person_from or cohort.seller
    words = {"own": "own seed", "gift": "a gift", "bought": "bought", "unknown": "origin unknown"}
    said = words[cohort.source] + (f" from {who}" if who else "")
    return f"{said}, kitchen produce" if cohort.from_kitchen else said


def _caution(line: LotLine, kinds: Kinds, spoilt: bool) -> str:
    if line.treated:
        return CAUTIONS["treated"]
    if spoilt:
        return CAUTIONS["spoilt"]
    if not line.known_kind:
        return CAUTIONS["unknown"]
    kind = kinds.get(line.kind)
    if line.intended_use == "food" and not fit_for_food(kind.key, kind.known):
        return "CHECK BEFORE EATING"
    if line.intended_use == "shoots" and not fit_for_shoots(kind.key, kind.known):
        return "NOT AS SHOOTS"
    if line.crossed_risk:
        return "MAY HAVE CROSSED"
    return "GLOVES: IT BURNS" if kind.key == "hot_pepper" else ""


def label_of(session: Session, air: Air, kinds: Kinds, line: LotLine, address: str) -> Label:
    """What the label of one lot says; ``address`` is that of this larder."""
    cohort = main_part(session, line.lot_id)[1]
    origin = _month_year(cohort)
    if line.parts > 1:
        origin = "mixed: " + ", ".join(map(str, line.years))
    hybrid = ", hybrid" if line.hybrid else ""
    return Label(
        code=line.code,
        name=line.variety,
        kind=f"{line.kind_name}{hybrid}",
        origin=origin,
        source=_source(cohort),
        germination=_germination(line, air.now_s, air.home.tz),
        use="" if line.intended_use == "seed" else f"for {line.intended_use}",
        sealed=_sealed(air, line.node_id),
        caution=_caution(line, kinds, line.lot_id in spoilt_lots(session, [line.lot_id])),
        address=f"{address.rstrip('/')}/stock/{line.lot_id}",
    )


def labels_of(larder: Larder, lot_ids: list[int], address: str) -> list[Label]:
    """Labels of some lots in the given order. Raises NotFound for one that is gone."""
    lines = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        air = v.air
        out = []
        for lot in lot_ids:
            if lot not in lines:
                raise NotFound(f"Lot number {lot} is not in the stock (or was let go)")
            out.append(label_of(v.session, air, kinds, lines[lot], home.address or address))
    return out


def label_sheet(
    larder: Larder, lot_ids: list[int], sheet: str, start: int, copies: int, address: str
) -> bytes:
    """A PDF of labels, in the household's order. Raises InvalidValue and NotFound."""
    if not 1 <= copies <= 100 or copies * len(lot_ids) > MOST_LABELS:
        raise InvalidValue("labels", copies * len(lot_ids), f"1 to {MOST_LABELS}")
    order = {
        x.lot_id: i
        for i, x in enumerate(
            y
            for g in arrange(list(all_filed(larder).values()), filing_order(larder))
            for y in g.lots
        )
    }
    wanted = sorted(dict.fromkeys(lot_ids), key=lambda i: order.get(i, 10**9))
    found = [x for x in labels_of(larder, wanted, address) for _ in range(copies)]
    return labels_pdf(found, sheet_of(sheet), start)


def code_range(codes: list[str]) -> str:
    """The codes of a box at a glance: B1-B14, K2; many scattered ones by their first and last."""
    runs: dict[str, list[int]] = {}
    loose = []
    for code in codes:
        head = code.rstrip("0123456789")
        tail = code[len(head) :]
        if tail:
            runs.setdefault(head, []).append(int(tail))
        else:
            loose.append(code)
    said = []
    for head, numbers in sorted(runs.items()):
        spans: list[tuple[int, int]] = []
        for n in sorted(numbers):
            if spans and n == spans[-1][1] + 1:
                spans[-1] = (spans[-1][0], n)
            else:
                spans.append((n, n))
        if len(spans) > MOST_SPANS:
            spans = [(spans[0][0], spans[-1][1])]
        said += [
            f"{head}{low}" if low == high else f"{head}{low}\u2013{head}{high}"
            for low, high in spans
        ]
    return ", ".join([*said, *sorted(loose)])


def container_pages(larder: Larder, node_ids: list[int], address: str) -> list[ListPage]:
    """Lists of containers in the household's filing order. Raises NotFound."""
    lines = {x.lot_id: x for x in lot_lines(larder)}
    filed = all_filed(larder)
    order = filing_order(larder)
    with looking_at(larder) as v:
        home = v.home
        air = v.air
    out = []
    for node in node_ids:
        row = air.nodes.get(node)
        if row is None or row.deleted_s is not None:
            raise NotFound(f"There is no container number {node} (or it was taken away)")
        here = [filed[i] for i, x in lines.items() if x.node_id == node]
        groups = arrange(here, order)
        rows = []
        for group in groups:
            for x in dict.fromkeys(group.lots):
                line = lines[x.lot_id]
                seeds = "" if line.seeds is None else f"{line.seeds:.0f}"
                rows.append(
                    [
                        line.code,
                        line.variety,
                        line.kind_name,
                        line.origin,
                        seeds,
                        line.glance.now.middle if line.verdict.told else "",
                        line.position,
                        group.name,
                    ]
                )
        gone = [e.at_s for e in air.events.get(node, []) if e.kind == "gone_through"]
        went = (
            f"gone through {date_words(datetime.fromtimestamp(max(gone), UTC).date(), year=True)}"
            if gone
            else ""
        )
        under = " \u00b7 ".join(
            filter(None, [node_path(air, node), many(len(here), "packet"), went])
        )
        out.append(
            ListPage(
                row.name,
                under,
                code_range([x.code for x in here]),
                ["code", "name", "kind", "from", "seeds", "now", "where", "files under"],
                [14, 42, 32, 44, 15, 13, 24, 34],
                rows,
                f"{(home.address or address).rstrip('/')}/storage/{node}",
            )
        )
    return out


def container_papers(
    larder: Larder, node_ids: list[int], kind: str, page: str, address: str
) -> bytes:
    """Container lists or drawer cards as PDF. Raises InvalidValue and NotFound."""
    if kind not in ("lists", "cards"):
        raise InvalidValue("papers", kind, "lists or cards")
    pages = container_pages(larder, node_ids, address)
    return lists_pdf(pages, page) if kind == "lists" else cards_pdf(pages, page)
