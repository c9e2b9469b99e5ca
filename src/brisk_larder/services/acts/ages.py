"""Where the record of seed begins, and how old seed without a year may be in this household."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlmodel import Session, col, select

from ...core.origins import Origin, Span, likely_age, record_start
from ...core.pieces import SEED, harvested
from ...core.units import YEAR_S, day_start_s, local_day
from ...data.tables import Cohort, Household, Lot, Part, Variety
from ..air.standing import EPOCH_S
from ..forecast.sowing import windows_of
from ..household.kinds import Kind, figures
from ..household.pieces import as_set


class Ages:
    """How old seed of a kind without a year may be (``core.origins.likely_age``), read once: by what else the
    household keeps of it, and by what comes with it (``beside``: kind, and where its record begins, epoch s).
    """

    def __init__(
        self, session: Session, now_s: int, beside: Sequence[tuple[str | None, int]] = ()
    ) -> None:
        self.now_s = now_s
        lots = col(Part.lot_id) == Lot.id
        set_as_pieces = select(Part.cohort_id).join(Lot, lots).where(Lot.form != SEED)
        rows = session.exec(
            select(Variety.crop, Cohort.record_from_s)
            .join(Cohort, col(Cohort.variety_id) == Variety.id)
            .where(Cohort.year_guessed == 0, col(Cohort.deleted_s).is_(None))
            .where(col(Cohort.id).not_in(set_as_pieces))
        ).all()
        self._all = [at for _, at in rows]
        self._of: dict[str, list[int]] = {}
        for crop, at in [*rows, *beside]:
            if crop is not None:
                self._of.setdefault(crop, []).append(at)

    def of(self, crop: str | None) -> tuple[int, int]:
        """From when at the earliest, and about when (epoch s)."""
        known = self._of.get(crop or "") or self._all
        return likely_age(known, self.now_s, figures().belief.unknown_years)


def record_of(
    origin: Origin | None,
    source: str,
    home: Household,
    now_s: int,
    likely: tuple[int, int] | None = None,
) -> Span:
    """Where seed of an origin comes from in time, and where its record begins; ``likely``: without a year."""
    f = figures()
    return record_start(
        origin,
        own=source == "own",
        north=home.hemisphere == "north",
        tz=home.tz,
        now_s=now_s,
        earliest_s=EPOCH_S,
        likely=likely or likely_age((), now_s, f.belief.unknown_years),
        f=f.calendar,
    )


FRESH = frozenset({"plant", "slip", "crown"})  # they come when they are to be set


def lifted(origin: Origin | None, kind: Kind, form: str, home: Household, now_s: int) -> Span:
    """Where pieces come from in time, and when they were lifted: of a year at the harvest of their kind, or
    when plants, slips and crowns came (a year that is over: at its end); without a year at the last harvest
    before today."""
    set_kind, today = as_set(kind, form), local_day(now_s, home.tz)
    if origin is not None and not origin.is_year:
        low_s, high_s = (day_start_s(d, home.tz) for d in (origin.low, origin.high))
        middle = min((low_s + high_s) // 2, now_s)
        return Span(min(low_s, middle), max(min(high_s, now_s), min(low_s, middle)), middle)
    if form in FRESH:
        day = today if origin is None else min(origin.high, today)
        low_s = day_start_s(day if origin is None else origin.low, home.tz)
        at_s = now_s if day == today else day_start_s(day, home.tz)
        return Span(min(low_s, at_s), at_s, at_s)
    years = (origin.low.year,) if origin is not None else (today.year, today.year - 1)
    ready = []
    for year in years:
        near = [w for y in (year - 1, year) for w in windows_of(set_kind, y, home)]
        spans = [(w.first, w.last) for w in near]
        days = set_kind.crop.days_to_maturity.middle
        ready.append(harvested(date(year, 1, 1), date(year, 12, 31), spans, days))
    past = [d for d in ready if d <= today]
    at_s = day_start_s(max(past), home.tz) if past else now_s
    low_s = day_start_s(date(years[-1], 1, 1), home.tz)
    return Span(min(low_s, at_s), min(now_s, at_s + int(YEAR_S)), at_s)
