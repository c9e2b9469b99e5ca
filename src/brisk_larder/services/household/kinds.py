"""What is known of a kind: reference, the household's overrules, its own kinds, the unknown."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from sqlmodel import Session, col, select

from ...core.base.errors import InvalidValue
from ...core.base.figures import Figures
from ...core.growing.windows import OwnDays
from ...core.seed.ageing import SigmaClasses
from ...core.storage.moisture import SeedKind, build_isotherms
from ...data.queries import live
from ...data.tables import CropChange, Household, OwnKind
from ...reference import Crop, Piece, Reference, Viability, load_reference

UNKNOWN = "unknown"
UNKNOWN_HAZARD = (
    "Nobody knows this kind: treat seed and plant as not edible, away from children and dogs"
)
OWN_HAZARD = "Not in the tables: treat as not edible until you are sure what it is"
OVERRULED = {
    "seeds_per_g": (0.001, 100_000.0),
    "typical_initial_germination_pct": (1.0, 100.0),
    "field_emergence_factor": (0.01, 1.0),
    "first_count_days": (1.0, 60.0),
    "final_count_days": (1.0, 90.0),
}


class Emerged(NamedTuple):
    """What counted sowings of this household say of a kind in a setting: the emergence of a next sowing (mean
    and weight of a beta), and from how many sowings of it."""

    setting: str
    mean: float
    weight: float
    sowings: int


@dataclass(frozen=True)
class Kind:
    """One kind of plant as the services use it.

    ``known`` is False for own and unknown kinds, whose figures are borrowed and whose hazards are
    not known. ``class_ix`` is the row of SigmaClasses. ``piece``: it is set as tubers, cloves and the like;
    its figures of growing are those of its pieces, those of its true seed are borrowed.
    """

    key: str
    name: str
    season: str
    crop: Crop
    viability: Viability
    sd_log10_sigma: float
    class_ix: int
    known: bool
    stand_in: str | None
    hazard: str
    piece: Piece | None = None
    emerged: tuple[Emerged, ...] = ()
    own_days: tuple[OwnDays, ...] = ()

    @property
    def grade(self) -> str:
        """Grade of evidence; own and unknown kinds have none better than a guess."""
        return self.viability.grade if self.known and self.piece is None else "guess"

    @property
    def living(self) -> float:
        """Share that could ever grow."""
        from ...core.seed.belief import (
            living_share,  # loads scipy: only where something is reckoned
        )

        return living_share(self.crop.typical_initial_germination_pct, figures().belief)


@dataclass(frozen=True)
class Kinds:
    """All kinds of this household, with the constants of the viability equation."""

    by_key: dict[str, Kind]

    @property
    def classes(self) -> SigmaClasses:
        """Constants of the viability equation by class, and the isotherms."""
        return _classes()

    def get(self, key: str | None) -> Kind:
        """A kind; the unknown pseudo-kind for None or a key that is gone."""
        return self.by_key.get(key or UNKNOWN, self.by_key[UNKNOWN])


@lru_cache(maxsize=1)
def _classes() -> SigmaClasses:
    """The constants of all kinds of the table, and of an unknown one in the middle of them."""
    ref = load_reference()
    keys = tuple(ref.crops)
    seeds = []
    for key in keys:
        oil = ref.crops[key].seed_oil_pct_dry / 100
        row = ref.isotherms.get(key)
        points = (row.rh, row.mc_pct_fwb) if row else ((), ())
        seeds.append(SeedKind(key, oil, *points, ref.warmth[key]))
    median_oil = float(np.median([ref.crops[k].seed_oil_pct_dry for k in keys])) / 100
    common = max(set(ref.warmth.values()), key=list(ref.warmth.values()).count)
    seeds.append(SeedKind(UNKNOWN, median_oil, warmth=common))
    table = [ref.viability[k] for k in keys]

    def column(name: str) -> np.ndarray:
        values = [float(getattr(v, name)) for v in table]
        return np.array([*values, float(np.median(values))])

    iso = build_isotherms(seeds)
    return SigmaClasses(
        column("KE"), column("CW"), column("CH"), column("CQ"), np.arange(len(keys) + 1), iso
    )


def reference() -> Reference:
    """The reference tables."""
    return load_reference()


def figures() -> Figures:
    """The figures of the model, for the rules that need them."""
    return reference().figures


def called(kind: str) -> str:
    """What people call a kind of place or container first: a biscuit tin, never a key of a table."""
    return reference().store_names.get(kind, (kind.replace("_", " "),))[0]


def load_kinds(session: Session) -> Kinds:
    """All kinds with the household's overlay. Own kinds borrow the rows of their stand-in."""
    emerged = session.connection().exec_driver_sql(
        "SELECT crop, setting, mean, weight, sowings FROM d_emergence ORDER BY crop, setting"
    )
    days = session.connection().exec_driver_sql(
        "SELECT crop, setting, first_day, last_day FROM own_window WHERE deleted_s IS NULL "
        "ORDER BY crop, setting"
    )
    changed = select(CropChange.crop, CropChange.field, CropChange.value)
    own = session.exec(live(OwnKind))
    home = session.get(Household, 1)
    return _overlaid(
        home is not None and home.crop_names == "us",
        tuple(tuple(r) for r in session.exec(changed.where(col(CropChange.deleted_s).is_(None)))),
        tuple((k.key, k.name, k.season, k.stand_in, k.hazard) for k in own),
        tuple((str(r[0]), str(r[1]), float(r[2]), float(r[3]), int(r[4])) for r in emerged),
        tuple((str(r[0]), str(r[1]), int(r[2]), int(r[3])) for r in days),
    )


@lru_cache(maxsize=8)
def _overlaid(
    american: bool,
    changed: tuple[tuple[str, str, float], ...],
    own_kinds: tuple[tuple[str, str, str, str | None, str | None], ...],
    emerged: tuple[tuple[str, str, float, float, int], ...],
    own_days: tuple[tuple[str, str, int, int], ...],
) -> Kinds:
    # long: the table's kinds, then own ones, then the unknown
    ref = load_reference()
    keys = tuple(ref.crops)
    changes: dict[str, dict[str, float]] = {}
    for crop_key, field, value in changed:
        changes.setdefault(crop_key, {})[field] = value
    out: dict[str, Kind] = {}
    for ix, key in enumerate(keys):
        crop = ref.crops[key]
        if key in changes:
            crop = crop.model_copy(update=changes[key])
        out[key] = Kind(
            key=key,
            name=(ref.names[key].name_us if american else "") or ref.names[key].name,
            season=ref.names[key].season,
            crop=crop,
            viability=ref.viability[key],
            sd_log10_sigma=ref.viability[key].sd_log10_sigma,
            class_ix=ix,
            known=True,
            stand_in=None,
            hazard="" if crop.hazard.lower().startswith("none") else crop.hazard,
        )
    doubt = ref.figures.belief
    middle = "calendula"  # a typical garden seed: only counts and windows are borrowed from it
    for key, piece in ref.pieces.items():
        like = piece.seed_like or middle
        out[key] = Kind(
            key=key,
            name=piece.name,
            season=piece.season,
            crop=set_crop(ref.crops[like], piece),
            viability=ref.viability[like],
            sd_log10_sigma=(
                doubt.own_kind_sd_with_relative if piece.seed_like else doubt.own_kind_sd_alone
            ),
            class_ix=keys.index(piece.seed_like) if piece.seed_like else len(keys),
            known=True,
            stand_in=None,
            hazard=piece.hazard,
            piece=piece,
        )
    for key, name, season, stand_in, hazard in own_kinds:
        relative = stand_in if stand_in in ref.crops else None
        out[key] = Kind(
            key=key,
            name=name,
            season=season,
            crop=ref.crops[relative or middle],
            viability=ref.viability[relative or middle],
            sd_log10_sigma=(
                doubt.own_kind_sd_with_relative if relative else doubt.own_kind_sd_alone
            ),
            class_ix=keys.index(relative) if relative else len(keys),
            known=False,
            stand_in=relative,
            hazard=hazard or OWN_HAZARD,
        )
    out[UNKNOWN] = Kind(
        key=UNKNOWN,
        name="unknown kind",
        season="cool",
        crop=ref.crops[middle],
        viability=ref.viability[middle],
        sd_log10_sigma=doubt.own_kind_sd_alone,
        class_ix=len(keys),
        known=False,
        stand_in=None,
        hazard=UNKNOWN_HAZARD,
    )
    return Kinds(_with_days(_with_sowings(out, emerged), own_days))


def set_crop(like: Crop, piece: Piece) -> Crop:
    """The figures of growing of pieces, on those of a kind that lends the rest."""
    per_kg = piece.pieces_per_kg.middle if piece.pieces_per_kg else figures().pieces.unsaid_per_kg
    return like.model_copy(update={
        "crop": piece.crop, "species": piece.species, "family": piece.family, "hazard": piece.hazard,
        "seeds_per_g": per_kg / 1000, "sow_indoors_weeks_before_last_frost": None,
        "sow_outdoors_weeks_rel_last_frost": piece.set_weeks,
        "autumn_sow_weeks_before_first_frost": None, "days_to_maturity": piece.days_to_maturity,
        "spacing_in_row_cm": piece.spacing_in_row_cm, "row_spacing_cm": piece.row_spacing_cm,
        "food_yield_kg_per_plant": piece.food_yield_kg_per_piece,
        "rotation_group": piece.rotation_group, "crossing_group": piece.crop, "note": piece.note,
    })  # fmt: skip


def _with_sowings(
    kinds: dict[str, Kind], emerged: tuple[tuple[str, str, float, float, int], ...]
) -> dict[str, Kind]:
    said: dict[str, list[Emerged]] = {}
    for key, setting, mean, weight, sowings in emerged:
        said.setdefault(key, []).append(Emerged(setting, mean, weight, sowings))
    return {key: replace(kind, emerged=tuple(said.get(key, ()))) for key, kind in kinds.items()}


def _with_days(
    kinds: dict[str, Kind], own: tuple[tuple[str, str, int, int], ...]
) -> dict[str, Kind]:
    for key, setting, first, last in own:
        if key in kinds:
            days = OwnDays("indoors" if setting == "indoors" else "outdoors", first, last)
            kinds[key] = replace(kinds[key], own_days=(*kinds[key].own_days, days))
    return kinds


def check_overrule(crop: str, field: str, value: float) -> None:
    """Raises InvalidValue unless the figure may be overruled and lies in its range."""
    if crop not in reference().crops:
        raise InvalidValue("crop", crop, "a crop of the reference table")
    if field not in OVERRULED:
        raise InvalidValue("field", field, "one of " + ", ".join(OVERRULED))
    low, high = OVERRULED[field]
    if not low <= value <= high:
        raise InvalidValue(field, value, f"between {low:g} and {high:g}")
