"""What was read last in a place or container."""

from __future__ import annotations

from .air import Air


def _latest(air: Air, node: int) -> tuple[tuple[int | None, float | None, float | None], bool]:
    """The latest reading of a node (time, degC, fraction), and whether a logger stands there."""
    best: tuple[int | None, float | None, float | None] = (None, None, None)
    logged = False
    for d in air.deployments.get(node, []):
        rows = air.query(
            "SELECT r.at_s, r.temperature_c, r.erh, s.origin FROM reading r JOIN series s "
            "ON s.id = r.series_id WHERE r.series_id = ? AND r.at_s >= ? AND r.at_s < ? "
            "ORDER BY r.at_s DESC LIMIT 1",
            (d.series_id, d.from_s, min(d.to_s or 2**62, air.now_s + 1)),
        )
        if rows and (best[0] is None or rows[0][0] > best[0]):
            best = rows[0][:3]
        logged |= bool(rows) and rows[0][3] == "logger" and rows[0][0] > air.now_s - 7 * 86_400
    return best, logged


def latest(air: Air, node: int) -> tuple[int | None, float | None, float | None]:
    """The latest reading of a node: time, degC, fraction; None where nothing was read."""
    return _latest(air, node)[0]
