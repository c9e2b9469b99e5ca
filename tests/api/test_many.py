"""Many packets in one act: all or nothing, asked once, one line of history, one take-back."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi.testclient import TestClient
from sqlmodel import col, select

from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Act, Lot, Pick, Sowing, Trial
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.storage import containers
from tests.conftest import app_of


@pytest.fixture
def pile(small):
    """A client, twelve packets in the tin and a second tin."""
    made = add_seeds(
        small.larder,
        ActRef(),
        [
            NewSeeds(
                kind="pea", variety=f"Row {i}", year=2024, quantity="60", node_id=small.nodes["tin"]
            )
            for i in range(12)
        ],
    )
    other = containers.add_node(
        small.larder,
        ActRef(),
        containers.NewNode(
            "other", container_kind="metal_tin_plain", parent_id=small.nodes["larder"]
        ),
    ).node_id
    client = TestClient(app_of(small.larder), base_url="http://127.0.0.1")
    return client, list(made.lot_ids), other


def places(small, ids):
    return {x.node_id for x in lot_lines(small.larder) if x.lot_id in ids}


def acts_of(small):
    with small.larder.store.read() as session:
        return session.exec(select(Act).order_by(col(Act.at_s), col(Act.id))).all()


def test_twelve_are_moved_in_one_act_and_taken_back_in_one(small, pile):
    client, ids, other = pile
    before = len(acts_of(small))
    body = {"what": "move", "lot_ids": ids, "node_id": other}
    answer = client.post("/api/stock/many", json=body, headers={"X-Act-Id": "1" * 32})
    assert answer.status_code == 200, answer.text
    assert places(small, ids) == {other}
    # the same act again is the same act
    assert (
        client.post("/api/stock/many", json=body, headers={"X-Act-Id": "1" * 32}).json()
        == answer.json()
    )
    assert len(acts_of(small)) == before + 1
    assert "and 6 more to other" in client.get("/api/acts").json()[0]["summary"]
    undone = client.post(f"/api/acts/{answer.json()['act_id']}/undo")
    assert undone.status_code == 200, undone.text
    assert places(small, ids) == {small.nodes["tin"]}


def test_one_that_cannot_stops_all(small, pile):
    client, ids, _ = pile
    refused = client.post("/api/stock/many", json={"what": "sow", "lot_ids": ids, "n": 5000})
    assert refused.status_code == 422
    assert "5000" in refused.text
    with small.larder.store.read() as session:
        assert not session.exec(select(Sowing)).all()
    lost = client.post(
        "/api/stock/many", json={"what": "state", "lot_ids": [*ids, 9999], "state": "gone"}
    )
    assert lost.status_code == 404
    assert len([x for x in lot_lines(small.larder) if x.lot_id in ids]) == 12


def test_each_thing_that_is_done_with_one_is_done_with_many(small, pile):
    client, ids, other = pile

    def many(**body):
        answer = client.post("/api/stock/many", json={"lot_ids": ids, **body})
        assert answer.status_code == 200, answer.text
        return answer.json()["act_id"]

    many(what="pick", plants=6, purpose="gift")
    many(what="sow", n=10, setting="indoors", on="yesterday")
    many(what="tag", tags="early, swap")
    many(what="tag", tags="swap", off=True)
    many(what="meant", intended_use="swap")
    many(what="test", n=12, temperature_c=15)
    many(what="event", kind="spilled", note="the shelf gave way")
    many(what="state", state="fetched")
    many(what="state", state="here")
    many(what="house", into={str(i): other for i in ids[:5]})
    with small.larder.store.read() as session:
        lots = session.exec(select(Lot).where(col(Lot.id).in_(ids))).all()
        tests = session.exec(select(Trial).where(col(Trial.lot_id).in_(ids))).all()
        assert {x.tags for x in lots} == {"early"}
        assert {x.intended_use for x in lots} == {"swap"}
        assert (
            len(session.exec(select(Pick)).all()) == len(session.exec(select(Sowing)).all()) == 12
        )
        assert [t.n for t in tests] == [12] * 12
        assert len({t.code for t in tests}) == 12
    assert len([x for x in lot_lines(small.larder) if x.node_id == other]) == 5
    gone = many(what="state", state="gone")
    assert not [x for x in lot_lines(small.larder) if x.lot_id in ids]
    client.post(f"/api/acts/{gone}/undo")
    assert len([x for x in lot_lines(small.larder) if x.lot_id in ids]) == 12


def test_what_is_to_be_read_first_is_asked_once_for_all(small, pile):
    client, ids, _ = pile
    freezer = containers.add_node(
        small.larder, ActRef(), containers.NewNode("freezer", place_kind="freezer_deep")
    ).node_id
    body = {"what": "move", "lot_ids": ids, "node_id": freezer}
    asked = client.post("/api/stock/many", json=body)
    assert asked.status_code == 409
    assert asked.json()["warnings"]
    assert len(asked.json()["warnings"]) == len(set(asked.json()["warnings"]))
    assert places(small, ids) == {small.nodes["tin"]}
    assert client.post("/api/stock/many", json={**body, "anyway": True}).status_code == 200
    assert places(small, ids) == {freezer}


def test_lines_that_would_cross_are_told_also_when_they_are_picked_together(small):
    made = add_seeds(
        small.larder,
        ActRef(),
        [NewSeeds(kind="maize", variety=v, year=2025, quantity="200") for v in ("Flint", "Sugar")],
    ).lot_ids
    client = TestClient(app_of(small.larder), base_url="http://127.0.0.1")
    body = {"what": "pick", "lot_ids": made, "plants": 40}
    asked = client.post("/api/stock/many", json=body)
    assert asked.status_code == 409
    (said,) = asked.json()["warnings"]  # both named, and told once
    assert "Flint would cross" in said or "Sugar would cross" in said
    assert said.count("Flint") == said.count("Sugar") == 1
    alone = client.post("/api/stock/many", json={**body, "lot_ids": made[:1]})
    assert alone.status_code == 200, alone.text


def test_an_evening_of_tests_warns_of_dressed_seed_and_takes_what_each_deserves(small):
    dressed = add_seeds(
        small.larder,
        ActRef(),
        [NewSeeds(kind="maize", variety="Pink", year=2024, quantity="90", treated=True)],
    ).lot_ids[0]
    client = TestClient(app_of(small.larder), base_url="http://127.0.0.1")
    body = {"what": "test", "lot_ids": [dressed, small.lots["onion"]]}
    wanted = {i: client.get(f"/api/tests/setup/{i}").json()["seeds"] for i in body["lot_ids"]}
    asked = client.post("/api/stock/many", json=body)
    assert asked.status_code == 409
    assert "gloves" in asked.text
    assert client.post("/api/stock/many", json={**body, "anyway": True}).status_code == 200
    with small.larder.store.read() as session:
        seeds = {t.lot_id: t.n for t in session.exec(select(Trial)).all()}
    assert seeds == wanted, "as the form for one would have taken"


def test_a_division_that_moves_nothing_is_no_act(small, pile):
    client, ids, _ = pile
    refused = client.post("/api/stock/many", json={"what": "house", "lot_ids": ids, "into": {}})
    assert refused.status_code == 422
    assert "at least one that goes somewhere" in refused.text


def test_eight_hands_tag_at_once_and_every_tag_is_kept(small, pile):
    client, ids, _ = pile

    def tag(n):
        body = {"what": "tag", "lot_ids": ids, "tags": f"hand {n}"}
        return client.post("/api/stock/many", json=body).status_code

    with ThreadPoolExecutor(8) as hands:
        assert set(hands.map(tag, range(8))) == {200}
    with small.larder.store.read() as session:
        tags = {session.get(Lot, i).tags for i in ids}
    (kept,) = tags
    assert set(kept.split(", ")) == {f"hand {n}" for n in range(8)}
