"""The year of each kind that is grown: sowing, harvest, and until when sowing still pays."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from ...core.growing.growing_year import Frosts, KindYear, growing_year, tender
from ...core.growing.windows import autumn_window
from ...data.tables import Household
from ..air.look import Look, looking_at
from ..forecast.lines import lot_lines
from ..forecast.nights import Night, nights_ahead
from ..forecast.sowing import frosts_of, windows_of
from ..forecast.wishes import wishes
from ..household.kinds import Kind, figures
from ..household.larder import Larder, planning_year, remembered
from ..household.wording import date_words, percent, temperature_here


@dataclass(frozen=True)
class Span:
    """Days from and to, and what is done: indoors, outdoors, autumn, harvest; ``own``: by the household's own
    days, not the book's."""

    what: str
    first: str
    last: str
    guessed: bool
    own: bool = False


@dataclass(frozen=True)
class KindLine:
    """One kind over the year. ``last_useful``: day after which sowing it no longer pays; ``packets``
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
    """Twelve months from a day (``begins``: January, in the south July), frost days, nights that are
    forecast, and all kinds that are wanted or kept."""

    year: int
    begins: str
    nights: list[Night]
    last_frost: str | None
    first_frost: str | None
    kinds: list[KindLine]


@remembered
def calendar_page(larder: Larder) -> CalendarPage:
    """The kinds the household wants or keeps, each with its year."""
    lines = [x for x in lot_lines(larder) if x.verdict.may_sow]
    with looking_at(larder) as v:
        home = v.home
        asked = wishes(v.session, v.kinds, planning_year(v.session, v.today, home), v.now_s)
        # half a year before a year begins people plan it: in the south it begins in July
        south = home.hemisphere == "south"
        year = v.today.year if south or v.today.month < 7 else v.today.year + 1
        frosts = frosts_of(home, year)
        nights = nights_ahead(v)
        kept = {x.kind for x in lines if x.kept_line}
        wanted = sorted({*asked.crops, *kept})
        packets: dict[str, int] = {}
        for x in lines:
            packets[x.kind] = packets.get(x.kind, 0) + 1
        kinds = [_line(v.kinds.get(k), packets.get(k, 0), v, year, frosts) for k in wanted]
    kinds.sort(key=lambda k: (k.spans[0].first if k.spans else "z", k.kind_name))
    told = [None if d is None else d.isoformat() for d in (frosts.last, frosts.first)]
    begins = date(year, 7 if south else 1, 1).isoformat()
    return CalendarPage(year, begins, nights, told[0], told[1], kinds)


def _line(kind: Kind, packets: int, v: Look, year: int, frosts: Frosts) -> KindLine:
    home: Household = v.home
    crop = kind.crop
    found = growing_year(
        windows_of(kind, year, home),
        (crop.days_to_maturity.low, crop.days_to_maturity.high),
        tender(crop.sow_outdoors_weeks_rel_last_frost, kind.season == "warm"),
        frosts,
    )
    own = {o.setting for o in kind.own_days}
    spans = [
        Span(w.setting, w.first.isoformat(), w.last.isoformat(), w.guessed, w.setting in own)
        for w in found.windows
    ]
    autumn_year = frosts.first.year if frosts.first is not None else year
    weeks = crop.autumn_sow_weeks_before_first_frost
    autumn = autumn_window(autumn_year, home.first_frost_day, weeks)
    if autumn is not None and not home.frost_free:
        spans.append(Span("autumn", autumn.first.isoformat(), autumn.last.isoformat(), False))
    if found.harvest is not None:
        first, last = found.harvest
        spans.append(Span("harvest", first.isoformat(), last.isoformat(), True))
    return KindLine(
        kind.key, kind.name, kind.season, packets, spans,
        found.last_useful.isoformat() if found.last_useful else None,
        round(found.frost_risk, 3), _says(found, crop.germ_temp_min_c),
    )  # fmt: skip


def _says(found: KindYear, soil_c: float) -> str:
    parts = []
    if any(w.setting == "outdoors" for w in found.windows):
        parts.append(f"wants soil of {temperature_here(soil_c)} at least to come up")
    if found.frost_risk >= figures().telling.frost_risk:
        parts.append(
            f"on its first day outdoors another frost comes with {percent(found.frost_risk)}"
        )
    if found.last_useful is not None:
        day = found.last_useful
        parts.append(
            f"sown after {date_words(day)} it is not ready before the first frost, by the book's days"
        )
    return "; ".join(parts)
