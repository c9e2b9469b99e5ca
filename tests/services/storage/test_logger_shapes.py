"""Logger files as real loggers and spreadsheets write them, of our own making: read right, or asked about."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from brisk_larder.core.base.errors import BadFile
from brisk_larder.data.acts import ActRef
from brisk_larder.formats.readings_csv import read_columns
from brisk_larder.formats.readings_layout import look, with_answers
from brisk_larder.services.storage import imports

T0 = datetime(
    2026, 3, 7, 13, 15, tzinfo=UTC
)  # of the plain record that each shape writes its own way
VALUES = [(12.5, 55.0), (13.0, 54.0), (12.0, 56.5), (11.5, 57.0)]
STEP = timedelta(minutes=30)


def lines(write, values=VALUES, start=T0, step=STEP):
    return "\n".join(write(start + step * i, *v) for i, v in enumerate(values)) + "\n"


def f(c):
    return c * 1.8 + 32


SHEET = datetime(1899, 12, 30, tzinfo=UTC)


def serial(t):
    return (t - SHEET) / timedelta(days=1)


# name: (bytes, what is asked beside the zone, answers to that)
SHAPES = {
    "plain": ("time,temperature_c,humidity_pct\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h}"), (), {}),
    "western letters": ("Zeit;Temp (°C);Feuchte (%)\nGerät Mühle;;\n".encode("cp1252").replace(b"Ger\xe4t M\xfchle;;\n", b"")
        + lines(lambda t, c, h: f"{t:%d.%m.%Y %H:%M};{c};{h}".replace(".5;", ",5;")).encode("cp1252"), (), {}),
    "western letters in the middle": ("time,temp_c,rh,note\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h},café")).encode("cp1252"),
    "twelve hours, month first": ("Date Time,Temp (F),RH (%)\n" + lines(lambda t, c, h: f"{t:%m/%d/%Y %I:%M %p},{f(c):.2f},{h}"), ("day_order",), {"month_first": True}),
    "twelve hours with dots": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %I:%M:%S} p.m.,{c},{h}"), (), {}),
    "month by name": ("Timestamp,Temperature (Celsius),Humidity\n" + lines(lambda t, c, h: f"{t:%d-%b-%Y %H:%M},{c},{h}"), (), {}),
    "month by name first": ('Time,Celsius,%RH\n' + lines(lambda t, c, h: f'"{t:%b %d, %Y %H:%M}",{c},{h}'), (), {}),
    "header words": ("Time;Celsius(°C);%RH\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M:%S};{c};{h}"), (), {}),
    "header words, long": ("Timestamp (UTC),Temperature Fahrenheit,Relative Humidity %RH\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{f(c):.2f},{h}"), (), {}),
    "units in cells": ("time,temperature,humidity\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c} °C,{h} %"), (), {}),
    "units in cells, F": ("time,temperature,humidity\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{f(c):.2f}F,{h}%RH"), (), {}),
    "no unit anywhere": ("time,temperature,humidity\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h}"), ("unit",), {"unit": "C"}),
    "epoch seconds": ("epoch,temp_c,rh\n" + lines(lambda t, c, h: f"{t.timestamp():.0f},{c},{h}"), (), {}),
    "epoch milliseconds": ("unix time;temp_c;rh\n" + lines(lambda t, c, h: f"{t.timestamp() * 1000:.0f};{c};{h}"), (), {}),
    "spreadsheet days": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{serial(t):.6f},{c},{h}"), (), {}),
    "spreadsheet days, decimal comma": ("time;temp_c;rh\n" + lines(lambda t, c, h: f"{serial(t):.6f};{c};{h}").replace(".", ","), (), {}),
    "humidity as a share": ("time,temp_c,humidity\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h / 100}"), ("humidity_share",), {"humidity_share": True}),
    "two channels": ("time,Channel 1 temp (C),Channel 1 RH,Channel 2 temp (C),Channel 2 RH\n"
        + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},99.5,12,{c},{h}").replace("99.5", "19.5"), ("columns",), {"time": 0, "temperature": 3, "humidity": 4}),
    "dew point beside": ("time,temp_c,dew point c,rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},3.3,{h}"), (), {}),
    "least and most beside": ("time,temp min (C),temp max (C),temp (C),rh min,rh,max rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c - 1},{c + 1},{c},{h - 9},{h},{h + 9}"), (), {}),
    "the battery's warmth beside": ("time,temp_c,battery temp (C),rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},31,{h}"), (), {}),
    "date and time apart": ("Date;Time;T(C);H\n" + lines(lambda t, c, h: f"{t:%d.%m.%Y};{t:%H:%M:%S};{c};{h}"), (), {}),
    "two-figure years": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{t:%d.%m.%y %H:%M},{c},{h}"), (), {}),
    "slashes, year first": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{t:%Y/%m/%d %H:%M},{c},{h}"), (), {}),
    "its own offset": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{(t + timedelta(hours=5)):%Y-%m-%dT%H:%M:%S}+05:00,{c},{h}"), (), {}),
    "newest first": ("time,temp_c,rh\n" + "\n".join(reversed(lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h}").splitlines())), (), {}),
    "a title and a device above": ("Stone larder, spring\ndevice: mill-a\n\ntime,temp_c,rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h}"), (), {}),
    "a delimiter at the end": ("time,temp_c,rh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h},"), (), {}),
    "sixteen bits": (("time\ttemp_c\trh\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M}\t{c}\t{h}")).encode("utf-16"), (), {}),
    "gaps among them": ("time,temp_c,rh\n2026-03-07 12:45,-999,-999\n" + lines(lambda t, c, h: f"{t:%Y-%m-%d %H:%M},{c},{h}")
        + "2026-03-07 15:15,N/A,--\n2026-03-07 15:45,-127.00,\n2026-03-07 16:15,,\n", (), {}),
}  # fmt: skip


@pytest.mark.parametrize("name", SHAPES)
def test_a_shape_of_file_is_read_right_or_asked_about(tmp_path, name):
    told = SHAPES[name]
    data, asks, answers = told if isinstance(told, tuple) else (told, (), {})
    path = tmp_path / "log.csv"
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    seen = look(path, "log.csv", "UTC", "C", answers)
    first = look(path, "log.csv", "UTC", "C")
    assert set(first.asks) - {"tz"} == set(asks)
    got = read_columns(path, "log.csv", with_answers(seen.layout, answers), seen.header)
    assert got.bad == []
    want = [(T0 + STEP * i).timestamp() for i in range(len(VALUES))]
    assert np.abs(got.at_s - np.array(want)).max() <= 1
    assert got.temperature_c == pytest.approx([c for c, _ in VALUES], abs=0.006)
    assert got.erh == pytest.approx([h / 100 for _, h in VALUES])
    assert got.blanks == (4 if name == "gaps among them" else 0)


def test_dates_decide_their_order_where_they_can(tmp_path):
    """Days one after the other: under the wrong order they would be a month apart."""
    for write, month_first in (("%m/%d/%Y %H:%M", True), ("%d/%m/%Y %H:%M", False)):
        days = lines(lambda t, c, h, w=write: f"{t:{w}},{c},{h}", VALUES, T0, timedelta(days=1))
        path = tmp_path / "log.csv"
        path.write_text("time,temp_c,rh\n" + days)
        seen = look(path, "log.csv", "UTC")
        assert "day_order" not in seen.asks
        assert seen.layout.month_first is month_first


def test_nothing_that_a_file_leaves_open_is_guessed_in_silence(small):
    """By command or in one request there is nobody to ask: it is refused with what is missing."""
    for text, missing in (
        ("time,temp_c\n07/04/2026 10:00,9\n07/04/2026 11:00,9\n", "April"),
        ("time,temperature\n2026-07-04 10:00,9\n", "C or F"),
        ("time,a temp_c,b temp_c\n2026-07-04 10:00,9,8\n", "which columns"),
        ("time,temp_c,rh\n2026-07-04 10:00,9,0.55\n", "share"),
    ):
        with pytest.raises(BadFile, match=missing):
            imports.import_readings(
                small.larder, ActRef(), small.nodes["tin"], "x.csv", text.encode()
            )


@pytest.mark.parametrize(
    ("tz", "day", "minutes"),
    [
        ("Europe/London", (2026, 10, 25), 30), ("Europe/London", (2026, 10, 25), 90),
        ("Europe/London", (2026, 10, 25), 7), ("Australia/Lord_Howe", (2026, 4, 5), 10),
        ("Australia/Lord_Howe", (2026, 4, 5), 90), ("America/St_Johns", (2026, 11, 1), 20),
        ("Africa/Casablanca", (2026, 2, 15), 45), ("Europe/London", (2026, 3, 29), 90),
    ],
)  # fmt: skip
@pytest.mark.parametrize("newest_first", [False, True])
def test_the_hour_that_comes_twice_is_told_apart_at_any_step_forwards_and_backwards(
    tmp_path, tz, day, minutes, newest_first
):
    start = datetime(*day, tzinfo=ZoneInfo(tz)) - timedelta(hours=13)
    true = [int(start.timestamp()) + 60 * minutes * i for i in range(30 * 60 // minutes)]
    walls = [datetime.fromtimestamp(t, UTC).astimezone(ZoneInfo(tz)) for t in true]
    rows = [f"{w:%Y-%m-%d %H:%M},{9 + i % 5}" for i, w in enumerate(walls)]
    if newest_first:
        rows.reverse()
    path = tmp_path / "log.csv"
    path.write_text("time,temp_c\n" + "\n".join(rows))
    seen = look(path, "log.csv", tz)
    got = read_columns(path, "log.csv", seen.layout, seen.header)
    assert got.at_s.tolist() == true
    assert got.bad == []
