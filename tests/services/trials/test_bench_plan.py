"""The evenings of the bench: one plan that Tests and Today read; spots; how a test is laid; its sheet."""

import io
import json

import pytest
from pypdf import PdfReader
from sqlmodel import select

from brisk_larder.core.base.errors import InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Trial
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.needs import chain_acts as needs
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.papers import history
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import spots, trial_acts, trial_sheets
from brisk_larder.services.trials.bench import bench
from brisk_larder.services.trials.count_decides import stands
from brisk_larder.services.trials.evening_steps import decides, setup
from brisk_larder.services.trials.spots import SpotSaid
from tests.conftest import DAY

ref = ActRef


@pytest.fixture
def doubtful(small):
    """Old packets of several kinds that somebody wants: each could be good or dead."""
    made = add_seeds(
        small.larder,
        ref(),
        [
            NewSeeds(kind="leek", variety="Fogbound", year=2022, quantity="220"),
            NewSeeds(kind="parsnip", variety="Candle", year=2024, quantity="260"),
            NewSeeds(kind="sweet_pepper", variety="Horn", year=2020, quantity="90"),
            NewSeeds(kind="zinnia", variety="Market", year=2020, quantity="200"),
        ],
    )
    for lot in made.lot_ids:
        needs.set_pick(small.larder, ref(), lot, 20, "joy")
    return made.lot_ids


def laid(small):
    return {t.lot_id: (e, t) for e in bench(small.larder).plan.evenings for t in e.tests}


def test_all_that_is_asked_for_is_planned_once_and_today_shows_the_same_evenings(small, doubtful):
    room = bench(small.larder)
    asked = {w.line.lot_id for w in room.wanted}
    assert len(asked & set(doubtful)) >= 2
    assert set(laid(small)) | {x.lot_id for x in room.plan.left} == asked
    today = jobs.today_room(small.larder)
    rows = [r for r in (*today.rows, *today.later_rows) if r.kind == "test" and r.jobs[0].seeds]
    by_row = sorted(sorted(j.subject for j in r.jobs) for r in rows)
    assert by_row == sorted(sorted(f"lot:{t.lot_id}" for t in e.tests) for e in room.plan.evenings)
    for evening, test in laid(small).values():
        assert test.answer_s >= evening.day_s + test.last_day * DAY
        assert test.box >= 1


def test_spots_are_said_planned_on_and_taken_back(small, doubtful):
    larder = small.larder
    assert [s.spot_id for s in bench(larder).plan.spots] == [0, 0, 0]
    spots.set_spots(larder, ref(), [SpotSaid("kitchen sill", 21.0, "either", 2, 4)])
    assert {t.spot for _, t in laid(small).values()} == {"kitchen sill"}
    with pytest.raises(InvalidValue, match="layers"):
        spots.set_spots(larder, ref(), [SpotSaid("sill", 20.0, "either", 1, 0)])
    with pytest.raises(InvalidValue, match="temperature"):
        spots.set_spots(larder, ref(), [SpotSaid("oven", 80.0)])
    with pytest.raises(InvalidValue, match="a name of its own"):
        spots.set_spots(larder, ref(), [SpotSaid("a", 20.0), SpotSaid("a", 15.0)])
    last = ref()
    spots.set_spots(larder, last, [SpotSaid("icy porch", 1.0, "dark", 1, 1)])
    room = bench(larder)
    assert room.plan.evenings == []
    assert (
        "No spot is warm or cool enough" in room.plan.left[0].why
        or "wants" in room.plan.left[0].why
    )
    history.undo(larder, ref(), last.id)
    assert [s.name for s in bench(larder).plan.spots] == ["kitchen sill"]


def test_a_test_that_begins_in_the_cold_counts_its_days_from_its_warmth(small):
    larder = small.larder
    lot = small.lots["carrot"]
    trial = trial_acts.start_trial(larder, ref(), lot, 10, cold_days=14).trial_id
    larder.clock.at_s += 13 * DAY
    (running,) = bench(larder).running
    assert "in the cold until" in running.verdict
    assert running.day == 0
    assert not any(j.subject == f"trial:{trial}" for j in jobs.today_room(larder).jobs)
    larder.clock.at_s += 2 * DAY
    (job,) = (j for j in jobs.today_room(larder).jobs if j.subject == f"trial:{trial}")
    assert "into its warmth" in job.title
    before = next(x.glance.now.mid for x in lot_lines(larder) if x.lot_id == lot)
    trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry())
    after = next(x.glance.now.mid for x in lot_lines(larder) if x.lot_id == lot)
    assert after == pytest.approx(before, abs=0.02)  # after a day in the warmth nothing can be up
    larder.clock.at_s += 7 * DAY
    assert any("First look" in j.title for j in jobs.today_room(larder).jobs)


def test_how_a_test_is_laid_is_said_with_what_comes_first(small, doubtful):
    larder = small.larder
    (lavender,) = add_seeds(
        larder, ref(), [NewSeeds(kind="lavender", variety="Blue", year=2026, quantity="100")]
    ).lot_ids
    how = setup(larder, lavender, 20, None)
    assert how.cold_days > 0
    assert "fridge" in how.first[0]
    bean = add_seeds(
        larder, ref(), [NewSeeds(kind="bean_bush", variety="Dwarf", year=2025, quantity="100")]
    ).lot_ids[0]
    rolled = setup(larder, bean, 20, None)
    assert rolled.medium == "rolled"
    assert "this kind rots when wet" in rolled.lay
    cool = setup(larder, bean, 20, 15.0)
    assert cool.days != rolled.days  # a cool spot stretches the days
    made = trial_acts.start_trial(larder, ref(), bean, 20, "rolled", 22.0)
    with larder.store.read() as session:
        trial = session.exec(select(Trial).where(Trial.id == made.trial_id)).one()
    assert (trial.medium, trial.cold_days) == ("rolled", 0)
    with pytest.raises(InvalidValue, match="cold"):
        trial_acts.start_trial(larder, ref(), bean, 5, cold_days=400)


def test_the_sheet_of_an_evening_holds_its_tests_and_a_label_for_each(small, doubtful):
    evening = bench(small.larder).plan.evenings[0]
    pdf = PdfReader(io.BytesIO(trial_sheets.evening_pdf(small.larder, evening.day)))
    pages = [p.extract_text() for p in pdf.pages]
    assert len(pages) == 2
    for test in evening.tests:
        assert all(f"{test.code} {test.variety}" in page for page in pages)
    assert "first look" in pages[0]
    with pytest.raises(NotFound, match="No tests are planned"):
        trial_sheets.evening_pdf(small.larder, "2031-01-01")


def test_a_card_says_what_its_count_leads_to_as_it_was_said_when_the_test_began():
    then = [[0, 2, -1, 0], [3, 5, 170, 0], [6, 10, 50, 1]]
    assert stands(then, 1, 9) == [
        "If no more came: order fresh seed; if all came: sow about 50, and grow its line anew."
    ]
    assert stands(then, 3, 2) == [
        "No further count can change it: sow about 170. Close it if you like."
    ]
    assert stands(then, 0, 2) == [
        "No further count can change it: order fresh seed. Close it if you like."
    ]
    assert stands([], 3, 2) == []


def test_what_was_to_follow_is_kept_with_a_test_of_the_size_that_was_asked_for(small, doubtful):
    larder = small.larder
    wanted = bench(larder).wanted[0]
    lot, n = wanted.line.lot_id, wanted.seeds
    then = decides(larder, lot, n)
    assert json.loads(then) == wanted.line.glance.advice.then
    assert decides(larder, lot, n + 1) == ""
    trial = trial_acts.start_trial(larder, ref(), lot, n, decides=then).trial_id
    larder.clock.at_s += 20 * DAY
    trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(mouldy=n - 1))
    (card,) = bench(larder).running
    assert any("No further count can change it" in h or "If no more came" in h for h in card.hints)


def test_seeds_of_a_test_that_is_asked_for_are_held_back_in_needs(small, doubtful):
    wanted = next(w for w in bench(small.larder).wanted if w.line.lot_id in doubtful)
    lot, seeds = wanted.line.lot_id, wanted.line.seeds
    needs.set_pick(small.larder, ref(), lot, 2000, "joy")  # more than all of it could give
    taken = [c.seeds for x in needs_room(small.larder).lines for c in x.covered if c.lot_id == lot]
    still = next(w for w in bench(small.larder).wanted if w.line.lot_id == lot)
    assert sum(taken) == seeds - still.seeds
