"""Where the record of seed begins, and how old seed without a year may be in this household."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session, col, select

from ...core.origins import Origin, Span, likely_age, record_start
from ...data.tables import Cohort, Household, Variety
from ..air.standing import EPOCH_S
from ..household.kinds import figures


class Ages:
    """How old seed of a kind without a year may be (``core.origins.likely_age``), read once: by what else the
    household keeps of it, and by what comes with it (``beside``: kind, and where its record begins, epoch s).
    """

    def __init__(
        self, session: Session, now_s: int, beside: Sequence[tuple[str | None, int]] = ()
    ) -> None:
        self.now_s = now_s
        rows = session.exec(
            select(Variety.crop, Cohort.record_from_s)
            .join(Cohort, col(Cohort.variety_id) == Variety.id)
            .where(Cohort.year_guessed == 0, col(Cohort.deleted_s).is_(None))
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
