"""Engine sheets, procedures, editions and units."""

from collections.abc import Sequence
from dataclasses import dataclass
from threading import Lock
from uuid import UUID, uuid4

from cachetools import LRUCache, cached
from pydantic import TypeAdapter
from sqlalchemy import func, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.engine.variants import Plate
from eldrim.core.job import Job
from eldrim.core.procedure.edits import Edit
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import Departure
from eldrim.store import search
from eldrim.store.errors import ConflictError, EditConflictError, NotFoundError
from eldrim.store.tables import EditionRow, EngineRow, ProcedureRow, UnitRow, WithdrawalRow

_edits = TypeAdapter(dict[str, Edit])
_departures = TypeAdapter(dict[str, Departure])


def save_sheet(session: Session, engine: Engine, by: str) -> None:
    """Keep a new revision of a sheet. An older or equal revision is a conflict."""
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext(:id))"), {"id": engine.id})
    newest = session.scalar(select(func.max(EngineRow.revision)).where(EngineRow.id == engine.id))
    if newest is not None and engine.revision <= newest:
        raise ConflictError(
            f"Sheet {engine.id} is at revision {newest}; this file says {engine.revision}. "
            f"Compare the two, then set revision: {newest + 1} in the file."
        )
    document = engine.model_dump(mode="json", exclude_defaults=True)
    session.add(
        EngineRow(
            id=engine.id,
            revision=engine.revision,
            make=engine.make,
            name=engine.name,
            document={"format": engine.format, **document},
            by=by,
        )
    )
    search.index_engine(session, engine)


def sheet(session: Session, engine_id: str, revision: int | None = None) -> Engine:
    """The newest revision of a sheet, or the one asked for."""
    query = select(EngineRow).where(EngineRow.id == engine_id)
    if revision is not None:
        query = query.where(EngineRow.revision == revision)
    row = session.scalar(query.order_by(EngineRow.revision.desc()).limit(1))
    if row is None:
        raise NotFoundError(f"There is no engine '{engine_id}'.")
    return Engine.model_validate(row.document)


def sheets(session: Session) -> Sequence[EngineRow]:
    """The newest revision of every sheet, by make and name."""
    newest = (
        select(EngineRow)
        .ext(distinct_on(EngineRow.id))
        .order_by(EngineRow.id, EngineRow.revision.desc())
        .subquery()
    )
    rows = session.scalars(
        select(EngineRow).join(
            newest, (EngineRow.id == newest.c.id) & (EngineRow.revision == newest.c.revision)
        )
    )
    return sorted(rows, key=lambda r: (r.make, r.name))


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
    """Start a procedure for a job; its draft is the compiled plan with no edits."""
    row = ProcedureRow(
        id=uuid4(),
        engine_id=engine.id,
        title=job.title,
        job=job.model_dump(mode="json"),
        edits={},
        version=1,
        by=by,
        at=func.clock_timestamp(),
    )
    session.add(row)
    return row.id


def procedure(session: Session, key: UUID) -> ProcedureRow:
    """One procedure with its editions."""
    row = session.get(ProcedureRow, key)
    if row is None:
        raise NotFoundError("There is no such procedure.")
    return row


def procedures(session: Session, page: int = 1, size: int = 50) -> Sequence[ProcedureRow]:
    """A page of procedures, newest first."""
    query = select(ProcedureRow).order_by(ProcedureRow.at.desc(), ProcedureRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def edits_of(row: ProcedureRow) -> dict[str, Edit]:
    """The draft's edits by step key."""
    return _edits.validate_python(row.edits)


def save_edit(session: Session, key: UUID, step: str, edit: Edit, base: Edit) -> None:
    """Keep one edit, made on ``base``; edits of other steps by other people do not matter.

    Raises :class:`EditConflictError` when the step's edit is no longer ``base``.
    """
    row = _locked(session, key)
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
    row = _locked(session, key)
    values: dict[str, object] = {"edits": _edits.dump_python(edits, mode="json")}
    if departures is not None:
        values["departures"] = _departures.dump_python(departures, mode="json")
    _change_draft(session, row, **values)


def _locked(session: Session, key: UUID) -> ProcedureRow:
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
    row = _locked(session, key)
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


def release(session: Session, key: UUID, plan: Plan, by: str, reason: str) -> EditionRow:
    """Release the plan as the next edition of its procedure."""
    _locked(session, key).review = ""
    newest = session.scalar(
        select(func.max(EditionRow.number)).where(EditionRow.procedure_id == key)
    )
    row = EditionRow(
        id=uuid4(),
        procedure_id=key,
        number=(newest or 0) + 1,
        document=plan.model_dump(mode="json"),
        edits=procedure(session, key).edits,
        reason=reason,
        by=by,
    )
    session.add(row)
    session.flush()
    search.index_edition(session, row, plan)
    return row


def open_review(session: Session, key: UUID, why: str) -> None:
    """Open a draft for review because something changed underneath; a release closes it."""
    _locked(session, key).review = why[:200]
    session.flush()


def edition(session: Session, key: UUID) -> EditionRow:
    """One released edition."""
    row = session.get(EditionRow, key)
    if row is None:
        raise NotFoundError("There is no such edition.")
    return row


def newest_editions(session: Session, engine_id: str | None = None) -> Sequence[EditionRow]:
    """The newest edition of each procedure that is not withdrawn, for one engine or for all."""
    query = (
        select(EditionRow)
        .join(ProcedureRow)
        .outerjoin(WithdrawalRow)
        .where(WithdrawalRow.edition_id.is_(None))
        .ext(distinct_on(EditionRow.procedure_id))
        .order_by(EditionRow.procedure_id, EditionRow.number.desc())
        .limit(200)
    )
    if engine_id is not None:
        query = query.where(ProcedureRow.engine_id == engine_id)
    return session.scalars(query).all()


@cached(LRUCache(64), key=lambda row: row.id, lock=Lock())
def plan_of(row: EditionRow) -> Plan:
    """The procedure an edition holds. Editions never change, so what was read is kept a while."""
    return Plan.model_validate(row.document)


def units(session: Session) -> Sequence[UnitRow]:
    """All units by name."""
    return session.scalars(select(UnitRow).order_by(UnitRow.name)).all()


def unit(session: Session, key: str) -> UnitRow:
    """One unit."""
    row = session.get(UnitRow, key)
    if row is None:
        raise NotFoundError("There is no such unit.")
    return row


@dataclass(frozen=True)
class UnitFacts:
    """What is kept of a unit; ``told_by`` says who or what picked its variant."""

    name: str
    engine_id: str
    meter: str
    plate: Plate
    variant: str
    told_by: str


def save_unit(session: Session, key: str, about: UnitFacts, *, new: bool) -> UnitRow:
    """Keep a unit, new or changed, and the words it is found by."""
    row = UnitRow(id=key) if new else unit(session, key)
    row.name, row.engine_id, row.meter = about.name, about.engine_id, about.meter
    row.serial, row.letters, row.year = (
        about.plate.serial,
        about.plate.letters[:40],
        about.plate.year,
    )
    row.variant, row.told_by = about.variant, about.told_by
    session.add(row)
    search.index_unit(session, row)
    session.flush()
    return row
