"""The log: signed runs by when they were signed; all, or of a unit, a person or a time."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, func, select
from sqlalchemy.orm import Session

from eldrim.core.run.entries import EntryKind
from eldrim.store.tables import EditionRow, EntryRow, ProcedureRow, RunRow

# What makes a run worth a second look, by the kind of the entry.
MARKS = (EntryKind.STOP, EntryKind.SKIP, EntryKind.DEVIATION, EntryKind.OVER, EntryKind.DIFFERS)


@dataclass(frozen=True)
class LogFilter:
    """Which runs are asked for; what is empty asks for all. Days are of the shop's zone."""

    unit: str = ""
    by: str = ""
    job: UUID | None = None
    since: date | None = None
    until: date | None = None
    marked: bool = False


def signed_runs(
    session: Session, wanted: LogFilter, zone: ZoneInfo, *, page: int = 1, size: int = 50
) -> Sequence[RunRow]:
    """A page of the signed runs that fit, the one signed last first."""
    query = _fitting(select(RunRow).where(RunRow.signed_at.is_not(None)), wanted, zone)
    query = query.order_by(RunRow.signed_at.desc(), RunRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def _fitting(query: Select[RunRow], wanted: LogFilter, zone: ZoneInfo) -> Select[RunRow]:
    kind = EntryRow.body["kind"].astext
    marks: ColumnElement[bool] = kind.in_(MARKS)
    tests: list[ColumnElement[bool]] = []
    if wanted.unit:
        tests.append(RunRow.unit_id == wanted.unit)
    if wanted.by:
        wrote = select(EntryRow.run_id).where(EntryRow.by == wanted.by)
        tests.append((RunRow.by == wanted.by) | RunRow.id.in_(wrote))
    if wanted.job:
        of_job = select(EditionRow.id).where(EditionRow.procedure_id == wanted.job)
        tests.append(RunRow.edition_id.in_(of_job))
    if wanted.since:
        tests.append(RunRow.signed_at >= datetime.combine(wanted.since, time(), zone))
    if wanted.until:
        after = datetime.combine(wanted.until + timedelta(days=1), time(), zone)
        tests.append(RunRow.signed_at < after)
    if wanted.marked:
        tests.append(RunRow.id.in_(select(EntryRow.run_id).where(marks)) | RunRow.unfinished)
    return query.where(*tests)


def marks_of(session: Session, keys: Sequence[UUID]) -> dict[UUID, dict[str, int]]:
    """How many marks of each kind each of these runs has."""
    kind = EntryRow.body["kind"].astext
    query = select(EntryRow.run_id, kind, func.count()).where(
        EntryRow.run_id.in_(keys), kind.in_(MARKS)
    )
    found: dict[UUID, dict[str, int]] = {}
    for run, mark, count in session.execute(query.group_by(EntryRow.run_id, kind)):
        found.setdefault(run, {})[mark] = count
    return found


def jobs(session: Session) -> Sequence[ProcedureRow]:
    """The procedures that were ever released, by their titles."""
    released = select(EditionRow.procedure_id)
    query = select(ProcedureRow).where(ProcedureRow.id.in_(released))
    return session.scalars(query.order_by(ProcedureRow.title, ProcedureRow.id)).all()
