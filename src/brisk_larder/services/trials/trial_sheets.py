"""The sheet of one evening of the plan, for the bench: what is laid where, counts to fill in, labels."""

from __future__ import annotations

from ...core.base.errors import NotFound
from ...core.base.units import DAY_S
from ...formats.bench_pdf import LayerLabel, bench_pdf
from ...formats.labels_pdf import ListPage
from ..air.look import looking_at
from ..household.larder import Larder
from ..household.wording import day_words, temperature_here
from .bench import bench
from .evening_steps import MEDIA
from .plan import Evening, Laid

HEAD = [
    "box, layer",
    "packet",
    "seeds",
    "where",
    "on",
    "first look",
    "last count",
    "up",
    "up",
    "up",
    "odd",
]
UP = "up: normal seedlings so far, counted from sowing"
WIDTHS = [15.0, 42.0, 10.0, 30.0, 32.0, 18.0, 18.0, 9.0, 9.0, 9.0, 14.0]


def evening_pdf(larder: Larder, day: str, page: str = "") -> bytes:
    """The sheet of the evening of a day of the plan (empty: the next one). Raises NotFound."""
    evening = next((e for e in bench(larder).plan.evenings if day in ("", e.day)), None)
    if evening is None:
        raise NotFound(f"No tests are planned for {day or 'any evening'}")
    with looking_at(larder) as v:
        size = page or v.home.page_size
    rows = [_row(evening, t) for t in evening.tests]
    title = f"Tests of {day_words(int(evening.day_s))}"
    sheet = ListPage(title, evening.why, UP, HEAD, WIDTHS, rows)
    return bench_pdf(sheet, [_label(evening, t) for t in evening.tests], size)


def _when(evening: Evening, test: Laid, day: float) -> str:
    return day_words(int(evening.day_s + (test.cold_days + day) * DAY_S))


def _row(evening: Evening, t: Laid) -> list[str]:
    cold = f"{t.cold_days:.0f} d cold, then " if t.cold_days else ""
    return [
        f"{t.box}, {t.layer}",
        f"{t.code} {t.variety}",
        str(t.seeds),
        f"{cold}{t.spot}, {temperature_here(t.temperature_c)}",
        MEDIA[t.medium],
        _when(evening, t, t.first_day),
        _when(evening, t, t.last_day),
        *[""] * 4,
    ]


def _label(evening: Evening, t: Laid) -> LayerLabel:
    where = f"{t.spot}, box {t.box}, layer {t.layer}"
    light = {"light": "in light", "dark": "in the dark"}.get(t.light, "light or dark")
    return LayerLabel(
        f"{t.code} {t.variety}",
        [
            f"{t.kind_name}, {t.seeds} seeds, sown {day_words(int(evening.day_s))}",
            where,
            f"look {_when(evening, t, t.first_day)}, last {_when(evening, t, t.last_day)}",
            light,
        ],
    )
