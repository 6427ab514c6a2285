"""What is due, as iCalendar: one all-day event each, that any calendar reads."""

from collections.abc import Iterable
from datetime import timedelta
from threading import Lock

from cachetools import LRUCache, cached
from icalendar import Calendar, Event

from eldrim.core.quantity import format_number
from eldrim.core.run.due import Due


def write_calendar(days: Iterable[tuple[Due, list[str]]]) -> bytes:
    """One event for what is due on one unit on one day: the first of it, and all of it in words.

    The same due keeps its id, so that a calendar renews it.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Eldrim//due work//EN")
    calendar.add("version", "2.0")
    head, end = bytes(calendar.to_ical()).split(b"END:", 1)
    events = (_event(due, tuple(every)) for due, every in days if due.on is not None)
    return b"".join((head, *events, b"END:", end))


# Of thousands of events few change at a time.
@cached(LRUCache(50_000), lock=Lock())
def _event(due: Due, every: tuple[str, ...]) -> bytes:
    assert due.on is not None
    event, several = Event(), len(every) > 1
    event.add("uid", f"{due.kind}-{due.run}@eldrim")
    what = f"{len(every)} jobs due" if several else due.what
    event.add("summary", f"{due.unit_name}: {what}")
    event.add("dtstart", due.on)
    event.add("dtend", due.on + timedelta(days=1))
    event.add("dtstamp", due.set_at)
    lines = sorted(every) if several else []
    if due.meter is not None:
        at = f"{format_number(due.meter, 1)} {due.meter_unit}"
        lines.append(f"Or at {at} on the meter, whichever comes first.")
    if lines:
        event.add("description", "\n".join(lines))
    return bytes(event.to_ical())
