"""Stock: bringing seed in, what a packet's year means, quantity as a ledger, the lot's page, words."""

from datetime import UTC, date, datetime

import pytest

from brisk_larder.core.base.errors import InvalidValue, NotFound
from brisk_larder.core.base.reasons import Reason
from brisk_larder.core.base.units import day_start_s
from brisk_larder.core.hand.origins import read_origin
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Household
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.ages import record_of
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.household import home
from brisk_larder.services.household.kinds import load_kinds
from brisk_larder.services.household.larder import household_year, year_to_name
from brisk_larder.services.household.lot_quantity import seeds_left
from brisk_larder.services.household.naming import guess_kind
from brisk_larder.services.household.wording import (
    day_words,
    often,
    out_of_ten,
    percent,
    sentence,
    temperature,
)
from brisk_larder.services.needs import targets
from brisk_larder.services.papers import settings_page
from brisk_larder.services.saving import saving_page as saving_lines
from brisk_larder.services.stock import lot_page
from brisk_larder.services.storage import containers
from brisk_larder.services.trials import evening_steps
from tests.conftest import DAY, NOW, packet


def add(larder, **values):
    return add_seeds(larder, ActRef(), [NewSeeds(**values)]).lot_ids[0]


def line_of(larder, lot):
    return next(x for x in forecast_lines.lot_lines(larder) if x.lot_id == lot)


@pytest.mark.parametrize(
    ("word", "key"),
    [
        ("peas", "pea"), ("Tomatoes", "tomato"), ("french bean", "bean_bush"), ("courgette", "squash_pepo"),
        ("Brussels sprouts", "brussels_sprout"), ("beet", "beet"), ("spring onion", "bunching_onion"),
        ("carrot ", "carrot"), ("cauliflwer", "cauliflower"), ("bean_pole", "bean_pole"),
        ("moonwort", None), ("", None), ("yellow thing", None),
    ],
)  # fmt: skip
def test_the_word_on_a_packet_finds_its_kind(larder, word, key):
    with larder.store.read() as session:
        assert guess_kind(word, load_kinds(session)) == key


def test_the_clock_starts_at_harvest_or_at_the_buying_season():
    north = Household(id=1, name="x", tz="UTC")
    south = Household(id=1, name="x", tz="UTC", hemisphere="south")

    def start(year, source, where):
        origin = None if year is None else read_origin(str(year), date(2026, 11, 24))[0]
        return datetime.fromtimestamp(record_of(origin, source, where, NOW).record_s, UTC).date()

    assert start(2024, "own", north) == date(2024, 10, 1)
    assert start(2024, "own", south) == date(2024, 4, 1)
    assert start(2024, "bought", north) == date(2024, 3, 1)
    assert start(2024, "gift", south) == date(2024, 9, 1)
    assert start(None, "bought", north) == date(2024, 11, 23)  # of four years at most the middle
    assert start(2026, "own", north) == date(2026, 10, 1)
    (month,) = read_origin("Sep 2024", date(2026, 11, 24))
    low, high, begin = record_of(month, "own", north, NOW)
    assert low == day_start_s(date(2024, 9, 1), "UTC")
    assert datetime.fromtimestamp(begin, UTC).date() == date(2024, 9, 15)
    assert high > begin


def test_older_seed_is_worse_and_unknown_age_is_wider(small):
    larder = small.larder
    old = add(larder, kind="leek", year=2019, node_id=small.nodes["tin"])
    new = add(larder, kind="leek", year=2026, node_id=small.nodes["tin"])
    unknown = add(larder, kind="leek", node_id=small.nodes["tin"])
    g = {
        name: line_of(larder, lot).glance.now
        for name, lot in (("o", old), ("n", new), ("u", unknown))
    }
    assert g["o"].mid < g["n"].mid
    assert g["u"].high - g["u"].low > g["n"].high - g["n"].low
    assert line_of(larder, unknown).origin == "year unknown"
    assert line_of(larder, new).origin == "bought 2026"


def test_a_stated_germination_is_believed_a_little(small):
    larder = small.larder
    low = add(larder, kind="radish", year=2026, stated_germination=0.6)
    none = add(larder, kind="radish", year=2026)
    assert line_of(larder, low).glance.now.mid < line_of(larder, none).glance.now.mid - 0.03
    assert any("60 % (packet)" in p for p in lot_page.lot_page(larder, low).packet)


def test_the_packet_beats_the_book_and_says_so(larder):
    lot = add(
        larder, kind="kale", variety="Slate Curl", year=2025, packet_sow_window="Mar to Jun",
        packet_days_to_sprout="6 to 9", person_from="the ford",
    )  # fmt: skip
    lines = lot_page.lot_page(larder, lot).packet
    assert "Sow Mar to Jun (packet)" in lines
    assert "Up in 6 to 9 days (packet)" in lines
    assert any(x.startswith("Ready in") and x.endswith("(book)") for x in lines)
    assert "From the ford" in lines


def test_quantity_is_the_last_count_plus_what_came_and_went(small):
    larder, lot = small.larder, small.lots["kale"]

    def book(kind, amount):
        larder.clock.at_s += 60
        ledger.book_quantity(larder, ActRef(), lot, kind, amount)
        with larder.store.read() as session:
            return seeds_left(session, [lot])[lot].mean

    assert book("given", "100") == 600
    assert book("found", "50") == 650
    assert book("counted", "400") == 400
    with pytest.raises(InvalidValue, match="meant for seed"):
        book("eaten", "1 g")
    lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(intended_use="food"))
    assert book("eaten", "1 g") == pytest.approx(400 - 295)
    assert book("lost", "5") == pytest.approx(100)
    with pytest.raises(InvalidValue, match="in hand"):
        book("given", "500")
    with pytest.raises(InvalidValue, match="kind"):
        book("sold", "5")


def test_an_uncounted_lot_says_so_and_covers_nothing(small):
    larder = small.larder
    lot = add(larder, kind="swede", year=2025)
    assert line_of(larder, lot).seeds is None
    targets.set_target(larder, ActRef(), product="swede, root cellar", per_week=0.2, weeks=10)
    from brisk_larder.services.acts import ledger
    from brisk_larder.services.needs import chains

    (line,) = chains.needs_room(larder).lines
    assert line.covered == []
    ledger.book_quantity(larder, ActRef(), lot, "counted", "300")
    (line,) = chains.needs_room(larder).lines
    assert [c.lot_id for c in line.covered] == [lot]


def test_a_used_up_lot_says_so(small):
    ledger.book_quantity(small.larder, ActRef(), small.lots["carrot"], "counted", "0")
    assert small.line("carrot").next_act == "used up"


def test_the_page_of_a_lot_gives_its_reasons_with_the_figures_put_in(small):
    larder = small.larder
    for days in (300, 200, 100, 5):
        small.read("tin", 13, 55, days)
    page = lot_page.lot_page(larder, small.lots["onion"])
    text = " ".join(w.text for w in page.why)
    assert "bought seed" in text
    assert "larder · tin" in text
    assert "read now and then" in text
    assert "measured ones" in text  # onion: grade A
    assert page.line.glance.now.says in text
    assert all(w.exact for w in page.why)
    assert page.species == "Allium cepa"
    assert any("toxic to cats" in c for c in page.cautions)
    assert page.history[0].summary.startswith("Added")


def test_what_would_change_it_is_the_same_forecast_with_another_place(small):
    larder = small.larder
    freezer = containers.add_node(
        larder, ActRef(), containers.NewNode("freezer", place_kind="freezer_deep")
    )
    lot = small.lots["onion"]
    page = lot_page.lot_page(larder, lot)
    offered = {e.name: e for e in page.elsewhere}
    best = offered["freezer"]
    assert best.at_sowing.mid > offered["porch"].at_sowing.mid
    lot_acts.move_lot(larder, ActRef(), lot, freezer.node_id)
    moved = small.line("onion").glance
    assert moved.at_sowing.mid == pytest.approx(best.at_sowing.mid, abs=0.01)
    if best.good_until_s and moved.good_until_s:
        assert moved.good_until_s == pytest.approx(best.good_until_s, rel=0.02)


def test_damp_seed_is_not_sent_to_the_freezer_without_a_word(small):
    larder = small.larder
    containers.add_node(larder, ActRef(), containers.NewNode("freezer", place_kind="freezer_deep"))
    for days in range(0, 200, 10):
        small.read("tin", 14, 75, days)
    page = lot_page.lot_page(larder, small.lots["onion"])
    freezer = next(e for e in page.elsewhere if e.name == "freezer")
    assert "dry it to 40 %" in freezer.caution


def test_cautions_stand_where_they_apply(larder):
    pepper = add(larder, kind="hot pepper", year=2025, source="own")
    dressed = add(larder, kind="pea", year=2025, treated=True)
    hybrid = add(larder, kind="tomato", year=2025, hybrid=True)
    squash = add(larder, kind="winter squash", year=2025, source="own")
    said = {
        lot: " ".join(lot_page.lot_page(larder, lot).cautions)
        for lot in (pepper, dressed, hybrid, squash)
    }
    assert "gloves" in said[pepper]
    assert "never for food" in said[dressed]
    assert "does not come true" in said[hybrid]
    assert "bitter" in said[squash]
    setup = evening_steps.setup(larder, pepper, 12, None)
    assert any("Wash your hands" in c for c in setup.cautions)
    assert "12 of 12 up would say: at least 78 %" in setup.can_tell


def test_a_lot_that_is_not_there_is_not_found(small):
    with pytest.raises(NotFound, match="number 999"):
        lot_page.lot_page(small.larder, 999)
    lot_acts.edit_lot(small.larder, ActRef(), small.lots["kale"], LotEdit(state="gone"))
    with pytest.raises(NotFound, match="was let go"):
        lot_page.lot_page(small.larder, small.lots["kale"])


def test_saving_says_what_the_book_asks_of_each_kept_line(small):
    larder = small.larder
    add_seeds(larder, ActRef(), [packet("cabbage", "Stone Sentry", kept_line=True)])
    room = {s.variety: s for s in saving_lines.saving_room(larder)}
    assert set(room) == {"Slate Curl", "Stone Sentry"}
    kale = room["Slate Curl"]
    assert (kale.mothers_least, kale.seasons) == (15, 2)
    assert kale.crosses_with == ["Stone Sentry cabbage"]
    assert kale.method.startswith("dry:")


@pytest.mark.parametrize(
    ("day", "month", "household", "planning"),
    [
        (date(2026, 11, 24), 10, 2026, 2026), (date(2027, 3, 1), 10, 2026, 2026),
        (date(2027, 7, 1), 10, 2026, 2027), (date(2026, 9, 30), 10, 2025, 2026),
        (date(2027, 2, 1), 4, 2026, 2027),
    ],
)  # fmt: skip
def test_the_household_year_and_the_year_planned_for(day, month, household, planning):
    house = Household(id=1, name="x", year_starts_month=month)
    assert household_year(day, house) == household
    assert year_to_name(day, house) == planning


def test_numbers_are_said_as_people_say_them():
    celsius, fahrenheit = Household(id=1, name="x"), Household(id=1, name="x", temperature_unit="F")
    assert temperature(-18.4, celsius) == "\u221218.4 °C"
    assert temperature(10, fahrenheit) == "50 °F"
    assert percent(0.825) == "82 %"
    assert out_of_ten(0.83) == "about 8 in 10"
    assert often(0.9) == "nine years in ten"
    assert often(0.7) == "70 years in a hundred"
    assert day_words(NOW) == "24 Nov 2026"
    assert day_words(NOW, date(2026, 1, 1)) == "24 Nov"


CODES = {
    "test_undecided": ({"chance_below": 0.4, "next_use_s": NOW, "lead_days": 21}, "40 %"),
    "test_routine": ({"routine_s": NOW, "days_to_fall": 1461}, "4.0 years"),
    "test_certainly_good": ({"chance_below": 0.03}, "97 %"),
    "test_certainly_poor": ({"chance_below": 0.98}, "98 %"),
    "test_not_worth": ({"chance_below": 0.12}, "12 %"),
    "test_still_holds": ({"routine_s": NOW, "days_to_fall": 1461}, "4.0 years"),
    "test_too_late": ({}, "Too late"),
    "test_known_enough": ({}, "well enough"),
    "test_too_few_seeds": ({}, "Too few"),
    "test_unused": ({}, "nothing"),
    "short_no_seed": ({}, "No packet"),
    "short_too_few": ({"plants_promised": 3, "plants_wanted": 9, "confidence": 0.9}, "3 of 9"),
    "short_too_unsure": ({"plants_expected": 12, "plants_promised": 3}, "12 plants expected"),
}


@pytest.mark.parametrize("code", CODES)
def test_every_reason_has_words_with_its_figures(code):
    figures, says = CODES[code]
    text = sentence(Reason(code, figures), Household(id=1, name="x"))
    assert says in text
    assert text.endswith(".")
    assert code not in text


def test_every_reason_code_of_the_core_has_words():
    import re
    from pathlib import Path

    import brisk_larder.core as core

    found = set()
    for path in Path(core.__file__).parent.rglob("*.py"):
        text = path.read_text()
        for stem in ("test", "short"):
            if f'f"{stem}_' not in text:
                continue
            if stem == "test":
                found |= {f"test_{c}" for c in re.findall(r'code = "(\w+)"', text)}
            else:
                found |= {f"short_{c}" for c in re.findall(r'"((?:no|too)_\w+)"', text)}
    assert found
    assert found <= set(CODES), found - set(CODES)


def test_settings_are_checked_and_move_the_forecast(small):
    larder = small.larder
    level = small.line("kale").glance.good_until_s
    settings_page.change_household(larder, ActRef(), {"sow_level": 0.5})
    raised = small.line("kale").glance
    assert raised.good_beyond or raised.good_until_s > level
    before = home.describe(larder).household
    for key, value, allowed in (
        ("confidence", 0.3, "at least 50 %"), ("unplaced_kind", "moon", "attic"), ("colour", "red", "one of"),
        ("sow_level", "abc", "between 5"), ("order_lead_days", 10**9, "0 to 365"),
        ("order_lead_days", 2.5, "a whole number"), ("year_starts_month", 13, "1 to 12"),
        ("last_frost_day", 999, "or left empty"), ("hemisphere", "east", "north or south"),
        ("name", " ", "1 to 80 signs"), ("page_size", "A9", "A4 or Letter"), ("tz", "Mars/North", "such as"),
        ("name", None, "signs"), ("outdoor_mean_c", True, "-25 to 35"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue) as refused:
            settings_page.change_household(larder, ActRef(), {"currency": "crowns", key: value})
        assert allowed in refused.value.allowed
    assert home.describe(larder).household == before, "nothing of it was kept"
    with pytest.raises(InvalidValue, match="where"):
        settings_page.settle(larder, ActRef(), "the moon")
    with pytest.raises(InvalidValue, match="name"):
        settings_page.add_person(larder, ActRef(), "  ")


def test_a_lot_put_in_its_place_later_is_taken_to_have_stood_there(small):
    larder = small.larder
    lot = add(larder, kind="kale", year=2024)
    lot_acts.move_lot(larder, ActRef(), lot, small.nodes["porch"], at_s=larder.now_s() - 10 * DAY)
    line = line_of(larder, lot)
    assert line.place == "porch"
    assert line.glance.a_probit > 0
