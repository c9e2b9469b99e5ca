"""Damage of unknown size: seed that got wet, mouldy or eaten is believed worse and less surely after it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import expit, logit

from ..base.figures import BeliefFigures
from ..storage.moisture import Floats
from .belief import Counts, Prior, fit
from .worlds import Belief, Ranks, spread


def after_shock(belief: Belief, mean: float, sd: float) -> Prior:
    """The prior of what comes after damage of unknown size ~ N(mean, sd) in probits [L].

    Mean and variance of Ki and d, middle and spread of living are kept, their correlation is not: a little
    too wide, never too narrow (docs/model.md). That it was a dud is in the spread by then.
    """
    at = logit(np.maximum(belief.living, 1e-3))
    low, middle, high = (spread(at, (q,))[:, 0] for q in (0.16, 0.5, 0.84))
    return Prior(
        belief.ki.mean(axis=1) - mean,
        np.sqrt(np.maximum(belief.ki.var(axis=1), 1e-6) + sd**2),
        belief.d.mean(axis=1),
        np.sqrt(np.maximum(belief.d.var(axis=1), 1e-6)),
        expit(middle),
        (high - low) / 2,
        np.zeros(len(middle)),
    )


@dataclass(frozen=True)
class Shock:
    """Damage of unknown size at a time (epoch s): mean and sd in probits."""

    at_s: float
    mean: float
    sd: float


def shock_of(kind: str, at_s: float, f: BeliefFigures) -> Shock | None:
    """What an event of a kind does to seed; None when it does nothing that is known."""
    mean = getattr(f, f"shock_mean_{kind}", None)
    return None if mean is None else Shock(at_s, mean, getattr(f, f"shock_sd_{kind}"))


def shaken(
    prior: Prior,
    counts: Counts,
    when_s: Floats,
    shocks: Mapping[int, Sequence[Shock]],
    order: Ranks | None = None,
) -> Belief:
    """Posterior where some rows were damaged, ``shocks`` by row in time order, ``when_s`` [N] of each
    count: tests before an event teach what went before it; it shakes the belief; later tests go on."""
    if not shocks:
        return fit(prior, counts, order)
    first = np.array([shocks[i][0].at_s if i in shocks else np.inf for i in counts.row])
    belief = fit(prior, counts.of(when_s < first), order)
    for i, row_shocks in shocks.items():
        mine = counts.row == i
        ends = [s.at_s for s in row_shocks[1:]] + [np.inf]
        for shock, end in zip(row_shocks, ends, strict=True):
            after = after_shock(belief.rows(np.array([i])), shock.mean, shock.sd)
            between = counts.of(mine & (when_s >= shock.at_s) & (when_s < end))
            alone = replace(between, row=np.zeros(len(between.row), dtype=np.intp))
            own = None if order is None else order[i : i + 1]
            belief = belief.put(np.array([i]), fit(after, alone, own))
    return belief
