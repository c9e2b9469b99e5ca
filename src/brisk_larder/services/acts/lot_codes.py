"""Codes of lots and of places and containers: which are taken, which is next."""

from __future__ import annotations

from sqlmodel import Session

from ...core.hand.codes import next_code
from ...data.tables import Household


def codes_in_use(session: Session) -> set[str]:
    """Codes that some lot has or had (a label in the tin may outlive its lot), and those of containers and
    places: one code means one thing. What was taken back never was, and leaves its code free."""
    run = session.connection().exec_driver_sql
    return {
        str(row[0])
        for row in run("SELECT code FROM lot WHERE deleted_s IS NULL UNION SELECT code FROM node")
    }


def free_code(home: Household, kind_name: str, known: bool, taken: set[str]) -> str:
    """The next code of the household's scheme, taken from then on."""
    code = next_code(home.code_scheme, kind_name, known, taken)
    taken.add(code)
    return code


def new_node_code(session: Session, is_place: bool) -> tuple[str, int]:
    """The next free code of a place (RM: room) or a container (BX: box), and its number."""
    taken, letters = codes_in_use(session), "RM" if is_place else "BX"
    number = next(i for i in range(1, 10_000) if f"{letters}{i}" not in taken)
    return f"{letters}{number}", number
