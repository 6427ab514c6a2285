"""When work on a unit is due again: what was set at the signing of its runs."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from uuid import UUID

from eldrim.core.procedure.model import SIGNING
from eldrim.core.run.state import RunState

NEXT_DATE, NEXT_METER, RECHECK = "next_due", "next_meter", "recheck"


@dataclass(frozen=True)
class Signed:
    """A signed run, as far as what is due needs it."""

    run: UUID
    unit: str
    unit_name: str
    job: str
    meter_unit: str
    at: datetime
    state: RunState


class DueKind(StrEnum):
    """What is due: the work again, or an early look at it."""

    WORK = "due"
    RECHECK = "recheck"


@dataclass(frozen=True)
class Due:
    """Work due: by a day, by a reading of the meter, or both; whichever comes first."""

    run: UUID
    unit: str
    unit_name: str
    kind: DueKind
    what: str
    on: date | None
    meter: float | None
    meter_unit: str
    set_at: datetime

    def overdue(self, today: date) -> bool:
        """Whether its day has passed."""
        return self.on is not None and self.on < today


def due(runs: Iterable[Signed]) -> tuple[Due, ...]:
    """What is due, soonest first; a later run of the same job on a unit sets it anew."""
    latest: dict[tuple[str, str], Signed] = {}
    for run in sorted(runs, key=lambda r: (r.at, str(r.run))):
        latest[run.unit, run.job] = run
    found = [d for run in latest.values() for d in _dues_of(run)]
    return tuple(sorted(found, key=lambda d: (d.on or date.max, d.unit_name, d.what)))


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
    return [d for d in every if d.on is not None or d.meter is not None]


def _day(value: float | str | None) -> date | None:
    return date.fromisoformat(value) if isinstance(value, str) else None
