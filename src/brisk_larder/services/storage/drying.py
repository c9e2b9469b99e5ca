"""Drying advice: how dry now, what this place allows, how much desiccant, how long, when to stop."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.base.errors import InvalidValue
from ...core.storage import barrier
from ...core.storage.handling import can_size_l, dew_advice, fill_cans
from ...core.storage.moisture import erh_at, moisture_pct_fwb, vapour_pace, wall_tau_days
from ...core.storage.places import cracks, may
from ..air.air import Air
from ..air.look import Look, looking_at
from ..air.paths import node_path
from ..air.standing import wall
from ..forecast.contents import Contents, contents
from ..forecast.current import bring_up_to_date
from ..forecast.elsewhere import dryness_there
from ..forecast.outlook import states_now
from ..forecast.parts import load_rows
from ..household.kinds import figures
from ..household.larder import Larder, writing_here
from ..household.wording import dryness, percent, prose, temperature


@dataclass(frozen=True)
class LotDryness:
    """One lot: eRH at room temperature, percent of fresh weight, and its word."""

    lot_id: int
    code: str
    name: str
    kind_name: str
    erh: float
    moisture_pct: float
    word: str
    caution: str


@dataclass(frozen=True)
class Sachet:
    """One desiccant for the job: grams freshly dried, and days until done (None: never)."""

    kind: str
    grams: float | None
    days: float | None
    says: str


@dataclass(frozen=True)
class Drying:
    """Advice for what lies in a container. Humidity as fractions at room temperature.

    ``place_erh``: what the air of the place allows; ``days_in_air``: bare, to the target (None: this
    air never gets it there); ``redry_days``: until a sachet put in now is spent.
    """

    path: str
    seed_g: float
    guessed_lots: int
    now_erh: float
    target_erh: float
    place_erh: float
    place_says: str
    days_in_air: float | None
    sachets: list[Sachet]
    redry_days: float | None
    may_seal: str
    may_freeze: str
    stop_when: str
    lots: list[LotDryness]


TOO_DRY = "so dry that beans and peas crack: over damp paper for a day before sowing"


def drying(larder: Larder, node_id: int, target_erh: float | None = None) -> Drying:
    """Drying advice for a container and what stands in it.

    Raises InvalidValue for a target outside 15 to 60 %, Conflict when there is no seed.
    """
    f = figures().moisture
    seal, never, freeze = (
        f.seal_at_or_below_erh25,
        f.never_seal_above_erh25,
        f.freeze_at_or_below_erh25,
    )
    target = seal if target_erh is None else target_erh
    if not 0.15 <= target <= 0.60:
        raise InvalidValue("target dryness", target, "15 to 60 %")
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        air = v.air
        held = contents(v.session, air, node_id)
        air25, air_c = dryness_there(air, node_id)
        bare = wall_tau_days([wall("paper_envelope")]) / float(vapour_pace(air_c))
        in_air = barrier.days_to_dry(bare, held.erh25, air25, target)
        sachets = [
            _sachet(kind, held.mass_g, held.dry_basis, held.erh25, target, bare)
            for kind in barrier.DESICCANTS
        ]
        redry = _gel_spent_days(air, node_id, held, sachets[0].grams)
        lots = _lots_dryness(v, held)
        dampest = held.dampest
        home = air.home
        room = float(erh_at(air25, air_c))
        return Drying(
            path=node_path(air, node_id),
            seed_g=round(held.mass_g, 1),
            guessed_lots=held.guessed_lots,
            now_erh=float(erh_at(held.erh25, f.told_at_c)),
            target_erh=target,
            place_erh=float(erh_at(air25, f.told_at_c)),
            place_says=f"The air there ({temperature(air_c, home)}, {percent(room)}) brings seed to "
            f"{percent(float(erh_at(air25, f.told_at_c)))} and no further.",
            days_in_air=round(in_air, 1) if np.isfinite(in_air) else None,
            sachets=sachets,
            redry_days=None if redry is None else round(redry),
            may_seal=_may("seal", dampest, seal, never),
            may_freeze=_may("freeze", dampest, freeze, freeze),
            stop_when=f"A dial shut in with the seed for a day shows {percent(target)} at room temperature.",
            lots=sorted(lots, key=lambda x: -x.erh),
        )


def _gel_spent_days(air: Air, node_id: int, held: Contents, gel_g: float | None) -> float | None:
    """Days until so much gel is spent by what comes through the wall; None: no wall, or never."""
    standing = air.stretch_at(node_id, air.now_s)
    if not standing.wall or not gel_g:
        return None
    outside, outside_c = dryness_there(air, air.parent_now(node_id) or node_id)
    settled = barrier.settle(held.mass_g, held.dry_basis, held.erh25, "silica_gel", gel_g)
    slow = standing.tau_days / standing.slow * settled.slow / float(vapour_pace(outside_c))
    days = barrier.days_until_spent(slow, settled.erh25, outside, figures().walls)
    return days if np.isfinite(days) else None


def _lots_dryness(v: Look, held: Contents) -> list[LotDryness]:
    """How dry each lot in there is, and which is too dry to be sown as it is."""
    f, kinds = figures().moisture, v.kinds
    rows = [r for r in load_rows(v.session, v.air, kinds, held.lot_ids) if r.part.to_s is None]
    state, _, _ = states_now(v.air, kinds, rows)
    ix = np.array([kinds.classes.iso_ix[r.kind.class_ix] for r in rows], dtype=np.intp)
    moisture = moisture_pct_fwb(kinds.classes.iso, ix, state.erh25)
    codes = v.air.codes()
    lots = []
    for i, row in enumerate(rows):
        erh = float(erh_at(state.erh25[i], f.told_at_c))
        legume = row.kind.crop.family == "Fabaceae"
        lots.append(
            LotDryness(
                lot_id=row.part.lot_id,
                code=codes[row.part.lot_id],
                name=row.variety.name,
                kind_name=row.kind.name,
                erh=erh,
                moisture_pct=round(float(moisture[i]), 1),
                word=dryness(erh),
                caution=TOO_DRY if cracks(legume, float(moisture[i]), f) else "",
            )
        )
    return lots


def _sachet(
    kind: str, mass_g: float, curve: np.ndarray, now: float, target: float, tau: float
) -> Sachet:
    found = barrier.sachet_for(mass_g, curve, now, target, kind, tau, figures().walls)
    if found.grams == 0:
        return Sachet(kind, 0.0, 0.0, "dry enough already")
    if found.grams is None:
        return Sachet(kind, None, None, "never gets seed so dry")
    words = prose(f"{found.grams:.0f} g shut in with {mass_g:.0f} g of seed, in a tight jar")
    days = round(found.days, 1) if np.isfinite(found.days) else None
    return Sachet(kind, round(found.grams, 1), days, words)


def _may(verb: str, erh25: float, yes: float, never: float) -> str:
    match may(erh25, yes, never):
        case "yes":
            return f"yes: at {percent(erh25)} it is dry enough to {verb}"
        case "no":
            return f"no: the dampest is at {percent(erh25)}; dry it to {percent(yes)} first"
        case _:
            return f"better not yet: {percent(erh25)}, and {percent(yes)} would keep it longer"


@dataclass(frozen=True)
class DewAdvice:
    """What to do when a container is fetched into a room: hours to leave it shut."""

    container: str
    container_c: float
    room_c: float
    room_erh: float
    dew_point_c: float
    wait_hours: float
    says: str


def dew(larder: Larder, node_id: int, room_c: float | None, room_pct: float | None) -> DewAdvice:
    """Dew advice for fetching a container now. Without a room: a heated room of this household."""
    with looking_at(larder) as v:
        home = v.home
        air = v.air
        if node_id not in air.nodes:
            raise InvalidValue("container", node_id, "a place or container of this larder")
        past, f = air.past(node_id), figures().handling
        cold = float(past.temperature_c[-1])
        if room_c is None or room_pct is None:
            room_c, erh = f.room_c, f.room_rh
        else:
            room_c, erh = room_c, room_pct / 100
        found = dew_advice(cold, room_c, erh, f.fetched_kg, f)
        if found.wait_hours <= 0:
            says = (
                f"Open it at once: at {temperature(cold, home)} it is above the room's dew point, "
                f"{temperature(found.dew_point_c, home)}."
            )
        else:
            hours = max(0.5, round(2 * found.wait_hours) / 2)
            says = (
                f"Leave it shut for about {hours:g} h: at {temperature(cold, home)} it is colder than "
                f"the room's dew point, {temperature(found.dew_point_c, home)}, and would take dew."
            )
        return DewAdvice(
            node_path(air, node_id),
            cold,
            room_c,
            erh,
            found.dew_point_c,
            round(found.wait_hours, 2),
            says,
        )


CAN_SIZES_L = (0.5, 1.0, 2.0, 5.0, 10.0, 20.0)


@dataclass(frozen=True)
class CanPlan:
    """Which cans to fill to the brim, and the size that suits the eating."""

    cans: list[tuple[float, int]]
    filled_kg: float
    left_kg: float
    best_size_l: float
    says: str


def can_plan(
    amount_kg: float, kg_a_week: float | None, sizes_l: tuple[float, ...] = CAN_SIZES_L
) -> CanPlan:
    """Cans for an amount of dry beans or grain; several small ones rather than one large."""
    f = figures().handling
    kg_per_l = f.bean_kg_per_l
    best = can_size_l(kg_a_week, kg_per_l, sizes_l, f) if kg_a_week else max(sizes_l)
    filling = fill_cans(amount_kg, kg_per_l, [s for s in sizes_l if s <= best] or list(sizes_l))
    listed = (
        ", ".join(f"{n} of {writing_here().volume(size)}" for size, n in filling.cans) or "none"
    )
    says = (
        f"{listed}: filled to the brim they hold {writing_here().kilos(filling.filled_kg)}; eat the other "
        f"{writing_here().mass(1000 * filling.left_kg)} first. Dried below 12 %, clean, shut for two months."
    )
    return CanPlan(filling.cans, filling.filled_kg, filling.left_kg, best, says)
