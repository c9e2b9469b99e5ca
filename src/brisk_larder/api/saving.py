"""Saving: what the book says of each kept line."""

from __future__ import annotations

from fastapi import APIRouter

from ..services.saving import kept_lines
from ..services.saving.kept_lines import SavingLine
from .deps import LarderDep

router = APIRouter(prefix="/api", tags=["saving"])


@router.get("/saving")
def get_saving(larder: LarderDep) -> list[SavingLine]:
    """Kept lines and what the book says of saving them."""
    return kept_lines.saving_room(larder)
