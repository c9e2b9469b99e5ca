"""Saving: what the book says of each kept line."""

from __future__ import annotations

from fastapi import APIRouter

from ..services.saving import saving_page
from ..services.saving.saving_page import SavingLine
from .deps import LarderDep

router = APIRouter(prefix="/api", tags=["saving"])


@router.get("/saving")
def get_saving(larder: LarderDep) -> list[SavingLine]:
    """Kept lines and what the book says of saving them."""
    return saving_page.saving_room(larder)
