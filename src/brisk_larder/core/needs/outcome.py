"""What a food or pick of the year comes to, and what is to be done first about it: codes, decided once.

Nothing is reckoned here: what the cover found, what is in the ground and on the way, and what the verdicts
ask for make one code. The rules are our own judgement (guess); the words are the services'.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Code = Literal[
    "no_yield", "nothing_to_grow", "sown", "covered", "ordered", "uncounted", "amount_unsure", "unsure",
    "short", "over", "seed_here", "seed_short",
]  # fmt: skip
Asks = Literal["", "count", "wait", "test", "order"]
Late = Literal["", "late", "too_late"]


@dataclass(frozen=True)
class Found:
    """What is known of a need. ``plants``: to be grown (None: no yield is known); ``short``: the code of the
    reason why something is missing (\"\": nothing is); ``covered``: by any seed, ``on_way``: some of it
    is ordered; ``running``: a test of what covers it is under way, ``test_asked``: a verdict asks for one;
    ``sown``: plants of it are in the ground; ``over``: its days for sowing are past and plants are missing;
    ``order``: whether an order still comes in time ("late": only at once)."""

    plants: int | None
    short: str = ""
    covered: bool = False
    on_way: bool = False
    running: bool = False
    test_asked: bool = False
    sown: bool = False
    over: bool = False
    order: str = ""


@dataclass(frozen=True)
class Outcome:
    """``code``: what it comes to; ``asks``: what comes first where something is short; ``late``: the
    day to order by is past, and an order is what it asks for."""

    code: Code
    asks: Asks = ""
    late: Late = ""


def asks(short: str, running: bool, test_asked: bool) -> Asks:
    """What comes first for what is short: nobody orders what a count or a test may find to be there."""
    if not short:
        return ""
    if short in ("short_uncounted", "short_amount_unsure"):
        return "count"
    if short == "short_too_unsure":
        return "wait" if running else "test" if test_asked else "order"
    return "order"


def outcome(x: Found) -> Outcome:
    """What a need comes to."""
    first = asks(x.short, x.running, x.test_asked)
    late: Late = ""
    if first == "order" and not x.over:
        late = "late" if x.order == "late" else "too_late" if x.order == "too_late" else ""
    return Outcome(_code(x), first, late)


def _code(x: Found) -> Code:
    if x.over:
        return "over"
    if x.short:
        missing: dict[str, Code] = {
            "short_uncounted": "uncounted",
            "short_amount_unsure": "amount_unsure",
            "short_too_unsure": "unsure",
        }
        return missing.get(x.short, "short")
    if x.sown and not x.covered:
        return "sown"
    if x.plants is None:
        return "no_yield"
    if x.plants == 0:
        return "nothing_to_grow"
    return "ordered" if x.on_way else "covered"
