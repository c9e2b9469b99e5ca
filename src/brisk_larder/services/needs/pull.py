"""The pull list: what is fetched for the year's sowings, as one walks; and what is starred for the year."""

from __future__ import annotations

from dataclasses import dataclass

from ...formats.bench_pdf import bench_pdf
from ...formats.labels_pdf import ListPage
from ..air.look import looking_at
from ..air.paths import node_path
from ..forecast.lines import LotLine, lot_lines
from ..forecast.sowing import sowing_of
from ..household.larder import Larder, remembered
from ..household.planting_stock import as_set
from ..household.wording import day_words, many
from .chains import needs_room

NOWHERE = "no place named"


@dataclass(frozen=True)
class PullLine:
    """One packet to fetch: seeds of it, what for, when it is sown first; ``extra``: it may be dead and is
    used up beside another."""

    lot_id: int
    code: str
    variety: str
    kind_name: str
    position: str
    seeds: int
    unit: str
    wanted_for: str
    sow_s: float | None
    fetched: bool
    extra: bool


@dataclass(frozen=True)
class PullStop:
    """One container or place with the packets to fetch from it."""

    node_id: int | None
    place: str
    lines: list[PullLine]


@dataclass(frozen=True)
class PullList:
    """Stops in walking order, how many packets, how many of them are fetched."""

    season: str
    stops: list[PullStop]
    packets: int
    fetched: int


@remembered
def pull_list(larder: Larder) -> PullList:
    """All packets that this year's foods and picks are sown from, each once."""
    room = needs_room(larder)
    stock = {x.lot_id: x for x in lot_lines(larder)}
    seeds: dict[int, int] = {}
    wanted: dict[int, list[str]] = {}
    extra: set[int] = set()
    for line in room.lines:
        for c in (c for c in (*line.covered, *line.beside) if c.in_hand):
            seeds[c.lot_id] = seeds.get(c.lot_id, 0) + c.seeds
            wanted.setdefault(c.lot_id, []).append(line.name)
        extra |= {c.lot_id for c in line.beside}
        extra -= {c.lot_id for c in line.covered}
    stops: dict[int | None, list[PullLine]] = {}
    with looking_at(larder) as v:
        walk = sorted(v.air.nodes.values(), key=lambda n: (n.walk_order, n.id))
        place = {n.id: i for i, n in enumerate(walk)}
        names = {n: node_path(v.air, n) for n in place}
        for lot, n in seeds.items():
            x = stock[lot]
            sowing = sowing_of(as_set(v.kinds.get(x.kind), x.form), v.today, v.home)
            stops.setdefault(x.node_id, []).append(
                PullLine(
                    lot_id=lot,
                    code=x.code,
                    variety=x.variety,
                    kind_name=x.kind_name,
                    position=x.position,
                    seeds=n,
                    unit=x.unit,
                    wanted_for=", ".join(dict.fromkeys(wanted[lot])),
                    sow_s=sowing.at_s if sowing else None,
                    fetched=x.state == "fetched",
                    extra=lot in extra,
                )
            )
    order = sorted(stops, key=lambda n: place.get(n or -1, len(place)))
    found = [
        PullStop(
            n, names.get(n or -1, NOWHERE), sorted(stops[n], key=lambda p: (p.position, p.code))
        )
        for n in order
    ]
    lines = [p for s in found for p in s.lines]
    return PullList(room.season, found, len(lines), sum(p.fetched for p in lines))


HEAD = ["", "packet", "kind", "where in it", "seeds", "for", "sown from"]
WIDTHS = [8.0, 42.0, 28.0, 26.0, 14.0, 48.0, 22.0]


def pull_pdf(larder: Larder, page: str = "") -> bytes:
    """The pull list on paper, with a box to tick."""
    found = pull_list(larder)
    with looking_at(larder) as v:
        size = page or v.home.page_size
    rows: list[list[str]] = []
    for stop in found.stops:
        rows.append(["", stop.place, "", "", "", "", ""])
        rows += [
            [
                "[ ]", f"{p.code} {p.variety}", p.kind_name, p.position,
                str(p.seeds) if p.unit == "seed" else many(p.seeds, p.unit), p.wanted_for,
                day_words(int(p.sow_s)) if p.sow_s is not None else "",
            ]
            for p in stop.lines
        ]  # fmt: skip
    if not rows:
        rows.append(["", "nothing to fetch yet", "", "", "", "", ""])
    title = f"To fetch, {found.season}"
    under = f"{many(found.packets, 'packet')} from {many(len(found.stops), 'place')}, as one walks"
    sheet = ListPage(title, under, "Put back what is left the same day.", HEAD, WIDTHS, rows)
    return bench_pdf(sheet, [], size)


@dataclass(frozen=True)
class Star:
    """One packet that may be grown this year: starred with its plants, or not; until when it is good."""

    lot_id: int
    code: str
    variety: str
    kind_name: str
    season: str
    next_act: str
    pick_id: int | None
    plants: int


def stars(larder: Larder) -> list[Star]:
    """All packets one could grow, those that are starred first, then by kind."""
    room = needs_room(larder)
    picked = {
        line.pick_lot_id: (line.pick_id, line.plants or 0)
        for line in room.lines
        if line.pick_lot_id is not None
    }
    out = [_star(x, *picked.get(x.lot_id, (None, 0))) for x in lot_lines(larder)]
    may = {x.lot_id for x in lot_lines(larder) if x.verdict.may_sow and x.state != "missing"}
    return sorted(
        (s for s in out if s.lot_id in may or s.pick_id is not None),
        key=lambda s: (s.pick_id is None, s.kind_name, s.variety, s.code),
    )


def _star(x: LotLine, pick_id: int | None, plants: int) -> Star:
    return Star(x.lot_id, x.code, x.variety, x.kind_name, x.season, x.next_act, pick_id, plants)
