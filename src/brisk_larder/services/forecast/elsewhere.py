"""What if seed stood elsewhere: the same projection through another air behind other walls."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from sqlmodel import Session

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import DAY_S, YEAR_S
from ...core.seed import ageing as ag
from ...core.seed import belief as be
from ...core.seed import worlds as wo
from ...core.storage import barrier
from ...core.storage import climate as cl
from ...core.storage.moisture import wall_sd, wall_tau_days
from ...core.storage.places import precautions
from ..air.air import FUTURE_YEARS, Air, usual_air
from ..air.standing import wall
from ..household.kinds import figures, load_kinds, reference
from ..household.larder import Larder, today
from ..household.wording import percent
from .contents import contents
from .glance_data import Likely
from .outlook import Outlook, part_of, priors
from .parts import PartRecord
from .rebuild import leave, pick
from .sowing import sowing_of


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
class Setting:
    """An option worked out: the node whose air it is (None: none of this larder), that air ahead, the
    walls between, and where the seed's dryness starts."""

    node: int | None
    air: cl.Climate
    walls: tuple[tuple[float, float], ...]
    erh25: float | None
    cold: bool
    sealed: bool


def setting_of(session: Session, air: Air, option: Option, lots: Sequence[int]) -> Setting:
    """Work an option out. Raises InvalidValue for unknown kinds, Conflict for a sachet with no seed."""
    ref = reference()
    node = None
    if option.node_id is not None:
        if option.node_id not in air.nodes:
            raise InvalidValue("place", option.node_id, "a place or container of this larder")
        node, inner = air.walls_up(option.node_id, air.now_s)
        ahead = air.future(node)
        walls = [(low * slow, high * slow) for low, high, slow in inner]
    else:
        kind = option.place_kind or ""
        if kind not in ref.places:
            raise InvalidValue("kind of place", kind, ", ".join(ref.places))
        panels = cl.future_panels(air.now_s, FUTURE_YEARS)
        ahead, walls = usual_air(kind, air.home, panels), []
    if option.container_kind is not None:
        if option.container_kind not in ref.storage:
            raise InvalidValue("container", option.container_kind, ", ".join(ref.storage))
        standing = barrier.closed(wall(option.container_kind), option.closing, figures().walls)
        walls = [*walls, standing] if standing else walls
    sealed = barrier.shuts_in(walls, figures().walls)
    erh25 = None
    if option.desiccant is not None:
        held = contents(session, air, lots_node(air, lots), lots)
        mass, curve, start = held.mass_g, held.dry_basis, held.erh25
        settled = barrier.settle(mass, curve, start, option.desiccant, option.desiccant_g)
        erh25 = settled.erh25
        walls = [(low * settled.slow, high * settled.slow) for low, high in walls]
    return Setting(node, ahead, tuple(walls), erh25, float(ahead.temperature_c.mean()) < 0, sealed)


def lots_node(air: Air, lots: Sequence[int]) -> int:
    """The container in which the first of some lots lies. Raises Conflict when there is none."""
    for lot in lots:
        if node := air.node_of(lot):
            return node
    raise Conflict("There is no seed to dry")


def track_in(air: Air, look: Outlook, setting: Setting) -> Outlook:
    """All rows of an outlook carried through one setting; ``state`` is where their dryness stands
    after a year there."""
    rows, state = look.rows, pick(look.state, np.arange(len(look.rows)))
    for j, row in enumerate(rows):
        here = row.legs[-1].node
        if here != setting.node:
            leave(state, j, air.past(here), air.now_s)
    class_ix = np.array([r.kind.class_ix for r in rows], dtype=np.intp)
    ranges = [[wall(air.wrapper_of(r.part.lot_id)), *setting.walls] for r in rows]
    tau, doubt = (np.array([f(x) for x in ranges]) for f in (wall_tau_days, wall_sd))
    if setting.erh25 is not None:
        state = replace(state, erh25=np.full(len(rows), setting.erh25))
    kinds = load_kinds(air.session)
    path = ag.integrate(state, kinds.classes, class_ix, setting.air, tau, doubt)
    year = min(int(np.searchsorted(path.end_s, air.now_s + 365 * DAY_S)), len(path.end_s) - 1)
    times = np.concatenate([[air.now_s], path.end_s])
    tracks = np.concatenate([state.a_probit[:, None], path.a_probit], axis=1)
    return Outlook(
        rows,
        replace(state, erh25=path.erh25[:, year]),
        [times] * len(rows),
        list(tracks),
        look.belief,
        look.of_kind,
        {i: replace(b, parts=track_in(air, b.parts, setting)) for i, b in look.blends.items()},
    )


def fates(
    air: Air, look: Outlook, setting: Setting, level: float, uses_s: Sequence[float | None]
) -> list[Fate]:
    """What becomes of all rows of an outlook in one setting, carried together."""
    if not look.rows:
        return []
    track = track_in(air, look, setting)
    a_level = wo.ageing_until(look.belief, level, 0.5)
    book = priors(look.rows, np.zeros(len(look.rows)), look.state.a_probit, air.now_s)
    new_seed = be.fit(replace(book, d_mean=look.of_kind), be.Counts.none())
    a_new = wo.ageing_until(new_seed, level, 0.5)
    out = []
    for i, use in enumerate(uses_s):
        until = track.date_of(i, float(a_level[i]))
        if i in track.blends:
            until = track.blend_until(i, level, air.now_s)
        new = track.date_of(i, float(look.state.a_probit[i] + a_new[i]))
        far = ag.longest_shown_years(setting.cold, figures().places)
        most = air.now_s + far * YEAR_S
        at = None
        if use is not None:
            low, mid, high = track.quantiles_at(i, np.array([use]), (0.1, 0.5, 0.9))[0]
            at = Likely(float(low), float(mid), float(high))
        out.append(
            Fate(
                None if until > most else until,
                None if new > most else new,
                at,
                float(track.state.erh25[i]),
            )
        )
    return out


CAUTIONS = {
    "dry_before_freezing": "dry it to {freeze} before freezing: it is at {now}",
    "would_mould": "do not seal it at {now}: it would mould; dry it first",
    "drier_better": "drier than {seal} would be better before sealing ({now} now)",
    "close_tight": "a freezer's air is damp and swings: close it in something tight",
    "wait_before_opening": "leave it shut until it is warm whenever you fetch it",
    "coloured_gel": "gel that changes colour with cobalt or methyl violet: not by hand, not with food",
}


def cautions(look: Outlook, setting: Setting, option: Option) -> list[str]:
    """The moisture precautions of an option for the dampest of some lots, in words."""
    return list(precautions_said(look, setting, option).values())


def precautions_said(look: Outlook, setting: Setting, option: Option) -> dict[str, str]:
    """The same by their codes, the worst first."""
    f = figures().moisture
    worst = float(look.state.erh25.max(initial=0.0)) if setting.erh25 is None else setting.erh25
    gel = option.desiccant == "silica_gel"
    found = precautions(worst, setting.cold, setting.sealed, gel, f)
    said = {
        "now": percent(worst),
        "freeze": percent(f.freeze_at_or_below_erh25),
        "seal": percent(f.seal_at_or_below_erh25),
    }
    return {code: CAUTIONS[code].format(**said) for code in found.codes}


def next_use_s(air: Air, row: PartRecord, larder: Larder) -> float | None:
    """When a lot is next sown, by its kind's window."""
    window = sowing_of(row.kind, today(larder, air.home), air.home)
    return window[0] if window else None


def open_rows(look: Outlook) -> Outlook:
    """An outlook without the parts that have ended."""
    keep = [i for i, row in enumerate(look.rows) if row.part.to_s is None]
    return part_of(look, keep)


def standing(air: Air, node: int) -> Setting:
    """The setting of what lies in a node now (0: nowhere)."""
    known, inner = air.walls_up(node, air.now_s)
    walls = tuple((low * slow, high * slow) for low, high, slow in inner)
    ahead = air.future(known)
    sealed = barrier.shuts_in(walls, figures().walls)
    return Setting(known, ahead, walls, None, float(ahead.temperature_c.mean()) < 0, sealed)


def dryness_there(air: Air, node: int) -> tuple[float, float]:
    """What the air of a node allows over the coming month: (erh25, degC)."""
    ahead = air.future(air.walls_up(node, air.now_s)[0])
    near = ahead.panels.start_s < air.now_s + 30 * DAY_S
    t = float(ahead.temperature_c[near].mean())
    return float(ahead.erh25[near].mean()), t
