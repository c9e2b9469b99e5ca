"""The reference crops as the core wants them, for the checks of this folder."""

import numpy as np

from brisk_larder.core.seed.ageing import SigmaClasses
from brisk_larder.core.storage.moisture import SeedKind, build_isotherms
from brisk_larder.reference import load_reference

REF = load_reference()
FIGURES = REF.figures
KEYS = tuple(REF.crops)


def seed_kind(key: str) -> SeedKind:
    row = REF.isotherms.get(key)
    oil = REF.crops[key].seed_oil_pct_dry / 100
    points = (row.rh, row.mc_pct_fwb) if row else ((), ())
    return SeedKind(key, oil, *points, REF.warmth[key])


ISO = build_isotherms([seed_kind(key) for key in KEYS])


def _column(name: str) -> np.ndarray:
    return np.array([getattr(REF.viability[key], name) for key in KEYS])


CLASSES = SigmaClasses(
    _column("KE"), _column("CW"), _column("CH"), _column("CQ"), np.arange(len(KEYS)), ISO
)


def ix(*keys: str) -> np.ndarray:
    return np.array([KEYS.index(key) for key in keys], dtype=np.intp)
