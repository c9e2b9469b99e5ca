"""Types within a kind, of packets and of foods: read from the words of a label, kept with the variety."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Any

from ...core.base.errors import InvalidValue
from ...core.hand.plant_types import Fit, PlantType, serves, types_in, wanted
from ...reference.row_shapes import Range
from .kinds import Kind, reference


@dataclass(frozen=True)
class TypeChoice:
    """A type within a kind, to choose from."""

    key: str
    name: str


def type_choices(crop: str | None) -> list[TypeChoice]:
    """The types of a kind to choose from."""
    return [TypeChoice(t.key, t.name) for t in types_of_kind(crop)]


def types_of_kind(crop: str | None) -> tuple[PlantType, ...]:
    """The types of a kind; none where the table keeps none apart."""
    return reference().types.get(crop or "", ())


def listed(kept: str) -> tuple[str, ...]:
    """Types as they are kept of a variety or a food: keys with commas."""
    return tuple(t for t in kept.split(",") if t)


def read_types(said: str, crop: str | None) -> str:
    """Types chosen for a packet or a food, as kept. Raises InvalidValue for what the kind has not."""
    known = {t.key: t for t in types_of_kind(crop)}
    given = [t.strip() for t in said.split(",") if t.strip()]
    for one in given:
        if one not in known:
            allowed = ", ".join(t.key for t in known.values()) or "none: this kind has no types"
            raise InvalidValue("type", one, allowed)
    return ",".join(k for k in known if k in given)


def types_typed(crop: str | None, *words: str) -> str:
    """Types that the words of a packet name, as they are kept."""
    types = types_of_kind(crop)
    found = types_in(" . ".join(words), types)
    return ",".join(t.key for t in types if t.key in found)


def type_names(kept: str, crop: str | None) -> list[str]:
    """What people call some types."""
    mine = set(listed(kept))
    return [t.name for t in types_of_kind(crop) if t.key in mine]


def fit(kept: str, crop: str | None, product: str, chosen: Collection[str] = ()) -> Fit:
    """How a packet of some types (as kept) serves a product of the book (``core.types.serves``)."""
    return serves(listed(kept), product, types_of_kind(crop), chosen)


def asked_types(crop: str | None, product: str, chosen: str) -> list[str]:
    """Names of the types that a food asks for; none: of any type."""
    keys = types_asked(crop or "", product, chosen)
    return [t.name for t in types_of_kind(crop) if t.key in keys]


def of_types(kind: Kind, types: Collection[str]) -> Kind:
    """A kind as some of its types grow: days to maturity and spacing, where the table keeps them apart for
    all of these (of several the widest)."""
    rows = [
        reference().type_rows[kind.key, t] for t in types if (kind.key, t) in reference().type_rows
    ]
    days = [r.days_to_maturity for r in rows if r.days_to_maturity is not None]
    changed: dict[str, Any] = {}
    if rows and len(days) == len(rows):
        changed["days_to_maturity"] = Range(min(d.low for d in days), max(d.high for d in days))
    for column in ("spacing_in_row_cm", "row_spacing_cm"):
        wide = [getattr(r, column) for r in rows]
        if rows and None not in wide:
            changed[column] = max(wide)
    return replace(kind, crop=kind.crop.model_copy(update=changed)) if changed else kind


def types_asked(crop: str, product: str, chosen: str) -> list[str]:
    """Keys of the types that a food asks for: those chosen, else those that serve it well; none where any
    would do."""
    types = types_of_kind(crop)
    mine = set(listed(chosen)) or set(wanted(product, types))
    return [] if len(mine) == len(types) else [t.key for t in types if t.key in mine]
