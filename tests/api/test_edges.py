"""The edges of the interface: sizes, headers, what the log keeps, spreadsheets' formulas."""

import csv
import io
import logging

import pytest
from fastapi.testclient import TestClient

from brisk_larder.core.base.plain_json import read_json
from brisk_larder.formats.labels_pdf import Label, labels_pdf
from brisk_larder.formats.sheets import SHEETS
from brisk_larder.formats.stock_csv import safe, unsafe
from brisk_larder.services.today import jobs
from tests.conftest import app_of


@pytest.fixture
def client(small):
    app = app_of(small.larder)
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as made:
        yield made


def test_no_page_may_frame_ours_and_no_foreign_script_runs(client):
    for path in ("/", "/api/household", "/docs", "/api/nothing", "/assets/none.js"):
        headers = client.get(path).headers
        policy = headers["content-security-policy"]
        assert "frame-ancestors 'none'" in policy
        assert "script-src 'self';" in policy
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["x-frame-options"] == "DENY"
    assert "<script>" not in client.get("/").text + client.get("/docs").text


@pytest.mark.parametrize(
    ("path", "body", "status"),
    [
        ("people", {"name": "x" * 121}, 422), ("people", {"name": "x" * 2_100_000}, 413),
        ("stock/lots", {"packets": [{"kind": "pea", "variety": "x" * 121}]}, 422),
        ("stock/lots", {"packets": [{"kind": "pea", "note": "x" * 20_001}]}, 422),
        ("stock/lots", {"packets": [{"kind": "pea", "note": "x" * 19_999}]}, 201),
        ("stock/lots", {"packets": [{"kind": "pea", "quantity": "9" * 19}]}, 422),
        ("storage/nodes", {"name": "x" * 121, "place_kind": "attic"}, 422),
    ],
)  # fmt: skip
def test_texts_and_bodies_have_a_size(client, path, body, status):
    acts = client.get("/api/acts").json()
    answer = client.post(f"/api/{path}", json=body)
    assert answer.status_code == status
    assert (client.get("/api/acts").json() == acts) is (status != 201)


def test_a_body_without_a_told_length_is_counted(client):
    def pieces():
        for _ in range(40):
            yield b"x" * 100_000

    assert client.post("/api/people", content=pieces()).status_code == 413


@pytest.mark.parametrize(
    "text", ["[NaN]", "[1e999]", "[-Infinity]", '["\\ud800"]', '["a\\u0000"]', "[" * 99 + "]" * 99,
             "[" * 100_000, "[" + "9" * 5000 + "]", "{", ""],
)  # fmt: skip
def test_json_from_outside_holds_only_what_can_be_kept(text):
    from brisk_larder.core.base.errors import BadFile

    with pytest.raises(BadFile):
        read_json(text.encode())


def test_the_log_says_where_but_names_nobody(client, small, monkeypatch, caplog):
    def broken(larder):
        raise ValueError("Aunt Mer" + "rin's secret bean")  # the log shows this line, not its value

    monkeypatch.setattr(jobs, "today_room", broken)
    with caplog.at_level(logging.ERROR):
        answer = client.get("/api/today")
    assert answer.status_code == 500
    assert "ValueError" in caplog.text
    assert "test_edges.py" in caplog.text
    assert "Merrin" not in caplog.text + answer.text


@pytest.mark.parametrize(
    "text", ["=1+1", "+1", "-1", "@a", "\uff1d1", "\uff0b1", "  =1", "\u3000=1", "\t=1", "'x", " '=1",
             "plain", "", " plain", "a=1"],
)  # fmt: skip
def test_no_cell_is_a_formula_to_any_spreadsheet_and_all_come_back(text):
    out = safe(text)
    assert not out.lstrip(" \u3000\t").startswith(("=", "+", "-", "@", "\uff1d", "\uff0b"))
    assert unsafe(out) == text
    cell = io.StringIO()
    csv.writer(cell).writerow([out, "x"])
    assert unsafe(next(csv.reader(io.StringIO(cell.getvalue())))[0]) == text


def test_a_label_of_an_endless_name_is_cut_without_measuring_it_to_its_end():
    name = "Slate " * 40_000
    label = Label("K1", name, name, name, name, "", name, address="http://127.0.0.1/k1")
    calls = 0
    from brisk_larder.formats.paper import Paper

    real = Paper.get_string_width

    def counted(self, text, *rest):
        nonlocal calls
        calls += len(text)
        return real(self, text, *rest)

    Paper.get_string_width = counted
    try:
        assert labels_pdf([label], next(iter(SHEETS.values())))[:4] == b"%PDF"
    finally:
        Paper.get_string_width = real
    assert calls < 400_000  # signs measured, of a name of 240,000


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("growing/years/all", {"year": 10**9}, "year"),
        ("growing/years/bar", {"variety_id": 1, "year": 1900}, "year"),
        (
            "needs/harvests",
            {"crop": "tomato", "year": 2025, "plants": 3, "mass_kg": 1e-300},
            "harvest",
        ),
        ("needs/pantry", {"product": "  ", "kind": "counted", "units": 3}, "food"),
    ],
)
def test_what_nobody_means_is_refused_by_its_field(client, path, body, field):
    answer = client.post(f"/api/{path}", json=body)
    assert (answer.status_code, answer.json()["field"]) == (422, field)
