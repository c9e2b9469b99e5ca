"""The calendar read back by a library that is not ours."""

from datetime import date, timedelta

import pytest
from icalendar import Calendar

from brisk_larder.core.base.errors import InvalidValue, NotFound
from brisk_larder.data.acts import ActRef
from brisk_larder.services.needs import chain_acts, chains, pantry_page, targets
from brisk_larder.services.papers import everything, history
from brisk_larder.services.today import calendar, jobs


def events(data):
    read = Calendar.from_ical(data)
    assert read["VERSION"] == "2.0"
    return {str(e["UID"]): e for e in read.walk("VEVENT")}


def test_jobs_with_a_day_are_events_of_that_day_and_keep_their_name(small):
    larder = small.larder
    targets.set_target(larder, ActRef(), product="frozen peas", per_week=0.2, weeks=20)
    found = events(calendar.calendar(larder))
    room = jobs.today_room(larder)
    due = [p for p in (*room.jobs, *room.later) if p.due_s is not None]
    assert due
    assert {f"{p.origin_key}@brisk-larder" for p in due} <= set(found)
    order = next(p for p in due if p.kind == "order")
    one = found[f"{order.origin_key}@brisk-larder"]
    assert str(one["SUMMARY"]) == order.title
    day = one["DTSTART"].dt
    assert isinstance(day, date)
    assert one["DTEND"].dt == day + timedelta(days=1)
    assert any(uid.startswith("sow:pea:") for uid in found)
    # what is done stands there no more; the rest is the same as before
    jobs.set_jobs(larder, ActRef(), [order.origin_key], "done")
    after = events(calendar.calendar(larder))
    assert set(found) - set(after) == {f"{order.origin_key}@brisk-larder"}


def test_the_address_is_private_and_can_be_closed(small):
    larder = small.larder
    assert calendar.address(larder).path == ""
    with pytest.raises(NotFound):
        calendar.by_token(larder, "")
    path = calendar.new_address(larder, ActRef()).path
    token = path.rsplit("/", 1)[-1].removesuffix(".ics")
    assert len(token) >= 32
    assert events(calendar.by_token(larder, token)) is not None
    second = calendar.new_address(larder, ActRef()).path
    assert second != path
    with pytest.raises(NotFound):
        calendar.by_token(larder, token)
    calendar.close_address(larder, ActRef())
    assert calendar.address(larder).path == ""


def test_the_shelf_says_when_it_ends(small):
    larder = small.larder
    targets.set_target(larder, ActRef(), product="frozen peas", per_week=1, weeks=20)
    (line,) = pantry_page.pantry_room(larder).lines
    assert (line.says, line.wanted) == ("nothing left", 20)
    chain_acts.book_pantry(larder, ActRef(), "frozen peas", "put_up", 12)
    for _ in range(4):
        larder.clock.at_s += 7 * 86_400
        chain_acts.book_pantry(larder, ActRef(), "frozen peas", "opened", 1)
    chain_acts.book_pantry(larder, ActRef(), "frozen peas", "spoiled", 1)
    (line,) = pantry_page.pantry_room(larder).lines
    assert (line.units, line.put_up, line.gone, line.spoiled) == (7, 12, 5, 1)
    assert line.pace == pytest.approx(5 / 4, rel=0.02)
    assert line.says.startswith("at this pace it ends in")
    assert line.oldest_s is not None
    with pytest.raises(InvalidValue, match="at most the 7"):
        chain_acts.book_pantry(larder, ActRef(), "frozen peas", "spoiled", 8)
    # what is left over counts against what is wanted
    assert chains.needs_room(larder).lines[0].chain.to_put_up.mid == 13
    # a year on: what was is told by year
    larder.clock.at_s += 300 * 86_400
    chain_acts.book_pantry(larder, ActRef(), "frozen peas", "opened", 2)
    (line,) = pantry_page.pantry_room(larder).lines
    assert (line.put_up, line.gone) == (0, 2)
    assert [(y.year, y.put_up, y.gone, y.spoiled) for y in line.earlier] == [("2026/27", 12, 5, 1)]


def test_an_address_that_was_closed_or_replaced_comes_back_by_no_undo(small):
    larder = small.larder

    def token():
        return calendar.address(larder).path.rsplit("/", 1)[-1].removesuffix(".ics")

    calendar.new_address(larder, ActRef())
    first = token()
    replaced = ActRef()
    calendar.new_address(larder, replaced)
    second = token()
    history.undo(larder, ActRef(), replaced.id)
    with pytest.raises(NotFound):
        calendar.by_token(larder, first)
    assert calendar.by_token(larder, second)
    assert second not in everything.everything_json(larder)
    closed = ActRef()
    calendar.close_address(larder, closed)
    history.undo(larder, ActRef(), closed.id)
    with pytest.raises(NotFound):
        calendar.by_token(larder, second)
