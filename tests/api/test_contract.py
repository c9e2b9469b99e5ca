"""The interface as a contract: every path is checked, every write is an act that can be taken back."""

import json
import re

import pytest
from fastapi.testclient import TestClient

from brisk_larder.api.app import make_app
from brisk_larder.api.problems import MEDIA, STATUS, Problem
from brisk_larder.core.base import errors
from brisk_larder.data.acts import ActRef
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.papers import history
from tests.conftest import NOW, app_of
from tests.writes import There, all_writes


@pytest.fixture
def client(small):
    return TestClient(app_of(small.larder), base_url="http://127.0.0.1")


SPEC = make_app(None).openapi()


def templates(path):
    """The path of the specification that a real path belongs to."""
    for known in SPEC["paths"]:
        if re.fullmatch(re.sub(r"\{\w+\}", "[^/]+", known), path):
            return known
    raise AssertionError(f"no such path: {path}")


def test_every_write_is_an_act_and_is_listed_here(small):
    listed = {(method, templates(path)) for method, path, _ in all_writes(There(small.larder))}
    files = {
        ("post", "/api/storage/nodes/{node_id}/readings/file"), ("post", "/api/papers/packets"),
        ("post", "/api/acts/{act_id}/undo"), ("post", "/api/needs/basket/list"),
        ("post", "/api/weather"),
        ("post", "/api/storage/imports/{token}/take"), ("post", "/api/papers/parcels/receive"),
    }  # fmt: skip
    no_acts = {  # a look, a file on the desk, and what a machine sends
        ("post", "/api/storage/what-if"), ("post", "/api/storage/nodes/{node_id}/imports"),
        ("delete", "/api/storage/imports/{token}"), ("post", "/api/ingest/readings"),
        ("post", "/api/stock/sheet/lines"), ("post", "/api/stock/sheet/look"),
        ("post", "/api/stock/sheet/check"),
    }  # fmt: skip
    known = {
        (method, path)
        for path, methods in SPEC["paths"].items()
        for method in methods
        if method != "get"
    }
    assert known == listed | files | no_acts


def test_every_write_answers_as_it_says_with_its_act_and_can_be_taken_back(small, client):
    larder, there = small.larder, There(small.larder)
    small.read("tin", 12, 50, 40)
    small.read("porch", 12, 50, 3)
    gift = {"person": "Tam", "lots": {str(small.lots["carrot"]): "5"}}
    client.post("/api/papers/parcels", json=gift)
    last_year = chains.target_year(larder) - 1
    targets.set_target(larder, ActRef(), product="sauerkraut", per_week=1, weeks=20, year=last_year)
    for k in range(len(all_writes(there))):
        jobs = client.get("/api/today").json()
        key = next((j["origin_key"] for j in [*jobs["jobs"], *jobs["later"]]), "")
        method, path, body = all_writes(there, key)[k]
        if path.endswith(("/out", "/back")):
            larder.clock.at_s += 7200
        answer = client.request(method, path, json=body)
        told = SPEC["paths"][templates(path)][method]["responses"]
        assert str(answer.status_code) == next(iter(told)), (method, path, answer.text)
        act = answer.json()["act_id"]
        assert history.recent(larder, 1)[0].act_id == act
        if path.endswith(("/drop", "/never")) or method == "delete":
            back = client.post(f"/api/acts/{act}/undo")
            assert back.status_code == 200, (path, back.text)


class Told(Problem, extra="forbid"):
    """A problem with no field beyond those of the contract."""


def test_every_refusal_is_a_problem_as_the_contract_says(small, client):
    lot = small.lots["kale"]
    version = client.get(f"/api/stock/lots/{lot}").json()["version"]
    client.patch(f"/api/stock/lots/{lot}", json={"note": "a", "version": version})
    odd = [
        ("patch", f"/api/stock/lots/{lot}", {"note": "b", "version": version}, 409),
        ("patch", "/api/stock/lots/999", {"note": "b"}, 404),
        ("patch", f"/api/stock/lots/{lot}", {"note": 5}, 422),
        ("patch", f"/api/stock/lots/{lot}", {"note": "x" * 2_100_000}, 413),
        ("post", f"/api/stock/lots/{lot}/move", {"node_id": 999}, 404),
        ("post", "/api/stock/lots", {"packets": [{"kind": "pea", "quantity": "9" * 19}]}, 422),
        ("post", f"/api/stock/lots/{lot}/merge", {"other_ids": [small.lots["carrot"]]}, 409),
        ("get", "/api/stock/lots/none", None, 422),
        ("post", "/api/ingest/readings", {"sent_s": NOW, "readings": []}, 401),
    ]
    for method, path, body, status in odd:
        answer = client.request(method, path, **({} if body is None else {"json": body}))
        assert answer.status_code == status, (path, answer.text)
        assert answer.headers["content-type"] == MEDIA
        told = Told.model_validate(answer.json())
        assert (told.status, told.type) == (
            status, f"urn:brisk-larder:problem:{told.title.lower().replace(' ', '-')}",
        )  # fmt: skip
        said = SPEC["paths"][templates(path)][method]["responses"][str(status)]
        assert said["content"] == {MEDIA: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    fields = SPEC["components"]["schemas"]["Problem"]["properties"]
    assert set(fields) == set(Problem.model_fields)


def test_every_call_says_what_it_does():
    for path, methods in SPEC["paths"].items():
        for method, told in methods.items():
            assert not re.match(r"(Get|Post|Patch|Delete) |Put [A-Z]", told["summary"]), (
                method,
                path,
            )
            assert "HTTPValidationError" not in json.dumps(told), (method, path)


def test_every_error_of_the_core_is_mapped(client):
    leaves = {
        kind
        for kind in vars(errors).values()
        if isinstance(kind, type)
        and issubclass(kind, errors.LarderError)
        and kind is not errors.LarderError
    }
    assert leaves == {*STATUS, errors.Refused}
    assert {status for status, _ in STATUS.values()} <= {404, 409, 422, 503}


def test_a_stale_write_says_yours_and_theirs(small, client):
    path = f"/api/stock/lots/{small.lots['kale']}"
    version = client.get(path).json()["version"]
    assert client.patch(path, json={"note": "a", "version": version}).status_code == 200
    stale = client.patch(path, json={"note": "b", "version": version})
    assert stale.status_code == 409
    body = stale.json()
    assert (body["yours"], body["theirs"]) == (version, client.get(path).json()["version"])
    assert body["current"]["note"] == "a"


@pytest.mark.parametrize(
    "field",
    [{"variety": "Curl"}, {"kind": "cabbage"}, {"treated": True}, {"section": "left"},
     {"kept_line": False}, {"crossed_risk": True}, {"tags": "by the gate"}],
)  # fmt: skip
def test_the_version_covers_all_that_the_form_of_a_lot_shows(small, client, field):
    path = f"/api/stock/lots/{small.lots['kale']}"
    version = client.get(path).json()["version"]
    assert client.patch(path, json={**field, "version": version}).status_code == 200
    assert client.patch(path, json={**field, "version": version}).status_code == 409
    newest = client.get(path).json()["version"]
    assert client.patch(path, json={"note": "a", "version": newest}).status_code == 200


def test_an_act_id_used_again_for_another_kind_of_act_is_refused(small, client):
    headers = {"X-Act-Id": "7b0f2a52-6d0e-4a6f-9f43-0d2f6a5f3a11"}
    path = f"/api/stock/lots/{small.lots['kale']}"
    assert client.patch(path, json={"note": "a"}, headers=headers).status_code == 200
    again = client.post("/api/people", json={"name": "Tamsel"}, headers=headers)
    assert again.status_code == 409
    assert "needs a new id" in again.json()["detail"]
    assert client.get("/api/household").json()["people"] == []


def test_an_undo_refused_names_the_later_act(small, client):
    path = f"/api/stock/lots/{small.lots['kale']}"
    first = client.patch(path, json={"note": "a"}).json()["act_id"]
    client.patch(path, json={"note": "b"})
    refused = client.post(f"/api/acts/{first}/undo")
    assert refused.status_code == 409
    assert refused.json()["later"]


def test_numbers_say_their_units_by_name():
    bare = re.compile(r"temp|temperature|humidity|rh|weight|mass|time|date|moisture")
    for name, schema in SPEC["components"]["schemas"].items():
        for field, kind in schema.get("properties", {}).items():
            if "number" not in json.dumps(kind) or name in ("ReadingIn", "StopIn"):
                continue  # a dial is read in the household's own unit
            assert not bare.fullmatch(field), (name, field)


def test_reading_changes_nothing(small, client):
    asked = {
        "/api/storage/schools": f"?lot_ids={small.lots['kale']}", "/api/storage/cans": "?amount_kg=9",
        "/api/kinds/meant": "?word=scallions", "/api/stock/strips": f"?lot_ids={small.lots['kale']}",
        "/api/stock/division": f"?node_ids={small.nodes['tin']}",
        "/api/papers/labels.pdf": f"?lot_ids={small.lots['kale']}",
        "/api/papers/containers.pdf": f"?node_ids={small.nodes['tin']}",
    }  # fmt: skip
    paths = [p + asked.get(p, "") for p, m in SPEC["paths"].items() if "get" in m and "{" not in p]
    before = client.get("/api/papers/everything.json").text
    for path in paths:
        assert client.get(path).status_code == 200
    assert client.get("/api/papers/everything.json").text == before
    assert small.larder.now_s() == NOW


def test_a_file_too_large_and_a_file_that_is_none_are_refused(small, client):
    url = f"/api/storage/nodes/{small.nodes['tin']}/readings/file"
    assert client.post(url).status_code == 422
    answer = client.post(url, files={"file": ("x.png", b"\x89PNG\r\n\x1a\n\x00\x00")})
    assert answer.status_code == 422
    assert "x.png" in answer.json()["detail"]
    packets = client.post("/api/papers/packets", files={"file": ("p.csv", b"kind\npea\n")})
    assert packets.json()["result"]["assumed"]
