"""Quantity that stays true: intervals, shares, what a lot is meant for, use against life."""

import pytest

from brisk_larder.core.base.errors import InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts import ledger, lot_acts
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.growing import sowings
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.stock import labels, lot_page, splitting, triage_page
from tests.conftest import DAY, packet


def ref():
    return ActRef()


def add(larder, **packet):
    return add_seeds(larder, ref(), [NewSeeds(**packet)]).lot_ids[0]


def line(larder, lot):
    return next(x for x in lines.lot_lines(larder) if x.lot_id == lot)


def book(small, lot, kind, amount, sure=""):
    small.larder.clock.at_s += 60
    return ledger.book_quantity(small.larder, ref(), lot, kind, amount, sure)


def balance(small, lot):
    return lot_page.lot_page(small.larder, lot).balance


def test_the_balance_has_an_interval_and_every_entry_stays(small):
    lot = small.lots["carrot"]  # 2 g by the book: 15 % doubt
    start = balance(small, lot)
    assert start.low < start.seeds < start.high
    assert (start.high - start.low) / start.seeds == pytest.approx(2 * 1.2816 * 0.15, rel=0.01)
    book(small, lot, "given", "300")
    after = balance(small, lot)
    assert after.seeds == pytest.approx(start.seeds - 300)
    assert after.high - after.low == pytest.approx(start.high - start.low, rel=0.01)
    book(small, lot, "counted", "900")
    counted = balance(small, lot)
    assert (counted.low, counted.high) == pytest.approx((900 - 23, 900 + 23), abs=1)
    assert [x.kind for x in counted.lines] == ["counted", "given", "found"]
    assert [x.words for x in counted.lines] == ["counted", "given away", "came in"]


def test_about_half_left_is_a_count_of_what_it_last_held(small):
    lot = small.lots["onion"]
    book(small, lot, "counted", "about half the packet left")
    half = balance(small, lot)
    assert half.seeds == pytest.approx(200)
    assert half.high - half.low > 80
    assert half.lines[0].as_said == "about half the packet left"
    book(small, lot, "given", "a quarter of the lot")
    assert balance(small, lot).seeds == pytest.approx(150)
    book(small, lot, "counted", "empty")
    assert balance(small, lot).seeds == 0
    never = add(small.larder, kind="kale", variety="Unweighed", packet_count=200)
    book(small, never, "counted", "half left", "guess")
    assert line(small.larder, never).seeds == pytest.approx(100)
    with pytest.raises(InvalidValue, match="quantity"):
        book(small, lot, "counted", "?")


def test_a_hundred_weighed_correct_what_was_weighed_before(small):
    lot = small.lots["carrot"]
    book_seeds = line(small.larder, lot).seeds
    done = ActRef()
    ledger.weigh_seeds(small.larder, done, lot, 100, 0.1)
    own = line(small.larder, lot)
    assert own.seeds_per_g == 1000
    assert own.seeds == pytest.approx(2000)
    assert own.seeds_sd == pytest.approx(100)  # five per cent, not fifteen
    with pytest.raises(InvalidValue, match="set to that unit"):
        ledger.weigh_seeds(small.larder, ref(), lot, 100, 100)
    history.undo(small.larder, ref(), done.id)
    assert line(small.larder, lot).seeds == pytest.approx(book_seeds)


@pytest.mark.parametrize(
    ("packet", "use", "why"),
    [
        ({"kind": "pea", "treated": True}, "food", "dressed"),
        ({"kind": "pea", "treated": True}, "shoots", "dressed"),
        ({"note": "blue, by the steps"}, "food", "unknown kind"),
    ],
)
def test_dressed_and_unknown_seed_is_never_meant_for_the_table(small, packet, use, why):
    with pytest.raises(InvalidValue, match=why):
        add(small.larder, **packet, intended_use=use)
    lot = add(small.larder, **packet, quantity="200")
    for call in (
        lambda: lot_acts.edit_lot(small.larder, ref(), lot, LotEdit(intended_use=use)),
        lambda: ledger.set_aside(small.larder, ref(), lot, use, "50"),
        lambda: book(small, lot, "eaten", "10"),
    ):
        with pytest.raises(InvalidValue, match=r"meant for|never food"):
            call()
    assert line(small.larder, lot).intended_use == "seed"


def test_a_lot_that_gets_dressed_or_mouldy_leaves_the_table(small):
    lot = add(
        small.larder, kind="lentil", variety="Slate Bead", quantity="1 kg", intended_use="food"
    )
    with pytest.raises(InvalidValue, match="dressed"):
        lot_acts.edit_lot(small.larder, ref(), lot, LotEdit(treated=True))
    book(small, lot, "eaten", "100 g")
    lot_acts.log_event(small.larder, ref(), lot, "mould", "")
    with pytest.raises(InvalidValue, match="after mould"):
        book(small, lot, "eaten", "100 g")
    with pytest.raises(InvalidValue, match="shoots"):
        lot_acts.edit_lot(small.larder, ref(), small.lots["carrot"], LotEdit(intended_use="shoots"))


def test_a_packet_split_off_spoilt_seed_is_spoilt_too_and_so_is_a_bag_with_it(small):
    larder = small.larder
    lot = add(larder, kind="lentil", variety="Slate Bead", year=2025, quantity="1000")
    clean = add(larder, kind="lentil", variety="Slate Bead", year=2025, quantity="1000")
    lot_acts.log_event(larder, ref(), lot, "mould", "")
    larder.clock.at_s += 60
    child = splitting.split_lot(larder, ref(), lot, "100").lot_id
    splitting.merge_lots(larder, ref(), clean, [child], anyway=True)
    for one in (lot, clean):
        with pytest.raises(InvalidValue, match="after mould"):
            lot_acts.edit_lot(larder, ref(), one, LotEdit(intended_use="food"))
        with pytest.raises(InvalidValue):
            triage_page.decide(larder, ref(), one, "food")
        assert labels.labels_of(larder, [one], "")[0].caution == "SPOILT: NEVER EAT"


def test_what_is_set_aside_is_kept_for_its_use(small):
    lot = add(small.larder, kind="lentil", variety="Slate Bead", year=2025, quantity="1000")
    with pytest.raises(InvalidValue, match="set some aside for food first"):
        book(small, lot, "eaten", "100")
    ledger.set_aside(small.larder, ref(), lot, "food", "700")
    assert balance(small, lot).set_aside == {"food": 700}
    book(small, lot, "eaten", "200")
    assert balance(small, lot).set_aside == {"food": 500}
    assert line(small.larder, lot).seeds == 800
    with pytest.raises(InvalidValue, match="500 are set aside"):
        sowings.sow(small.larder, ref(), lot, 400, "outdoors")
    sowings.sow(small.larder, ref(), lot, 250, "outdoors")
    with pytest.raises(InvalidValue, match="in hand"):
        ledger.set_aside(small.larder, ref(), lot, "swap", "300")
    ledger.set_aside(small.larder, ref(), lot, "food", "")
    assert balance(small, lot).set_aside == {}
    lot_acts.edit_lot(small.larder, ref(), lot, LotEdit(intended_use="food"))
    with pytest.raises(InvalidValue, match="meant for food"):
        sowings.sow(small.larder, ref(), lot, 10, "outdoors")


def test_only_seed_meant_for_sowing_covers_a_need(small):
    settings_page.settle(small.larder, ref(), "cool_upland")
    lot = small.lots["carrot"]
    targets.set_target(small.larder, ref(), product="carrots, root cellar", per_week=0.4, weeks=20)
    assert chains.needs_room(small.larder).lines[0].covered[0].lot_id == lot
    lot_acts.edit_lot(small.larder, ref(), lot, LotEdit(intended_use="sale"))
    assert chains.needs_room(small.larder).lines[0].covered == []


def test_yearly_use_is_set_against_the_life_left(small):
    lot = small.lots["onion"]
    for _ in range(3):
        small.larder.clock.at_s += 365 * DAY
        book(small, lot, "given", "20")
    b = balance(small, lot)
    assert b.a_year == pytest.approx(20 * 3 / 4.73, rel=0.06)
    assert b.years_left == pytest.approx(340 / b.a_year)
    assert "years of seed" in b.says
    assert ledger.use_words(9.0, 6.0, False, 120) == (
        "9 years of seed, 6 years of life: about 120 seeds could be given away."
    )
    assert ledger.use_words(9.0, 6.0, False, 0) == "9 years of seed, 6 years of life."
    assert ledger.use_words(3.0, 6.0, False, 0).endswith("you will use it in time.")
    assert "are over" in ledger.use_words(3.0, 0.0, False, 0)
    assert "longer than that" in ledger.use_words(3.0, None, True, 0)
    assert ledger.use_words(None, 6.0, False, 0) == ""
    assert ledger.use_words(0.5, 1.0, False, 0).startswith("6 months of seed, 12 months of life")
    with small.larder.store.read() as session, pytest.raises(NotFound):
        ledger.balance(session, 999, small.larder.now_s(), None, False, 0)


def test_states_codes_tags_and_positions_are_written_and_taken_back(small):
    larder, lot = small.larder, small.lots["kale"]
    done = ActRef()
    edit = LotEdit(
        code="KC", tags="early, early,  for Tam ", section="B", slot="3", state="fetched"
    )
    lot_acts.edit_lot(larder, done, lot, edit)
    now = line(larder, lot)
    assert (now.code, now.tags, now.position) == ("KC", "early, for Tam", "section B, slot 3")
    assert now.state == "fetched"
    lot_acts.move_lot(larder, ref(), lot, small.nodes["porch"], slot="9")
    assert (line(larder, lot).state, line(larder, lot).position) == ("here", "slot 9")
    for bad, why in (
        (LotEdit(code="O1"), "no packet has"),
        (LotEdit(state="eaten"), "here, fetched"),
    ):
        with pytest.raises(InvalidValue, match=why):
            lot_acts.edit_lot(larder, ref(), lot, bad)
    lot_acts.edit_lot(larder, ref(), small.lots["onion"], LotEdit(hybrid=True, crossed_risk=True))
    onion = line(larder, small.lots["onion"])
    assert onion.hybrid
    assert onion.crossed_risk
    nowhere = add(larder, kind="pea")
    with pytest.raises(InvalidValue, match="stands somewhere"):
        lot_acts.edit_lot(larder, ref(), nowhere, LotEdit(slot="2"))


def test_a_bag_of_years_and_a_month_are_understood_on_entry(small):
    bag = add(small.larder, kind="kale", variety="Shaken", date="2021, 2024", quantity="90")
    now = line(small.larder, bag)
    assert (now.parts, now.years, now.origin) == (2, [2021, 2024], "mixed: 2021, 2024")
    month = add(
        small.larder, kind="kale", variety="Late", date="Sep 2025", source="own", code="LATE1"
    )
    assert line(small.larder, month).code == "LATE1"
    assert lot_page.lot_page(small.larder, month).label.origin == "September 2025"
    for field, given in (
        ("price", {"price": -1.0}), ("depth", {"packet_depth_cm": 99.0}), ("date", {"date": "1850"}),
        ("seeds in the packet", {"packet_count": 0}), ("code", {"code": "LATE1"}),
        ("meant for", {"intended_use": "hats"}), ("note", {"note": "x" * 20_001}),
        ("variety", {"variety": "x" * 121}), ("quantity", {"quantity": "9" * 19}),
    ):  # fmt: skip
        with pytest.raises(InvalidValue) as refused:
            add(small.larder, kind="kale", **given)
        assert refused.value.field == field
    settings_page.change_household(small.larder, ref(), {"code_scheme": "spoken"})
    spoken = line(small.larder, add(small.larder, kind="kale", variety="Said"))
    assert len(spoken.code) == 4
    assert spoken.code.isalpha()


def test_a_kept_line_that_is_used_up_stops_no_room(small):
    new = packet("kale", "Solo Frill", 2026, "60", kept_line=True, source="own")
    (lot,) = add_seeds(small.larder, ref(), [new]).lot_ids
    ledger.book_quantity(small.larder, ref(), lot, "counted", "none")
    line = next(x for x in lines.lot_lines(small.larder) if x.lot_id == lot)
    assert (line.seeds, line.verdict.test) == (0, False)
