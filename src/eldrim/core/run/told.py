"""What a value says and what to do next, as the bay tells it beside the field (docs/timing.md)."""

from collections.abc import Callable
from itertools import pairwise
from math import floor

from eldrim.core.base.quantity import format_number
from eldrim.core.procedure.model import Curve, Reading, Turning
from eldrim.core.run.readings import Value, is_number, outside

# The value of another reading of the same run, by its key; None where it is not written yet.
Others = Callable[[str], Value]


def told(reading: Reading, value: Value, others: Others = lambda key: None) -> str:
    """What a value says, in the words of its reading; empty where it says nothing."""
    if not is_number(value):
        return ""
    if reading.curve:
        return _along(reading, reading.curve, float(value), others)
    if reading.turning:
        return _turned(reading, reading.turning, float(value), others)
    if reading.falls and not outside(reading, value):
        other = others(reading.falls.under)
        if is_number(other) and other - value > reading.falls.most + 1e-9:
            return reading.falls.text
    fits = [one for one in reading.says if one.least is None or value >= one.least - 1e-9]
    return fits[-1].text if fits else ""


def _turned(reading: Reading, turning: Turning, value: float, others: Others) -> str:
    side = outside(reading, value)
    if not side:
        return turning.right
    if side == "over":
        return _filled(turning.retard, value - turning.over_to, turning.edge)
    lack, other = turning.under_to - value, others(turning.other) if turning.other else None
    if turning.room is not None and is_number(other) and other + lack > turning.room + 1e-9:
        return turning.tired
    return _filled(turning.advance, lack, turning.edge)


# A stretch stands still that gains less than this of what it should, and jumps from here on.
STILL, JUMPS = 0.25, 1.6


def _along(reading: Reading, curve: Curve, back: float, others: Others) -> str:
    """What the whole curve says; empty until every point of it is read."""
    read = [others(point.key) for point in curve.points]
    found = [float(value) for value in read if is_number(value)]
    if len(found) < len(read):
        return ""
    if outside(reading, back) == "over":
        return curve.stuck
    if _steps(curve, found):
        return curve.steps
    sides = [
        "under" if value < point.low - 1e-9 else "over" if value > point.high + 1e-9 else ""
        for point, value in zip(curve.points, found, strict=True)
    ]
    if sides[-1] == "under":
        return curve.tired
    if "under" in sides:
        return curve.late
    return curve.early if "over" in sides else curve.well


def _steps(curve: Curve, found: list[float]) -> bool:
    """Whether one stretch stands still and the next one jumps."""
    middles = [(point.low + point.high) / 2 for point in curve.points]
    gains = [
        (now - before) / (there - here)
        for (before, now), (here, there) in zip(pairwise(found), pairwise(middles), strict=True)
        if there > here
    ]
    return any(gain < STILL and after > JUMPS for gain, after in pairwise(gains))


def _filled(words: str, crank: float, edge: float | None) -> str:
    """The sentence for an error of so many degrees of the crank: the body turns half of it."""
    far = _one_place(crank * edge) if edge is not None else ""
    return words.replace("[body]", _one_place(crank / 2)).replace("[edge]", far)


def _one_place(value: float) -> str:
    """A number with one place; a half goes up, as on the tablet."""
    return format_number(floor(value * 10 + 0.5 + 1e-9) / 10, 1)
