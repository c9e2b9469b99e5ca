"""What is fetched for the year: each packet once, as one walks, on the page and on paper."""

import io

from pypdf import PdfReader

from brisk_larder.data.acts import ActRef
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.lot_acts import LotEdit, edit_lot
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.needs import chain_acts, chains, pull
from brisk_larder.services.storage import containers


def grown(small, kind, variety, place, plants):
    """A new packet with plenty in it, grown this year."""
    new = NewSeeds(
        kind=kind, variety=variety, year=2026, quantity="300", node_id=small.nodes[place]
    )
    (lot,) = add_seeds(small.larder, ActRef(), [new]).lot_ids
    chain_acts.set_pick(small.larder, ActRef(), lot, plants)
    return lot


def test_packets_stand_by_container_in_walking_order_with_what_they_are_for(small):
    larder = small.larder
    blank = PdfReader(io.BytesIO(pull.pull_pdf(larder))).pages[0].extract_text()
    assert "nothing to fetch yet" in blank
    pea = grown(small, "pea", "Millrace", "porch", 30)
    lettuce = grown(small, "lettuce", "Winter Lamb", "tin", 6)
    for first, other in (("porch", "tin"), ("tin", "porch")):
        containers.set_walk_order(larder, ActRef(), [small.nodes[first], small.nodes[other]])
        found = pull.pull_list(larder)
        assert [s.node_id for s in found.stops] == [small.nodes[first], small.nodes[other]]
    lines = {p.lot_id: p for s in found.stops for p in s.lines}
    assert set(lines) == {pea, lettuce}
    assert lines[pea].seeds >= 30
    assert lines[pea].wanted_for == "Millrace"
    text = PdfReader(io.BytesIO(pull.pull_pdf(larder))).pages[0].extract_text()
    assert text.index("Winter Lamb") < text.index("Millrace")


def test_fetched_seed_still_covers_and_is_ticked(small):
    larder = small.larder
    pea = grown(small, "pea", "Millrace", "porch", 30)
    before = chains.needs_room(larder).lines[0].covered
    assert before
    edit_lot(larder, ActRef(), pea, LotEdit(state="fetched"))
    assert chains.needs_room(larder).lines[0].covered == before
    assert pull.pull_list(larder).fetched == 1
    edit_lot(larder, ActRef(), pea, LotEdit(state="here"))
    assert pull.pull_list(larder).fetched == 0


def test_stars_stand_first_with_their_plants_and_are_taken_back(small):
    larder = small.larder
    assert {s.pick_id for s in pull.stars(larder)} == {None}
    chain_acts.set_pick(larder, ActRef(), small.lots["onion"], 9)
    first = pull.stars(larder)[0]
    assert (first.lot_id, first.plants) == (small.lots["onion"], 9)
    chain_acts.remove_pick(larder, ActRef(), first.pick_id)
    assert {s.pick_id for s in pull.stars(larder)} == {None}
