"""How a test of a packet is set up: what to do first, on what, how wet, where, and what it can tell."""

from __future__ import annotations

import json
from dataclasses import dataclass
from math import ceil

from ...core.base.errors import InvalidValue
from ...core.base.units import DAY_S
from ...core.trials.setting_up import Before, Laid, before, laid
from ...core.trials.when_to_test import as_at_its_best, spot, stretched, what_n_tells
from ..acts.ask_before import testing
from ..air.look import looking_at
from ..forecast.lines import LotLine, lot_lines, test_seeds
from ..household.kinds import Kind, figures
from ..household.larder import Larder, writing_here
from ..household.own_units import main_part
from ..household.wording import day_words, many, prose

MEDIA = {
    "paper": "damp paper in a flat box", "rolled": "rolled damp paper, upright",
    "top": "on top of damp paper, in light", "sand": "damp sand", "compost": "compost",
}  # fmt: skip


@dataclass(frozen=True)
class TestSetup:
    """How to set up a test of a packet: seeds, medium, spot, days, what comes first, amounts, cautions; and
    what the number can tell."""

    seeds: int
    can_tell: str
    medium: str
    temperature_c: float
    temperature: str
    days: str
    light: str
    first: list[str]
    lay: str
    cold_days: float
    reads_low: str
    cautions: list[str]


def laying(kind: Kind, n: int) -> tuple[Before, Laid]:
    """What comes before a test of n seeds of a kind, and how it is laid."""
    f, crop = figures().bench, kind.crop
    wakes = before(crop.pretreatment, f)
    return wakes, laid(n, crop.seeds_per_g, crop.light, crop.wet_sensitivity, wakes, f)


def first_steps(wakes: Before, cold_days: float, start_s: float) -> list[str]:
    """What is done before the seed goes into its warmth, each with its time."""
    out = []
    if wakes.nick:
        out.append("Nick hard seed with a file, away from the eye of the seed.")
    if wakes.soak_hours:
        out.append(f"Soak {wakes.soak_hours:.0f} hours, then let the surface dry.")
    if cold_days:
        until = day_words(int(start_s + cold_days * DAY_S))
        out.append(
            prose(
                f"Lay it damp in the fridge (3 to 8 °C) for {cold_days:.0f} days, until {until}; "
            )
            + "its days count from then."
        )
    return out


def count_days(kind: Kind, temperature_c: float) -> tuple[int, int]:
    """First and last count day of a kind at a temperature, whole days in its warmth."""
    crop, f = kind.crop, figures().trials
    pace = as_at_its_best(1.0, temperature_c, crop.germ_temp_min_c, crop.germ_temp_opt_c.low, f)
    first, last = (ceil(stretched(x, pace)) for x in (crop.first_count_days, crop.final_count_days))
    return first, last


def setup(larder: Larder, lot_id: int, n: int | None, temperature_c: float | None) -> TestSetup:
    """What to know before starting a test; ``n``: seeds, None for the advice's number; ``temperature_c``: of
    the spot, None for what the kind likes."""
    line = next((x for x in lot_lines(larder) if x.lot_id == lot_id), None)
    if line is None:
        raise InvalidValue("lot", lot_id, "a packet in stock")
    with looking_at(larder) as v:
        _, cohort, variety = main_part(v.session, lot_id)
        kind = v.kinds.get(variety.crop)
        age_days = (v.now_s - cohort.record_from_s) / DAY_S
        now_s = v.now_s
    seeds = n or test_seeds(line.glance)
    if not 1 <= seeds <= 400:
        raise InvalidValue("seeds", seeds, "1 to 400")
    return _said(line, kind, seeds, age_days, temperature_c, now_s)


def _said(
    line: LotLine, kind: Kind, seeds: int, age_days: float, temperature_c: float | None, now_s: int
) -> TestSetup:
    all_up = what_n_tells(seeds, seeds).low
    half = what_n_tells(seeds, seeds // 2).high
    crop, f = kind.crop, figures()
    wakes, how = laying(kind, seeds)
    low, high = crop.germ_temp_opt_c
    at = temperature_c if temperature_c is not None else natural_spot(kind)
    cold = wakes.cold_for(age_days, f.bench)
    first, last = count_days(kind, at)
    here = writing_here()
    cautions = [*testing(line), *([kind.hazard] if kind.hazard else [])]
    cautions.append(
        "Wash your hands after sorting seed; mouldy seed: no sniffing, discard it outdoors"
    )
    if not kind.known:
        cautions.append("Shoots of an unknown kind are not eaten")
    damp = (
        "just damp: this kind rots when wet"
        if crop.wet_sensitivity == "high"
        else "damp, not soggy"
    )
    return TestSetup(
        seeds=seeds,
        can_tell=f"{seeds} of {seeds} up would say: at least {100 * all_up:.0f} %. "
        f"{seeds // 2} of {seeds}: at most {100 * half:.0f} % (each nineteen times in twenty).",
        medium=how.medium,
        temperature_c=at,
        temperature=here.span(low, high),
        days=f"first look on day {first}, last count on day {last}",
        light={"light": "in light", "dark": "in the dark", "either": "light or dark"}[crop.light],
        first=first_steps(wakes, cold, now_s),
        lay=prose(
            f"{MEDIA[how.medium].capitalize()}: {many(how.layers, 'layer')} of up to {how.per_layer}, "
            f"{many(how.sheets, 'sheet')} of kitchen paper, about {how.water_ml:.0f} ml of water (a guess); "
            f"{damp}."
        ),
        cold_days=cold,
        reads_low=READS_LOW if how.reads_low else "",
        cautions=cautions,
    )


READS_LOW = (
    "Plain paper may read low: seed of this kind can sleep without light, cold or a nitrate. Keepers differ; "
    "compost in light tells it nearer. On plain paper its count weighs less, and a low one alone condemns "
    "no packet."
)


def decides(larder: Larder, lot_id: int, n: int) -> str:
    """What is to follow each count of a test of n seeds, as it is kept with it; empty where another number
    was asked for, or none."""
    line = next((x for x in lot_lines(larder) if x.lot_id == lot_id), None)
    advice = None if line is None else line.glance.advice
    return json.dumps(advice.then) if advice is not None and advice.seeds == n else ""


def natural_spot(kind: Kind) -> float:
    """The warmth at which a kind is tested where nobody says another."""
    return spot(kind.crop.germ_temp_opt_c.low, kind.crop.germ_temp_opt_c.high, figures().trials)
