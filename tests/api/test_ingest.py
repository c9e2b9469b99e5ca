"""Loggers over HTTP: a real server, the shipped stand-in, and everything that goes wrong on the way."""

import json
import socket
import threading
import time
from functools import partial

import pytest
import uvicorn
from fastapi.testclient import TestClient
from sqlmodel import select
from typer.testing import CliRunner

from brisk_larder import cli
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Device
from brisk_larder.services.air.air import place_curve
from brisk_larder.services.papers import history
from brisk_larder.services.storage import alarms_now, charts, containers, loggers
from brisk_larder.standins.logger import Faults, Sender, simulate
from tests.conftest import DAY, NOW, app_of
from tests.services.forecast.test_forecast import months, rebuilt


@pytest.fixture
def server(small):
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    config = uvicorn.Config(app_of(small.larder), host="127.0.0.1", port=port, log_level="error")
    running = uvicorn.Server(config)
    thread = threading.Thread(target=running.run, daemon=True)
    thread.start()
    while not running.started:
        time.sleep(0.02)
    yield port
    running.should_exit = True
    thread.join()


@pytest.fixture
def client(small):
    return TestClient(app_of(small.larder), base_url="http://127.0.0.1")


def register(small, name="mill-c", node="porch", days_ago=40):
    small.larder.clock.at_s -= days_ago * DAY
    made = loggers.add_device(small.larder, ActRef(), name, small.nodes[node])
    small.larder.clock.at_s += days_ago * DAY
    return made


def series(small, node="porch"):
    body = json.loads(charts.readings_json(small.larder, small.nodes[node], NOW - 60 * DAY, None))
    return next((s for s in body["series"] if s["origin"] == "logger"), None)


def test_the_shipped_stand_in_sends_end_to_end(small, server):
    made = register(small)
    send = ["simulate-logger", "--token", made.token, "--port", str(server), "--kind", "porch",
            "--days", "20", "--every-minutes", "30", "--today", "2026-11-24"]  # fmt: skip
    done = CliRunner().invoke(cli.app, send)
    assert done.exit_code == 0, done.output
    assert "sent 960: 960 taken in, 0 known already, 0 refused" in done.output
    again = CliRunner().invoke(cli.app, send)
    assert "sent 960: 0 taken in, 960 known already, 0 refused" in again.output
    assert sum(series(small)["n"]) == 960
    (line,) = loggers.devices(small.larder)
    assert (line.battery_pct, line.last_seen_s) == (80.0, small.larder.now_s())
    assert months(small.larder) == rebuilt(small.larder)
    wrong = CliRunner().invoke(cli.app, [*send[:2], "nonsense", *send[3:]])
    assert wrong.exit_code == 1
    assert "401" in wrong.output
    assert CliRunner().invoke(cli.app, ["simulate-logger"]).exit_code == 1


def test_dropping_out_repeating_drifting_and_nonsense_leave_only_what_can_be(small, client):
    made = register(small)
    curve = place_curve("porch", small.larder.store and _household(small))
    record = simulate(curve, NOW - 30 * DAY, NOW, 3600, 4)

    def post(body):
        answer = client.post(
            "/api/ingest/readings", json=body, headers={"Authorization": f"Bearer {made.token}"}
        )
        return answer.status_code, answer.json()

    faults = Faults(drop=0.1, nonsense=0.1, repeat=0.5, drift_c_per_day=0.1, clock_off_s=4000)
    sender = Sender(post, 7, faults)
    for rows in sender.batches(*record, 100):
        assert sender.send(NOW, rows, 8.0) == 200
    assert abs(sender.clock_off_s) < 1  # it was told the time and set its clock
    assert 500 < sender.taken < 640
    assert sender.known > 50
    assert sender.refused > 40
    kept = series(small)
    assert sum(kept["n"]) == sender.taken
    assert max(v for v in kept["t_max_c"]) < 60
    assert all(v is None or 0 < v <= 1 for v in kept["erh_min"])
    small.larder.clock.at_s += 3 * DAY
    found = {a.code for a in alarms_now.alarms(small.larder)}
    assert {"battery_low", "logger_silent"} <= found


def _household(small):
    from brisk_larder.services.household.larder import household

    with small.larder.store.read() as session:
        return household(session)


def test_a_token_is_shown_once_kept_as_a_hash_and_can_be_taken_away(small, client):
    ref = ActRef()
    made = loggers.add_device(small.larder, ref, "mill-d", small.nodes["tin"])
    assert loggers.add_device(small.larder, ref, "mill-d", small.nodes["tin"]).token == ""
    with small.larder.store.read() as session:
        (row,) = session.exec(select(Device)).all()
        assert row.token_hash != made.token
        assert made.token not in str(row.model_dump())
    everything = client.get("/api/papers/everything.json").text
    assert made.token not in everything
    body = {"sent_s": NOW, "readings": [{"at_s": NOW, "temperature_c": 9}]}
    post = partial(client.post, "/api/ingest/readings", json=body)
    assert post().status_code == 401
    held = {"Authorization": f"Bearer {made.token}"}
    assert post(headers=held).json()["taken"] == 1
    version = client.get("/api/storage/devices").json()[0]["version"]
    client.post(f"/api/storage/devices/{made.device_id}/revoke", json={"version": version})
    assert post(headers=held).status_code == 401
    history.undo(small.larder, ActRef(), history.recent(small.larder, 1)[0].act_id)
    assert post(headers=held).json()["known"] == 1


def test_too_much_at_once_and_clocks_that_lie_are_refused(small, client):
    made = register(small)
    held = {"Authorization": f"Bearer {made.token}"}

    def post(**more):
        body = {"sent_s": NOW, "readings": [{"at_s": NOW - 60, "temperature_c": 9}]} | more
        return client.post("/api/ingest/readings", json=body, headers=held)

    late = post(sent_s=NOW + 7200)
    assert late.status_code == 409
    assert late.json()["skew_s"] == 7200
    future = post(readings=[{"at_s": NOW + 9000, "temperature_c": 9}]).json()
    assert (future["taken"], future["refused_count"]) == (0, 1)
    assert post(readings=[]).status_code == 422
    assert post(readings=[{"at_s": NOW, "temperature_c": 9}] * 5001).status_code == 422
    seconds = [0.0]
    client.app.state.rate_limit = loggers.RateLimit(lambda: seconds[0])
    answers = {post().status_code for _ in range(70)}
    assert answers == {200, 429}
    # a clock set back keeps nobody out: what is counted is seconds that went by
    small.larder.clock.at_s -= 300
    seconds[0] += 61
    assert post(sent_s=small.larder.now_s()).status_code == 200


def test_wrong_tokens_are_slowed_down_and_a_right_one_never_is(small, client):
    made = register(small)
    body = {"sent_s": NOW, "readings": [{"at_s": NOW - 60, "temperature_c": 9}]}

    def post(token):
        held = {"Authorization": f"Bearer {token}"}
        return client.post("/api/ingest/readings", json=body, headers=held).status_code

    answers = [post(f"guess-{i}") for i in range(40)]
    assert answers[0] == 401
    assert answers[-1] == 429
    assert post(made.token) == 200


def test_a_logger_that_moves_reads_for_where_it_stands(small):
    made = register(small)
    limit = loggers.RateLimit()
    token = made.token

    def send(day, t):
        at = NOW - day * DAY
        small.larder.clock.at_s = at + 60
        rows = [loggers.Reading1(at - 3600 * h, t, 50) for h in range(8)]
        return loggers.ingest(small.larder, limit, token, loggers.Batch(at + 60, rows))

    assert send(20, 5.0)["taken"] == 8
    loggers.move_device(small.larder, ActRef(), made.device_id, small.nodes["tin"])
    assert send(10, 21.0)["taken"] == 8
    small.larder.clock.at_s = NOW
    assert max(v for v in series(small, "porch")["t_max_c"]) == 5.0
    assert series(small, "tin")["t_min_c"] == [21.0] * 8
    assert months(small.larder) == rebuilt(small.larder)
    spare = containers.NewNode("spare", place_kind="shed")
    containers.add_node(small.larder, ActRef(), spare)
    assert series(small, "larder") is None
