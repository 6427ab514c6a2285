"""Limits of a reading as two closed intervals; whoever judges a value only tests membership.

Source: docs/craft.md §8. A gauge cannot tell values apart that lie closer than half its step.
"""

from typing import Literal

from eldrim.core.base.frozen import Frozen

# Numbers this close are the same number.
EPSILON = 1e-9
Interval = tuple[float | None, float | None]
Side = Literal["", "under", "over"]


class Limits(Frozen):
    """``accepted`` values may stand; those not ``certain`` too are at the limit.

    None at an end means that there is no limit there.
    """

    accepted: Interval
    certain: Interval


def limits(low: float | None, high: float | None, resolution: float = 0.0) -> Limits:
    """Return the intervals for a window from ``low`` to ``high``, read with a gauge's resolution.

    All in one unit. A window no wider than the resolution has no inside: certain is what lies
    within half a step of its middle.
    """
    half = resolution / 2
    accepted = (_moved(low, -half - EPSILON), _moved(high, half + EPSILON))
    if not resolution:
        return Limits(accepted=accepted, certain=accepted)
    if low is not None and high is not None and high - low <= resolution + EPSILON:
        middle = (low + high) / 2
        certain = (middle - half - EPSILON, middle + half + EPSILON)
        return Limits(accepted=accepted, certain=certain)
    certain_ends = (_moved(low, half - EPSILON), _moved(high, EPSILON - half))
    return Limits(accepted=accepted, certain=certain_ends)


def _moved(end: float | None, by: float) -> float | None:
    return None if end is None else end + by


def side(interval: Interval, value: float) -> Side:
    """On which side of an interval a value lies; empty when it is inside."""
    low, high = interval
    if low is not None and value < low:
        return "under"
    return "over" if high is not None and value > high else ""
