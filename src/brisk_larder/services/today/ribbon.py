"""The year ribbon: fifty-two weeks of the household's year and what falls in each."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from ...core.base.units import local_day
from ..air.look import looking_at
from ..forecast.lines import lot_lines
from ..forecast.on_order import orders_of
from ..forecast.sowing import windows_of
from ..household.larder import Larder, household_year
from ..household.wording import date_words
from ..needs.basket_page import last_offers
from ..needs.chains import needs_room
from .this_years_list import year_of


@dataclass(frozen=True)
class Mark:
    """What falls in one week: kind (test, sow, order, regrow), how many, and words for it."""

    week: int
    kind: str
    count: int
    words: str


@dataclass(frozen=True)
class Ribbon:
    """The band: its start, today, frost days, and the marks by week."""

    start: str
    today: str
    weeks: int
    last_frost: str | None
    last_frost_sd_days: float
    first_frost: str | None
    first_frost_sd_days: float
    marks: list[Mark]


def _frost(start: date, day_of_year: int | None) -> date | None:
    if day_of_year is None:
        return None
    for year in (start.year, start.year + 1):
        day = date(year, 1, 1) + timedelta(days=day_of_year - 1)
        if start <= day < start + timedelta(days=364):
            return day
    return None


def ribbon(larder: Larder) -> Ribbon:
    """The household's year with tests, sowings, orders and regrowing by week."""
    lines, year = lot_lines(larder), year_of(larder)
    needs = needs_room(larder)
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        orders, ends = orders_of(v), last_offers(v)
    day = local_day(larder.now_s(), home.tz)
    start = date(household_year(day, home), home.year_starts_month, 1)
    names: dict[tuple[int, str], list[str]] = {}

    def put(when: date, kind: str, words: str) -> None:
        week = (when - start).days // 7
        if 0 <= week < 52:
            names.setdefault((week, kind), []).append(words)

    for p in year.tests:
        if p.due_s is not None:
            put(local_day(p.due_s, home.tz), "test", p.title.removeprefix("Test "))
    for p in year.shortfalls:
        if p.due_s is not None:
            put(local_day(p.due_s, home.tz), "order", p.title)
    wanted = {c for line in needs.lines for c in (line.crop, *line.also)}
    for crop in sorted(wanted):
        kind = kinds.get(crop)
        windows = [w for y in (start.year, start.year + 1) for w in windows_of(kind, y, home)]
        for w in windows:
            put(w.first, "sow", f"{kind.name} {w.setting} from {date_words(w.first)}")
    for order in orders:
        if order.state == "ordered":
            expected = local_day(order.expected_s, home.tz)
            put(expected, "order", f"on its way: {order.packs} x {order.name} from {order.seller}")
    for crop in sorted({x.crop for x in needs.lines if x.short_plants}):
        if crop in ends:
            name = kinds.get(crop).name
            put(local_day(ends[crop], home.tz), "order", f"nobody offers {name} after this")
    for line in lines:
        g = line.glance
        if line.next_code == "regrow" and g.next_sowing_s is not None:
            put(local_day(g.next_sowing_s, home.tz), "regrow", f"{line.code} {line.variety}")
    marks = [
        Mark(week, kind, len(words), "; ".join(sorted(set(words))[:6]))
        for (week, kind), words in sorted(names.items())
    ]
    last, first = _frost(start, home.last_frost_day), _frost(start, home.first_frost_day)
    return Ribbon(
        start=start.isoformat(),
        today=day.isoformat(),
        weeks=52,
        last_frost=last.isoformat() if last else None,
        last_frost_sd_days=home.last_frost_sd_days,
        first_frost=first.isoformat() if first else None,
        first_frost_sd_days=home.first_frost_sd_days,
        marks=marks,
    )
