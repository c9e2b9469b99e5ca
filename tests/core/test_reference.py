"""The tables against each other and against what is generally known of seed."""

import numpy as np
import pytest

from brisk_larder.reference import Range, load_reference
from tests.core.book import KEYS, REF


@pytest.mark.parametrize("key", KEYS)
def test_a_crops_row_is_consistent_in_itself(key):
    c = REF.crops[key]
    assert c.isolation_m_home <= c.isolation_m_strict
    assert c.min_plants_viable <= c.min_plants_good
    assert c.germ_temp_min_c <= c.germ_temp_opt_c.low <= c.germ_temp_opt_c.high <= c.germ_temp_max_c
    assert c.first_count_days < c.final_count_days
    assert 0.2 < c.field_emergence_factor <= 1
    if c.min_commercial_germination_pct is not None:
        assert c.min_commercial_germination_pct <= c.typical_initial_germination_pct
    if c.sow_method in ("indoors", "both"):
        assert c.sow_indoors_weeks_before_last_frost is not None
    if c.sow_method in ("direct", "both"):
        assert c.sow_outdoors_weeks_rel_last_frost is not None


def test_short_and_long_lived_kinds_are_in_the_known_order():
    life = {key: REF.viability[key].p50_years_at_20C_50RH_Ki2 for key in KEYS}
    assert life["onion"] < life["carrot"] < life["tomato"]
    assert life["parsnip"] < life["cabbage"] < life["beet"]
    assert life["soybean"] < life["pea"]
    book = {key: REF.crops[key].years_cool_dry.middle for key in KEYS}
    rank = (
        np.argsort(np.argsort([life[k] for k in KEYS])),
        np.argsort(np.argsort([book[k] for k in KEYS])),
    )
    assert np.corrcoef(*rank)[0, 1] > 0.5  # the constants and the shelf-life tables broadly agree


def test_walls_are_ordered_as_their_materials_are():
    def tau(kind):
        span = REF.storage[kind].moisture_exchange_time_constant_days
        return float(np.sqrt(span.low * span.high))

    order = [
        "paper_envelope", "cardboard_box", "zip_bag", "plastic_tub_snap", "plastic_tub_gasket_clip",
        "glass_jar_gasket", "foil_pouch_sealed",
    ]  # fmt: skip
    assert [tau(k) for k in order] == sorted(tau(k) for k in order)


def test_places_are_ordered_as_one_would_walk_through_a_house():
    mean = {k: p.mean_c for k, p in REF.places.items()}
    assert mean["freezer_deep"] < mean["fridge"] < mean["cellar"] < mean["heated_room"]
    swing = {k: p.swing_sd_c for k, p in REF.places.items()}
    assert swing["cellar"] < swing["attic"] < swing["greenhouse"]
    assert all("guess" in p.source for p in REF.places.values())


def test_low_acid_jars_all_carry_a_caution_and_no_times():
    for product in REF.products.values():
        if product.method == "pressure_can":
            assert "authority" in product.safety_note, product.product
            assert "minutes" not in product.safety_note.lower(), product.product
    assert all(p.fresh_kg_per_unit_as_harvested.low > 0 for p in REF.products.values())


def test_ranges_know_their_middle_and_may_be_negative():
    assert Range(-8, -2).middle == -5
    assert REF.crops["wheat"].sow_outdoors_weeks_rel_last_frost == Range(-8, -2)
    assert load_reference() is REF  # read once


@pytest.mark.parametrize("key", ["pea", "onion", "lettuce", "tomato", "wheat"])
def test_every_row_says_where_it_is_from(key):
    assert REF.viability[key].constants_source
    assert 0 < REF.viability[key].confidence <= 1
    assert REF.crops[key].agreement
