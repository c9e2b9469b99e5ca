"""Types within a kind: what kitchen and bed keep apart while botany calls it one plant."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

Fit = Literal["well", "pinch", "never"]
FITS: tuple[Fit, ...] = ("never", "pinch", "well")


@dataclass(frozen=True)
class PlantType:
    """One type of a kind: its key and name, the words for it on a packet, the products it serves well, at a
    pinch and never; ``usual``: what a packet is taken to be on which nothing stands."""

    crop: str
    key: str
    name: str
    words: tuple[str, ...]
    well: frozenset[str]
    pinch: frozenset[str]
    never: frozenset[str]
    usual: bool = False


def _plain(text: str) -> str:
    return " " + " ".join(re.findall(r"[^\W_]+", text.lower().replace("-", " "))) + " "


def types_in(text: str, types: Sequence[PlantType]) -> frozenset[str]:
    """The types of a kind that words name, whole words only ("snap" is not in "snapdragon"). A longer word
    stands before a shorter one within it: popcorn, field corn."""
    rest, found = _plain(text), set[str]()
    pairs = [(w, t.key) for t in types for w in {_plain(x) for x in (*t.words, t.name)}]
    # one word may name two types: it is no help, and both stay
    for word, _ in sorted(pairs, key=lambda p: -len(p[0])):
        if word in rest:
            found |= {key for w, key in pairs if w == word}
            rest = rest.replace(word, "  ")
    return frozenset(found)


def believed(said: Collection[str], types: Sequence[PlantType]) -> frozenset[str]:
    """The types that a packet is taken to be of: those that are said, else the usual one; none where the
    kind has no usual one, so that it has to be asked."""
    return frozenset(said) or frozenset(t.key for t in types if t.usual)


def fit_of(one: PlantType, product: str, types: Sequence[PlantType]) -> Fit:
    """How a type serves a product; one that no type of the kind serves well asks for none."""
    if product in one.never:
        return "never"
    if product in one.pinch:
        return "pinch"
    if product in one.well or not any(product in t.well for t in types):
        return "well"
    return "pinch"


def serves(
    said: Collection[str], product: str, types: Sequence[PlantType], chosen: Collection[str] = ()
) -> Fit:
    """How a packet of some types serves a product: by the best of them, as it holds them all. With ``chosen``
    types (the keeper's for this food) these serve well, and no other does. Of a packet of which nobody knows
    the type where that matters: at a pinch."""
    if not types:
        return "well"
    mine = believed(said, types)
    if chosen and mine:
        return "well" if mine & set(chosen) else "never"
    if chosen:
        return "pinch"
    if not mine:
        return "pinch" if any(product in t.well for t in types) else "well"
    fits = [fit_of(t, product, types) for t in types if t.key in mine]
    return max(fits, key=FITS.index, default="pinch")


def wanted(product: str, types: Sequence[PlantType]) -> tuple[str, ...]:
    """The types that serve a product well; none: it asks for no type."""
    asked = [t.key for t in types if product in t.well]
    return tuple(asked)


def serves_elsewhere(mine: Sequence[PlantType], eaten: Mapping[str, str], as_what: str) -> Fit:
    """How seed of some types serves a food of the book that is made of another kind: well when one of them
    is kept for what the food is (``eaten``: of each product the seed or the plant; ``as_what``: of the food),
    and where nobody says its type."""
    kept_for = {eaten[product] for one in mine for product in one.well if product in eaten}
    return "well" if not mine or as_what in kept_for else "never"
