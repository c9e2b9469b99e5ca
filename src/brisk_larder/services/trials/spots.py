"""Where tests stand in this house: the spots somebody named, else three that most houses have."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col

from ...core.base.errors import InvalidValue
from ...data.queries import key, live
from ...data.tables import Spot
from ..acts.acting import Doing, Done, act
from ..household.kinds import figures
from ..household.possible_values import get_live
from ..household.wording import prose


@dataclass(frozen=True)
class SpotLine:
    """One spot: how warm, light or dark, boxes and layers in each; id 0: nobody has named it yet."""

    spot_id: int
    name: str
    temperature_c: float
    light: str
    boxes: int
    layers: int
    version: int


def spots_of(session: Session) -> list[SpotLine]:
    """The spots of the house, the coolest first."""
    rows = session.exec(live(Spot).order_by(col(Spot.temperature_c), col(Spot.id))).all()
    if rows:
        return [
            SpotLine(key(r), r.name, r.temperature_c, r.light, r.boxes, r.layers, r.version)
            for r in rows
        ]
    t, b = figures().trials, figures().bench
    usual = (
        ("a cool sill", t.spot_cool_c),
        ("a shelf in the room", t.spot_room_c),
        ("a warm place", t.spot_warm_c),
    )
    return [SpotLine(0, name, c, "either", b.boxes, b.box_layers, 0) for name, c in usual]


@dataclass(frozen=True)
class SpotSaid:
    """A spot as somebody says it."""

    name: str
    temperature_c: float
    light: str = "either"
    boxes: int = 1
    layers: int = 4

    def check(self) -> None:
        """Raises InvalidValue, naming the field."""
        if not self.name.strip() or len(self.name) > 60:
            raise InvalidValue("name", self.name, "1 to 60 letters")
        if not 0 <= self.temperature_c <= 45:
            raise InvalidValue(
                "temperature", prose(f"{self.temperature_c:g} °C"), prose("0 to 45 °C")
            )
        if self.light not in ("light", "dark", "either"):
            raise InvalidValue("light", self.light, "light, dark or either")
        if not 1 <= self.boxes <= 50:
            raise InvalidValue("boxes", self.boxes, "1 to 50")
        if not 1 <= self.layers <= 20:
            raise InvalidValue("layers", self.layers, "1 to 20")


@act("set_spots")
def set_spots(a: Doing, spots: list[SpotSaid]) -> Done:
    """Say all spots of the house at once; those left out are no more. Raises InvalidValue."""
    if not 1 <= len(spots) <= 12:
        raise InvalidValue("spots", len(spots), "1 to 12")
    for said in spots:
        said.check()
    names = [s.name.strip() for s in spots]
    if len(set(names)) < len(names):
        raise InvalidValue("name", ", ".join(names), "a name of its own for each spot")
    rows = {r.name: r for r in a.session.exec(live(Spot)).all()}
    for said in spots:
        row = rows.pop(said.name.strip(), None) or Spot(name=said.name.strip(), temperature_c=20.0)
        row.temperature_c, row.light = said.temperature_c, said.light
        row.boxes, row.layers = said.boxes, said.layers
        a.session.add(row)
    for gone in rows.values():
        get_live(a.session, Spot, key(gone), "spot").deleted_s = a.now_s
    a.summary = f"Spots for tests: {', '.join(names)}"
    return Done()
