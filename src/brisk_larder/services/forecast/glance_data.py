"""What lists show of a lot, and how it is kept in the file for the day."""

from __future__ import annotations

from dataclasses import dataclass, field

import orjson

from ...core.judging.as_sure import middle_words, range_words, step_points


@dataclass(frozen=True)
class Likely:
    """Germination: median and 80 % interval, fractions; ``step``: to how many points they are said."""

    low: float
    mid: float
    high: float
    step: int = field(default=0, kw_only=True)  # told by the range, whatever is given

    def __post_init__(self) -> None:
        object.__setattr__(self, "step", step_points(self.low, self.high))

    @property
    def says(self) -> str:
        """Both in words: about 85 %, likely 75\u201395."""
        return f"{self.middle}, {range_words(self.low, self.high, self.step)}"

    @property
    def middle(self) -> str:
        """The middle in words: about 85 %."""
        return middle_words(self.mid, self.step)


@dataclass(frozen=True)
class Strip:
    """The fade strip: points from ``from_s`` every ``step_s``, three quantile arrays."""

    from_s: float
    step_s: float
    low: list[float]
    mid: list[float]
    high: list[float]


@dataclass(frozen=True)
class TestMark:
    """A test on the strip: when sown, share viable (None: still running), counts; ``told``: what nobody
    wrote of it, where it was only written down before."""

    trial_id: int
    code: str
    at_s: int
    share: float | None
    up: int
    n: int
    running: bool
    told: str = ""


@dataclass(frozen=True)
class Episode:
    """A spell that took unusually much: month, node, points lost (fraction)."""

    from_s: int
    to_s: int
    node_id: int
    points: float


@dataclass(frozen=True)
class TestAdvice:
    """Whether a test is wanted, by when, how many seeds, and why; ``more`` seeds in a second stage (0: none)
    where the first counts ``more_from`` to ``more_to``; what it is expected to save: packets, plants, seeds,
    lines lost; ``then``: what follows each count up to one [low, high, seeds to sow (-1: replace it, -2: all
    the rest), 1 where its line is grown anew]. Whatever the household decides by: seeds of a test ``if_paid``
    (because it pays) and ``if_routine`` (because its interval is over), 0 for none."""

    code: str
    wanted: bool
    due_s: float | None
    chance_below: float
    why: str
    seeds: int | None = None
    more: int = 0
    more_from: int = 0
    more_to: int = 0
    gain: float = 0.0
    cost: float = 0.0
    saves: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0, 0.0])
    then: list[list[int]] = field(default_factory=list)
    if_paid: int = 0
    if_routine: int = 0


@dataclass
class Glance:
    """What a list needs of one lot. ``part_id``: its part, of a mixture the largest; ``as_told``: it holds
    what was told on an earlier day (``steady``)."""

    lot_id: int
    part_id: int
    now: Likely
    at_sowing: Likely | None
    next_sowing_s: float | None
    sowing_setting: str | None
    sowing_guessed: bool
    good_until_s: float | None
    good_until_low_s: float | None
    good_until_high_s: float | None
    good_beyond: bool
    strip: Strip
    advice: TestAdvice
    start: float
    erh25: float
    a_probit: float
    sd_log10_a: float
    climate_source: str
    guess: bool
    tests: list[TestMark]
    episodes: list[Episode]
    last_safe_year: int | None
    regrow_asked: bool
    mothers: list[float]
    parts: int = 1
    as_told: bool = False


def freeze(glance: Glance) -> str:
    """A glance as JSON."""
    return orjson.dumps(glance, option=orjson.OPT_SERIALIZE_NUMPY).decode()


def thaw(data: str) -> Glance:
    """A glance from its JSON."""
    raw = orjson.loads(data)
    raw["now"] = Likely(**raw["now"])
    raw["at_sowing"] = Likely(**raw["at_sowing"]) if raw["at_sowing"] else None
    raw["strip"], raw["advice"] = Strip(**raw["strip"]), TestAdvice(**raw["advice"])
    raw["tests"] = [TestMark(**x) for x in raw["tests"]]
    raw["episodes"] = [Episode(**x) for x in raw["episodes"]]
    return Glance(**raw)
