"""Figures per crop, container, place and product, each with its source and confidence."""

from .load import Reference, load_reference
from .row_shapes import (
    Crop,
    IsothermRow,
    ModelFigure,
    Piece,
    PieceForm,
    Place,
    Product,
    Range,
    ReferenceError,
    StorageKind,
    Viability,
)

__all__ = [
    "Crop",
    "IsothermRow",
    "ModelFigure",
    "Piece",
    "PieceForm",
    "Place",
    "Product",
    "Range",
    "Reference",
    "ReferenceError",
    "StorageKind",
    "Viability",
    "load_reference",
]
