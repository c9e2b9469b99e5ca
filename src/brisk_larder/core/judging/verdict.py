"""What is to be done with a packet: decided once, here, from all that is known of it; rooms read it.

A verdict has one standing, its acts in order (the first is what the keeper would do next) and what may
be done with the packet at all. No room decides for itself.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import floor

from ..base.figures import Figures, TriageFigures, VerdictFigures
from ..base.units import DAY_S
from ..hand.seed_count import Seeds
from .edible import TABLE
from .triage import Opinions

ACTS = (
    "name", "count", "wait", "dry", "regrow", "find_again", "test", "sow_thick", "keep", "give", "shoots",
    "food", "let_go", "set", "look_over",
)  # fmt: skip
STANDINGS = (
    "empty",
    "running",
    "table",
    "spoilt",
    "dead",
    "wet",
    "uncounted",
    "unnamed",
    "pieces",
    "good",
    "doubtful",
    "poor",
)
NOT_SET = ("pieces_over", "pieces_short")  # past their days, or before they are set
GONE = frozenset({"empty", "dead"})  # nothing to sow, test, move or give


@dataclass(frozen=True)
class Packet:
    """All that a verdict hangs on. Germination now (median and high end) and at its next sowing are
    fractions, dates epoch s.

    use: what it is meant for; wanted: a target, a pick, a kept line, or sown lately; running: a test of
    this seed (its own or a sibling's) is under way; asked_of_sibling: a test of another packet of the
    same seed settles it; test_due_s: a test would change what is done, by then; regrow_asked: it belongs
    to a line that is kept; line_lives: another packet of that line is alive; line_uncounted: one of the
    line was never counted; spare: share of it that nothing asks for; shoots, food: fit for the table; named:
    somebody knows what kind it is; pieces: of tubers, sets and plants, how they keep.
    """

    seeds: Seeds
    now_mid: float
    now_high: float
    mid: float
    chance_below: float
    level: float
    opinions: Opinions
    school: str
    use: str
    spoilt: bool
    wet: bool
    wanted: bool
    running: bool
    asked_of_sibling: bool
    test_due_s: float | None
    advice: str
    regrow_asked: bool
    last_safe_year: int | None
    line_lives: bool
    line_uncounted: bool
    good_until_s: float | None
    beyond: bool
    spare: float
    shoots: bool
    food: bool
    named: bool = True
    pieces: str = ""


@dataclass(frozen=True)
class Verdict:
    """standing: one of STANDINGS; code: of the sentence; acts: in order, of ACTS; group: for lists;
    urgency 0 (calm) to 3."""

    standing: str
    code: str
    acts: tuple[str, ...]
    group: str
    urgency: int

    @property
    def alive(self) -> bool:
        """Whether anything may still be done with it as seed."""
        return self.standing not in GONE

    @property
    def may_sow(self) -> bool:
        """Whether a need may count on it."""
        return self.alive and self.standing not in ("table", "spoilt") and self.code not in NOT_SET

    @property
    def may_move(self) -> bool:
        """Whether a better place is worth anything to it."""
        return self.alive and self.standing not in ("spoilt", "pieces")

    @property
    def told(self) -> bool:
        """Whether a forecast is told of it: of seed, and of a kind that somebody knows."""
        return self.standing not in ("unnamed", "pieces")

    @property
    def test(self) -> bool:
        """Whether a test of it is to be started."""
        return "test" in self.acts and self.standing != "wet"

    @property
    def settled(self) -> bool:
        """Whether nothing has to be found out before it is given away, regrown or let go."""
        waits = ("running", "wet", "uncounted", "unnamed", "spoilt", "pieces")
        return self.alive and self.standing not in waits and not {"test", "wait"} & set(self.acts)


def dead(mid: float, high: float, f: VerdictFigures) -> bool:
    """Whether seed is dead for all that is believed: next to none as likely as not, and few at best."""
    return mid < f.dead_median and high < f.dead_high


def used_up(seeds: Seeds, high: float, f: TriageFigures) -> bool:
    """Whether so few are left that not even two of them would come up at best; never of an uncounted
    packet."""
    return seeds.known and seeds.likely[1] * min(1.0, high) < f.alive_at_all_seeds


def only_guessed(o: Opinions, mid: float, high: float, level: float, f: TriageFigures) -> bool:
    """Whether nothing but the book condemns a packet: believed poor (``mid`` at its use), never tested, and
    by its high end it may be good. Such seed is tested before it is let go."""
    return o.test == "none" and mid < f.poor_share_of_level * level and high >= level


def verdict(p: Packet, now_s: float, year: int, f: Figures) -> Verdict:
    """The verdict on one packet; ``year`` is this calendar year."""
    # long: one standing after the other, the first that holds
    keeps = p.regrow_asked
    acts: tuple[str, ...]
    again = ("find_again",) if keeps and not p.line_lives else ()
    if p.seeds.known and p.seeds.likely[1] < 1:
        return Verdict("empty", "empty", (*again, "let_go"), "empty", 3 if again else 0)
    if p.pieces:
        return _of_pieces(p)
    if p.running:
        return Verdict("running", "running", ("wait",), "running", 2)
    if p.use in TABLE:
        fit = p.food if p.use == "food" else p.shoots
        return Verdict("table", "table", (p.use,) if fit else ("keep",), "good", 0)
    if p.spoilt:
        acts = ("regrow", "let_go") if keeps else ("let_go",)
        return Verdict("spoilt", "spoilt_regrow" if keeps else "spoilt", acts, "dead", 2)
    if not p.named:  # nothing is said of seed that nobody knows: neither good nor bad
        return Verdict("unnamed", "unnamed", ("name",), "unnamed", 1)
    if dead(p.now_mid, p.now_high, f.verdict):
        code = "dead_find" if again else "dead"
        return Verdict("dead", code, (*again, "let_go"), "dead", 3 if again else 1)
    if used_up(p.seeds, p.now_high, f.triage):
        return Verdict("empty", "few", (*again, "let_go"), "empty", 3 if again else 0)
    if p.wet:
        acts = ("dry", "test") if p.wanted else ("dry",)
        return Verdict("wet", "dry_test" if p.wanted else "dry", acts, "wet", 3)
    rest = _in_school(p, _acts(p, year, f))
    if not p.seeds.known and p.wanted:
        acts = ("count", *(a for a in rest if a not in ("regrow", "test", "give")))
        return Verdict("uncounted", "count", acts, "count", 2)
    return _said(p, rest, now_s, year, f)


def _of_pieces(p: Packet) -> Verdict:
    """Of tubers, cloves, sets and plants nothing is forecast: they keep, are set, or are looked over."""
    if p.spoilt:
        return Verdict("spoilt", "spoilt", ("let_go",), "dead", 2)
    if p.pieces == "over":
        return Verdict("pieces", "pieces_over", ("look_over", "let_go"), "pieces", 2)
    if p.pieces == "too_short":
        return Verdict("pieces", "pieces_short", ("set", "let_go"), "pieces", 1)
    if not p.seeds.known and p.wanted:
        return Verdict("pieces", "count", ("count", "set"), "count", 1)
    code, urgency = ("pieces_soon", 2) if p.pieces == "last_days" else ("pieces", 0)
    return Verdict("pieces", code, ("set",), "pieces", urgency)


def _unsafe(p: Packet) -> bool:
    return p.regrow_asked and p.last_safe_year is None and not p.line_uncounted


def _acts(p: Packet, year: int, f: Figures) -> tuple[str, ...]:
    """What follows for seed that is alive, the best first: seed that may still be good is never let go
    before it was tested; what cannot be sown goes to the table where that is safe."""
    soon = p.last_safe_year is not None and p.last_safe_year <= year + f.growing.regrow_soon_years
    out: list[str] = []
    if p.regrow_asked and (_unsafe(p) or soon):
        out.append("regrow")
    if p.test_due_s is not None:
        out.append("wait" if p.asked_of_sibling else "test")
    if p.opinions.forecast == "good":
        give = p.spare > f.triage.give_above_surplus and not p.regrow_asked and p.test_due_s is None
        out += ["give", "keep"] if give else ["keep"]
    elif p.mid >= f.triage.poor_share_of_level * p.level or p.regrow_asked:
        out.append("sow_thick")
    elif only_guessed(p.opinions, p.mid, p.now_high, p.level, f.triage):
        enough = p.seeds.known and p.advice != "too_few_seeds"
        if enough and p.test_due_s is None:
            out.append("wait" if p.asked_of_sibling else "test")
        out.append("sow_thick")
    else:
        out += ["shoots"] * p.shoots + ["food"] * p.food + ["let_go"]
    return tuple(out)


def _in_school(p: Packet, found: tuple[str, ...]) -> tuple[str, ...]:
    """The acts in the order of the household's school; what keeps a line alive or waits for an answer
    stays first."""
    if p.school == "count":  # who sows extra and counts what comes up asks for no test
        found = tuple(a for a in found if a != "test") or ("sow_thick",)
    # the routine tests at other times, and else goes by the forecast
    if p.school in ("forecast", "routine") or found[0] in ("regrow", "wait"):
        return found
    follows = {"none": "test", "good": "keep", "doubtful": "sow_thick", "poor": "let_go"}
    rule = {"age_rule": p.opinions.age_rule, "test": p.opinions.test, "count": "doubtful"}[p.school]
    if follows[rule] == "let_go" and p.regrow_asked:
        return found  # no rule of thumb ends a line
    if follows[rule] == "let_go":  # who goes by the rule asks no test and passes nothing on
        return ("let_go", *(a for a in found if a in TABLE))
    first = follows[rule]
    if first == "test":
        rest = (a for a in found if a != "give")
        return tuple(dict.fromkeys(("wait" if p.asked_of_sibling else "test", *rest)))
    return tuple(dict.fromkeys((first, *found)))


def _said(p: Packet, acts: tuple[str, ...], now_s: float, year: int, f: Figures) -> Verdict:
    """The sentence for living seed: that of its first act, else until when it is good."""
    standing, first = p.opinions.forecast, acts[0]
    if first == "regrow":
        return Verdict(standing, "regrow_unsafe" if _unsafe(p) else "regrow", acts, "regrow", 3)
    if first == "wait":
        return Verdict(standing, "sibling", acts, "test", 1)
    if first == "test":
        by_rule = p.school not in ("forecast", "routine")
        due_s = p.test_due_s if p.test_due_s is not None else now_s if by_rule else float("inf")
        soon = due_s < now_s + f.growing.test_soon_days * DAY_S
        return Verdict(standing, "test", acts, "test", 2 if soon else 1)
    if first in ("let_go", "shoots", "food"):
        return Verdict(standing, "over", acts, "poor", 2)
    if p.school not in ("forecast", "routine") and first == "sow_thick":
        return Verdict(standing, "thick", acts, "good", 1)
    if p.advice == "certainly_poor":
        return Verdict(standing, "poor", acts, "poor", 2)
    if p.beyond:
        return Verdict(standing, "good_beyond", acts, "good", 0)
    if p.good_until_s is None:
        return Verdict(standing, "none", acts, "none", 0)
    if p.good_until_s < now_s:
        return Verdict(standing, "below", acts, "poor", 2)
    return Verdict(standing, "good", acts, "good", 0)


def one_test_each(wanted: Iterable[tuple[int, int, float]]) -> dict[int, int]:
    """Which packet is tested for each that deserves a test: packets of one origin are one question.

    ``wanted``: (packet, origin, seeds in hand). The one with most seeds answers for all of its origin.
    """
    best: dict[int, tuple[float, int]] = {}
    rows = list(wanted)
    for packet, origin, seeds in rows:
        best[origin] = max(best.get(origin, (-1.0, 0)), (seeds, -packet))
    return {packet: -best[origin][1] for packet, origin, _ in rows}


def seeds_to_spare(
    seeds: Seeds,
    success: float,
    plants_asked: float,
    wanted: bool,
    life_years: float | None,
    good_mothers: int,
    test_seeds: int,
    f: Figures,
) -> int:
    """Seeds that nothing asks for: what is there at least, less what targets and picks ask, the mothers of
    a kept line (0: none is kept), what its good years will use where it is wanted, and a planned test.

    ``success``: plants per seed; ``plants_asked``: of its kind; ``life_years`` None: longer than is told.
    """
    if not seeds.known or success <= 0:
        return 0
    n = f.needs
    least = n.spare_least_use_seeds
    keep = n.spare_uses * max(plants_asked / success, least)
    if wanted:
        years = f.verdict.longest_use_years if life_years is None else max(life_years, 0.5)
        sowings = f.triage.usual_sowings_a_year * min(years, f.verdict.longest_use_years)
        keep = max(keep, sowings * f.triage.stand_plants / success)
    keep += good_mothers * n.spare_good_lines_times + test_seeds
    return max(0, floor(seeds.likely[0] - keep))


def good_to_give(mid: float, low: float, level: float, dressed: bool, f: VerdictFigures) -> bool:
    """Whether seed is fit to be passed on: alive by a fair margin even at the low end, and not dressed."""
    return mid >= f.give_median and low >= level and not dressed


def too_many(
    packets: int, seeds: float, a_year: float, life_years: float, f: VerdictFigures
) -> bool:
    """Whether a household holds more packets of a kind than it can use while they live. ``a_year``: seeds
    of it that go in a year; ``life_years``: of the shortest lived among them."""
    return packets >= f.many_packets and seeds > f.many_times * max(a_year, 1.0) * max(
        life_years, 0.5
    )
