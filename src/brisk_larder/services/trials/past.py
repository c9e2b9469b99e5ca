"""What was found out before: a finished test in one form, and a germination somebody wrote down once."""

from __future__ import annotations

from ...core.base.errors import InvalidValue
from ...core.base.units import DAY_S
from ...core.hand.told_tests import Tested
from ...data.queries import key
from ...data.tables import Lot, StockEntry
from ..acts.acting import Doing, act
from ..acts.early_tests import closed_trial, note_told
from ..household.lot_quantity import seeds_left
from ..household.own_units import kind_of_lot, main_part
from ..household.possible_values import get_live, moment_on, share, whole
from .trial_acts import MEDIA, TrialMade


@act("past_test")
def past_test(
    a: Doing,
    lot_id: int,
    up: int,
    n: int,
    on: str = "",
    medium: str = "paper",
    temperature_c: float = 20.0,
    took_seeds: bool = True,
) -> TrialMade:
    """A test that is over: ``up`` of ``n`` by a day. ``took_seeds``: they came out of this packet.

    Raises InvalidValue for a day to come, or more up than were sown.
    """
    whole("seeds", n, 1, 400)
    whole("up", up, 0, n)
    if medium not in MEDIA:
        raise InvalidValue("medium", medium, ", ".join(MEDIA))
    lot = get_live(a.session, Lot, lot_id, "lot")
    when = moment_on(on, None, a.home, a.now_s)
    days = kind_of_lot(a.session, lot_id).crop.final_count_days
    sown = when - int(days * DAY_S)
    made = closed_trial(a.session, lot_id, sown, when, n, up, medium, temperature_c)
    if took_seeds and seeds_left(a.session, [lot_id])[lot_id].known:
        a.session.add(
            StockEntry(
                lot_id=lot_id,
                at_s=made.sown_s,
                kind="tested",
                seeds_mean=n,
                ref=f"trial:{made.id}",
            )
        )
    a.about(f"lot:{lot_id}", f"trial:{made.id}")
    a.summary = f"{lot.code}: {up} of {n} came up"
    return TrialMade(key(made), made.code)


@act("told_before")
def told_before(a: Doing, lot_id: int, germination: float, on: str = "") -> TrialMade:
    """A germination that stood on tape or in a book, of a test whose size nobody knows; without a day it
    is taken half way between its record's start and now, and counts less.

    Raises InvalidValue for a share outside 0 to 1 or a day to come.
    """
    share("germination", germination)
    lot = get_live(a.session, Lot, lot_id, "lot")
    when = moment_on(on, None, a.home, a.now_s) if on.strip() else None
    start = main_part(a.session, lot_id)[1].record_from_s
    kind = kind_of_lot(a.session, lot_id)
    made = note_told(a.session, lot_id, Tested(germination, None), when, start, a.now_s, kind)
    a.about(f"lot:{lot_id}", f"trial:{made.id}")
    a.summary = f"{lot.code}: {100 * germination:.0f} % was written down before"
    return TrialMade(key(made), made.code)
