"""What a germination test is worth: what it could change, against the seeds and the evening it costs.

Before a sowing the keeper sows the fewest seeds that promise the stand at the household's confidence, or
replaces the packet where none do; a kept line is grown anew where its mothers are not promised for another
year. Each has its losses in each state that is believed possible; a test moves the weights of the states, and
so perhaps what is done. What a test of n seeds saves is the expected loss without it less the mean, over
all it may count, of the expected loss with it (preposterior analysis; Raiffa & Schlaifer 1961). All is
counted in packets of fresh seed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from ..base.figures import WorthFigures
from ..base.kernels import choose_loop, in_shares
from ..storage.moisture import Floats

SIZES = (4, 6, 8, 10, 12, 15, 20, 30, 50)
STAGES = (6, 8, 10)  # of a test in two stages, each of so many
THICKER = np.array([0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0, 4.0, 6.0, 8.0])
Ints = NDArray[np.intp]
_AT_ONCE = 256
BUY, REST = -1, -2  # codes of choices beside numbers of seeds


@dataclass(frozen=True)
class Stakes:
    """What hangs on the germination of L packets. ``g`` [L, K] at the next sowing and ``g_later`` [L, K] a
    year on, as equally likely states; the emergence of a sowing (mean, weight of a beta), seeds in hand,
    those in a bought packet, what replacing it costs in packets, plants wanted, mothers that a kept line
    needs (0: none is kept); all [L]. ``promised``: the household's confidence of a stand, and of a line."""

    g: Floats
    g_later: Floats
    emergence: Floats
    weight: Floats
    seeds: Floats
    packet: Floats
    anew: Floats
    stand: Floats
    mothers: Floats
    promised: tuple[float, float]

    def rows(self, index: Ints) -> Stakes:
        """Those of some packets."""
        some = (self.g, self.g_later, self.emergence, self.weight, self.seeds, self.packet)
        g, later, emergence, weight, seeds, packet = (x[index] for x in some)
        anew, stand, mothers = (x[index] for x in (self.anew, self.stand, self.mothers))
        return Stakes(
            g, later, emergence, weight, seeds, packet, anew, stand, mothers, self.promised
        )


@dataclass(frozen=True)
class Packet:
    """One packet before its sowing: mean and weight of its emergence; seeds in hand of its whole origin
    (``have``: seed of one origin stands or falls together) and seeds in a bought packet of the kind (None:
    not known); usual germination of the kind (0-1), whether it was bought; mothers its line needs where no
    other origin holds the line (0: none)."""

    emerges: float
    weight: float
    have: float
    packet_seeds: float | None
    usual: float
    bought: bool
    mothers: float


def at_stake(
    x: Packet, worth: WorthFigures, uncounted: float, usual_sowings: float, usual_stand: float
) -> tuple[float, ...]:
    """What hangs on a packet, as a row of ``Stakes``: emergence and its weight, seeds, a bought packet's
    seeds, the cost of another (packets), plants of a sowing, mothers. A sowing takes the packet's seed in
    ``usual_sowings`` years, and no more plants than a usual stand (all guesses of the figures)."""
    a_sowing = x.have * x.usual * x.emerges / usual_sowings
    return (
        x.emerges,
        x.weight,
        x.have,
        x.packet_seeds or uncounted,
        worth.anew_bought if x.bought else worth.anew_own,
        min(usual_stand, max(1.0, np.floor(a_sowing))),
        x.mothers,
    )


@dataclass(frozen=True)
class Saves:
    """What a test is expected to save: packets bought, plants short, seeds sown, lines lost; negative:
    that it costs them."""

    packets: float
    plants: float
    seeds: float
    lines: float


@dataclass(frozen=True)
class Then:
    """What follows a count of ``low`` to ``high`` up: sow so many seeds, BUY, or sow the REST."""

    low: int
    high: int
    sow: int
    regrow: bool


@dataclass(frozen=True)
class Worth:
    """The best test of a packet: seeds, ``more`` for a second stage (0: none) that follows where the first
    counts ``more_from`` to ``more_to``; what it gains and costs (packets' worth), what it saves, and what
    follows each count of the first stage."""

    seeds: int
    more: int
    more_from: int
    more_to: int
    gain: float
    cost: float
    saves: Saves
    then: tuple[Then, ...]

    @property
    def pays(self) -> float:
        """What is left of the gain."""
        return self.gain - self.cost


def stands(m: Floats, g: Floats, emergence: Floats, weight: Floats) -> tuple[Floats, Floats]:
    """Mean and sd of the plants from m seeds, their emergence drawn once. Broadcasts."""
    p = g * emergence
    spread = m * g * np.sqrt(emergence * (1 - emergence) / (weight + 1.0))
    return m * p, np.sqrt(np.maximum(m * p * (1 - p), 0.0) + spread**2 + 1e-9)


def missing(stand: Floats, mean: Floats, sd: Floats) -> Floats:
    """Plants short of a stand, expected, where plants are normal. Broadcasts."""
    z = (stand - mean) / sd
    short = (stand - mean) * ndtr(z) + sd * np.exp(-0.5 * z * z) / np.sqrt(2 * np.pi)
    return np.asarray(np.clip(short, 0.0, stand))


@dataclass(frozen=True)
class _Losses:
    """Of each choice of a sowing, the last being to replace the packet: seeds [L, A], packets bought [L, A],
    plants short and chance of the stand in each state [L, A, K], losses in packets' worth [L, A, K]. Of
    the line: lost when it is grown anew now and when it waits [L, 2, K]."""

    seeds: Floats
    packets: Floats
    short: Floats
    enough: Floats
    sow: Floats
    line: Floats

    def rows(self, some: Ints | slice) -> _Losses:
        """Those of some packets."""
        all_ = (self.seeds, self.packets, self.short, self.enough, self.sow, self.line)
        return _Losses(*(x[some] for x in all_))


def _losses(s: Stakes, held: Floats, f: WorthFigures, base: _Losses | None = None) -> _Losses:
    """``base``: the losses of the same rows with other seeds in hand; only what differs is reckoned anew."""
    rows, states = s.g.shape
    usual = np.ceil(s.stand / np.maximum(s.emergence, 1e-3))[:, None]
    there = np.maximum(np.where(np.isfinite(held), held, THICKER[-1] * usual[:, 0]), 0.0)[:, None]
    m = np.concatenate([np.minimum(np.ceil(usual * THICKER), there), there], axis=1)
    if base is None:
        shape = (rows, m.shape[1] + 1, states)
        short, enough, sow = np.empty(shape), np.ones(shape), np.empty(shape)
        fresh = np.minimum(s.packet, usual[:, 0] * f.new_times)
        new = missing(s.stand, *stands(fresh, np.array(f.new_germination), s.emergence, s.weight))
        short[:, -1] = new[:, None]
        sow[:, -1] = (s.anew + f.stand_worth * new / s.stand)[:, None]
        changed = np.ones(m.shape, dtype=bool)
    else:
        short, enough, sow = base.short.copy(), base.enough.copy(), base.sow.copy()
        changed = m != base.seeds[:, :-1]
    who, which = np.nonzero(changed)
    one = (x[who, None] for x in (s.emergence, s.weight, s.stand, s.packet))
    e, w, stand, packet = one
    seeds = m[who, which][:, None]
    mean, sd = stands(seeds, s.g[who], e, w)
    lacking = missing(stand, mean, sd)
    short[who, which] = lacking
    enough[who, which] = ndtr((mean - stand + 0.5) / sd)
    sow[who, which] = seeds / packet + f.stand_worth * lacking / stand
    none = np.zeros((rows, 1))
    line = np.stack([_mothers_fail(s, g, there[:, 0]) for g in (s.g, s.g_later)], axis=1)
    return _Losses(
        np.concatenate([m, none], axis=1),
        np.concatenate([np.zeros_like(m), none + 1], axis=1),
        short,
        enough,
        sow,
        line,
    )


def _mothers_fail(s: Stakes, g: Floats, seeds: Floats) -> Floats:
    """P(fewer mothers than the line needs) from all its seed [L, K]; none where no line is kept."""
    mothers = s.mothers[:, None]
    if not mothers.any():
        return np.zeros_like(g)
    mean, sd = stands(seeds[:, None], g, s.emergence[:, None], s.weight[:, None])
    return np.where(mothers > 0, ndtr((mothers - 0.5 - mean) / sd), 0.0)


def counted(g: Floats, n: int, rho: float) -> Floats:
    """P(k of n up) in each state [L, n + 1, K]: beta-binomial, by its recurrence from none up."""
    size = (1.0 - rho) / max(rho, 1e-9)
    p = np.clip(g, 1e-6, 1 - 1e-6)
    a, b = p * size, (1 - p) * size
    out = np.empty((len(g), n + 1, g.shape[1]))
    chance = np.ones_like(p)
    for i in range(n):
        chance *= (b + i) / (size + i)
    for k in range(n + 1):
        out[:, k] = chance
        if k < n:
            chance = chance * ((n - k) / (k + 1.0)) * (a + k) / (b + (n - k - 1.0))
    return out


@dataclass(frozen=True)
class _Choice:
    """What is done after each of O outcomes [L, O]: the number of the choice, whether the line is grown anew,
    and the loss times the chance of the outcome."""

    loss: Floats
    sow: Ints
    regrow: NDArray[np.bool_]

    def rows(self, some: slice) -> _Choice:
        """Those of some packets."""
        return _Choice(self.loss[some], self.sow[some], self.regrow[some])


def _choose(s: Stakes, losses: _Losses, weight: Floats, f: WorthFigures) -> _Choice:
    """``weight`` [L, O, K] of the states with each outcome; their sums are how likely each outcome is."""
    shape = weight.shape[:2]
    out = _Choice(np.empty(shape), np.empty(shape, dtype=np.intp), np.empty(shape, dtype=np.bool_))
    choose_loop(
        weight, losses.enough, losses.sow, losses.line, *s.promised, f.line_worth, f.regrow_effort,
        out.loss, out.sow, out.regrow,
    )  # fmt: skip
    return out


def _known(s: Stakes, losses: _Losses, f: WorthFigures) -> Floats:
    """Expected loss where each state were known for sure [L]."""
    first = np.argmax(losses.enough >= s.promised[0] - 1e-12, axis=1)
    sow = np.take_along_axis(losses.sow, first[:, None, :], axis=1)[:, 0]
    now, waits = losses.line[:, 0], losses.line[:, 1]
    regrow = waits > 1 - s.promised[1]
    line = np.where(regrow, f.line_worth * now + f.regrow_effort, f.line_worth * waits)
    return np.asarray((sow + line).mean(axis=1))


def _parts(losses: _Losses, weight: Floats, chosen: _Choice) -> Floats:
    """Packets, plants short, seeds sown, lines lost, each expected over all outcomes [L, 4]."""
    chance = weight.sum(axis=2)
    at = np.arange(len(weight))[:, None]
    packets = (chance * losses.packets[at, chosen.sow]).sum(axis=1)
    seeds = (chance * losses.seeds[at, chosen.sow]).sum(axis=1)
    short = np.einsum("lok,lok->l", weight, losses.short[at, chosen.sow])
    lost = np.einsum("lok,lok->l", weight, losses.line[at, np.where(chosen.regrow, 0, 1)])
    return np.stack([packets, short, seeds, lost], axis=1)


def tests_worth(
    s: Stakes, most: Floats, in_stages: Sequence[bool], rho: float, f: WorthFigures
) -> list[Worth | None]:
    """The test that pays best for each of L packets; None where none may be made, or not even knowing for
    sure would pay one.

    ``most`` [L]: seeds that may go into it; ``in_stages`` [L]: whether there is time for two. A test never
    gains less than nothing in what it tells, but its seeds are missing afterwards. Of two that pay
    nearly the same the smaller.
    """
    best: list[Worth | None] = [None] * len(s.g)

    def some(share: slice) -> None:
        for i in range(share.start, share.stop, _AT_ONCE):
            here = slice(i, min(i + _AT_ONCE, share.stop))
            index = np.arange(here.start, here.stop)
            best[here] = _worth(s.rows(index), most[here], in_stages[here], rho, f)

    in_shares(len(best), some, least=_AT_ONCE)
    return best


def _worth(
    s: Stakes, most: Floats, in_stages: Sequence[bool], rho: float, f: WorthFigures
) -> list[Worth | None]:
    rows, states = s.g.shape
    flat = np.full((rows, 1, states), 1.0 / states)
    before = _losses(s, s.seeds, f)
    now = _choose(s, before, flat, f)
    now_parts = _parts(before, flat, now)
    most = np.where(now.loss[:, 0] - _known(s, before, f) > f.effort, most, -1.0)
    pays, sizes, gains = np.full(rows, -np.inf), np.zeros(rows), np.zeros(rows)
    found: list[Callable[[], Worth] | None] = [None] * rows

    def offer(
        index: Ints, n: int, gain: Floats, cost: Floats, made: Callable[[int], Worth]
    ) -> None:
        """Those of a size that pay best so far; each is put into words only when it has won."""
        better = gain - cost > pays[index] + f.smaller_by * (n > sizes[index])
        for j in np.flatnonzero(better).tolist():
            i = int(index[j])
            pays[i], sizes[i], found[i] = gain[j] - cost[j], n, partial(made, j)
        gains[index] = np.maximum(gains[index], gain)

    for n in SIZES:
        index = np.flatnonzero(most >= n)
        if len(index):
            here = s.rows(index)
            offer(index, n, *_one_stage(here, before.rows(index), n, rho, f, now, now_parts, index))
    # what no test of one stage can change, none of two can
    for n in STAGES:
        index = np.flatnonzero((most >= 2 * n) & np.asarray(in_stages, dtype=bool) & (gains > 0))
        if len(index):
            here, base = s.rows(index), before.rows(index)
            offer(index, n, *_staged(here, base, n, rho, f, now.loss[index, 0], now_parts[index]))
    return [None if make is None else make() for make in found]


def _one_stage(
    s: Stakes, base: _Losses, n: int, rho: float, f: WorthFigures, now: _Choice, now_parts: Floats,
    index: Ints,
) -> tuple[Floats, Floats, Callable[[int], Worth]]:  # fmt: skip
    """Gain and cost of tests of n seeds [L], and what makes the advice of one."""
    losses = _losses(s, s.seeds - n, f, base)
    weight = counted(s.g, n, rho) / s.g.shape[1]
    chosen = _choose(s, losses, weight, f)
    gain = now.loss[index, 0] - chosen.loss.sum(axis=1)
    cost = f.effort + n / s.packet

    def made(j: int) -> Worth:
        some = slice(j, j + 1)
        parts = _parts(losses.rows(some), weight[some], chosen.rows(some))
        saved = Saves(*(now_parts[index[j]] - parts[0]).tolist())
        return Worth(n, 0, 0, 0, float(gain[j]), float(cost[j]), saved, _then(losses, chosen, j))

    return gain, cost, made


def _between_ends(going: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """From the first to the last count that goes on [L, O]: a keeper is told one range."""
    after = np.logical_or.accumulate(going, axis=1)
    return np.asarray(after & np.logical_or.accumulate(going[:, ::-1], axis=1)[:, ::-1])


def _staged(
    s: Stakes, base: _Losses, n: int, rho: float, f: WorthFigures, now: Floats, now_parts: Floats
) -> tuple[Floats, Floats, Callable[[int], Worth]]:
    """The same of n seeds, and of n more where the first leave it open; gain -inf where never or always."""
    rows, states = s.g.shape
    chance = counted(s.g, n, rho)
    one, two = _losses(s, s.seeds - n, f, base), _losses(s, s.seeds - 2 * n, f, base)
    first = chance / states
    stop = _choose(s, one, first, f)
    # in a given state the two stages hang on nothing but themselves
    both = chance[:, :, None, :] * chance[:, None, :, :] / states
    after = both.reshape(rows, -1, states)
    go = _choose(s, two, after, f)
    more = go.loss.reshape(rows, n + 1, n + 1).sum(axis=2)
    price = (n / s.packet + f.effort)[:, None] * first.sum(axis=2)
    going = _between_ends(more + price < stop.loss)
    loss = np.where(going, more, stop.loss).sum(axis=1)
    share = (first.sum(axis=2) * going).sum(axis=1)
    cost = f.effort * (1 + share) + n * (1 + share) / s.packet
    open_ = going.any(axis=1) & ~going.all(axis=1)
    gain = np.where(open_, now - loss, -np.inf)

    def made(j: int) -> Worth:
        some, on = slice(j, j + 1), going[j]
        stops = _parts(
            one.rows(some), np.where(on[None, :, None], 0.0, first[some]), stop.rows(some)
        )
        goes_on = np.where(np.repeat(on, n + 1)[None, :, None], after[some], 0.0)
        goes = _parts(two.rows(some), goes_on, go.rows(some))
        saved = Saves(*(now_parts[j] - stops[0] - goes[0]).tolist())
        k = np.flatnonzero(on)
        then = _then(one, stop, j)
        return Worth(n, n, int(k[0]), int(k[-1]), float(gain[j]), float(cost[j]), saved, then)

    return gain, cost, made


def _then(losses: _Losses, chosen: _Choice, i: int) -> tuple[Then, ...]:
    """What follows each count, counts of one choice together."""
    rest, buy = losses.seeds.shape[1] - 2, losses.seeds.shape[1] - 1
    out: list[Then] = []
    for k in range(chosen.sow.shape[1]):
        choice = int(chosen.sow[i, k])
        sow = BUY if choice == buy else int(losses.seeds[i, choice])
        if choice == rest and losses.seeds[i, rest] <= losses.seeds[i, rest - 1]:
            sow = REST
        regrow = bool(chosen.regrow[i, k]) and bool(losses.line[i].any())
        if out and (out[-1].sow, out[-1].regrow) == (sow, regrow):
            out[-1] = Then(out[-1].low, k, sow, regrow)
        else:
            out.append(Then(k, k, sow, regrow))
    return tuple(out)


def learnt_beside(
    s: Stakes, g_tested: Floats, n: int, rho: float, f: WorthFigures
) -> tuple[Floats, Floats]:
    """What a test of n seeds of another packet tells of these, by reweighting the worlds they share: the
    share of the variance of each one's germination that it takes away, and what it saves there, both [L].

    ``s.g`` [L, S] and ``g_tested`` [S] in the same worlds. What a finite number of worlds shows of packets
    that share nothing is taken off.
    """
    worlds = s.g.shape[1]
    chance = counted(g_tested[None], n, rho)[0]
    outcome = chance.sum(axis=1) / worlds
    means = (chance @ s.g.T) / worlds / np.maximum(outcome, 1e-12)[:, None]
    of_variance = (outcome[:, None] * (means - s.g.mean(axis=1)) ** 2).sum(axis=0)
    share = of_variance / np.maximum(s.g.var(axis=1), 1e-9)
    by_chance = (1 - (outcome**2).sum()) / worlds * np.count_nonzero(outcome > 1e-3)
    share = np.clip((share - by_chance) / (1 - by_chance), 0.0, 1.0)
    losses = _losses(s, s.seeds, f)
    rows = len(s.g)
    now = _choose(s, losses, np.full((rows, 1, worlds), 1.0 / worlds), f).loss[:, 0]
    weight = np.broadcast_to(chance / worlds, (rows, *chance.shape)).copy()
    gain = now - _choose(s, losses, weight, f).loss.sum(axis=1)
    return share, np.where(share > 0, np.maximum(gain, 0.0), 0.0)
