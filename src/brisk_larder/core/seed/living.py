"""What share of a packet could ever grow: usually most of it, but now and then a packet is a dud from the
first day (badly ripened, heated, trodden on): then any share up to what the poorest of sound packets have.

The share is laid out along one rising scale: the first ``DUD`` cells are duds, the others sound packets,
whose logit is normal. A test of few seeds alive can so be blamed on the packet instead of on its age.
"""

from __future__ import annotations

import numpy as np
from scipy.special import expit, logit, ndtr, ndtri

from ..storage.moisture import Floats

DUD, SOUND = 7, 11
REACH = 3.2
AT: Floats = np.asarray(
    np.arange(DUD + SOUND) + 0.5, dtype=np.float64
)  # the cells' middles on the scale
NEVER = -1e3  # log weight of what cannot be


def _first_sound(dud: Floats) -> Floats:
    """The standard normal quantile at which sound packets begin."""
    with np.errstate(divide="ignore"):
        return np.asarray(np.maximum(ndtri(dud), -REACH))


def share_at(scale: Floats, middle: Floats, sd: Floats, dud: Floats) -> Floats:
    """Share that could ever grow [L, N] at places on the scale [L, N] or [N]. ``middle``, ``sd``: median of
    the share and sd of its logit; ``dud``: chance that a packet is one; all [L]."""
    first = _first_sound(dud)[:, None]
    z = first + np.maximum(scale - DUD, 0.0) * (REACH - first) / SOUND
    sound = expit(logit(middle)[:, None] + sd[:, None] * z)
    return np.asarray(sound * np.clip(scale / DUD, 0.0, 1.0))


def log_weights(dud: Floats) -> Floats:
    """What each cell weighs before any test [L, V] (log)."""
    first = _first_sound(dud)[:, None]
    ends = ndtr(first + np.arange(SOUND + 1) * (REACH - first) / SOUND)
    with np.errstate(divide="ignore"):
        duds = np.broadcast_to(np.log(dud / DUD)[:, None], (len(dud), DUD))
        return np.asarray(
            np.maximum(np.concatenate([duds, np.log(np.diff(ends, axis=1))], axis=1), NEVER)
        )


def scale_of(z: Floats, dud: Floats) -> Floats:
    """Place on the scale [L, N] of the standard normal quantiles z [N] of the share, before any test."""
    first = _first_sound(dud)[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        in_duds = DUD * np.where(dud[:, None] > 0, ndtr(z) / dud[:, None], 1.0)
    return np.where(z < first, in_duds, DUD + np.maximum(z - first, 0.0) * SOUND / (REACH - first))
