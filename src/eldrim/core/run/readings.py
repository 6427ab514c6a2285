"""How a value stands to the window of its reading."""

import re
from typing import TypeGuard

from eldrim.core.base.days import find_day
from eldrim.core.base.quantity import format_number, with_unit
from eldrim.core.figures.limits import Limits, Side, limits, side
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.reading_choices import APART
from eldrim.core.words import say
from eldrim.core.words.language import day_words, reading_in

Value = float | str | None
# How the keys of all advances begin.
ADVANCE = "advance_"
# Readings of the unit's own meter, now and when it is due next.
METERS = ("meter", "next_meter")


def limits_of(reading: Reading) -> Limits:
    """The two intervals a value of this reading is tested against."""
    return limits(reading.low, reading.high, reading.resolution)


def is_number(value: Value) -> TypeGuard[float]:
    """Whether a value can be judged at all."""
    return isinstance(value, int | float) and not isinstance(value, bool)


_DIALLED = re.compile(
    r"\s*(\d{1,2}(?:[.,]\d{1,2})?)\s*°?\s*([+−-])\s*(\d{1,2}(?:[.,]\d{1,2})?)\s*°?\s*"
)


def dialled(typed: str) -> float | None:
    """An advance as a lamp with a dial tells it: ``20 + 2``, the dial and what is left at the mark;
    None where it is not written so.
    """
    found = _DIALLED.fullmatch(typed)
    if found is None:
        return None
    dial, left = (float(found[n].replace(",", ".")) for n in (1, 3))
    return round(dial + left if found[2] == "+" else dial - left, 2)


def outside(reading: Reading, value: Value) -> Side:
    """On which side of its window a value lies; empty when it is inside, or no number."""
    return side(limits_of(reading).accepted, value) if is_number(value) else ""


def at_limit(reading: Reading, value: Value) -> bool:
    """Whether the gauge cannot tell a value from one outside its window (docs/craft.md §8)."""
    if not is_number(value) or outside(reading, value):
        return False
    return side(limits_of(reading).certain, value) != ""


def outside_words(reading: Reading, value: Value) -> str:
    """Why a value is outside its window, in words; empty when it is inside."""
    where = outside(reading, value)
    if not where or not is_number(value):
        return ""
    limit = reading.low if where == "under" else reading.high
    said, edge = (with_unit(format_number(v or 0, 3), reading.unit) for v in (value, limit))
    why = f": {reading.why_limit}" if reading.why_limit else ""
    return say(f"bay.{where}", said=f"{reading.label} {said}", limit=edge, why=why)


def with_meter_unit(plan: Plan, unit: str) -> Plan:
    """A plan whose readings of the meter carry the unit that this unit's meter counts in, in the
    language of the plan.
    """
    with reading_in(plan.job.language):
        unit = say(f"meter.{unit}")

    def counted(reading: Reading) -> Reading:
        return reading.model_copy(update={"unit": unit}) if reading.key in METERS else reading

    steps = tuple(
        step.model_copy(update={"readings": tuple(map(counted, step.readings))})
        for step in plan.steps
    )
    return plan.model_copy(update={"steps": steps})


def shown(reading: Reading, value: Value) -> str:
    """A value as it is read: a number in the language in use, a choice by its word, a day as
    people write it.
    """
    if is_number(value):
        return format_number(value, 3)
    if reading.choices and reading.shown:
        words = [_choice(reading, one) for one in picked(reading, value)]
        if all(words):
            return "; ".join(words) if reading.several else words[0]
    day = find_day(str(value)) if reading.kind == "date" else None
    return day_words(day) if day else str(value)


def picked(reading: Reading, value: Value) -> list[str]:
    """The ids of what was picked: one, or several where several may hold."""
    return str(value).split(APART) if reading.several else [str(value)]


def _choice(reading: Reading, value: str) -> str:
    return reading.shown[reading.choices.index(value)] if value in reading.choices else ""


def label_at_hole(step: Step, label: str) -> str:
    """What a reading is of, where those of one hole stand together: plug and coil are both seen."""
    return f"{say(f'noun.{step.key.rule.item}')}: {label.lower()}"
