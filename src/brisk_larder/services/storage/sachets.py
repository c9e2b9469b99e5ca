"""What lies in a container and how dry it is: desiccant put in, dryness found."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass

import numpy as np

from ...core.base.errors import Conflict, InvalidValue
from ...core.storage import barrier
from ...core.storage.moisture import erh25, erh25_from_moisture
from ...data.acts import ActRef
from ...data.tables import MoistureObs, Node, NodeEvent
from ..acts.acting import Doing, Done, act
from ..air.air import Air
from ..forecast.contents import contents
from ..forecast.current import bring_up_to_date
from ..forecast.parts import load_rows
from ..household.kinds import figures
from ..household.larder import Larder, writing_here
from ..household.possible_values import erh_possible, get_live, to_c, within_records
from ..household.wording import many, percent, prose


@dataclass(frozen=True)
class SachetPut:
    """What was put in, with how much seed, and the dryness it comes to from which; ``slow``: how much
    slower the wall works."""

    desiccant: str
    mass_g: float
    seed_g: float
    erh25: float
    slow: float
    erh25_before: float


def add_desiccant(
    larder: Larder,
    ref: ActRef,
    node_id: int,
    kind: str,
    mass_g: float,
    at_s: int | None = None,
    spent: bool = False,
) -> SachetPut:
    """Put a sachet in. What lies inside and the sachet come to one dryness by mass balance.

    ``spent``: it was not dried before, so it holds what room air at 50 % left in it. Raises
    InvalidValue for an unknown desiccant, Conflict for an empty or open container.
    """
    if not 0.1 <= mass_g <= 50_000:
        raise InvalidValue("mass of the desiccant", mass_g, prose("0.1 g to 50 kg"))
    bring_up_to_date(larder)
    return _add_desiccant(larder, ref, node_id, kind, mass_g, at_s, spent)


@act("desiccant")
def _add_desiccant(
    a: Doing, node_id: int, kind: str, mass_g: float, at_s: int | None, spent: bool
) -> SachetPut:
    home = a.home
    node = get_live(a.session, Node, node_id, "container")
    when = a.now_s if at_s is None else at_s
    within_records("put in on", when, a.now_s, home)
    air = a.air()
    standing = air.stretch_at(node_id, when)
    if standing.wall is None:
        raise Conflict(f"{node.name} stands open: close it first, or the sachet dries the room")
    held = contents(a.session, air, node_id)
    loaded = (
        float(barrier.loading_pct(kind, figures().walls.undried_desiccant_erh)) if spent else 0.0
    )
    settled = barrier.settle(held.mass_g, held.dry_basis, held.erh25, kind, mass_g, loaded)
    told = SachetPut(
        desiccant=kind,
        mass_g=mass_g,
        seed_g=round(held.mass_g, 1),
        erh25=round(settled.erh25, 4),
        slow=round(settled.slow, 3),
        erh25_before=round(held.erh25, 4),
    )
    event = NodeEvent(
        node_id=node_id, at_s=when, kind="desiccant", figures=json.dumps(asdict(told))
    )
    a.session.add(event)
    a.about(f"node:{node_id}", *(f"lot:{lot}" for lot in held.lot_ids))
    a.summary = (
        f"{writing_here().mass(mass_g)} of {kind.replace('_', ' ')} into {node.name}: from about "
        f"{percent(held.erh25)} to {percent(settled.erh25)}"
    )
    return told


@act("dryness")
def note_dryness(
    a: Doing,
    lot_ids: Sequence[int],
    *,
    humidity_pct: float | None = None,
    temperature: float | None = None,
    moisture_pct: float | None = None,
) -> Done:
    """How dry some lots were found to be: by a dial shut in with them, or by weighing.

    ``humidity_pct`` at ``temperature`` (the household's unit), or ``moisture_pct`` of fresh weight.
    Raises InvalidValue for neither or both, or for what cannot be.
    """
    if (humidity_pct is None) == (moisture_pct is None):
        raise InvalidValue("dryness", None, "either a humidity or a moisture content")
    if not lot_ids:
        raise InvalidValue("packets", "none", "at least one packet")
    kinds = a.kinds
    air = Air(a.session, a.home, a.now_s)
    said, f = "", figures().moisture
    for row in load_rows(a.session, air, kinds, lot_ids):
        if humidity_pct is not None:
            erh_possible(humidity_pct / 100)
            warm = f.told_at_c if temperature is None else to_c(temperature, a.home)
            if not -40 <= warm <= 60:
                raise InvalidValue("dial", prose(f"{warm:g} °C"), prose("-40 to 60 °C"))
            state = float(np.clip(erh25(humidity_pct / 100, warm), f.driest_kept, f.wettest_kept))
            sd, how = f.jar_dial_sd, "jar"
            said = f"{humidity_pct:g} %"
        else:
            assert moisture_pct is not None, "one of the two"
            if not 2 <= moisture_pct <= 25:
                raise InvalidValue("moisture", f"{moisture_pct:g} %", "2 to 25 % of fresh weight")
            ix = int(kinds.classes.iso_ix[row.kind.class_ix])
            read = erh25_from_moisture(kinds.classes.iso, ix, moisture_pct)
            state = float(np.clip(read, f.driest_kept, f.wettest_kept))
            sd, how, said = f.weighed_sd, "weighed", f"{moisture_pct:g} % of fresh weight"
        a.session.add(
            MoistureObs(lot_id=row.part.lot_id, at_s=a.now_s, erh25=state, sd=sd, how=how)
        )
        a.about(f"lot:{row.part.lot_id}")
    a.session.flush()
    a.summary = f"{many(len(lot_ids), 'lot')} found at {said}"
    return Done()
