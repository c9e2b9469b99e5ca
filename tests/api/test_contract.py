"""The interface as a contract: every path is checked, every write is an act that can be taken back."""

import json
import re

import pytest
from fastapi.testclient import TestClient

from brisk_larder.api.app import make_app
from brisk_larder.api.problems import STATUS
from brisk_larder.core.base import errors
from brisk_larder.data.acts import ActRef
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.papers import history
from tests.conftest import NOW, app_of


@pytest.fixture
def client(small):
    return TestClient(app_of(small.larder), base_url="http://127.0.0.1")


SPEC = make_app(None).openapi()


def writes(small):
    """One body for every path that writes; {names} are filled in from the small household."""
    lot, node = small.lots["onion"], small.nodes["tin"]
    return {
        ("post", "/api/household/settle"): {"living": "inland"},
        ("patch", "/api/household"): {"values": {"name": "The mill"}},
        ("post", "/api/people"): {"name": "Brandic"},
        ("post", "/api/stock/many"): {"what": "tag", "lot_ids": [lot], "tags": "early"},
        ("post", "/api/jobs/own"): {"text": "turn the jars"},
        ("patch", "/api/jobs/own/1"): {"text": "turn them twice"},
        ("post", "/api/kinds"): {"name": "skirret"},
        ("post", "/api/crops/overrule"): {
            "crop": "kale", "field": "seeds_per_g", "value": 300, "source": "our scales",
        },
        ("post", "/api/stock/lots"): {"packets": [{"kind": "pea"}]},
        ("patch", f"/api/stock/lots/{lot}"): {"note": "by the door"},
        ("post", f"/api/stock/lots/{lot}/move"): {"node_id": small.nodes["porch"]},
        ("post", f"/api/stock/lots/{lot}/quantity"): {"amount": "80"},
        ("post", f"/api/stock/lots/{lot}/weigh"): {"count": 100, "mass_g": 0.4},
        ("post", f"/api/stock/lots/{lot}/aside"): {"intended_use": "swap", "amount": "20"},
        ("post", f"/api/stock/lots/{lot}/split"): {"amount": "10"},
        ("post", f"/api/stock/lots/{lot}/merge"): {
            "other_ids": [small.lots["carrot"]], "anyway": True,
        },
        ("post", "/api/stock/sheet"): {"text": "kind,name\npea,Millrace", "mapping": {"kind": 0}},
        ("post", "/api/stock/views"): {"name": "by age", "group": "age", "filing": True},
        ("delete", "/api/stock/views/1"): None,
        ("post", f"/api/stock/stocktakes/nodes/{node}"): None,
        ("post", "/api/stock/stocktakes/1/lots"): {"lot_id": lot, "result": "found"},
        ("post", "/api/stock/stocktakes/1/code"): {"code": "K1"},
        ("post", "/api/stock/stocktakes/1/pause"): None,
        ("post", "/api/stock/stocktakes/1/finish"): {"rest": "missing"},
        ("post", "/api/stock/triage"): {"lot_id": lot, "decision": "sow_thick"},
        ("post", "/api/stock/school"): {"school": "count"},
        ("post", "/api/papers/parcels"): {"person": "Wenna", "lots": {str(lot): "5"}},
        ("post", "/api/papers/parcels/2/pack"): {"anyway": True},
        ("post", "/api/papers/parcels/2/send"): None,
        ("delete", "/api/papers/parcels/{parcel}"): None,
        ("post", f"/api/stock/lots/{lot}/events"): {"kind": "insects"},
        ("post", "/api/storage/nodes"): {"name": "loft", "place_kind": "attic"},
        ("post", f"/api/storage/nodes/{node}/move"): {"parent_id": small.nodes["porch"]},
        ("post", f"/api/storage/nodes/{node}/since"): {"since": "since about 2025"},
        ("patch", f"/api/storage/nodes/{node}"): {"name": "Tin 9"},
        ("post", f"/api/storage/nodes/{node}/events"): {"kind": "opened"},
        ("post", f"/api/storage/nodes/{node}/readings"): {"temperature": 9, "humidity_pct": 40},
        ("post", "/api/storage/round"): {
            "stops": [{"node_id": node, "humidity_pct": 51, "opened": True, "note": "musty"}],
        },
        ("put", "/api/storage/round/order"): {"node_ids": [node]},
        ("post", f"/api/storage/nodes/{node}/out"): {},
        ("post", f"/api/storage/nodes/{node}/back"): None,
        ("post", f"/api/storage/nodes/{node}/desiccant"): {"mass_g": 20},
        ("post", "/api/storage/dryness"): {"lot_ids": [lot], "humidity_pct": 41, "dial": 20},
        ("post", "/api/storage/devices"): {"name": "sender", "node_id": node},
        ("post", "/api/storage/devices/1/move"): {"node_id": small.nodes["porch"]},
        ("post", "/api/storage/devices/1/revoke"): {},
        ("post", "/api/storage/best-use/jobs"): {
            "moves": [{"lot_id": lot, "node_id": small.nodes["porch"]}],
        },
        ("patch", "/api/storage/readings/{series}/{at}"): {"temperature": 14, "humidity_pct": 44},
        ("post", "/api/tests"): {"lot_id": lot, "n": 10},
        ("post", "/api/tests/past"): {"lot_id": lot, "n": 10, "up": 8, "on": "yesterday"},
        ("post", "/api/tests/told"): {"lot_id": lot, "germination": 0.8},
        ("post", "/api/tests/1/counts"): {"count": {"normal": 4}},
        ("post", "/api/tests/1/drop"): {"why": "dried out"},
        ("put", "/api/tests/spots"): [{"name": "kitchen sill", "temperature_c": 20}],
        ("post", "/api/needs/foods"): {"product": "kale, frozen", "per_week": 1, "weeks": 20},
        ("put", "/api/needs/foods/2/links"): {"link": "plants", "value": 12},
        ("post", "/api/needs/pantry"): {"product": "kale, frozen", "kind": "counted", "units": 3},
        ("delete", "/api/needs/foods/2"): None,
        ("post", "/api/needs/foods/take-over"): {"foods": [{"target_id": 1, "per_week": 0.5}]},
        ("post", "/api/needs/foods/less"): {"shares": [{"key": "food:1", "share": 0.5}]},
        ("post", "/api/needs/harvests"): {"crop": "kale", "year": 2025, "plants": 9, "mass_kg": 4},
        ("delete", "/api/needs/harvests/1"): None,
        ("put", "/api/needs/jars"): {"litres": 0.5, "owned": 40, "lids": 12},
        ("post", "/api/needs/picks"): {"lot_id": lot, "plants": 5},
        ("delete", "/api/needs/picks/1"): None,
        ("post", "/api/needs/basket/offers"): {
            "seller": "Rushbank", "kind": "pea", "pack_seeds": 100, "price": 2.5,
        },
        ("post", "/api/needs/basket/wishes"): {"kind": "pea"},
        ("delete", "/api/needs/basket/wishes/1"): None,
        ("put", "/api/needs/basket/budget"): {"money": 40},
        ("post", "/api/needs/basket/orders"): {"packs": {"1": 2}},
        ("post", "/api/needs/basket/orders/1/never"): None,
        ("post", "/api/needs/basket/orders/came"): {"order_ids": [1]},
        ("delete", "/api/needs/basket/offers/1"): None,
        ("post", "/api/calendar"): None,
        ("delete", "/api/calendar"): None,
        ("post", "/api/growing/years"): {"variety_id": 1, "year": 2028},
        ("post", "/api/growing/years/bar"): {"variety_id": 1, "year": 2029},
        ("post", "/api/growing/years/free"): {"variety_id": 1, "year": 2029},
        ("post", "/api/growing/years/all"): {"year": 2028},
        ("put", "/api/growing/lines/1"): {"purity": "strict"},
        ("put", "/api/growing/calendar/kale/outdoors"): {"first": "05-01", "last": "06-10"},
        ("delete", "/api/growing/calendar/kale/outdoors"): None,
        ("put", "/api/growing/limits"): {"seed_lines": 4, "next_door": []},
        ("post", "/api/sowings"): {"lot_id": lot, "n": 12},
        ("post", "/api/sowings/1/counts"): {"up": 3},
        ("put", "/api/jobs"): {"origin_key": "{job}", "state": "in_progress"},
        ("delete", "/api/storage/readings/{series}/{at}"): None,
        ("delete", "/api/storage/nodes/{empty}"): None,
    }  # fmt: skip


def templates(path):
    """The path of the specification that a real path belongs to."""
    for known in SPEC["paths"]:
        if re.fullmatch(re.sub(r"\{\w+\}", "[^/]+", known), path):
            return known
    raise AssertionError(f"no such path: {path}")


def test_every_write_is_an_act_and_is_listed_here(small):
    listed = {(method, templates(path)) for method, path in writes(small)}
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


def test_every_write_answers_with_its_act_and_can_be_taken_back(small, client):
    larder = small.larder
    small.read("tin", 12, 50, 40)
    made = small.read("porch", 12, 50, 3)
    empty = client.post("/api/storage/nodes", json={"name": "spare", "place_kind": "shed"}).json()
    series, at = made.series_id, made.at_s
    gift = {"person": "Tam", "lots": {small.lots["carrot"]: "5"}}
    spare = client.post("/api/papers/parcels", json=gift).json()
    last_year = chains.target_year(larder) - 1
    targets.set_target(larder, ActRef(), product="sauerkraut", per_week=1, weeks=20, year=last_year)
    for (method, path), body in writes(small).items():
        path = path.replace("{series}", str(series)).replace("{at}", str(at))
        path = path.replace("{empty}", str(empty["result"]["node_id"]))
        path = path.replace("{parcel}", str(spare["result"]["parcel_id"]))
        if body and "{job}" in json.dumps(body):
            jobs = client.get("/api/today").json()
            key = next(j["origin_key"] for j in [*jobs["jobs"], *jobs["later"]])
            body = {**body, "origin_key": key}
        if path.endswith(("/out", "/back")):
            larder.clock.at_s += 7200
        answer = client.request(method, path, json=body)
        assert answer.status_code == 200, (method, path, answer.text)
        act = answer.json()["act_id"]
        assert history.recent(larder, 1)[0].act_id == act
        if path.endswith(("/drop", "/never")) or method == "delete":
            back = client.post(f"/api/acts/{act}/undo")
            assert back.status_code == 200, (path, back.text)


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
