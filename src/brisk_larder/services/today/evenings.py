"""The list of jobs as a keeper works it: what is done together is one row, a reason is said once."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from ..household.wording import all_of, many, often, temperature_here
from .this_years_list import Proposal

REGROW = "Lines whose seed is to be grown anew; how pressing each is, and from which seed, stands in Growing."


WHY_MISSED = (
    "Their days for sowing are past; what is still possible of each, and what it means, is there."
)
WHY_LESS = "What is there is sown all the same; how much will be missing stands at each."


@dataclass(frozen=True)
class Row:
    """One row of the list: a job, or several that are one evening's work, in the order they are done."""

    key: str
    kind: str
    title: str
    why: str
    where: str
    due_s: float | None
    urgent: bool
    jobs: list[Proposal]
    until_s: float | None = None


def _alone(job: Proposal) -> Row:
    return Row(
        job.origin_key, job.kind, job.title, job.why, job.where, job.due_s, job.urgent, [job],
        job.until_s,
    )  # fmt: skip


def _named(jobs: list[Proposal], most: int = 6) -> str:
    names = [j.short or j.title for j in jobs]
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more


def _row(kind: str, jobs: list[Proposal], title: str, why: str) -> Row:
    due = [j.due_s for j in jobs if j.due_s is not None]
    key = f"together:{kind}:" + ",".join(sorted(j.origin_key for j in jobs))
    return Row(
        key,
        kind,
        title,
        why,
        jobs[0].where,
        min(due, default=None),
        any(j.urgent for j in jobs),
        jobs,
        min((j.until_s for j in jobs if j.until_s is not None), default=None),
    )


def _tests(jobs: list[Proposal]) -> Iterable[Row]:
    """The evenings of the bench's plan; what it has no room for stands alone."""
    planned = sorted((j for j in jobs if j.evening), key=lambda j: j.evening)
    yield from (_alone(j) for j in jobs if not j.evening)
    for _, group in groupby(planned, key=lambda j: j.evening):
        evening = sorted(group, key=lambda j: (j.spot_c or 0.0, j.short))
        if len(evening) == 1:
            yield _alone(evening[0])
            continue
        seeds, packets = sum(x.seeds for x in evening), many(len(evening), "packet")
        warm = [temperature_here(c) for c in sorted({j.spot_c or 0.0 for j in evening})]
        yield _row(
            "test",
            evening,
            f"An evening's tests at {all_of(warm)}: {_named(evening)}",
            f"{many(seeds, 'seed')} of {packets}; of each the answer can change what you do. Where each "
            "stands, and the sheet to print: in Tests.",
        )


def _counts(jobs: list[Proposal]) -> Iterable[Row]:
    if len(jobs) == 1:
        yield _alone(jobs[0])
    elif jobs:
        yield _row(
            "count",
            jobs,
            f"Count the bench: {_named(jobs)}",
            f"{many(len(jobs), 'test')} to look at; each is told day by day in Tests.",
        )


def _of_one_place(jobs: list[Proposal]) -> Iterable[Row]:
    by_subject = groupby(
        sorted(jobs, key=lambda j: (j.subject, not j.urgent)), key=lambda j: j.subject
    )
    for _, group in by_subject:
        here = list(group)
        if len(here) == 1:
            yield _alone(here[0])
            continue
        title = here[0].title + "; " + "; ".join(j.title.split(": ", 1)[-1] for j in here[1:])
        yield _row(here[0].kind, here, title, " ".join(j.why for j in here))


def _several(jobs: list[Proposal], kind: str, head: str, why: str) -> Iterable[Row]:
    """Jobs of one kind whose reason is the same: said once."""
    if len(jobs) < 3:
        yield from (_alone(j) for j in jobs)
    else:
        yield _row(kind, jobs, f"{head}: {_named(jobs)}", why)


def _when_sown(job: Proposal, now_s: float) -> tuple[bool, float]:
    """What is sown together: what is in its last days; what is held up, by its day; what can be sown now; and
    what opens on one day."""
    opens = job.due_s or 0.0
    return job.urgent, 0.0 if not job.held_up and opens <= now_s else opens


def _sowings(jobs: list[Proposal], now_s: float) -> Iterable[Row]:
    """What is sown in one place at one time."""

    def together(job: Proposal) -> tuple[tuple[bool, float], str, bool]:
        return _when_sown(job, now_s), job.setting, not job.pieces

    by_day = sorted(jobs, key=lambda j: (together(j), j.short))
    for (_, setting, sown), group in groupby(by_day, key=together):
        here = list(group)
        why = f"{many(len(here), 'packet')}, what for and how thick stands at each."
        held_up = next((j.held_up for j in here if j.held_up), "")
        why = f"{held_up} {why}".strip()
        yield from _several(here, "sow", f"{'Sow' if sown else 'Set'} {setting}", why)


def rows_of(
    jobs: list[Proposal], tested: set[str], confidence: float, now_s: float = 0.0
) -> list[Row]:
    """Jobs gathered to rows, urgent and early first. A job with a state of its own (moved, handed over,
    in progress) stays alone: somebody said something of just that one.

    ``tested``: subjects of all tests that are asked for; what only waits for these is not asked for
    again. ``confidence``: in how many years of one the household wants enough plants.
    """
    own = [j for j in jobs if j.state != "open" or j.kind in ("own", "move")]
    free = [j for j in jobs if j not in own and not (j.waits_for and set(j.waits_for) <= tested)]
    counts = [j for j in free if j.kind == "count" and j.subject.startswith("trial:")]
    tests = [j for j in free if j.kind == "test" and j.seeds]
    places = [j for j in free if j.kind in ("alarm", "read")]
    # the reasons of these are the same; a line whose seed is to be found again has one of its own
    short = [j for j in free if j.kind == "order" and j.origin_key.startswith("order:")]
    regrow = [j for j in free if j.kind == "regrow"]
    sow = [j for j in free if j.kind == "sow"]
    missed = [j for j in free if j.kind == "missed"]
    less = [j for j in free if j.kind == "less"]
    gathered = {id(j) for j in (*counts, *tests, *places, *short, *regrow, *sow, *missed, *less)}
    why_short = (
        f"What is in hand does not promise enough plants, {often(confidence)}: order, or regrow. Each "
        "chain in Needs says by how much."
    )
    rows = [
        *_counts(counts),
        *_tests(tests),
        *_of_one_place(places),
        *_several(short, "order", "Short of seed", why_short),
        *_several(regrow, "regrow", "Regrow", REGROW),
        *_sowings(sow, now_s),
        *_several(missed, "missed", "Sowing is over", WHY_MISSED),
        *_several(less, "less", "Too late to order", WHY_LESS),
        *(_alone(j) for j in [*free, *own] if id(j) not in gathered),
    ]
    return sorted(rows, key=lambda r: (not r.urgent, r.due_s or 9e12, r.title))
