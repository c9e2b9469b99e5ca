"""Where something stands, in words, from the place inward."""

from __future__ import annotations

from .air import Air
from .standing import StayRow


def node_path(air: Air, node: int | None) -> str:
    """Where something stands, from the place inward: Stone larder · tin 2."""
    if node is None or node not in air.nodes:
        return ""
    return " · ".join(air.nodes[n].name for n in reversed(air.chain(node)))


def position_of(stay: StayRow | None) -> str:
    """Where in its container: section B, slot 3."""
    if stay is None:
        return ""
    return ", ".join(
        f"{word} {value}"
        for word, value in (("section", stay.section), ("slot", stay.slot))
        if value
    )
