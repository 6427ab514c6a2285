"""The life of a unit as its signed runs tell it: gaps hole by hole, voltages, what was done."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from uuid import UUID

from eldrim.core.interval.wear_forecast import Crossing
from eldrim.core.operations import Operation
from eldrim.core.run.fitted import Fitted, Fitting, fitted, fitted_in
from eldrim.core.run.gaps import gap_crossings, gaps_in
from eldrim.core.run.history import Past, number
from eldrim.core.step_key import StepKey

VOLTS = (StepKey(Operation.MEASURE_BATTERY), "volts")


@dataclass(frozen=True)
class Moment:
    """One signed run: which, when, where the meter stood."""

    run: UUID
    day: date
    meter: float


@dataclass(frozen=True)
class Gap:
    """A gap in mm, as it was found or as it was left in a new plug."""

    at: Moment
    gap: float
    new: bool


@dataclass(frozen=True)
class Worked:
    """A run as a mark on the axis: its job."""

    at: Moment
    job: str
    plugs: bool


@dataclass(frozen=True)
class Volts:
    """The battery at rest."""

    at: Moment
    volts: float


@dataclass(frozen=True)
class UnitLife:
    """All of it, oldest first. ``sets`` are the gaps of each plug that was in a hole, by hole;
    ``low`` and ``high`` the range gaps are held to, ``rest`` the least a battery should have.
    """

    sets: dict[str, list[list[Gap]]] = field(default_factory=dict)
    worked: tuple[Worked, ...] = ()
    volts: tuple[Volts, ...] = ()
    low: float | None = None
    high: float | None = None
    rest: float | None = None
    crossings: dict[str, Crossing] = field(default_factory=dict)
    fitted: dict[Fitting, Fitted] = field(default_factory=dict)


def unit_life(runs: Sequence[Past]) -> UnitLife:
    """What the signed runs of a unit tell, of runs newest first; those without a meter are left
    out.
    """
    sets: dict[str, list[list[Gap]]] = {}
    worked, volts, limits, rest = [], [], list[tuple[float, float]](), None
    for past in reversed(runs):
        if past.meter is None:
            continue
        at = Moment(past.run, past.at.date(), past.meter)
        new = {hole for thing, hole in fitted_in(past) if thing == "plug"}
        for hole, found, left, span in gaps_in(past):
            mine = sets.setdefault(hole, [])
            if found is not None:
                mine[-1:] = [[*(mine[-1] if mine else []), Gap(at, found, new=False)]]
            if hole in new:
                mine.append([Gap(at, left, new=True)] if left is not None else [])
            limits += [span] if span is not None else []
        worked.append(Worked(at, past.plan.title, bool(new)))
        value = number(past.state, VOLTS)
        if value is not None:
            volts.append(Volts(at, value))
        rest = _rest(past) or rest
    low, high = limits[-1] if limits else (None, None)
    return UnitLife(
        sets={hole: [one for one in mine if one] for hole, mine in sets.items() if any(mine)},
        worked=tuple(worked),
        volts=tuple(volts),
        low=low,
        high=high,
        rest=rest,
        crossings=gap_crossings(runs),
        fitted=fitted(runs),
    )


def _rest(past: Past) -> float | None:
    """The least the battery should have at rest, as the run's edition said."""
    for step in past.plan.steps:
        if step.key.operation is Operation.MEASURE_BATTERY:
            return next((r.low for r in step.readings if r.key == "volts"), None)
    return None
