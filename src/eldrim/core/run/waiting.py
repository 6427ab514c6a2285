"""Too hot to start: when it will not be, by the step's own readings (docs/craft.md §11)."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from eldrim.core.base.errors import ProblemsError
from eldrim.core.figures.cooling import MIN_FALL_KELVIN, Cooling, cooling
from eldrim.core.procedure.model import AIR, Reading, Step
from eldrim.core.run.entries import Recorded
from eldrim.core.run.state import RunState

# Long enough for a head to fall by more than a thermometer's error.
READ_AGAIN = timedelta(minutes=10)
# Two readings nearer than this tell the thermometer, not the engine.
LEAST_APART_MINUTES = 2.0
Lacks = Literal["", "second", "air", "never"]


@dataclass(frozen=True)
class Waiting:
    """What is waited for at a step.

    ``seen`` is every (time, value) read meanwhile; ``lacks`` what is missing to say when: a
    ``second`` reading that has fallen, the ``air``, or that it ``never`` gets there by itself;
    ``cold`` that the last reading lies under its window. From ``ready`` on it is inside, to
    ``until`` where it cools out of it again. ``curve`` draws it, minutes from the hottest reading.
    """

    reading: Reading
    seen: tuple[tuple[datetime, float], ...]
    lacks: Lacks = ""
    cold: bool = False
    ready: datetime | None = None
    until: datetime | None = None
    curve: Cooling | None = None

    @property
    def again(self) -> datetime:
        """When to read again, where it cannot be said yet when to start."""
        return self.seen[-1][0] + READ_AGAIN


def waiting(step: Step, state: RunState) -> Waiting | None:
    """What is waited for at ``step``; None when nothing is."""
    reading = next((r for r in step.readings if r.awaited), None)
    if reading is None or (step.key, reading.key) in state.values:
        return None
    seen = tuple(_seen(r) for r in state.watched.get((step.key, reading.key), ()))
    if not seen:
        return None
    if reading.low is not None and seen[-1][1] < reading.low:
        return Waiting(reading, seen, cold=True)
    return _cooling(reading, seen, _air(step, state))


def _seen(recorded: Recorded) -> tuple[datetime, float]:
    value = recorded.entry.value
    return recorded.written, float(value) if value is not None else 0.0


def _air(step: Step, state: RunState) -> float | None:
    had = state.values.get((step.key, AIR))
    return float(had.entry.value) if had and had.entry.value is not None else None


def _cooling(
    reading: Reading, seen: tuple[tuple[datetime, float], ...], air: float | None
) -> Waiting:
    # An engine that ran again meanwhile cools from its hottest reading.
    start, first = max(seen, key=lambda s: (s[1], s[0]))
    end, last = seen[-1]
    minutes = (end - start).total_seconds() / 60
    if first - last < MIN_FALL_KELVIN or minutes < LEAST_APART_MINUTES:
        return Waiting(reading, seen, "second")
    if air is None:
        return Waiting(reading, seen, "air")
    try:
        curve = cooling(first, last, minutes, air, reading.high or 0.0)
    except ProblemsError:
        return Waiting(reading, seen, "never")
    until = None
    if reading.low is not None and air < reading.low:
        until = start + timedelta(minutes=cooling(first, last, minutes, air, reading.low).ready)
    ready = start + timedelta(minutes=curve.ready)
    return Waiting(reading, seen, ready=ready, until=until, curve=curve)
