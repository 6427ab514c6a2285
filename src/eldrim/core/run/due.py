"""When work on a unit is due again: what was set at the signing of its runs."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import StrEnum
from uuid import UUID

from eldrim.core.procedure.model import CONFIRMING, SIGNING
from eldrim.core.rules.house import DEFAULT_RECHECK, Recheck
from eldrim.core.run.readings import METERS
from eldrim.core.run.state import RunState

NEXT_DATE, RECHECK = "next_due", "recheck"
METER, NEXT_METER = METERS


class DueKind(StrEnum):
    """What is due: the work again, an early look at it, what was left out of it, what its plugs
    ask to be looked after; or what is foreseen by an interval, or by the wear of a gap.
    """

    WORK = "due"
    RECHECK = "recheck"
    NOT_DONE = "not_done"
    FOLLOW_UP = "follow_up"
    INTERVAL = "interval"
    WEAR = "wear"


@dataclass(frozen=True)
class Signed:
    """A signed run, as far as what is due needs it; ``withdrawn`` is what of it is due no more.

    ``left_out`` is what was not done, in words by its step's key; ``done`` names the steps done.
    ``follow_ups`` is what the plugs or a proven repair ask for, in words by the key of their step;
    after ``recheck`` they are looked at.
    """

    run: UUID
    unit: str
    unit_name: str
    job: str
    meter_unit: str
    at: datetime
    state: RunState
    withdrawn: frozenset[DueKind] = frozenset()
    left_out: Mapping[str, str] = field(default_factory=dict)
    done: frozenset[str] = frozenset()
    follow_ups: Mapping[str, str] = field(default_factory=dict)
    recheck: Recheck = DEFAULT_RECHECK


@dataclass(frozen=True)
class Due:
    """Work due: by a day, by a reading of the meter, or both; whichever comes first.

    Of what is foreseen ``on`` is likely, between ``first`` and ``until``; ``thing`` is due at the
    cylinders ``at``, ``why`` says by what; ``band``: no maker states it, ``looks``: it is only
    looked at.
    """

    run: UUID
    unit: str
    unit_name: str
    kind: DueKind
    what: str
    on: date | None
    meter: float | None
    meter_unit: str
    set_at: datetime
    first: date | None = None
    until: date | None = None
    thing: str = ""
    at: tuple[int, ...] = ()
    why: str = ""
    band: bool = False
    looks: bool = False
    place: str = ""
    engine: str = ""
    variant: str = ""

    @property
    def is_foreseen(self) -> bool:
        """Whether it follows from an interval or from wear, not from a signing."""
        return self.kind in (DueKind.INTERVAL, DueKind.WEAR)

    def overdue(self, today: date) -> bool:
        """Whether its day has passed, and of what is foreseen its last likely day."""
        day = self.until or self.on
        return day is not None and day < today


def meter_now(state: RunState) -> float | None:
    """Where the meter stood in a run; None where it was not read."""
    had = state.values.get((CONFIRMING, METER))
    value = had.entry.value if had else None
    return float(value) if isinstance(value, int | float) else None


def due(runs: Iterable[Signed]) -> tuple[Due, ...]:
    """What is due, soonest first.

    A later run of the same job on a unit sets it anew where it says so; where it says nothing,
    what is due stays until it was done on or after its day, or at its meter. What was left out
    stays until a later run on the unit does that step, of whatever job; what the plugs ask for
    until they are read again.
    """
    standing: dict[tuple[str, str, DueKind], Due] = {}
    for run in sorted(runs, key=lambda r: (r.at, str(r.run))):
        for kind in (DueKind.WORK, DueKind.RECHECK):
            place = (run.unit, run.job, kind)
            if place in standing and _done_by(standing[place], run):
                del standing[place]
        for step in (*run.done, *run.left_out):
            standing.pop((run.unit, step, DueKind.NOT_DONE), None)
        for step in (*run.done, *run.follow_ups):
            standing.pop((run.unit, step, DueKind.FOLLOW_UP), None)
        standing |= {(run.unit, run.job, d.kind): d for d in _dues_of(run)}
        standing |= {(run.unit, step, d.kind): d for step, d in _not_done(run).items()}
        standing |= {(run.unit, step, d.kind): d for step, d in _follow_ups(run).items()}
    return tuple(sorted(standing.values(), key=lambda d: (d.on or date.max, d.unit_name, d.what)))


def _done_by(due_before: Due, run: Signed) -> bool:
    """Whether a run came when the work was due, by its day or by its meter."""
    stands = meter_now(run.state)
    by_day = due_before.on is not None and run.at.date() >= due_before.on
    by_meter = due_before.meter is not None and stands is not None and stands >= due_before.meter
    return by_day or by_meter


def _dues_of(run: Signed) -> list[Due]:
    def value(key: str) -> float | str | None:
        recorded = run.state.values.get((SIGNING, key))
        return recorded.entry.value if recorded else None

    def made(kind: DueKind, on: float | str | None, meter: float | str | None) -> Due:
        return Due(
            run=run.run,
            unit=run.unit,
            unit_name=run.unit_name,
            kind=kind,
            what=run.job if kind is DueKind.WORK else f"Re-check: {run.job}",
            on=_day(on),
            meter=float(meter) if isinstance(meter, int | float) else None,
            meter_unit=run.meter_unit,
            set_at=run.at,
        )

    every = [
        made(DueKind.WORK, value(NEXT_DATE), value(NEXT_METER)),
        made(DueKind.RECHECK, value(RECHECK), None),
    ]
    stated = [d for d in every if d.on is not None or d.meter is not None]
    return [d for d in stated if d.kind not in run.withdrawn]


def _not_done(run: Signed) -> dict[str, Due]:
    """What a run left out, by the key of its step."""
    if DueKind.NOT_DONE in run.withdrawn:
        return {}
    return {
        step: Due(
            run=run.run,
            unit=run.unit,
            unit_name=run.unit_name,
            kind=DueKind.NOT_DONE,
            what=f"Not done: {words}",
            on=None,
            meter=None,
            meter_unit=run.meter_unit,
            set_at=run.at,
        )
        for step, words in run.left_out.items()
    }


def _follow_ups(run: Signed) -> dict[str, Due]:
    """What the plugs of a run ask for, after the re-check distance where its meter was read."""
    if DueKind.FOLLOW_UP in run.withdrawn:
        return {}
    stands, far = meter_now(run.state), getattr(run.recheck, run.meter_unit, None)
    return {
        step: Due(
            run=run.run,
            unit=run.unit,
            unit_name=run.unit_name,
            kind=DueKind.FOLLOW_UP,
            what=words,
            on=None,
            meter=stands + far if stands is not None and far else None,
            meter_unit=run.meter_unit,
            set_at=run.at,
        )
        for step, words in run.follow_ups.items()
    }


def _day(value: float | str | None) -> date | None:
    return date.fromisoformat(value) if isinstance(value, str) else None
