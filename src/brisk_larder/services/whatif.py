"""What if it stood elsewhere: the same projection through another air behind other walls."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from sqlmodel import Session

from ..core import ageing as ag
from ..core import barrier
from ..core import belief as be
from ..core import climate as cl
from ..core.errors import Conflict, InvalidValue
from ..core.moisture import wall_tau_days
from ..core.units import DAY_S, YEAR_S
from .crops import load_kinds, reference
from .forecast import fresh
from .glance import sowing_of
from .glance_data import Likely
from .larder import Larder, household, today
from .outlook import Outlook, outlook, part_of, priors
from .parts import Row
from .sachets import contents
from .stock import node_path
from .wording import percent
from .world import FUTURE_YEARS, World, place_curve, wall

ROOM_YEARS, FROZEN_YEARS = 25, 60
SEALED_TAU_DAYS = (
    365.0  # a wall that lets moisture through in more than a year shuts seed in (guess)
)


@dataclass(frozen=True)
class Option:
    """Somewhere to put seed: an existing place or container (node_id), or a kind of place.

    ``container_kind``: in such a container there; ``closing``: airtight, vented or breathing;
    ``desiccant`` with ``desiccant_g``: with a sachet; None of the last three: as it stands.
    """

    label: str = ""
    node_id: int | None = None
    place_kind: str | None = None
    container_kind: str | None = None
    closing: str = "airtight"
    desiccant: str | None = None
    desiccant_g: float = 0.0


@dataclass(frozen=True)
class Fate:
    """What becomes of one lot in one option. ``good_until_s`` None: longer than is shown.

    ``new_until_s``: the same of new seed of its kind put there today.
    """

    good_until_s: float | None
    new_until_s: float | None
    at_sowing: Likely | None
    erh25_in_a_year: float


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


@dataclass(frozen=True)
class Setting:
    """An option worked out: the future air, the walls between, and where the seed's dryness starts."""

    air: cl.Climate
    walls: tuple[tuple[float, float], ...]
    erh25: float | None
    cold: bool
    sealed: bool


def setting_of(session: Session, world: World, option: Option, lots: Sequence[int]) -> Setting:
    """Work an option out. Raises InvalidValue for unknown kinds, Conflict for a sachet with no seed."""
    ref = reference()
    if option.node_id is not None:
        if option.node_id not in world.nodes:
            raise InvalidValue("place", option.node_id, "a place or container of this larder")
        node, inner = world.walls_up(option.node_id, world.now_s)
        air = world.future(node)
        walls = [(low * slow, high * slow) for low, high, slow in inner]
    else:
        kind = option.place_kind or ""
        if kind not in ref.places:
            raise InvalidValue("kind of place", kind, ", ".join(ref.places))
        panels = cl.future_panels(world.now_s, FUTURE_YEARS)
        air, walls = cl.usual(place_curve(kind, world.home), panels), []
    if option.container_kind is not None:
        if option.container_kind not in ref.storage:
            raise InvalidValue("container", option.container_kind, ", ".join(ref.storage))
        standing = barrier.closed(wall(option.container_kind), option.closing)
        walls = [*walls, standing] if standing else walls
    sealed = bool(walls) and wall_tau_days(walls).tau_days > SEALED_TAU_DAYS
    erh25 = None
    if option.desiccant is not None:
        held = contents(session, world, lots_node(world, lots), lots)
        mass, curve, start = held.mass_g, held.dry_basis, held.erh25
        settled = barrier.settle(mass, curve, start, option.desiccant, option.desiccant_g)
        erh25 = settled.erh25
        walls = [(low * settled.slow, high * settled.slow) for low, high in walls]
    return Setting(air, tuple(walls), erh25, float(air.temperature_c.mean()) < 0, sealed)


def lots_node(world: World, lots: Sequence[int]) -> int:
    """The container in which the first of some lots lies. Raises Conflict when there is none."""
    for lot in lots:
        if node := world.node_of(lot):
            return node
    raise Conflict("There is no seed to dry")


def track_in(world: World, look: Outlook, setting: Setting) -> Outlook:
    """All rows of an outlook carried through one setting; ``state`` is where their dryness stands
    after a year there."""
    rows, state = look.rows, look.state
    class_ix = np.array([r.kind.class_ix for r in rows], dtype=np.intp)
    tau = np.array(
        [
            wall_tau_days([wall(world.wrapper_of(r.part.lot_id)), *setting.walls]).tau_days
            for r in rows
        ]
    )
    if setting.erh25 is not None:
        state = replace(state, erh25=np.full(len(rows), setting.erh25))
    kinds = load_kinds(world.session)
    path = ag.integrate(state, kinds.classes, class_ix, setting.air, tau)
    year = min(int(np.searchsorted(path.end_s, world.now_s + 365 * DAY_S)), len(path.end_s) - 1)
    times = np.concatenate([[world.now_s], path.end_s])
    tracks = np.concatenate([state.a_probit[:, None], path.a_probit], axis=1)
    return Outlook(
        rows,
        replace(state, erh25=path.erh25[:, year]),
        [times] * len(rows),
        list(tracks),
        look.belief,
        {i: replace(b, parts=track_in(world, b.parts, setting)) for i, b in look.blends.items()},
    )


def fates(
    world: World, look: Outlook, setting: Setting, level: float, uses_s: Sequence[float | None]
) -> list[Fate]:
    """What becomes of all rows of an outlook in one setting, carried together."""
    if not look.rows:
        return []
    track = track_in(world, look, setting)
    a_level = be.ageing_until(look.belief, level, 0.5)
    a_new = be.ageing_until(
        be.fit(priors(look.rows, np.zeros(len(look.rows))), be.Counts.none()), level, 0.5
    )
    out = []
    for i, use in enumerate(uses_s):
        until = track.date_of(i, float(a_level[i]))
        if i in track.blends:
            until = track.blend_until(i, level, world.now_s)
        new = track.date_of(i, float(look.state.a_probit[i] + a_new[i]))
        most = world.now_s + (FROZEN_YEARS if setting.cold else ROOM_YEARS) * YEAR_S
        at = None
        if use is not None:
            low, mid, high = track.quantiles_at(i, np.array([use]), (0.1, 0.5, 0.9))[0]
            at = Likely(float(low), float(mid), float(high))
        out.append(
            Fate(
                None if until > most else until, None if new > most else new, at,
                float(track.state.erh25[i]),
            )
        )  # fmt: skip
    return out


def cautions(look: Outlook, setting: Setting, option: Option) -> list[str]:
    """The moisture precautions of an option for the dampest of some lots."""
    ref = reference()
    worst = float(look.state.erh25.max(initial=0.0)) if setting.erh25 is None else setting.erh25
    seal, never = ref.figure("seal_at_or_below_erh25"), ref.figure("never_seal_above_erh25")
    freeze = ref.figure("freeze_at_or_below_erh25")
    out = []
    if setting.cold and worst > freeze:
        out.append(f"dry it to {percent(freeze)} before freezing: it is at {percent(worst)}")
    if setting.sealed and worst > never:
        out.append(f"do not seal it at {percent(worst)}: it would mould; dry it first")
    elif setting.sealed and worst > seal:
        out.append(
            f"drier than {percent(seal)} would be better before sealing ({percent(worst)} now)"
        )
    if setting.cold and not setting.sealed:
        out.append("a freezer's air is damp and swings: close it in something tight")
    if setting.cold:
        out.append("leave it shut until it is warm whenever you fetch it")
    if option.desiccant == "silica_gel":
        out.append(
            "gel that changes colour with cobalt or methyl violet: not by hand, not with food"
        )
    return out


def effort_of(option: Option, lots: int, setting: Setting) -> str:
    """The work an option takes, in words."""
    parts = [f"move {lots} {'lot' if lots == 1 else 'lots'}"]
    if option.container_kind:
        parts.append(f"a {option.container_kind.replace('_', ' ')}")
    if option.desiccant:
        parts.append(
            f"{option.desiccant_g:g} g of {option.desiccant.replace('_', ' ')}, dried again when spent"
        )
    if setting.cold:
        parts.append("a wait before each opening")
    return ", ".join(parts)


def what_if(larder: Larder, lot_ids: Sequence[int], options: Sequence[Option]) -> WhatIf:
    """Lots side by side: as they are, and under each option.

    Raises InvalidValue for no lots, too many options, or an option that cannot be.
    """
    if not lot_ids:
        raise InvalidValue("lots", "none", "at least one lot")
    if len(options) > 8:
        raise InvalidValue("options", len(options), "at most eight at a time")
    fresh(larder, lot_ids)
    with larder.store.read() as session:
        home = household(session)
        world = World(session, home, larder.now_s())
        look = open_rows(outlook(session, world, load_kinds(session), lot_ids))
        if not look.rows:
            raise InvalidValue("lots", list(lot_ids), "lots that are here")
        uses = [next_use_s(world, row, larder) for row in look.rows]
        level = home.sow_level
        here = [standing(world, world.node_of(row.part.lot_id)) for row in look.rows]
        found: list[list[Fate]] = [[] for _ in look.rows]
        for i, at in enumerate(here):
            found[i].append(fates(world, part_of(look, [i]), at, level, [uses[i]])[0])
        lines = [
            OptionLine(
                "as it is", None, [], "nothing to do", *_years(found, 0, world, here[0].cold), 0.0
            )
        ]
        reference_seed = ag.reference_classes()
        for n, option in enumerate(options, start=1):
            setting = setting_of(session, world, option, lot_ids)
            for i, fate in enumerate(fates(world, look, setting, level, uses)):
                found[i].append(fate)
            lines.append(
                OptionLine(
                    option.label or label_of(world, option), option.node_id,
                    cautions(look, setting, option), effort_of(option, len(look.rows), setting),
                    *_years(found, n, world, setting.cold), _speed(reference_seed, setting, found, n),
                )
            )  # fmt: skip
        codes = world.codes()
        return WhatIf(
            level,
            lines,
            [
                LotFates(
                    row.part.lot_id, codes[row.part.lot_id], row.variety.name, row.kind.name,
                    uses[i], found[i],
                )
                for i, row in enumerate(look.rows)
            ],
        )  # fmt: skip


def next_use_s(world: World, row: Row, larder: Larder) -> float | None:
    """When a lot is next sown, by its kind's window."""
    window = sowing_of(row.kind, today(larder, world.home), world.home)
    return window[0] if window else None


def open_rows(look: Outlook) -> Outlook:
    """An outlook without the parts that have ended."""
    keep = [i for i, row in enumerate(look.rows) if row.part.to_s is None]
    return part_of(look, keep)


def standing(world: World, node: int) -> Setting:
    """The setting of what lies in a node now (0: nowhere)."""
    known, inner = world.walls_up(node, world.now_s)
    walls = tuple((low * slow, high * slow) for low, high, slow in inner)
    air = world.future(known)
    sealed = bool(walls) and wall_tau_days(walls).tau_days > SEALED_TAU_DAYS
    return Setting(air, walls, None, float(air.temperature_c.mean()) < 0, sealed)


def label_of(world: World, option: Option) -> str:
    """An option in words."""
    where = (
        node_path(world, option.node_id)
        if option.node_id is not None
        else (option.place_kind or "").replace("_", " ")
    )
    parts = [where]
    if option.container_kind:
        how = "" if option.closing == "airtight" else f", {option.closing}"
        parts.append(option.container_kind.replace("_", " ") + how)
    if option.desiccant:
        parts.append(f"{option.desiccant_g:g} g {option.desiccant.replace('_', ' ')}")
    return " · ".join(parts)


def _years(found: list[list[Fate]], n: int, world: World, cold: bool) -> tuple[float, float, int]:
    most = FROZEN_YEARS if cold else ROOM_YEARS
    longest = world.now_s + most * YEAR_S

    def middle(until: list[float | None]) -> float:
        left = [(u or longest) - world.now_s for u in until]
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
    fresh(larder, lot_ids)
    with larder.store.read() as session:
        world = World(session, household(session), larder.now_s())
        grams = round(contents(session, world, lots_node(world, lot_ids), lot_ids).mass_g, 1)
    options = [replace(o, desiccant_g=grams) if o.desiccant else o for o in SCHOOLS]
    return what_if(larder, lot_ids, options)


def dryness_there(world: World, node: int) -> tuple[float, float]:
    """What the air of a node allows over the coming month: (erh25, degC)."""
    air = world.future(world.walls_up(node, world.now_s)[0])
    near = air.panels.start_s < world.now_s + 30 * DAY_S
    t = float(air.temperature_c[near].mean())
    return float(air.erh25[near].mean()), t
