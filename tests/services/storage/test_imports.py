"""Logger files: any order, any layout, part of it or nothing, stopped in the middle, clocks that change."""

import io
import itertools
import threading
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.formats.local_times import utc_of_local
from brisk_larder.services.air.buckets import rebuild_buckets
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.papers import history
from brisk_larder.services.storage import charts, imports
from brisk_larder.services.storage.brought_files import BroughtFiles
from tests.conftest import DAY, NOW
from tests.services.forecast.test_forecast import months


def rows(first, last, step=1800, name="mill-a"):
    lines = [f"device: {name}", "time,temperature_c,humidity_pct"]
    for i in range(first, last):
        moment = datetime.fromtimestamp(NOW - 90 * DAY + step * i, UTC)
        lines.append(f"{moment:%Y-%m-%dT%H:%M:%SZ},{10 + (i * 7) % 13},{50 + i % 20}")
    return "\n".join(lines).encode()


def stored(larder):
    with larder.store.read() as session:
        run = session.connection().exec_driver_sql
        return [
            [tuple(r[1:]) for r in run(f"SELECT * FROM {t} ORDER BY 1, 2")]
            for t in ("d_hour", "d_day")
        ] + [[tuple(r[1:4]) for r in run("SELECT * FROM reading ORDER BY 1, 2")]]


def take(small, data, node="tin", **more):
    with io.BytesIO(data) as raw:
        brought = BroughtFiles(small.larder)
        token = brought.bring(small.nodes[node], "log.csv", raw).token
        brought.take(token, ActRef(), more.pop("answers", {}), more.pop("partial", False))
        done = brought.wait(token, lambda s: s.state != "reading")
        brought.close()
        return done


def test_the_order_of_files_cut_from_one_record_changes_nothing(small):
    larder = small.larder
    pieces = [rows(0, 300), rows(250, 700), rows(680, 900)]
    seen = []
    for order in itertools.permutations(range(3)):
        acts = []
        for i in order:
            ref = ActRef()
            imports.import_readings(larder, ref, small.nodes["tin"], "part.csv", pieces[i])
            acts.append(ref.id)
        seen.append((stored(larder), months(larder)))
        for act in reversed(acts):
            history.undo(larder, ActRef(), act)
    assert len(seen[0][0][2]) == 900
    assert all(s == seen[0] for s in seen)
    assert stored(larder) == [[], [], []]


def test_a_first_dial_where_a_logger_reads_reaches_back_to_its_last_reading_only(small):
    larder = small.larder
    imports.import_readings(larder, ActRef(), small.nodes["tin"], "a.csv", rows(0, 900))
    bring_up_to_date(larder)
    small.read("tin", 13, 52)
    with larder.store.read() as session:
        since = session.connection().exec_driver_sql("SELECT part_id, from_s FROM dirty").fetchall()
    last = NOW - 90 * DAY + 1800 * 899
    assert since
    assert {s for _, s in since} == {last}


def test_hours_and_days_are_the_same_however_they_were_summed(small):
    larder = small.larder
    imports.import_readings(larder, ActRef(), small.nodes["tin"], "a.csv", rows(0, 2000, 300))
    imports.import_readings(larder, ActRef(), small.nodes["tin"], "b.csv", rows(1900, 2600, 300))
    before = stored(larder)
    with larder.store.write() as session:
        rebuild_buckets(session)
    assert stored(larder) == before


def test_bad_rows_are_listed_and_the_good_ones_taken_only_when_asked(small):
    data = rows(0, 40) + b"\n2026-09-30T10:00:00Z,warm,50\n2026-09-30T11:00:00Z,99,50\nnever,9,9\n"
    refused = take(small, data)
    assert refused.state == "failed"
    assert [p["line"] for p in refused.problems] == [43, 44, 45]
    assert stored(small.larder)[2] == []
    done = take(small, data, partial=True)
    assert (done.state, done.result["new_rows"], done.result["bad_rows"]) == ("done", 40, 3)
    again = take(small, data, partial=True)
    assert (again.result["new_rows"], again.result["known_rows"]) == (0, 40)


def test_a_file_that_names_no_columns_is_asked_about(small):
    data = b"when;warmth;dampness\n01/02/2026 10:00;50,5;61\n01/02/2026 11:00;51,0;62\n"
    brought = BroughtFiles(small.larder)
    seen = brought.bring(small.nodes["tin"], "odd.csv", io.BytesIO(data))
    assert "columns" in seen.preview.asks
    assert seen.preview.header == ["when", "warmth", "dampness"]
    wrong = {"time": 0, "temperature": 0, "humidity": 2}
    answers = {
        "time": 0,
        "temperature": 1,
        "humidity": 2,
        "unit": "F",
        "tz": "UTC",
        "month_first": False,
    }
    brought.take(seen.token, ActRef(), wrong, False)
    failed = brought.wait(seen.token, lambda s: s.state != "reading")
    assert "different columns" in failed.message
    brought.take(seen.token, ActRef(), answers, False)
    done = brought.wait(seen.token, lambda s: s.state != "reading")
    assert done.result["new_rows"] == 2
    known = brought.bring(small.nodes["tin"], "odd2.csv", io.BytesIO(data))
    assert known.preview.header == seen.preview.header
    with pytest.raises(Conflict):
        brought.take(seen.token, ActRef(), answers, False)
    with pytest.raises(NotFound):
        brought.state("nothing")
    brought.close()


def test_what_the_file_leaves_open_is_asked_and_remembered(small):
    data = b"time,temp,rh\n03/04/2026 10:00,50,61\n04/04/2026 11:00,51,62\n"
    brought = BroughtFiles(small.larder)
    seen = brought.bring(small.nodes["tin"], "x.csv", io.BytesIO(data))
    assert set(seen.preview.asks) == {"unit", "tz", "day_order"}
    brought.take(seen.token, ActRef(), {"unit": "F", "tz": "UTC", "month_first": True}, False)
    done = brought.wait(seen.token, lambda s: s.state != "reading")
    assert done.result["first_s"] == datetime(2026, 3, 4, 10, tzinfo=UTC).timestamp()
    again = brought.bring(small.nodes["tin"], "y.csv", io.BytesIO(data))
    assert (again.preview.asks, again.preview.known) == ([], True)
    assert again.preview.layout["month_first"] is True
    brought.close()


def test_an_import_that_is_stopped_leaves_nothing(small, monkeypatch):
    gate = threading.Event()
    monkeypatch.setattr(imports, "INSERT_ROWS", 50)
    real = imports.store_rows

    def slow(session, series_id, columns, new, batch_id, progress):
        def waiting(share):
            gate.wait(5)
            progress(share)

        real(session, series_id, columns, new, batch_id, waiting)

    monkeypatch.setattr(imports, "store_rows", slow)
    brought = BroughtFiles(small.larder)
    token = brought.bring(small.nodes["tin"], "log.csv", io.BytesIO(rows(0, 400))).token
    brought.take(token, ActRef(), {}, False)
    brought.wait(token, lambda s: s.share >= 0.6, 5)
    brought.stop(token)
    gate.set()
    ended = brought.wait(token, lambda s: s.state != "reading")
    assert (ended.state, ended.message) == ("cancelled", "Stopped: nothing was taken in")
    assert stored(small.larder) == [[], [], []]
    assert all(a.kind != "import_readings" for a in history.recent(small.larder))
    brought.close()


def test_an_hour_that_comes_twice_is_told_apart_by_the_order_of_the_file():
    local = lambda *t: int(datetime(*t, tzinfo=UTC).timestamp())  # noqa: E731
    clock = ((0, 30), (1, 0), (1, 30), (1, 0), (1, 30), (2, 0))
    autumn = np.array([local(2026, 10, 25, *at) for at in clock])
    at, twice = utc_of_local(autumn, "Europe/London")
    assert np.diff(at).tolist() == [1800] * 5
    assert twice == 4
    once, _ = utc_of_local(np.delete(autumn, [3, 4]), "Europe/London")
    assert np.diff(once).tolist() == [1800, 1800, 5400]
    spring = np.array([local(2026, 3, 29, 0, 30), local(2026, 3, 29, 2, 0)])
    assert np.diff(utc_of_local(spring, "Europe/London")[0]).tolist() == [1800]


@given(
    st.integers(1_600_000_000, 1_790_000_000),
    st.sampled_from(["Europe/London", "Australia/Sydney", "UTC"]),
)
def test_a_record_without_a_gap_comes_back_whole_in_any_zone(start, tz):
    from zoneinfo import ZoneInfo

    true = start // 3600 * 3600 + np.arange(0, 400 * 3600, 1800)
    walls = [datetime.fromtimestamp(int(t), UTC).astimezone(ZoneInfo(tz)) for t in true]
    local = np.array([int(w.replace(tzinfo=UTC).timestamp()) for w in walls])
    assert np.array_equal(utc_of_local(local, tz)[0], true)


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(st.lists(st.text(max_size=12), max_size=5), max_size=8),
    st.sampled_from([",", ";", "\t"]),
)
def test_no_table_however_odd_breaks_the_reader_or_is_half_taken_in(small, table, comma):
    text = f"time{comma}temp_c{comma}rh\n" + "\n".join(comma.join(r) for r in table)
    before = stored(small.larder)
    said = "x.csv"
    try:
        imports.import_readings(small.larder, ActRef(), small.nodes["tin"], "x.csv", text.encode())
        before = stored(small.larder)
    except (BadFile, InvalidValue) as error:
        said = error.message
    assert "x.csv" in said
    assert stored(small.larder) == before


def test_a_spike_survives_every_zoom(small):
    data = rows(0, 4000, 300).replace(b",50\n", b",50\n", 1)
    lines = data.split(b"\n")
    lines[1500] = lines[1500].rsplit(b",", 2)[0] + b",39.5,50"
    imports.import_readings(small.larder, ActRef(), small.nodes["tin"], "s.csv", b"\n".join(lines))
    import orjson

    for days in (1, 20, 100, 800, 3650):
        body = orjson.loads(
            charts.readings_json(small.larder, small.nodes["tin"], NOW - (100 + days) * DAY, None)
        )
        (series,) = body["series"]
        assert len(series["at_s"]) < 2000
        assert max(v for v in series["t_max_c"]) == 39.5
        assert sum(series["n"]) == 4000


def test_a_fault_inside_is_said_and_logged_and_leaves_nothing(small, monkeypatch, caplog):
    def broken(*args, **more):
        raise RuntimeError("out of paper")

    monkeypatch.setattr(imports, "read_columns", broken)
    done = take(small, rows(0, 30))
    assert done.state == "failed"
    assert "RuntimeError" in done.message
    assert "nothing was taken in" in done.message
    assert "out of paper" in caplog.text
    assert stored(small.larder) == [[], [], []]
    monkeypatch.undo()
    assert take(small, rows(0, 30)).result["new_rows"] == 30
