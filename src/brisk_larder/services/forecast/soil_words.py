"""What counted sowings said, in sentences: of the bed and of the seed, each for itself."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from scipy.special import expit, logit
from sqlmodel import Session

from ..household.kinds import Kind, figures
from ..household.wording import day_words, many, percent
from .emergence import SowingSoFar, counted_sowings, emergence_by_the_book, own_emergence
from .kin_words import KinSays
from .outlook import Outlook


def usual(sowing: SowingSoFar, kind: Kind) -> float:
    """Share of living seed that all other sowings let expect to come up in it."""
    return float(expit(sowing.expected(kind)[0]))


def came(sowing: SowingSoFar, g: float) -> float:
    """Share of its living seed that came up, ``g`` of its seed being alive then."""
    return min(1.0, sowing.up / max(sowing.n * g, 1e-9))


def bed_or_seed(sowing: SowingSoFar, kind: Kind, g: float) -> str:
    """What the count says of the bed and of the seed, in one sentence; empty until it was reckoned.

    ``g``: germination of the seed then, by all that is known.
    """
    f = figures().telling
    if sowing.failed is None:
        return ""
    if sowing.could(kind).low < f.sowing_could:
        return "Counted before all could be up: what was missing is not read as dead seed."
    if sowing.failed > f.sowing_failed:
        return "So few that the bed failed, whatever the seed: hardly anything is read from it."
    expected, found = usual(sowing, kind), came(sowing, g)
    at = np.clip([found, expected], 0.01, 0.99)
    much = float(logit(at[0]) - logit(at[1]))
    was = (
        f"bout {percent(found)} of the living seed came up, {percent(expected)} was to be expected"
    )
    if abs(much) < f.sowing_logit:
        return f"As expected: a{was}."
    return f"A{was}: " + ("more the bed than the seed." if much < 0 else "a good bed.")


def sowings_say(
    session: Session, look: Outlook, lot_ids: Iterable[int], now_s: float
) -> list[KinSays]:
    """What the counted sowings of some lots taught the first row of an outlook, the last three."""
    out, kind = [], look.rows[0].kind
    for s in counted_sowings(session, now_s, lot_ids)[-3:]:
        said = bed_or_seed(s, kind, living_at(look, 0, s.at_s))
        if said:
            (low, _, high), (mean, sd) = s.nodes(kind), s.expected(kind)
            behind = (
                f"logit of emergence {mean:.2f}, sd {sd:.2f} by all other sowings: {percent(low)} to "
                f"{percent(high)} of living seed; read with a chance of "
                f"{percent(figures().emerging.lost)} that it says nothing"
            )
            told = f"Sown {s.setting} on {day_words(int(s.at_s))}: {s.up} of {s.n} up. {said}"
            out.append(KinSays(told, behind))
    return out


def living_at(look: Outlook, i: int, at_s: float) -> float:
    """Median germination of row i at a time."""
    return float(look.quantiles_at(i, np.array([at_s]), (0.5,))[0, 0])


def emergence_words(kind: Kind, setting: str | None) -> str:
    """The emergence a need is reckoned with, and whose figure it is."""
    where, own = setting or "outdoors", own_emergence(kind, setting)
    book = percent(emergence_by_the_book(kind, setting))
    if own is None:
        return f"an emergence of about {book} {where} (the book's)"
    whose = (
        f"by {many(own.sowings, 'sowing')} of your own"
        if own.sowings
        else "by your sowings of other kinds"
    )
    return f"an emergence of about {percent(own.mean)} {where} ({whose}; the book says {book})"
