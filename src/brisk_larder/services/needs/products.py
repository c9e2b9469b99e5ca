"""The foods of the book to choose from: found by any word of the household, each once, in its measures."""

from __future__ import annotations

from dataclasses import dataclass

from ...reference import Product
from ..household.kind_types import TypeChoice, asked_types, type_choices
from ..household.kinds import reference
from .chain_lines import METHOD_WORDS

# what a kitchen calls several kinds together
GATHERED = {
    "salad": ("lettuce", "endive", "rocket", "corn_salad", "purslane", "cucumber", "radish", "tomato"),
    "greens": ("kale", "chard", "spinach", "mustard_greens", "orach", "chinese_cabbage"),
    "soup": ("leek", "celeriac", "celery", "carrot", "parsley", "lovage", "swede"),
    "jam": ("strawberry", "tomato", "squash_maxima", "cape_gooseberry"),
    "pulses": ("bean_bush", "bean_pole", "lentil", "chickpea", "pea", "soybean", "cowpea"),
    "grain flour bread": ("wheat", "rye", "oats", "barley", "maize", "quinoa", "amaranth", "buckwheat"),
}  # fmt: skip
# and how a way of keeping is spoken of
KEPT = {
    "root_cellar": "stored in sand cellar clamp winter", "freeze": "frozen freezer", "dry": "dried",
    "water_bath_can": "bottled canned jar preserved pickle", "pressure_can": "bottled canned jar preserved",
    "ferment": "fermented crock sour", "dry_store": "stored dry", "fresh": "fresh",
}  # fmt: skip


@dataclass(frozen=True)
class Measure:
    """A measure in which a food may be wanted, and its product in the book."""

    unit: str
    product: str


@dataclass(frozen=True)
class ProductChoice:
    """A food of the book as a choice in a list. ``words``: all that it is found by; ``measures``: it may be
    wanted in; ``types``: those of its kind, ``asks``: names of those that serve it well (none: any)."""

    name: str
    crop: str
    how: str
    unit: str
    words: str
    measures: list[Measure]
    types: list[TypeChoice]
    asks: list[str]


def unit_of(product: Product) -> str:
    """What a product is counted in: kilos, jars, or litres where it is frozen or in a crock."""
    if product.pack_unit == "kg":
        return "kg"
    return "jars" if product.method in ("water_bath_can", "pressure_can") else "litres"


def products() -> list[ProductChoice]:
    """All foods of the book, by name, each once; with them what is set as tubers, cloves, slips or plants."""
    ref = reference()
    also: dict[str, list[Product]] = {}
    for p in ref.products.values():
        if p.same_as:
            also.setdefault(p.same_as, []).append(p)
    made = []
    for p in ref.products.values():
        if p.same_as:
            continue
        alike = [p, *also.get(p.product, [])]
        made.append(
            ProductChoice(
                p.product, p.crop, METHOD_WORDS[p.method], unit_of(p), _words(p, alike),
                [Measure(unit_of(x), x.product) for x in alike], type_choices(p.crop),
                asked_types(p.crop, p.product, ""),
            )
        )  # fmt: skip
    made += [
        ProductChoice(
            p.name, crop, f"set as {p.piece}s", "kg",
            f"{p.name.lower()} {_other_names(crop)} {_gathered(crop)}", [], [], [],
        )
        for crop, p in ref.pieces.items()
    ]  # fmt: skip
    return sorted(made, key=lambda p: p.name.lower())


def _gathered(crop: str) -> str:
    return " ".join(word for word, kinds in GATHERED.items() if crop in kinds)


def _other_names(crop: str) -> str:
    """What else a kind is called, in small letters."""
    said = [a.names for a in reference().aliases if a.crop == crop and a.match == "same"]
    return " ".join(said).lower().replace(";", " ")


def _words(p: Product, alike: list[Product]) -> str:
    """Everything a food is called, in small letters: its kind by all its names, its types, how it is kept."""
    ref = reference()
    said = [x.product for x in alike]
    said += [KEPT[p.method], METHOD_WORDS[p.method], _gathered(p.crop)]
    name = ref.names.get(p.crop)
    if name is not None:
        herb = "herb herbs" if name.season == "herb" else ""
        said += [name.name, name.name_us, name.other_names, herb, p.crop]
    said.append(_other_names(p.crop))
    for one in ref.types.get(p.crop, ()):
        if p.product in one.well:
            said += [one.name, *one.words]
    return " ".join(" ".join(said).lower().replace(";", " ").replace("_", " ").split())
