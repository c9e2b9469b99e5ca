"""Plans at Pellwick Mill: money for seed, a merchant's list, wishes, what flowers next door; the pantry."""

from __future__ import annotations

from datetime import date
from functools import partial
from typing import TYPE_CHECKING

from ..core.base.units import DAY_S, local_day
from ..data.acts import ActRef
from ..services.growing import settling
from ..services.household.kinds import reference
from ..services.needs import buying, chain_acts, chains, kitchen, targets
from ..services.papers import settings_page
from ..services.today import nights_ahead
from ..standins.merchant import merchant_json
from ..standins.weather import forecast_json
from .mill import last_summer

if TYPE_CHECKING:
    from .mill import Pellwick


# product, jars or litres put up this August, opened every so many days since
PUT_UP = (
    ("tomato sauce, thin", 52, 6), ("sauerkraut", 16, 15), ("pickled beets", 10, 40),
    ("green beans (pole), pressure canned", 20, 8),
)  # fmt: skip


def plan_pantry(mill: Pellwick) -> None:
    """What was put up in the last summer, and opened since."""
    for product, jars, every_days in PUT_UP:

        def book(kind: str, units: float, product: str = product) -> None:
            # not mill.ref(): it draws, and all that is drawn after it would be another household's
            ref = ActRef(person_id=mill.people[0])
            chain_acts.book_pantry(mill.larder, ref, product, kind, units)

        begin = last_summer(mill.end_s, 8, 25)
        mill.at(begin, partial(book, "put_up", float(jars)))
        days = every_days
        for _ in range(jars):  # what is used up is not opened again
            mill.at(begin + days * DAY_S, partial(book, "opened", 1.0))
            days += every_days


def plan_ahead(mill: Pellwick) -> None:
    """All of it, on the last day."""
    larder = mill.larder

    def who() -> ActRef:
        return ActRef(person_id=mill.people[0])

    settling.set_limits(
        larder, who(), 14.0, 6, [("cucurbita_maxima", 90.0), ("beta_vulgaris", 900.0)]
    )
    crops = reference().crops
    kinds = {k: (c.seeds_per_g, c.typical_initial_germination_pct / 100) for k, c in crops.items()}
    text = merchant_json("Rushbank Seeds", kinds, local_day(mill.end_s, "UTC"), 3)
    buying.bring_list(larder, who(), text.encode())
    for said in (
        buying.OfferSaid(
            "Fellside seed barn", "parsnip", 400, 2.4, "Old Weir", 0.72, postage=2.0, lead_days=6
        ),
        buying.OfferSaid("Fellside seed barn", "onion", 500, 2.9, "Copper Kettle", 0.88),
        buying.OfferSaid("Fellside seed barn", "pea", 250, 3.1, "Millrace", 0.9),
        buying.OfferSaid("Fellside seed barn", "seed potatoes", 40, 7.5, "Undershot Kidney"),
        buying.OfferSaid("Fellside seed barn", "garlic", 60, 6.0, "Gritstone"),
    ):
        buying.say_offer(larder, who(), said)
    buying.wish(larder, who(), "lavender", plants=6, priority=4, place="under the south wall")
    buying.wish(larder, who(), "tomato", "Little Ember", plants=8, priority=2)
    buying.set_budget(larder, who(), 90.0)
    plan_table(mill)


# year, plants and kilos: what their own rows gave
GAVE = (
    ("tomato", -3, 30, 52.0), ("tomato", -2, 34, 81.0), ("tomato", -1, 28, 40.0),
    ("onion", -2, 300, 24.0), ("onion", -1, 340, 33.0),
)  # fmt: skip


def plan_table(mill: Pellwick) -> None:
    """What they have room for, their jars, harvests they noted, potatoes and garlic, and last year's list."""
    larder = mill.larder

    def ref() -> ActRef:
        return ActRef(person_id=mill.people[0])

    settings_page.change_household(
        larder,
        ref(),
        {"food_bed_m2": 210.0, "cells": 3200, "evenings": 60, "people": 4},
    )
    kitchen.set_jars(larder, ref(), 1.0, 190, 100)
    year = chains.target_year(larder)
    for crop, ago, plants, kg in GAVE:
        kitchen.note_harvest(larder, ref(), crop, year + ago, plants, kg)
    for product, per_week, weeks in (("potato", 2.5, 36), ("garlic", 0.08, 48)):
        targets.set_target(
            larder, ref(), product=product, crop=product, per_week=per_week, weeks=weeks,
            name=f"{product.capitalize()}{'es' if product == 'potato' else ''}",
        )  # fmt: skip
    for product, name, per_week, weeks in (
        ("frozen spinach", "Spinach", 0.3, 20), ("frozen summer squash", "Courgettes", 0.25, 16),
    ):  # fmt: skip
        targets.set_target(
            larder, ref(), product=product, per_week=per_week, weeks=weeks, name=name, year=year - 1
        )
    nights = forecast_json(
        local_day(mill.end_s, "UTC"), date(local_day(mill.end_s, "UTC").year, 5, 15), 4
    )
    nights_ahead.bring_forecast(larder, ref(), nights.encode())
