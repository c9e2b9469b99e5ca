"""What the random household sets by small forms: jobs, days, jars, spots, links, harvests, wishes, years."""

from brisk_larder.core.lines.regrow_plan import PURITY
from brisk_larder.core.needs.pantry import GONE
from brisk_larder.services.acts import ledger
from brisk_larder.services.growing import own_days, settling
from brisk_larder.services.needs import buying, chain_acts, kitchen, targets
from brisk_larder.services.needs.chain_lines import LINKS
from brisk_larder.services.stock import filing_page, triage_page
from brisk_larder.services.storage import containers
from brisk_larder.services.today import own_jobs
from brisk_larder.services.today.own_jobs import JobSaid
from brisk_larder.services.trials import past, spots
from brisk_larder.services.trials.spots import SpotSaid

FOODS = ("kale, frozen", "sauerkraut")
CROPS = ("kale", "onion", "carrot", "pea")


def forms(h) -> list:
    """(how often, what is done) of each act of a form, as ``random_household`` lists its own."""
    d, do, one, ids = h.dice, h.do, h.one, h.ids
    crop, year = d.choice(CROPS), 2026 + d.randrange(4)

    def job():
        return JobSaid(d.choice(("turn the jars", "order lids")), every_weeks=d.choice((0, 4)))

    def line():
        return one(ids("variety"))

    own = "deleted_s IS NULL AND kind = 'own'"
    shares = [targets.GivenUp(f"food:{one(ids('food_target'))}", d.choice((0.25, 1.0)))]
    places = d.sample(there := ids("node"), len(there))
    warm = [SpotSaid(n, d.uniform(8, 30)) for n in d.sample(("sill", "stove", "attic"), 2)]
    return [
        (1, lambda: do(own_jobs.add_own_job, job())),
        (1, lambda: do(own_jobs.change_own_job, one(ids("job", own)), job())),
        (1, lambda: do(own_days.set_days, crop, "outdoors", f"04-{d.randrange(10, 29)}", "05-20")),
        (1, lambda: do(own_days.back_to_the_book, crop, "outdoors")),
        (1, lambda: do(chain_acts.book_pantry, d.choice(FOODS), d.choice(("counted", "put_up", *GONE)),
                       float(d.randrange(9)))),
        (1, lambda: do(chain_acts.override_link, one(ids("food_target")), d.choice(LINKS),
                       h.maybe(d.uniform(0.1, 9), 0.7))),
        (1, lambda: do(chain_acts.remove_pick, one(ids("pick")))),
        (1, lambda: do(targets.give_up, shares)),
        (1, lambda: do(buying.set_budget, h.maybe(float(d.randrange(99))))),
        (1, lambda: do(buying.wish, crop, d.choice(("", "Slate Curl")), d.randrange(1, 60))),
        (1, lambda: do(buying.drop_wish, one(ids("wanted_seed")))),
        (1, lambda: do(kitchen.set_jars, d.choice((0.5, 1.0)), d.randrange(40), d.randrange(40))),
        (1, lambda: do(kitchen.note_harvest, crop, year - 4, d.randrange(1, 40), d.uniform(0.1, 30))),
        (1, lambda: do(kitchen.drop_harvest, one(ids("harvest")))),
        (1, lambda: do(spots.set_spots, warm)),
        (1, lambda: do(containers.set_walk_order, places)),
        (1, lambda: do(ledger.weigh_seeds, h.lot(), d.choice((50, 100)), d.uniform(0.1, 1))),
        (1, lambda: do(past.past_test, h.lot(), up := d.randrange(11), max(up, 10))),
        (1, lambda: do(settling.set_purity, line(), d.choice(PURITY))),
        (1, lambda: do(settling.bar_year, line(), year)),
        (1, lambda: do(settling.free_year, line(), year)),
        (1, lambda: do(settling.set_limits, h.maybe(d.uniform(1, 30)), h.maybe(d.randrange(1, 9)),
                       [("daucus_carota", d.uniform(5, 900))], h.maybe(d.randrange(1, 90)))),
        (1, lambda: do(triage_page.choose_school, d.choice(list(triage_page.SCHOOLS)))),
        (1, lambda: do(filing_page.save_view, d.choice(("mine", "yours")), "kind", "kale")),
        (1, lambda: do(filing_page.drop_view, one(ids("saved_view")))),
    ]  # fmt: skip
