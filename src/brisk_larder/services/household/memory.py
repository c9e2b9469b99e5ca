"""What was told the keeper of days to come, kept in the file so that it stands until its day: readers write
it beside what they reckon. It is no history of what anybody did, and a file without it begins anew."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import Any

from sqlmodel import Session

from ...core.base.errors import CannotWrite
from .larder import Larder

Told = dict[str, Any]


def recall(session: Session, what: str) -> Told:
    """What was told of a subject, by what it is about; nothing yet: empty."""
    found = (
        session.connection()
        .exec_driver_sql("SELECT value FROM meta WHERE key = ?", (f"told:{what}",))
        .scalar()
    )
    return dict(json.loads(str(found))) if found else {}


def remember(larder: Larder, what: str, before: Told, now: Told) -> None:
    """Keep what is told now. Where the file cannot be written the last stands."""
    if now == before:
        return
    with suppress(CannotWrite), larder.store.keep() as session:
        session.connection().exec_driver_sql(
            "INSERT INTO meta (key, value) VALUES (?, ?) "
            "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
            (f"told:{what}", json.dumps(now, sort_keys=True)),
        )
