"""What is asked once, at the moment of an act: codes, each with the reason the act gives it."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from itertools import combinations

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


def crossing_lines(
    lines: Iterable[tuple[int, str, str, str]], asked: Collection[int]
) -> list[tuple[list[int], list[str]]]:
    """Groups that would cross if all were grown in the same year, each as its numbers and its labels.

    ``lines``: number, name, label and crossing group of every line that crosses at all, in the order to tell
    them; ``asked``: the numbers now asked about, a group without any of them is not told. Lots of one name
    are one line; one line alone crosses with nothing, and what is mixed in one lot is no news.
    """
    groups: dict[str, list[tuple[int, str, str]]] = {}
    for number, name, label, group in lines:
        groups.setdefault(group, []).append((number, name, label))
    return [
        ([n for n, _, _ in rows], list(dict.fromkeys(label for _, _, label in rows)))
        for rows in groups.values()
        if any(
            a[0] != b[0] and a[1] != b[1] and (a[0] in asked or b[0] in asked)
            for a, b in combinations(rows, 2)
        )
    ]
