"""A test from its start to its verdict; what it teaches relatives; looking back at what was forecast."""

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.relatives import near
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import lot_page
from brisk_larder.services.trials import trial_acts
from brisk_larder.services.trials.bench import bench
from brisk_larder.services.trials.looking_back import looking_back
from tests.conftest import DAY, Small, opened, packet

ref = ActRef


def run_trial(small, lot, n, up, days=15, close=True, **more):
    trial = trial_acts.start_trial(small.larder, ref(), lot, n, **more).trial_id
    small.larder.clock.at_s += days * DAY
    trial_acts.count_trial(small.larder, ref(), trial, trial_acts.CountEntry(normal=up), close)
    return trial


def kin_of(small, name):
    with small.larder.store.read() as session:
        part = (
            session.connection()
            .exec_driver_sql("SELECT id FROM part WHERE lot_id = ?", (small.lots[name],))
            .scalar()
        )
        return near(session, [part])[part]


def test_seeds_are_kept_as_they_lie_and_a_crack_is_not_yet_up(small):
    larder, lot = small.larder, small.lots["kale"]
    trial = trial_acts.start_trial(larder, ref(), lot, 6).trial_id
    larder.clock.at_s += 5 * DAY
    for wrong in ("uuw", "uuwwxw"):
        with pytest.raises(InvalidValue, match="6 letters"):
            trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(seeds=wrong))
    trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(seeds="uwcmuw"))
    (running,) = bench(larder).running
    assert (running.seeds, running.up, running.odd["mouldy"], running.waiting) == (
        "uwcmuw",
        2,
        1,
        3,
    )


def test_a_cool_spot_stretches_the_count_days_and_late_ones_have_a_grace(small):
    larder = small.larder
    at_best = trial_acts.start_trial(
        larder, ref(), small.lots["kale"], 10, temperature_c=20
    ).trial_id
    cool = trial_acts.start_trial(larder, ref(), small.lots["carrot"], 10, temperature_c=9).trial_id
    found = {r.trial_id: r for r in bench(larder).running}
    book = found[at_best].days
    assert found[cool].days > 20
    assert "early" in found[at_best].verdict
    words = []
    for days in (book - 1, 1.5, 0.3 * book):
        larder.clock.at_s += int(days * DAY)
        words.append(next(r for r in bench(larder).running if r.trial_id == at_best).verdict)
    assert "still coming" in words[0]
    assert "wait a few days" in words[1]
    assert "nothing more" in words[2]


def test_it_is_said_when_no_further_count_can_change_it(small):
    larder, lot = small.larder, small.lots["kale"]
    trial = trial_acts.start_trial(larder, ref(), lot, 40).trial_id
    larder.clock.at_s += 3 * DAY
    trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(normal=20))
    (running,) = bench(larder).running
    # half were up at the first look: since when nobody saw
    assert not any("Half of these" in hint for hint in running.hints)
    larder.clock.at_s += 5 * DAY
    trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(normal=37))
    (running,) = bench(larder).running
    assert "No further count can change it: above 70 %" in running.hints[0]
    assert not any("Half of these" in hint for hint in running.hints)


def test_when_half_were_up_is_told_where_somebody_looked_before(small):
    larder, lot = small.larder, small.lots["kale"]
    trial = trial_acts.start_trial(larder, ref(), lot, 40).trial_id
    for days, up in ((3, 8), (5, 36)):
        larder.clock.at_s += days * DAY
        trial_acts.count_trial(larder, ref(), trial, trial_acts.CountEntry(normal=up))
    (running,) = bench(larder).running
    assert "Half of these were up by day 5; day " in " ".join(running.hints)  # 3 + 5 x 10/28


RANK = (
    "dead", "too little comes up", "weak as far", "sow thickly, or replace it", "below the level",
    "not decided", "sow thickly.", "good as far", "good enough",
)  # fmt: skip


@pytest.mark.parametrize("name", ["onion", "carrot"])
def test_more_up_is_never_a_worse_word(templates, tmp_path, name):
    """Every count that a test of twelve may come to, each in a larder of its own."""
    _, file, nodes, lots = templates
    ranks, words = [], []
    for up in range(13):
        for larder in opened(file, tmp_path / f"{up}.sqlite3"):
            run_trial(Small(larder, nodes, lots), lots[name], 12, up)
            (closed,) = bench(larder).closed
            words.append(closed.verdict.todo)
            ranks += [i for i, r in enumerate(RANK) if closed.verdict.todo.startswith(r)]
    assert len(ranks) == 13, words
    assert ranks == sorted(ranks), [RANK[r] for r in ranks]
    assert len(set(ranks)) > 1


def test_what_would_have_to_be_sown_is_held_against_what_is_left(small):
    """Of nine seeds four were tested: five are left, whatever a stand would take."""
    few = packet("squash_maxima", "Weir Lantern", 2024, "9")
    lot = add_seeds(small.larder, ActRef(), [few]).lot_ids[0]
    run_trial(small, lot, 4, 2)
    (closed,) = bench(small.larder).closed
    (changed,) = [x for x in closed.verdict.changed if "plants" in x]
    assert changed.endswith("seeds now; there are 5 seeds.")


def test_the_verdict_is_one_sentence_with_what_it_changed(small):
    run_trial(small, small.lots["kale"], 20, 19)
    (closed,) = bench(small.larder).closed
    assert closed.verdict.says.startswith("19 of 20 up: ")
    assert closed.after.mid > closed.before.mid
    assert closed.verdict.surprise.startswith("More than was thought")
    assert any("instead of" in x or "now" in x for x in closed.verdict.changed)
    assert "once in twenty" in closed.verdict.by_itself
    assert "potted on" in closed.verdict.seedlings
    run_trial(small, small.lots["onion"], 20, 0)
    (bad, _) = bench(small.larder).closed
    assert bad.verdict.seedlings == ""
    assert bad.verdict.surprise.startswith("Fewer than was thought")
    assert "good enough" not in bad.verdict.says
    # closed while seed was still to come: what waits is not dead, and few up are no surprise
    run_trial(small, small.lots["carrot"], 20, 0, days=4)
    early = bench(small.larder).closed[0].verdict
    assert early.by_itself.startswith("Closed before its last count day")
    assert early.surprise == ""


def test_relatives_learn_by_kind_and_place_and_the_page_says_so(small):
    pile = [
        NewSeeds(
            kind="kale",
            variety=f"Weir {x}",
            year=2022,
            quantity="300",
            node_id=small.nodes["porch"],
        )
        for x in ("Fern", "Moss")
    ]
    other = add_seeds(small.larder, ref(), pile).lot_ids
    before = small.line("kale").glance.now.mid
    for lot in other:
        run_trial(small, lot, 30, 3, days=12)
    worse = small.line("kale").glance.now.mid
    assert worse < before - 0.02
    kale = kin_of(small, "kale")
    assert kale[5] < -0.02  # by its kind
    assert kale[7] == 0.0  # it has no line
    page = lot_page.lot_page(small.larder, small.lots["kale"])
    assert any("other kale" in w.text for w in page.why)
    # taking the count back takes the lesson back
    with small.larder.store.read() as session:
        last = (
            session.connection()
            .exec_driver_sql(
                "SELECT id FROM act WHERE kind = 'count_test' ORDER BY rowid DESC LIMIT 1"
            )
            .scalar()
        )
    history.undo(small.larder, ref(), last)
    assert worse + 0.005 < small.line("kale").glance.now.mid < before


def test_looking_back_weighs_each_forecast_that_was_tested(small):
    assert looking_back(small.larder).record is None
    assert "No test has ended" in looking_back(small.larder).says
    run_trial(small, small.lots["kale"], 20, 14)
    run_trial(small, small.lots["onion"], 10, 9)
    early = run_trial(small, small.lots["carrot"], 10, 1, days=3)  # closed before it could tell
    found = looking_back(small.larder)
    assert found.record.tests == 2
    assert early not in {t.trial_id for t in found.tests}
    assert found.record.verdict == "few"
    assert "too few to judge" in found.says
    kale = next(t for t in found.tests if t.kind_name == "kale")
    assert (kale.up, kale.n, kale.place) == (14, 20, "tin")
    assert kale.before.low < kale.before.mid < kale.before.high
    assert "age rule" in found.against_age


def test_a_count_on_a_day_already_reckoned_teaches_relatives_at_once(small):
    (other,) = add_seeds(
        small.larder, ref(),
        [NewSeeds(kind="kale", variety="Weir Fern", year=2022, quantity="300", node_id=small.nodes["porch"])],
    ).lot_ids  # fmt: skip
    trial = trial_acts.start_trial(small.larder, ref(), other, 30).trial_id
    small.larder.clock.at_s += 12 * DAY
    before = small.line("kale").glance.now.mid  # reckoned for this day
    trial_acts.count_trial(
        small.larder, ref(), trial, trial_acts.CountEntry(normal=1)
    )  # not closed: only a count
    assert small.line("kale").glance.now.mid < before - 0.01


def test_a_figure_of_the_book_is_offered_by_three_harvests_and_taken_by_one_touch(small):
    """Five harvests of which little more than half came up at once; the book says nine in ten."""
    larder = small.larder
    lots = add_seeds(
        larder,
        ref(),
        [
            NewSeeds(kind="kale", variety=f"Row {i}", year=2026, source="own", quantity="400")
            for i in range(5)
        ],
    ).lot_ids
    assert looking_back(larder).offers == []
    trials = [trial_acts.start_trial(larder, ref(), lot, 60).trial_id for lot in lots]
    larder.clock.at_s += 30 * DAY
    for trial in trials:
        trial_acts.count_trial(
            larder, ref(), trial, trial_acts.CountEntry(normal=33, mouldy=27), True
        )
    (offer,) = looking_back(larder).offers
    assert (offer.kind, offer.field) == ("kale", "typical_initial_germination_pct")
    assert offer.offered == 55 < offer.now
    assert "the book says" in offer.says
    settings_page.overrule_crop(larder, ref(), offer.kind, offer.field, offer.offered, "tests")
    assert looking_back(larder).offers == []
