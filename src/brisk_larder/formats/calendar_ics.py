"""Jobs as an iCalendar file (RFC 5545), for the calendar of the house."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from icalendar import Calendar, Event


@dataclass(frozen=True)
class Entry:
    """One job on a day. ``uid``: the same for as long as it is the same job; ``done``: it was done."""

    uid: str
    title: str
    why: str
    day: date
    where: str
    done: bool


def calendar_ics(name: str, entries: Sequence[Entry], now_s: int) -> bytes:
    """All of them as events of a whole day, one each; the same job keeps its UID."""
    out = Calendar()
    out.add("prodid", "-//Brisk Larder//jobs//EN")
    out.add("version", "2.0")
    out.add("x-wr-calname", name)
    stamp = datetime.fromtimestamp(now_s, UTC)
    for e in entries:
        event = Event()
        event.add("uid", f"{e.uid}@brisk-larder")
        event.add("dtstamp", stamp)
        event.add("summary", ("done: " if e.done else "") + e.title)
        event.add("description", e.why)
        event.add("location", e.where)
        event.add("dtstart", e.day)
        event.add("dtend", e.day + timedelta(days=1))
        event.add("transp", "TRANSPARENT")
        out.add_component(event)
    return bytes(out.to_ical())
