"""The HTTP interface: errors as problems, replay, guard, files, docs offline, the built pages."""

import re
import uuid

import pytest
from fastapi.testclient import TestClient

from brisk_larder.api.app import DIST
from brisk_larder.services.forecast.lines import lot_lines
from tests.conftest import DAY, app_of


@pytest.fixture
def client(small):
    return TestClient(
        app_of(small.larder), base_url="http://127.0.0.1", raise_server_exceptions=False
    )


def test_every_room_answers(client, small):
    for path in (
        "household", "household/places", "words", "kinds",
        "acts", "stock/lots", f"stock/lots/{small.lots['kale']}",
        "storage/shelves", "storage/kinds", f"storage/nodes/{small.nodes['tin']}/air", "tests",
        *(f"storage/nodes/{small.nodes['tin']}{x}" for x in ("", "/read", "/code.svg", "/drying", "/dew")),
        "storage/round", "storage/alarms", "storage/best-use", "storage/cans?amount_kg=12",
        f"tests/setup/{small.lots['kale']}", "needs", "needs/products", "today", "year", "ribbon",
        "growing", "saving", "papers/lots.csv", "papers/readings.csv", "papers/everything.json",
    ):  # fmt: skip
        answer = client.get(f"/api/{path}")
        assert answer.status_code == 200, (path, answer.text)


def test_the_numbers_beside_the_rooms_are_what_the_rooms_hold(client, small):
    small.read("tin", 33, 80)
    food = {"product": "tomato juice", "per_week": 2, "weeks": 20}
    assert client.post("/api/needs/foods", json=food).status_code == 200
    counts = client.get("/api/counts").json()
    lines = client.get("/api/needs").json()["lines"]
    boxes = [b for s in client.get("/api/storage/shelves").json() for b in s["boxes"]]
    assert counts == {
        "today": len(client.get("/api/today").json()["rows"]),
        "storage": sum(b["hurting"] for b in boxes),
        "tests": len(client.get("/api/tests").json()["wanted"]),
        "needs": sum(1 for x in lines if x["short_plants"]),
    }
    assert counts["needs"] == 1


def test_the_same_act_twice_is_done_once(client, small):
    body = {"packets": [{"kind": "pea", "variety": "Millrace", "quantity": "50"}]}
    headers = {"X-Act-Id": str(uuid.uuid4())}
    first = client.post("/api/stock/lots", json=body, headers=headers).json()
    second = client.post("/api/stock/lots", json=body, headers=headers).json()
    assert first == second
    assert len(lot_lines(small.larder)) == 4
    corrected = {"packets": [{"kind": "pea", "variety": "Millrace", "quantity": "80"}]}
    other = client.post("/api/stock/lots", json=corrected, headers=headers)
    assert other.status_code == 409  # never the answer of the first
    assert "something else in it" in other.json()["detail"]
    assert client.post(f"/api/acts/{first['act_id']}/undo").status_code == 200
    assert len(lot_lines(small.larder)) == 3
    again = client.post(f"/api/acts/{first['act_id']}/undo")
    assert again.status_code == 409
    assert client.post("/api/stock/lots", json=body, headers={"X-Act-Id": "7"}).status_code == 422


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "says"),
    [
        ("POST", "storage/nodes/{tin}/readings", {"humidity_pct": 140}, 422, "1 to 100 %"),
        ("POST", "storage/nodes/{tin}/readings", {"temperature": -80}, 422, "-15 to 40 °C"),
        ("POST", "storage/nodes/{tin}/readings", {"temperature": 5, "t_min": 9, "t_max": 3}, 422, "lowest"),
        ("POST", "storage/nodes/{tin}/readings", {}, 422, "a temperature, a humidity"),
        ("POST", "storage/nodes/{tin}/readings", {"temperature": "hot"}, 422, "temperature"),
        ("POST", "storage/nodes/{tin}/readings", {"temperature": 9, "at_s": 4_000_000_000}, 422, "earlier"),
        ("POST", "storage/nodes/999/readings", {"temperature": 9}, 404, "number 999"),
        ("POST", "storage/nodes/{tin}/move", {"parent_id": "{tin}"}, 422, "inside tin"),
        ("POST", "storage/nodes", {"name": "x", "container_kind": "jug", "parent_id": 1}, 422, "glass_jar"),
        ("POST", "storage/nodes", {"name": "can", "container_kind": "metal_tin_plain", "parent_id": 1,
                                   "former_use": "paraffin"}, 409, "held fuel"),
        ("POST", "stock/lots", {"packets": []}, 422, "packets"),
        ("POST", "stock/lots", {"packets": [{"kind": "pea"}, {"kind": "pea", "year": 2050}]}, 422, "2, year"),
        ("POST", "stock/lots", {"packets": [{}]}, 422, "something to find it by"),
        ("POST", "stock/lots/{kale}/quantity", {"amount": "-3"}, 422, "quantity"),
        ("POST", "stock/lots/{kale}/quantity", {"kind": "given", "amount": "99999"}, 422, "in hand"),
        ("POST", "tests", {"lot_id": "{kale}", "n": 0}, 422, "1 to 400"),
        ("GET", "storage/nodes/{tin}/air?from_s=9&to_s=3", None, 422, "after its start"),
        ("PATCH", "household", {"values": {"tz": "Valley/Nowhere"}}, 422, "time zone"),
        ("PATCH", "household", {"values": {"sow_level": 1.4}}, 422, "you sow as usual from: '140 %'"),
        ("PATCH", "household", {"values": {"name": "x"}, "version": 99}, 409, "changed meanwhile"),
        ("GET", "nothing", None, 404, "/api/nothing"),
    ],
)  # fmt: skip
def test_bad_input_is_a_problem_that_names_what_is_allowed(
    client, small, method, path, body, status, says
):
    def put(value):
        names = {"{tin}": small.nodes["tin"], "{kale}": small.lots["kale"]}
        return {k: names.get(v, v) if isinstance(v, str) else v for k, v in value.items()}

    path = path.replace("{tin}", str(small.nodes["tin"])).replace("{kale}", str(small.lots["kale"]))
    acts = client.get("/api/acts").json()
    answer = client.request(method, f"/api/{path}", json=None if body is None else put(body))
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert says in answer.json()["detail"]
    assert client.get("/api/acts").json() == acts


CSV = "time,temperature_c,humidity_pct\n"
FILES = [
    (b"when,warmth\n1,2\n", "header"),
    (CSV.encode() + b"2026-01-01 10:00,12,50\nyesterday,12,50\n", "line 3, time"),
    (CSV.encode() + b"2026-01-01 10:00,12 C,50\n2026-01-01 11:00,12 F,50\n", "own unit"),
    (CSV.encode() + b"2026-01-01 10:00,12,140\n", "line 2, humidity"),
    (CSV.encode() + b"2026-01-01 10:00,12\n", "line 2, row"),
    (b"time,temperature_c\n2026-01-01 10:00,\xff\xfe\n", "line 2"),
    (CSV.encode() + b"2026-01-01 10:00,12,50\n2026-01-01 10:00,13,50\n", "same time as line 2"),
    (CSV.encode() + b"2031-01-01 10:00,12,50\n", "future"),
    (b"", "empty"),
]


@pytest.mark.parametrize(("data", "says"), FILES)
def test_a_bad_logger_file_names_its_line_and_leaves_nothing(client, small, data, says):
    url = f"/api/storage/nodes/{small.nodes['tin']}/readings/file"
    answer = client.post(url, files={"file": ("log.csv", data)})
    assert answer.status_code == 422
    assert says in answer.json()["detail"]
    assert client.get("/api/papers/readings.csv").text.count("\n") == 1


def test_a_logger_file_as_loggers_write_them(client, small):
    data = (
        "\ufeffdevice: mill-a\nTime;Temp (°F);Humidity %\n01.02.2026 10:00;50,5;61,5\n"
        "Time;Temp (°F);Humidity %\n01.02.2026 11:00;51;\n"
    ).encode()
    url = f"/api/storage/nodes/{small.nodes['tin']}/readings/file"
    result = client.post(url, files={"file": ("log.csv", data)}, data={"tz": "UTC"}).json()[
        "result"
    ]
    assert (result["new_rows"], result["known_rows"]) == (2, 0)
    rows = client.get("/api/papers/readings.csv").text.splitlines()
    assert rows[1].endswith("2026-02-01T10:00:00Z,10.2778,61.5")
    clash = data.replace(b"50,5", b"70,5")
    answer = client.post(url, files={"file": ("log.csv", clash)}, data={"tz": "UTC"})
    kept = answer.json()["result"]
    assert (kept["new_rows"], kept["known_rows"], kept["conflicts"]) == (0, 1, 1)
    assert kept["conflict_list"][0]["line"] == 3
    assert "10.28 °C" in kept["conflict_list"][0]["reason"]
    assert client.get("/api/papers/readings.csv").text.splitlines() == rows


@pytest.mark.parametrize(
    ("method", "path", "body", "says"),
    [
        ("get", f"stock/lots/{2**63}", None, "larger than can be kept"),
        ("patch", "stock/lots/1", {"mother_lot_id": 10**12}, "no lot number"),
        ("post", "stock/lots", {"packets": [{"kind": "pea", "mother_cohort_id": 77}]}, "no mother seed"),
        ("post", "stock/sheet/lines", {"packets": [{"kind": "pea", "year": 1_795_000_000}]}, ""),
        ("post", "stock/lots", {"packets": [{"kind": "pea", "year": -1}]}, "1990 to 2026"),
        ("post", "storage/nodes/1/readings", {"temperature": 9, "humidity_pct": 50, "at_s": 10**12},
         "or earlier"),
        ("post", "storage/dryness", {"lot_ids": [1], "humidity_pct": 1}, ""),
        ("post", "storage/dryness", {"lot_ids": [1], "humidity_pct": 40, "dial": 1e300}, "-40 to"),
        ("get", "papers/containers.pdf?page=A9&node_ids=3", None, "A4 or Letter"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_in_words(client, small, method, path, body, says):
    answer = client.request(method, f"/api/{path}", json=body)
    assert answer.status_code < 500, answer.text
    if says:
        assert answer.status_code >= 400
        assert says in answer.json()["detail"]


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Host": "larder.example"}, 403),
        ({"Host": "127.0.0.1:8437", "Origin": "http://elsewhere.example"}, 403),
        ({"Host": "127.0.0.1:8437", "Origin": "http://127.0.0.1:9999"}, 403),
        ({"Host": "localhost:8437", "Origin": "http://localhost:8437"}, 200),
        ({"Host": "[::1]:8437"}, 200),
    ],
)
def test_only_this_machine_and_our_own_page_are_answered(client, headers, status):
    assert client.get("/api/household", headers=headers).status_code == status


def test_an_unforeseen_error_shows_no_trace(client, monkeypatch):
    def broken(larder):
        raise ZeroDivisionError("secret detail")

    monkeypatch.setattr("brisk_larder.services.today.jobs.today_room", broken)
    answer = client.get("/api/today")
    assert answer.status_code == 500
    assert "secret" not in answer.text


def test_the_api_pages_and_the_front_end_need_no_network(client):
    assert DIST.is_dir(), "build the front end first: ./run test does"
    page = client.get("/docs").text
    for url in re.findall(r'(?:src|href)="([^"]+)"', page):
        assert url.startswith("/"), url
        assert client.get(url).status_code == 200, url
    index = client.get("/stock/3")
    assert '<div id="app">' in index.text
    assert not re.search(r"https?://", index.text)
    for path in DIST.glob("assets/*.css"):
        assert not re.search(r"url\(['\"]?https?:", path.read_text()), path
    asset = next(DIST.glob("assets/index-*.js")).name
    assert "immutable" in client.get(f"/assets/{asset}").headers["cache-control"]
    assert client.get("/assets/none.js").status_code == 404
    assert client.get("/..%2f..%2fpyproject.toml").status_code in (200, 404)
    assert "brisk-larder" not in client.get("/../../pyproject.toml").text


def test_temperatures_come_in_the_households_unit(client, small):
    client.patch("/api/household", json={"values": {"temperature_unit": "F"}})
    url = f"/api/storage/nodes/{small.nodes['tin']}/readings"
    assert client.post(url, json={"temperature": 50, "humidity_pct": 40}).status_code == 201
    boxes = [b for s in client.get("/api/storage/shelves").json() for b in s["boxes"]]
    assert boxes[0]["dial_temperature_c"] == pytest.approx(10)
    refused = client.post(url, json={"temperature": 250})
    assert "°F" in refused.json()["detail"]


def test_a_chart_stays_small_and_keeps_the_spell(client, small):
    larder = small.larder
    rows = "\n".join(
        f"2026-0{m}-{d:02d} {h:02d}:00,{38 if m == 7 and 8 < d < 16 else 12},50"
        for m in range(1, 8) for d in range(1, 29) for h in range(24)
    )  # fmt: skip
    url = f"/api/storage/nodes/{small.nodes['porch']}/readings/file"
    client.post(url, files={"file": ("log.csv", f"{CSV}{rows}\n".encode())})
    url = f"/api/storage/nodes/{small.nodes['porch']}"
    since = f"from_s={larder.now_s() - 330 * DAY}"
    (read,) = client.get(f"{url}/read?{since}").json()["series"]
    assert read["table"] == "reading"
    assert sum(read["n"]) == 7 * 28 * 24
    assert len(read["at_s"]) < 2000
    assert max(read["t_max_c"]) == 38
    long = client.get(f"{url}/read?from_s={larder.now_s() - 3650 * DAY}").json()["series"][0]
    assert (long["table"], max(long["t_max_c"])) == ("d_day", 38)
    data = client.get(f"{url}/air?{since}").json()
    assert 300 < len(data["at_s"]) <= 1500
    assert len({len(data[k]) for k in ("at_s", "temperature_c", "erh", "speed", "source")}) == 1
    assert max(data["temperature_c"]) > 30
    assert max(data["speed"]) > 5
    assert "hardest days" in data["said"]


def test_a_file_is_brought_looked_at_taken_in_and_cleared_away(client, small):
    url = f"/api/storage/nodes/{small.nodes['tin']}/imports"
    data = f"{CSV}2026-11-01 10:00,9,50\n2026-11-01 11:00,bad,51\n".encode()
    seen = client.post(url, files={"file": ("log.csv", data)}).json()
    assert (seen["state"], seen["preview"]["asks"]) == ("waiting", ["tz"])

    def take(body):
        client.post(f"/api/storage/imports/{seen['token']}/take", json=body)
        while (now := client.get(f"/api/storage/imports/{seen['token']}").json())[
            "state"
        ] == "reading":
            pass
        return now

    assert take({"answers": {"tz": "UTC"}})["problems"][0]["line"] == 3
    assert "Nowhere" in take({"answers": {"tz": "Valley/Nowhere"}})["message"]
    assert "mapping" in take({"answers": {"colour": 3}})["message"]
    done = take({"answers": {"tz": "UTC"}, "partial": True})
    assert (done["state"], done["result"]["new_rows"]) == ("done", 1)
    assert client.post(f"/api/acts/{done['act_id']}/undo").status_code == 200
    assert client.get("/api/papers/readings.csv").text.count("\n") == 1
    other = client.post(url, files={"file": ("log.csv", data)}).json()
    assert other["preview"]["asks"] == ["tz"]  # the file taken back teaches nothing
    gone = client.delete(f"/api/storage/imports/{other['token']}").json()
    assert gone["state"] == "cancelled"
    assert client.get("/api/storage/imports/none").status_code == 404
    empty = client.post(url, files={"file": ("log.csv", b"")})
    assert empty.status_code == 422
    assert "is empty" in empty.json()["detail"]
