"""How long tubers, cloves, sets and plants keep where they lie, and when they are set."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import NamedTuple, Protocol

import numpy as np
from sqlmodel import Session, select

from ...core.base.units import DAY_S, day_start_s, local_day, month_start_s
from ...core.seed.pieces import FRESH, SEED, Keeps, keeps, piece_state
from ...data.queries import listed
from ...data.tables import Lot
from ..air.air import LOOK_BACK_DAYS, Air
from ..air.standing import UNPLACED
from ..household.kinds import Kind, Kinds, figures
from ..household.planting_stock import as_set, keep_limits, unit_of
from ..household.wording import date_words, day_words, temperature_here
from .sowing import sowing_of


class Row(Protocol):
    """What is asked of a lot's part."""

    @property
    def form(self) -> str: ...  # noqa: D102
    @property
    def record_from_s(self) -> int: ...  # noqa: D102


class Kept(NamedTuple):
    """How a lot of pieces keeps: its state, last good day, the days on which it is next set, what one of it
    is called, words on its place (empty: it likes it there), and whether the kitchen takes it."""

    state: str
    last: Keeps
    window: tuple[date, date] | None
    unit: str
    place: str
    eaten: bool
    now_s: float

    @property
    def until(self) -> str:
        """Until about when it keeps, in words; once that is over, until when at most."""
        middle = (self.last.low_s + self.last.high_s) / 2
        return (
            day_words(middle) if middle >= self.now_s else f"{day_words(self.last.high_s)} at most"
        )

    @property
    def days(self) -> str:
        """When it is set, in words."""
        return (
            ""
            if self.window is None
            else f"{date_words(self.window[0])} to {date_words(self.window[1])}"
        )


def lots_of_pieces(session: Session) -> set[int]:
    """All lots that are set as pieces: nothing of them is seed."""
    return set(session.exec(select(Lot.id).where(Lot.form != SEED)))  # type: ignore[arg-type]


def looked_over(session: Session, lots: Iterable[int]) -> dict[int, float]:
    """When some lots were last counted (epoch s)."""
    rows = session.connection().exec_driver_sql(
        "SELECT lot_id, max(at_s) FROM stock_entry WHERE deleted_s IS NULL AND kind = 'counted' "
        f"AND lot_id IN ({listed(lots)}) GROUP BY lot_id"
    )
    return {int(lot): float(at) for lot, at in rows}


class CropRow(Row, Protocol):
    """The same, with its kind."""

    @property
    def crop(self) -> str | None: ...  # noqa: D102


def kept_pieces(
    session: Session, air: Air, kinds: Kinds, lots: Mapping[int, Sequence[CropRow]]
) -> dict[int, Kept]:
    """Of lots that are set as pieces how each keeps."""
    mine = {lot: parts[0] for lot, parts in lots.items() if parts[0].form != SEED}
    counted = looked_over(session, mine) if mine else {}
    return {
        lot: kept(air, kinds.get(row.crop), row, lot, counted.get(lot)) for lot, row in mine.items()
    }


def kept(air: Air, kind: Kind, row: Row, lot_id: int, counted_s: float | None) -> Kept:
    """How one lot of pieces keeps."""
    f = figures().pieces
    limits, weeks = keep_limits(kind, row.form)
    stays = air.lot_stays.get(lot_id, [])
    stay = stays[-1] if stays and stays[-1].to_s is None else None
    node, since_s = (stay.parent_node_id, stay.from_s) if stay else (UNPLACED, row.record_from_s)
    past, ahead = air.past(node), air.future(node)
    # the usual look back, however far back the air was asked for by another room: all say the same
    since_s = max(since_s, month_start_s(air.now_s - LOOK_BACK_DAYS * DAY_S))
    lay = (past.panels.start_s >= since_s) & (past.panels.start_s < air.now_s)
    start = np.concatenate([past.panels.start_s[lay], ahead.panels.start_s]).astype(float)
    warm = np.concatenate([past.temperature_c[lay], ahead.temperature_c])
    last = keeps(float(row.record_from_s), weeks, limits, start, warm, counted_s, f)
    home = air.home
    today = local_day(air.now_s, home.tz)
    sown = sowing_of(as_set(kind, row.form), today, home)
    soon = ahead.panels.start_s <= max(last.low_s, air.now_s)
    mean_c = float(ahead.temperature_c[soon].mean())
    place = ""
    if mean_c > limits.high:
        place = f"warmer there than it likes ({temperature_here(mean_c)}; best {_limits(limits)})"
        place += ": it will not keep so long"
    elif mean_c < limits.low:
        place = f"colder there than it likes ({temperature_here(mean_c)}; best {_limits(limits)})"
    set_s = None if sown is None else float(day_start_s(sown.first, home.tz))
    return Kept(
        piece_state(air.now_s, last, set_s, f), last, None if sown is None else (sown.first, sown.until),
        unit_of(kind, row.form, 1), place, row.form not in FRESH, float(air.now_s),
    )  # fmt: skip


def _limits(limits: tuple[float, float]) -> str:
    return f"{temperature_here(limits[0])} to {temperature_here(limits[1])}"
