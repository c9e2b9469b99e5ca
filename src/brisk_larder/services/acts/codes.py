"""Codes of lots and of places and containers: which are taken, which is next."""

from __future__ import annotations

from sqlmodel import Session, select

from ...core.codes import next_code
from ...data.tables import Household, Node
from ..household.larder import is_live


def codes_in_use(session: Session) -> set[str]:
    """Codes that some lot ever had: a label in the tin may outlive its lot."""
    return {str(row[0]) for row in session.connection().exec_driver_sql("SELECT code FROM lot")}


def free_code(home: Household, kind_name: str, known: bool, taken: set[str]) -> str:
    """The next code of the household's scheme, taken from then on."""
    code = next_code(home.code_scheme, kind_name, known, taken)
    taken.add(code)
    return code


def new_node_code(session: Session, is_place: bool) -> str:
    """The next free code of a place (P) or a container (C)."""
    codes = {n.code for n in session.exec(select(Node)) if is_live(n)}
    letter = "P" if is_place else "C"
    return next(f"{letter}{i}" for i in range(1, 10_000) if f"{letter}{i}" not in codes)
