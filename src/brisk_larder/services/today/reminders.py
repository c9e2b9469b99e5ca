"""What would be forgotten: orders that are late, and the foods of the next year, still without names."""

from __future__ import annotations

from datetime import timedelta

from sqlmodel import col, select

from ...core.base.units import day_start_s
from ...core.seed.pieces import FRESH
from ...data.tables import FoodTarget
from ..air.look import looking_at
from ..air.supposed import supposed_lots
from ..forecast.lines import lot_lines
from ..forecast.on_order import orders_of
from ..household.kinds import called, figures
from ..household.larder import Larder, household_year, planning_year, season, year_to_name
from ..household.wording import date_words, day_words, many
from .this_years_list import Proposal


def late_orders(larder: Larder) -> list[Proposal]:
    """Orders that were to be here by now: to be asked after."""
    given_up = figures().basket.order_given_up_days
    out = []
    with looking_at(larder) as v:
        for o in orders_of(v):
            if not o.late_days:
                continue
            until = o.expected_s + given_up * 86_400
            counts = (
                f"Till {day_words(until, v.today)} it is still reckoned with"
                if o.counts
                else "It is no longer reckoned with: what it was for is short again"
            )
            out.append(
                Proposal(
                    origin_key=f"late_order:{o.order_id}",
                    kind="ask",
                    title=f"Ask {o.seller} about {many(o.packs, 'packet')} of {o.name}",
                    why=f"Ordered {day_words(o.ordered_s, v.today)} and expected "
                    f"{day_words(o.expected_s, v.today)}, {many(o.late_days, 'day')} ago. {counts}. When it "
                    "came, or never will, say so in the basket.",
                    where="house",
                    due_s=o.expected_s,
                    subject=f"order:{o.order_id}",
                    urgent=not o.counts,
                    short=f"{o.name} ({o.seller})",
                )
            )
    return out


def stays_to_ask(larder: Larder) -> list[Proposal]:
    """Packets that are taken to have lain where they lie since they came: nobody said so, and much hangs on
    it."""
    with looking_at(larder) as v:
        return [
            Proposal(
                origin_key=f"since:{node}",
                kind="since",
                title=f"Say since when {many(len(lots), 'packet')} lie in {v.air.nodes[node].name}",
                why="What is there is taken to have lain there since it came, and nobody said so: right, or "
                "only since a day or year that you know? Before that seed is taken to have lain in the "
                f"usual place, {called(v.home.unplaced_kind)}.",
                where="house",
                due_s=None,
                subject=f"node:{node}",
                urgent=False,
            )
            for node, lots in supposed_lots(v.session).items()
        ]


def pieces_to_see_to(larder: Larder, set_soon: set[str]) -> list[Proposal]:
    """Tubers, sets and plants whose last good day is near or past, where no job sets them already
    (``set_soon``: subjects)."""
    out = []
    for x in lot_lines(larder):
        subject = f"lot:{x.lot_id}"
        if (
            x.verdict.code not in ("pieces_soon", "pieces_short", "pieces_over")
            or subject in set_soon
        ):
            continue
        assert x.kept_until_s is not None, "of pieces it is known how long they keep"
        over = x.verdict.code == "pieces_over"
        what = f"{x.code} {x.variety}".strip()
        count = f"{many(round(x.seeds), x.unit)} of " if x.seeds else ""
        do_with = "Set or give away" if x.form in FRESH else "Set, eat or give away"
        out.append(
            Proposal(
                origin_key=f"keeps:{x.lot_id}:{int(over)}",
                kind="look",
                title=f"Look over {count}{what} ({x.kind_name})"
                if over
                else f"{do_with} {count}{what} ({x.kind_name})",
                why=f"{x.next_act[0].upper()}{x.next_act[1:]}. How long such {x.unit}s keep is a guess.",
                where="cold store",
                due_s=x.kept_until_s,
                subject=subject,
                urgent=False,
                short=what,
            )
        )
    return out


def foods_to_name(larder: Larder) -> list[Proposal]:
    """Late in a year the next one's foods are named; until then the list of this year stands."""
    with looking_at(larder) as v:
        next_one, now = year_to_name(v.today, v.home), household_year(v.today, v.home)
        named = v.session.exec(
            select(FoodTarget.id)
            .where(col(FoodTarget.deleted_s).is_(None), FoodTarget.year == now)
            .limit(1)
        ).first()
        if next_one == now or named is None or planning_year(v.session, v.today, v.home) != now:
            return []
        begins = season(v.home, next_one)[0]
        last = begins - timedelta(days=1)
        return [
            Proposal(
                origin_key=f"name_foods:{next_one}",
                kind="name",
                title=f"Name the foods of the year from {date_words(begins)} on",
                why="Take over last year's list and change what is to be otherwise; what is still to be sown "
                f"of this year stays. Until they are named this year's list stands, and it ends on "
                f"{date_words(last)}.",
                where="house",
                due_s=float(day_start_s(last, v.home.tz)),
                subject=f"foods:{next_one}",
                urgent=False,
            )
        ]
