"""Drafts of procedures: their edits, and where they depart from the house rules."""

from dataclasses import replace
from typing import Literal
from uuid import UUID, uuid4

from pydantic import TypeAdapter
from sqlalchemy import ColumnElement, Text, cast, func, or_, select, true, type_coerce
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.job import Job
from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.rules.house import Departure
from eldrim.core.words.messages import gettext
from eldrim.store.errors import ConflictError, EditConflictError, get_or_404
from eldrim.store.paging import Order, Page, page_of
from eldrim.store.tables import EngineRow, ProcedureRow

# What is drafted is of a job; a search for a cause is made for one run.
JOB, SEARCH = "job", "search"
_edits = TypeAdapter(dict[str, Edit])
_departures = TypeAdapter(dict[str, Departure])


def languages_of(session: Session, row: ProcedureRow) -> dict[str, UUID]:
    """The drafts of the same job on the same engine in other languages, by language."""
    same = select(ProcedureRow).where(
        ProcedureRow.engine_id == row.engine_id,
        ProcedureRow.job_hash == row.job_hash,
        ProcedureRow.id != row.id,
        ProcedureRow.kind == row.kind,
    )
    rows = session.scalars(same.order_by(ProcedureRow.at.desc()))
    return {other.job.get("language", "en"): other.id for other in rows}


def add_procedure(session: Session, engine: Engine, job: Job, by: str) -> UUID:
    """Start a procedure for a job; its draft is the compiled plan with no edits.

    A draft of the same job that this person began and nobody has touched yet is taken up again.
    """
    asked = job.model_dump(mode="json")
    untouched = select(ProcedureRow).where(
        ProcedureRow.engine_id == engine.id,
        ProcedureRow.job_hash == _job_hash(asked),
        ProcedureRow.by == by,
        ProcedureRow.version == 1,
        ProcedureRow.kind == JOB,
        ~ProcedureRow.editions.any(),
    )
    for row in session.scalars(untouched):
        if row.job == asked and not row.edits and not row.departures:
            return row.id
    row = ProcedureRow(
        id=uuid4(),
        engine_id=engine.id,
        title=job.title(engine),
        job=asked,
        edits={},
        version=1,
        by=by,
        at=func.clock_timestamp(),
    )
    session.add(row)
    return row.id


def _job_hash(job: dict[str, object]) -> ColumnElement[str]:
    """What a job is found by again, whatever its language; worked out as its column is."""
    plain = type_coerce({k: v for k, v in job.items() if k != "language"}, JSONB)
    return func.md5(cast(cast(plain, JSONB), Text))


def procedure(session: Session, key: UUID) -> ProcedureRow:
    """One procedure with its editions."""
    return get_or_404(session, ProcedureRow, key, "There is no such procedure.")


ORDER = Order(ProcedureRow.at, ProcedureRow.id)
ProcedureSort = Literal["", "oldest", "title"]
SORTS: dict[str, Order] = {
    "": ORDER,
    "oldest": replace(ORDER, rising=True),
    "title": Order(ProcedureRow.title, ProcedureRow.id, rising=True),
}


State = Literal["", "released", "draft", "review"]
STATES: dict[State, ColumnElement[bool]] = {
    "": true(),
    "released": ProcedureRow.standing_id.is_not(None),
    "draft": ProcedureRow.standing_id.is_(None),
    "review": ProcedureRow.review != "",
}


def procedures(
    session: Session,
    place: str = "",
    size: int = 50,
    said: str = "",
    state: State = "",
    sort: ProcedureSort = "",
) -> Page[ProcedureRow]:
    """A page of procedures, newest first or as sorted; all, or those whose job or engine has this
    in it, that are released, drafts that never were, or open for review.
    """
    query = select(ProcedureRow).where(ProcedureRow.kind == JOB, STATES[state])
    if said.strip():
        columns = (ProcedureRow.title, ProcedureRow.engine_id, ProcedureRow.review)
        fits = [column.icontains(said.strip(), autoescape=True) for column in columns]
        called = (EngineRow.make + " " + EngineRow.name).icontains(said.strip(), autoescape=True)
        fits.append(ProcedureRow.engine_id.in_(select(EngineRow.id).where(called)))
        query = query.where(or_(*fits))
    return page_of(session, query, SORTS[sort], place, size)


def same_job(session: Session, engine: str, job: dict[str, object]) -> ProcedureRow | None:
    """The procedure for just this job on an engine, the oldest if there are several."""
    query = select(ProcedureRow).where(
        ProcedureRow.engine_id == engine,
        ProcedureRow.job_hash == _job_hash(job),
        ProcedureRow.kind == JOB,
    )
    rows = session.scalars(query.order_by(ProcedureRow.at))
    return next((row for row in rows if row.job == job), None)


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
        said = (
            gettext("depart, because: {reason}", reason=now.reason)
            if now
            else gettext("follow the house")
        )
        raise ConflictError(
            gettext(
                "Somebody else settled this topic meanwhile, to {said}. Nothing was "
                "overwritten; open the draft again and put yours in.",
                said=said,
            )
        )
    if departure is not None:
        kept[topic] = departure
    _change_draft(session, row, departures=_departures.dump_python(kept, mode="json"))


def do_along(session: Session, key: UUID, version: int, engine: Engine, job: Job, by: str) -> UUID:
    """Let a draft be of a larger job; its edits and departures stay. Return its key.

    One that was released goes on as it was, and the larger job is a draft of its own. Raises
    :class:`ConflictError` when the draft is no longer as it was looked at.
    """
    row = locked_draft(session, key)
    if row.version != version:
        raise ConflictError(
            gettext("The draft changed meanwhile. Nothing was added; look at it again.")
        )
    if row.editions:
        made = add_procedure(session, engine, job, by)
        replace_draft(session, made, edits_of(row), departures_of(row))
        return made
    _change_draft(session, row, job=job.model_dump(mode="json"), title=job.title(engine))
    return key


def _change_draft(session: Session, row: ProcedureRow, **values: object) -> None:
    """Write what is changed; ``version`` counts the changes, for approval and release."""
    for name, value in {**values, "version": row.version + 1}.items():
        setattr(row, name, value)
    session.flush()


def open_review(session: Session, key: UUID, why: str) -> None:
    """Open a draft for review because something changed underneath; a release closes it."""
    locked_draft(session, key).review = why[:200]
    session.flush()
