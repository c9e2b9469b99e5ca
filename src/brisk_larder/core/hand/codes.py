"""Codes of lots: short, unique, fit to be said aloud and written on tape; the household's scheme."""

from __future__ import annotations

import re
from collections.abc import Collection

from ..base.errors import InvalidValue

SCHEMES = {
    "letter": "the kind's letter and a number: B12",
    "number": "plain numbers: 117",
    "kind": "three letters of the kind and a number: BEA12",
    "spoken": "a word one can say: RUMA, KETO",
}
# no letters that sound or look alike when said across a cellar
_CONSONANTS, _VOWELS = "BDFGKLMNPRSTVZ", "AEIO"
_SYLLABLES = [c + v for c in _CONSONANTS for v in _VOWELS]
_STEP = 1117  # coprime to the count of words: neighbours in time do not sound alike
FIGURES = re.compile("[0-9]{1,12}")  # plain ones: a raised two is a figure to Python, but no number
ALLOWED = re.compile(r"^[^\s,;/\\\"']{1,12}$")


def check_code(code: str) -> str:
    """A code as given, trimmed. Raises InvalidValue unless 1 to 12 signs without spaces."""
    plain = code.strip()
    if not ALLOWED.match(plain):
        raise InvalidValue(
            "code", code, "1 to 12 letters and figures without spaces, commas, quotes"
        )
    return plain


def _word(index: int) -> str:
    n = len(_SYLLABLES)
    if index >= n * n:  # three syllables once all words of two are taken
        return _SYLLABLES[index // (n * n) % n] + _word(index % (n * n))
    place = (index * _STEP + 531) % (n * n)
    return _SYLLABLES[place // n] + _SYLLABLES[place % n]


def next_code(scheme: str, kind_name: str, known: bool, taken: Collection[str]) -> str:
    """The next free code of a scheme. Raises InvalidValue for an unknown scheme."""
    if scheme not in SCHEMES:
        raise InvalidValue("code scheme", scheme, ", ".join(SCHEMES))
    if scheme == "spoken":
        index = len(taken)
        while _word(index) in taken:
            index += 1
        return _word(index)
    letters = re.sub(r"[^A-Z]", "", kind_name.upper())
    prefix = {"number": "", "kind": letters[:3], "letter": letters[:1]}[scheme]
    if not known and scheme != "number":
        prefix = "?"
    used = {
        int(rest)
        for c in taken
        if c.startswith(prefix) and FIGURES.fullmatch(rest := c[len(prefix) :])
    }
    return f"{prefix}{max(used, default=0) + 1}"


def natural(code: str) -> tuple[tuple[int, int, str], ...]:
    """A key that sorts B2 before B12."""
    return tuple(
        (0, int(piece), "") if FIGURES.fullmatch(piece) else (1, 0, piece.lower())
        for piece in re.findall(r"[0-9]+|[^0-9]+", code)
    )
