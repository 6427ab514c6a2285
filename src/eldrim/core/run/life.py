"""The life of a unit as its signed runs tell it: gaps hole by hole, voltages, what was done."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from uuid import UUID

from eldrim.core.interval.wear_forecast import Crossing
from eldrim.core.operations import Operation
from eldrim.core.run.fitted import Fitted, Fitting, fitted, fitted_in
from eldrim.core.run.gaps import gap_crossings, gaps_in
from eldrim.core.run.history import Past, marked, number
from eldrim.core.run.readings import picked, shown
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
    """A run as a mark on the axis: its job, and what it fitted new."""

    at: Moment
    job: str
    new: tuple[str, ...]

    @property
    def plugs(self) -> bool:
        """Whether plugs were among it."""
        return "plug" in self.new


@dataclass(frozen=True)
class Volts:
    """The battery at rest."""

    at: Moment
    volts: float


@dataclass(frozen=True)
class Face:
    """How the plug of a hole looked as it was read: the first of its conditions, all in words."""

    at: Moment
    hole: str
    look: str
    words: str


@dataclass(frozen=True)
class Noted:
    """What was marked in a run, in words, and the fault codes that were read."""

    at: Moment
    words: tuple[str, ...]
    codes: tuple[str, ...]


@dataclass(frozen=True)
class UnitLife:
    """All of it, oldest first. ``sets`` are the gaps of each plug that was in a hole, by hole;
    ``low`` and ``high`` the range gaps are held to, ``rest`` the least a battery should have.
    """

    sets: dict[str, list[list[Gap]]] = field(default_factory=dict)
    worked: tuple[Worked, ...] = ()
    volts: tuple[Volts, ...] = ()
    faces: tuple[Face, ...] = ()
    noted: tuple[Noted, ...] = ()
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
    faces, noted = list[Face](), list[Noted]()
    for past in reversed(runs):
        if past.meter is None:
            continue
        at = Moment(past.run, past.at.date(), past.meter)
        fitted_now = sorted(set(fitted_in(past)))
        new = {hole for thing, hole in fitted_now if thing == "plug"}
        for hole, found, left, span in gaps_in(past):
            mine = sets.setdefault(hole, [])
            if found is not None:
                mine[-1:] = [[*(mine[-1] if mine else []), Gap(at, found, new=False)]]
            if hole in new:
                mine.append([Gap(at, left, new=True)] if left is not None else [])
            limits += [span] if span is not None else []
        things = dict.fromkeys(thing for thing, _ in fitted_now)
        worked.append(Worked(at, past.plan.title, tuple(things)))
        if (value := number(past.state, VOLTS)) is not None:
            volts.append(Volts(at, value))
        rest = _rest(past) or rest
        faces += _faces(past, at)
        noted += _noted(past, at)
    low, high = limits[-1] if limits else (None, None)
    return UnitLife(
        sets={hole: [one for one in mine if one] for hole, mine in sets.items() if any(mine)},
        worked=tuple(worked),
        volts=tuple(volts),
        faces=tuple(faces),
        noted=tuple(noted),
        low=low,
        high=high,
        rest=rest,
        crossings=gap_crossings(runs),
        fitted=fitted(runs),
    )


def _faces(past: Past, at: Moment) -> Iterator[Face]:
    """How each plug looked that was read; one nothing was picked of is left out."""
    for step in past.plan.steps:
        if step.key.operation is not Operation.READ_PLUG:
            continue
        for reading in (one for one in step.readings if one.key == "condition"):
            had = past.state.values.get((step.key, reading.key))
            if had is not None:
                value = had.entry.value
                look = picked(reading, value)[0]
                yield Face(at, step.hole or "", look, shown(reading, value))


def _noted(past: Past, at: Moment) -> Iterator[Noted]:
    """One of a run in which anything was marked or read as a code."""
    words = tuple(one.words for one in marked([past]))
    keys = {step.key for step in past.plan.steps if step.key.operation is Operation.READ_CODES}
    read = (one.entry.value for place, one in past.state.values.items() if place[0] in keys)
    codes = tuple(value for value in read if isinstance(value, str) and value.lower() not in NONE)
    if words or codes:
        yield Noted(at, words, codes)


# What is written where no code was read.
NONE = ("", "none", "keine", "-")


def _rest(past: Past) -> float | None:
    """The least the battery should have at rest, as the run's edition said."""
    for step in past.plan.steps:
        if step.key.operation is Operation.MEASURE_BATTERY:
            return next((r.low for r in step.readings if r.key == "volts"), None)
    return None
