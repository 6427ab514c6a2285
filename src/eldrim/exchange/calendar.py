"""What is due, as iCalendar: one all-day event each, that any calendar reads."""

from collections.abc import Iterable
from datetime import timedelta

from icalendar import Calendar, Event

from eldrim.core.quantity import format_number
from eldrim.core.run.due import Due


def write_calendar(dues: Iterable[Due]) -> bytes:
    """The dues that have a day. The same due keeps its id, so that a calendar renews it."""
    calendar = Calendar()
    calendar.add("prodid", "-//Eldrim//due work//EN")
    calendar.add("version", "2.0")
    for due in dues:
        if due.on is not None:
            calendar.add_component(_event(due))
    return bytes(calendar.to_ical())


def _event(due: Due) -> Event:
    assert due.on is not None
    event = Event()
    event.add("uid", f"{due.kind}-{due.run}@eldrim")
    event.add("summary", f"{due.unit_name}: {due.what}")
    event.add("dtstart", due.on)
    event.add("dtend", due.on + timedelta(days=1))
    event.add("dtstamp", due.set_at)
    if due.meter is not None:
        at = f"{format_number(due.meter, 1)} {due.meter_unit}"
        event.add("description", f"Or at {at} on the meter, whichever comes first.")
    return event
