"""A large file of a logger, read and written by a process of its own: rooms and acts go on meanwhile.

Started by ``import_helper`` with one command a line on its input, as JSON; answers a line each:
progress, then the result. Arrays travel as files. It ends with its input, so never outlives the server.
"""

from __future__ import annotations

import json
import os
import sqlite3
import sys
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np

from ...core.base.errors import BadFile
from ...core.storage.hours import drawn_together
from ...formats.readings_csv import read_columns
from ...formats.readings_layout import Layout

SHARE_ROWS = 50_000  # rows in one write: a third of a second
BUCKET_ROWS = 40_000
BREATH_S = 0.003  # between two shares, so that who waits for the lock gets it
BUCKETS = (("d_hour", 3600), ("d_day", 86_400))


def say(**words: Any) -> None:
    """One line to the server."""
    sys.stdout.write(json.dumps(words) + "\n")
    sys.stdout.flush()


def read(told: dict[str, Any]) -> None:
    """Read a file into columns, saved beside it."""
    layout = Layout(**told["layout"])
    path = Path(told["path"])
    got = read_columns(path, told["name"], layout, told["header"], lambda s: say(share=s))
    np.savez(
        told["arrays"], at_s=got.at_s, temperature_c=got.temperature_c, erh=got.erh, lines=got.lines
    )
    say(
        done=True,
        bad=got.bad,
        bad_count=got.bad_count,
        repeats=got.repeats,
        ambiguous=got.ambiguous,
        blanks=got.blanks,
    )


def _share(connection: sqlite3.Connection, sql: str, rows: list[tuple[Any, ...]]) -> None:
    connection.execute("BEGIN IMMEDIATE")
    try:
        connection.executemany(sql, rows)
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")
    time.sleep(BREATH_S)


def write(told: dict[str, Any]) -> None:
    """Write rows of a series that stands nowhere yet, and their hours and days, in shares."""
    with np.load(told["arrays"]) as arrays:
        at, warm, damp = arrays["at_s"], arrays["temperature_c"], arrays["erh"]
    series, batch = int(told["series"]), int(told["batch"])
    # its series and batch were written just now: looking them up a million times is a tenth
    connection = sqlite3.connect(told["file"], timeout=10, isolation_level=None)
    connection.execute("PRAGMA synchronous=NORMAL")
    sql = (
        "INSERT INTO reading (series_id, at_s, temperature_c, erh, batch_id) "
        f"VALUES ({series}, ?, ?, ?, {batch})"
    )
    for first in range(0, len(at), SHARE_ROWS):
        run = slice(first, first + SHARE_ROWS)
        read_h = [None if h != h else h for h in damp[run].tolist()]
        _share(
            connection, sql, list(zip(at[run].tolist(), warm[run].tolist(), read_h, strict=True))
        )
        say(share=min(1.0, (first + SHARE_ROWS) / len(at)))
    for table, width in BUCKETS:
        rows = drawn_together(at, warm, damp, width)
        sql = f"INSERT INTO {table} VALUES ({series}, {', '.join('?' * 10)})"
        for first in range(0, len(rows), BUCKET_ROWS):
            _share(connection, sql, rows[first : first + BUCKET_ROWS])
    connection.close()
    say(done=True)


def _end_with(parent: int) -> None:
    """End when the server ends, however it ends: nobody waits for this any more."""
    while os.getppid() == parent:
        time.sleep(0.5)
    os._exit(1)


def main() -> None:
    """Do what each line says until there are no more."""
    os.nice(10)  # rooms come first
    threading.Thread(target=_end_with, args=(os.getppid(),), daemon=True).start()
    for line in sys.stdin:
        told = json.loads(line)
        try:
            (read if told["do"] == "read" else write)(told)
        except BadFile as error:
            say(failed=error.message, problems=error.problems)
        except sqlite3.Error as error:
            say(failed=f"The file cannot be written ({error}): is the disk full?", problems=[])


if __name__ == "__main__":
    main()
