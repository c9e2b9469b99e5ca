"""What a germination test is worth: what it could change, against the seeds and the evening it costs.

Before a sowing the keeper sows the fewest seeds that promise the stand at the household's confidence, or
replaces the packet where none do; a kept line is grown anew where its mothers are not promised for another
year. Each has its losses in each state that is believed possible; a test moves the weights of the states, and
so perhaps what is done. What a test of n seeds saves is the expected loss without it less the mean, over
all it may count, of the expected loss with it (preposterior analysis; Raiffa & Schlaifer 1961). All is
counted in packets of fresh seed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from .figures import WorthFigures
from .kernels import in_shares
from .moisture import Floats

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


def _losses(s: Stakes, held: Floats, f: WorthFigures) -> _Losses:
    rows, states = s.g.shape
    e, w = s.emergence[:, None, None], s.weight[:, None, None]
    stand = s.stand[:, None, None]
    usual = np.ceil(s.stand / np.maximum(s.emergence, 1e-3))[:, None]
    there = np.maximum(np.where(np.isfinite(held), held, THICKER[-1] * usual[:, 0]), 0.0)[:, None]
    m = np.concatenate([np.minimum(np.ceil(usual * THICKER), there), there], axis=1)
    mean, sd = stands(m[:, :, None], s.g[:, None, :], e, w)
    short = missing(stand, mean, sd)
    enough = ndtr((mean - stand + 0.5) / sd)
    sow = m[:, :, None] / s.packet[:, None, None] + f.stand_worth * short / stand
    fresh = np.minimum(s.packet, usual[:, 0] * f.new_times)
    new = missing(s.stand, *stands(fresh, np.array(f.new_germination), s.emergence, s.weight))
    anew = s.anew + f.stand_worth * new / s.stand

    def with_anew(values: Floats, of_new: Floats | float) -> Floats:
        last = np.broadcast_to(np.asarray(of_new, dtype=float).reshape(-1, 1, 1), (rows, 1, states))
        return np.concatenate([values, last], axis=1)

    none = np.zeros((rows, 1))
    line = np.stack([_mothers_fail(s, g, there[:, 0]) for g in (s.g, s.g_later)], axis=1)
    return _Losses(
        np.concatenate([m, none], axis=1),
        np.concatenate([np.zeros_like(m), none + 1], axis=1),
        with_anew(short, new),
        with_anew(enough, 1.0),
        with_anew(sow, anew),
        line,
    )


def _mothers_fail(s: Stakes, g: Floats, seeds: Floats) -> Floats:
    """P(fewer mothers than the line needs) from all its seed [L, K]; none where no line is kept."""
    mothers = s.mothers[:, None]
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


def _choose(s: Stakes, losses: _Losses, weight: Floats, f: WorthFigures) -> _Choice:
    """``weight`` [L, O, K] of the states with each outcome; their sums are how likely each outcome is."""
    chance = weight.sum(axis=2)
    enough = weight @ np.swapaxes(losses.enough, 1, 2)
    sow = np.argmax(enough >= s.promised[0] * chance[:, :, None] - 1e-12, axis=2)
    loss = np.take_along_axis(weight @ np.swapaxes(losses.sow, 1, 2), sow[:, :, None], axis=2)
    line = weight @ np.swapaxes(losses.line, 1, 2)
    regrow = line[:, :, 1] > (1 - s.promised[1]) * chance
    now = f.line_worth * line[:, :, 0] + f.regrow_effort * chance
    of_line = np.where(regrow, now, f.line_worth * line[:, :, 1])
    return _Choice(loss[:, :, 0] + of_line, sow, regrow)


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
    known = np.eye(states)[None] / states
    sure = _choose(s, before, np.broadcast_to(known, (rows, states, states)), f).loss.sum(axis=1)
    most = np.where(now.loss[:, 0] - sure > f.effort, most, -1.0)
    best: list[Worth | None] = [None] * rows

    def offer(i: int, found: Worth) -> None:
        held = best[i]
        if held is None or found.pays > held.pays + f.smaller_by * (found.seeds > held.seeds):
            best[i] = found

    for n in SIZES:
        index = np.flatnonzero(most >= n)
        if not len(index):
            continue
        here = s.rows(index)
        losses = _losses(here, here.seeds - n, f)
        weight = counted(here.g, n, rho) / states
        chosen = _choose(here, losses, weight, f)
        saves = now_parts[index] - _parts(losses, weight, chosen)
        gain = now.loss[index, 0] - chosen.loss.sum(axis=1)
        cost = f.effort + n / here.packet
        for j, i in enumerate(index.tolist()):
            saved, then = Saves(*saves[j].tolist()), _then(losses, chosen, j)
            offer(i, Worth(n, 0, 0, 0, float(gain[j]), float(cost[j]), saved, then))
    for n in STAGES:
        index = np.flatnonzero((most >= 2 * n) & np.asarray(in_stages, dtype=bool))
        if len(index):
            rest = _staged(s.rows(index), n, rho, f, now.loss[index, 0], now_parts[index])
            for j, found in rest:
                offer(int(index[j]), found)
    return best


def _between_ends(going: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """From the first to the last count that goes on [L, O]: a keeper is told one range."""
    after = np.logical_or.accumulate(going, axis=1)
    return np.asarray(after & np.logical_or.accumulate(going[:, ::-1], axis=1)[:, ::-1])


def _staged(
    s: Stakes, n: int, rho: float, f: WorthFigures, now: Floats, now_parts: Floats
) -> list[tuple[int, Worth]]:
    """Tests of n seeds, and of n more where the first leave it open."""
    states = s.g.shape[1]
    chance = counted(s.g, n, rho)
    one, two = _losses(s, s.seeds - n, f), _losses(s, s.seeds - 2 * n, f)
    first = chance / states
    stop = _choose(s, one, first, f)
    # in a given state the two stages hang on nothing but themselves
    both = chance[:, :, None, :] * chance[:, None, :, :] / states
    rows = len(s.g)
    after = both.reshape(rows, -1, states)
    go = _choose(s, two, after, f)
    more = go.loss.reshape(rows, n + 1, n + 1).sum(axis=2)
    price = (n / s.packet + f.effort)[:, None] * first.sum(axis=2)
    going = _between_ends(more + price < stop.loss)
    loss = np.where(going, more, stop.loss).sum(axis=1)
    share = (first.sum(axis=2) * going).sum(axis=1)
    cost = f.effort * (1 + share) + n * (1 + share) / s.packet
    stops = _parts(one, np.where(going[:, :, None], 0.0, first), stop)
    goes = _parts(two, np.where(np.repeat(going, n + 1, axis=1)[:, :, None], after, 0.0), go)
    out = []
    for i in np.flatnonzero(going.any(axis=1) & ~going.all(axis=1)).tolist():
        k = np.flatnonzero(going[i])
        saves = Saves(*(now_parts[i] - stops[i] - goes[i]).tolist())
        found = Worth(
            n,
            n,
            int(k[0]),
            int(k[-1]),
            float(now[i] - loss[i]),
            float(cost[i]),
            saves,
            _then(one, stop, i),
        )
        out.append((i, found))
    return out


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
    weight = np.broadcast_to(chance / worlds, (rows, *chance.shape))
    gain = now - _choose(s, losses, weight, f).loss.sum(axis=1)
    return share, np.where(share > 0, np.maximum(gain, 0.0), 0.0)
