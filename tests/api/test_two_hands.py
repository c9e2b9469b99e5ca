"""Two pages open on one larder: what came in since a form was opened is told, not written over."""

from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from brisk_larder.data.acts import ActRef
from brisk_larder.services.growing import settling
from brisk_larder.services.needs import targets
from brisk_larder.services.today import own_jobs
from brisk_larder.services.today.own_jobs import JobSaid
from tests.conftest import app_of

GROUP = next(iter(settling.group_names()))
SPOTS = [{"name": "sill", "temperature_c": 14.0}, {"name": "stove", "temperature_c": 24.0}]
# (method, address, what is there, what the first page makes of it, what the second would)
CHANGES = {
    "a job of one's own": (
        "PATCH", "jobs/own/{job}", *({"text": x} for x in ("turn the jars", "turn all", "turn tins")),
    ),
    "spots": (
        "PUT", "tests/spots", *([SPOTS[0] | {"temperature_c": c}, SPOTS[1]] for c in (14.0, 12.0, 16.0)),
    ),
    "a spot taken away": (
        "PUT", "tests/spots", SPOTS, [SPOTS[0], SPOTS[1] | {"boxes": 3}], SPOTS[:1],
    ),
    "own days": (
        "PUT", "growing/calendar/kale/outdoors",
        *({"first": x, "last": "05-20"} for x in ("04-01", "04-10", "04-20")),
    ),
    "a link": (
        "PUT", "needs/foods/{food}/links",
        *({"link": "yield_kg_per_plant", "value": x} for x in (1, 2, 3)),
    ),
    "the budget": ("PUT", "needs/basket/budget", *({"money": x} for x in (10, 20, 30))),
    "jars": ("PUT", "needs/jars", *({"litres": 1, "owned": x, "lids": 9} for x in (5, 6, 7))),
    "a pick": (
        "POST", "needs/picks", *({"lot_id": 1, "plants": x, "anyway": True} for x in (5, 6, 7)),
    ),
    "what flowers next door": (
        "PUT", "growing/limits",
        *({"next_door": [{"crossing_group": GROUP, "distance_m": x}]} for x in (90, 200, 300)),
    ),
}  # fmt: skip


class Page:
    """A page: what it has seen of the larder, and what it did itself."""

    def __init__(self, client):
        self.client, self.own = client, []
        self.seen = client.get("/api/counts").headers["X-Larder-Acts"]

    def save(self, method, address, body):
        headers = {
            "X-Act-Id": str(uuid4()),
            "X-Larder-Seen": self.seen,
            "X-Own-Acts": ",".join(self.own),
        }
        answer = self.client.request(method, f"/api/{address}", json=body, headers=headers)
        if answer.is_success:
            self.own.append(answer.json()["act_id"])
        return answer


@pytest.fixture
def house(small):
    job = own_jobs.add_own_job(small.larder, ActRef(), JobSaid("turn the jars")).job_id
    food = targets.set_target(
        small.larder, ActRef(), product="kale, frozen", per_week=1, weeks=20
    ).target_id
    with TestClient(app_of(small.larder), base_url="http://127.0.0.1") as client:
        yield client, {"job": job, "food": food}


@pytest.mark.parametrize("name", CHANGES)
def test_what_came_in_since_a_form_was_opened_is_told_and_then_known(house, name):
    client, ids = house
    method, address, there, first, second = CHANGES[name]
    address = address.format(**ids)
    assert Page(client).save(method, address, there).is_success
    one, other = Page(client), Page(client)
    assert one.save(method, address, first).is_success
    refused = other.save(method, address, second)
    assert refused.status_code == 409
    words = client.get("/api/acts").json()[0]["summary"]
    assert words in refused.json()["detail"]
    assert client.get("/api/acts").json()[0]["summary"] == words  # nothing was done
    assert one.save(method, address, second).is_success  # of its own act it knows
    assert Page(client).save(method, address, first).is_success  # who has looked may
    assert client.request(
        method, f"/api/{address}", json=second
    ).is_success  # nobody says what was seen


def test_who_changes_something_else_or_the_same_is_not_held_up(house):
    client, ids = house
    one, other, third = Page(client), Page(client), Page(client)
    job = f"jobs/own/{ids['job']}"
    assert one.save("PATCH", job, {"text": "turn the jars", "where": "garden"}).status_code == 200
    assert other.save("PATCH", "household", {"values": {"seed_budget": 5}}).status_code == 200
    assert third.save("PATCH", "household", {"values": {"sow_level": 0.8}}).status_code == 200
    assert third.save("PATCH", "household", {"values": {"seed_budget": 5}}).status_code == 200
