"""Runs and their entries. Whether an entry is admitted is decided by the core, under a row lock."""

from collections.abc import Sequence
from threading import Lock
from uuid import UUID

from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import Session

from eldrim.core.language import speaking
from eldrim.core.procedure.model import SIGNING, Plan
from eldrim.core.run.admission import admit
from eldrim.core.run.due import Signed
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.state import RunState, fold, with_entry
from eldrim.store.edition_store import edition, plan_of
from eldrim.store.errors import ConflictError, get_or_404
from eldrim.store.releases import withdrawal
from eldrim.store.tables import EditionRow, EntryRow, RunRow
from eldrim.store.unit_store import unit


def start(
    session: Session, key: UUID, edition_id: UUID, unit_id: str, by: str, bay: str = ""
) -> RunRow:
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
        .values(id=key, edition_id=edition_id, unit_id=unit_id, by=by, bay=bay)
        .on_conflict_do_nothing()
    )
    return run(session, key)


def run(session: Session, key: UUID) -> RunRow:
    """One run with its edition and unit."""
    return get_or_404(session, RunRow, key, "There is no such run.")


def entries(session: Session, key: UUID) -> list[Recorded]:
    """All entries of a run in the order of acceptance."""
    rows = session.scalars(select(EntryRow).where(EntryRow.run_id == key).order_by(EntryRow.seq))
    return [_recorded(row) for row in rows]


# Entries are only ever added, so a fold goes on from where it was.
_folded: LRUCache[UUID, tuple[int, RunState]] = LRUCache(256)
_folded_lock = Lock()
WROTE = "wrote entries"


def state(session: Session, key: UUID) -> RunState:
    """What holds in a run now."""
    with _folded_lock:
        seq, now = _folded.get(key, (0, RunState()))
    query = select(EntryRow).where(EntryRow.run_id == key, EntryRow.seq > seq)
    for row in session.scalars(query.order_by(EntryRow.seq)):
        seq, now = row.seq, with_entry(now, _recorded(row))
    # What this transaction wrote may yet be undone: only what others can see is kept.
    if not session.info.get(WROTE):
        with _folded_lock:
            _folded[key] = (seq, now)
    return now


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
        if before.run_id != key or Entry.model_validate(before.body) != entry:
            raise ConflictError("This entry's id is already used for something else.")
        return state(session, key)
    now = state(session, key)
    plan = plan_of(row.edition)
    with speaking(plan.job.language):
        admit(plan, now, entry, role, row.unit.serial)
    kept = EntryRow(id=entry.id, run_id=key, body=body, by=by, role=role.value)
    session.add(kept)
    session.info[WROTE] = True
    if entry.kind in (EntryKind.SIGN, EntryKind.END):
        row.signed_at = session.scalar(select(func.clock_timestamp()))
        row.unfinished = entry.kind is EntryKind.END
    session.flush()
    return with_entry(now, Recorded(entry=entry, by=by, role=role, at=kept.at))


def recent(session: Session, *, signed: bool, page: int = 1, size: int = 50) -> Sequence[RunRow]:
    """A page of runs, newest first: the signed ones, or those still open."""
    wanted = RunRow.signed_at.is_not(None) if signed else RunRow.signed_at.is_(None)
    query = select(RunRow).where(wanted).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def signed(session: Session, unit: str | None = None) -> list[Signed]:
    """The newest signed run of each edition on each unit, with its state; of one unit or of all.

    Those that a lead ended unfinished are left out: nothing is due by them.
    """
    query = (
        select(RunRow)
        .where(RunRow.signed_at.is_not(None), RunRow.unfinished.is_(False))
        .ext(distinct_on(RunRow.unit_id, RunRow.edition_id))
        .order_by(RunRow.unit_id, RunRow.edition_id, RunRow.signed_at.desc())
    )
    if unit is not None:
        query = query.where(RunRow.unit_id == unit)
    rows = session.scalars(query).all()
    states = _at_signing(session, [r.id for r in rows])
    return [
        Signed(
            row.id,
            row.unit_id,
            row.unit.name,
            plan_of(row.edition).title,
            row.unit.meter,
            row.signed_at,
            states[row.id],
        )
        for row in rows
        if row.signed_at is not None
    ]


def _at_signing(session: Session, keys: list[UUID]) -> dict[UUID, RunState]:
    """What was entered at the signing step of each run: all that what is due needs of it."""
    step = EntryRow.body["step"].astext == SIGNING
    query = select(EntryRow).where(EntryRow.run_id.in_(keys), step).order_by(EntryRow.seq)
    entered: dict[UUID, list[Recorded]] = {key: [] for key in keys}
    for row in session.scalars(query):
        entered[row.run_id].append(_recorded(row))
    return {key: fold(found) for key, found in entered.items()}


def of_procedure(
    session: Session, procedure: UUID, most: int = 50
) -> list[tuple[str, Plan, list[Recorded]]]:
    """The newest runs of any edition of a procedure: unit, the edition's plan, and the entries."""
    query = (
        select(RunRow)
        .join(EditionRow)
        .where(EditionRow.procedure_id == procedure)
        .order_by(RunRow.at.desc())
        .limit(most)
    )
    rows = session.scalars(query).all()
    every: dict[UUID, list[Recorded]] = {row.id: [] for row in rows}
    asked = select(EntryRow).where(EntryRow.run_id.in_(every)).order_by(EntryRow.seq)
    for entry in session.scalars(asked):
        every[entry.run_id].append(_recorded(entry))
    return [(r.unit.name, plan_of(r.edition), every[r.id]) for r in rows]


def of_unit(session: Session, unit: str) -> Sequence[RunRow]:
    """All runs on a unit, newest first."""
    query = select(RunRow).where(RunRow.unit_id == unit).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(200)).all()


def past(session: Session, unit: str, most: int = 6) -> list[Past]:
    """The newest runs on a unit that were signed or ended, with their entries; newest first."""
    query = select(RunRow).where(RunRow.unit_id == unit, RunRow.signed_at.is_not(None))
    rows = session.scalars(query.order_by(RunRow.signed_at.desc(), RunRow.id).limit(most)).all()
    found = []
    for row in rows:
        own = entries(session, row.id)
        found.append(Past(row.id, row.signed_at or row.at, plan_of(row.edition), own, fold(own)))
    return found


def _recorded(row: EntryRow) -> Recorded:
    return Recorded(entry=Entry.model_validate(row.body), by=row.by, role=Role(row.role), at=row.at)
