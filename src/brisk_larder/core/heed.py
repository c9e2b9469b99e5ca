"""What is asked once, at the moment of an act: codes, each with the reason the act gives it."""

from __future__ import annotations

import re
from collections.abc import Iterable

# words of what a container held before, by what it would leave in it (guess: what households name)
FORMER = {
    "ammunition": ("ammunition", "ammo", "cartridge", "cartridges", "gunpowder", "shells", "rounds"),
    "bait": ("bait", "rat poison", "poison", "slug pellets", "pesticide", "insecticide", "weedkiller",
             "weed killer", "herbicide", "fungicide", "mothballs", "moth balls", "ant powder"),
    "fuel": ("fuel", "petrol", "gasoline", "diesel", "paraffin", "kerosene", "oil can", "engine oil",
             "motor oil", "lamp oil", "lighter fluid", "antifreeze"),
    "paint": ("paint", "varnish", "lacquer", "solvent", "thinner", "white spirit", "turpentine", "turps",
              "creosote", "wood stain", "glue", "bleach", "detergent"),
}  # fmt: skip
DUSTS = ("insecticide dust", "insect dust", "pesticide", "insecticide", "permethrin", "pyrethrum",
         "malathion", "ant powder", "seed dust", "fungicide")  # fmt: skip


def _named(text: str, words: Iterable[str]) -> bool:
    plain = " ".join(text.lower().split())
    return any(re.search(rf"\b{re.escape(w)}s?\b", plain) for w in words)


def held_before(text: str) -> str | None:
    """What a container held that seed must be kept from: ammunition, bait, fuel or paint; None: nothing
    that is known to harm. Read from free text."""
    return next((code for code, words in FORMER.items() if _named(text, words)), None)


def dusted(text: str) -> bool:
    """Whether a note tells of insecticide or dressing put on seed."""
    return _named(text, DUSTS)


def crosses_with(mine: tuple[str, str, bool], others: Iterable[tuple[str, str, str]]) -> list[str]:
    """Names of what would cross with a pick grown in the same year.

    ``mine``: its name, crossing group, and whether its kind crosses at all; ``others``: name, crossing
    group and label of what is picked already. One line alone crosses with nothing.
    """
    name, group, crossing = mine
    if not crossing:
        return []
    return [label for other, its, label in others if its == group and other != name]
