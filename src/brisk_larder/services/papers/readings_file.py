"""All readings as a file."""

from __future__ import annotations

import csv
from datetime import UTC, datetime
from io import StringIO

from ..air.look import looking_at
from ..household.larder import Larder


def readings_csv(larder: Larder) -> str:
    """All readings as CSV, one row each, with the series they belong to."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["series", "time", "temperature_c", "humidity_pct"])
    with looking_at(larder) as v:
        rows = v.session.connection().exec_driver_sql(
            "SELECT series_id, at_s, temperature_c, erh FROM reading ORDER BY series_id, at_s"
        )
        for series_id, at_s, temperature_c, erh in rows:
            moment = datetime.fromtimestamp(at_s, UTC).isoformat().replace("+00:00", "Z")
            damp = "" if erh is None else round(100 * erh, 3)
            writer.writerow([series_id, moment, temperature_c, damp])
    return out.getvalue()
