"""The runs of a unit that were signed or ended, with their entries."""

from threading import Lock
from uuid import UUID

from cachetools import LRUCache, cached
from sqlalchemy import select
from sqlalchemy.orm import Session

from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.history import Past
from eldrim.core.run.state import fold_all
from eldrim.store.edition_store import plan_of
from eldrim.store.procedure_store import JOB
from eldrim.store.recorded import recorded
from eldrim.store.tables import EditionRow, EntryRow, ProcedureRow, RunRow


def entries(session: Session, key: UUID) -> list[Recorded]:
    """All entries of a run in the order of acceptance."""
    rows = session.scalars(select(EntryRow).where(EntryRow.run_id == key).order_by(EntryRow.seq))
    return [recorded(row) for row in rows]


def past(session: Session, unit: str, most: int = 6) -> list[Past]:
    """The newest runs on a unit that were signed or ended, with their entries; newest first."""
    query = select(RunRow).where(RunRow.unit_id == unit, RunRow.signed_at.is_not(None))
    rows = session.scalars(query.order_by(RunRow.signed_at.desc(), RunRow.id).limit(most)).all()
    return [_past(session, row) for row in rows]


def past_before(session: Session, row: RunRow) -> Past | None:
    """The newest run of a job on the same unit that was signed or ended before this one.

    A search for a cause is none: what its plugs were before is told by the job that fitted them.
    """
    query = (
        select(RunRow)
        .join(EditionRow, EditionRow.id == RunRow.edition_id)
        .join(ProcedureRow, ProcedureRow.id == EditionRow.procedure_id)
        .where(
            RunRow.unit_id == row.unit_id,
            RunRow.id != row.id,
            RunRow.signed_at.is_not(None),
            ProcedureRow.kind == JOB,
        )
    )
    if row.signed_at is not None:
        query = query.where(RunRow.signed_at < row.signed_at)
    before = session.scalar(query.order_by(RunRow.signed_at.desc(), RunRow.id).limit(1))
    return _past(session, before) if before else None


def past_of_run(session: Session, row: RunRow) -> Past:
    """One run that was signed or ended, with its entries."""
    return _past(session, row)


# In a signed run nothing is written any more but notes.
@cached(LRUCache(256), key=lambda _, row: (row.id, row.signed_at, _notes(row)), lock=Lock())
def _past(session: Session, row: RunRow) -> Past:
    own = entries(session, row.id)
    return Past(row.id, row.signed_at or row.at, plan_of(row.edition), own, fold_all(own))


def forget_past() -> None:
    """Read every run anew: a restored database may have the same run with other notes."""
    _past.cache_clear()


def _notes(row: RunRow) -> int:
    return int(row.marks.get(EntryKind.NOTE.value, 0))
