"""What a unit runs in a day, from its own meter readings, and when it comes to a reading."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise
from statistics import median
from typing import Literal

# Readings closer together than this say little of a day's use.
LEAST_DAYS = 5
# How far off a day's use is taken to be at least, and where other units stand in.
OWN_SPREAD, TWO_SPREAD, FLEET_SPREAD = 0.1, 0.3, 0.5
# Nobody plans further ahead.
FURTHEST = timedelta(days=365 * 12)

Reading = tuple[date, float]


@dataclass(frozen=True)
class Use:
    """A day's use in the unit of the meter: likely, and between what it lies.

    ``readings`` is how many it rests on, ``by`` whose they are.
    """

    per_day: float
    low: float
    high: float
    readings: int
    by: Literal["unit", "fleet"] = "unit"


@dataclass(frozen=True)
class Span:
    """When something comes: likely, and from when to when."""

    likely: date
    first: date
    last: date


def use_per_day(readings: Sequence[Reading]) -> Use | None:
    """A day's use from readings of one meter; None where two far enough apart are lacking.

    Likely is from the first to the last; the span is that of the stretches between, which a
    meter that went back or stood still does not widen to nothing.
    """
    rising = _rising(sorted(readings))
    if len(rising) < 2:
        return None
    (start, low), (end, high) = rising[0], rising[-1]
    whole = (high - low) / (end - start).days
    if whole <= 0:
        return None
    stretches = [
        (later[1] - before[1]) / (later[0] - before[0]).days for before, later in pairwise(rising)
    ]
    if len(stretches) < 2:
        spread = TWO_SPREAD
    else:
        off = [abs(stretch - whole) / whole for stretch in stretches]
        spread = min(0.9, max(OWN_SPREAD, median(off)))
    return Use(whole, whole * (1 - spread), whole * (1 + spread), len(rising))


def _rising(readings: list[Reading]) -> list[Reading]:
    """Readings far enough apart in time, the newest kept; a new meter begins anew."""
    kept: list[Reading] = []
    for day, value in readings:
        if kept and value < kept[-1][1]:
            kept = []
        if kept and (day - kept[-1][0]).days < LEAST_DAYS:
            if len(kept) > 1:
                kept[-1] = (day, value)
            continue
        kept.append((day, value))
    return kept


def fleet_use(others: Sequence[Use]) -> Use | None:
    """What units of the same kind run in a day, where one's own readings are lacking."""
    if not others:
        return None
    mean = sum(one.per_day for one in others) / len(others)
    readings = sum(one.readings for one in others)
    return Use(mean, mean * (1 - FLEET_SPREAD), mean * (1 + FLEET_SPREAD), readings, "fleet")


def when(reading: float, stood: Reading, use: Use) -> Span:
    """When the meter comes to a reading; what it passed already lies before the day it was read."""
    day, value = stood
    left = reading - value
    ways = [_after(day, left, rate) for rate in (use.per_day, use.high, use.low)]
    return Span(ways[0], min(ways), max(ways))


def _after(day: date, left: float, rate: float) -> date:
    days = min(max(left / rate, -FURTHEST.days), FURTHEST.days)
    return day + timedelta(days=round(days))
