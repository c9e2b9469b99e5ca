"""Was it right? What was forecast when each test began, against what it showed."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, select

from ...core.base.units import YEAR_S
from ...core.seed.calibration import FEW, Forecasts, Record, groups, own_new_seed, record
from ...core.trials.when_to_test import WHOLE
from ...data.queries import key, live
from ...data.tables import ForecastNote
from ..air.look import looking_at
from ..forecast.counts import TestSoFar, all_tests
from ..forecast.current import bring_up_to_date, what_relatives_say
from ..forecast.glance_data import Likely
from ..forecast.kin_words import times_as_long
from ..household.kinds import Kinds, figures
from ..household.larder import Larder, remembered
from ..household.wording import many, percent

BEYOND_CHANCE = 1.64  # sds: a kind differs from the book, nine times in ten


@dataclass(frozen=True)
class Past:
    """One test and what was thought of the seed before it."""

    trial_id: int
    code: str
    kind: str
    age_years: float
    lot_code: str
    variety: str
    kind_name: str
    place: str
    sown_s: int
    up: int
    n: int
    before: Likely
    by_age: float


@dataclass(frozen=True)
class Group:
    """How forecasts of a kind, or of what lay in a place, did; in words."""

    name: str
    tests: int
    held: float
    bias: float
    says: str


@dataclass(frozen=True)
class OwnFigure:
    """A kind of which this house's tests say something else than the book."""

    kind: str
    name: str
    factor: float
    low: float
    high: float
    says: str


@dataclass(frozen=True)
class Offer:
    """A figure of the book that this house's tests speak against, and what it would be."""

    kind: str
    field: str
    now: float
    offered: float
    says: str


@dataclass(frozen=True)
class LookingBack:
    """The page: one sentence first, the whole record, by kind, by place, figures of one's own, figures that
    could be overruled, the tests."""

    says: str
    record: Record | None
    against_age: str
    by_kind: list[Group]
    by_place: list[Group]
    own: list[OwnFigure]
    offers: list[Offer]
    tests: list[Past]


_SEED = (
    "SELECT t.id, lot.code, v.name, v.crop, c.record_from_s, (SELECT n.name FROM stay s "
    "JOIN node n ON n.id = s.parent_node_id WHERE s.lot_id = t.lot_id AND s.deleted_s IS NULL "
    "AND s.from_s <= t.sown_s ORDER BY s.from_s DESC LIMIT 1) FROM trial t "
    "JOIN lot ON lot.id = t.lot_id JOIN part p ON p.lot_id = lot.id AND p.deleted_s IS NULL "
    "JOIN cohort c ON c.id = p.cohort_id JOIN variety v ON v.id = c.variety_id "
    "WHERE t.deleted_s IS NULL ORDER BY t.id, p.share_mean"
)


@remembered
def looking_back(larder: Larder) -> LookingBack:
    """All tests that are over and began with a forecast, and how the forecasts did."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        past, told = _past(v.session, v.kinds, larder.now_s())
        kinds = v.kinds
    if not past:
        return LookingBack(
            "No test has ended yet that began with a forecast. Each that does will be weighed here.",
            None, "", [], [], _own(larder, kinds), [], [],
        )  # fmt: skip
    whole = record(told)
    return LookingBack(
        _says(whole),
        whole,
        _against_age(whole),
        [_group(n, r) for n, r in groups([p.kind_name for p in past], told)],
        [_group(n, r) for n, r in groups([p.place for p in past], told)],
        _own(larder, kinds),
        _offers(past, kinds),
        sorted(past, key=lambda p: -p.sown_s),
    )


def _counts_as_told(test: TestSoFar, kinds: Kinds, crop: str | None) -> bool:
    """Whether a test has told all it could: closed, sound, no seed still waiting when it ended."""
    over = test.trial.closed_s is not None and test.count is not None
    return over and test.n > 0 and test.trial.weight > 0 and test.ceiling(kinds.get(crop)) == WHOLE


def _past(session: Session, kinds: Kinds, now_s: int) -> tuple[list[Past], Forecasts]:
    notes = {n.trial_id: json.loads(n.quantiles) for n in session.exec(live(ForecastNote))}
    seed = {int(r[0]): r[1:] for r in session.connection().exec_driver_sql(_SEED)}
    lots = {int(r) for r in session.exec(select(ForecastNote.lot_id))}
    past, rows = [], []
    for test in all_tests(session, lots, now_s):
        trial = key(test.trial)
        if trial not in notes or trial not in seed:
            continue
        lot, variety, crop, record_from, place = seed[trial]
        if not _counts_as_told(test, kinds, crop):
            continue
        kind, q = kinds.get(crop), notes[trial]
        age = (test.trial.sown_s - record_from) / YEAR_S
        by_age = kind.crop.typical_initial_germination_pct / 100
        by_age = by_age if age <= kind.crop.years_cool_dry.high else 0.0
        past.append(
            Past(
                trial, test.trial.code, kind.key, age, lot, variety, kind.name, place or "no place named",
                test.trial.sown_s, test.viable, test.n, Likely(*q[:3]), by_age,
            )
        )  # fmt: skip
        rows.append((*q[:3], test.n, test.viable, test.rho(kind), by_age))
    table = np.array(rows, dtype=float).reshape(-1, 7)
    return past, Forecasts(table[:, :3], *(table[:, j] for j in range(3, 7)))


def _says(r: Record) -> str:
    got = (
        f"Of {many(r.tests, 'test')}, {percent(r.held)} came out within the range that was forecast"
    )
    match r.verdict:
        case "few":
            return f"{got}. That is too few to judge by: four in five are promised."
        case "kept":
            return (
                f"{got}; four in five are promised, and by chance it may be {percent(r.low)} to "
                f"{percent(r.high)}. You can rely on the ranges."
            )
        case "too_sure":
            return (
                f"{got}, though four in five were promised: the forecasts are surer than they should be. "
                "Take the ranges as too narrow until more tests are told."
            )
        case _:
            return f"{got}, more than the four in five promised: the ranges are wider than they need be."


def _against_age(r: Record) -> str:
    better = "nearer" if r.off < r.age_off else "no nearer"
    return (
        f"Forecasts were off by {100 * r.off:.0f} points on average (counting so few seeds brings "
        f"{100 * r.chance_off:.0f} of them by itself); the age rule by {100 * r.age_off:.0f}: the forecast "
        f"came {better}."
    )


def _group(name: str, r: Record) -> Group:
    points = 100 * r.bias
    by_chance = BEYOND_CHANCE * r.chance_off * np.sqrt(np.pi / 2 / r.tests)
    if abs(r.bias) < by_chance:
        says = "as forecast, as far as so few tests tell" if r.tests < FEW else "came as forecast"
    else:
        says = f"came {abs(points):.0f} points {'higher' if points > 0 else 'lower'} than forecast"
    if r.verdict == "too_sure":
        says += "; ranges too narrow"
    return Group(name, r.tests, r.held, r.bias, says)


def _own(larder: Larder, kinds: Kinds) -> list[OwnFigure]:
    """Kinds whose seed keeps longer or shorter here than the book says, beyond chance."""
    out = []
    for crop, (mean, sd) in what_relatives_say(larder).items():
        if abs(mean) < max(figures().telling.own_figure_log10, BEYOND_CHANCE * sd):
            continue
        name = kinds.get(crop).name
        low, high = 10 ** (mean - 1.2816 * sd), 10 ** (mean + 1.2816 * sd)
        out.append(
            OwnFigure(
                crop, name, 10**mean, low, high,
                f"{name.capitalize()} keeps {times_as_long(mean)} here as the book says (likely {low:.1f} to "
                f"{high:.1f} times). Every forecast of {name} reckons with it.",
            )
        )  # fmt: skip
    return sorted(out, key=lambda x: -abs(np.log(x.factor)))


def _offers(past: list[Past], kinds: Kinds) -> list[Offer]:
    """Kinds whose new seed comes up otherwise than the book says, beyond chance, by tests of young seed."""
    f, out = figures(), []
    young: dict[str, dict[str, Past]] = {}
    for test in sorted(past, key=lambda t: t.sown_s, reverse=True):
        if 0 <= test.age_years <= f.telling.own_age_years and kinds.get(test.kind).known:
            young.setdefault(test.kind, {})[test.lot_code] = test  # the first of each packet
    for crop, tests in sorted(young.items()):
        if len(tests) < f.telling.own_cohorts:
            continue
        k, n = (np.array([float(getattr(t, x)) for t in tests.values()]) for x in ("up", "n"))
        mean, sd = own_new_seed(k, n, f.belief.living_logit_sd, f.belief.test_rho_good)
        kind = kinds.get(crop)
        now = kind.crop.typical_initial_germination_pct
        off = abs(mean - now / 100)
        if off < max(BEYOND_CHANCE * sd, f.telling.own_points):
            continue
        offered = float(np.clip(round(100 * mean), 1, 100))
        low, high = (min(max(100 * (mean + z * sd), 0), 100) for z in (-1.2816, 1.2816))
        says = (
            f"New seed of {kind.name}: by tests of {len(tests)} young packets here {offered:.0f} % come up "
            f"(likely {low:.0f} to {high:.0f}); the book says {now:.0f} %."
        )
        out.append(Offer(crop, "typical_initial_germination_pct", now, offered, says))
    return out
