"""Where the meter stands when a gap leaves its range, as a span: from the gaps found so far."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

# What a gap is measured to, one standard deviation, in mm.
MEASURED_TO_MM = 0.015
# Nine in ten lie between, for so many degrees of freedom; beyond, those of the normal law.
_T = {1: 6.31, 2: 2.92, 3: 2.35, 4: 2.13, 5: 2.02, 6: 1.94, 7: 1.89, 8: 1.86}
_NORMAL = 1.65
# A gap that grows slower than this in mm for all it ran tells of no wear yet.
LEAST_GROWN_MM = 0.02

Found = tuple[float, float]


@dataclass(frozen=True)
class Crossing:
    """Where a gap leaves its range: likely, and between which readings of the meter.

    ``last`` is None where it may never. ``out`` tells that it has left it. ``points`` is how many
    measurements it rests on.
    """

    likely: float
    first: float
    last: float | None
    points: int
    out: bool = False


def crossing(found: Sequence[Found], limit: float, *, seen: bool = True) -> Crossing | None:
    """Where a gap crosses its limit, of (meter, gap in mm) since it was fitted, in order.

    ``seen`` tells that the last of them was measured on this plug, so that it may be out already;
    else they are the wear of the set before, carried on. None where less than two measurements are
    there, or it has not grown. Nine in ten simulated wears cross within the span.
    """
    if len(found) < 2 or found[-1][0] <= found[0][0]:
        return None
    if seen and found[-1][1] > limit + 1e-9:
        return Crossing(found[-1][0], found[-1][0], found[-1][0], len(found), out=True)
    meters, gaps = [meter for meter, _ in found], [gap for _, gap in found]
    middle, mean = sum(meters) / len(meters), sum(gaps) / len(gaps)
    wide = sum((meter - middle) ** 2 for meter in meters)
    rate = sum((m - middle) * (g - mean) for m, g in found) / wide
    if rate * (meters[-1] - meters[0]) < LEAST_GROWN_MM:
        return None
    error = _error(found, middle, mean, rate)
    first, last = _between(limit - mean, rate, error, len(found), wide)
    likely = middle + (limit - mean) / rate
    return Crossing(likely, middle + first, None if last is None else middle + last, len(found))


def _between(
    left: float, rate: float, error: float, count: int, wide: float
) -> tuple[float, float | None]:
    """Between which distances from the middle a line with these errors has grown by ``left``.

    The line is off by error × √(1/count + x²/wide) at x: where it meets the limit all the same is
    a quadratic in x (Fieller).
    """
    square = rate * rate - error * error / wide
    constant = left * left - error * error / count
    root = math.sqrt(max(0.0, (rate * left) ** 2 - square * constant))
    if square <= 0:
        # So flat a line may never meet it: only the near end is known.
        return constant / (rate * left + root) if rate * left + root > 0 else 0.0, None
    return (rate * left - root) / square, (rate * left + root) / square


def _error(found: Sequence[Found], middle: float, mean: float, rate: float) -> float:
    """How far a measurement is off the line, for nine in ten."""
    free = len(found) - 2
    if free < 1:
        return _NORMAL * MEASURED_TO_MM
    off = sum((gap - mean - rate * (meter - middle)) ** 2 for meter, gap in found)
    sigma = math.sqrt(off / free)
    # Few points lie on a line by chance: the gauge is never better than it is.
    return max(_NORMAL * MEASURED_TO_MM, min(_T.get(free, _NORMAL) * sigma, 4 * sigma))
