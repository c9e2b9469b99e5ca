"""Where the record of seed begins, and how old seed without a year may be in this household."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session, col, select

from ...core.base.units import day_start_s, local_day
from ...core.hand.origins import Origin, Span, likely_age, record_start
from ...core.seed.pieces import SEED, lifted_on
from ...data.tables import Cohort, Household, Lot, Part, Variety
from ..air.standing import EPOCH_S
from ..forecast.sowing import windows_of
from ..household.kinds import Kind, figures
from ..household.planting_stock import as_set


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


def lifted(origin: Origin | None, kind: Kind, form: str, home: Household, now_s: int) -> Span:
    """Where pieces come from in time, and when they were lifted (``core.pieces.lifted_on``)."""
    set_kind, today = as_set(kind, form), local_day(now_s, home.tz)
    years = range((origin.low.year if origin else today.year) - 2, today.year + 1)
    set_on = [(w.first, w.last) for y in years for w in windows_of(set_kind, y, home)]
    days = set_kind.crop.days_to_maturity.middle
    day = lifted_on(origin, form, set_on, days, today)
    at_s = now_s if day == today else day_start_s(day, home.tz)
    low_s = at_s if origin is None else min(at_s, day_start_s(origin.low, home.tz))
    high_s = now_s if origin is None else max(at_s, min(now_s, day_start_s(origin.high, home.tz)))
    return Span(low_s, high_s, at_s)


def starts_of(
    origins: Sequence[Origin],
    kind: Kind,
    form: str,
    source: str,
    home: Household,
    now_s: int,
    likely: tuple[int, int],
) -> list[Span]:
    """Where the records of what is in a packet begin, one for each of its origins: of seed, or of pieces."""
    each: list[Origin | None] = list(origins) or [None]
    if form != SEED:
        return [lifted(o, kind, form, home, now_s) for o in each]
    return [record_of(o, source, home, now_s, likely) for o in each]
