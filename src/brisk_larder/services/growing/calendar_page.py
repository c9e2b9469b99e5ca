"""The year of each kind that is grown: sowing, harvest, and until when sowing still pays."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from ...core.growing_year import Frosts, KindYear, growing_year, tender
from ...core.windows import autumn_window
from ...data.tables import Household
from ..air.look import Look, looking_at
from ..forecast.lines import lot_lines
from ..forecast.sowing import windows_of
from ..forecast.wishes import wishes
from ..household.kinds import Kind, figures
from ..household.larder import Larder, planning_year, remembered
from ..household.wording import percent


@dataclass(frozen=True)
class Span:
    """Days from and to, and what is done: indoors, outdoors, autumn, harvest."""

    what: str
    first: str
    last: str
    guessed: bool


@dataclass(frozen=True)
class KindLine:
    """One kind over the calendar year. ``last_useful``: day after which sowing it no longer pays; ``packets``
    in hand; ``says``: in words."""

    kind: str
    kind_name: str
    season: str
    packets: int
    spans: list[Span]
    last_useful: str | None
    frost_risk: float
    says: str


@dataclass(frozen=True)
class CalendarPage:
    """The calendar year that is told of, frost days, and all kinds that are wanted or kept."""

    year: int
    last_frost: str | None
    first_frost: str | None
    kinds: list[KindLine]


def _day(year: int, day_of_year: int | None) -> date | None:
    return None if day_of_year is None else date(year, 1, 1) + timedelta(days=day_of_year - 1)


@remembered
def calendar_page(larder: Larder) -> CalendarPage:
    """The kinds the household wants or keeps, each with its year."""
    lines = [x for x in lot_lines(larder) if x.verdict.may_sow]
    with looking_at(larder) as v:
        home = v.home
        asked = wishes(v.session, v.kinds, planning_year(v.today, home), v.now_s)
        year = v.today.year if v.today.month < 7 else v.today.year + 1
        frosts = Frosts(
            None if home.frost_free else _day(year, home.last_frost_day),
            home.last_frost_sd_days,
            None if home.frost_free else _day(year, home.first_frost_day),
            home.first_frost_sd_days,
        )
        kept = {x.kind for x in lines if x.kept_line}
        wanted = sorted({*asked.crops, *kept})
        packets: dict[str, int] = {}
        for x in lines:
            packets[x.kind] = packets.get(x.kind, 0) + 1
        kinds = [_line(v.kinds.get(k), packets.get(k, 0), v, year, frosts) for k in wanted]
    kinds.sort(key=lambda k: (k.spans[0].first if k.spans else "z", k.kind_name))
    told = [None if d is None else d.isoformat() for d in (frosts.last, frosts.first)]
    return CalendarPage(year, told[0], told[1], kinds)


def _line(kind: Kind, packets: int, v: Look, year: int, frosts: Frosts) -> KindLine:
    home: Household = v.home
    crop = kind.crop
    found = growing_year(
        windows_of(kind, year, home),
        (crop.days_to_maturity.low, crop.days_to_maturity.high),
        tender(crop.sow_outdoors_weeks_rel_last_frost, kind.season == "warm"),
        frosts,
    )
    spans = [
        Span(w.setting, w.first.isoformat(), w.last.isoformat(), w.guessed) for w in found.windows
    ]
    autumn = autumn_window(year, home.first_frost_day, crop.autumn_sow_weeks_before_first_frost)
    if autumn is not None and not home.frost_free:
        spans.append(Span("autumn", autumn.first.isoformat(), autumn.last.isoformat(), False))
    if found.harvest is not None:
        first, last = found.harvest
        spans.append(Span("harvest", first.isoformat(), last.isoformat(), True))
    return KindLine(
        kind.key, kind.name, kind.season, packets, spans,
        found.last_useful.isoformat() if found.last_useful else None,
        round(found.frost_risk, 3), _says(found),
    )  # fmt: skip


def _says(found: KindYear) -> str:
    parts = []
    if found.frost_risk >= figures().telling.frost_risk:
        parts.append(
            f"on its first day outdoors another frost comes with {percent(found.frost_risk)}"
        )
    if found.last_useful is not None:
        day = found.last_useful
        parts.append(
            f"sown after {day.day} {day:%B} it is not ready before the first frost, by the book's days"
        )
    return "; ".join(parts)
