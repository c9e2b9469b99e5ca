"""The household's own units and names of crops, wherever the larder speaks."""

from datetime import UTC, datetime

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import ask_before, ledger
from brisk_larder.services.forecast import lines
from brisk_larder.services.household.kinds import load_kinds
from brisk_larder.services.household.larder import at_home, household, writing_here
from brisk_larder.services.household.naming import guess_kind
from brisk_larder.services.papers import settings_page
from brisk_larder.services.saving.saving_page import saving_room
from brisk_larder.services.stock import labels, lot_page
from brisk_larder.services.storage import drying, sachets
from brisk_larder.services.trials import evening_steps, trial_acts

THERE = {
    "temperature_unit": "F", "mass_unit": "oz", "volume_unit": "qt", "length_unit": "ft",
    "locale": "en-US", "crop_names": "us",
}  # fmt: skip


@pytest.fixture
def there(small):
    settings_page.change_household(small.larder, ActRef(), THERE)
    at_home(small.larder)
    return small


def test_refusals_advice_and_summaries_follow(there):
    larder, kale = there.larder, there.lots["kale"]
    with pytest.raises(InvalidValue, match="32 to 113 °F"):
        trial_acts.start_trial(larder, ActRef(), kale, 10, temperature_c=60)
    with pytest.raises(InvalidValue, match="oz"):
        ledger.book_quantity(larder, ActRef(), kale, "counted", "three bushels")
    with pytest.raises(InvalidValue, match="oz to 110 lb"):
        sachets.add_desiccant(larder, ActRef(), there.nodes["tin"], "silica_gel", 90_000)
    assert "°F" in evening_steps.setup(larder, kale, 10, None).temperature
    assert "quart" in drying.can_plan(12.0, None).says
    assert "lb" in drying.can_plan(12.0, None).says
    assert all("mm" not in s.words for s in labels.sheets())


def test_what_lies_in_the_books_is_turned_and_what_somebody_wrote_is_not(there):
    larder, kale = there.larder, there.lots["kale"]
    lines = saving_room(larder)
    assert lines
    assert all("oz" in s.seed_per_plant or "lb" in s.seed_per_plant for s in lines)
    ledger.book_quantity(larder, ActRef(), kale, "counted", "3 g")
    page = lot_page.lot_page(larder, kale)
    assert page.balance.lines[0].as_said == "3 g"
    assert ask_before.former_use("5 kg of bait")


def test_a_crop_is_shown_by_the_name_of_its_side_of_the_ocean_and_known_by_both(small):
    def names():
        with small.larder.store.read() as session:
            kinds = load_kinds(session)
            return kinds.get("swede").name, {guess_kind(w, kinds) for w in ("swede", "rutabaga")}

    assert names() == ("swede", {"swede"})
    settings_page.change_household(small.larder, ActRef(), {"crop_names": "us"})
    assert names() == ("rutabaga", {"swede"})


def test_units_are_those_of_the_household_and_change_with_it(small):
    at_home(small.larder)
    assert writing_here().temperature(20) == "20.0 °C"
    settings_page.change_household(small.larder, ActRef(), THERE)
    at_home(small.larder)
    assert writing_here().temperature(20) == "68 °F"
    assert writing_here().mass(500) == "1.1 lb"
    for wrong in (
        {"volume_unit": "gallon"},
        {"first_weekday": 9},
        {"crop_names": "fr"},
        {"frost_free": 2},
        {"sow_months": "3,13"},
        {"sow_months": "May"},
    ):
        with pytest.raises(InvalidValue):
            settings_page.change_household(small.larder, ActRef(), wrong)


def test_where_there_is_no_frost_none_is_kept(small):
    settings_page.settle(small.larder, ActRef(), "frost_free")
    with small.larder.store.read() as session:
        home = household(session)
        assert (home.frost_free, home.last_frost_day, home.first_frost_day) == (1, None, None)
    # sown in the rains, in every room: the packet's next sowing follows them
    settings_page.change_household(small.larder, ActRef(), {"sow_months": "7, 6,6"})
    at = {x.glance.next_sowing_s for x in lines.lot_lines(small.larder)}
    assert at == {datetime(2027, 6, 1, tzinfo=UTC).timestamp() - 3600}  # summer time
    with small.larder.store.read() as session:
        assert household(session).sow_months == "6,7"
    settings_page.settle(small.larder, ActRef(), "inland")
    with small.larder.store.read() as session:
        assert household(session).frost_free == 0
