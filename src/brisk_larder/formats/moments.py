"""Times as loggers and people write them: one by one, or a column at once where all are alike."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]
PARTS = re.compile(r"^(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})(?:[ T,]+(.*))?$")
NAMED = re.compile(r"^(\d{1,2})[ .-]+([A-Za-z]{3,9})\.?[ ,.-]+(\d{4}|\d{2})(?:[ T,]+(.*))?$")
NAMED_FIRST = re.compile(r"^([A-Za-z]{3,9})\.? +(\d{1,2})[, ]+(\d{4})(?:[ T,]+(.*))?$")
CLOCK = re.compile(
    r"^(\d{1,2})[:.h](\d{2})(?:[:.](\d{2})(?:[.,]\d+)?)?\s*([ap])?\.?\s*(?:m\.?)?$", re.IGNORECASE
)
ISO = re.compile(r"^\d{4}-\d{2}-\d{2}[ T]\d{2}:\d{2}(:\d{2})?$")
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
SHEET_ZERO = datetime(1899, 12, 30, tzinfo=UTC)  # day 0 of spreadsheets' dates
EXAMPLE = "a time such as 2026-03-01 14:00"
FAR_APART = 12  # so many times the span under the other order is no record any more (guess)


def form_of(stamps: Sequence[str]) -> str:
    """How a column writes its times: text, epoch_s, epoch_ms or serial days."""
    cells = [s.strip() for s in stamps if s.strip()]
    if not cells or not all(re.fullmatch(r"\d+(?:[.,]\d+)?", c) for c in cells):
        return "text"
    values = [float(c.replace(",", ".")) for c in cells]
    for form, low, high in (
        ("epoch_s", 6e8, 4.2e9),
        ("epoch_ms", 6e11, 4.2e12),
        ("serial", 25_000, 75_000),
    ):
        if all(low <= v <= high for v in values):
            return form
    return "text"


def _clock(text: str) -> tuple[int, int, int]:
    """Hours, minutes, seconds of a time of day, of twelve or twenty-four hours. Raises ValueError."""
    if not text.strip():
        return 0, 0, 0
    found = CLOCK.match(text.strip())
    if not found:
        raise ValueError(EXAMPLE)
    hour, minute, second = int(found[1]), int(found[2]), int(found[3] or 0)
    if half := (found[4] or "").lower():
        if not 1 <= hour <= 12:
            raise ValueError("a time such as 02:15 PM")
        hour = hour % 12 + (12 if half == "p" else 0)
    return hour, minute, second


def _month_of(word: str) -> int:
    if word[:3].lower() not in MONTHS:
        raise ValueError(EXAMPLE)
    return MONTHS.index(word[:3].lower()) + 1


def _parted(text: str, month_first: bool) -> datetime | None:
    """A time with its day and month written in figures or by name; None for another form."""
    if found := PARTS.match(text):
        day, month = (found[2], found[1]) if month_first else (found[1], found[2])
        year, rest = int(found[3]), found[4]
        parts = (year + 2000 if year < 100 else year, int(month), int(day))
    elif found := NAMED.match(text):
        year, rest = int(found[3]), found[4]
        parts = (year + 2000 if year < 100 else year, _month_of(found[2]), int(found[1]))
    elif found := NAMED_FIRST.match(text):
        rest = found[4]
        parts = (int(found[3]), _month_of(found[1]), int(found[2]))
    else:
        return None
    try:
        return datetime(*parts, *_clock(rest or ""), tzinfo=UTC)
    except ValueError:
        raise ValueError(EXAMPLE) from None


def moment(text: str, month_first: bool, form: str = "text") -> tuple[int, bool]:
    """Seconds of one time as written, and whether it carries its own offset. Raises ValueError."""
    text = text.strip()
    if form != "text":
        try:
            return number_s(float(text.replace(",", ".")), form)
        except OverflowError:
            raise ValueError("a number of seconds or days") from None
    parted = _parted(text, month_first)
    if parted is not None:
        return int(parted.timestamp()), False
    iso = re.sub(r"^(\d{4})[/.](\d{2})[/.](\d{2})", r"\1-\2-\3", text)
    half = re.match(r"^(\d{4}-\d{2}-\d{2})[ T]+(.*[ap]\.?m\.?)$", iso, re.IGNORECASE)
    if half:
        iso = "{}T{:02d}:{:02d}:{:02d}".format(half[1], *_clock(half[2]))
    try:
        read = datetime.fromisoformat(iso.replace("Z", "+00:00"))
    except ValueError:
        raise ValueError(EXAMPLE) from None
    own = read.tzinfo is not None
    return int((read if own else read.replace(tzinfo=UTC)).timestamp()), own


def number_s(value: float, form: str) -> tuple[int, bool]:
    """Seconds of a time written as a number; spreadsheets' days are by the clock on the wall."""
    if form == "serial":
        # to the second: three decimals of a day are a minute and a half, the last one is rounding
        return round((SHEET_ZERO + timedelta(days=value)).timestamp()), False
    return int(value // 1000 if form == "epoch_ms" else value), True


def orders_possible(stamps: Sequence[str]) -> tuple[bool, bool]:
    """Whether dates may be day first, and month first: both, where nothing in them decides it."""
    if not any(PARTS.match(s) for s in stamps):
        return True, False
    if any(re.match(r"^\d{1,2}\.\d{1,2}\.", s) for s in stamps):
        return True, False  # with dots the day comes first everywhere
    spans: list[float | None] = []
    for month_first in (False, True):
        try:
            at = sorted(moment(s, month_first)[0] for s in stamps if PARTS.match(s))
        except ValueError:
            spans.append(None)
            continue
        spans.append(float(at[-1] - at[0]))
    day, month = spans
    if len({s[:10] for s in stamps}) < 3:  # two days may well be a month apart
        return day is not None or month is None, month is not None
    if day is None or month is None:
        return day is not None or month is None, month is not None
    # consecutive days are a month apart under the wrong order
    return day <= FAR_APART * month or month == 0, month <= FAR_APART * day or day == 0


def column(cells: Sequence[str], month_first: bool, form: str) -> tuple[Ints, bool]:
    """A column of times written alike. Raises ValueError when they are not."""
    if form != "text":
        values = np.array([c.replace(",", ".") for c in cells], dtype=float)
        if not np.isfinite(values).all() or np.abs(values).max() > 4.2e12:
            raise ValueError("no times")
        if form == "serial":
            zero = int(SHEET_ZERO.timestamp())
            return np.rint(zero + values * 86_400).astype(np.int64), False
        return (values // 1000 if form == "epoch_ms" else values).astype(np.int64), True
    width = len(cells[0])
    if set(map(len, cells)) != {width}:  # numpy would cut the longer ones
        raise ValueError("times of different length")
    own = cells[0].endswith("Z")
    joined = "".join(cells)
    if not joined.isascii():
        raise ValueError("other letters")
    letters = np.frombuffer(joined.encode("ascii"), dtype=np.uint8).reshape(len(cells), width)
    if own:
        if not (letters[:, -1] == ord("Z")).all():
            raise ValueError("offsets differ")
        letters = letters[:, :-1]
    if re.match(r"^\d{2}[./-]\d{2}[./-]\d{4} \d{2}:", cells[0]):
        day, month = (slice(3, 5), slice(0, 2)) if month_first else (slice(0, 2), slice(3, 5))
        dash = np.full((len(cells), 1), ord("-"), dtype=np.uint8)
        letters = np.concatenate(
            [letters[:, 6:10], dash, letters[:, month], dash, letters[:, day], letters[:, 10:]],
            axis=1,
        )
    return _from_letters(letters), own


def _from_letters(letters: NDArray[np.uint8]) -> Ints:
    """Seconds of YYYY-MM-DD HH:MM(:SS) given as letters [N, W]. Raises ValueError."""
    if not ISO.match(letters[0].tobytes().decode("ascii")):
        raise ValueError("another form of time")
    marks = {4: "-", 7: "-", 13: ":", 16: ":"}
    width = letters.shape[1]
    for at, mark in marks.items():
        if at < width and not (letters[:, at] == ord(mark)).all():
            raise ValueError("another form of time")
    if not np.isin(letters[:, 10], (ord(" "), ord("T"))).all():
        raise ValueError("another form of time")
    figures = letters.astype(np.int64) - ord("0")
    places = [i for i in range(width) if i not in marks and i != 10]
    if ((figures[:, places] < 0) | (figures[:, places] > 9)).any():
        raise ValueError("no figures")

    def two(at: int) -> Ints:
        return 10 * figures[:, at] + figures[:, at + 1]

    year, month, day = 100 * two(0) + two(2), two(5), two(8)
    hour, minute = two(11), two(14)
    second = two(17) if width > 17 else np.zeros_like(hour)
    if ((month < 1) | (month > 12) | (hour > 23) | (minute > 59) | (second > 59)).any():
        raise ValueError("no such time")
    months = (year - 1970) * 12 + month - 1
    first = months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    following = (months + 1).astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    if ((day < 1) | (day > following - first)).any():
        raise ValueError("no such day")
    return (first + day - 1) * 86_400 + hour * 3600 + minute * 60 + second
