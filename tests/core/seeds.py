"""Seed of known worth, for the checks of this folder."""

import numpy as np

from brisk_larder.core.seed.plants import Emergence, Seed
from brisk_larder.core.seed.worlds import COUNT

ALL_COME_UP = Emergence(1.0, 20.0)


def sure(p: float) -> Seed:
    """Seed of which exactly this share gives a plant."""
    return Seed(np.full(COUNT, p), ALL_COME_UP)


def either(bad: float, good: float, chance: float) -> Seed:
    """Seed that is bad with a chance, else good."""
    return Seed(np.where(np.arange(COUNT) < chance * COUNT, bad, good), ALL_COME_UP)


def wide(low: float, high: float) -> Seed:
    """Seed worth anything between, of which four in five or so come up."""
    return Seed(np.linspace(low, high, COUNT), Emergence(0.8, 20.0))


def held(*seeds: float) -> list[np.ndarray]:
    """Lots that were counted."""
    return [np.full(COUNT, float(n)) for n in seeds]
