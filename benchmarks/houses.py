"""Made-up houses whose every hour is known: does the stated doubt of how far seed has aged hold the truth?

    python benchmarks/houses.py [--quick] [houses 200]

Two years, hour by hour: a house that departs from the book of its kind of place for good and from day to day,
walls drawn from their own ranges whose pace goes with the vapour pressure (Clausius and Clapeyron), a dial or
logger with an error at each reading and one of its own. Isotherms and constants of the kinds are the
table's: they are not what is asked here. The core is told what a household would tell. Asked is how often
the stated 80 % interval of log10 A holds what the seed has aged. The baseline is a doubt of one
instrument alone, as if place and walls were as in the book.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass

import numpy as np

from brisk_larder.core.seed import ageing as ag
from brisk_larder.core.storage import climate as cl
from brisk_larder.core.storage import dials
from brisk_larder.core.storage import moisture as mo
from brisk_larder.reference import load_reference

REF = load_reference()
CROPS = ("carrot", "kale", "lettuce", "onion", "tomato")
YEARS, DAY = 2, 86_400
PLACES = REF.figures.places
LASTING = PLACES.house_lasting_share, PLACES.house_known_days


@dataclass(frozen=True)
class Case:
    """A place, walls from the seed outward (the last ``inside`` of them around the instrument, which then
    reads the air within), how often it is read (days; 0: by the hour, None: never), and how many times as far
    as the book's usual departure its houses depart (two: half of them each, about)."""

    place: str
    walls: tuple[str, ...]
    every: int | None
    inside: int = 0
    far: tuple[float, ...] = (1.0,)
    doors: bool = False


CASES = {
    "logger in a tin": Case("larder", ("paper_envelope", "metal_tin_plain"), 0, inside=1),
    "weekly dial": Case("larder", ("paper_envelope",), 7),
    "weekly dial in a tin": Case("larder", ("paper_envelope", "metal_tin_plain"), 7, inside=1),
    "dial every two months": Case("cool_bedroom", ("paper_envelope",), 61),
    "jar in a tin, weekly dial": Case("larder", ("glass_jar_plain_lid", "metal_tin_plain"), 7),
    "tin in a cellar, weekly dial": Case("cellar", ("paper_envelope", "metal_tin_plain"), 7),
    "bag in a freezer, weekly dial": Case("freezer_deep", ("zip_bag",), 7),
    "nothing read": Case("inner_cupboard", ("paper_envelope",), None, far=(1.0, 2.0)),
    "nothing read, twice as far": Case("inner_cupboard", ("paper_envelope",), None, far=(2.0,)),
    "fridge with doors opened, nothing read": Case(
        "fridge", ("zip_bag",), None, far=(2.0,), doors=True
    ),
}
AS_ASSUMED = ("weekly dial", "dial every two months", "jar in a tin, weekly dial", "nothing read")


def curve_of(place: str) -> cl.PlaceCurve:
    """The book's curve of a kind of place in the north."""
    p = REF.places[place]
    return cl.PlaceCurve(
        p.mean_c, p.amplitude_c, p.peak_day_of_year_north, p.swing_sd_c, p.erh_mean, p.erh_amplitude,
        p.erh_peak_day_of_year_north, p.anomaly_sd_c, p.anomaly_sd_erh, p.memory_days,
    )  # fmt: skip


def kinds() -> ag.SigmaClasses:
    """The crops asked about, as the core wants them."""
    seeds = []
    for key in CROPS:
        row, oil = REF.isotherms.get(key), REF.crops[key].seed_oil_pct_dry / 100
        seeds.append(
            mo.SeedKind(key, oil, row.rh, row.mc_pct_fwb) if row else mo.SeedKind(key, oil)
        )
    v = [np.array([getattr(REF.viability[k], n) for k in CROPS]) for n in ("KE", "CW", "CH", "CQ")]
    return ag.SigmaClasses(*v, np.arange(len(CROPS)), mo.build_isotherms(seeds))


def _wander(rng: np.random.Generator, sd: float, memory: float, houses: int) -> np.ndarray:
    """Departures day by day that die away within the memory, [houses, hours]."""
    days, keep = YEARS * 365 + 1, np.exp(-1 / memory)
    x = np.empty((houses, days))
    x[:, 0] = rng.normal(0, sd, houses)
    for d in range(1, days):
        x[:, d] = keep * x[:, d - 1] + rng.normal(0, sd * np.sqrt(1 - keep**2), houses)
    at = np.arange(YEARS * 365 * 24) / 24
    return x[:, at.astype(int)] + (at % 1) * np.diff(x, axis=1)[:, at.astype(int)]


def _vapour(t: np.ndarray) -> np.ndarray:
    """Saturation pressure of water against that at 20 degC: 44 kJ a mole, 51 over ice."""
    heat = np.where(t < 0, 51_000.0, 44_000.0)
    at0 = np.exp(44_000 / 8.314 * (1 / 293.15 - 1 / 273.15))
    over = np.exp(heat / 8.314 * (1 / 273.15 - 1 / (t + 273.15)))
    return at0 * over


def _at25(rh: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Humidity at 25 degC at which seed holds as much water as at ``rh`` and t (Cromarty)."""
    ratio = (1.1 + 25 / 90) / (1.1 + np.maximum(t, 0) / 90)
    return 1 - (1 - np.clip(rh, 0.01, 0.97)) ** (ratio**2)


def _through(u0: np.ndarray, air: np.ndarray, tau: np.ndarray, pace: np.ndarray) -> np.ndarray:
    """What follows ``air`` [houses, hours] behind a wall of tau days [houses], hour by hour."""
    out, u = np.empty_like(air), u0.copy()
    for h in range(air.shape[1]):
        u = u + (air[:, h] - u) * (1 - np.exp(-pace[:, h] / (24 * tau)))
        out[:, h] = u
    return out


def simulate(name: str, houses: int, seed: int = 1) -> dict[str, np.ndarray]:
    """Of one case: log10 of ours over the truth and the stated sd, both [houses, crops]."""
    # long: one house from its weather to its seed, then what is told of it
    case, rng = CASES[name], np.random.default_rng([seed, list(CASES).index(name)])
    curve, classes = curve_of(case.place), kinds()
    hours = np.arange(YEARS * 365 * 24)
    year = 2 * np.pi * ((hours / 24 + 1)[None, :] / 365.25)
    far = rng.choice(np.array(case.far), houses)[:, None]
    share = rng.uniform(0.3, 0.9, (houses, 1))  # of how a house departs is there for good
    lasting = np.sqrt(share), np.sqrt(1 - share)
    sd_c, sd_erh = curve.anomaly_sd_c, curve.anomaly_sd_erh
    t = curve.mean_c + curve.amplitude_c * np.cos(year - 2 * np.pi * curve.peak_day / 365.25)
    rh = curve.erh_mean + curve.erh_amplitude * np.cos(
        year - 2 * np.pi * curve.erh_peak_day / 365.25
    )
    t = t + far * (
        lasting[0] * rng.normal(0, sd_c, (houses, 1))
        + lasting[1] * _wander(rng, sd_c, curve.memory_days, houses)
    )
    rh = rh + far * (
        lasting[0] * rng.normal(0, sd_erh, (houses, 1))
        + lasting[1] * _wander(rng, sd_erh, curve.memory_days, houses)
    )
    mean_c = t
    swing = curve.swing_sd_c * np.sqrt(2) * rng.lognormal(0, 0.3, (houses, 1))
    t = t + swing * np.cos((hours % 24 - 15) * np.pi / 12)
    if case.doors:  # an hour of kitchen air each evening
        open_now = (hours % 24 == 18)[None, :] * rng.uniform(0.1, 0.5, (houses, 1))
        t, rh = t + open_now * (20 - t), rh + open_now * 0.15
    rh = np.clip(rh, 0.08, 0.95)
    pace, bare = _vapour(t), np.full(houses, 0.5)
    air = _at25(rh, mean_c)
    spans = [REF.storage[w].moisture_exchange_time_constant_days for w in case.walls]
    taus = [
        np.exp(rng.normal(np.log(s.low * s.high) / 2, np.log(s.high / s.low) / 2 / 1.2816, houses))
        for s in spans
    ]
    start = np.full(houses, 0.40)
    read = air
    for tau in taus[len(taus) - case.inside :]:
        read = _through(start, read, tau, pace)
    seed_u = _through(
        start, read, sum(taus[: len(taus) - case.inside], np.zeros(houses)) + bare, pace
    )
    grid = np.linspace(0, 1, mo.GRID_POINTS)
    held = np.clip(t, -20, 45)
    truth = np.empty((houses, len(CROPS)))
    for c in range(len(CROPS)):
        log_m = np.interp(seed_u, grid, classes.iso.log10_mc_fwb[c])
        life = (
            classes.ke[c] - classes.cw[c] * log_m - classes.ch[c] * held - classes.cq[c] * held**2
        )
        truth[:, c] = (10.0**-life).sum(axis=1) / 24
    off, sd = np.empty_like(truth), np.empty_like(truth)
    shown = 1 - (1 - read) ** (((1.1 + np.maximum(mean_c, 0) / 90) / (1.1 + 25 / 90)) ** 2)
    for i in range(houses):
        told = _readings(rng, case, hours, t[i], shown[i])
        a, doubt = _ours(case, curve, classes, spans, told)
        off[i], sd[i] = np.log10(a / truth[i]), doubt
    return {"off": off, "sd": sd}


def _readings(
    rng: np.random.Generator, case: Case, hours: np.ndarray, t: np.ndarray, rh: np.ndarray
) -> cl.Readings:
    """What an instrument shows: at every hour, or at an evening every so many days."""
    if case.every is None:
        return cl.Readings.none()
    seen = hours if case.every == 0 else np.arange(2, YEARS * 365, case.every) * 24 + 19
    own_c, own_rh = rng.normal(0, 0.4), rng.normal(0, 0.02)
    err_c, err_rh = (0.1, 0.005) if case.every == 0 else (0.5, 0.03)
    return cl.Readings(
        seen * 3600,
        t[seen] + own_c + rng.normal(0, err_c, len(seen)),
        np.clip(rh[seen] + own_rh + rng.normal(0, err_rh, len(seen)), 0.02, 0.98),
        *np.full((2, len(seen)), np.nan),
    )


def _ours(
    case: Case, curve: cl.PlaceCurve, classes: ag.SigmaClasses, spans: list, told: cl.Readings
) -> tuple[np.ndarray, np.ndarray]:
    """A of each crop and the sd of its log10, as the core says."""
    at = cl.panels(0, YEARS * 365 * DAY, cl.hourly_days(told.at_s))
    base = cl.usual(curve, at, PLACES.house_departs_times)
    walls = [(s.low, s.high) for s in spans]
    memory = curve.memory_days
    damp = memory
    if case.inside:
        around = mo.wall_tau_days(walls[-case.inside :]) - mo.BARE_SEED_TAU_DAYS
        base, _ = cl.lagged(base, around, 0.40)
        damp = max(memory, around)
        walls = walls[: -case.inside]
    error = (PLACES.dial_error_c, PLACES.dial_error_erh)
    air = cl.fill(base, dials.as_day_means(base, told, 0.0), memory, damp, error, LASTING)
    count = len(CROPS)
    begun = ag.fresh_state(np.full(count, 0.40), np.zeros(count))
    tau = np.full(count, mo.wall_tau_days(walls))
    doubt = np.full(count, mo.wall_sd(walls))
    done = ag.carry(begun, classes, np.arange(count), air, tau, wall_sd=doubt).state
    own = ag.doubt_of_instrument(classes, np.arange(count), done, PLACES)
    return done.a_probit, np.hypot(done.sd_log10_a, own)


def main() -> None:
    """Print the table: how often the interval holds, by case and crop."""
    words = sys.argv[1:]
    houses = 40 if "--quick" in sys.argv else 200
    if "houses" in words:
        houses = int(words[words.index("houses") + 1])
    figures: dict[str, dict[str, float]] = {}
    print(f"{'':40s}" + "".join(f"{c:>9s}" for c in (*CROPS, "bias", "sd")))
    for name in CASES:
        got = simulate(name, houses)
        off, sd = got["off"], got["sd"]
        holds = (np.abs(off) < 1.2816 * sd).mean(axis=0)
        baseline = (np.abs(off) < 1.2816 * 0.04).mean()
        figures[name] = dict(zip(CROPS, holds.round(3).tolist(), strict=True)) | {
            "baseline": round(float(baseline), 3)
        }
        print(
            f"{name:40s}"
            + "".join(f"{h:9.2f}" for h in holds)
            + f"{off.mean():9.3f}{sd.mean():9.3f}"
        )
    print(json.dumps({"houses": houses, "holds": figures}))


if __name__ == "__main__":
    main()
