"""What a closed test came to: one sentence first, then what it says by itself and what it changed."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.judging.edible import fit_for_shoots
from ...core.judging.triage import thick_sowing
from ...core.judging.verdict import Verdict
from ...core.seed.calibration import as_worlds
from ...core.seed.plants import Seed, seeds_for
from ...core.trials.when_to_test import what_n_tells
from ..forecast.emergence import emergence_of
from ..forecast.glance_data import Likely
from ..forecast.lines import LotLine
from ..household.kinds import Kind, figures
from ..household.wording import many, percent

SAYS = {
    "good": "good enough: sow as usual, nothing to buy",
    "good_beyond": "good enough: sow as usual, nothing to buy",
    "thick": "sow thickly",
    "poor": "sow thickly, or replace it",
    "below": "below the level you sow at: sow more of it, or replace it",
    "over": "too little comes up: replace it",
    "dead": "dead: let it go",
    "dead_find": "dead: find seed of this line again",
    "regrow_unsafe": "regrow the line now",
}
# a further test is worth its seeds: what holds until then, so that fewer up is never a milder word
SO_FAR = {
    "good": "good as far as is known: one more test would make sure",
    "doubtful": "not decided yet: test some more",
    "poor": "weak as far as is known: sow thickly or replace it, one more test would tell which",
    "over": "too little comes up as far as is known: replace it, or make sure with one more test",
}


def _so_far(verdict: Verdict) -> str:
    """What holds of seed whose next act is another test."""
    thick = {"keep", "give", "sow_thick", "regrow"} & set(verdict.acts)
    return SO_FAR[verdict.standing if thick else "over"]


@dataclass(frozen=True)
class TestVerdict:
    """What to do, in one sentence; what the count says by itself; what it changed; and the seedlings."""

    says: str
    todo: str
    by_itself: str
    surprise: str
    changed: list[str]
    seedlings: str


def verdict_of(
    line: LotLine,
    kind: Kind,
    up: int,
    n: int,
    before: Likely | None,
    confidence: float,
    early: bool,
) -> TestVerdict:
    """The verdict on a test of which ``up`` of ``n`` came up, from the packet's own verdict.

    ``early``: it was closed while seed was still to come.
    """
    if line.verdict.code == "test":
        todo = _so_far(line.verdict)
    else:
        todo = SAYS.get(line.verdict.code, line.next_act)
    low, high = (what_n_tells(n, up).low, what_n_tells(n, up).high) if n else (0.0, 1.0)
    if not n:
        itself = "No seed was left to tell."
    elif early:
        itself = "Closed before its last count day: what still waited is not taken for dead."
    elif up:
        itself = (
            f"By itself {up} of {n} can also come from a packet of {percent(low)}, once in twenty."
        )
    else:
        itself = f"None of {n} can also come from a packet of {percent(high)}, once in twenty."
    return TestVerdict(
        says=f"{up} of {n} up: {todo}.",
        todo=f"{todo}.",
        by_itself=itself,
        surprise="" if early else _surprise(up, n, before, line.glance.now),
        changed=_changed(line, kind, before, confidence),
        seedlings=_seedlings(line, kind, up),
    )


def _surprise(up: int, n: int, before: Likely | None, after: Likely) -> str:
    if before is None or not n:
        return ""
    share = up / n
    if before.low <= share <= before.high:
        return ""
    than = "Fewer" if share < before.low else "More"
    return (
        f"{than} than was thought ({100 * before.low:.0f}\u2013{100 * before.high:.0f} %). "
        f"{n} seeds alone do not overrule all else, so {after.middle} is believed now."
    )


def _seeds(likely: Likely, kind: Kind, setting: str | None, confidence: float) -> int | None:
    seed = Seed(as_worlds(likely.low, likely.mid, likely.high), emergence_of(kind, setting))
    f = figures().triage
    thick = thick_sowing(likely.mid, seed, confidence, f)
    return thick if thick is not None else seeds_for(f.stand_plants, seed, confidence)


def _changed(line: LotLine, kind: Kind, before: Likely | None, confidence: float) -> list[str]:
    if before is None:
        return []
    g, stand = line.glance, figures().triage.stand_plants
    then = _seeds(before, kind, g.sowing_setting, confidence)
    now = _seeds(g.now, kind, g.sowing_setting, confidence)
    out = []
    if now is not None and line.seeds is not None and now > line.seeds:
        left = many(round(line.seeds), "seed")
        out.append(f"{stand} plants would take {now} seeds now; there are {left}.")
    elif then is None and now is not None:
        out.append(f"Before, no number of seeds promised {stand} plants; now {now} do.")
    elif then is not None and now is None:
        out.append(f"Before, {then} seeds promised {stand} plants; now no number does.")
    elif then is not None and now is not None and then != now:
        out.append(f"For {stand} plants: {now} seeds instead of {then}.")
    if g.regrow_asked and g.last_safe_year is not None:
        out.append(f"Its line is safe to {g.last_safe_year}.")
    return out


def _seedlings(line: LotLine, kind: Kind, up: int) -> str:
    if not up:
        return ""
    if fit_for_shoots(kind.key, kind.known, line.treated, False):
        return "The seedlings can be potted on, or eaten as shoots if the seed is clean."
    return "The seedlings can be potted on; they are not for the table."
