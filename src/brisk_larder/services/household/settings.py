"""What the household may set, and what each setting may be."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.base.errors import InvalidValue
from ...core.base.units import zone
from ...core.hand.codes import SCHEMES
from ...core.hand.writing import WAYS
from ...formats.sheets import PAGES_MM
from .kinds import reference
from .larder import writing_here


@dataclass(frozen=True)
class Number:
    """A number between two others, called as on the page; ``whole``: of days or months; ``empty``:
    may be unknown; ``share``: kept as a fraction, spoken of in percent."""

    name: str
    low: float
    high: float
    words: str
    whole: bool = False
    empty: bool = False
    share: bool = False

    def read(self, given: object) -> float | int | None:
        """The number. Raises InvalidValue."""
        if given is None and self.empty:
            return None
        right = isinstance(given, int | float) and not isinstance(given, bool)
        if not right or not self.low <= float(str(given)) <= self.high:
            said = f"{100 * float(str(given)):g} %" if right and self.share else given
            allowed = self.words + (", or left empty" if self.empty else "")
            raise InvalidValue(self.name, said, writing_here().prose(allowed))
        value = float(str(given))
        if self.whole and value != int(value):
            raise InvalidValue(self.name, given, "a whole number")
        return int(value) if self.whole else value


FROST_DAY = "month-day such as 05-09 (day 129 of the year)"
NUMBERS = {
    "outdoor_mean_c": Number("mean outdoors", -25, 35, "-25 to 35 °C", empty=True),
    "last_frost_day": Number("last frost", 1, 366, FROST_DAY, whole=True, empty=True),
    "first_frost_day": Number("first frost", 1, 366, FROST_DAY, whole=True, empty=True),
    "last_frost_sd_days": Number("doubt of the last frost", 0, 60, "0 to 60 days"),
    "first_frost_sd_days": Number("doubt of the first frost", 0, 60, "0 to 60 days"),
    "year_starts_month": Number("first month of the year", 1, 12, "1 to 12", whole=True),
    "sow_level": Number("you sow as usual from", 0.05, 0.99, "between 5 and 99 %", share=True),
    "confidence": Number(
        "enough plants in so many years of a hundred",
        0.5,
        0.99,
        "at least 50 % and at most 99 %",
        share=True,
    ),
    "line_confidence": Number(
        "a line is safe in so many years of a hundred",
        0.5,
        0.99,
        "at least 50 % and at most 99 %",
        share=True,
    ),
    "first_weekday": Number("first weekday", 0, 6, "0 (Sunday) to 6 (Saturday)", whole=True),
    "frost_free": Number("no frost here", 0, 1, "0 or 1", whole=True),
    "seed_bed_m2": Number("bed for growing seed", 0, 100_000, "0 to 100,000 m²", empty=True),
    "seed_budget": Number("money for seed in a year", 0, 1_000_000, "0 to 1,000,000", empty=True),
    "people": Number("people at the table", 1, 100, "1 to 100", whole=True, empty=True),
    "guest_weeks": Number("weeks of guests in a year", 0, 1000, "0 to 1,000 weeks of one guest"),
    "food_bed_m2": Number("bed for food", 0, 1_000_000, "0 to 1,000,000 m²", empty=True),
    "cells": Number(
        "cells to sow in indoors", 0, 1_000_000, "0 to 1,000,000", whole=True, empty=True
    ),
    "evenings": Number(
        "evenings for sowing and putting up", 0, 366, "0 to 366", whole=True, empty=True
    ),
    "winter_roots": Number(
        "roots that can be stored over winter",
        0,
        1_000_000,
        "0 to 1,000,000",
        whole=True,
        empty=True,
    ),
    "seed_lines": Number("lines grown anew in a year", 1, 200, "1 to 200", whole=True, empty=True),
    "order_lead_days": Number(
        "days between ordering and sowing", 0, 365, "0 to 365 days", whole=True
    ),
}
WORDS = {
    "hemisphere": ("north", "south"), "temperature_unit": ("C", "F"), "mass_unit": ("g", "oz"),
    "volume_unit": ("l", "qt"), "length_unit": ("m", "ft"), "crop_names": ("gb", "us"),
    "code_scheme": tuple(SCHEMES), "page_size": tuple(PAGES_MM), "locale": tuple(WAYS),
}  # fmt: skip
TEXTS = {"name": (1, 80), "currency": (0, 20), "address": (0, 200)}


def read_months(given: object) -> str:
    """Months as they are kept, "3,4,10"; empty for none. Raises InvalidValue."""
    said = [x.strip() for x in str(given).split(",") if x.strip()]
    if not all(x.isdecimal() and 1 <= int(x) <= 12 for x in said):
        raise InvalidValue("months of sowing", given, "numbers 1 to 12 with commas, such as 3,4,10")
    return ",".join(str(m) for m in sorted({int(x) for x in said}))


def read_setting(name: str, given: object) -> object:
    """A setting as it is kept. Raises InvalidValue for an unknown one or what it cannot be."""
    plain = name.replace("_", " ")
    if name in NUMBERS:
        return NUMBERS[name].read(given)
    if name in WORDS:
        if given not in WORDS[name]:
            raise InvalidValue(plain, given, " or ".join(WORDS[name]))
        return given
    if name in TEXTS:
        least, most = TEXTS[name]
        if not isinstance(given, str) or not least <= len(given.strip()) <= most:
            raise InvalidValue(plain, given, f"a text of {least} to {most} signs")
        return given.strip()
    if name == "sow_months":
        return read_months(given)
    if name == "tz":
        zone(str(given))
        return given
    if name == "unplaced_kind":
        if given not in reference().places:
            raise InvalidValue("place", given, ", ".join(reference().places))
        return given
    if name == "unplaced_wrapper":
        if given not in reference().storage:
            raise InvalidValue("wrapper", given, ", ".join(reference().storage))
        return given
    known = sorted(
        [*NUMBERS, *WORDS, *TEXTS, "sow_months", "tz", "unplaced_kind", "unplaced_wrapper"]
    )
    raise InvalidValue("setting", name, "one of " + ", ".join(known))
