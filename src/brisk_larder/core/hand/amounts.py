"""Quantities as people say them: counts, grams, packets, pinches, spoons, "about half left".

Every reading has a doubt (sd in seeds). Sizes of packets, pinches and spoons are guesses
(``figures.AmountsFigures``) until the household has counted or weighed.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..base.errors import InvalidValue
from ..base.figures_stock import AmountsFigures
from ..base.units import GRAMS, Z80, grams
from ..storage.moisture import Floats
from .writing import PLAIN, Way, read_number

SPOONS_ML = {
    "tsp": 5.0, "teaspoon": 5.0, "tbsp": 15.0, "tablespoon": 15.0, "cup": 240.0, "ml": 1.0,
    "l": 1000.0, "litre": 1000.0, "liter": 1000.0, "cl": 10.0, "dl": 100.0, "thimble": 2.5,
    "jar": 400.0, "handful": 60.0, "pint": 473.2, "pt": 473.2, "quart": 946.4, "qt": 946.4,
}  # fmt: skip
COUNTS = {
    "",
    "seed",
    "seeds",
    "x",
    "pcs",
    "grain",
    "grains",
    "bean",
    "beans",
    "pea",
    "peas",
    "kernels",
    "piece",
    "pieces",
}
PACKS = {"packet", "packets", "pack", "packs", "pkt", "pkts", "envelope", "envelopes"}
PINCHES = {"pinch", "pinches"}
WORDS = {
    "half a dozen": 6.0, "a couple of": 2.0, "a couple": 2.0, "a dozen": 12.0, "two dozen": 24.0,
    "a hundred": 100.0, "two hundred": 200.0, "five hundred": 500.0, "a thousand": 1000.0,
    "a half": 0.5, "a quarter of a": 0.25, "a quarter": 0.25, "quarter of a": 0.25, "quarter": 0.25,
    "seven": 7.0, "eight": 8.0, "nine": 9.0, "twelve": 12.0, "twenty": 20.0,
    "a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0,
    "half a": 0.5, "half": 0.5, "ten": 10.0, "three quarters of a": 0.75, "three quarters": 0.75,
}  # fmt: skip
SHARES = {
    "full": 1.0, "all": 1.0, "whole": 1.0, "half": 0.5, "a half": 0.5, "a third": 1 / 3,
    "two thirds": 2 / 3, "a quarter": 0.25, "quarter": 0.25, "three quarters": 0.75,
    "a tenth": 0.1, "most": 0.8, "little": 0.15, "a little": 0.15, "empty": 0.0, "none": 0.0,
}  # fmt: skip
_PLAIN = "\\d[\\d.,]*(?:[ \u00a0\u202f\u2009'\u2019]\\d{3}(?!\\d))*|[.,]\\d+"
NUMBER = (
    f"(?:(?:\\d+\\s+)?\\d+\\s*/\\s*\\d+|(?:\\d+\\s?)?[\u00bd\u00bc\u00be\u2153\u2154]|{_PLAIN})"
)
RANGE = re.compile(rf"^({NUMBER})\s*(?:-|\u2013|to)\s*({NUMBER})\s*([a-z]*)$")
SINGLE = re.compile(rf"^({NUMBER})\s*([a-z%]*)$")
LEFT = re.compile(
    r"\s*(?:of (?:the|a) (?:packet|lot|jar|tin)|the packet|the lot|left|remains?|over)\b"
)
ABOUT = re.compile(r"^(?:about|around|roughly|perhaps|maybe|some|ca\.?|circa|~)\s+|^~\s*")
SAYS_NOTHING = {"", "?", "some", "unknown", "-"}
# what is said of plants and not of seed, and what says no number: kept as it was said, and counted later
UNCOUNTED = re.compile(
    r"^(?:.*\s)?(?:heads?|ears?|cobs?|pods?|fruits?|bulbs?|tubers?|cloves?|sets?|slips?|crowns?|plants?|umbels?|"
    r"stalks?|bunch(?:es)?|roots?|bags?|lots|plenty|many|loads|enough|several|whole lot)$"
)
BARE = re.compile(r"^(?:pinch|handful|packet|pack|pkt|envelope|thimble|cup|spoon|jar)$")
SURE_SD = {"counted": 0.0, "about": 0.10, "guess": 0.35}
MOST_SEEDS = 1e9  # more than any household has of anything


@dataclass(frozen=True)
class Measures:
    """What a kind's seed weighs and how it is sold: seeds per gram with its relative doubt, seeds in
    a packet, seeds in a pinch, grams per millilitre. Of what is set in pieces: what one is called
    (``piece``), by which words they are counted, and how many a head or bulb holds (mean, sd)."""

    seeds_per_g: float
    per_g_sd: float
    packet_seeds: float
    packet_sd: float
    pinch_seeds: float
    g_per_ml: float
    piece: str = "seed"
    counted: frozenset[str] = frozenset()
    bundles: Mapping[str, tuple[float, float]] = field(default_factory=dict)

    def plainly(self, text: str) -> str:
        """An amount with its pieces called pieces, whatever word it has for them."""
        for word in sorted(self.counted, key=len, reverse=True):
            text = re.sub(rf"\b{re.escape(word)}$", "pieces", text)
        return text

    def bundle(self, unit: str) -> tuple[float, float] | None:
        """Pieces in one head or bulb (mean, sd); None: that is no word for several of them."""
        return self.bundles.get(unit) or self.bundles.get(unit.removesuffix("s"))


@dataclass(frozen=True)
class Said:
    """An amount understood: seeds with sd; grams where it was weighed; a share of what was there
    before (then ``seeds`` is None); ``words`` for reading it back."""

    seeds: float | None
    sd: float
    mass_g: float | None = None
    share: float | None = None
    words: str = ""


def typical_packet(seeds_per_g: float, f: AmountsFigures) -> float:
    """Seeds in a usual packet of a kind: small seeds come in larger numbers."""
    return float(f.packet_seeds_at_1_per_g * seeds_per_g**f.packet_seeds_power)


def measures_of(
    book_per_g: float,
    own_per_g: float | None,
    packet_count: int | None,
    pulse: bool,
    kg_per_l: float,
    f: AmountsFigures,
) -> Measures:
    """Measures of a lot: seeds per gram as weighed of it or by the book, the packet's printed count
    or a usual one; pulses and grain pour as beans do (``kg_per_l``)."""
    return Measures(
        seeds_per_g=own_per_g or book_per_g,
        per_g_sd=f.own_per_g_sd if own_per_g else f.book_per_g_sd,
        packet_seeds=float(packet_count) if packet_count else typical_packet(book_per_g, f),
        packet_sd=f.counted_packet_sd if packet_count else f.usual_packet_sd,
        pinch_seeds=f.pinch_seeds,
        g_per_ml=kg_per_l if pulse else f.seed_g_per_ml,
    )


def scale_slipped(own_per_g: float, book_per_g: float, f: AmountsFigures) -> bool:
    """Whether weighed seeds per gram lie so far from the book's that the scale was read wrongly."""
    times = f.scale_slip_times
    return not book_per_g / times <= own_per_g <= book_per_g * times


def _value(text: str, unit: str, way: Way) -> float:
    counted = unit in COUNTS
    try:
        value = read_number(text, way, whole=counted)
    except InvalidValue as error:
        raise InvalidValue("quantity", text, error.allowed) from error
    if counted and value != int(value):
        raise InvalidValue("quantity", text, "whole seeds; did you mean grams, or thousands?")
    return value


def _one_word(text: str) -> str:
    """Number words at the start as figures: "two pinches" -> "2 pinches", "a dozen" -> "12"."""
    if found := re.match(r"^(\d+) dozen\b(.*)$", text):
        return f"{12 * int(found[1])} {found[2].removeprefix(' of').strip()}".strip()
    for word in sorted(WORDS, key=len, reverse=True):
        if text == word or text.startswith(word + " "):
            return f"{WORDS[word]:g} {text[len(word) + 1 :].removeprefix('of ')}".strip()
    return text


def says_no_count(text: str, measures: Measures | None = None) -> bool:
    """Whether an amount is one of plants or says no number ("3 heads", "1 ear", "lots"): nobody can tell how
    many seeds that is. ``measures``: of what is set in pieces its own words are a number."""
    plain = " ".join(text.strip().lower().split())
    if measures is not None and measures.piece != "seed":
        plain = measures.plainly(plain)
        if plain != "pieces" and (
            plain.endswith("pieces") or measures.bundle(plain.split(" ")[-1])
        ):
            return False
    return bool(UNCOUNTED.match(plain))


def read_amount(text: str, measures: Measures, sure: str = "", way: Way = PLAIN) -> Said | None:
    """What an amount means; None when it says nothing. ``sure``: counted, about or guess.

    Counts (120, 100-150), masses (3.5 g, 2 kg), volumes (2 tsp), packets, pinches, and shares of
    what was there ("about half left"); numbers by the household's ``way`` of writing. Raises
    InvalidValue for what cannot be understood: it is asked, never guessed.
    """
    plain = measures.plainly(" ".join(text.strip().lower().split()))
    if plain in SAYS_NOTHING:
        return None
    if sure not in ("", *SURE_SD):
        raise InvalidValue("how sure", sure, ", ".join(SURE_SD))
    loose = SURE_SD.get(sure, 0.0)
    if ABOUT.match(plain):
        plain, loose = ABOUT.sub("", plain, count=1), max(loose, 0.10)
    if BARE.match(plain):
        plain = f"1 {plain}"
    if re.fullmatch(rf"(?:{_PLAIN})\s*\+", plain):  # forty and some more
        plain, loose = plain.rstrip("+ "), max(loose, 0.2)
    share = _share(plain)
    if share is not None:
        return Said(
            None, max(0.10, loose), share=share, words=f"{100 * share:.0f} % of what it held"
        )
    if plain in ("few", "a few"):
        plain = "1 pinch"
    if found := RANGE.match(plain):
        low, high = (_value(found[i], found[3], way) for i in (1, 2))
        if high < low:
            raise InvalidValue("quantity", text, "a range from low to high, such as 100-150")
        one = _measured((low + high) / 2, found[3], measures, text)
        spread = (high - low) / max(low + high, 1e-9) / Z80
        return _said(one, max(spread, loose), measures.piece)
    found = SINGLE.match(_one_word(plain))
    if not found:
        raise InvalidValue(
            "quantity", text, "write a count (120), a mass (3.5 g), packets, a pinch, or half left"
        )
    one = _measured(_value(found[1], found[2], way), found[2], measures, text)
    return _said(one, loose, measures.piece)


def _share(plain: str) -> float | None:
    left = LEFT.sub("", plain)
    if left != plain or plain in ("full", "empty", "none", "half", "most"):
        left = left.strip()
        if left in SHARES:
            return SHARES[left]
        if re.fullmatch(r"\d+/\d+", left) and 0 <= read_number(left) <= 1:
            return read_number(left)
    if (found := re.fullmatch(r"(\d{1,3})\s*%(?:\s*left)?", plain)) and int(found[1]) <= 100:
        return int(found[1]) / 100
    return None


def rough(n: float) -> str:
    """A number as people say one that is not counted: whole, and two significant figures above a thousand."""
    if n < 1000:
        return f"{n:.0f}"
    step = 10 ** (len(f"{n:.0f}") - 2)
    return f"{round(n / step) * step:,}"


def _said(one: tuple[float, float, float | None], loose: float, piece: str = "seed") -> Said:
    seeds, relative, mass = one
    if not seeds <= MOST_SEEDS:
        raise InvalidValue("quantity", f"{seeds:.3g} seeds", f"up to {MOST_SEEDS:.0e} seeds")
    sd = max(relative, loose) * seeds
    low, high = max(0.0, seeds - Z80 * sd), seeds + Z80 * sd
    words = (
        f"{seeds:,.0f} {piece}{'s' * (round(seeds) != 1)}"
        if relative < 0.03 and loose < 0.03
        else f"about {rough(seeds)} {piece}s, likely {rough(low)}\u2013{rough(high)}"
    )
    return Said(seeds, sd, mass, words=words)


def _measured(
    value: float, unit: str, measures: Measures, text: str
) -> tuple[float, float, float | None]:
    """Seeds, their relative sd, and grams where it was weighed."""
    if unit in COUNTS:
        return value, 0.02, None
    if (held := measures.bundle(unit)) is not None:
        return value * held[0], held[1] / held[0], None
    if unit in PACKS:
        return value * measures.packet_seeds, max(measures.packet_sd, 0.05), None
    if unit in PINCHES:
        return value * measures.pinch_seeds, 0.6, None
    single = unit.rstrip("s") if unit not in SPOONS_ML else unit
    if single in SPOONS_ML:
        mass = value * SPOONS_ML[single] * measures.g_per_ml
        return mass * measures.seeds_per_g, 0.3, None
    if unit not in GRAMS:
        known = ", ".join([*GRAMS, "tsp", "ml", "packets", "pinch"])
        raise InvalidValue("unit", unit, f"an amount is given in seeds, {known} ({text!r})")
    mass = grams(value, unit)
    return mass * measures.seeds_per_g, measures.per_g_sd, mass


@dataclass(frozen=True)
class WorthOf:
    """What living seed would cost as packets: the total, the part of it from a guessed price, and how
    many packets that is."""

    total: float
    guessed: float
    packets: float


def replacement_worth(
    packets: Floats, living: Floats, price: Floats, kind: Sequence[str], guess: float, cap: float
) -> WorthOf:
    """Worth of L lots: packets held [L] (at most ``cap`` of one lot count: nobody buys a sack in
    packets) times the living share [L] times the price of a packet [L]; where it is not known (nan)
    the mean of its kind's, else the guess."""
    held = np.minimum(packets, cap)
    known = np.isfinite(price) & (price > 0)
    kinds = np.array(kind, dtype=object)
    means = {k: float(price[known & (kinds == k)].mean()) for k in set(kinds[known])}
    own = np.array(
        [p if k else means.get(w, np.nan) for p, k, w in zip(price, known, kinds, strict=True)]
    )
    value = held * living * np.where(np.isfinite(own), own, guess)
    guessed = float(value[~np.isfinite(own)].sum()) if len(value) else 0.0
    return WorthOf(float(value.sum()), guessed, float(held.sum()))


def seeds_per_gram(count: float, mass_g: float) -> float:
    """Seeds per gram of a lot from weighing so many seeds (usually 100).

    Raises InvalidValue unless at least 10 seeds weigh something.
    """
    if count < 10:
        raise InvalidValue("seeds weighed", count, "10 or more, better 100")
    if not 0 < mass_g < 100_000:
        raise InvalidValue("mass", mass_g, "above 0 g")
    return count / mass_g
