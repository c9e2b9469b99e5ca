"""What is believed of parts and how they go on: state now, ageing behind and ahead, belief."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from sqlmodel import Session

from ...core.base.units import DAY_S, YEAR_S, month_start_s
from ...core.seed import ageing as ag
from ...core.seed import belief as be
from ...core.seed import worlds as wo
from ...core.seed.mixture import mix, shares, taught
from ...core.seed.shocks import shaken
from ...core.storage.moisture import Floats
from ..air.air import Air
from ..household.kinds import Kinds, figures
from ..household.lineage import kin
from .evidence import Evidence, MixedTest, evidence, shocks_of
from .parts import PartRecord, load_rows
from .rebuild import advance, found_to_be, pick, states_at, walls_of
from .relatives import told_by_kin
from .tracks import Track, tracks


@dataclass(frozen=True)
class Blend:
    """The parts of a mixed lot with their shares in each world [N, S]."""

    parts: Outlook
    share: Floats

    def g_at(self, dates_s: Floats) -> Floats:
        """Germination of the bag at dates in each world [T, S]."""
        rows = range(len(self.parts.rows))
        a = np.array([self.parts.a_at(j, dates_s) for j in rows])
        g = [wo.germination(self.parts.belief, a[:, t]) for t in range(len(dates_s))]
        return np.array([mix(one, self.share) for one in g])


@dataclass(frozen=True)
class Outlook:
    """Everything the rooms read about some lots at one moment: one row each.

    A mixed lot's row is that of its largest part; ``blends`` holds all its parts, and ``g_at``
    speaks for the lot. ``state``: now; ``track_s`` [M], ``track_a`` [L, M]: A from the record's
    start to ten years ahead; ``belief``: what is believed of each part; ``of_kind`` [L]: how much longer than
    by the book new seed of its kind keeps here (log10); ``moisture_now``: erh25.
    """

    rows: list[PartRecord]
    state: ag.AgeState
    track_s: list[Floats]
    track_a: list[Floats]
    belief: wo.Belief
    of_kind: Floats
    blends: dict[int, Blend] = field(default_factory=dict)

    def g_at(self, i: int, dates_s: Floats) -> Floats:
        """Germination of row i at dates in each world [T, S]; of a mixture: of all its parts."""
        blend = self.blends.get(i)
        if blend is None:
            one = self.belief.rows(np.full(len(dates_s), i))
            return wo.germination(one, self.a_at(i, dates_s))
        return blend.g_at(dates_s)

    def quantiles_at(self, i: int, dates_s: Floats, q: tuple[float, ...]) -> Floats:
        """Quantiles of germination of row i at dates, [T, Q]; of a mixture: of all its parts."""
        return wo.spread(self.g_at(i, dates_s), q)

    def chance_below(self, i: int, at_s: float, level: float) -> float:
        """P(germination of row i is below a level) at a time."""
        return float((self.g_at(i, np.array([at_s]))[0] < level).mean())

    def blend_until(self, i: int, level: float, now_s: float) -> float:
        """When the median of a mixture falls below a level: epoch seconds, inf beyond a century."""

        def median(at_s: float) -> float:
            return float(self.quantiles_at(i, np.array([at_s]), (0.5,))[0, 0])

        return ag.falls_to(median, float(self.track_s[i][0]), now_s + 100 * YEAR_S, level)

    @cached_property
    def last_rate(self) -> Floats:
        """Rate of each row in the last year of its track, probits per second."""
        return _last_rates(self.track_s, self.track_a)

    def a_at(self, i: int, dates_s: Floats) -> Floats:
        """A of row i at dates [T]; zero before its record starts, the last year's rate beyond."""
        return ag.along(self.track_s[i], self.track_a[i], float(self.last_rate[i]), dates_s)

    def date_of(self, i: int, a: float) -> float:
        """Epoch seconds at which row i reaches A; inf when it never does within a century."""
        return ag.when_aged(self.track_s[i], self.track_a[i], float(self.last_rate[i]), a)


def _last_rates(track_s: list[Floats], track_a: list[Floats]) -> Floats:
    return np.array([ag.last_rate(at, a) for at, a in zip(track_s, track_a, strict=True)])


def states_now(
    air: Air, kinds: Kinds, rows: list[PartRecord]
) -> tuple[ag.AgeState, list[Floats], list[Floats]]:
    """State of each part now and its A at month ends, from the cached months."""
    now_month = month_start_s(air.now_s)
    found = tracks(air.session, (row.part_id for row in rows), now_month)
    kept = states_at(rows, {part: track.state for part, track in found.items()})
    none = Track(np.empty(0), np.empty(0), ())
    track_s, track_a = [], []
    # months that could not be kept are gone through here, from the last good one on
    starts = [float(now_month)] * len(rows)
    for i, row in enumerate(rows):
        track = found.get(row.part_id, none)
        if row.part.to_s is None:
            starts[i] = float(track.ends_s[-1]) if len(track.ends_s) else month_start_s(row.start_s)
        track_s.append(np.concatenate([[row.start_s], track.ends_s]))
        track_a.append(np.concatenate([[row.root.start_a_probit or 0.0], track.a_probit]))
    if min(starts, default=now_month) < air.from_s:
        air = Air(air.session, air.home, air.now_s, min(starts))
    state = advance(air, kinds, rows, kept, starts, air.now_s)
    for i, row in enumerate(rows):
        for leg in row.legs:  # what was found this very moment
            if leg.start_s >= air.now_s and leg.reset is not None:
                found_to_be(state, i, leg.reset)
        if air.now_s > track_s[i][-1]:
            track_s[i] = np.append(track_s[i], float(air.now_s))
            track_a[i] = np.append(track_a[i], state.a_probit[i])
    return state, track_s, track_a


class Ahead(NamedTuple):
    """How a part goes on: where panels end [P], A there (probits) [P], the doubt of log10 A at last."""

    end_s: Floats
    a_probit: Floats
    sd_log10_a: float


def ahead(air: Air, kinds: Kinds, rows: list[PartRecord], state: ag.AgeState) -> list[Ahead | None]:
    """The path of each part through the future climate of where it is now."""
    groups: dict[int, list[int]] = {}
    for i, row in enumerate(rows):
        if row.part.to_s is None:
            groups.setdefault(row.legs[-1].node, []).append(i)
    out: list[Ahead | None] = [None] * len(rows)
    for node, members in groups.items():
        index = np.array(members)
        class_ix = np.array([rows[i].kind.class_ix for i in members], dtype=np.intp)
        tau, doubt = walls_of([rows[i].legs[-1] for i in members])
        there = air.future(node)
        path = ag.integrate(pick(state, index), kinds.classes, class_ix, there, tau, doubt)
        ends_s, sd = path.end_s.astype(float), path.state.sd_log10_a
        for j, i in enumerate(members):
            out[i] = Ahead(ends_s, path.a_probit[j], float(sd[j]))
    return out


def priors(rows: list[PartRecord], sd_log10_a: Floats, a_probit: Floats, now_s: float) -> be.Prior:
    """What is believed before any test: quality by source and by what the packet states, doubt of the book,
    of the record and of an age that nobody knows (by how it ages, ``a_probit`` until now)."""
    f = figures().belief
    ki_mean, ki_sd, d_sd, living, dud = [], [], [], [], []
    for row, climate_sd, aged in zip(rows, sd_log10_a, a_probit, strict=True):
        cohort, doubt, of_age, lives = row.cohort, None, 0.0, row.kind.living
        may_be_dud = f.dud_share
        if cohort.year_guessed:
            lo = cohort.origin_lo_s if cohort.origin_lo_s is not None else cohort.record_from_s
            hi = cohort.origin_hi_s if cohort.origin_hi_s is not None else cohort.record_from_s
            doubt, of_age = be.doubt_of_age(lo, hi, cohort.record_from_s, now_s, aged)
        shock = row.part.shock_mean
        came = None if shock is None else (shock, row.part.shock_sd or 0.0)
        mean, sd = be.quality(cohort.source, doubt, None, f)
        if cohort.stated_germination is not None:
            least = row.kind.crop.min_commercial_germination_pct
            how = cohort.stated_as or be.stated_as(cohort.stated_germination, least)
            usual = (mean, sd)
            may_be_dud = f.dud_share_tested if how == "tested" else f.dud_share
            lives = be.living_of(lives, cohort.stated_germination, how, f)
            mean, sd = be.stated_quality(usual, cohort.stated_germination, how, lives, f)
        if came is not None:
            mean, sd = mean - came[0], float(np.hypot(sd, came[1]))
        sd = float(np.hypot(sd, of_age))
        ki_mean.append(mean)
        ki_sd.append(sd)
        d_sd.append(float(np.hypot(row.kind.sd_log10_sigma, climate_sd)))
        living.append(lives)
        dud.append(may_be_dud)
    none, same = np.zeros(len(rows)), np.full(len(rows), f.living_logit_sd)
    columns = (ki_mean, ki_sd, none, d_sd, living, same, dud)
    return be.Prior(*(np.array(x, dtype=float) for x in columns))


@dataclass(frozen=True)
class Ground:
    """What a belief of parts rests on: their ageing, what is believed before any test, what is told."""

    rows: list[PartRecord]
    state: ag.AgeState
    track_s: list[Floats]
    track_a: list[Floats]
    prior: be.Prior
    record_sd: Floats
    told: Evidence

    @cached_property
    def _rates(self) -> Floats:
        return _last_rates(self.track_s, self.track_a)

    def a_at(self, i: int, dates_s: Floats) -> Floats:
        """A of row i at dates [T]."""
        return ag.along(self.track_s[i], self.track_a[i], float(self._rates[i]), dates_s)


def _usual_warmth(air: Air, row: PartRecord) -> float:
    """Mean temperature of where seed has lain, degC: where it was put today says nothing of yesterday."""
    days = [(leg.node, (min(leg.end_s, air.now_s) - leg.start_s) / DAY_S) for leg in row.legs]
    lain = [(node, d) for node, d in days if d > 0] or [(row.legs[-1].node, 1.0)]
    means = [float(air.future(node).temperature_c.mean()) for node, _ in lain]
    return float(np.average(means, weights=[d for _, d in lain]))


def always_doubted(air: Air, kinds: Kinds, rows: list[PartRecord], state: ag.AgeState) -> Floats:
    """What no number of readings averages out of log10 A of each part, as its sd: the instrument's own error,
    and how the kind's water goes with warmth."""
    class_ix = np.array([r.kind.class_ix for r in rows], dtype=np.intp)
    f = figures()
    warm = np.array([_usual_warmth(air, r) for r in rows])
    by_instrument = ag.doubt_of_instrument(kinds.classes, class_ix, state, f.places)
    by_warmth = ag.doubt_of_isotherm(kinds.classes, class_ix, state, warm, f.moisture)
    return np.hypot(by_instrument, by_warmth)


def ground(session: Session, air: Air, kinds: Kinds, rows: list[PartRecord]) -> Ground:
    """Where parts stand, and the evidence on them."""
    state, track_s, track_a = states_now(air, kinds, rows)
    paths = ahead(air, kinds, rows, state)
    sd = state.sd_log10_a.copy()
    always = always_doubted(air, kinds, rows, state)
    for i, path in enumerate(paths):
        if path is None:
            continue
        days = (air.now_s - rows[i].start_s) / DAY_S
        sd[i] = be.doubt_of_record(sd[i], path.sd_log10_a, days, figures().belief)
        sd[i] = float(np.hypot(sd[i], always[i]))
        track_s[i] = np.concatenate([track_s[i], path.end_s])
        track_a[i] = np.concatenate([track_a[i], path.a_probit])
    none = Evidence(be.Counts.none(), np.empty(0), [], {})
    stand = Ground(
        rows, state, track_s, track_a, priors(rows, sd, state.a_probit, air.now_s), sd, none
    )
    return replace(stand, told=evidence(session, stand, shocks_of(session, rows), air.now_s))


def outlook(
    session: Session, air: Air, kinds: Kinds, lot_ids: Iterable[int] | None = None
) -> Outlook:
    """State, projection and belief of the parts of some lots (None: all). ``bring_up_to_date`` comes
    first."""
    rows = load_rows(session, air, kinds, None if lot_ids is None else kin(session, lot_ids))
    if not rows:
        empty = ag.fresh_state(np.empty(0), np.empty(0))
        e = np.empty((0, wo.COUNT))
        return Outlook([], empty, [], [], wo.Belief(e, e, e), np.empty(0))
    g = ground(session, air, kinds, rows)
    prior, order, of_kind = told_by_kin(session, rows, g.prior, g.record_sd, air.now_s)
    belief = shaken(prior, g.told.counts, g.told.when_s, g.told.shocks, order)
    whole = Outlook(rows, g.state, g.track_s, g.track_a, belief, of_kind)
    return _by_lot(whole, g.told.mixed, None if lot_ids is None else set(lot_ids))


def part_of(look: Outlook, index: list[int]) -> Outlook:
    """Some rows of an outlook."""
    at = np.array(index, dtype=np.intp)
    return Outlook(
        [look.rows[i] for i in index],
        pick(look.state, at),
        [look.track_s[i] for i in index],
        [look.track_a[i] for i in index],
        look.belief.rows(at),
        look.of_kind[at],
        {j: look.blends[i] for j, i in enumerate(index) if i in look.blends},
    )


def of_lots(look: Outlook, lot_ids: Collection[int]) -> Outlook:
    """Those rows of the outlook of all lots that are of some lots."""
    return part_of(look, [i for i, row in enumerate(look.rows) if row.part.lot_id in lot_ids])


def _by_lot(look: Outlook, mixed: list[MixedTest], wanted: set[int] | None) -> Outlook:
    """One row for each lot: parts that ended are left behind, parts of one bag stand together."""
    members: dict[int, list[int]] = {}
    for i, row in enumerate(look.rows):
        if row.part.to_s is None and (wanted is None or row.part.lot_id in wanted):
            members.setdefault(row.part.lot_id, []).append(i)
    blends: dict[int, Blend] = {}
    leads: list[int] = []
    for lot, index in members.items():
        index.sort(key=lambda i: -look.rows[i].part.share_mean)
        if len(index) > 1:
            blends[len(leads)] = _blend(look, index, [t for t in mixed if t.lot_id == lot])
        leads.append(index[0])
    return replace(part_of(look, leads), blends=blends)


def _blend(look: Outlook, index: list[int], tests: list[MixedTest]) -> Blend:
    parts = part_of(look, index)
    mean = np.array([row.part.share_mean for row in parts.rows])
    sd = np.array([row.part.share_sd for row in parts.rows])
    share = shares([f"share:{row.part_id}" for row in parts.rows], mean, sd)
    for test in tests:  # a test of the bag teaches each part its own share of the news
        worlds = taught(Blend(parts, share).g_at(np.array([test.at_s]))[0], test.told)
        parts = replace(parts, belief=parts.belief.taking(worlds))
        share = share[:, worlds]
    return Blend(parts, share)
