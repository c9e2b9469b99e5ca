"""Tests, needs, jobs and regrowing through the services, as a keeper goes through them."""

import pytest
from sqlmodel import select

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import ForecastNote, Lot
from brisk_larder.services.acts import entry, ledger, lot_acts
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.forecast import lines as forecast_lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.papers import csv_files, history, settings_page
from brisk_larder.services.stock import lot_page, stock_files
from brisk_larder.services.today import jobs, this_years_list
from brisk_larder.services.trials import bench
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.conftest import DAY, packet


def dry_and_cool(small):
    """The tin read every month since the lots came: what is in it is well known."""
    for days in range(1, 1200, 30):
        small.read("tin", 10.0, 38.0, days)


def test_a_test_moves_the_belief_and_uses_up_seed(small):
    larder, lot = small.larder, small.lots["onion"]
    before = small.line("onion")
    made = trials_acts.start_trial(larder, ActRef(), lot, 20)
    assert small.line("onion").seeds == before.seeds - 20
    with larder.store.read() as session:
        note = session.exec(select(ForecastNote)).one()
    assert note.trial_id == made.trial_id
    larder.clock.at_s += 13 * DAY
    trials_acts.count_trial(
        larder, ActRef(), made.trial_id, trials_acts.CountEntry(normal=6), close=True
    )
    after = small.line("onion").glance
    assert after.now.high < before.glance.now.mid
    assert after.now.high - after.now.low < before.glance.now.high - before.glance.now.low
    closed = bench.bench(larder).closed[0]
    assert closed.before.mid == pytest.approx(before.glance.now.mid, abs=0.02)
    assert closed.after.mid == after.now.mid


@pytest.mark.parametrize(
    ("count", "field"),
    [
        (trials_acts.CountEntry(normal=-1), "normal"),
        (trials_acts.CountEntry(normal=8, mouldy=4), "seeds counted"),
        (trials_acts.CountEntry(normal=3), "up"),
    ],
)
def test_impossible_counts_are_refused_and_leave_nothing(small, count, field):
    larder = small.larder
    trial = trials_acts.start_trial(larder, ActRef(), small.lots["onion"], 10).trial_id
    larder.clock.at_s += 8 * DAY
    trials_acts.count_trial(larder, ActRef(), trial, trials_acts.CountEntry(normal=5))
    acts = len(history.recent(larder, 99))
    with pytest.raises(InvalidValue, match=field):
        trials_acts.count_trial(larder, ActRef(), trial, count)
    assert len(history.recent(larder, 99)) == acts
    assert bench.bench(larder).running[0].up == 5


def test_more_tests_and_sowings_than_seed_are_refused(small):
    trials_acts.start_trial(small.larder, ActRef(), small.lots["kale"], 400)
    with pytest.raises(InvalidValue, match="seeds in hand"):
        trials_acts.start_trial(small.larder, ActRef(), small.lots["kale"], 400)
    with pytest.raises(InvalidValue, match="today"):
        trials_acts.start_trial(
            small.larder, ActRef(), small.lots["onion"], 4, sown_s=small.larder.now_s() + 2 * DAY
        )
    with pytest.raises(InvalidValue, match="seeds in hand"):
        sowings.sow(small.larder, ActRef(), small.lots["onion"], 900)


def test_what_is_wanted_decides_what_is_tested(small):
    larder = small.larder
    assert "Brackenbulb" in {w.line.variety for w in bench.bench(larder).wanted}
    targets.set_target(larder, ActRef(), product="carrots, root cellar", per_week=1, weeks=20)
    # a first food says nothing against all the rest: nobody knows yet what else is grown here
    assert small.line("onion").glance.advice.code == "undecided"
    sowings.sow(larder, ActRef(), small.lots["carrot"], 20)
    assert small.line("onion").glance.advice.code == "unused"
    assert small.line("onion").spare == 0  # not sure enough to be passed on
    needs_acts.set_pick(larder, ActRef(), small.lots["onion"], 20)
    assert small.line("onion").glance.advice.code == "undecided"


def test_a_need_falls_short_and_says_what_to_do(small):
    larder = small.larder
    dry_and_cool(small)
    targets.set_target(larder, ActRef(), product="onions, cured and stored", per_week=0.3, weeks=30)
    (line,) = chains.needs_room(larder).lines
    assert line.says == "covered"
    assert line.chain.wanted.mid == 9
    assert [c.code for c in line.covered] == ["O1"]
    target = line.target_id
    needs_acts.book_pantry(larder, ActRef(), "onions, cured and stored", "counted", 9)
    assert chains.needs_room(larder).lines[0].plants == 0
    needs_acts.book_pantry(larder, ActRef(), "onions, cured and stored", "counted", 0)
    needs_acts.override_link(larder, ActRef(), target, "plants", 900)
    (line,) = chains.needs_room(larder).lines
    assert line.short_plants > 500
    assert "seeds short" in line.says
    sowing_s = small.line("onion").glance.next_sowing_s
    assert line.order_by_s == sowing_s - 21 * DAY > larder.now_s()  # ordered in time to sow
    assert line.chain.plants.origin == "set"
    needs_acts.override_link(larder, ActRef(), target, "plants", None)
    assert chains.needs_room(larder).lines[0].chain.plants.origin == "book"


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"product": "sauerkraut", "per_week": -1, "weeks": 4}, "per week"),
        ({"product": "sauerkraut", "per_week": 1, "weeks": 60}, "weeks"),
        ({"product": "our own relish", "per_week": 1, "weeks": 4}, "crop"),
        ({"product": " ", "per_week": 1, "weeks": 4}, "food"),
    ],
)
def test_impossible_foods_are_refused(small, values, field):
    with pytest.raises(InvalidValue, match=field):
        targets.set_target(small.larder, ActRef(), **values)


def test_regrowing_is_proposed_when_a_line_runs_out(small):
    larder = small.larder
    dry_and_cool(small)
    assert sowings.growing_room(larder).safe == ["Slate Curl kale"]
    ledger.book_quantity(larder, ActRef(), small.lots["kale"], "counted", "24")
    room = sowings.growing_room(larder)
    (line,) = room.regrow
    assert line.mothers == 15
    assert line.last_safe_year in (2027, 2028, None)
    year = this_years_list.year_of(larder)
    assert any("Regrow Slate Curl" in p.title for p in year.regrow) or line.year > 2028


def test_a_job_keeps_what_the_keeper_said_of_it(small):
    larder = small.larder
    larder.clock.at_s += 60 * DAY  # the end of January: the onion wants its test
    key = next(j.origin_key for j in jobs.today_room(larder).jobs if j.kind == "test")
    person = settings_page.add_person(larder, ActRef(), "Ysolde").person_id
    jobs.set_job(larder, ActRef(), key, "handed_over", person_id=person)
    mine = next(j for j in jobs.today_room(larder).jobs if j.origin_key == key)
    assert (mine.state, mine.person) == ("handed_over", "Ysolde")
    with pytest.raises(InvalidValue, match="after today"):
        jobs.set_job(larder, ActRef(), key, "moved", moved_to_s=larder.now_s() - DAY)
    jobs.set_job(larder, ActRef(), key, "dropped")
    room = jobs.today_room(larder)
    assert key not in {j.origin_key for j in [*room.jobs, *room.later]}
    assert key in {j.origin_key for j in room.settled}
    jobs.set_job(larder, ActRef(), key, "open")
    assert key in {j.origin_key for j in jobs.today_room(larder).jobs}


def test_the_years_list_is_what_the_rooms_show(small):
    larder = small.larder
    targets.set_target(larder, ActRef(), product="peas, shelled, frozen", per_week=1, weeks=20)
    year = this_years_list.year_of(larder)
    assert {p.subject for p in year.tests} == {
        f"lot:{w.line.lot_id}" for w in bench.bench(larder).wanted
    }
    assert [p.subject for p in year.shortfalls] == [
        x.key for x in chains.needs_room(larder).lines if x.short_plants
    ]
    assert all(p.why for p in [*year.tests, *year.regrow, *year.shortfalls])


def test_own_and_unknown_kinds_count_as_not_edible(small):
    larder = small.larder
    key = settings_page.add_own_kind(larder, ActRef(), "skirret", None).key
    ids = entry.add_seeds(
        larder,
        ActRef(),
        [packet(key, "Old Row"), packet("", "", None, "a pinch", note="yellow, tall")],
    ).lot_ids
    own, unknown = (lot_page.lot_page(larder, i) for i in ids)
    assert any("not edible" in c for c in own.cautions)
    assert any("not edible" in c for c in unknown.cautions)
    assert (own.line.kind_name, unknown.line.code) == ("skirret", "?1")
    carrot = small.line("carrot").glance.now  # bought last year: far surer
    assert unknown.line.glance.now.high - unknown.line.glance.now.low > carrot.high - carrot.low
    with pytest.raises(InvalidValue, match="no other own kind"):
        settings_page.add_own_kind(larder, ActRef(), "Skirret", None)


def test_an_overruled_figure_moves_the_forecast_and_says_whose_it_is(small):
    before = small.line("carrot").glance.now.mid
    settings_page.overrule_crop(
        small.larder,
        ActRef(),
        "carrot",
        "typical_initial_germination_pct",
        60,
        "our own three years",
    )
    assert small.line("carrot").glance.now.mid < before - 0.1
    with pytest.raises(InvalidValue, match="between"):
        settings_page.overrule_crop(
            small.larder, ActRef(), "carrot", "typical_initial_germination_pct", 160, "x"
        )


def test_a_lot_let_go_can_come_back_and_a_stale_page_is_refused(small):
    larder, lot = small.larder, small.lots["kale"]
    version = lot_page.lot_page(larder, lot).version
    lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(version=version, note="from the north bed"))
    with pytest.raises(Conflict, match="changed meanwhile"):
        lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(version=version, note="something else"))
    lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(state="gone"))
    assert lot not in {x.lot_id for x in forecast_lines.lot_lines(larder)}
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert lot in {x.lot_id for x in forecast_lines.lot_lines(larder)}


def test_codes_of_what_was_let_go_are_not_used_again_and_those_taken_back_are(small):
    larder = small.larder
    lot_acts.edit_lot(larder, ActRef(), small.lots["kale"], lot_acts.LotEdit(state="gone"))
    entry.add_seeds(larder, ActRef(), [packet("kale", "Rook's Feather")])
    assert "K2" in {x.code for x in forecast_lines.lot_lines(larder)}  # a label may still say K1
    for act in history.recent(larder, 3):
        history.undo(larder, ActRef(), act.act_id)
    assert forecast_lines.lot_lines(larder) == []
    entry.add_seeds(larder, ActRef(), [packet("kale", "Rook's Feather")])
    assert [x.code for x in forecast_lines.lot_lines(larder)] == ["K1"]  # these never were


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("colour,size\nred,3\n", "line 1"),
        ("kind,year\npea,2031\n", "line 2"),
        ("kind,year\npea,soon\n", "line 2, date"),
        ("kind,quantity\npea,3 bushels\n", "line 2"),
        ("kind,germination\npea,140\n", "line 2, tested"),
        ("kind,year\n", "no packets"),
        ("", "empty"),
    ],
)
def test_a_bad_sheet_of_packets_is_refused_as_a_whole(larder, text, says):
    with pytest.raises(BadFile, match=says):
        stock_files.import_packets(larder, ActRef(), "p.csv", text.encode())
    with larder.store.read() as session:
        assert session.exec(select(Lot)).all() == []


def test_a_sheet_as_people_keep_it_comes_in_with_its_gaps(larder):
    text = (
        "\ufeffVariety;Kind;Year;How much;From\r\nMillrace;peas;2024;3,5 g;own\r\n"
        ";swiss something;;a pinch;gift\r\nTall one;;'22;;\r\n"
    )
    done = stock_files.import_packets(larder, ActRef(), "p.csv", text.encode())
    assert len(done.lot_ids) == 3
    assert len(done.assumed) == 4
    lines = {x.variety: x for x in forecast_lines.lot_lines(larder)}
    assert lines["Millrace"].kind == "pea"
    assert lines["Millrace"].seeds == pytest.approx(3.5 * 4, rel=0.5)
    assert csv_files.lots_csv(larder).count("\r\n") == 4
