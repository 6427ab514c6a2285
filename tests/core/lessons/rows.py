"""Rows as signed runs leave them, for tests of what is learnt from them."""

from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import UUID

from eldrim.core.lessons.digest import MarkRow, RunDigest, Signed, StepRow, ValueRow
from eldrim.core.lessons.parts import PartLife

BEGUN = datetime(2025, 1, 6, 8, tzinfo=UTC)


def signed(number: int, **rows: Any) -> Signed:
    """Run number so many, a week after the one before."""
    found = RunDigest(planned=60.0, took=60.0, **{"steps": (), **rows})
    return Signed(
        run=UUID(int=number),
        at=BEGUN + timedelta(weeks=number),
        unit=f"tug-{number % 3}",
        engine="marlet-34-v6",
        edition=UUID(int=1),
        procedure=UUID(int=2),
        title="Plug 5",
        by="tam",
        digest=found,
    )


def step(key: str, planned: float, took: float | None, *marks: MarkRow) -> StepRow:
    """One step of a run."""
    return StepRow(step=key, planned=planned, took=took, marks=marks)


def mark(kind: str, reason: str = "", by: str = "tam") -> MarkRow:
    """Something marked at a step."""
    return MarkRow(kind=kind, reason=reason, words=reason, by=by)


def value(number: float, place: str = "in", reading: str = "torque", **more: Any) -> ValueRow:
    """A number written down, in a window of 15 to 20 N·m."""
    about = {"operation": "torque/plug", "label": reading, "low": 15.0, "high": 20.0, "unit": "N·m"}
    return ValueRow(value=number, place=place, reading=reading, **{**about, **more})


def life(  # noqa: PLR0913 - a life is so many facts, each by name
    ran: float | None,
    *,
    failed: bool = False,
    day: int = 0,
    number: str = "P-1",
    unit: str = "tug-1",
    hole: str = "1",
    thing: str = "plug",
    out: bool = True,
    grown: float | None = None,
) -> PartLife:
    """One thing that was fitted on a day and ran so far."""
    fitted = date(2025, 1, 1) + timedelta(days=day)
    return PartLife(
        unit=unit,
        thing=thing,
        hole=hole,
        number=number,
        run=UUID(int=day + 1),
        fitted=fitted,
        counts="h",
        ran=ran,
        failed=failed,
        out=fitted + timedelta(days=200) if out else None,
        grown=grown,
        grown_over=ran,
    )
