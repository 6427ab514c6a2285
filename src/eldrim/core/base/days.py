"""Days as they are read from what people and devices send."""

from calendar import monthrange
from datetime import date

# A day outside these is a slip, and near the ends of the calendar sums of days have no answer.
FIRST_YEAR, LAST_YEAR = 2000, 2100


def read_day(text: str) -> date:
    """Return the day written as ``2026-05-31``; raises ``ValueError`` for anything else.

    That includes days of years no workshop plans or logs in.
    """
    day = date.fromisoformat(text)
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise ValueError(text)
    return day


def find_day(text: str) -> date | None:
    """The day written so; None where it is none."""
    try:
        return read_day(text)
    except ValueError:
        return None


def months_on(day: date, months: int) -> date:
    """The same day so many months on, or the last of a month that is too short."""
    count = day.year * 12 + day.month - 1 + months
    year, month = count // 12, count % 12 + 1
    return date(year, month, min(day.day, monthrange(year, month)[1]))
