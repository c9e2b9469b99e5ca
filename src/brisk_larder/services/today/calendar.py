"""The jobs of the house as a calendar: a file, and a private address that a calendar asks again and again."""

from __future__ import annotations

import hmac
import secrets
from dataclasses import dataclass

from ...core.base.errors import NotFound
from ...core.base.units import local_day
from ...formats.calendar_ics import Entry, calendar_ics
from ..acts.acting import Doing, Done, act
from ..air.look import looking_at
from ..forecast.sowing import windows_of
from ..household.larder import Larder
from ..household.wording import date_words
from ..needs.chains import needs_room
from .jobs import today_room
from .this_years_list import Proposal

SHOWN = ("open", "in_progress", "moved", "handed_over")


@dataclass(frozen=True)
class CalendarAddress:
    """Where a calendar can ask for the jobs (empty: no address was made)."""

    path: str


def address(larder: Larder) -> CalendarAddress:
    """The private address, as it is now."""
    with looking_at(larder) as v:
        token = v.home.calendar_token
    return CalendarAddress(f"/api/calendar/{token}.ics" if token else "")


@act("calendar_address")
def new_address(a: Doing) -> CalendarAddress:
    """Make a private address; one that was made before is worth nothing from now on."""
    a.home.calendar_token = secrets.token_urlsafe(24)
    a.session.add(a.home)
    a.summary = "Made a private address for the calendar"
    return CalendarAddress(f"/api/calendar/{a.home.calendar_token}.ics")


@act("calendar_closed")
def close_address(a: Doing) -> Done:
    """The private address is worth nothing from now on."""
    a.home.calendar_token = ""
    a.session.add(a.home)
    a.summary = "Closed the calendar's address"
    return Done()


def by_token(larder: Larder, token: str) -> bytes:
    """The calendar for its private address. Raises NotFound for any other."""
    with looking_at(larder) as v:
        known = v.home.calendar_token
    if not known or not hmac.compare_digest(known.encode(), token.encode()):
        raise NotFound("There is no calendar at this address")
    return calendar(larder)


def calendar(larder: Larder) -> bytes:
    """All jobs that have a day, and the days on which sowing opens."""
    room, needs = today_room(larder), needs_room(larder)
    jobs = [p for p in (*room.jobs, *room.later) if p.due_s is not None and p.state in SHOWN]
    with looking_at(larder) as v:
        tz, now_s, name = v.home.tz, v.now_s, v.home.name
        entries = [_entry(p, tz) for p in jobs]
        for crop in sorted({c for x in needs.lines for c in (x.crop, *x.also)}):
            kind = v.kinds.get(crop)
            for w in (
                w for y in (v.today.year, v.today.year + 1) for w in windows_of(kind, y, v.home)
            ):
                if w.last < v.today:
                    continue
                until = f"until {date_words(w.last)}"
                guess = " (by a guessed frost date)" if w.guessed else ""
                uid = f"sow:{crop}:{w.first.year}:{w.setting}"
                verb, what = ("Sow", "Sowing") if kind.piece is None else ("Set", "Setting")
                title = f"{verb} {kind.name} {w.setting} from now on"
                entries.append(
                    Entry(uid, title, f"{what} is open {until}{guess}.", w.first, "garden", False)
                )
    return calendar_ics(name, entries, now_s)


def _entry(p: Proposal, tz: str) -> Entry:
    assert p.due_s is not None, "only jobs with a day"
    day = local_day(p.due_s, tz)
    return Entry(p.origin_key, p.title, p.why, day, p.where, p.state == "done")
