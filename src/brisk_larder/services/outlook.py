"""What is believed of parts and how they go on: state now, ageing behind and ahead, belief."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from sqlmodel import Session

from ..core import ageing as ag
from ..core import belief as be
from ..core.moisture import F
from ..core.units import DAY_S, YEAR_DAYS, month_start_s, next_month_s
from .crops import Kinds, load_kinds, reference
from .forecast import (
    STATE_FIELDS,
    Row,
    advance,
    fresh,
    initial_state,
    load_rows,
    month_state,
    pick,
    stack,
)  # fmt: skip
from .larder import Larder, household, remembered
from .trial_data import trial_counts
from .world import EPOCH_S, World


@dataclass(frozen=True)
class Outlook:
    """Everything the rooms read about some parts at one moment.

    ``state``: now; ``track_s`` [M], ``track_a`` [L, M]: A from the record's start to ten years
    ahead; ``belief``: what is believed of each part; ``moisture_now``: erh25.
    """

    rows: list[Row]
    state: ag.AgeState
    track_s: list[F]
    track_a: list[F]
    belief: be.Belief

    def a_at(self, i: int, dates_s: F) -> F:
        """A of row i at dates [T]; zero before its record starts, the last year's rate beyond."""
        times, values = self.track_s[i], self.track_a[i]
        inside = np.interp(dates_s, times, values, left=0.0)
        year_ago = np.interp(times[-1] - YEAR_DAYS * DAY_S, times, values)
        slope = (values[-1] - year_ago) / (YEAR_DAYS * DAY_S)
        return np.asarray(inside + slope * np.maximum(dates_s - times[-1], 0.0))

    def date_of(self, i: int, a: float) -> float:
        """Epoch seconds at which row i reaches A; inf when it never does within a century."""
        times, values = self.track_s[i], self.track_a[i]
        if a <= values[-1]:
            return float(np.interp(a, values, times))
        year_ago = np.interp(times[-1] - YEAR_DAYS * DAY_S, times, values)
        slope = (values[-1] - year_ago) / (YEAR_DAYS * DAY_S)
        years = (a - values[-1]) / max(slope, 1e-15) / (YEAR_DAYS * DAY_S)
        return float(times[-1] + years * YEAR_DAYS * DAY_S) if years < 100 else float("inf")


def states_now(world: World, kinds: Kinds, rows: list[Row]) -> tuple[ag.AgeState, list[F], list[F]]:
    """State of each part now and its A at month ends, from the cached months."""
    wanted = {row.part_id for row in rows}
    months: dict[int, list[tuple[float, ...]]] = {part: [] for part in wanted}
    few = len(wanted) < 400
    listed = f"WHERE part_id IN ({', '.join(map(str, wanted)) or '0'}) " if few else ""
    # thousands of rows: plain tuples, not objects of the session
    for found in world.query(
        f"SELECT part_id, month_s, {', '.join(STATE_FIELDS)} FROM d_month {listed}"
        "ORDER BY part_id, month_s"
    ):
        if found[0] in wanted:
            months[found[0]].append(found[1:])
    now_month = month_start_s(world.now_s)
    states, track_s, track_a = [], [], []
    which = 1 + STATE_FIELDS.index("a_probit")
    for row in rows:
        mine = months[row.part_id]
        states.append(month_state(mine[-1][1:]) if mine else initial_state(row))
        begin = float(max(row.part.from_s, EPOCH_S))
        track_s.append(np.array([begin, *(float(next_month_s(m[0])) for m in mine)]))
        track_a.append(np.array([0.0, *(m[which] for m in mine)]))
    starts = [now_month] * len(rows)
    state = advance(world, kinds, rows, stack(states), starts, world.now_s)
    for i, row in enumerate(rows):
        for leg in row.legs:  # what was found this very moment
            if leg.start_s >= world.now_s and leg.reset is not None:
                state.erh25[i], state.start_sd[i], state.remain[i] = *leg.reset, 1.0
        if world.now_s > track_s[i][-1]:
            track_s[i] = np.append(track_s[i], float(world.now_s))
            track_a[i] = np.append(track_a[i], state.a_probit[i])
    return state, track_s, track_a


def ahead(
    world: World, kinds: Kinds, rows: list[Row], state: ag.AgeState
) -> list[ag.AgePath | None]:
    """The path of each part through the future climate of where it is now."""
    groups: dict[int, list[int]] = {}
    for i, row in enumerate(rows):
        if row.part.to_s is None:
            groups.setdefault(row.legs[-1].node, []).append(i)
    out: list[ag.AgePath | None] = [None] * len(rows)
    for node, members in groups.items():
        index = np.array(members)
        class_ix = np.array([rows[i].kind.class_ix for i in members], dtype=np.intp)
        tau = np.array([rows[i].legs[-1].tau_days for i in members])
        path = ag.integrate(pick(state, index), kinds.classes, class_ix, world.future(node), tau)
        for j, i in enumerate(members):
            out[i] = ag.AgePath(
                path.end_s, path.a_probit[j : j + 1], path.erh25[j : j + 1],
                pick(path.state, np.array([j])),
            )  # fmt: skip
    return out


def priors(rows: list[Row], sd_log10_a: F) -> be.Prior:
    """What is believed before any test: quality by source, doubt of the book and of the record."""
    ref = reference()
    ki_mean, ki_sd, d_sd, living = [], [], [], []
    for row, climate_sd in zip(rows, sd_log10_a, strict=True):
        cohort = row.cohort
        mean = ref.figure(f"ki_mean_{cohort.source}")
        sd = ref.figure(f"ki_sd_{cohort.source}")
        if cohort.year_guessed:
            lo = cohort.origin_lo_s if cohort.origin_lo_s is not None else cohort.record_from_s
            hi = cohort.origin_hi_s if cohort.origin_hi_s is not None else cohort.record_from_s
            years = max(1.0, (hi - lo) / (YEAR_DAYS * DAY_S))
            mean -= years * ref.figure("ki_mean_drop_per_unknown_year")
            sd += years * ref.figure("ki_sd_rise_per_unknown_year")
        if row.part.shock_mean is not None:
            mean -= row.part.shock_mean
            sd = float(np.hypot(sd, row.part.shock_sd or 0.0))
        ki_mean.append(mean)
        ki_sd.append(sd)
        d_sd.append(float(np.hypot(row.kind.sd_log10_sigma, climate_sd)))
        living.append(row.kind.living)
    as_array = [np.array(x, dtype=float) for x in (ki_mean, ki_sd, d_sd, living)]
    return be.Prior(as_array[0], as_array[1], np.zeros(len(rows)), as_array[2], as_array[3])


def outlook(
    session: Session,
    world: World,
    kinds: Kinds,
    lot_ids: Iterable[int] | None = None,
    rows: list[Row] | None = None,
) -> Outlook:
    """State, projection and belief of the parts of some lots (None: all). ``fresh`` comes first."""
    if rows is None:
        rows = load_rows(session, world, kinds, lot_ids)
    if not rows:
        empty = ag.fresh_state(np.empty(0), np.empty(0))
        e = np.empty((0, be.D_NODES))
        return Outlook([], empty, [], [], be.Belief(e, e, e, e, np.empty(0)))
    state, track_s, track_a = states_now(world, kinds, rows)
    paths = ahead(world, kinds, rows, state)
    sd = state.sd_log10_a.copy()
    for i, path in enumerate(paths):
        if path is None:
            continue
        if world.now_s - rows[i].part.from_s < 30 * DAY_S:
            # a record hardly begun knows little of its place: the doubt of the years ahead counts
            sd[i] = max(sd[i], float(path.state.sd_log10_a[0]))
        track_s[i] = np.concatenate([track_s[i], path.end_s])
        track_a[i] = np.concatenate([track_a[i], path.a_probit[0]])
    prior = priors(rows, sd)
    untested = Outlook(rows, state, track_s, track_a, be.fit(prior, be.Counts.none()))
    counts, when = _counts(session, untested, world.now_s)
    shocks = _shocks(session, rows)
    if not shocks:
        return replace(untested, belief=be.fit(prior, counts))
    return replace(untested, belief=_shaken(prior, counts, when, shocks))


@dataclass(frozen=True)
class Shock:
    """Damage of unknown size to a row at a time: probits."""

    at_s: float
    mean: float
    sd: float


def _shocks(session: Session, rows: list[Row]) -> dict[int, list[Shock]]:
    """Shocks of each row by its lot's events (model.csv: guesses), in time order."""
    figures = reference().model
    listed = ", ".join(str(row.part.lot_id) for row in rows)
    found = session.connection().exec_driver_sql(
        "SELECT lot_id, at_s, kind FROM lot_event WHERE deleted_s IS NULL "
        f"AND lot_id IN ({listed}) ORDER BY at_s, id"
    )
    by_lot: dict[int, list[Shock]] = {}
    for lot, at, kind in found:
        if f"shock_mean_{kind}" in figures:
            mean, sd = figures[f"shock_mean_{kind}"].value, figures[f"shock_sd_{kind}"].value
            by_lot.setdefault(lot, []).append(Shock(float(at), mean, sd))
    return {i: by_lot[r.part.lot_id] for i, r in enumerate(rows) if r.part.lot_id in by_lot}


def _shaken(
    prior: be.Prior, counts: be.Counts, when: F, shocks: dict[int, list[Shock]]
) -> be.Belief:
    """Tests before an event teach what went before it; it shakes the belief; later tests go on."""
    first = np.array([shocks[i][0].at_s if i in shocks else np.inf for i in counts.row])
    belief = be.fit(prior, counts.of(when < first))
    for i, row_shocks in shocks.items():
        mine = counts.row == i
        ends = [s.at_s for s in row_shocks[1:]] + [np.inf]
        for shock, end in zip(row_shocks, ends, strict=True):
            after = be.after_shock(belief.rows(np.array([i])), shock.mean, shock.sd)
            between = counts.of(mine & (when >= shock.at_s) & (when < end))
            alone = replace(between, row=np.zeros(len(between.row), dtype=np.intp))
            belief = be.put_rows(belief, np.array([i]), be.fit(after, alone))
    return belief


@remembered
def whole_outlook(larder: Larder) -> Outlook:
    """The outlook of all lots, made once until the file changes; ``fresh`` comes first."""
    fresh(larder)
    with larder.store.read() as session:
        world = World(session, household(session), larder.now_s())
        return outlook(session, world, load_kinds(session))


def _counts(session: Session, look: Outlook, now_s: int) -> tuple[be.Counts, F]:
    """Tests and stated germination of all rows as evidence, and when each was sown (-inf: stated)."""
    ref = reference()
    by_lot = trial_counts(session, {row.part.lot_id for row in look.rows}, now_s)
    entries: list[tuple[int, float, float, float, float, float, float]] = []
    when: list[float] = []
    for i, row in enumerate(look.rows):
        if row.cohort.stated_germination is not None:
            n = ref.figure("stated_germination_seeds")
            k = n * min(row.cohort.stated_germination, row.kind.living)
            entries.append((i, 0.0, n, k, 1.0, ref.figure("test_rho_good"), 1.0))
            when.append(-np.inf)
        for test in by_lot.get(row.part.lot_id, []):
            early = test.trial.sown_s < row.part.from_s
            a = 0.0 if early else float(look.a_at(i, np.array([float(test.trial.sown_s)]))[0])
            weight = test.trial.weight * (ref.figure("early_test_weight") if early else 1.0)
            entries.append((i, a, test.n, test.viable, test.ceiling(row.kind), test.rho, weight))
            when.append(float(test.trial.sown_s))
    if not entries:
        return be.Counts.none(), np.empty(0)
    table = np.array(entries, dtype=float)
    counts = be.Counts(table[:, 0].astype(np.intp), *(table[:, c] for c in range(1, 7)))
    return counts, np.array(when)
