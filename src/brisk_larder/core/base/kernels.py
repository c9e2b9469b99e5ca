"""The compiled loops (``loops``), loaded when the first of them runs: a command that reckons nothing
need not wait for the compiler to be loaded."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from typing import Any


def in_shares(rows: int, work: Callable[[slice], None], least: int = 1000) -> None:
    """Do work on rows, shared among the processors when there are at least so many: the loops
    below let go of the interpreter."""
    if rows < least:
        return work(slice(0, rows))
    edges = [rows * i // CORES for i in range(CORES + 1)]
    with ThreadPoolExecutor(CORES) as pool:
        list(pool.map(work, (slice(a, b) for a, b in pairwise(edges))))


CORES = os.cpu_count() or 1
# what a stop writes down: erh25, remain, a_probit, var_closed, gap_open, wall_erh, wall_a
STATE_COLUMNS = 7


def _compiled(name: str) -> Callable[..., Any]:
    def run(*arrays: object) -> Any:
        from . import loops

        return getattr(loops, name)(*arrays)

    return run


relax_loop = _compiled("relax_loop")
balance_loop = _compiled("balance_loop")
carry_loop = _compiled("carry_loop")
g_loop = _compiled("g_loop")
quantile_loop = _compiled("quantile_loop")
likelihood_loop = _compiled("likelihood_loop")
draw_loop = _compiled("draw_loop")
tilted_loop = _compiled("tilted_loop")
quadratic_loop = _compiled("quadratic_loop")
choose_loop = _compiled("choose_loop")
