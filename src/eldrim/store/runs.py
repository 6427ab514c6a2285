"""Runs and their entries. Whether an entry is admitted is decided by the core, under a row lock."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.state import RunState, admit, fold
from eldrim.store.errors import ConflictError, NotFoundError
from eldrim.store.library import edition, plan_of, unit
from eldrim.store.releases import withdrawal
from eldrim.store.tables import EntryRow, RunRow


def start(session: Session, key: UUID, edition_id: UUID, unit_id: str, by: str) -> RunRow:
    """Start a run of an edition on a unit; the same ``key`` again returns the same run.

    Raises :class:`ConflictError` when the edition is for another engine or variant than the
    unit's: the wrong sheet is the first mistake to make impossible.
    """
    plan, machine = plan_of(edition(session, edition_id)), unit(session, unit_id)
    if (plan.engine, plan.variant) != (machine.engine_id, machine.variant):
        raise ConflictError(
            f"{machine.name} has another engine or variant than this edition is for: "
            f"{plan.engine_name}, {plan.variant_name}."
        )
    gone = withdrawal(session, edition_id)
    if gone is not None and session.get(RunRow, key) is None:
        raise ConflictError(f"This edition was withdrawn: {gone.reason}. No run starts on it.")
    session.execute(
        insert(RunRow)
        .values(id=key, edition_id=edition_id, unit_id=unit_id, by=by)
        .on_conflict_do_nothing()
    )
    return run(session, key)


def run(session: Session, key: UUID) -> RunRow:
    """One run with its edition and unit."""
    row = session.get(RunRow, key)
    if row is None:
        raise NotFoundError("There is no such run.")
    return row


def entries(session: Session, key: UUID) -> list[Recorded]:
    """All entries of a run in the order of acceptance."""
    rows = session.scalars(select(EntryRow).where(EntryRow.run_id == key).order_by(EntryRow.seq))
    return [_recorded(r) for r in rows]


def state(session: Session, key: UUID) -> RunState:
    """What holds in a run now."""
    return fold(entries(session, key))


def add(session: Session, key: UUID, entry: Entry, by: str, role: Role) -> RunState:
    """Add an entry and return the new state; an entry already there changes nothing.

    Raises :class:`~eldrim.core.errors.RunError` when the core refuses it, :class:`ConflictError`
    when its id already names an entry of another run or with other content.
    """
    session.execute(select(RunRow.id).where(RunRow.id == key).with_for_update())
    row = run(session, key)
    before = session.get(EntryRow, entry.id)
    body = entry.model_dump(mode="json", exclude_defaults=True)
    if before is not None:
        if before.run_id != key or before.body != body:
            raise ConflictError("This entry's id is already used for something else.")
        return state(session, key)
    admit(plan_of(row.edition), state(session, key), entry, role)
    session.add(EntryRow(id=entry.id, run_id=key, body=body, by=by, role=role.value))
    if entry.kind is EntryKind.SIGN:
        row.signed_at = session.scalar(select(func.clock_timestamp()))
    session.flush()
    return state(session, key)


def recent(session: Session, *, signed: bool, page: int = 1, size: int = 50) -> Sequence[RunRow]:
    """A page of runs, newest first: the signed ones, or those still open."""
    wanted = RunRow.signed_at.is_not(None) if signed else RunRow.signed_at.is_(None)
    query = select(RunRow).where(wanted).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def _recorded(row: EntryRow) -> Recorded:
    return Recorded(entry=Entry.model_validate(row.body), by=row.by, role=Role(row.role), at=row.at)
