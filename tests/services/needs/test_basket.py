"""Buying seed: lists are taken in, the cheapest set closes what is short, what came becomes packets."""

import json
from datetime import date

import pytest

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.formats.offers_json import read_offers
from brisk_larder.reference import load_reference
from brisk_larder.services.needs import basket_page, buying, chains, targets
from brisk_larder.services.papers import history
from brisk_larder.services.trials import trial_acts as trials
from brisk_larder.standins.merchant import merchant_json


def ref():
    return ActRef()


def new_seed():
    crops = load_reference().crops
    return {k: (c.seeds_per_g, c.typical_initial_germination_pct / 100) for k, c in crops.items()}


def offered(**more):
    usual = {
        "ref": "p1", "kind": "pea", "variety": "Long Comet", "pack_seeds": 200, "price": 3.0,
        "stated_germination": 0.9,
    }  # fmt: skip
    return usual | more


def told(*offers, seller="Rushbank Seeds", postage=2.0, lead_days=7):
    whole = {"seller": seller, "postage": postage, "lead_days": lead_days, "offers": list(offers)}
    return read_offers(json.dumps(whole).encode())


def take(larder, *offers, **more):
    return buying.take_list(larder, ref(), told(*offers, **more))


@pytest.fixture
def short(small):
    """A household that wants peas and has none."""
    targets.set_target(small.larder, ref(), product="frozen peas", per_week=0.2, weeks=20)
    assert chains.needs_room(small.larder).lines[0].short_plants
    return small


def test_the_cheapest_set_closes_what_is_short_and_says_by_when(short):
    larder = short.larder
    assert "bring in a seller's list" in basket_page.basket_room(larder).says
    take(
        larder,
        offered(),
        offered(ref="p2", pack_seeds=500, price=4.5),
        offered(ref="k1", kind="kale"),
    )
    room = basket_page.basket_room(larder)
    (gap,) = room.gaps
    assert gap.says == "closed"
    chosen = [o for o in room.offers if o.chosen]
    assert {o.kind_name for o in chosen} == {"pea"}
    assert room.price == pytest.approx(sum(o.chosen * o.price for o in chosen) + 2.0)
    assert gap.order_by_s > larder.now_s()
    # the day that Needs has, by the household's own days to order: no seller here wants more
    line = next(x for x in chains.needs_room(larder).lines if x.key == gap.key)
    assert gap.order_by_s == line.order_by_s
    assert "To be ordered by" in basket_page.order_words(room)
    kale = next(o for o in room.offers if o.kind_name == "kale")
    assert kale.says == "nothing is short of it"
    # too dear for the budget: left open, and said
    buying.set_budget(larder, ref(), 3.0)
    assert "left open" in basket_page.basket_room(larder).says
    buying.set_budget(larder, ref(), None)
    # what would come too late is not taken
    take(larder, offered(), lead_days=300)
    late = basket_page.basket_room(larder)
    assert late.gaps[0].says == "what is offered would come too late"
    assert late.offers[0].says == "would come too late"


def test_a_list_is_taken_in_again_as_it_is_now(short):
    larder = short.larder
    first = take(larder, offered(), offered(ref="p2"), offered(ref="x", kind="moonfruit"))
    assert (first.new, first.unknown) == (2, ["moonfruit"])
    again = take(larder, offered(price=9.0), offered(ref="p3"))
    assert (again.new, again.changed, again.gone) == (1, 1, 1)
    assert {o.price for o in basket_page.basket_room(larder).offers} == {9.0, 3.0}
    with pytest.raises(BadFile) as refused:
        told(
            offered(price=-1),
            offered(pack_seeds="many"),
            offered(sale_ends="soon"),
            offered(kind=" "),
        )
    where = {(p["line"], p["field"]) for p in refused.value.problems}
    assert where == {(1, "price"), (2, "pack_seeds"), (3, "sale_ends"), (4, "kind")}
    with pytest.raises(BadFile, match="no list"):
        read_offers(b"[]")


def test_what_was_ordered_becomes_packets_and_closes_the_gap(short):
    larder = short.larder
    take(larder, offered(pack_seeds=2000, price=5.0))
    (offer,) = basket_page.basket_room(larder).offers
    made = buying.order(larder, ref(), {offer.offer_id: 1})
    assert basket_page.basket_room(larder).orders[0].state == "ordered"
    buying.came(larder, ref(), made.order_ids, short.nodes["tin"])
    (line,) = [x for x in chains.lot_lines(larder) if x.kind == "pea"]
    assert (line.variety, line.seeds, line.source) == ("Long Comet", 2000, "bought")
    assert not chains.needs_room(larder).lines[0].short_plants
    room = basket_page.basket_room(larder)
    assert (room.orders[0].lot_id, room.spent) == (line.lot_id, 5.0)
    with pytest.raises(Conflict):
        buying.came(larder, ref(), made.order_ids)
    with pytest.raises(InvalidValue, match="orders"):
        buying.came(larder, ref(), [])
    other = buying.order(larder, ref(), {offer.offer_id: 2})
    buying.never_came(larder, ref(), other.order_ids[0])
    assert basket_page.basket_room(larder).spent == 5.0


def test_a_wish_warns_of_what_is_owned_and_says_what_that_saves(small):
    larder = small.larder
    take(larder, offered(kind="carrot", variety="Ember Root", price=4.0, pack_seeds=1000))
    buying.wish(larder, ref(), "carrot", "Ember Root", plants=30, priority=2)
    buying.wish(larder, ref(), "pea", priority=5, place="by the wall")
    room = basket_page.basket_room(larder)
    assert [g.name for g in room.gaps] == ["pea", "Ember Root carrot"]  # what matters most first
    owned = room.gaps[1]
    carrot = small.line("carrot")
    if carrot.verdict.standing == "good":
        assert owned.owned.startswith(carrot.code)
        assert room.saved == 4.0
        assert not any(o.chosen for o in room.offers)
    else:
        assert owned.says == "closed"
    buying.drop_wish(larder, ref(), owned.wish_id)
    assert len(basket_page.basket_room(larder).gaps) == 1
    for bad in (
        {"kind": "moonfruit"},
        {"kind": "pea", "priority": 9},
        {"kind": "pea", "plants": 0},
    ):
        with pytest.raises(InvalidValue):
            buying.wish(larder, ref(), **bad)


def test_a_seller_is_believed_as_its_seed_came_up_here(short):
    larder = short.larder
    take(larder, offered(pack_seeds=400))
    (before,) = basket_page.basket_room(larder).offers
    made = buying.order(larder, ref(), {before.offer_id: 1})
    buying.came(larder, ref(), made.order_ids, short.nodes["tin"])
    lot = next(x.lot_id for x in chains.lot_lines(larder) if x.kind == "pea")
    test = trials.start_trial(larder, ref(), lot, 20)
    larder.clock.at_s += 20 * 86_400
    trials.count_trial(larder, ref(), test.trial_id, trials.CountEntry(normal=8), True)
    room = basket_page.basket_room(larder)
    assert "worse than stated" in room.sellers[0].record
    assert room.offers[0].germinates < before.germinates


def test_an_offer_is_typed_changed_and_taken_off(small):
    larder = small.larder
    said = buying.OfferSaid("Gleaner's Barn", "pea", 100, 2.5, "Harrow Early", 0.85, postage=1.5)
    buying.say_offer(larder, ref(), said)
    (line,) = basket_page.basket_room(larder).offers
    assert (line.seller, line.price, line.lead_days) == ("Gleaner's Barn", 2.5, 14)
    buying.drop_offer(larder, ref(), line.offer_id)
    assert basket_page.basket_room(larder).offers == []
    with larder.store.read() as session:
        run = session.connection().exec_driver_sql
        last = run("SELECT id FROM act ORDER BY rowid DESC LIMIT 1").scalar()
    history.undo(larder, ref(), last)
    assert len(basket_page.basket_room(larder).offers) == 1
    for field, more in (
        ("price", {"price": -1.0}),
        ("seeds", {"pack_seeds": 0}),
        ("kind", {"kind": "x"}),
    ):
        wrong = {"seller": "A", "kind": "pea", "pack_seeds": 5, "price": 1.0} | more
        with pytest.raises(InvalidValue, match=field):
            buying.say_offer(larder, ref(), buying.OfferSaid(**wrong))


def test_the_stand_in_speaks_as_a_real_merchant_would():
    text = merchant_json("Rushbank Seeds", new_seed(), date(2026, 11, 24), 1)
    found = read_offers(text.encode())
    assert len(found.offers) > 30
    assert text == merchant_json("Rushbank Seeds", new_seed(), date(2026, 11, 24), 1)
    assert all(0.3 <= o.stated_germination <= 0.99 for o in found.offers)


def test_one_order_told_three_times_comes_once_and_the_last_pack_is_sold_once(short):
    larder = short.larder
    take(larder, offered(packs_left=2))
    (offer,) = basket_page.basket_room(larder).offers
    one = buying.order(larder, ref(), {offer.offer_id: 2})
    with pytest.raises(InvalidValue, match="at most the 0"):
        buying.order(larder, ref(), {offer.offer_id: 1})
    before = len(chains.lot_lines(larder))
    buying.came(larder, ref(), one.order_ids * 3)
    assert len(chains.lot_lines(larder)) == before + 1
    with pytest.raises(InvalidValue, match="packs left"):
        buying.say_offer(larder, ref(), buying.OfferSaid("S", "pea", 9, 1.0, packs_left=-1))


@pytest.mark.parametrize(
    ("field", "value"),
    [("hybrid", "no"), ("pack_seeds", 1.9), ("variety", 7), ("packs_left", -1), ("price", True),
     ("stated_germination", 0), ("kind", None)],
)  # fmt: skip
def test_what_an_offer_cannot_be_is_named_by_packet_and_field(field, value):
    with pytest.raises(BadFile) as refused:
        told(offered(), offered(ref="p2", **{field: value}))
    assert {(p["line"], p["field"]) for p in refused.value.problems} == {(2, field)}


def test_a_packet_named_twice_in_a_list_is_one_and_no_name_is_none(short):
    larder = short.larder
    done = take(larder, offered(variety=None), offered(price=4.0))
    assert (done.new, done.changed) == (1, 1)
    (one,) = basket_page.basket_room(larder).offers
    assert (one.variety, one.price) == ("Long Comet", 4.0)


def test_a_long_list_is_weighed_within_bounds_and_says_so(short):
    larder = short.larder
    many = [
        offered(ref=f"p{i}", variety=f"V{i}", pack_seeds=20 + i, price=2.0 + i / 20)
        for i in range(60)
    ]
    for seller in "ABCDEF":
        take(larder, *many, seller=seller)
    asked = []
    real = basket_page.seeds_to_buy

    def counted(*args, **more):
        asked.append(args)
        return real(*args, **more)

    basket_page.seeds_to_buy = counted
    try:
        room = basket_page.basket_room(larder)
    finally:
        basket_page.seeds_to_buy = real
    assert len(asked) <= load_reference().figures.basket.most_weighed + 100
    assert "not every one was weighed" in room.says
    assert any(o.chosen for o in room.offers)
