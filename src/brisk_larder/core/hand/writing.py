"""Numbers and days as people write them, by the household's habit; what could be two things is asked.

A habit (``WAYS``) says which comes first, day or month, and which sign parts the decimals.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from datetime import date, timedelta

from ..base.errors import InvalidValue

# what months are called, without accents: English, German, French, Spanish, Italian, Dutch, and short forms
MONTH_NAMES = (
    "january januar janner janvier enero gennaio januari",
    "february februar fevrier febrero febbraio februari",
    "march marz maerz mars marzo maart mrt", "april avril abril aprile", "may mai mayo maggio mei",
    "june juni juin junio giugno", "july juli juillet julio luglio", "august aout agosto augustus",
    "september septembre septiembre setiembre settembre", "october oktober octobre octubre ottobre",
    "november novembre noviembre", "december dezember decembre diciembre dicembre",
)  # fmt: skip
WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
# spaces of all widths and apostrophes part thousands, whatever the habit
_GAPS = re.compile("(?<=\\d)[ \u00a0\u202f\u2009'\u2019](?=\\d{3}(?!\\d))")
_FRACTIONS = {"\u00bd": "1/2", "\u00bc": "1/4", "\u00be": "3/4", "\u2153": "1/3", "\u2154": "2/3"}


@dataclass(frozen=True)
class Way:
    """How a household writes: day before month, and the sign before decimals."""

    day_first: bool
    decimal: str

    @property
    def thousands(self) -> str:
        """The sign that may part thousands."""
        return "," if self.decimal == "." else "."


WAYS = {
    "en-GB": Way(True, "."),
    "en-US": Way(False, "."),
    "de-DE": Way(True, ","),
}
PLAIN = WAYS["en-GB"]


def way_of(locale: str) -> Way:
    """The habit of a locale; day first and a decimal point where it is not known."""
    return WAYS.get(locale, PLAIN)


def read_number(text: str, way: Way = PLAIN, whole: bool = False) -> float:
    """A number: "1,500", "1.500", "1 500", "1,5", "2 1/2", "3/4".

    One sign before three figures parts thousands when it is not the habit's decimal sign, or when what
    is counted is ``whole`` (nobody counts 1.5 seeds); otherwise it is the decimal sign.
    Raises InvalidValue for what could be anything else.
    """
    plain = text.strip()
    for sign, words in _FRACTIONS.items():
        plain = re.sub(rf"(?<=\d){sign}", f" {words}", plain).replace(sign, words)
    plain = _GAPS.sub("", plain)
    if found := re.fullmatch(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)", plain):
        if int(found[3]) == 0:
            raise InvalidValue("number", text, "a number that can be divided")
        return int(found[1] or 0) + int(found[2]) / int(found[3])
    if not re.fullmatch(r"\d[\d.,]*|[.,]\d+", plain):
        raise InvalidValue("number", text, "a number such as 120, 1,500 or 2.5")
    signs = re.findall("[.,]", plain)
    if not signs:
        return float(plain)
    last = signs[-1]
    if len(set(signs)) == 2:  # both: the last one parts the decimals
        left, right = plain.rsplit(last, 1)
        other = "," if last == "." else "."
        if last in left or not _grouped(left, other):
            raise InvalidValue("number", text, "a number such as 1,500.5")
        return float(left.replace(other, "") + "." + right)
    if len(signs) > 1:
        if not _grouped(plain, last):
            raise InvalidValue("number", text, "a number such as 1,500,000")
        return float(plain.replace(last, ""))
    left, right = plain.split(last)
    thousands = len(right) == 3 and 1 <= len(left) <= 3 and not left.startswith("0")
    if thousands and (whole or last != way.decimal):
        return float(left + right)
    if not right:
        raise InvalidValue("number", text, "a number such as 120, 1,500 or 2.5")
    return float(f"{left or 0}.{right}")


def _grouped(text: str, sign: str) -> bool:
    first, *rest = text.split(sign)
    return 1 <= len(first) <= 3 and all(len(x) == 3 for x in rest)


def bad_day(text: str) -> InvalidValue:
    """What is allowed as a day."""
    return InvalidValue("day", text, "a day such as 3 Nov, 2026-11-03, yesterday or last Tuesday")


def read_day(text: str, today: date, way: Way = PLAIN) -> date:
    """A day on which something happened: "today", "yesterday", "last Tuesday", "3 days ago", "3 Nov",
    "Nov 3 2025", "03/04/2025" by the habit, "4.9.2025", "2025-09-04". Without a year the last such day.

    Raises InvalidValue for a day that there is not, or that is still to come.
    """
    plain = " ".join(text.strip().lower().replace(",", " ").split())
    day = _relative(plain, today) or _written(plain, text, today, way)
    if day > today:
        raise InvalidValue("day", text, f"a day up to today, {day_written(today, way, year=True)}")
    return day


def day_written(day: date, way: Way = PLAIN, year: bool = False) -> str:
    """A day with the name of its month: "3 Nov", "3 Nov 2026"; "Nov 3", "Nov 3, 2026" by the habit."""
    if way.day_first:
        return f"{day.day} {day:%b %Y}" if year else f"{day.day} {day:%b}"
    return f"{day:%b} {day.day}, {day.year}" if year else f"{day:%b} {day.day}"


def _relative(plain: str, today: date) -> date | None:
    if plain in ("", "today", "now", "just now"):
        return today
    if plain == "yesterday":
        return today - timedelta(days=1)
    if found := re.fullmatch(r"(\d+|a|an) (day|week)s? ago", plain):
        many = 1 if found[1] in ("a", "an") else int(found[1])
        if many > 40_000:
            return None
        return today - timedelta(days=many * (7 if found[2] == "week" else 1))
    if plain == "last week":
        return today - timedelta(days=7)
    words = plain.removeprefix("last ").removeprefix("on ")
    named = [i for i, w in enumerate(WEEKDAYS) if len(words) >= 3 and w.startswith(words)]
    if len(named) == 1:
        back = (today.weekday() - named[0]) % 7
        return today - timedelta(days=back or 7)
    return None


def _year(text: str | None) -> int | None:
    if not text:
        return None
    return int(text) if len(text) == 4 else 2000 + int(text)


def month_of(word: str) -> int | None:
    """The month that a word, or the beginning of one, names in six tongues, 1 to 12; None: none."""
    plain = bare(word)
    if len(plain) < 3:
        return None
    names = enumerate(MONTH_NAMES, start=1)
    return next((i for i, n in names if any(m.startswith(plain) for m in n.split())), None)


def bare(word: str) -> str:
    """A word without its accents."""
    parts = unicodedata.normalize("NFKD", word)
    return "".join(c for c in parts if not unicodedata.combining(c))


def parts_of_day(plain: str, way: Way) -> tuple[int | None, int, int] | None:
    """(year or None, month, day) of a day written with figures or with a month's name."""
    if found := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", plain):
        return int(found[1]), int(found[2]), int(found[3])
    if found := re.fullmatch(r"(\d{1,2})\.\s*(\d{1,2})\.?\s*(\d{4}|\d{2})?", plain):
        return _year(found[3]), int(found[2]), int(found[1])  # with full stops the day goes first
    if found := re.fullmatch(r"(\d{1,2})[/-](\d{1,2})(?:[/-](\d{4}|\d{2}))?", plain):
        first, second = int(found[1]), int(found[2])
        day, month = (first, second) if way.day_first else (second, first)
        return _year(found[3]), month, day
    if found := re.fullmatch(
        r"(\d{1,2})(?:st|nd|rd|th|\.)?(?: (?:of|de))? ([^\W\d_]{3,})\.?(?: (?:de )?'?(\d{4}|\d{2}))?",
        plain,
    ):
        named = month_of(found[2])
        return None if named is None else (_year(found[3]), named, int(found[1]))
    if found := re.fullmatch(r"([^\W\d_]{3,})\.? (\d{1,2})(?:st|nd|rd|th)?(?: '?(\d{4}))?", plain):
        named = month_of(found[1])
        return None if named is None else (_year(found[3]), named, int(found[2]))
    return None


def _written(plain: str, text: str, today: date, way: Way) -> date:
    found = parts_of_day(plain, way)
    if found is None:
        raise bad_day(text)
    year, month, day = found
    try:
        if year is not None:
            return date(year, month, day)
        this = date(today.year, month, day)
        return this if this <= today else date(today.year - 1, month, day)
    except ValueError:
        raise bad_day(text) from None
