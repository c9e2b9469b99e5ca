"""What is done at the bench: start a test, count it, close it or give it up."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

import numpy as np

from ...core.base.errors import Conflict, InvalidValue
from ...core.seed.pieces import SEED
from ...core.trials.when_to_test import tally_of
from ...data.acts import ActRef
from ...data.queries import key
from ...data.tables import ForecastNote, Lot, StockEntry, Trial, TrialCount
from ..acts.acting import Doing, Done, act
from ..acts.early_tests import next_trial_code
from ..forecast.counts import all_tests
from ..forecast.current import bring_up_to_date
from ..forecast.outlook import outlook
from ..forecast.rebuild import model_rev
from ..household.kinds import figures
from ..household.larder import Larder
from ..household.lot_quantity import check_in_hand
from ..household.possible_values import get_live, moment_on
from ..household.wording import day_words, many, prose

MEDIA = ("paper", "rolled", "top", "sand", "compost")


@dataclass(frozen=True)
class TrialMade:
    """The test that was started."""

    trial_id: int
    code: str


def start_trial(
    larder: Larder,
    ref: ActRef,
    lot_id: int,
    n: int,
    medium: str = "paper",
    temperature_c: float = 20.0,
    sown_s: int | None = None,
    on: str = "",
    cold_days: float = 0.0,
    decides: str = "",
) -> TrialMade:
    """Start a test (``on`` a day): takes the seeds from the lot and notes the forecast made before it.

    Raises InvalidValue for a future test, an impossible number or more seeds than there are.
    """
    bring_up_to_date(larder, [lot_id])
    return start_one(larder, ref, lot_id, n, medium, temperature_c, sown_s, on, cold_days, decides)


@act("start_test")
def start_one(
    a: Doing,
    lot_id: int,
    n: int,
    medium: str = "paper",
    temperature_c: float = 20.0,
    sown_s: int | None = None,
    on: str = "",
    cold_days: float = 0.0,
    decides: str = "",
) -> TrialMade:
    """As start_trial, for a lot whose forecast is up to date."""
    if medium not in MEDIA:
        raise InvalidValue("medium", medium, ", ".join(MEDIA))
    if not 1 <= n <= 400:
        raise InvalidValue("seeds", n, "1 to 400")
    if not 0 <= temperature_c <= 45:
        raise InvalidValue("temperature", prose(f"{temperature_c:g} °C"), prose("0 to 45 °C"))
    if not 0 <= cold_days <= 120:
        raise InvalidValue("cold days", cold_days, "0 to 120")
    lot = get_live(a.session, Lot, lot_id, "lot")
    if lot.form != SEED:
        raise InvalidValue(
            "packet", lot.code, "seed: what is set as tubers or plants is not tested"
        )
    when = moment_on(on, sown_s, a.home, a.now_s)
    check_in_hand(a.session, lot_id, n, "seeds", n)
    trial = Trial(
        code=next_trial_code(a.session),
        lot_id=lot_id,
        sown_s=when,
        n=n,
        medium=medium,
        temperature_c=temperature_c,
        cold_days=cold_days,
        decides=decides,
    )
    a.session.add(trial)
    a.session.flush()
    air, kinds = a.air(), a.kinds
    look = outlook(a.session, air, kinds, [lot_id])
    q = look.quantiles_at(0, np.array([float(when)]), (0.1, 0.5, 0.9))[0]
    a.session.add_all(
        [
            StockEntry(
                lot_id=lot_id, at_s=when, kind="tested", seeds_mean=n, ref=f"trial:{trial.id}"
            ),
            ForecastNote(
                lot_id=lot_id,
                trial_id=trial.id,
                made_s=a.now_s,
                quantiles=json.dumps([round(float(v), 4) for v in q]),
                model_rev=model_rev(),
            ),
        ]
    )
    a.about(f"lot:{lot_id}", f"trial:{trial.id}")
    a.summary = f"Started test {trial.code} of {lot.code} with {many(n, 'seed')}"
    return TrialMade(key(trial), trial.code)


@dataclass(frozen=True)
class CountEntry:
    """A cumulative count: seeds in each state so far; what is not named is still waiting. ``seeds``: each as
    it lies, a letter for each, from which the numbers are taken."""

    normal: int = 0
    abnormal: int = 0
    mouldy: int = 0
    hard: int = 0
    fresh: int = 0
    empty: int = 0
    gone: int = 0
    seeds: str = ""

    def numbers(self, n: int) -> dict[str, int]:
        """Seeds in each state. Raises InvalidValue for letters that are none or too few."""
        if self.seeds:
            return asdict(tally_of(self.seeds, n))
        return {name: value for name, value in vars(self).items() if name != "seeds"}


@act("count_test")
def count_trial(
    a: Doing,
    trial_id: int,
    count: CountEntry,
    close: bool = False,
    at_s: int | None = None,
    flaws: str = "",
    on: str = "",
) -> Done:
    """Enter a count (cumulative since sowing) made ``on`` a day, and close the test if asked.

    Raises InvalidValue for negatives, more than were sown, fewer up than before, or a count
    before the sowing; Conflict when the test is closed.
    """
    trial = get_live(a.session, Trial, trial_id, "test")
    if trial.closed_s is not None:
        raise Conflict(f"Test {trial.code} was closed on {day_words(trial.closed_s)}")
    when = moment_on(on, at_s, a.home, a.now_s)
    if when < trial.sown_s:
        raise InvalidValue(
            "counted on", day_words(when), f"after sowing, {day_words(trial.sown_s)}"
        )
    values = count.numbers(trial.n)
    for name, value in values.items():
        if value < 0:
            raise InvalidValue(name, value, "zero or more")
    if sum(values.values()) > trial.n:
        raise InvalidValue("seeds counted", sum(values.values()), f"at most the {trial.n} sown")
    before = [t for t in all_tests(a.session, [trial.lot_id], a.now_s) if t.trial.id == trial_id]
    last = before[0].count if before else None
    up = values["normal"]
    if last is not None and up < last.normal and when >= last.at_s:
        raise InvalidValue("up", up, f"at least the {last.normal} counted before (counts add up)")
    a.session.add(TrialCount(trial_id=trial_id, at_s=when, seeds=count.seeds, **values))
    if flaws:
        trial.flaws, trial.weight = flaws, figures().belief.flawed_test_weight
    if close:
        trial.closed_s = when
    lot = get_live(a.session, Lot, trial.lot_id, "lot")
    a.about(f"lot:{trial.lot_id}", f"trial:{trial_id}")
    a.summary = f"Counted {trial.code} of {lot.code}: {up} of {trial.n} up" + (
        ", closed" if close else ""
    )
    return Done()


@act("drop_test")
def drop_trial(a: Doing, trial_id: int, why: str) -> Done:
    """Close a test that came to nothing (dried out, lost); it counts for nothing, its reason kept."""
    trial = get_live(a.session, Trial, trial_id, "test")
    when = max(a.now_s, trial.sown_s)  # the clock may have been set back since it was sown
    trial.closed_s, trial.weight, trial.flaws = when, 0.0, why.strip() or "given up"
    a.session.add(TrialCount(trial_id=trial_id, at_s=when))
    a.about(f"lot:{trial.lot_id}", f"trial:{trial_id}")
    a.summary = f"Gave up test {trial.code}: {trial.flaws}"
    return Done()
