"""Own harvests against the book, by sums over a grid; plants that are enough, by drawing years."""

import numpy as np
import pytest
from scipy.stats import norm

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import Z80
from brisk_larder.core.needs.harvests import Season, yield_of_a_plant
from brisk_larder.core.needs.seed_needed import Amount, FoodTarget, chain, enough_plants
from brisk_larder.reference import load_reference

F = load_reference().figures.harvest
BOOK = Amount(1.0, 2.0, 4.0, "kg", "book")


def by_grid(book, yields):
    """Median and 80 % range of a next season: the garden's level on a grid, seasons around it."""
    sd = np.log(book.high / book.low) / (2 * Z80)
    level_sd = np.sqrt(sd**2 - F.season_log_sd**2)
    level = np.linspace(np.log(book.mid) - 6 * sd, np.log(book.mid) + 6 * sd, 4001)
    density = norm.pdf(level, np.log(book.mid), level_sd)
    for y in yields:
        density *= norm.pdf(np.log(y), level, F.season_log_sd)
    density /= density.sum()
    ahead = np.linspace(np.log(book.mid) - 9 * sd, np.log(book.mid) + 9 * sd, 6001)
    cdf = (density[None, :] * norm.cdf(ahead[:, None], level[None, :], F.season_log_sd)).sum(axis=1)
    return [float(np.exp(np.interp(q, cdf, ahead))) for q in (0.1, 0.5, 0.9)]


@pytest.mark.parametrize("yields", [[1.0], [0.8, 1.1, 0.9], [5.0] * 8])
def test_own_seasons_move_the_book_as_sums_over_a_grid_say(yields):
    own = [Season(2020 + i, 10, 10 * y) for i, y in enumerate(yields)]
    found = yield_of_a_plant(BOOK, own, F)
    assert [found.low, found.mid, found.high] == pytest.approx(by_grid(BOOK, yields), rel=0.01)
    assert str(len(yields)) in found.note


def test_no_season_is_the_book_one_odd_year_does_not_overturn_it_and_a_year_is_one_season():
    assert yield_of_a_plant(BOOK, [], F) is BOOK
    assert yield_of_a_plant(None, [], F) is None
    odd = yield_of_a_plant(BOOK, [Season(2026, 10, 2.0)], F)
    assert 0.2 < odd.mid < 2.0
    in_two = [Season(2026, 4, 6.0), Season(2026, 6, 2.0)]
    assert yield_of_a_plant(BOOK, in_two, F) == yield_of_a_plant(BOOK, [Season(2026, 10, 8.0)], F)
    alone = yield_of_a_plant(None, [Season(2026, 10, 8.0)], F)
    assert alone.mid == pytest.approx(0.8)
    assert alone.high > 1.7 * alone.mid
    assert alone.origin == "own"


def test_whose_number_it_is_follows_the_weight_and_a_book_without_a_range_is_not_moved():
    few, many = ([Season(2000 + i, 10, 20.0) for i in range(n)] for n in (1, 12))
    narrow = Amount(1.5, 2.0, 2.7, "kg", "book")
    assert yield_of_a_plant(narrow, few, F).origin == "book"
    assert yield_of_a_plant(narrow, many, F).origin == "own"
    sure = yield_of_a_plant(Amount.exact(2.0, "kg", "book"), [Season(2026, 10, 90.0)], F)
    assert sure.mid == pytest.approx(2.0, rel=0.01)


def test_so_many_plants_are_enough_in_so_many_years():
    rng = np.random.default_rng(1)
    wanted, plant = 40.0, Amount(0.5, 1.0, 2.0, "kg", "book")
    yields = np.exp(rng.normal(0, np.log(2) / Z80, 200_000))
    exact = Amount.exact(1.0, "kg", "book")
    for sure in (0.5, 0.8, 0.9):
        target = FoodTarget(1.0, wanted, "kg", sure=sure)
        made = chain(target, exact, plant, 0.0, None, 0.0)
        kept = (made.planned * yields >= wanted).mean()
        fewer = ((made.planned - 1) * yields >= wanted).mean()
        assert fewer <= sure + 0.003 <= kept + 0.012
    assert enough_plants(Amount.exact(12.0, "plants", "set"), 0.9) == 12
    with pytest.raises(InvalidValue):
        enough_plants(plant, 1.0)


def test_guests_gifts_and_a_second_year():
    exact = Amount.exact(1.0, "kg", "book")

    def put_up(pantry, **more):
        target = FoodTarget(1.0, 50, "jars", **more)
        return chain(target, exact, exact, pantry, None, 0.0)

    assert put_up(0, guests_share=0.1, gifts=5, reserve_share=0.2).wanted.mid == pytest.approx(72)
    assert put_up(10, every_years=2).to_put_up.mid == 90
    # the shelf holds this year: nothing is put up, and the note says why
    rests = put_up(50, every_years=2).to_put_up
    assert rests.mid == 0
    assert "holds a year" in rests.note
    assert put_up(50, every_years=1).to_put_up.mid == 0
    assert put_up(49).to_put_up.mid == 1
