"""How templates print times and numbers."""

import os
from datetime import date, datetime
from uuid import uuid4
from zoneinfo import ZoneInfo

from eldrim.core.base.quantity import format_number
from eldrim.core.interval.life import meter_words
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.words.language import moment_words
from eldrim.core.words.messages import gettext
from eldrim.web.front import DEFAULT_ZONE

# Where the clock on the wall is; told before anything of the web is read (see docs/operate.md).
SHOP_ZONE = ZoneInfo(os.environ.get("ELDRIM_ZONE") or DEFAULT_ZONE)


def minutes(value: float) -> str:
    """Minutes as people say them: ``58 min``, under ten with a tenth."""
    return f"{minutes_number(value)} min"


def number(value: object, places: int = 3) -> str:
    """A number without trailing zeros; anything else as it is."""
    return format_number(value, places) if isinstance(value, int | float) else str(value)


def when(value: datetime) -> str:
    """A time in the shop's zone."""
    return moment_words(value.astimezone(SHOP_ZONE))


def hour(value: datetime) -> str:
    """The time of day in the shop's zone."""
    return value.astimezone(SHOP_ZONE).strftime("%H:%M")


def metered(value: float, unit: str) -> str:
    """A reading of a meter with its unit in words: ``3 159 hours``."""
    return meter_words(value, worded(unit))


def worded(key: str) -> str:
    """An inner key in words, in the language of the page: ``throttle_body`` is a throttle body."""
    return gettext(key.replace("_", " ").replace("-", " "))


def today() -> date:
    """The day it is in the shop."""
    return datetime.now(SHOP_ZONE).date()


def new_id() -> str:
    """An id for an entry where the page has no script to make one."""
    return str(uuid4())
