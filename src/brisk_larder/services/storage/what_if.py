"""What if, asked in Storage: lots side by side in several places, with what a move there costs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...core.base.errors import InvalidValue
from ...core.base.units import YEAR_S
from ...core.seed import ageing as ag
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..forecast.contents import contents
from ..forecast.current import bring_up_to_date
from ..forecast.elsewhere import (
    Fate,
    Option,
    Setting,
    cautions,
    fates,
    lots_node,
    next_use_s,
    open_rows,
    setting_of,
    standing,
)
from ..forecast.kept_pieces import lots_of_pieces
from ..forecast.outlook import outlook, part_of
from ..household.kinds import called, figures
from ..household.larder import Larder, writing_here
from ..household.wording import many


@dataclass(frozen=True)
class LotFates:
    """One lot under every option, in their order; the first is as it is."""

    lot_id: int
    code: str
    name: str
    kind_name: str
    next_sowing_s: float | None
    fates: list[Fate]


@dataclass(frozen=True)
class OptionLine:
    """An option in words: cautions come first, then the work it takes.

    ``median_years``: until the middle one of these lots falls to the level; ``new_years``: the same
    for new seed of these kinds, as dry as these;
    ``longest_years``: longer is not told there (25 in rooms, 60 frozen).
    """

    label: str
    node_id: int | None
    cautions: list[str]
    effort: str
    median_years: float
    new_years: float
    longest_years: int
    speed: float


@dataclass(frozen=True)
class WhatIf:
    """Lots side by side under some options; option 0 is where they are now."""

    level: float
    options: list[OptionLine]
    lots: list[LotFates]


def effort_of(option: Option, lots: int, setting: Setting) -> str:
    """The work an option takes, in words."""
    parts = [f"move {many(lots, 'packet')}"]
    if option.container_kind:
        parts.append(f"a {called(option.container_kind)}")
    if option.desiccant:
        gel = f"{writing_here().mass(option.desiccant_g)} of {option.desiccant.replace('_', ' ')}"
        parts.append(f"{gel}, dried again when spent")
    if setting.cold:
        parts.append("a wait before each opening")
    return ", ".join(parts)


def what_if(larder: Larder, lot_ids: Sequence[int], options: Sequence[Option]) -> WhatIf:
    """Lots side by side: as they are, and under each option.

    Raises InvalidValue for no lots, too many options, or an option that cannot be.
    """
    if not lot_ids:
        raise InvalidValue("packets", "none", "at least one packet")
    if len(options) > 8:
        raise InvalidValue("options", len(options), "at most eight at a time")
    bring_up_to_date(larder, lot_ids)
    with looking_at(larder) as v:
        home = v.home
        air = v.air
        pieces = lots_of_pieces(v.session)
        lot_ids = [i for i in lot_ids if i not in pieces]
        look = open_rows(outlook(v.session, air, v.kinds, lot_ids))
        if not look.rows:
            raise InvalidValue("lots", list(lot_ids), "lots that are here")
        uses = [next_use_s(air, row, larder) for row in look.rows]
        level = home.sow_level
        here = [standing(air, air.node_of(row.part.lot_id)) for row in look.rows]
        found: list[list[Fate]] = [[] for _ in look.rows]
        for i, at in enumerate(here):
            found[i].append(fates(air, part_of(look, [i]), at, level, [uses[i]])[0])
        lines = [
            OptionLine(
                "as it is", None, [], "nothing to do", *_years(found, 0, air, here[0].cold), 0.0
            )
        ]
        reference_seed = ag.reference_classes()
        for n, option in enumerate(options, start=1):
            setting = setting_of(v.session, air, option, lot_ids)
            for i, fate in enumerate(fates(air, look, setting, level, uses)):
                found[i].append(fate)
            lines.append(
                OptionLine(
                    option.label or label_of(air, option),
                    option.node_id,
                    cautions(look, setting, option),
                    effort_of(option, len(look.rows), setting),
                    *_years(found, n, air, setting.cold),
                    _speed(reference_seed, setting, found, n),
                )
            )
        codes = air.codes()
        return WhatIf(
            level,
            lines,
            [
                LotFates(
                    row.part.lot_id,
                    codes[row.part.lot_id],
                    row.variety.name,
                    row.kind.name,
                    uses[i],
                    found[i],
                )
                for i, row in enumerate(look.rows)
            ],
        )


def label_of(air: Air, option: Option) -> str:
    """An option in words."""
    where = (
        node_path(air, option.node_id)
        if option.node_id is not None
        else called(option.place_kind or "")
    )
    parts = [where]
    if option.container_kind:
        how = "" if option.closing == "airtight" else f", {option.closing}"
        parts.append(called(option.container_kind) + how)
    if option.desiccant:
        parts.append(
            f"{writing_here().mass(option.desiccant_g)} {option.desiccant.replace('_', ' ')}"
        )
    return " · ".join(parts)


def _years(found: list[list[Fate]], n: int, air: Air, cold: bool) -> tuple[float, float, int]:
    most = int(ag.longest_shown_years(cold, figures().places))
    longest = air.now_s + most * YEAR_S

    def middle(until: list[float | None]) -> float:
        left = [(u or longest) - air.now_s for u in until]
        return max(0.0, round(float(np.median(left)) / YEAR_S, 2))

    return (
        middle([f[n].good_until_s for f in found]),
        middle([f[n].new_until_s for f in found]),
        most,
    )


def _speed(classes: ag.SigmaClasses, setting: Setting, found: list[list[Fate]], n: int) -> float:
    """Ageing speed of seed as dry as these lots will be in a year there, against a bedroom."""
    inside = float(np.mean([f[n].erh25_in_a_year for f in found]))
    there = replace(setting.air, erh25=np.full_like(setting.air.erh25, inside))
    return round(
        float(np.average(ag.relative_speed(classes, there), weights=there.panels.hours)), 3
    )


SCHOOLS = (
    Option("on the shelf, breathing", place_kind="larder", container_kind="cardboard_box",
           closing="breathing"),
    Option("on the shelf, airtight as it is", place_kind="larder", container_kind="glass_jar_gasket"),
    Option("on the shelf, airtight with desiccant", place_kind="larder",
           container_kind="glass_jar_gasket", desiccant="silica_gel"),
    Option("in the fridge, breathing", place_kind="fridge", container_kind="cardboard_box",
           closing="breathing"),
    Option("in the fridge, airtight with desiccant", place_kind="fridge",
           container_kind="glass_jar_gasket", desiccant="silica_gel"),
    Option("in the freezer, airtight as it is", place_kind="freezer_deep",
           container_kind="glass_jar_gasket"),
    Option("in the freezer, airtight with desiccant", place_kind="freezer_deep",
           container_kind="glass_jar_gasket", desiccant="silica_gel"),
)  # fmt: skip


def schools(larder: Larder, lot_ids: Sequence[int]) -> WhatIf:
    """The ways people store, side by side for these lots: shelf, fridge, freezer; tight or not;
    with desiccant (as much gel as seed) or not."""
    bring_up_to_date(larder, lot_ids)
    with looking_at(larder) as v:
        air = v.air
        grams = round(contents(v.session, air, lots_node(air, lot_ids), lot_ids).mass_g, 1)
    options = [replace(o, desiccant_g=grams) if o.desiccant else o for o in SCHOOLS]
    return what_if(larder, lot_ids, options)
