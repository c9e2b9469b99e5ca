"""The plan of the years in a household: what is settled stays, what crosses is refused with the reason."""

import threading
from datetime import date

import pytest

from brisk_larder.core.base.errors import Conflict, InvalidValue, NotFound
from brisk_larder.core.base.units import day_start_s
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import PlanCell
from brisk_larder.services.acts import ledger
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.growing import settling
from brisk_larder.services.growing.sowings import growing_room, sow
from brisk_larder.services.needs import basket_page, buying
from brisk_larder.services.papers import history
from brisk_larder.services.today import jobs, ribbon
from brisk_larder.services.today.calendar import calendar


@pytest.fixture
def kales(small):
    """Three kept lines of one crossing group with seed for some years, kept cool and dry."""
    larder = small.larder
    for days in range(1, 1200, 30):
        small.read("tin", 10.0, 38.0, days)
    for name in ("Ash Frill", "Beck Plain"):
        new = NewSeeds(
            kind="kale", variety=name, year=2026, quantity="60", kept_line=True, source="own",
            node_id=small.nodes["tin"],
        )  # fmt: skip
        add_seeds(larder, ActRef(), [new])
    ledger.book_quantity(larder, ActRef(), small.lots["kale"], "counted", "60")
    return small


def rows(larder):
    return {r.variety: r for r in growing_room(larder).rows}


def sown(row):
    return [c.year for c in row.cells if c.act == "sow"]


def in_flower(row):
    return [c.year + 1 for c in row.cells if c.act == "sow"]  # kale flowers in its second year


def test_lines_that_cross_flower_in_different_years_and_each_says_why(kales):
    larder = kales.larder
    room = growing_room(larder)
    found = rows(larder)
    assert set(found) == {"Ash Frill", "Beck Plain", "Slate Curl"}
    flowers = [y for r in found.values() for y in in_flower(r)]
    assert len(flowers) == len(set(flowers))
    for r in found.values():
        for c in r.cells:
            assert bool(c.why) == (c.act == "sow")
            assert (
                c.act != "sow"
                or r.last_safe_year is None
                or c.year <= r.last_safe_year
                or c.settled
            )
    assert "No better plan" in room.says
    assert [x.lines for x in room.loads] == [
        sum(r.cells[i].act == "sow" for r in room.rows) for i in range(len(room.years))
    ]


def test_what_is_settled_stays_moves_and_is_taken_back(kales):
    larder = kales.larder
    first = growing_room(larder)
    row, other = rows(larder)["Ash Frill"], rows(larder)["Beck Plain"]
    year = first.years[1]
    if year in sown(other):
        year = first.years[2]
    assert settling.weighed(larder, row.variety_id, year, False) == []
    settling.settle_year(larder, ActRef(), row.variety_id, year)
    cell = next(c for c in rows(larder)["Ash Frill"].cells if c.year == year)
    assert (cell.act, cell.settled) == ("sow", "agreed")
    assert "Settled by you" in cell.why
    # a line that crosses with it is refused there, with its name; kept apart it may
    with pytest.raises(Conflict, match="Ash Frill kale") as refused:
        settling.weighed(larder, other.variety_id, year, False)
    assert refused.value.details["crosses_with"] == [row.variety_id]
    assert settling.weighed(larder, other.variety_id, year, True) == []
    settling.settle_year(larder, ActRef(), other.variety_id, year, apart=True)
    beside = next(c for c in rows(larder)["Beck Plain"].cells if c.year == year)
    assert beside.apart
    assert "Ash Frill" in beside.why
    history.undo(larder, ActRef(), _last(larder))
    assert year not in sown(rows(larder)["Beck Plain"])
    # moved on, and ruled out
    later = year + 1
    settling.settle_year(larder, ActRef(), row.variety_id, later, from_year=year)
    assert later in sown(rows(larder)["Ash Frill"])
    settling.bar_year(larder, ActRef(), row.variety_id, later)
    barred = next(c for c in rows(larder)["Ash Frill"].cells if c.year == later)
    assert (barred.act == "sow", barred.settled) == (False, "barred")
    settling.free_year(larder, ActRef(), row.variety_id, later)
    assert growing_room(larder).rows == first.rows
    with pytest.raises(NotFound):
        settling.free_year(larder, ActRef(), row.variety_id, later)


def _last(larder):
    with larder.store.read() as session:
        run = session.connection().exec_driver_sql
        return run("SELECT id FROM act ORDER BY rowid DESC LIMIT 1").scalar()


def test_a_year_that_is_too_late_asks_first(kales):
    larder = kales.larder
    ledger.book_quantity(larder, ActRef(), kales.lots["kale"], "counted", "22")
    row = rows(larder)["Slate Curl"]
    last = growing_room(larder).years[-1]
    (soon,) = sown(row)[:1]
    assert settling.weighed(larder, row.variety_id, last, True) == []  # once more, of fresh seed
    (said,) = settling.weighed(larder, row.variety_id, last, True, from_year=soon)
    assert "enough mothers with a chance of" in said
    with pytest.raises(InvalidValue, match="year"):
        settling.weighed(larder, row.variety_id, last + 1, False)
    with pytest.raises(NotFound):
        settling.weighed(larder, 999, last, False)


def test_a_whole_year_is_settled_at_once_and_then_no_more(kales):
    larder = kales.larder
    room = growing_room(larder)
    year = next(x.year for x in room.loads if x.lines)
    cells = settling.proposed(larder, year)
    assert settling.settle_all(larder, ActRef(), year, cells).lines == len(cells) > 0
    after = growing_room(larder)
    assert [[c.act for c in r.cells] for r in after.rows] == [
        [c.act for c in r.cells] for r in room.rows
    ]
    assert settling.proposed(larder, year) == []


def test_what_flowers_next_door_and_how_true_a_line_is_to_come(kales):
    larder = kales.larder
    row = rows(larder)["Ash Frill"]
    settling.set_limits(larder, ActRef(), None, None, [("brassica_oleracea", 50.0)])
    assert [n.distance_m for n in settling.next_door(larder)] == [50.0]
    hedged = [c for r in rows(larder).values() for c in r.cells if c.act == "sow"]
    assert hedged
    assert all(c.apart and "hedge" in c.why for c in hedged)
    settling.set_purity(larder, ActRef(), row.variety_id, "any", row.version)
    free = rows(larder)["Ash Frill"]
    assert free.purity == "any"
    assert not any(c.apart for c in free.cells)
    settling.set_limits(larder, ActRef(), None, None, [])
    assert settling.next_door(larder) == []
    for plots in ([("beetroot!", 5.0)], [("brassica_oleracea", -1.0)]):
        with pytest.raises(InvalidValue):
            settling.set_limits(larder, ActRef(), None, None, plots)
    with pytest.raises(InvalidValue, match="how true"):
        settling.set_purity(larder, ActRef(), row.variety_id, "perfect")


def test_bed_and_work_have_their_limits(kales):
    larder = kales.larder
    settling.set_limits(larder, ActRef(), 0.5, 1, [])
    room = growing_room(larder)
    assert any(x.borrowed_m2 > 0 for x in room.loads)
    busy = [x for x in room.loads if x.lines > 1]
    assert all(x.beyond == x.lines - 1 for x in busy)


def test_what_cannot_be_had_all_at_once_is_told_with_its_way_out(kales):
    larder = kales.larder
    assert growing_room(larder).ways_out == []
    settling.set_limits(larder, ActRef(), 2.0, 1, [("brassica_oleracea", 50.0)], roots=3)
    room = growing_room(larder)
    told = {(o.year, o.kind): o for o in room.ways_out}
    for x in room.loads:
        assert ((x.year, "bed") in told) == (x.borrowed_m2 > 0)
        assert ((x.year, "work") in told) == (x.beyond > 0)
        assert ((x.year, "store") in told) == (x.over_store > 0)
    assert {"store", "bed"} <= {kind for _, kind in told}
    crossing = next(o for o in room.ways_out if o.kind == "crossing")
    assert "over the hedge" in crossing.says
    assert crossing.way.startswith("bag ")
    # so little bed that no line is worth it: each is named with the year in which its seed fails
    settling.set_limits(larder, ActRef(), 0.1, 1, [("brassica_oleracea", 50.0)], roots=3)
    lost = [o for o in growing_room(larder).ways_out if o.kind == "lost"]
    left = [r for r in rows(larder).values() if not sown(r) and not all(c.safe for c in r.cells)]
    assert left
    assert {i for o in lost for i in o.variety_ids} == {r.variety_id for r in left}
    assert {o.year for o in lost} == {next(c.year for c in r.cells if not c.safe) for r in left}
    settling.set_limits(larder, ActRef(), None, 3, [], roots=None)
    # a line that is grown though its mothers are not promised
    ledger.book_quantity(larder, ActRef(), kales.lots["kale"], "counted", "17")
    unsafe = [o for o in growing_room(larder).ways_out if o.kind == "unsafe"]
    assert [o.variety_ids for o in unsafe] == [[rows(larder)["Slate Curl"].variety_id]]


def test_a_biennial_is_not_settled_for_two_years_running(kales):
    larder = kales.larder
    room = growing_room(larder)
    row, year = rows(larder)["Ash Frill"], room.years[1]
    settling.settle(larder, ActRef(), row.variety_id, year, apart=True, anyway=True)
    for clash in (year + 1, year - 1):
        with pytest.raises(Conflict, match=f"settled for {year} already") as refused:
            settling.settle(larder, ActRef(), row.variety_id, clash, apart=True, anyway=True)
        assert "leave" in str(refused.value)
    # moved there it may
    settling.settle(
        larder, ActRef(), row.variety_id, year + 1, from_year=year, apart=True, anyway=True
    )
    assert year + 1 in sown(rows(larder)["Ash Frill"])


def test_years_that_cannot_be_stop_no_room_and_are_told(kales):
    """As another hand, or a file that was brought in, may have them."""
    larder = kales.larder
    row = rows(larder)["Ash Frill"]
    years = growing_room(larder).years
    with larder.store.write() as session:
        for year in (*years[:4], 1900, 2200):
            session.add(PlanCell(variety_id=row.variety_id, year=year))
    room = growing_room(larder)
    assert sown(rows(larder)["Ash Frill"])[:2] == [years[0], years[2]]
    (told,) = [w for w in room.ways_out if w.kind == "settled"]
    assert f"settled for {years[0]}, {years[1]}, {years[2]} and {years[3]}" in told.says
    assert told.way == (
        f"grow it in {years[0]} and {years[2]}, and leave {years[1]} and {years[3]} to the plan"
    )
    for look in (jobs.today_room, ribbon.ribbon, calendar, jobs.counts):
        assert look(larder)


def test_a_year_settled_whose_sowing_is_over_is_told_and_one_that_was_sown_stays(kales):
    larder = kales.larder
    row, year = rows(larder)["Slate Curl"], 2027
    settling.settle(larder, ActRef(), row.variety_id, year, apart=True, anyway=True)
    larder.clock.at_s = day_start_s(date(2027, 8, 20), "Europe/London")
    room = growing_room(larder)
    assert [(m.name, m.year) for m in room.missed] == [("Slate Curl kale", 2027)]
    assert year not in sown(rows(larder)["Slate Curl"])
    (job,) = [p for p in jobs.today_room(larder).later if p.kind == "missed"]
    assert "Slate Curl kale was to be grown anew in 2027" in job.title
    with pytest.raises(InvalidValue, match="sowing in 2027 is over"):
        settling.settle(larder, ActRef(), rows(larder)["Ash Frill"].variety_id, 2027, anyway=True)
    # it was sown after all, and nobody had written it down: put right, dated back
    sow(larder, ActRef(), kales.lots["kale"], 40, on="2027-05-02")
    assert growing_room(larder).missed == []
    cells = {c.year: c for c in rows(larder)["Slate Curl"].cells}
    assert (cells[2027].act, cells[2028].act) == ("sow", "flower")
    # when that year is over its seed counts as seed to come, and it is not sown anew at once
    larder.clock.at_s = day_start_s(date(2028, 2, 1), "Europe/London")
    cells = {c.year: c for c in rows(larder)["Slate Curl"].cells}
    assert cells[2029].chance > 0.9
    assert cells[2028].act != "sow"


def test_of_two_that_cross_settled_at_once_one_is_refused(kales):
    larder = kales.larder
    year = growing_room(larder).years[1]
    two = [rows(larder)[name].variety_id for name in ("Ash Frill", "Beck Plain")]
    for variety in two:  # neither is there by the plan
        settling.bar_year(larder, ActRef(), variety, year)
    taken, refused = [], []
    start = threading.Barrier(2)

    def one(variety):
        start.wait()
        try:
            settling.settle(larder, ActRef(), variety, year, anyway=True)
            taken.append(variety)
        except Conflict:
            refused.append(variety)

    threads = [threading.Thread(target=one, args=(v,)) for v in two]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert (len(taken), len(refused)) == (1, 1)


def test_a_line_whose_seed_is_on_its_way_is_not_sought_again(kales):
    larder = kales.larder
    ledger.book_quantity(larder, ActRef(), kales.lots["kale"], "counted", "3")
    before = rows(larder)["Slate Curl"]
    assert before.cells[0].chance < 0.5
    said = buying.OfferSaid("Fellside seed barn", "kale", 400, 2.0, "slate curl", 0.9)
    buying.say_offer(larder, ActRef(), said)
    offer = basket_page.basket_room(larder).offers[0].offer_id
    (order,) = buying.order(larder, ActRef(), {offer: 1}).order_ids
    assert rows(larder)["Slate Curl"].cells[0].chance > 0.95
    ledger.book_quantity(larder, ActRef(), kales.lots["kale"], "counted", "0")
    buying.never_came(larder, ActRef(), order)
    assert rows(larder)["Slate Curl"].cells[0].chance < 0.5
