"""The stock in the household's order: groups, saved views, filing, dividing, gaps in the season."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, date, datetime

from sqlmodel import select

from ...core.base.errors import InvalidValue
from ...core.growing.windows import autumn_window, gaps_of, month_ahead, months_open
from ...core.hand.filing import GROUPINGS, MONTHS, Filed, Group, arrange, bulk, divide, neighbours
from ...data.queries import key, live
from ...data.tables import Household, Node, SavedView
from ..acts.acting import Doing, Done, act
from ..air.look import looking_at
from ..forecast.lines import LotLine, lot_lines
from ..forecast.sowing import windows_of
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, is_live, remembered, today
from ..household.possible_values import get_live


@dataclass(frozen=True)
class View:
    """A saved view; ``filing``: it is the order in which the packets stand."""

    view_id: int
    name: str
    group: str
    words: str
    filing: bool
    version: int


@dataclass(frozen=True)
class FilesAt:
    """Where a packet files: between two others under a heading, in words."""

    heading: str
    words: str


@dataclass(frozen=True)
class Boxful:
    """What goes into one container in the household's order."""

    node_id: int
    name: str
    holds: float
    fill: float
    lots: list[str]
    headings: list[str]
    first: str
    last: str
    moves: int


@dataclass(frozen=True)
class Division:
    """How packets divide among containers; ``left_over``: codes that do not fit; ``into``: lot id -> node
    id of those that would move."""

    boxes: list[Boxful]
    left_over: list[str]
    says: str
    into: dict[int, int]


@dataclass(frozen=True)
class GapMonth:
    """What could be sown in a month from what is in hand and good enough."""

    month: str
    kinds: list[str]
    lots: int


@dataclass(frozen=True)
class Gaps:
    """The coming twelve months of sowing from the stock alone."""

    months: list[GapMonth]
    says: list[str]


def filed(line: LotLine, kinds: Kinds, home: Household) -> Filed:
    """What filing needs of a line."""
    kind = kinds.get(line.kind)
    s = line.glance.next_sowing_s
    month = datetime.fromtimestamp(s, UTC).month if s is not None else None
    return Filed(
        lot_id=line.lot_id,
        code=line.code,
        kind_name=line.kind_name,
        variety=line.variety,
        season=line.season,
        autumn=kind.crop.autumn_sow_weeks_before_first_frost is not None
        and home.first_frost_day is not None,
        family=line.family,
        age_years=line.age_years,
        place=line.place,
        sowing_month=month,
        tags=tuple(t.strip() for t in line.tags.split(",") if t.strip()),
        use=line.intended_use,
        urgency=line.urgency,
        bulk=bulk(line.mass_g or 0.0, figures().amounts),
    )


@remembered
def all_filed(larder: Larder) -> dict[int, Filed]:
    """Every live lot as filing sees it."""
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
    return {x.lot_id: filed(x, kinds, home) for x in lot_lines(larder)}


def grouped(larder: Larder, grouping: str) -> list[Group]:
    """The whole stock in one order. Raises InvalidValue for an unknown grouping."""
    return arrange(list(all_filed(larder).values()), grouping)


def views(larder: Larder) -> list[View]:
    """Saved views by name."""
    with looking_at(larder) as v:
        rows = list(v.session.exec(live(SavedView)))
    out = []
    for row in rows:
        spec = json.loads(row.spec)
        out.append(
            View(
                key(row),
                row.name,
                spec["group"],
                spec.get("words", ""),
                bool(spec.get("filing")),
                row.version,
            )
        )
    return sorted(out, key=lambda v: v.name.lower())


def filing_order(larder: Larder) -> str:
    """The grouping in which the packets stand: that of the view marked as filing, else by season."""
    return next((v.group for v in views(larder) if v.filing), "season")


@dataclass(frozen=True)
class ViewKept:
    """The view that was kept."""

    view_id: int


@act("save_view")
def save_view(a: Doing, name: str, group: str, words: str = "", filing: bool = False) -> ViewKept:
    """Keep a view under a name (the same name replaces it). Raises InvalidValue."""
    if not name.strip() or len(name) > 60:
        raise InvalidValue("name", name, "1 to 60 letters")
    if group not in GROUPINGS:
        raise InvalidValue("group by", group, ", ".join(GROUPINGS))
    spec = json.dumps({"group": group, "words": words.strip(), "filing": filing})
    mine: SavedView | None = None
    for row in a.session.exec(select(SavedView)):
        if not is_live(row):
            continue
        if row.name == name.strip():
            mine = row
        elif filing and json.loads(row.spec).get("filing"):
            row.spec = json.dumps({**json.loads(row.spec), "filing": False})
            a.session.add(row)
    mine = mine or SavedView(name=name.strip(), spec=spec)
    mine.spec = spec
    a.session.add(mine)
    a.session.flush()
    a.summary = f"Kept the view {mine.name}" + (" as the filing order" if filing else "")
    return ViewKept(view_id=key(mine))


@act("drop_view")
def drop_view(a: Doing, view_id: int) -> Done:
    """Take a view away. Raises NotFound."""
    row = get_live(a.session, SavedView, view_id, "view")
    row.deleted_s = a.now_s
    a.session.add(row)
    a.summary = f"Took the view {row.name} away"
    return Done()


def files_at(larder: Larder, lot_id: int) -> FilesAt | None:
    """Between which two packets a lot files, in the household's order; None when it is gone."""
    found = neighbours(grouped(larder, filing_order(larder)), lot_id)
    if found is None:
        return None
    heading, before, after = found

    def named(x: Filed) -> str:
        return f"{x.code} {x.variety}"

    if before and after:
        words = f"between {named(before)} and {named(after)}"
    elif after:
        words = f"first, before {named(after)}"
    elif before:
        words = f"last, after {named(before)}"
    else:
        words = "the only one there"
    return FilesAt(heading, words)


def division(larder: Larder, grouping: str, node_ids: list[int], loose: bool = False) -> Division:
    """How all lots that stand in some containers (``loose``: and those that stand nowhere) would divide among
    them, by number and fit.

    Containers in the given order; one without a capacity takes what a shoebox does.
    """
    if not node_ids:
        raise InvalidValue("containers", 0, "one or more cases and tins")
    with looking_at(larder) as v:
        nodes = [get_live(v.session, Node, i, "container") for i in dict.fromkeys(node_ids)]
    ids = {n.id for n in nodes}
    wanted = {*ids, None} if loose else ids
    here = {x.lot_id: x.node_id for x in lot_lines(larder) if x.node_id in wanted}
    lots = [x for x in all_filed(larder).values() if x.lot_id in here]
    f = figures().amounts
    capacities = [float(n.capacity_lots or f.shoebox_lots) for n in nodes]
    shares, left = divide(arrange(lots, grouping), capacities, f)
    groups = {x.lot_id: g.name for g in arrange(lots, grouping) for x in g.lots}
    boxes = []
    for s in shares:
        node = nodes[s.box]
        boxes.append(
            Boxful(
                node_id=key(node),
                name=node.name,
                holds=capacities[s.box],
                fill=round(s.fill, 3),
                lots=[x.code for x in s.lots],
                headings=list(dict.fromkeys(groups[x.lot_id] for x in s.lots)),
                first=f"{s.lots[0].code} {s.lots[0].variety}",
                last=f"{s.lots[-1].code} {s.lots[-1].variety}",
                moves=sum(1 for x in s.lots if here[x.lot_id] != node.id),
            )
        )
    moves = sum(b.moves for b in boxes)
    says = f"{len(lots)} packets in {len(boxes)} of {len(nodes)} containers; {moves} would move."
    if left:
        says += f" {len(left)} do not fit: another tin, or fewer."
    into = {
        x.lot_id: key(nodes[s.box])
        for s in shares
        for x in s.lots
        if here[x.lot_id] != nodes[s.box].id
    }
    return Division(boxes, [x.code for x in left], says, into)


def _sowable(kind: Kind, home: Household, first: date) -> set[int]:
    """Months (0 = the month of ``first``) of the coming year in which a kind can be sown outdoors
    or in, in spring or for autumn."""
    crop = kind.crop
    windows = []
    for year in (first.year, first.year + 1):
        windows += windows_of(kind, year, home)
        autumn = autumn_window(year, home.first_frost_day, crop.autumn_sow_weeks_before_first_frost)
        windows += [autumn] if autumn else []
    return months_open(first, windows)


@remembered
def gaps(larder: Larder) -> Gaps:
    """What can be sown month by month from seed in hand that is good enough, and where nothing can.

    A month counts as a gap when the book knows kinds to sow then and none of them is in hand.
    """
    lines = lot_lines(larder)
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
    day = today(larder, home)
    first = date(day.year, day.month, 1)
    possible: dict[int, set[str]] = {i: set() for i in range(12)}
    in_hand: dict[int, dict[str, int]] = {i: {} for i in range(12)}
    seed = [k for k in kinds.by_key.values() if k.known and k.piece is None]
    months_of = {k.key: _sowable(k, home, first) for k in seed}
    for kind_key, open_in in months_of.items():
        for i in open_in:
            possible[i].add(kind_key)
    for line in lines:
        if line.form or line.kind not in months_of:
            continue
        good = line.glance.now.mid >= home.sow_level
        if not (line.known_kind and good and line.seeds and line.intended_use == "seed"):
            continue
        for i in months_of[line.kind]:
            names = in_hand[i]
            names[line.kind_name] = names.get(line.kind_name, 0) + 1
    months = [
        GapMonth(
            MONTHS[month_ahead(first, i).month - 1], sorted(in_hand[i]), sum(in_hand[i].values())
        )
        for i in range(12)
    ]
    says = []
    runs = gaps_of([len(possible[i]) for i in range(12)], [len(in_hand[i]) for i in range(12)])
    for begin, end in runs:
        span = (
            months[begin].month
            if begin == end
            else f"from {months[begin].month} to {months[end].month}"
        )
        says.append(f"Nothing in hand to sow {'in ' if begin == end else ''}{span}.")
    thin = [m for i, m in enumerate(months) if possible[i] and 0 < len(m.kinds) <= 2]
    says += [f"Only {' and '.join(m.kinds)} in hand to sow in {m.month}." for m in thin]
    return Gaps(months, says)
