"""What is due, as iCalendar: an all-day event each, that any calendar reads."""

from collections.abc import Iterable
from datetime import timedelta
from hashlib import blake2b
from threading import Lock

from cachetools import LRUCache, cached
from icalendar import Calendar, Event

from eldrim.core.base.quantity import format_number
from eldrim.core.run.due import Due
from eldrim.core.words.language import day_words, spoken

# A span this long is one event from its first day to its last; a longer one stands on its likely
# day.
SHOWN_WHOLE = timedelta(days=31)


def write_calendar(dues: Iterable[Due]) -> bytes:
    """One event for each thing due that has a day.

    The same thing on the same unit keeps its id, so that a calendar moves what was moved.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Eldrim//due work//EN")
    calendar.add("version", "2.0")
    head, end = bytes(calendar.to_ical()).split(b"END:", 1)
    events = (_event(due) for due in dues if due.on is not None)
    return b"".join((head, *events, b"END:", end))


def event_id(due: Due) -> str:
    """What a calendar knows a thing due by: unit, kind and what it is, never its day or run."""
    about = "|".join((due.unit, due.kind, due.thing or due.what, *map(str, due.at), str(due.looks)))
    return f"{due.kind}-{blake2b(about.encode(), digest_size=10).hexdigest()}@eldrim"


# Of thousands of events few change at a time.
@cached(LRUCache(50_000), key=lambda due: (due, spoken()), lock=Lock())
def _event(due: Due) -> bytes:
    assert due.on is not None
    event = Event()
    event.add("uid", event_id(due))
    event.add("summary", f"{due.unit_name}: {due.what}")
    first, last, lines = due.on, due.on, list[str]()
    if due.first is not None and due.until is not None and due.first != due.until:
        lines.append(f"Likely between {day_words(due.first)} and {day_words(due.until)}.")
        if due.until - due.first <= SHOWN_WHOLE:
            first, last = due.first, due.until
    event.add("dtstart", first)
    event.add("dtend", last + timedelta(days=1))
    event.add("dtstamp", due.set_at)
    if due.meter is not None:
        at = f"{format_number(due.meter, 1)} {due.meter_unit}"
        lines.append(f"{'At' if due.is_foreseen else 'Or at'} {at} on the meter.")
    lines += [due.why] if due.why else []
    if lines:
        event.add("description", "\n".join(lines))
    return bytes(event.to_ical())
