"""Engine sheets, revision by revision."""

from collections.abc import Sequence
from contextlib import suppress

from pydantic import ValidationError
from sqlalchemy import func, select, text
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from eldrim.core.consistency import require_consistent
from eldrim.core.engine import Engine
from eldrim.store import search
from eldrim.store.errors import ConflictError, NotFoundError
from eldrim.store.tables import EngineRow


def save_sheet(session: Session, engine: Engine, by: str) -> None:
    """Keep a new revision of a sheet, judged as a file that is taken in is.

    Raises :class:`~eldrim.core.errors.EngineError` with every problem of one that does not hold,
    :class:`ConflictError` for an older or equal revision.
    """
    require_consistent(Engine.model_validate(engine.model_dump(mode="json")))
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
    newest_first = query.order_by(EngineRow.revision.desc()).limit(1)
    before = 0
    while row := session.scalar(newest_first.offset(before)):
        before += 1
        # One that an earlier version let in and nobody can read stops nobody: the one before holds.
        with suppress(ValidationError):
            return Engine.model_validate(row.document)
    raise NotFoundError(f"There is no engine '{engine_id}' that can be read.")


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
    return sorted(rows, key=lambda row: (row.make, row.name))


def readable(session: Session) -> tuple[list[Engine], list[str]]:
    """Every sheet by make and name, and which newest revisions cannot be read.

    One that does not hold stops no list: it is named there, and the revision before it holds.
    """
    found: list[Engine] = []
    broken: list[str] = []
    for row in sheets(session):
        try:
            found.append(Engine.model_validate(row.document))
        except ValidationError:
            broken.append(f"{row.make} {row.name}, revision {row.revision}")
            with suppress(NotFoundError):
                found.append(sheet(session, row.id))
    return found, broken
