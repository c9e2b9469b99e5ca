"""The door: what is told today does not change yesterday, and words keep their meaning."""

import csv
import io

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue
from brisk_larder.core.base.units import YEAR_S
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Sowing
from brisk_larder.formats.stock_csv import ADDED, read_stock
from brisk_larder.reference import load_reference
from brisk_larder.services.acts import ask_before, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.household.kind_types import of_types
from brisk_larder.services.household.kinds import Kinds, _overlaid
from brisk_larder.services.needs import basket_page, buying, chains, pull, targets
from brisk_larder.services.papers import history
from brisk_larder.services.stock import (
    filing_page,
    lot_page,
    rows,
    sheet,
    splitting,
    stock_files,
    stock_table,
)
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import bench, past
from tests.conftest import DAY, opened
from tests.services.stock.test_since import PLACES, add, at, box, now, place


@settings(max_examples=25)
@given(
    st.sampled_from(["pea", "maize", "onion", "lettuce", "carrot"]),
    st.lists(st.integers(2016, 2026), min_size=1, max_size=4),
    st.sampled_from(["bought", "own", "gift"]),
    st.sampled_from([None, *PLACES]),
)
def test_seed_without_a_year_is_never_better_than_the_newest_with_one(
    templates, tmp_path_factory, kind, years, source, where
):
    larder = next(opened(templates[0], tmp_path_factory.mktemp("door") / "larder.sqlite3"))
    node = None if where is None else place(larder, where)
    more = {"source": source, "node_id": node, "since": "since it came"}
    dated = [add(larder, kind, f"Y{y}", y, **more) for y in dict.fromkeys(years)]
    guessed = now(larder, add(larder, kind, "No year", None, **more))
    best = max((now(larder, lot) for lot in dated), key=lambda g: g[1])
    assert guessed[1] <= best[1] + 0.002
    larder.store.close()


def test_what_was_typed_stays_and_its_type_is_read_chosen_and_changed(small):
    larder = small.larder
    lot = add(larder, "popcorn", "Ruby Glass", 2024, "half a packet")
    page = lot_page.lot_page(larder, lot)
    assert page.written.as_typed == "popcorn | Ruby Glass | 2024 | half a packet"
    assert page.written.type_names == ["popcorn"]
    assert page.line.type_name == "popcorn"
    lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(types="sweet,pop", variety="Ruby"))
    page = lot_page.lot_page(larder, lot)
    assert page.written.types == ["sweet", "pop"]
    assert page.written.as_typed == "popcorn | Ruby Glass | 2024 | half a packet"
    with pytest.raises(InvalidValue, match="sweet, pop, flint"):
        lot_acts.edit_lot(larder, ActRef(), lot, LotEdit(types="snap"))
    # two types of one name are two varieties
    other = add(larder, "flint maize", "Ruby", 2024)
    assert lot_page.lot_page(larder, other).written.types == ["flint"]
    assert lot_page.lot_page(larder, lot).written.types == ["sweet", "pop"]


def line(larder, target):
    return next(x for x in chains.needs_room(larder).lines if x.target_id == target)


def want(larder, product, per_week=0.3, weeks=20, **more):
    made = targets.set_target(
        larder, ActRef(), product=product, per_week=per_week, weeks=weeks, **more
    )
    return made.target_id


def test_popcorn_is_not_fetched_for_frozen_sweet_corn(small):
    larder = small.larder
    pop = add(larder, "popcorn", "Ruby Glass", 2026, "500")
    unsaid = add(larder, "maize", "Grandmother", 2026, "500")
    food = want(larder, "sweetcorn, cut, frozen")
    found = line(larder, food)
    assert found.types == ["sweet corn"]
    assert found.short_plants == found.plants
    assert found.covered == []
    assert [p.split()[0] for p in found.pinch] == [at(larder, unsaid).code]
    assert pull.pull_list(larder).stops == []
    # the basket buys the type
    for name in ("Gold popcorn", "Early sweet corn"):
        said = buying.OfferSaid("Fellside seed barn", "maize", 100, 2.0, variety=name, lead_days=5)
        buying.say_offer(larder, ActRef(), said)
    chosen = [o.variety for o in basket_page.basket_room(larder).offers if o.chosen]
    assert chosen == ["Early sweet corn"]
    # the keeper says that another will do, or what the packet is
    targets.set_target(
        larder, ActRef(), product="sweetcorn, cut, frozen", per_week=0.3, weeks=20, target_id=food,
        version=found.version, types="sweet,pop",
    )  # fmt: skip
    assert [c.lot_id for c in line(larder, food).covered] == [pop]
    lot_acts.edit_lot(larder, ActRef(), unsaid, LotEdit(types="sweet"))
    lot_acts.edit_lot(larder, ActRef(), pop, LotEdit(state="gone"))
    assert [c.lot_id for c in line(larder, food).covered] == [unsaid]


@pytest.mark.parametrize(
    ("product", "per_week", "plants"),
    [
        ("dry beans, stored", 0.2, (165, 195)), ("coriander seed, dried spice", 0.02, (105, 125)),
        ("amaranth grain, dry stored", 0.2, (280, 310)), ("soybeans, dry stored", 0.2, (400, 440)),
        ("popcorn, dry stored", 0.2, (90, 105)),
    ],
)  # fmt: skip
def test_what_is_eaten_as_seed_has_the_yield_of_seed(small, product, per_week, plants):
    found = line(small.larder, want(small.larder, product, per_week, 50))
    assert plants[0] <= found.plants <= plants[1]


def test_a_worse_packet_reads_worse(small):
    larder = small.larder
    more = {"quantity": "300", "year": 2026}
    at_60 = add(larder, "leek", "Sixty", stated_germination=0.60, stated_as="tested", **more)
    none = add(larder, "leek", "None", **more)
    at_90 = add(larder, "leek", "Ninety", stated_germination=0.90, **more)
    least = add(larder, "leek", "Least", stated_germination=0.60, stated_as="at_least", **more)
    shares = [at(larder, x).glance.start for x in (at_60, none, at_90, least)]
    assert shares[0] == pytest.approx(0.60, abs=0.02)
    assert shares[0] < shares[1]
    assert shares[2] == pytest.approx(0.90, abs=0.03)
    assert shares[3] >= shares[1]


def test_naming_what_has_passed_moves_it_by_its_day(small):
    larder = small.larder
    pea = add(larder, "pea", "Old Weir")
    warm = place(larder, "greenhouse")
    was = now(larder, pea)
    lot_acts.move_lot(larder, ActRef(), pea, warm, on="since about 2020")
    assert now(larder, pea)[1] < was[1]
    (first, second) = lot_page.lot_page(larder, pea).where_it_went
    assert (first.known, second.known) == (False, True)
    assert second.days == pytest.approx((larder.now_s() - first.to_s) / DAY, abs=1)
    assert (larder.now_s() - second.from_s) / YEAR_S == pytest.approx(6.4, abs=0.1)


def test_the_stock_file_carries_types_words_and_since_and_older_ones_are_read(
    small, templates, tmp_path
):
    larder = next(opened(templates[0], tmp_path / "other.sqlite3"))
    lot = add(small.larder, "popcorn", "Ruby", 2017, "half a packet", node_id=small.nodes["tin"],
              stated_germination=0.7, stated_as="at_least")  # fmt: skip
    part = splitting.split_lot(small.larder, ActRef(), lot, "5").lot_id
    assert lot_page.lot_page(small.larder, part).written.as_typed.startswith("popcorn | Ruby")
    text = stock_table.stock_csv(small.larder)
    stock_files.import_stock(larder, ActRef(), "stock.csv", text.encode())

    def told(of, code):
        x = next(x for x in lot_lines(of) if x.code == code)
        written = lot_page.lot_page(of, x.lot_id).written
        return written.as_typed, written.types, written.stated_as, x.glance.now

    code = at(small.larder, lot).code
    assert told(larder, code)[:3] == told(small.larder, code)[:3]
    assert told(larder, code)[3].mid == pytest.approx(told(small.larder, code)[3].mid, abs=0.03)
    # a file of before has none of these columns
    table = list(csv.reader(io.StringIO(text)))
    kept = [i for i, name in enumerate(table[0]) if name not in ADDED]
    older = io.StringIO()
    csv.writer(older).writerows([[row[i] for i in kept] for row in table])
    assert len(read_stock(older.getvalue().encode(), "old.csv")) == len(table) - 1
    larder.store.close()


def test_a_packet_that_no_food_can_use_is_not_wanted_for_it(small):
    larder = small.larder
    sown = add(larder, "kale", "Sown", 2025)
    sowings.sow(larder, ActRef(), sown, 5)  # from now on what is not asked for is not wanted
    pop, sweet = (add(larder, kind, kind, 2019, "300") for kind in ("popcorn", "sweet corn"))
    want(larder, "sweetcorn, cut, frozen")
    assert at(larder, pop).glance.advice.code == "unused"
    # only the book condemns it: where a test is the next act, its reason is no "no test needed"
    assert at(larder, pop).verdict.acts[:2] == ("test", "sow_thick")
    assert "test it before you let it go" in at(larder, pop).glance.advice.why
    assert at(larder, sweet).glance.advice.code != "unused"


def test_what_the_preview_says_of_an_age_is_what_is_kept(small):
    larder = small.larder
    text = "kind,name,year\nleek,A,2012\nleek,B,2014\nleek,C,\n"
    look = sheet.look_at_sheet(text, "t.csv")
    seen = sheet.check_sheet(larder, text, "t.csv", look.mapping, None)
    assert "no year: taken as about 14 years old, 15 at most" in seen[2].assumed
    done = sheet.take_sheet(larder, ActRef(), text, "t.csv", look.mapping, None, [])
    assert round(at(larder, done.lot_ids[2]).age_years) == 14


def test_seed_that_nobody_knows_is_not_judged_until_it_was_tested(small):
    larder = small.larder
    lot = add(larder, "whatsit", "by the sluice", 2001, "3 g")
    assert at(larder, lot).seeds is None
    assert at(larder, lot).next_act == "say what kind it is"
    listed = {r.lot_id: r.named for r in rows.stock_list(larder, "kind").rows}
    assert [i for i, named in listed.items() if not named] == [lot]
    past.past_test(larder, ActRef(), lot, 9, 10, took_seeds=False)
    assert at(larder, lot).next_act != "say what kind it is"
    kale = add(larder, "?", "tall", 2024, "200")
    lot_acts.edit_lot(larder, ActRef(), kale, LotEdit(kind="kale"))
    assert at(larder, kale).verdict.standing not in ("unnamed", "none")


@pytest.mark.parametrize(("kind", "since", "wider"), [("pea", 2018, 0.1), ("onion", 2023, 0.0)])
def test_an_age_that_nobody_knows_is_wider_than_that_age(small, kind, since, wider):
    larder = small.larder
    for year in (since, 2026):
        add(larder, kind, f"Y{year}", year)
    lot = add(larder, kind, "No year", None)
    low, mid, high = now(larder, lot)
    dated = now(larder, add(larder, kind, "Dated", 2026 - round(at(larder, lot).age_years or 0)))
    assert high - low > dated[2] - dated[0] + wider
    assert mid <= dated[1]


def test_what_somebody_found_once_becomes_a_test_with_its_own_doubt(small):
    larder = small.larder
    text = "kind,name,year,germination,test date\nkale,A,2020,9/10,\nkale,B,2020,72 %,\n"
    text += "kale,C,2020,9 of 10,12 Mar 2026\n"
    look = sheet.look_at_sheet(text, "t.csv")
    seen = sheet.check_sheet(larder, text, "t.csv", look.mapping, None)
    assert "a test: 9 of 10, nobody wrote when: it counts less" in seen[0].assumed
    done = sheet.take_sheet(larder, ActRef(), text, "t.csv", look.mapping, None, [])
    a, b, c = (at(larder, i).glance for i in done.lot_ids)
    assert [(len(g.tests), g.tests[0].n) for g in (a, c)] == [(1, 10), (1, 10)]
    assert (b.tests[0].up, b.tests[0].n) == (7, 10)  # of how many nobody wrote
    plain = at(larder, add(larder, "kale", "D", 2020)).glance
    assert c.now.mid > plain.now.mid
    assert c.now.high - c.now.low < a.now.high - a.now.low < plain.now.high - plain.now.low
    with pytest.raises(BadFile, match=r"line 2, tested: .*; line 3, tested"):
        bad = text.replace("9/10", "11/10").replace("72 %", "good")
        sheet.take_sheet(larder, ActRef(), bad, "t.csv", look.mapping, None, [])


def test_a_day_that_could_be_two_is_asked_once_for_the_sheet(small):
    larder = small.larder
    text = "kind,name,year\nkale,A,03/04/2024\nkale,B,5/6/2023\n"
    look = sheet.look_at_sheet(text, "t.csv")
    assert look.either_day == ["03/04/2024", "3 April 2024", "4 March 2024"]

    def days(text, **more):
        seen = sheet.check_sheet(larder, text, "t.csv", look.mapping, None, **more)
        return [u.date_words for u in seen]

    assert days(text, day_first=True) == ["3 Apr 2024", "5 Jun 2023"]
    assert days(text, day_first=False) == ["4 Mar 2024", "6 May 2023"]
    shown = text + "kale,C,12/25/2023\n"  # another row settles it
    assert sheet.look_at_sheet(shown, "t.csv").either_day == []
    assert days(shown) == ["4 Mar 2024", "6 May 2023", "25 Dec 2023"]


def test_bare_years_in_a_row_are_asked(small):
    with pytest.raises(Conflict, match="one bag of the years 2022, 2023 and 2024"):
        ask_before.heed(
            ask_before.adding(small.larder, [NewSeeds(kind="kale", date="22, 23, 24")]), False
        )
    assert ask_before.adding(small.larder, [NewSeeds(kind="kale", date="2022: 50, 2023: 30")]) == []


def test_a_food_may_be_made_of_several_kinds(small):
    larder = small.larder
    dry = add(larder, "bush bean", "Brindle, dry beans", 2025, "300")
    pods = add(larder, "bush bean", "Sluice, for pods", 2025, "300")
    runner = add(larder, "runner bean", "Red, for drying", 2025, "90")

    def beans(**more):
        targets.set_target(
            larder, ActRef(), product="dry beans, stored", per_week=0.15, weeks=20, **more
        )
        (line,) = chains.needs_room(larder).lines
        return line

    line = beans()
    assert not line.covered
    line = beans(also=["bean_bush", "runner_bean", "bean_pole"], target_id=line.target_id)
    assert line.also == ["bean_bush", "runner_bean"]
    lots = {c.lot_id for c in line.covered}
    assert lots
    assert lots <= {dry, runner}
    assert pods not in lots
    larder.clock.at_s = int(line.sow_from_s) + 25 * DAY
    sown = {j.subject for j in jobs.today_room(larder).jobs if j.kind == "sow"}
    assert {f"lot:{i}" for i in lots} <= sown
    with pytest.raises(InvalidValue, match="or also"):
        beans(also=["unheard of"], target_id=line.target_id)


def test_tins_take_what_lies_nowhere_and_all_are_used(small):
    larder = small.larder
    tins = [box(larder, small.nodes["larder"], capacity_lots=10) for _ in range(3)]
    loose = [add(larder, "kale", f"Loose {i}") for i in range(9)]
    assert filing_page.division(larder, "kind", tins).boxes == []
    found = filing_page.division(larder, "kind", tins, loose=True)
    assert [b.node_id for b in found.boxes] == tins
    assert set(loose) <= set(found.into)


def test_what_was_taken_back_leaves_its_code_free(small):
    larder = small.larder
    ref = ActRef()
    lot = add_seeds(larder, ref, [NewSeeds(kind="kale", variety="Slip", quantity="9")]).lot_ids[0]
    code = at(larder, lot).code
    back = ActRef()
    history.undo(larder, back, ref.id)
    again = add(larder, "kale", "Other")
    assert at(larder, again).code == code
    with pytest.raises(Conflict):
        history.undo(larder, ActRef(), back.id)  # its code has gone to another meanwhile
    assert at(larder, again).variety == "Other"


def test_what_this_year_asks_for_is_tested_first(small):
    larder = small.larder
    targets.set_target(
        larder, ActRef(), product="kale, frozen", per_week=0.4, weeks=20, name="Kale"
    )
    for kind in ("parsnip", "kale", "leek"):
        add(larder, kind, "Old", 2023, "300")
    with larder.store.write() as session:
        sowing = Sowing(lot_id=small.lots["carrot"], at_s=larder.now_s() - 90 * DAY, n=5)
        session.add(sowing)
    wanted = bench.bench(larder).wanted
    named = [w.wanted_for for w in wanted]
    assert named == sorted(named, key=lambda x: not x)
    assert all(("Kale" in w.wanted_for) == (w.line.kind == "kale") for w in wanted)


def test_a_type_has_its_own_days_and_spacing(small):
    larder = small.larder

    def bed(types):
        found = targets.set_target(
            larder,
            ActRef(),
            product="salad roots",
            crop="radish",
            per_week=0.5,
            weeks=10,
            types=types,
        )
        line = next(x for x in chains.needs_room(larder).lines if x.target_id == found.target_id)
        return line.bed_m2 / line.plants, line.row_m / line.plants

    summer, winter = bed("summer"), bed("winter")
    row = load_reference().type_rows["radish", "winter"]
    assert winter[1] == pytest.approx(row.spacing_in_row_cm / 100, rel=0.05)
    assert winter[0] > 3 * summer[0]
    kind = Kinds(_overlaid(False, (), (), (), ()).by_key).get("radish")
    assert of_types(kind, ["winter"]).crop.days_to_maturity.low > kind.crop.days_to_maturity.high
    assert of_types(kind, []) is kind
