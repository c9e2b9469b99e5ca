"""Stocktake, views, filing, gaps, triage, find, labels: the work on the whole stock."""

import io
import re

import pytest
from pypdf import PdfReader
from sqlmodel import select

from brisk_larder.core.base.errors import Conflict, InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Job, LotEvent, MoistureObs, NodeEvent
from brisk_larder.formats.sheets import SHEETS
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import filing_page, finding, labels, rows, stocktakes, triage_page
from brisk_larder.services.storage import containers
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import trial_acts
from tests.conftest import DAY


def ref():
    return ActRef()


def add(larder, **packet):
    return add_seeds(larder, ref(), [NewSeeds(**packet)]).lot_ids[0]


def line(larder, lot):
    return next(x for x in lines.lot_lines(larder) if x.lot_id == lot)


@pytest.fixture
def take(small):
    return stocktakes.begin(small.larder, ref(), small.nodes["tin"]).stocktake_id


def mark(small, take, name, result, condition="", amount=""):
    small.larder.clock.at_s += 60
    lot = small.lots.get(name, name)
    return stocktakes.mark_lot_found(small.larder, ref(), take, lot, result, condition, amount)


def test_a_stocktake_lists_marks_and_reports(small, take):
    larder = small.larder
    page = stocktakes.stocktake(larder, take)
    assert [x.code for x in page.lines] == ["K1", "O1"]
    assert (page.left, page.state, page.report) == (2, "open", [])
    mark(small, take, "kale", "counted", amount="350")
    mark(small, take, "onion", "missing")
    moved = stocktakes.take_in(larder, ref(), take, " c1 ")
    assert moved.result == "moved"
    assert small.line("onion").state == "missing"
    assert small.line("carrot").place == "larder · tin"
    assert small.line("kale").seeds == 350
    stocktakes.finish(larder, ref(), take)
    report = " ".join(stocktakes.stocktake(larder, take).report)
    for words in ("Found: 1 of 3", "Missing: O1 Brackenbulb", "Moved here: C1 Ember Root (from porch)",
                  "350 instead of 700 seeds"):  # fmt: skip
        assert words in report
    with larder.store.read() as session:
        (gone,) = session.exec(select(NodeEvent).where(NodeEvent.kind == "gone_through")).all()
    assert gone.node_id == small.nodes["tin"]
    assert next(c for c in stocktakes.containers(larder) if c.name == "tin").last_s == gone.at_s
    with pytest.raises(Conflict, match="is over"):
        mark(small, take, "kale", "found")


def test_it_is_left_and_taken_up_where_it_was(small, take):
    larder = small.larder
    mark(small, take, "kale", "found")
    stocktakes.pause(larder, ref(), take)
    top = stocktakes.containers(larder)[0]
    assert (top.name, top.open_id, top.done) == ("tin", take, 1)
    again = stocktakes.begin(larder, ref(), small.nodes["tin"])
    assert again.stocktake_id == take
    assert stocktakes.stocktake(larder, take).left == 1
    mark(small, take, "kale", "missing")  # said again: the last word counts
    page = stocktakes.stocktake(larder, take)
    assert [x.result for x in page.lines] == ["missing", ""]
    stocktakes.finish(larder, ref(), take, "found")
    assert [x.result for x in stocktakes.stocktake(larder, take).lines] == ["missing", "found"]


@pytest.mark.parametrize(
    ("condition", "kind"), [("mouldy", "mould"), ("sprouted", "sprouted"), ("eaten", "insects"),
                            ("damp", "note")]
)  # fmt: skip
def test_what_is_wrong_with_a_packet_goes_into_its_forecast(small, take, condition, kind):
    before = small.line("kale").glance
    done = mark(small, take, "kale", "found", condition)
    assert condition in done.changed
    after = small.line("kale").glance
    with small.larder.store.read() as session:
        assert [e.kind for e in session.exec(select(LotEvent))] == [kind]
        damp = session.exec(select(MoistureObs)).all()
    if condition == "damp":
        assert (damp[0].erh25, damp[0].sd) == (0.7, 0.1)
        assert after.erh25 == pytest.approx(0.7, abs=0.02)
    else:
        assert after.now.mid < before.now.mid


def test_a_found_lot_is_missing_no_more_and_undo_takes_the_mark_back(small, take):
    larder = small.larder
    lot_acts.edit_lot(larder, ref(), small.lots["kale"], LotEdit(state="missing"))
    done = ActRef()
    stocktakes.mark_lot_found(larder, done, take, small.lots["kale"], "found")
    assert small.line("kale").state == "here"
    history.undo(larder, ref(), done.id)
    assert small.line("kale").state == "missing"
    assert stocktakes.stocktake(larder, take).lines[0].result == ""
    for call, why in (
        (lambda: mark(small, take, "kale", "eaten"), "found, counted or missing"),
        (lambda: mark(small, take, "kale", "found", "odd"), "damp, mouldy"),
        (lambda: mark(small, take, "kale", "counted", amount="?"), "quantity"),
        (lambda: stocktakes.finish(larder, ref(), take, "burnt"), "left as they were"),
    ):
        with pytest.raises(InvalidValue, match=why):
            call()
    with pytest.raises(NotFound, match="new packet"):
        stocktakes.take_in(larder, ref(), take, "Z99")
    with pytest.raises(NotFound):
        stocktakes.stocktake(larder, 99)


def test_a_scanned_label_is_read_as_its_code(small):
    lot = small.lots["onion"]
    assert stocktakes.lot_by_code(small.larder, f"http://127.0.0.1:9/stock/{lot}").lot_id == lot
    assert stocktakes.lot_by_code(small.larder, "o1").lot_id == lot


def test_views_are_kept_replaced_and_one_is_the_filing_order(small):
    larder = small.larder
    assert filing_page.filing_order(larder) == "season"
    filing_page.save_view(larder, ref(), "By age", "age", "", True)
    filing_page.save_view(larder, ref(), "By name", "alphabet", "kale", True)
    assert filing_page.filing_order(larder) == "alphabet"
    assert [v.filing for v in filing_page.views(larder)] == [False, True]
    filing_page.save_view(larder, ref(), "By age", "kind")
    assert {v.name: v.group for v in filing_page.views(larder)} == {
        "By age": "kind",
        "By name": "alphabet",
    }
    for name, group in (("", "age"), ("x" * 61, "age"), ("fine", "colour")):
        with pytest.raises(InvalidValue):
            filing_page.save_view(larder, ref(), name, group)
    filing_page.drop_view(larder, ref(), filing_page.views(larder)[1].view_id)
    assert filing_page.filing_order(larder) == "season"
    at = filing_page.files_at(larder, small.lots["onion"])
    assert at.words == "last, after K1 Slate Curl"
    assert filing_page.files_at(larder, 99) is None


def test_packets_divide_among_tins_by_number(small):
    larder = small.larder
    for i in range(14):
        add(larder, kind="leek" if i < 7 else "kale", variety=f"S{i}", quantity="50",
            node_id=small.nodes["tin"])  # fmt: skip
    tins = []
    for name, holds in (("first", 10), ("second", 10)):
        node = containers.NewNode(
            name, container_kind="metal_tin_plain", parent_id=small.nodes["larder"],
            capacity_lots=holds,
        )  # fmt: skip
        tins.append(containers.add_node(larder, ref(), node).node_id)
    plan = filing_page.division(larder, "kind", [*tins, small.nodes["tin"]])
    assert sum(len(b.lots) for b in plan.boxes) == 16
    assert [b.name for b in plan.boxes] == ["first", "second", "tin"]  # all of them are used
    assert plan.boxes[0].headings == ["Kale"]
    assert plan.left_over == []
    assert "would move" in plan.says
    two = filing_page.division(larder, "kind", [tins[0], small.nodes["tin"]]).boxes
    assert [len(b.lots) for b in two] == [2, 14]  # the second holds sixty
    assert two[0].moves == 2
    with pytest.raises(InvalidValue, match="containers"):
        filing_page.division(larder, "kind", [])


def test_gaps_name_the_months_with_nothing_in_hand(larder):
    settings_page.settle(larder, ref(), "cool_upland")
    add(larder, kind="tomato", variety="Early", year=2026, quantity="40")
    told = filing_page.gaps(larder)
    by_month = {m.month: m.lots for m in told.months}
    assert len(told.months) == 12
    assert by_month["July"] == 0
    assert any(by_month[m] for m in ("March", "April"))
    assert any("Nothing in hand to sow" in s for s in told.says)
    add(larder, kind="kale", variety="Late", year=2026, quantity="400")
    assert {m.month: m.lots for m in filing_page.gaps(larder).months}["July"] == 1
    lot_acts.edit_lot(larder, ref(), 2, LotEdit(intended_use="sale"))
    assert {m.month: m.lots for m in filing_page.gaps(larder).months}["July"] == 0


def test_triage_sets_three_opinions_side_by_side(small):
    larder = small.larder
    old = add(larder, kind="onion", variety="Old", year=2015, quantity="100",
              node_id=small.nodes["porch"])  # fmt: skip
    room = triage_page.triage_room(larder)
    by_lot = {t.line.lot_id: t for t in room.lines}
    t = by_lot[old]
    assert (t.age_rule, t.test, t.forecast) == ("poor", "none", "poor")
    assert t.age_words == "11.7 years; the table says 1 to 2"
    assert t.advice[0] in ("let_go", "shoots")
    assert [s.school for s in room.schools] == ["age_rule", "test", "routine", "forecast", "count"]
    assert all(s.cost.failed <= room.sowings for s in room.schools)
    assert [s.school for s in room.schools if s.chosen] == ["forecast"]
    triage_page.choose_school(larder, ref(), "age_rule")
    again = {t.line.lot_id: t for t in triage_page.triage_room(larder).lines}
    assert again[old].advice[0] == "let_go"
    # by routine a test is asked for by the calendar; what each school costs stays the same
    before = {s.school: s.cost for s in room.schools}
    triage_page.choose_school(larder, ref(), "routine")
    asked = [x.glance.advice for x in lines.lot_lines(larder) if x.glance.advice.wanted]
    assert asked
    assert {a.code for a in asked} == {"routine"}
    assert all(a.seeds == a.if_routine > 0 for a in asked)
    assert {s.school: s.cost for s in triage_page.triage_room(larder).schools} == before
    with pytest.raises(InvalidValue, match="school"):
        triage_page.choose_school(larder, ref(), "stars")


def test_a_test_against_the_age_rule_is_shown_first(small):
    larder = small.larder
    old = add(larder, kind="onion", variety="Old", year=2022, quantity="300",
              node_id=small.nodes["tin"])  # fmt: skip
    done = trial_acts.start_trial(larder, ref(), old, 20)
    larder.clock.at_s += 14 * DAY
    trial_acts.count_trial(larder, ref(), done.trial_id, trial_acts.CountEntry(normal=19), True)
    first = triage_page.triage_room(larder).lines[0]
    assert first.line.lot_id == old
    assert first.disagree
    assert (first.age_rule, first.test) == ("poor", "good")
    assert first.test_words.startswith("19 of 20")


def test_decisions_become_jobs_or_done_acts(small):
    larder = small.larder
    pea = add(larder, kind="pea", variety="Millrace", year=2016, quantity="200",
              node_id=small.nodes["porch"])  # fmt: skip
    triage_page.decide(larder, ref(), pea, "shoots")
    assert line(larder, pea).intended_use == "shoots"
    done = ActRef()
    triage_page.decide(larder, done, small.lots["onion"], "sow_thick")
    triage_page.decide(larder, ref(), small.lots["kale"], "keep")
    with larder.store.read() as session:
        made = {j.subject: (j.kind, j.state) for j in session.exec(select(Job))}
    assert made[f"lot:{pea}"] == ("shoots", "open")
    assert made[f"lot:{small.lots['kale']}"] == ("keep", "done")
    titles = [p.title for p in [*jobs.today_room(larder).jobs, *jobs.today_room(larder).later]]
    assert any(t.startswith("Use P1 Millrace up as shoots") for t in titles)
    assert any(
        re.match(r"Sow O1 Brackenbulb thickly: about \d+ seeds for 20 plants", t) for t in titles
    )
    room = triage_page.triage_room(larder)
    assert room.decided == 3
    assert room.lines[-1].decided
    history.undo(larder, ref(), done.id)
    assert triage_page.triage_room(larder).decided == 2
    triage_page.decide(larder, ref(), small.lots["carrot"], "let_go")
    assert small.lots["carrot"] not in {x.lot_id for x in lines.lot_lines(larder)}
    for lot, decision, why in (
        (small.lots["onion"], "shoots", "not for the table"), (small.lots["onion"], "burn", "keep,"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match=why):
            triage_page.decide(larder, ref(), lot, decision)


@pytest.mark.parametrize(
    ("typed", "code"),
    [
        ("slate curl", "K1"), ("slaet crul", "K1"), ("kael", "K1"), ("brakenbulb", "O1"), ("k1", "K1"),
        ("by the mil rase", "C1"), ("Tamsin", "C1"), ("ember porch", "C1"),
    ],
)  # fmt: skip
def test_a_lot_is_found_by_any_word_spelled_badly(small, typed, code):
    lot_acts.edit_lot(
        small.larder, ref(), small.lots["carrot"], LotEdit(note="by the mill race, Tamsin")
    )
    hits = finding.find(small.larder, typed)
    assert hits[0].code == code
    assert hits[0].where in ("larder · tin", "porch")


def test_find_follows_what_happens_and_says_the_state(small):
    larder = small.larder
    assert finding.find(larder, "") == []
    assert finding.find(larder, "zzzzqq") == []
    assert finding.find(larder, "tin")[0].what == "place"
    lot_acts.edit_lot(
        larder, ref(), small.lots["kale"], LotEdit(variety="Moorfoot", state="missing")
    )
    hit = finding.find(larder, "morfoot")[0]
    assert (hit.code, hit.state) == ("K1", "could not be found")
    lot_acts.move_lot(larder, ref(), small.lots["kale"], small.nodes["porch"], slot="7")
    assert finding.find(larder, "morfoot")[0].where == "porch, 7"
    assert not any(h.title.startswith("Slate") for h in finding.find(larder, "slate curl"))


def test_labels_say_what_matters_and_warn(small):
    larder = small.larder
    dressed = add(
        larder, kind="pea", variety="Early", treated=True, seller="Fellside", date="Mar 2025"
    )
    unknown = add(larder, note="blue, low, by the steps")
    food = add(larder, kind="lentil", variety="Slate Bead", year=2025, intended_use="food",
               quantity="1 kg")  # fmt: skip
    done = trial_acts.start_trial(larder, ref(), small.lots["kale"], 10)
    larder.clock.at_s += 14 * DAY
    trial_acts.count_trial(larder, ref(), done.trial_id, trial_acts.CountEntry(normal=9), True)
    containers.node_event(
        larder,
        ref(),
        small.nodes["tin"],
        "sealed",
        "to the brim",
        figures={"food_kg": 2.0, "shut_days": 60.0},
    )
    said = labels.labels_of(larder, [small.lots["kale"], dressed, unknown, food], "http://mill")
    kale, pea, blue, lentil = said
    assert kale.germination == "germination 90 %, test T-1, Nov 2026"
    assert kale.sealed == "sealed 8 Dec 2026, open from 6 Feb 2027"
    assert kale.source == "own seed"
    assert kale.address == f"http://mill/stock/{small.lots['kale']}"
    assert (pea.caution, pea.origin) == ("DRESSED SEED: NEVER EAT", "March 2025")
    assert pea.source == "bought from Fellside"
    assert blue.caution == "UNKNOWN KIND: NEVER EAT"
    assert lentil.use == "for food"
    settings_page.change_household(larder, ref(), {"address": "http://larder.mill:8000/"})
    moved = labels.labels_of(larder, [food], "http://mill")[0]
    assert moved.address == f"http://larder.mill:8000/stock/{food}"


@pytest.mark.parametrize("sheet", sorted(SHEETS))
def test_every_sheet_holds_its_labels_inside_the_page(small, sheet):
    ids = list(small.lots.values())
    shape = SHEETS[sheet]
    data = labels.label_sheet(small.larder, ids, sheet, shape.places, 1, "http://mill")
    pages = PdfReader(io.BytesIO(data)).pages
    assert len(pages) == 1 + -(-(len(ids) - 1) // shape.places)
    text = " ".join(p.extract_text() for p in pages)
    for word in ("Slate Curl", "K1", "Brackenbulb", "O1"):
        assert word in text
    for place in (0, shape.places - 1):
        x, y = shape.at(place)
        width, height = (210.0, 297.0) if shape.page == "A4" else (215.9, 279.4)
        assert x >= -0.01
        assert y >= -0.01
        assert x + shape.width_mm <= width + 0.01
        assert y + shape.height_mm <= height + 0.01


def test_labels_and_lists_refuse_what_cannot_be(small):
    ids = [small.lots["kale"]]
    for kwargs, why in (
        ({"sheet": "a4-9x9", "start": 1}, "sheet"), ({"sheet": "a4-3x8", "start": 25}, "1 to 24"),
        ({"sheet": "a4-3x8", "start": 1, "copies": 0}, "labels"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match=why):
            labels.label_sheet(small.larder, ids, kwargs["sheet"], kwargs["start"],
                               kwargs.get("copies", 1), "")  # fmt: skip
    with pytest.raises(NotFound):
        labels.labels_of(small.larder, [99], "")
    for kind, page, node in (("hats", "A4", 1), ("lists", "A9", 1)):
        with pytest.raises(InvalidValue):
            labels.container_papers(small.larder, [node], kind, page, "")
    with pytest.raises(NotFound):
        labels.container_pages(small.larder, [99], "")
    assert labels.code_range(["B1", "B2", "B3", "K7", "RUMA"]) == "B1–B3, K7, RUMA"
    assert labels.code_range([f"B{i}" for i in range(1, 20, 2)]) == "B1–B19"


@pytest.mark.parametrize("kind", ["lists", "cards"])
def test_container_papers_follow_the_filing_order(small, kind):
    filing_page.save_view(small.larder, ref(), "By name", "alphabet", "", True)
    data = labels.container_papers(
        small.larder, [small.nodes["tin"]], kind, "Letter", "http://mill"
    )
    text = PdfReader(io.BytesIO(data)).pages[0].extract_text()
    assert text.index("Brackenbulb") < text.index("Slate Curl")
    assert "K1, O1" in text


def test_the_list_is_there_before_its_forecasts(small):
    larder = small.larder
    small.line("kale")
    with larder.store.write() as session:
        session.connection().exec_driver_sql("DELETE FROM d_glance")
    at_once = rows.stock_list(larder, "kind")
    assert at_once.pending == 3
    assert [r.now for r in at_once.rows] == [None] * 3
    assert {r.next_act for r in at_once.rows} == {"forecast under way"}
    seen = rows.strips(larder, [small.lots["kale"]])
    assert seen[small.lots["kale"]].now.mid > 0
    assert rows.stock_list(larder, "kind").pending == 2
    rows.warm(larder)
    whole = rows.stock_list(larder, "kind")
    assert whole.pending == 0
    assert [g.name for g in whole.groups] == ["Carrot", "Kale", "Onion"]
    assert all(r.now for r in whole.rows)
    ledger.book_quantity(larder, ref(), small.lots["kale"], "counted", "5")
    assert rows.stock_list(larder, "age").rows[1].seeds == 5
    with pytest.raises(InvalidValue, match="group by"):
        rows.stock_list(larder, "colour")
