"""Why what is set keeps so long: when it was lifted, where it lies, when it is set."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session

from ...core.seed.pieces import Keeps
from ..air.air import Air
from ..forecast.kept_pieces import Kept, kept, looked_over
from ..forecast.lines import LotLine
from ..household.kinds import Kind, figures
from ..household.larder import writing_here
from ..household.planting_stock import keep_limits, piece_of
from ..household.wording import day_words, many, percent, temperature_here


@dataclass(frozen=True)
class WhyLine:
    """One line of the reasoning: a plain sentence and the exact term for those who want it."""

    text: str
    exact: str


def why_pieces(session: Session, air: Air, kind: Kind, line: LotLine) -> list[WhyLine]:
    """The reasoning of one lot that is set as pieces."""
    counted_s = looked_over(session, [line.lot_id]).get(line.lot_id)
    one = kept(air, kind, line, line.lot_id, counted_s)
    (low_c, high_c), weeks = keep_limits(kind, line.form)
    f = figures().pieces
    many_of = f"{one.unit}s"
    out = [
        WhyLine(
            f"Lifted or bought about {day_words(line.record_from_s)}; such {many_of} keep {weeks.low:g} to "
            f"{weeks.high:g} weeks at {temperature_here(low_c)} to {temperature_here(high_c)} (guess).",
            f"pieces.csv, piece_forms.csv; a day at {temperature_here(high_c + f.warm_halves_c)} counts as "
            f"two at {temperature_here(high_c)} (guess)",
        ),
        WhyLine(_where(line, one), "mean of the air there until its last good day"),
        WhyLine(
            f"So they are good till about {one.until}, likely {_span(one.last)}.",
            "days in that air, each counted by its warmth",
        ),
    ]
    if one.window is not None:
        out.append(WhyLine(f"They are set {one.days}.", "weeks from the last frost, the book's"))
    out.append(
        WhyLine(
            f"Of sound {many_of} {percent(f.stand_share)} stand (guess); nothing is tested: look whether "
            "they are firm, and count what is sound.",
            f"beta of mean {f.stand_share:g} and weight {f.stand_weight:g}",
        )
    )
    if counted_s is not None:
        out.append(WhyLine(f"Last counted {day_words(counted_s)}.", ""))
    piece = piece_of(kind, line.form)
    if piece is not None and piece.note:
        out.append(WhyLine(f"{piece.note.capitalize()}.", piece.source))
    if line.seeds is not None and piece is not None and piece.pieces_per_kg is not None:
        out.append(
            WhyLine(
                f"{many(round(line.seeds), one.unit)} weigh about "
                f"{writing_here().mass(1000 * line.seeds / piece.pieces_per_kg.middle)} by the book.",
                f"{piece.pieces_per_kg.low:g} to {piece.pieces_per_kg.high:g} to the kilo",
            )
        )
    return out


def _where(line: LotLine, one: Kept) -> str:
    place = line.place or "no place named: taken as the usual one"
    return f"They lie in {place}; {one.place or 'it is as they like it there'}."


def _span(last: Keeps) -> str:
    return f"{day_words(last.low_s)} to {day_words(last.high_s)}"
