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
            m = (dry[k, i] + (at - i) * (dry[k, i + 1] - dry[k, i])) * scale[k, p]
            at = min(max(m / most, 0.0), 1.0) * top
            i = min(int(at), top - 1)
            out[k, p] = inverse[k, i] + (at - i) * (inverse[k, i + 1] - inverse[k, i])


@njit(cache=True, nogil=True, error_model="numpy")
def carry_loop(  # type: ignore[no-untyped-def]
    kind, tau_days, wall_sd, pace, far, start_sd, air, thermal, by_temperature, log10_m, cw, hours, sd_erh,
    gap, stop, state, key, stops, keys, path, wet,
):  # fmt: skip
    """Carry R rows through P panels, the wall's hours going at ``pace`` [P].

    ``kind`` [R] picks rows of air, thermal (log of the rate without moisture), by_temperature
    [K, P] and of log10_m [K, G], cw [K]. ``state`` [R, 7] and ``key`` [R] are carried on in place;
    ``stops`` [R, S, 7] and ``keys`` [R, S] take the state at each panel marked in ``stop``; ``path``
    and ``wet`` [R, P] take A at the end and the mean moisture where they are not empty.
    """
    # long: one walk along the panels with all that is carried
    ln10 = np.log(10.0)
    top = log10_m.shape[1] - 1
    draw = path.shape[1] > 0
    for r in range(len(kind)):
        k, per_hour, sd0 = kind[r], 1.0 / (24.0 * tau_days[r]), start_sd[r]
        steep = (cw[k] * top) ** 2
        u, remain, a = state[r, 0], state[r, 1], state[r, 2]
        closed, opened, gap_key = state[r, 3], state[r, 4], key[r]
        slower, by_wall, sd_wall = state[r, 5], state[r, 6], wall_sd[r]
        last, q, f, g, s = -1.0, 1.0, 1.0, 0.0, 0
        for p in range(len(hours)):
            x = hours[p] * pace[p] * per_hour
            if x != last:
                last = x
                q = np.exp(-x)
                f = -np.expm1(-x) / x if x > 0 else 1.0
                g = f - q  # mean over the panel of what a slower wall has kept back
            away = u - air[k, p]
            mean = air[k, p] + away * f
            u = air[k, p] + away * q
            # d u / d ln tau: itself dies away behind the wall, and grows by what is still away
            mean_slower = slower * f + sd_wall * away * g
            slower = (slower + sd_wall * away * x) * q
            at = min(max(mean, 0.0), 1.0) * top
            i = min(int(at), top - 1)
            rise = log10_m[k, i + 1] - log10_m[k, i]
            remain *= q
            dry = sd_erh[p] * (1.0 - remain)
            start = sd0 * remain
            slope2 = steep * rise * rise
            # the mean over a departure of which only the size is known (log-normal in the rate); what
            # is unknown of the start stays as it is: A is then the middle of its log-normal
            convex = 0.5 * ln10 * ln10 * slope2 * dry * dry
            grow = np.exp(thermal[k, p] + ln10 * cw[k] * (log10_m[k, i] + (at - i) * rise) + convex)
            gain = grow * (hours[p] / 24.0)
            a += gain
            by_wall += gain * cw[k] * top * rise * mean_slower
            warm = by_temperature[k, p]
            doubt = gain * np.sqrt(
                far[p] * far[p] * (warm * warm + slope2 * dry * dry) + slope2 * start * start
            )
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
                stops[r, s, 5], stops[r, s, 6] = slower, by_wall
                s += 1
        state[r, 0], state[r, 1], state[r, 2] = u, remain, a
        state[r, 3], state[r, 4], key[r] = closed, opened, gap_key
        state[r, 5], state[r, 6] = slower, by_wall


@njit(cache=True, nogil=True, error_model="numpy")
def g_loop(d, ki, living, a, out):  # type: ignore[no-untyped-def]
    """Germination [L, S] of rows in worlds d, ki, living [L, S] at ageing a [L]: fills out."""
    root2, ln10 = np.sqrt(2.0), np.log(10.0)
    for r in range(out.shape[0]):
        for s in range(out.shape[1]):
            v = ki[r, s] - a[r] * np.exp(-ln10 * d[r, s])
            out[r, s] = living[r, s] * 0.5 * math.erfc(-v / root2)


@njit(cache=True, nogil=True, error_model="numpy")
def quantile_loop(d, ki, living, a, q, out):  # type: ignore[no-untyped-def]
    """Quantiles q [Q] over the worlds [L, S] at ageing a [L, T]: fills out [L, T, Q]."""
    root2, ln10 = np.sqrt(2.0), np.log(10.0)
    rows, count = d.shape
    factor, g = np.empty(count), np.empty(count)
    for r in range(rows):
        for s in range(count):
            factor[s] = np.exp(-ln10 * d[r, s])
        for t in range(a.shape[1]):
            for s in range(count):
                g[s] = living[r, s] * 0.5 * math.erfc((a[r, t] * factor[s] - ki[r, s]) / root2)
            ordered = np.sort(g)
            for j in range(len(q)):
                at = min(max(q[j] * count - 0.5, 0.0), count - 1.0)
                low = min(int(at), count - 2)
                out[r, t, j] = ordered[low] + (at - low) * (ordered[low + 1] - ordered[low])


@njit(cache=True, nogil=True, error_model="numpy")
def likelihood_loop(  # type: ignore[no-untyped-def]
    ki, z_ki, d, living, log_living, first, a, told, table, like, share, mean, sd
):  # fmt: skip
    """What tests say of each row at each d, over all Ki and all shares that could ever grow.

    ki [L, K] with its standard z [K], living [L, V] with the log of what each weighs; d [L, D]; tests
    first[r] to first[r + 1] of a row with ageing a [N] and told [N], its row of table [C, G]: log chances of
    germination, even in 0..1. Fills like [L, D] (log), share [L, D, V] of each living, mean and sd of Ki.
    """
    root2, ln10 = np.sqrt(2.0), np.log(10.0)
    rows, kis = ki.shape
    livings, top = living.shape[1], table.shape[1] - 1
    cube = np.empty((livings, kis))
    for r in range(rows):
        width = ki[r, 1] - ki[r, 0]
        for j in range(d.shape[1]):
            factor = np.exp(-ln10 * d[r, j])
            for v in range(livings):
                for k in range(kis):
                    cube[v, k] = log_living[r, v] - 0.5 * z_ki[k] * z_ki[k]
            for n in range(first[r], first[r + 1]):
                line = table[told[n]]
                for k in range(kis):
                    phi = 0.5 * math.erfc((a[n] * factor - ki[r, k]) / root2) * top
                    for v in range(livings):
                        at = phi * living[r, v]
                        i = min(int(at), top - 1)
                        cube[v, k] += line[i] + (at - i) * (line[i + 1] - line[i])
            most = cube.max()
            total = 0.0
            for v in range(livings):
                mass, first_moment, second = 0.0, 0.0, 0.0
                for k in range(kis):
                    w = np.exp(cube[v, k] - most)
                    mass += w
                    first_moment += w * ki[r, k]
                    second += w * ki[r, k] * ki[r, k]
                m = first_moment / mass
                share[r, j, v] = mass
                mean[r, j, v] = m
                sd[r, j, v] = np.sqrt(max(second / mass - m * m, width * width / 12.0))
                total += mass
            for v in range(livings):
                share[r, j, v] /= total
            like[r, j] = most + np.log(total)


@njit(cache=True, nogil=True, error_model="numpy")
def tilted_loop(d, like, mean, var, log_z, m, v):  # type: ignore[no-untyped-def]
    """Log chance of what is told (log likelihood like [T, D] over even d [D]), mean and variance of d, where
    it was normal before (mean, var [T]): fills log_z, m, v [T]."""
    step = d[1] - d[0]
    count = len(d)
    log_p = np.empty(count)
    for t in range(len(mean)):
        top = -1e300
        for j in range(count):
            away = d[j] - mean[t]
            log_p[j] = like[t, j] - 0.5 * away * away / var[t]
            top = max(top, log_p[j])
        total, first, second = 0.0, 0.0, 0.0
        for j in range(count):
            if log_p[j] > top - 40.0:
                p = np.exp(log_p[j] - top)
                total += p
                first += p * d[j]
                second += p * d[j] * d[j]
        m[t] = first / total
        v[t] = max(second / total - m[t] * m[t], step * step / 12.0)
        log_z[t] = top + np.log(total * step) - 0.5 * np.log(2.0 * np.pi * var[t])


@njit(cache=True, nogil=True, error_model="numpy")
def quadratic_loop(start, column, value, cov, out):  # type: ignore[no-untyped-def]
    """Variance of the sum that each row of a sparse matrix (CSR) speaks of, by the covariance of its columns:
    fills out [T]."""
    for t in range(len(out)):
        total = 0.0
        for i in range(start[t], start[t + 1]):
            line = cov[column[i]]
            part = 0.0
            for j in range(start[t], start[t + 1]):
                part += value[j] * line[column[j]]
            total += value[i] * part
        out[t] = total


@njit(cache=True, nogil=True, error_model="numpy")
def _between(z, edges, low, step):  # type: ignore[no-untyped-def]
    """Where z stands on an even grid from ``low``, whose cells end at the rising ``edges``."""
    i = min(max(np.searchsorted(edges, z) - 1, 0), len(edges) - 2)
    width = edges[i + 1] - edges[i]
    part = (z - edges[i]) / width if width > 0 else 0.5
    return low + step * (i + min(max(part, 0.0), 1.0))


@njit(cache=True, nogil=True, error_model="numpy")
def draw_loop(  # type: ignore[no-untyped-def]
    d, d_edges, living_edges, at_living, mean, sd, z, second, third, out_d, out_ki, out_living
):  # fmt: skip
    """States in rising order of d, one of each equal slice: fills out_d, out_ki, out_living [L, S], the last
    on its scale (even ``at_living`` [V]).

    d [L, D] even; d_edges [L, D + 1] and living_edges [L, D, V + 1] the borders of cells as standard
    normal quantiles; mean, sd [L, D, V] of Ki; z [S] the middles, second and third [S] their ranks for
    Ki and living.
    """
    rows, nodes = d.shape
    cells = len(at_living)
    z_step = at_living[1] - at_living[0]
    for r in range(rows):
        step = d[r, 1] - d[r, 0]
        for s in range(len(z)):
            at = _between(z[s], d_edges[r], d[r, 0] - 0.5 * step, step)
            out_d[r, s] = at
            j = min(max(int((at - d[r, 0]) / step), 0), nodes - 2)
            part = min(max((at - d[r, j]) / step, 0.0), 1.0)
            ki, shift = 0.0, 0.0
            for side in range(2):
                w = part if side == 1 else 1.0 - part
                here = _between(
                    z[third[s]], living_edges[r, j + side], at_living[0] - 0.5 * z_step, z_step
                )
                v = min(max(int((here - at_living[0]) / z_step), 0), cells - 2)
                x = min(max((here - at_living[v]) / z_step, 0.0), 1.0)
                m = mean[r, j + side, v] + x * (mean[r, j + side, v + 1] - mean[r, j + side, v])
                e = sd[r, j + side, v] + x * (sd[r, j + side, v + 1] - sd[r, j + side, v])
                ki += w * (m + e * z[second[s]])
                shift += w * here
            out_ki[r, s] = ki
            out_living[r, s] = shift


@njit(cache=True, nogil=True, error_model="numpy")
def choose_loop(  # type: ignore[no-untyped-def]
    weight, enough, sow, line, confidence, line_confidence, line_worth, effort, loss, chosen, regrow
):  # fmt: skip
    """After each outcome (weight [L, O, K] of the states) the first choice that is enough at a confidence
    (enough, sow [L, A, K]), and whether a line is grown anew (line [L, 2, K]: lost now, lost by waiting):
    fills loss, chosen, regrow [L, O]."""
    rows, outcomes, states = weight.shape
    choices = enough.shape[1]
    for r in range(rows):
        for o in range(outcomes):
            w = weight[r, o]
            chance, now, waits = 0.0, 0.0, 0.0
            for s in range(states):
                chance += w[s]
                now += w[s] * line[r, 0, s]
                waits += w[s] * line[r, 1, s]
            at = choices - 1
            for a in range(choices):
                held = 0.0
                for s in range(states):
                    held += w[s] * enough[r, a, s]
                if held >= confidence * chance - 1e-12:
                    at = a
                    break
            total = 0.0
            for s in range(states):
                total += w[s] * sow[r, at, s]
            anew = waits > (1.0 - line_confidence) * chance
            chosen[r, o], regrow[r, o] = at, anew
            loss[r, o] = total + line_worth * (now if anew else waits)
            if anew:
                loss[r, o] += effort * chance
