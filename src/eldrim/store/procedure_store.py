"""Drafts of procedures: their edits, and where they depart from the house rules."""

from collections.abc import Sequence
from uuid import UUID, uuid4

from pydantic import TypeAdapter
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.job import Job
from eldrim.core.procedure.edits import Edit
from eldrim.core.rules.house import Departure
from eldrim.store.errors import ConflictError, EditConflictError, get_or_404
from eldrim.store.tables import ProcedureRow

_edits = TypeAdapter(dict[str, Edit])
_departures = TypeAdapter(dict[str, Departure])


def languages_of(session: Session, row: ProcedureRow) -> dict[str, UUID]:
    """The drafts of the same job on the same engine in other languages, by language."""
    rows = session.scalars(
        select(ProcedureRow)
        .where(ProcedureRow.engine_id == row.engine_id)
        .order_by(ProcedureRow.at.desc())
    )
    same = {**row.job, "language": ""}
    return {
        r.job.get("language", "en"): r.id
        for r in rows
        if {**r.job, "language": ""} == same and r.id != row.id
    }


def add_procedure(session: Session, engine: Engine, job: Job, by: str) -> UUID:
    """Start a procedure for a job; its draft is the compiled plan with no edits.

    A draft of the same job that this person began and nobody has touched yet is taken up again.
    """
    asked = job.model_dump(mode="json")
    untouched = select(ProcedureRow).where(
        ProcedureRow.engine_id == engine.id,
        ProcedureRow.by == by,
        ProcedureRow.version == 1,
        ~ProcedureRow.editions.any(),
    )
    for row in session.scalars(untouched):
        if row.job == asked and not row.edits and not row.departures:
            return row.id
    row = ProcedureRow(
        id=uuid4(),
        engine_id=engine.id,
        title=job.title,
        job=asked,
        edits={},
        version=1,
        by=by,
        at=func.clock_timestamp(),
    )
    session.add(row)
    return row.id


def procedure(session: Session, key: UUID) -> ProcedureRow:
    """One procedure with its editions."""
    return get_or_404(session, ProcedureRow, key, "There is no such procedure.")


def procedures(session: Session, page: int = 1, size: int = 50) -> Sequence[ProcedureRow]:
    """A page of procedures, newest first."""
    query = select(ProcedureRow).order_by(ProcedureRow.at.desc(), ProcedureRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def of_engine(session: Session, engine: str) -> Sequence[ProcedureRow]:
    """The procedures of an engine, the oldest first."""
    query = select(ProcedureRow).where(ProcedureRow.engine_id == engine)
    return session.scalars(query.order_by(ProcedureRow.at)).all()


def edits_of(row: ProcedureRow) -> dict[str, Edit]:
    """The draft's edits by step key."""
    return _edits.validate_python(row.edits)


def save_edit(session: Session, key: UUID, step: str, edit: Edit, base: Edit) -> None:
    """Keep one edit, made on ``base``; edits of other steps by other people do not matter.

    Raises :class:`EditConflictError` when the step's edit is no longer ``base``.
    """
    row = locked_draft(session, key)
    edits = edits_of(row)
    now = edits.pop(step, Edit())
    if now != base:
        raise EditConflictError(step, now)
    if not edit.empty:
        edits[step] = edit
    _change_draft(session, row, edits=_edits.dump_python(edits, mode="json"))


def replace_draft(
    session: Session, key: UUID, edits: dict[str, Edit], departures: dict[str, Departure] | None
) -> None:
    """Put other edits in the place of a draft's, and other departures unless None."""
    row = locked_draft(session, key)
    values: dict[str, object] = {"edits": _edits.dump_python(edits, mode="json")}
    if departures is not None:
        values["departures"] = _departures.dump_python(departures, mode="json")
    _change_draft(session, row, **values)


def locked_draft(session: Session, key: UUID) -> ProcedureRow:
    """The draft, with nobody else changing it until the transaction ends."""
    row = procedure(session, key)
    session.refresh(row, with_for_update=True)
    return row


def departures_of(row: ProcedureRow) -> dict[str, Departure]:
    """Where the procedure departs from the house rules, by topic."""
    return _departures.validate_python(row.departures)


def save_departure(
    session: Session, key: UUID, topic: str, departure: Departure | None, base: Departure | None
) -> None:
    """Depart from a rule on one topic, or follow it again with None; guarded as edits are."""
    row = locked_draft(session, key)
    kept = departures_of(row)
    now = kept.pop(topic, None)
    if now != base:
        said = f"depart, because: {now.reason}" if now else "follow the house"
        raise ConflictError(
            f"Somebody else settled this topic meanwhile, to {said}. Nothing was overwritten; "
            "open the draft again and put yours in."
        )
    if departure is not None:
        kept[topic] = departure
    _change_draft(session, row, departures=_departures.dump_python(kept, mode="json"))


def _change_draft(session: Session, row: ProcedureRow, **values: object) -> None:
    """Write what is changed; ``version`` counts the changes, for approval and release."""
    for name, value in {**values, "version": row.version + 1}.items():
        setattr(row, name, value)
    session.flush()


def open_review(session: Session, key: UUID, why: str) -> None:
    """Open a draft for review because something changed underneath; a release closes it."""
    locked_draft(session, key).review = why[:200]
    session.flush()
