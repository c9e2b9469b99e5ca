"""What a test that is asked for would decide and is expected to save, in sentences."""

from __future__ import annotations

from ...core.trials.worth_of_test import BUY, REST
from ..forecast.glance_data import TestAdvice
from ..household.wording import many

Then = list[list[int]]


def _act(sow: int, regrow: int) -> str:
    act = {BUY: "order fresh seed", REST: "sow all that is left"}.get(sow, f"sow about {sow}")
    return f"{act}, and grow its line anew" if regrow else act


def by_count(advice: TestAdvice) -> list[str]:
    """What follows each count of the (first) test, lowest first."""
    n, out = advice.seeds or 0, []
    for low, high, sow, regrow in advice.then:
        up = f"{low} of {n}" if low == high else f"{low}\u2013{high} of {n}"
        out.append(f"{up} up: {_act(sow, regrow)}")
    return out


def stands(then: Then, up: int, waiting: int) -> list[str]:
    """What the seeds up so far lead to by what was said when the test began; and that no further count can
    change it, where none can. ``then``: what follows each count."""
    now, best = (next((x for x in then if x[0] <= k <= x[1]), None) for k in (up, up + waiting))
    if now is None or best is None:
        return []
    act = _act(now[2], now[3])
    if now == best:
        return [f"No further count can change it: {act}. Close it if you like."]
    return [f"If no more came: {act}; if all came: {_act(best[2], best[3])}."]


def ends(advice: TestAdvice) -> str:
    """What the worst and the best counts lead to, in a few words."""
    n, then = advice.seeds or 0, advice.then
    if not then:
        return ""
    buys = [x for x in then if x[2] == BUY]
    best = f"all {n} up: {_act(then[-1][2], then[-1][3])}"
    if not buys:
        return f"none up: {_act(then[0][2], then[0][3])}; {best}"
    most = buys[-1][1]
    worst = f"{most} up or fewer" if most else "none up"
    return f"{worst}: {_act(BUY, 0)}" + ("" if most == n else f"; {best}")


def stages(advice: TestAdvice) -> str:
    """When a second stage follows; empty where one test is enough."""
    if not advice.more:
        return ""
    low, high = advice.more_from, advice.more_to
    between = f"{low}" if low == high else f"{low} to {high}"
    return f"First {advice.seeds}; {advice.more} more only if {between} of them come up."


def saves(advice: TestAdvice) -> str:
    """What it is expected to save, and what it costs."""
    if advice.cost == 0:
        return "Asked for by your habit: it would change too little to pay for its seeds."
    packets, plants, seeds, lines = advice.saves
    parts = [
        (packets, 0.05, "packets to buy", f"{abs(packets):.1f}"),
        (-plants, 0.5, "plants", f"{abs(plants):.0f}"),
        (seeds, 3, "seeds to sow", f"{abs(seeds):.0f}"),
    ]
    said = [
        f"{words} {'fewer' if value > 0 else 'more'} {what}"
        for value, least, what, words in parts
        if abs(value) >= least
    ]
    if lines >= 0.01:
        said.append(f"a line lost {100 * lines:.0f} times less in a hundred")
    gain = f"worth about {advice.gain:.1f} packets of seed"
    cost = f"for {many(advice.seeds or 0, 'seed')} and a share of an evening ({advice.cost:.1f})"
    return f"On average {', '.join(said)}: {gain}, {cost}." if said else f"It is {gain}, {cost}."
