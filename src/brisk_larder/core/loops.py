"""The innermost loops, compiled: moisture through walls and ageing, panel after panel.

Every loop runs strictly forward from a given state, so a record cut anywhere at a panel's border
gives the same bits as the whole. Compiled once by numba and kept on disk beside this file.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, error_model="numpy")
def relax_loop(start, air, x, mean, end):  # type: ignore[no-untyped-def]
    """``du/dx = air - u`` per panel of ``x`` time constants: fills mean and end [R, P]."""
    rows, count = mean.shape
    shared = air.shape[0] == 1
    for r in range(rows):
        u = start[r]
        a = 0 if shared else r
        last, q, f = -1.0, 1.0, 1.0
        for p in range(count):
            if x[r, p] != last:
                last = x[r, p]
                q = np.exp(-last)
                f = -np.expm1(-last) / last if last > 0 else 1.0
            away = u - air[a, p]
            mean[r, p] = air[a, p] + away * f
            u = air[a, p] + away * q
            end[r, p] = u


@njit(cache=True, nogil=True, error_model="numpy")
def balance_loop(dry, inverse, shown, scale, out):  # type: ignore[no-untyped-def]
    """Isotherm there and back per kind and panel: fills out [K, P]."""
    kinds, count = out.shape
    top = dry.shape[1] - 1
    for k in range(kinds):
        most = dry[k, top]
        for p in range(count):
            at = shown[p] * top
            i = min(int(at), top - 1)
            m = (dry[k, i] + (at - i) * (dry[k, i + 1] - dry[k, i])) * scale[p]
            at = min(max(m / most, 0.0), 1.0) * top
            i = min(int(at), top - 1)
            out[k, p] = inverse[k, i] + (at - i) * (inverse[k, i + 1] - inverse[k, i])


@njit(cache=True, nogil=True, error_model="numpy")
def carry_loop(  # type: ignore[no-untyped-def]
    kind, tau_days, start_sd, air, thermal, by_temperature, log10_m, cw, hours, sd_erh, gap,
    stop, state, key, stops, keys, path, wet,
):  # fmt: skip
    """Carry R rows through P panels.

    ``kind`` [R] picks rows of air, thermal (log of the rate without moisture), by_temperature
    [K, P] and of log10_m [K, G], cw [K]. ``state`` [R, 5] and ``key`` [R] are carried on in place;
    ``stops`` [R, S, 5] and ``keys`` [R, S] take the state at each panel marked in ``stop``; ``path``
    and ``wet`` [R, P] take A at the end and the mean moisture where they are not empty.
    """
    ln10 = np.log(10.0)
    top = log10_m.shape[1] - 1
    draw = path.shape[1] > 0
    for r in range(len(kind)):
        k, per_hour, sd0 = kind[r], 1.0 / (24.0 * tau_days[r]), start_sd[r]
        steep = (cw[k] * top) ** 2
        u, remain, a = state[r, 0], state[r, 1], state[r, 2]
        closed, opened, gap_key = state[r, 3], state[r, 4], key[r]
        last, q, f, s = -1.0, 1.0, 1.0, 0
        for p in range(len(hours)):
            x = hours[p] * per_hour
            if x != last:
                last = x
                q = np.exp(-x)
                f = -np.expm1(-x) / x if x > 0 else 1.0
            away = u - air[k, p]
            mean = air[k, p] + away * f
            u = air[k, p] + away * q
            at = min(max(mean, 0.0), 1.0) * top
            i = min(int(at), top - 1)
            rise = log10_m[k, i + 1] - log10_m[k, i]
            remain *= q
            dry = sd_erh[p] * (1.0 - remain)
            start = sd0 * remain
            slope2 = steep * rise * rise
            by_moisture = slope2 * (dry * dry + start * start)
            # the mean over a departure of which only the size is known (log-normal in the rate); what
            # is unknown of the start stays as it is: A is then the middle of its log-normal
            convex = 0.5 * ln10 * ln10 * slope2 * dry * dry
            grow = np.exp(thermal[k, p] + ln10 * cw[k] * (log10_m[k, i] + (at - i) * rise) + convex)
            gain = grow * (hours[p] / 24.0)
            a += gain
            warm = by_temperature[k, p]
            doubt = gain * np.sqrt(warm * warm + by_moisture)
            if gap[p] != gap_key:
                closed += opened * opened
                opened, gap_key = 0.0, gap[p]
            opened += doubt
            if draw:
                path[r, p] = a
                wet[r, p] = mean
            if stop[p]:
                stops[r, s, 0], stops[r, s, 1], stops[r, s, 2] = u, remain, a
                stops[r, s, 3], stops[r, s, 4], keys[r, s] = closed, opened, gap_key
                s += 1
        state[r, 0], state[r, 1], state[r, 2] = u, remain, a
        state[r, 3], state[r, 4], key[r] = closed, opened, gap_key


@njit(cache=True, nogil=True, error_model="numpy")
def quantile_loop(ki, sd, factor, weight, living, a, q, begin, out):  # type: ignore[no-untyped-def]
    """Quantiles q [Q] of germination at ageing a [L, T] under normal mixtures [L, D]: fills out.

    ``begin``: the same quantiles of a standard normal, where the search begins; on later dates it
    begins as far from the mean as it ended on the one before. Newton on the mixture's distribution
    function, kept inside a bracket that shrinks. It ends after a step below 1e-4, whose square is
    the order of what is left (1e-7 probit).
    """
    root2, root2pi = np.sqrt(2.0), np.sqrt(2.0 * np.pi)
    away = np.empty(len(q))
    for r in range(a.shape[0]):
        for t in range(a.shape[1]):
            low0, high0, mean, square = 1e9, -1e9, 0.0, 0.0
            for d in range(ki.shape[1]):
                c = ki[r, d] - a[r, t] * factor[r, d]
                low0 = min(low0, c - 6 * sd[r, d])
                high0 = max(high0, c + 6 * sd[r, d])
                mean += weight[r, d] * c
                square += weight[r, d] * (c * c + sd[r, d] * sd[r, d])
            low0, high0 = max(low0, -40.0), min(high0, 8.0)
            for j in range(len(q)):
                low, high = low0, high0
                spread = math.sqrt(max(square - mean * mean, 1e-12))
                if t == 0:
                    away[j] = begin[j]
                x = min(max(mean + away[j] * spread, low), high)
                for _ in range(60):
                    below, slope = 0.0, 0.0
                    for d in range(ki.shape[1]):
                        z = (x - ki[r, d] + a[r, t] * factor[r, d]) / sd[r, d]
                        below += weight[r, d] * 0.5 * math.erfc(-z / root2)
                        slope += weight[r, d] * np.exp(-0.5 * z * z) / (root2pi * sd[r, d])
                    if below < q[j]:
                        low = x
                    else:
                        high = x
                    step = x - (below - q[j]) / slope if slope > 1e-12 else low - 1.0
                    new = step if low < step < high else 0.5 * (low + high)
                    small = abs(new - x) < 1e-4 and new == step
                    x = new
                    if small or high - low < 1e-7:
                        break
                away[j] = (x - mean) / spread
                out[r, t, j] = living[r] * 0.5 * math.erfc(-x / root2)


@njit(cache=True, nogil=True, error_model="numpy")
def between_loop(a, grid, at, out):  # type: ignore[no-untyped-def]
    """Values at [L, K, Q] over rising knots grid [L, K], drawn straight between them at a [L, T]:
    fills out [L, T, Q]; outside the knots the nearest one holds."""
    last = grid.shape[1] - 1
    for r in range(a.shape[0]):
        for t in range(a.shape[1]):
            k = min(max(np.searchsorted(grid[r], a[r, t], side="right") - 1, 0), last - 1)
            width = grid[r, k + 1] - grid[r, k]
            share = (a[r, t] - grid[r, k]) / width if width > 0 else 0.0
            share = min(max(share, 0.0), 1.0)
            for j in range(out.shape[2]):
                out[r, t, j] = at[r, k, j] + share * (at[r, k + 1, j] - at[r, k, j])


@njit(cache=True, nogil=True, error_model="numpy")
def wrong_loop(g, weight, level, rho, sizes, most, out):  # type: ignore[no-untyped-def]
    """Expected chance of a wrong side of ``level`` after a test, per row [L] and size [S].

    Beta-binomial counts by their recurrence from k = 0; rows g, weight [L, K]; sizes above
    ``most`` [L] stay at one.
    """
    top = (1.0 - rho) / rho
    for r in range(g.shape[0]):
        for s in range(len(sizes)):
            n = sizes[s]
            out[r, s] = 1.0
            if n > most[r]:
                continue
            low = np.zeros(n + 1)
            high = np.zeros(n + 1)
            for j in range(g.shape[1]):
                p = min(max(g[r, j], 1e-6), 1.0 - 1e-6)
                alpha, beta = p * top, (1.0 - p) * top
                chance = weight[r, j]
                for i in range(n):
                    chance *= (beta + i) / (top + i)
                for k in range(n + 1):
                    if g[r, j] < level:
                        low[k] += chance
                    else:
                        high[k] += chance
                    if k < n:
                        chance *= (n - k) / (k + 1.0) * (alpha + k) / (beta + n - k - 1.0)
            total = 0.0
            for k in range(n + 1):
                total += min(low[k], high[k])
            out[r, s] = total


@njit(cache=True, nogil=True, error_model="numpy")
def until_loop(ki, sd, factor, weight, bar, chance, out):  # type: ignore[no-untyped-def]
    """Ageing in 0..100 at which P(probit < bar) [L] reaches ``chance``: Newton kept inside a bracket
    that shrinks (1e-9), fills out [L]."""
    root2, root2pi = np.sqrt(2.0), np.sqrt(2.0 * np.pi)
    for r in range(len(out)):
        low, high, a = 0.0, 100.0, 0.0
        for step in range(60):
            below, slope = 0.0, 0.0
            for d in range(ki.shape[1]):
                z = (bar[r] - ki[r, d] + a * factor[r, d]) / sd[r, d]
                share = weight[r, d]
                below += share * 0.5 * math.erfc(-z / root2)
                slope += share * factor[r, d] * np.exp(-0.5 * z * z) / (root2pi * sd[r, d])
            if below >= chance:
                high = a
            else:
                low = a
            if high - low < 1e-9:
                break
            new = a - (below - chance) / slope if slope > 1e-12 else -1.0
            if step > 0 and abs(new - a) < 1e-6 and low <= new <= high:
                low = high = new
                break
            a = new if low < new < high else 0.5 * (low + high)
        out[r] = high
