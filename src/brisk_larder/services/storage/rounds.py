"""The Sunday round: what to read, in walking order, with what would be expected there."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.storage.moisture import erh_at
from ...core.storage.places import expected
from ..air.latest import _latest
from ..air.look import looking_at
from ..air.paths import node_path
from ..household.kinds import figures
from ..household.larder import Larder


@dataclass(frozen=True)
class Stop:
    """One stop of the round. Temperatures degC, humidity fractions.

    ``last_*``: the latest reading by eye (None: never read); outside ``low``..``high`` a value is odd
    and asked about before it is saved.
    """

    node_id: int
    code: str
    name: str
    path: str
    lots: int
    last_at_s: int | None
    last_c: float | None
    last_erh: float | None
    low_c: float
    high_c: float
    low_erh: float
    high_erh: float
    logged: bool
    out: bool


def round_list(larder: Larder) -> list[Stop]:
    """Stops of the round: whatever holds seed or was read before, in walking order."""
    with looking_at(larder) as v:
        air = v.air
        out = []
        for node in sorted(air.nodes.values(), key=lambda n: (n.walk_order, n.id)):
            lots = len(air.lots_in(node.id))
            if node.deleted_s is not None or not (lots or air.measured(node.id)):
                continue
            past, at = air.past(node.id), air.now_panel(node.id)
            t, swing, sd = (
                float(getattr(past, name)[at]) for name in ("temperature_c", "swing_sd_c", "sd_c")
            )
            erh, sd_erh = float(erh_at(past.erh25[at], t)), float(past.sd_erh[at])
            wide = expected(t, swing, sd, erh, sd_erh, figures().places)
            last, logged = _latest(air, node.id)
            stays = air.node_stays.get(node.id, [])
            out.append(
                Stop(
                    node_id=node.id,
                    code=node.code,
                    name=node.name,
                    path=node_path(air, node.id),
                    lots=lots,
                    last_at_s=last[0],
                    last_c=last[1],
                    last_erh=last[2],
                    **wide._asdict(),
                    logged=logged,
                    out=bool(stays and stays[-1].to_s is None and stays[-1].is_out),
                )
            )
    return out
