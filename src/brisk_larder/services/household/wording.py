"""Reasons in plain words and the household's units. The only place where core's codes get prose."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from ...core.base.reasons import Figure, Reason
from ...core.base.units import YEAR_DAYS, local_day
from ...core.storage import places
from ...data.tables import Household
from .kinds import figures
from .larder import writing_here, writing_of, zone_here


def dryness(erh: float) -> str:
    """The word for an eRH at room temperature."""
    return places.dryness(erh, figures().moisture)


def temperature(value_c: float, home: Household) -> str:
    """A temperature in the household's unit."""
    return writing_of(home).temperature(value_c)


def temperature_here(value_c: float) -> str:
    """A warmth in whole degrees, in the unit of the household that was read last."""
    return writing_here().temperature(value_c, digits=0)


def prose(text: str) -> str:
    """A sentence of our own, its measures in the units of the household that was read last."""
    return writing_here().prose(text)


def many(n: float, one: str) -> str:
    """So many of something: 1 lot, 2 lots."""
    return f"{n:.0f} {one}" + ("" if round(n) == 1 else "s")


def all_of(names: Sequence[str]) -> str:
    """Names in a row: a, b and c."""
    return " and ".join(x for x in (", ".join(names[:-1]), names[-1]) if x)


def percent(share: float) -> str:
    """A share as a whole per cent."""
    return f"{100 * share:.0f} %"


def surely(share: float) -> str:
    """A high chance without false precision: never a whole hundred."""
    return "over 99 %" if share > 0.99 else percent(share)


def day_words(at_s: float, today: date | None = None) -> str:
    """A date as people say it, by the household's clock; the year only when it is not this one."""
    day = local_day(at_s, zone_here())
    return date_words(day, year=today is None or day.year != today.year)


def date_words(day: date, year: bool = False) -> str:
    """A day in the order of the household that was read last, with its ``year`` where that is asked."""
    return writing_here().day(day, year)


def out_of_ten(share: float) -> str:
    """A share in plain words: about 8 in 10."""
    return f"about {round(10 * share)} in 10"


def often(chance: float) -> str:
    """A confidence in plain words: nine years in ten."""
    words = {
        0.5: "one year in two",
        0.8: "four years in five",
        0.9: "nine years in ten",
        0.95: "nineteen years in twenty",
    }
    return words.get(round(chance, 2), f"{100 * chance:.0f} years in a hundred")


def _n(figures: dict[str, Figure], key: str) -> float:
    value = figures.get(key)
    return float(value) if value is not None else 0.0


def sentence(reason: Reason, home: Household) -> str:
    """One reason as one or two sentences with its figures put in."""
    # long: a table, one sentence a code
    f = dict(reason.figures)
    level = percent(home.sow_level)
    match reason.code:
        case "test_undecided":
            return _undecided(f, level)
        case "test_routine":
            years = _n(f, "days_to_fall") / YEAR_DAYS
            return (
                f"Last known {day_words(_n(f, 'known_s'))}; a third of the {years:.1f} years in which this "
                f"packet loses a seventh of what it had is over {day_words(_n(f, 'routine_s'))}, and it is "
                f"to be sown {day_words(_n(f, 'next_use_s'))}."
            )
        case "test_certainly_good":
            chance = 1 - _n(f, "chance_below")
            return (
                f"No test needed: {surely(chance)} sure to stand above {level} at its next sowing."
            )
        case "test_certainly_poor":
            chance = _n(f, "chance_below")
            return (
                f"No test needed: {surely(chance)} sure to have fallen below {level}. "
                "Sow thickly or replace."
            )
        case "test_not_worth":
            return (
                f"No test needed: a {percent(_n(f, 'chance_below'))} chance of being below {level}, but "
                "what a test could change is worth less than its seeds and its evening."
            )
        case "test_too_few_seeds":
            return "Too few seeds to spend on a test: sow them all and count what comes up."
        case "test_still_holds":
            years = _n(f, "days_to_fall") / YEAR_DAYS
            return (
                f"No test yet: what is known of it holds until {day_words(_n(f, 'routine_s'))}, a third of "
                f"the {years:.1f} years in which this packet loses a seventh of what it had."
            )
        case "test_too_late":
            return "Too late for a test before its sowing ends: sow it all the same, and count what comes up."
        case "test_known_enough":
            return (
                "Tested within the year with enough seeds: for this sowing it is known well enough."
            )
        case "test_unused":
            return "No food, pick or line asks for it this year, so a test would decide nothing."
        case _:
            return _short_sentence(reason)


def _undecided(f: dict[str, Figure], level: str) -> str:
    """Why a test can decide something."""
    lead, chance = _n(f, "lead_days"), _n(f, "chance_below")
    when = day_words(_n(f, "next_use_s"))
    sown = f"By its next sowing, {when}," if _n(f, "use_days") >= 1 else "Its sowing is open, and"
    doubt = f"it may have fallen below {level} (a chance of {percent(chance)})"
    if chance > SURE:
        doubt = f"it has surely fallen below {level}, and by how much is not known"
    elif chance < 1 - SURE:
        doubt = f"it stands above {level}, and by how much is not known"
    time = "you know how thickly to sow it"
    if _n(f, "order_days") > lead:
        time = f"there is still time to order ({lead:.0f} days) or to sow more thickly"
    return f"{sown} {doubt}, and that decides what you do. Tested in time, {time}."


SURE = 0.985  # nearer to certain than is told in per cent


def _short_sentence(reason: Reason) -> str:
    """Why something is short."""
    f = dict(reason.figures)
    none_promised = round(_n(f, "plants_promised")) == 0
    match reason.code:
        case "short_no_seed":
            return "No packet in hand can be counted on for this."
        case "short_too_few":
            return (
                f"What is in hand promises {_n(f, 'plants_promised'):.0f} of "
                f"{_n(f, 'plants_wanted'):.0f} plants, {often(_n(f, 'confidence'))}."
            )
        case "short_amount_unsure" if none_promised:
            return (
                f"If as much is there as is thought it would do ({_n(f, 'plants_expected'):.0f} plants "
                "expected), but so little is known of the amount that none can be promised: count it first."
            )
        case "short_uncounted":
            return "A packet of this kind was never counted: count it, and it is known what can be promised."
        case "short_amount_unsure":
            return (
                f"If as much is there as is thought it would do ({_n(f, 'plants_expected'):.0f} plants "
                f"expected), but no more than {_n(f, 'plants_promised'):.0f} can be promised: count it first."
            )
        case "short_too_unsure" if none_promised:
            return (
                f"There may be enough ({_n(f, 'plants_expected'):.0f} plants expected), but it is so "
                "doubtful that none of them can be promised: a test first would tell."
            )
        case "short_too_unsure":
            return (
                f"There may be enough ({_n(f, 'plants_expected'):.0f} plants expected), but nobody can "
                f"promise more than {_n(f, 'plants_promised'):.0f}: a test first would tell."
            )
        case _:
            return reason.code.replace("_", " ")
