"""The ageing behind each part, kept in one piece: a row a part instead of a row a month."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from sqlmodel import Session

from ...core.base.units import month_start_s
from ...core.storage.moisture import Floats

STATE_FIELDS = (
    "erh25", "start_sd", "remain", "a_probit", "var_closed", "gap_open", "gap_key", "wall_erh",
    "wall_a",
)  # fmt: skip


FLOAT = "<f8"  # on every machine, so that a file can be carried over


class Track(NamedTuple):
    """Where the whole months of a part end, A there (probits), and the state at the last end."""

    ends_s: Floats
    a_probit: Floats
    state: tuple[float, ...]


def month_ends(months_s: Floats) -> Floats:
    """Where UTC months end that begin at these times, epoch seconds."""
    months = months_s.astype("datetime64[s]").astype("datetime64[M]")
    return np.asarray((months + 1).astype("datetime64[s]").astype(float))


def _blob(values: Floats) -> bytes:
    return values.astype(FLOAT).tobytes()


def _listed(part_ids: Iterable[int]) -> str:
    return ", ".join(map(str, part_ids)) or "0"


def keep_tracks(session: Session, part_ids: Iterable[int]) -> None:
    """Draw the months of some parts (d_month) together again after they changed."""
    cursor = session.connection().connection.cursor()
    ids = list(part_ids)
    for i in range(
        0, len(ids), 500
    ):  # half a million months at once would take their toll in memory
        listed = _listed(ids[i : i + 500])
        cursor.execute(f"DELETE FROM d_track WHERE part_id IN ({listed})")
        cursor.execute(
            "SELECT part_id, month_s, a_probit FROM d_month "
            f"WHERE part_id IN ({listed}) ORDER BY part_id, month_s"
        )
        table = np.array(cursor.fetchall(), dtype=float).reshape(-1, 3)
        edges = np.append(np.flatnonzero(np.diff(table[:, 0], prepend=-1.0)), len(table))
        ends = month_ends(table[:, 1])
        rows = [
            (int(table[a, 0]), int(table[b - 1, 1]), _blob(ends[a:b]), _blob(table[a:b, 2]))
            for a, b in pairwise(edges)
        ]
        cursor.executemany("INSERT INTO d_track VALUES (?, ?, ?, ?)", rows)
    cursor.close()


def tracks(session: Session, part_ids: Iterable[int], now_month_s: int) -> dict[int, Track]:
    """The tracks of some parts up to the current month; a part without a whole good month has none.

    Months that are marked to be made again are left out, and those that lie ahead of a clock that
    was set back.
    """
    wanted = sorted(set(part_ids))
    where = f"WHERE t.part_id IN ({_listed(wanted)})" if len(wanted) < 400 else ""
    cursor = session.connection().connection.cursor()
    cursor.execute(
        f"SELECT t.part_id, t.last_month_s, t.ends_s, t.a_probit, "
        f"{', '.join(f'm.{n}' for n in STATE_FIELDS)} "
        "FROM d_track t CROSS JOIN d_month m ON m.part_id = t.part_id AND m.month_s = t.last_month_s "
        + where
    )
    found, until = {}, {}
    for part, last, ends, a, *state in cursor.fetchall():
        found[int(part)] = Track(np.frombuffer(ends, FLOAT), np.frombuffer(a, FLOAT), tuple(state))
        if last >= now_month_s:
            until[int(part)] = now_month_s
    cursor.execute("SELECT part_id, from_s FROM dirty")
    for part, from_s in cursor.fetchall():
        if part in found:
            until[part] = min(until.get(part, now_month_s), month_start_s(max(from_s, 0)))
    for part, end_s in until.items():
        cursor.execute(
            f"SELECT {', '.join(STATE_FIELDS)} FROM d_month WHERE part_id = ? AND month_s < ? "
            "ORDER BY month_s DESC LIMIT 1",
            (part, end_s),
        )
        state = cursor.fetchone()
        good = found[part].ends_s <= end_s
        if state is None:
            del found[part]
        else:
            found[part] = Track(found[part].ends_s[good], found[part].a_probit[good], tuple(state))
    cursor.close()
    return found
