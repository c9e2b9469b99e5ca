"""Measures as a household writes them: degrees, weights, volumes and lengths in its own units.

Inside all is SI; a number is turned here, at the edge, and says no more figures than it has.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from ..base.units import GRAMS, f_from_c
from .writing import day_written, way_of

LITRES = {"l": 1.0, "ml": 0.001, "qt": 0.946352946, "pt": 0.473176473, "cup": 0.2365882365}
METRES = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "in": 0.0254}
SPOON_ML = {"tablespoon": 14.78676478125, "teaspoon": 4.92892159375}  # US, exact
SPOONED_L = 0.08  # less than a third of a cup is measured with spoons
NAMES = {"qt": "quart", "pt": "pint", "cup": "cup", "l": "litre"}


_NUMBER = "[\u2212-]?\\d+(?:\\.\\d+)?"
_MEASURE = re.compile(
    rf"(?P<low>{_NUMBER})(?:(?P<sep> to |\u2013|-)(?P<high>{_NUMBER}))?"
    r" ?(?P<unit>\u00b0C|kg|g|cm|mm|m|m[lL]|litres?|l)(?![\w/])"
)


def _figures(value: float) -> str:
    """Two or three figures, never a tail of noughts."""
    if abs(value) >= 10:
        return f"{value:.0f}"
    return f"{value:.2g}" if abs(value) < 1 else f"{value:.1f}".removesuffix(".0")


def _plain(text: str) -> float:
    return float(text.replace("\u2212", "-"))


def _spoons(ml: float) -> str:
    """A small volume in tablespoons to the half, or teaspoons to the quarter."""
    unit, step = ("tablespoon", 2) if ml >= SPOON_ML["tablespoon"] * 0.75 else ("teaspoon", 4)
    parts = max(1, round(step * ml / SPOON_ML[unit]))
    whole, rest = divmod(parts, step)
    fraction = {0.25: "\u00bc", 0.5: "\u00bd", 0.75: "\u00be"}.get(rest / step, "")
    return f"{whole or ''}{fraction} {unit}{'' if parts <= step else 's'}"


def _rough(value: float) -> float:
    """A distance or depth as somebody paces it: to 10 from a hundred on, to 5 from ten on."""
    step = 10 if value >= 100 else 5 if value >= 20 else 1
    return round(value / step) * step


@dataclass(frozen=True)
class Writing:
    """What a household writes its measures in: C or F, g or oz, l or qt, m or ft, and its habit of
    decimals (a locale of ``writing.WAYS``)."""

    temperature_unit: str = "C"
    mass_unit: str = "g"
    volume_unit: str = "l"
    length_unit: str = "m"
    locale: str = "en-GB"

    @property
    def degree(self) -> str:
        """The sign of its degrees."""
        return "°F" if self.temperature_unit == "F" else "°C"

    @property
    def kilo(self) -> str:
        """Its larger unit of weight: kg or lb."""
        return "lb" if self.mass_unit == "oz" else "kg"

    def said(self, text: str) -> str:
        """A plain number in its own signs: a true minus, its decimal sign."""
        return text.replace("-", "\u2212").replace(".", way_of(self.locale).decimal)

    def day(self, day: date, year: bool = False) -> str:
        """A day with the name of its month, in its order; with the ``year`` where that is asked."""
        return day_written(day, way_of(self.locale), year)

    def degrees(self, value_c: float) -> float:
        """A temperature in degC as a number of its own degrees."""
        return f_from_c(value_c) if self.temperature_unit == "F" else value_c

    def temperature(self, value_c: float, digits: int = 1) -> str:
        """A temperature in degC with its unit; whole degrees in Fahrenheit."""
        value = self.degrees(value_c)
        shown = f"{value:.0f}" if self.temperature_unit == "F" else f"{value:.{digits}f}"
        return f"{self.said(shown)} {self.degree}"

    def exactly(self, value_c: float) -> str:
        """A temperature in degC to the hundredth: where two readings are told apart."""
        return f"{self.said(f'{self.degrees(value_c):.2f}'.rstrip('0').rstrip('.'))} {self.degree}"

    def span(self, low_c: float, high_c: float) -> str:
        """From one temperature to another, in degC, the unit said once."""
        low, high = (self.said(f"{self.degrees(c):.0f}") for c in (low_c, high_c))
        return f"{low} to {high} {self.degree}"

    def warmer(self, difference_c: float) -> str:
        """A difference of temperatures in degC (a jump, a doubt) with its unit."""
        value = difference_c * (1.8 if self.temperature_unit == "F" else 1.0)
        return f"{self.said(_figures(value))} {self.degree}"

    def mass(self, mass_g: float) -> str:
        """A weight in grams; in the larger unit from one of it on."""
        unit = self.kilo if mass_g >= GRAMS[self.kilo] else self.mass_unit
        return f"{self.said(_figures(mass_g / GRAMS[unit]))} {unit}"

    def kilos(self, mass_kg: float) -> str:
        """A weight of produce in kg, always in the larger unit."""
        return f"{self.said(_figures(1000 * mass_kg / GRAMS[self.kilo]))} {self.kilo}"

    def per_gram(self, seeds_per_g: float) -> str:
        """Seeds to the gram, or to the ounce."""
        value = seeds_per_g * GRAMS[self.mass_unit]
        return (
            f"{self.said(_figures(value))} to the {'ounce' if self.mass_unit == 'oz' else 'gram'}"
        )

    def volume(self, litres: float) -> str:
        """A volume in litres; spoken of in quarts, pints or cups by its size."""
        if self.volume_unit == "l":
            return f"{self.said(_figures(litres))} {'litre' if litres == 1 else 'litres'}"
        if litres < SPOONED_L:
            return _spoons(1000 * litres)
        unit = "qt" if litres >= LITRES["qt"] else "pt" if litres >= LITRES["pt"] else "cup"
        shown = _figures(litres / LITRES[unit])
        return f"{self.said(shown)} {NAMES[unit]}{'' if shown == '1' else 's'}"

    def distance(self, metres: float) -> str:
        """A distance between plants or beds, as somebody paces it."""
        value = metres / METRES[self.length_unit]
        shown = _figures(value if self.length_unit == "m" else _rough(value))
        return f"{self.said(shown)} {self.length_unit}"

    def area(self, m2: float) -> str:
        """A piece of bed."""
        value = m2 / METRES[self.length_unit] ** 2
        shown = f"{value:.1f}" if self.length_unit == "m" and value < 10 else f"{value:.0f}"
        return f"{self.said(shown)} {self.length_unit}\u00b2"

    def depth(self, depth_cm: float) -> str:
        """How deep seed goes: centimetres, or inches to the eighth."""
        if self.length_unit == "m":
            return f"{self.said(_figures(depth_cm))} cm"
        eighths = max(1 if depth_cm > 0 else 0, round(8 * depth_cm / 2.54))
        whole, rest = divmod(eighths, 8)
        parts = {1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞"}
        return f"{whole or ''}{parts.get(rest, '') if eighths else 0} in"

    def sheet(self, width_mm: float, height_mm: float) -> str:
        """The size of a label: millimetres, or inches to the eighth."""
        if self.length_unit == "m":
            return self.said(f"{width_mm:g} x {height_mm:g}") + " mm"
        return f"{self.depth(width_mm / 10).removesuffix(' in')} x {self.depth(height_mm / 10)}"

    @property
    def metric(self) -> bool:
        """Whether it writes all as the tables do: degC, grams, litres, metres, a decimal point."""
        return self == Writing()

    def prose(self, text: str) -> str:
        """A sentence of our own with its measures (20 to 25 degC, 5 g, 2 cm) in the household's units."""
        if self.metric:
            return text
        said = _MEASURE.sub(self._measure, text)
        return said.replace("per litre", "per quart") if self.volume_unit == "qt" else said

    def _measure(self, found: re.Match[str]) -> str:
        said = self._speaker(found["unit"])
        low = said(_plain(found["low"]))
        if found["high"] is None:
            return low
        high = said(_plain(found["high"]))
        same = low.rsplit(" ", 1)[-1] == high.rsplit(" ", 1)[-1]
        return f"{low.rsplit(' ', 1)[0] if same else low}{found['sep']}{high}"

    def _speaker(self, unit: str) -> Callable[[float], str]:
        speakers: dict[str, Callable[[float], str]] = {
            "\u00b0C": lambda v: self.temperature(v, digits=0 if v == round(v) else 1),
            "kg": self.kilos,
            "g": self.mass,
            "cm": self.depth,
            "mm": lambda v: self.depth(v / 10),
            "m": self.distance,
            "ml": lambda v: self.volume(v / 1000),
            "mL": lambda v: self.volume(v / 1000),
        }
        return speakers.get(unit, self.volume)
