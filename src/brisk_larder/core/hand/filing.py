"""The household's order: how packets are grouped, where one files, how they divide among boxes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import accumulate

from ..base.errors import InvalidValue
from ..base.figures_stock import AmountsFigures
from .codes import natural

GROUPINGS = (
    "season", "kind", "family", "alphabet", "age", "place", "sowing", "tag", "use", "urgency",
)  # fmt: skip
SEASONS = {
    "cool": "Cool season", "autumn": "Cool season, also for autumn", "warm": "Warm season",
    "herb": "Herbs", "flower": "Flowers", "cover": "Cover and grain",
}  # fmt: skip
MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September",
    "October", "November", "December",
)  # fmt: skip
URGENCY = ("Calm", "In good time", "Soon", "Now")


@dataclass(frozen=True)
class Filed:
    """What filing needs of one lot. ``sowing_month`` 1-12 or None; ``bulk`` in packets."""

    lot_id: int
    code: str
    kind_name: str
    variety: str
    season: str
    autumn: bool
    family: str
    age_years: float
    place: str
    sowing_month: int | None
    tags: tuple[str, ...]
    use: str
    urgency: int
    bulk: float = 1.0


@dataclass(frozen=True)
class Group:
    """A group under its heading with its lots in order."""

    name: str
    lots: list[Filed]


def _heading(x: Filed, grouping: str) -> list[tuple[tuple[int, str], str]]:
    """Sort key and heading of the groups a lot belongs to (several for tags)."""
    match grouping:
        case "season":
            key = "autumn" if x.season == "cool" and x.autumn else x.season
            return [((list(SEASONS).index(key), ""), SEASONS[key])]
        case "kind":
            return [((0, x.kind_name.lower()), x.kind_name[:1].upper() + x.kind_name[1:])]
        case "family":
            return [((0 if x.family else 1, x.family), x.family or "Family unknown")]
        case "alphabet":
            first = (x.variety or x.kind_name)[:1].upper()
            return [((0, first), first)]
        case "age":
            years = int(x.age_years)
            words = "Under a year" if years < 1 else "One year" if years == 1 else f"{years} years"
            return [((years, ""), words)]
        case "place":
            return [((0 if x.place else 1, x.place), x.place or "No place named")]
        case "sowing":
            month = x.sowing_month
            return [
                ((month or 13, ""), f"Sown in {MONTHS[month - 1]}" if month else "No window known")
            ]
        case "tag":
            return [((0, t.lower()), t) for t in x.tags] or [((1, ""), "No tag")]
        case "use":
            return [((0, x.use), f"Meant for {x.use}")]
        case "urgency":
            return [((3 - x.urgency, ""), URGENCY[x.urgency])]
        case _:
            raise InvalidValue("group by", grouping, ", ".join(GROUPINGS))


def arrange(lots: Sequence[Filed], grouping: str) -> list[Group]:
    """Lots in the order of a grouping: by heading, then kind, variety and code.

    By alphabet the variety leads; by age and urgency too the kind comes second.
    Raises InvalidValue for an unknown grouping.
    """
    if grouping not in GROUPINGS:
        raise InvalidValue("group by", grouping, ", ".join(GROUPINGS))
    found: dict[tuple[int, str], tuple[str, list[Filed]]] = {}
    for x in lots:
        for key, name in _heading(x, grouping):
            found.setdefault(key, (name, []))[1].append(x)
    inside: Callable[[Filed], object] = (
        (lambda x: (x.variety.lower(), x.kind_name.lower(), natural(x.code)))
        if grouping == "alphabet"
        else (lambda x: (x.kind_name.lower(), x.variety.lower(), natural(x.code)))
    )
    return [
        Group(name, sorted(members, key=inside))  # type: ignore[arg-type]
        for _, (name, members) in sorted(found.items())
    ]


def neighbours(
    groups: Sequence[Group], lot_id: int
) -> tuple[str, Filed | None, Filed | None] | None:
    """(heading, the one before, the one after) of a lot in its order; None when it is not there."""
    for group in groups:
        for i, x in enumerate(group.lots):
            if x.lot_id == lot_id:
                before = group.lots[i - 1] if i else None
                after = group.lots[i + 1] if i + 1 < len(group.lots) else None
                return group.name, before, after
    return None


@dataclass(frozen=True)
class Share:
    """What goes into one box: its place in the list of capacities, the lots, how full it is (0-1)."""

    box: int
    lots: list[Filed]
    fill: float


def _off(end: int, upto: Sequence[float], begin: int, goal: float) -> float:
    return abs(upto[end] - upto[begin] - goal)


def divide(
    groups: Sequence[Group], capacities: Sequence[float], f: AmountsFigures
) -> tuple[list[Share], list[Filed]]:
    """Lots in their order into all boxes in theirs, each as full as the others; what does not fit is left.

    A box ends with a group where that leaves it about as full as the others, so that a heading is seldom torn
    apart. Raises InvalidValue for a box that holds nothing.
    """
    if any(c <= 0 for c in capacities):
        raise InvalidValue("holds", min(capacities), "at least one packet")
    lots = [x for g in groups for x in g.lots]
    ends: set[int] = set()
    at = 0
    for g in groups:
        at += len(g.lots)
        ends.add(at)
    upto = [0.0, *accumulate(x.bulk for x in lots)]
    out: list[Share] = []
    begin = 0
    for box, capacity in enumerate(capacities):
        room, later = sum(capacities[box:]), sum(capacities[box + 1 :])
        left = upto[-1] - upto[begin]
        goal = capacity * min(1.0, left / room)
        fits = [
            end for end in range(begin, len(lots) + 1) if upto[end] - upto[begin] <= capacity + 1e-9
        ]
        # what is left has to fit into the boxes that follow, where it can at all
        sound = [end for end in fits if upto[-1] - upto[end] <= later + 1e-9] or fits[-1:]

        off = partial(_off, upto=upto, begin=begin, goal=goal)
        near = [e for e in sound if e in ends and off(e) <= f.near_goal_share * goal]
        end = min(near or sound, key=off)
        if end > begin:
            out.append(Share(box, lots[begin:end], (upto[end] - upto[begin]) / capacity))
        begin = end
    return out, lots[begin:]


def bulk(mass_g: float, f: AmountsFigures) -> float:
    """Room that a lot of a mass takes, in packets; a sack counts the same however large."""
    if mass_g >= f.bulk_from_g:
        return f.bulk_packets
    return max(1.0, mass_g / f.grams_like_a_packet)
