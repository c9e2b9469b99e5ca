"""Measures as a household writes them, against exact definitions."""

import re

import pytest

from brisk_larder.core.base.units import GRAMS
from brisk_larder.core.hand.measures import LITRES, METRES, Writing

HERE = Writing()
THERE = Writing("F", "oz", "qt", "ft", "en-US")


@pytest.mark.parametrize(
    ("way", "value_c", "said"),
    [
        (HERE, -18.5, "−18.5 °C"),
        (HERE, 20, "20.0 °C"),
        (Writing(locale="de-DE"), 20.26, "20,3 °C"),
        (THERE, -40, "−40 °F"),
        (THERE, 37, "99 °F"),
        (THERE, 0, "32 °F"),
    ],
)
def test_temperatures(way, value_c, said):
    assert way.temperature(value_c) == said


def test_two_readings_are_told_apart():
    assert HERE.exactly(10.43) == "10.43 °C"
    assert HERE.exactly(10.0) == "10 °C"
    assert THERE.exactly(10.43) == "50.77 °F"
    assert THERE.exactly(10.44) != THERE.exactly(10.43)


def test_spans_and_differences_of_temperature():
    assert HERE.span(15, 25) == "15 to 25 °C"
    assert THERE.span(15, 25) == "59 to 77 °F"
    assert THERE.warmer(10) == "18 °F"  # a difference has no 32 in it
    assert HERE.warmer(0.5) == "0.5 °C"


@pytest.mark.parametrize(
    ("way", "mass_g", "said"),
    [
        (HERE, 0.333, "0.33 g"), (HERE, 3.5, "3.5 g"), (HERE, 999, "999 g"), (HERE, 1500, "1.5 kg"),
        (THERE, 28.349523125, "1 oz"), (THERE, 3.5, "0.12 oz"), (THERE, 453.59237, "1 lb"),
        (THERE, 2267.96185, "5 lb"),
    ],
)  # fmt: skip
def test_weights(way, mass_g, said):
    assert way.mass(mass_g) == said


def test_volumes_lengths_and_seeds_to_the_weight():
    assert [HERE.volume(v) for v in (1, 15, 0.5)] == ["1 litre", "15 litres", "0.5 litres"]
    assert [THERE.volume(LITRES[u]) for u in ("qt", "pt", "cup")] == ["1 quart", "1 pint", "1 cup"]
    assert THERE.volume(4 * LITRES["qt"]) == "4 quarts"
    assert THERE.prose("Acidify: 30 mL bottled juice or 2.5 mL acid per litre.") == (
        "Acidify: 2 tablespoons bottled juice or \u00bd teaspoon acid per quart."
    )
    assert (
        HERE.prose("30 mL per litre at 20 to 25 \u00b0C") == "30 mL per litre at 20 to 25 \u00b0C"
    )
    assert THERE.prose("dry it at 20 to 25 \u00b0C, 5 g in 2 cm, row 3 of 4") == (
        "dry it at 68 to 77 \u00b0F, 0.18 oz in \u00be in, row 3 of 4"
    )
    assert HERE.sheet(70, 37) == "70 x 37 mm"
    assert THERE.sheet(66.7, 25.4) == "2\u215d x 1 in"
    assert HERE.distance(400) == "400 m"
    assert THERE.distance(400) == "1310 ft"
    assert HERE.depth(1.5) == "1.5 cm"
    assert [THERE.depth(x) for x in (2.54, 1.27, 3.81, 0.1)] == ["1 in", "½ in", "1½ in", "⅛ in"]
    assert HERE.per_gram(4) == "4 to the gram"
    assert THERE.per_gram(4) == "113 to the ounce"


def test_what_is_said_is_the_same_measure_to_the_figures_it_shows():
    for mass_g in (0.2, 4.4, 31, 480, 12_000):
        for way in (HERE, THERE):
            number, unit = re.fullmatch(r"([\d.]+) (\w+)", way.mass(mass_g)).groups()
            assert float(number) * GRAMS[unit] == pytest.approx(mass_g, rel=0.05)
    for metres in (0.6, 4, 30, 800):
        number, unit = THERE.distance(metres).split(" ")
        assert float(number) * METRES[unit] == pytest.approx(metres, rel=0.2)
