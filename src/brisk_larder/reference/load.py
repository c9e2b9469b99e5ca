"""Read and validate every reference table once; refuse a row that breaks its rules."""

from __future__ import annotations

import csv
import hashlib
from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from itertools import pairwise
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from ..core.base.figures import Figures, figures_of
from ..core.hand.plant_types import PlantType
from ..core.storage.moisture import HeatOfSorption
from .row_shapes import (
    Alias,
    Crop,
    IsothermRow,
    ModelFigure,
    Name,
    Piece,
    PieceForm,
    Place,
    Product,
    ReferenceError,
    StorageKind,
    StoreName,
    TypeRow,
    Viability,
    Warmth,
)

M = TypeVar("M", bound=BaseModel)
RH_PREFIX = "mc_pct_fwb_at_rh_"


@dataclass(frozen=True)
class Reference:
    """All tables, keyed by their first column (products by name).

    ``isotherms`` holds the grain table's row where a crop stands in both, because the
    constants of those crops are anchored on it (README.md beside the tables). ``warmth``: by how much
    less water each crop holds when it is warmer.
    """

    crops: Mapping[str, Crop]
    names: Mapping[str, Name]
    aliases: tuple[Alias, ...]
    viability: Mapping[str, Viability]
    isotherms: Mapping[str, IsothermRow]
    warmth: Mapping[str, HeatOfSorption]
    storage: Mapping[str, StorageKind]
    places: Mapping[str, Place]
    products: Mapping[str, Product]
    pieces: Mapping[str, Piece]
    piece_rows: Mapping[tuple[str, str], Piece]
    forms: Mapping[str, PieceForm]
    store_names: Mapping[str, tuple[str, ...]]
    store_groups: Mapping[str, str]
    types: Mapping[str, tuple[PlantType, ...]]
    type_rows: Mapping[tuple[str, str], TypeRow]
    model: Mapping[str, ModelFigure]
    figures: Figures
    digest: str


def parse_rows(name: str, text: str, model: type[M]) -> list[M]:
    """Validate the rows of one CSV text. Raises ReferenceError with file, line and field."""
    out: list[M] = []
    reader = csv.DictReader(text.splitlines(), strict=True)
    for row in reader:
        if None in row or any(value is None for value in row.values()):
            raise ReferenceError(
                f"{name}, line {reader.line_num}: {len(reader.fieldnames or ())} columns expected; "
                "quote a cell that holds a comma"
            )
        try:
            out.append(model.model_validate(row))
        except ValidationError as error:
            first = error.errors()[0]
            field = ".".join(str(part) for part in first["loc"]) or "row"
            raise ReferenceError(
                f"{name}, line {reader.line_num}, {field}: {first['msg']}, given {first['input']!r}"
            ) from error
    return out


def parse_isotherms(name: str, text: str) -> list[IsothermRow]:
    """Read an isotherm table; moisture must rise with humidity. Raises ReferenceError."""
    out = []
    for line, row in enumerate(csv.DictReader(text.splitlines()), start=2):
        points = [
            (int(key.removeprefix(RH_PREFIX)) / 100, float(value))
            for key, value in row.items()
            if key.startswith(RH_PREFIX) and value != ""
        ]
        if len(points) < 4 or any(b[0] <= a[0] or b[1] <= a[1] for a, b in pairwise(points)):
            raise ReferenceError(f"{name}, line {line}: needs four rising points, given {points}")
        out.append(
            IsothermRow(
                crop=row["crop"],
                temperature_c=float(row["temperature_c"]),
                rh=tuple(p[0] for p in points),
                mc_pct_fwb=tuple(p[1] for p in points),
                source=row["source"],
                confidence=float(row["confidence"]),
            )
        )
    return out


def _keyed(name: str, rows: Iterable[M], key: str) -> dict[str, M]:
    out: dict[str, M] = {}
    for row in rows:
        value = getattr(row, key)
        if value in out:
            raise ReferenceError(f"{name}: {value!r} stands twice")
        out[value] = row
    return out


def _same_crops(name: str, keys: Iterable[str], crops: Mapping[str, Crop]) -> None:
    missing, extra = set(crops) - set(keys), set(keys) - set(crops)
    if missing or extra:
        raise ReferenceError(
            f"{name}: missing {sorted(missing)}, not in species.csv {sorted(extra)}"
        )


def _one_crop_each(aliases: Iterable[Alias], crops: Container[str]) -> None:
    whose: dict[str, str] = {}
    for alias in aliases:
        if alias.crop not in crops:
            raise ReferenceError(
                f"aliases.csv: {alias.crop!r} is neither in species.csv nor in pieces.csv"
            )
        for name in alias.names.split(";"):
            if whose.setdefault(name, alias.crop) != alias.crop:
                raise ReferenceError(f"aliases.csv: {name!r} names {whose[name]} and {alias.crop}")


def _types(
    rows: Iterable[TypeRow], crops: Mapping[str, Crop], products: Mapping[str, Product]
) -> dict[str, tuple[PlantType, ...]]:
    """Types by kind. Raises ReferenceError for a kind or a product that there is not."""
    out: dict[str, tuple[PlantType, ...]] = {}
    for row in rows:
        made = row.made()
        if row.crop not in crops:
            raise ReferenceError(f"types.csv: {row.crop!r} is not in species.csv")
        if wrong := (made.well | made.pinch | made.never) - set(products):
            raise ReferenceError(f"types.csv, {row.crop} {row.type}: no product {sorted(wrong)}")
        if any(t.key == made.key for t in out.get(row.crop, ())):
            raise ReferenceError(f"types.csv: {row.crop} {row.type} stands twice")
        out[row.crop] = (*out.get(row.crop, ()), made)
    return out


def _warmth_of(crop: str, family: str, rows: Sequence[Warmth]) -> HeatOfSorption:
    """Of a crop: its own kinds, else the middle of its family, else that of all families."""
    own = tuple((r.n, r.c) for r in rows if r.crop == crop)
    if own:
        return HeatOfSorption((own,), own=True)
    known = {
        name: tuple(dict.fromkeys((r.n, r.c) for r in rows if r.family == name))
        for name in dict.fromkeys(r.family for r in rows)
    }
    if family in known:
        return HeatOfSorption((known[family],))
    return HeatOfSorption(tuple(known.values()), equation=True)


@lru_cache(maxsize=1)
def load_reference() -> Reference:
    """Load all tables shipped with the package.

    Raises ReferenceError naming file, line and field at the first row that is not valid,
    and when the tables disagree about which crops exist.
    """
    # long: one table after the other
    digest = hashlib.sha256()

    def text(name: str) -> str:
        data = resources.files(__package__).joinpath(name).read_bytes()
        digest.update(data)
        return data.decode("utf-8")

    def table(name: str, model: type[M], key: str) -> dict[str, M]:
        return _keyed(name, parse_rows(name, text(name), model), key)

    crops = table("species.csv", Crop, "crop")
    names = table("names.csv", Name, "crop")
    viability = table("viability.csv", Viability, "crop")
    piece_rows = parse_rows("pieces.csv", text("pieces.csv"), Piece)
    forms = table("piece_forms.csv", PieceForm, "form")
    pieces = {row.crop: row for row in piece_rows if row.crop not in crops}  # else: kinds of seed
    for piece in piece_rows:
        if piece.form not in forms or (piece.seed_like and piece.seed_like not in crops):
            raise ReferenceError(
                f"pieces.csv: {piece.crop!r} names {piece.form!r}, {piece.seed_like!r}"
            )
    products = table("preserve.csv", Product, "product")
    _same_crops("names.csv", names, crops)
    _same_crops("viability.csv", viability, crops)
    aliases = tuple(parse_rows("aliases.csv", text("aliases.csv"), Alias))
    _one_crop_each(aliases, {*crops, *pieces})
    isotherms = {row.crop: row for row in parse_isotherms("isotherms.csv", text("isotherms.csv"))}
    isotherms |= {
        row.crop: row for row in parse_isotherms("isotherms_grain.csv", text("isotherms_grain.csv"))
    }
    for product in products.values():
        if product.crop not in crops and product.crop not in pieces:
            raise ReferenceError(f"preserve.csv: {product.product!r} names crop {product.crop!r}")
        same = products.get(product.same_as) if product.same_as else product
        if same is None or same.crop != product.crop or (same.same_as and same is not product):
            raise ReferenceError(f"preserve.csv: {product.product!r} is not {product.same_as!r}")
    type_rows = parse_rows("types.csv", text("types.csv"), TypeRow)
    for crop in isotherms:
        if crop not in crops:
            raise ReferenceError(f"isotherms: {crop!r} is not in species.csv")
    warmth = tuple(parse_rows("warmth.csv", text("warmth.csv"), Warmth))
    if wrong := {row.crop for row in warmth} - {"", *crops}:
        raise ReferenceError(f"warmth.csv: {sorted(wrong)} not in species.csv")
    model = table("model.csv", ModelFigure, "key")
    try:
        figures = figures_of({key: row.value for key, row in model.items()})
    except KeyError as error:
        raise ReferenceError(
            f"model.csv and core/base/figures.py differ in {error.args[0]}"
        ) from error
    storage = table("storage.csv", StorageKind, "container_kind")
    places = table("places.csv", Place, "place_kind")
    called = table("store_names.csv", StoreName, "kind")
    if wrong := set(called) ^ {*storage, *places}:
        raise ReferenceError(f"store_names.csv: kinds without a name or unknown: {sorted(wrong)}")
    return Reference(
        crops=crops,
        names=names,
        aliases=aliases,
        viability=viability,
        isotherms=isotherms,
        warmth={key: _warmth_of(key, crop.family, warmth) for key, crop in crops.items()},
        storage=storage,
        places=places,
        products=products,
        pieces=pieces,
        piece_rows={(row.crop, row.form): row for row in piece_rows},
        forms=forms,
        store_names={kind: tuple(row.names.split(";")) for kind, row in called.items()},
        store_groups={kind: row.group for kind, row in called.items()},
        types=_types(type_rows, crops, products),
        type_rows={(row.crop, row.type): row for row in type_rows},
        model=model,
        figures=figures,
        digest=digest.hexdigest(),
    )
