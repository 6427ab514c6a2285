"""When a hot engine may be worked on, and how long a cold one idles (docs/craft.md §11)."""

import math

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.words.messages import gettext

# Below this difference in kelvin two readings are one reading: the constant would be noise.
MIN_FALL_KELVIN = 1.0
# Minutes of idling that bring a head to hand-warm, by the air in °C (shop practice).
IDLE_MINUTES = ((15.0, 1.0), (5.0, 2.0), (-273.0, 3.0))


class Cooling(Frozen):
    """A cooling engine. Minutes count from the first reading; temperatures in °C.

    ``constant`` is Newton's, per minute; ``ready`` the minute at which the limit is reached;
    ``wait`` what is left of it from the second reading; ``points`` draw the curve.
    """

    constant: float
    ready: float
    wait: float
    air: float
    limit: float
    readings: tuple[tuple[float, float], tuple[float, float]]
    points: tuple[tuple[float, float], ...]
    sum: tuple[str, ...]


def cooling(
    first: float, second: float, minutes: float, air: float, limit: float = 40.0
) -> Cooling:
    """Return when an engine that read ``first`` °C, then ``second`` °C ``minutes`` later, is ready.

    Newton: the difference to the air falls by the same share each minute. Raises
    :class:`ProblemsError` where the readings tell nothing or the air is no cooler than the limit.
    """
    problems = _problems(first, second, minutes, air, limit)
    if problems:
        raise ProblemsError(problems)
    constant = math.log((first - air) / (second - air)) / minutes
    ready = max(math.log((first - air) / (limit - air)) / constant, 0.0)
    wait = max(ready - minutes, 0.0)
    said = {"first": _n(first), "air": _n(air), "constant": format_number(constant, 4)}
    return Cooling(
        constant=round(constant, 6),
        ready=round(ready, 1),
        wait=round(wait, 1),
        air=air,
        limit=limit,
        readings=((0.0, first), (minutes, second)),
        points=_curve(first, air, constant, max(ready, minutes) * 1.15),
        sum=(
            gettext(
                "k = ln(({first} − {air}) ÷ ({second} − {air})) ÷ {minutes} = {constant} per "
                "minute",
                **said,
                second=_n(second),
                minutes=_n(minutes),
            ),
            gettext(
                "t = ln(({first} − {air}) ÷ ({limit} − {air})) ÷ {constant} = {ready} min from the "
                "first reading",
                **said,
                limit=_n(limit),
                ready=_n(ready),
            ),
        ),
    )


def _n(value: float) -> str:
    return format_number(value, 1)


def _problems(
    first: float, second: float, minutes: float, air: float, limit: float
) -> list[Problem]:
    found = []
    if minutes <= 0:
        found.append(
            Problem(
                "minutes", gettext("no time lies between the readings"), gettext("wait ten minutes")
            )
        )
    if first - second < MIN_FALL_KELVIN:
        found.append(
            Problem(
                "second",
                gettext("it has not cooled by a degree yet"),
                gettext("read again ten minutes later"),
            )
        )
    if second <= air:
        found.append(
            Problem(
                "air", gettext("the air is as warm as the engine"), gettext("read the air again")
            )
        )
    if limit <= air:
        found.append(
            Problem(
                "limit",
                gettext(
                    "the air at {air} °C never lets it fall to {limit} °C",
                    air=_n(air),
                    limit=_n(limit),
                ),
                gettext("wait for cooler air, or ask who sets the limit"),
            )
        )
    return found


def _curve(
    first: float, air: float, constant: float, until: float
) -> tuple[tuple[float, float], ...]:
    times = [until * i / 40 for i in range(41)]
    return tuple(
        (round(time, 2), round(air + (first - air) * math.exp(-constant * time), 2))
        for time in times
    )


def idle_minutes(air: float) -> float:
    """Return how long a cold engine idles to be slightly warm, by the air in °C."""
    return next(minutes for least, minutes in IDLE_MINUTES if air >= least)
