"""Tubers, cloves, sets, slips, crowns and plants: what says that they are meant, and how long they keep."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from datetime import date, timedelta
from typing import Literal, NamedTuple

import numpy as np

from ..base.figures_stock import PiecesFigures
from ..base.units import DAY_S
from ..hand.origins import Origin
from ..storage.moisture import Floats

SEED = ""  # the form of what is sown
FRESH = frozenset(
    {"plant", "slip", "crown"}
)  # they come when they are to be set, and nobody eats them
PieceState = Literal["keeps", "last_days", "too_short", "over"]
_SAYS_SEED = re.compile(
    r"\b(?:seeds?|packets?|pkts?|envelopes?|sachets?|pinch(?:es)?|tsp|tbsp|true)\b", re.IGNORECASE
)
_SEED_STOCK = re.compile(r"\bseed[ -](?:potato(?:es)?|tubers?|garlic)\b", re.IGNORECASE)


class Keeps(NamedTuple):
    """When a lot of pieces has its last good day (epoch s, likely range)."""

    low_s: float
    high_s: float


def form_in(texts: Iterable[str], forms: Mapping[str, Sequence[str]]) -> str:
    """The form that words name (by its key; the longest of its words first, in the first text that has one);
    empty: none does."""
    pairs = [(word, key) for key, words in forms.items() for word in words]
    pairs.sort(key=lambda p: -len(p[0]))
    for text in texts:
        plain = " ".join(text.lower().replace("-", " ").split())
        for word, key in pairs:
            if re.search(rf"(?<![a-z]){re.escape(word)}(?![a-z])", plain):
                return key
    return SEED


def says_seed(*texts: str) -> bool:
    """Whether words speak of seed and not of pieces: a packet, a pinch, seeds; seed potatoes are none."""
    return any(_SAYS_SEED.search(_SEED_STOCK.sub("", text)) for text in texts)


def without_form(text: str, words: Iterable[str]) -> str:
    """A name without the word for a form at its end or beginning: "onion sets", "slips of sweet potato"."""
    plain = " ".join(text.split())
    for word in sorted(words, key=len, reverse=True):
        w = re.escape(word)
        cut = re.sub(rf"^{w}\s+(?:of\s+)?|[\s-]+{w}$", "", plain, flags=re.IGNORECASE)
        if cut != plain and cut:
            return cut
    return plain


def lifted_on(
    origin: Origin | None,
    form: str,
    set_on: Sequence[tuple[date, date]],
    days: float,
    today: date,
) -> date:
    """When pieces were lifted, or came: of a month or day in its middle.

    Plants, slips and crowns came when they are to be set: today, or at the end of the year that is told. The
    rest was lifted so many ``days`` after the middle of the days on which its kind is set (``set_on``, of
    several years): in the year that is told, else the last time before today."""
    if origin is not None and not origin.is_year:
        return min(origin.low + (origin.high - origin.low) / 2, today)
    if form in FRESH:
        return today if origin is None else min(origin.high, today)
    ready = sorted(first + (last - first) / 2 + timedelta(days=days) for first, last in set_on)
    if origin is None:
        return max((d for d in ready if d <= today), default=today)
    return min(next((d for d in ready if origin.low <= d <= origin.high), origin.high), today)


def keeps(
    from_s: float,
    weeks: tuple[float, float],
    keep_c: tuple[float, float],
    start_s: Floats,
    temperature_c: Floats,
    looked_over_s: float | None,
    f: PiecesFigures,
) -> Keeps:
    """The last good day of pieces lifted or bought ``from_s``: so many weeks within the limits (degC) at
    which they keep, fewer above them (days count double every ``warm_halves_c``).

    ``start_s``, ``temperature_c`` [T]: panels of the air where they lie, past and to come, each to the next
    one's start, the last without end; before the first they are taken to have lain well. What was looked
    over and counted is good for a while from then on, however long it lay.
    """
    rate = np.exp2(np.maximum(0.0, temperature_c - keep_c[1]) / f.warm_halves_c)
    edges = np.maximum(start_s, from_s)
    before = float(edges[0]) - from_s
    used = before + np.concatenate([[0.0], np.cumsum(np.diff(edges) * rate[:-1])])

    def when(total_s: float) -> float:
        if total_s <= before:
            return from_s + total_s
        if total_s >= used[-1]:
            return float(edges[-1] + (total_s - used[-1]) / rate[-1])
        return float(np.interp(total_s, used, edges))

    low_s, high_s = (when(w * 7 * DAY_S) for w in weeks)
    if looked_over_s is not None:
        sound_s = looked_over_s + f.told_before_days * DAY_S
        low_s, high_s = max(low_s, sound_s), max(high_s, sound_s)
    return Keeps(low_s, high_s)


def piece_state(
    now_s: float, last: Keeps, set_from_s: float | None, f: PiecesFigures
) -> PieceState:
    """Whether pieces keep, are to be set soon, do not keep till they are next set, or are past their days for
    all that is known. ``set_from_s``: when they are next set (None: nobody knows)."""
    if now_s > last.high_s:
        return "over"
    if set_from_s is not None and set_from_s > last.high_s:
        return "too_short"
    return "last_days" if now_s > last.low_s - f.told_before_days * DAY_S else "keeps"
