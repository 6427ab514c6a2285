"""Engine sheets, revision by revision."""

from collections.abc import Collection, Sequence
from contextlib import suppress
from datetime import datetime
from threading import Lock
from typing import Any, Literal, NamedTuple

from cachetools import LRUCache, cached
from pydantic import ValidationError
from sqlalchemy import Select, func, select, text, update
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from eldrim.core.consistency import require_consistent
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.store import search
from eldrim.store.errors import ConflictError, NotFoundError
from eldrim.store.tables import EngineRow, UnitRow

SHEETS_KEPT = 64


def save_sheet(session: Session, engine: Engine, by: str) -> None:
    """Keep a new revision of a sheet, judged as a file that is taken in is.

    Raises :class:`~eldrim.core.base.errors.EngineError` with every problem of one that does not
    hold, :class:`ConflictError` for an older or equal revision.
    """
    require_consistent(Engine.model_validate(engine.model_dump(mode="json")))
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext(:id))"), {"id": engine.id})
    newest = session.scalar(select(func.max(EngineRow.revision)).where(EngineRow.id == engine.id))
    if newest is not None and engine.revision <= newest:
        raise ConflictError(
            gettext(
                "Sheet {id} is at revision {newest}; this file says {revision}. Compare the "
                "two, then set revision: {next} in the file.",
                id=engine.id,
                newest=newest,
                revision=engine.revision,
                next=newest + 1,
            )
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
    # What is due by its intervals is worked out again.
    units = update(UnitRow).where(UnitRow.engine_id == engine.id)
    session.execute(units.values(dues_known=False))


def sheet(session: Session, engine_id: str, revision: int | None = None) -> Engine:
    """The newest revision of a sheet, or the one asked for."""
    query = select(EngineRow.revision, EngineRow.at).where(EngineRow.id == engine_id)
    if revision is not None:
        query = query.where(EngineRow.revision == revision)
    newest_first = query.order_by(EngineRow.revision.desc()).limit(1)
    before = 0
    while found := session.execute(newest_first.offset(before)).first():
        before += 1
        # One that an earlier version let in and nobody can read stops nobody: the one before holds.
        with suppress(ValidationError):
            return _read(session, engine_id, found.revision, found.at)
    raise NotFoundError(
        gettext("There is no engine '{engine_id}' that can be read.", engine_id=engine_id)
    )


# A revision never changes; its moment tells it from one of a restored database.
@cached(LRUCache(SHEETS_KEPT), key=lambda _, *which: which, lock=Lock())
def _read(session: Session, engine_id: str, revision: int, at: datetime) -> Engine:
    return Engine.model_validate(session.get_one(EngineRow, (engine_id, revision)).document)


def newest(session: Session, keys: Collection[str]) -> dict[str, Engine]:
    """The newest revision of each of these that can be read."""
    rows = (
        select(EngineRow.id, EngineRow.revision, EngineRow.at)
        .where(EngineRow.id.in_(keys))
        .ext(distinct_on(EngineRow.id))
        .order_by(EngineRow.id, EngineRow.revision.desc())
    )
    found = {}
    for key, revision, at in session.execute(rows).all():
        with suppress(ValidationError):
            found[key] = _read(session, key, revision, at)
    return found


def titles(session: Session) -> dict[str, str]:
    """How every engine is called, by make and name."""
    newest = (
        select(EngineRow.id, EngineRow.make, EngineRow.name)
        .ext(distinct_on(EngineRow.id))
        .order_by(EngineRow.id, EngineRow.revision.desc())
    )
    rows = sorted(session.execute(newest), key=lambda row: (row.make, row.name))
    return {row.id: f"{row.make} {row.name}" for row in rows}


def revisions(session: Session) -> dict[str, int]:
    """The newest revision of every sheet."""
    newest = select(EngineRow.id, func.max(EngineRow.revision)).group_by(EngineRow.id)
    return {key: revision for key, revision in session.execute(newest)}


SheetSort = Literal["", "changed"]
_BY_NAME = (EngineRow.make, EngineRow.name, EngineRow.id)
SHEET_SORTS: dict[str, tuple[Any, ...]] = {
    "": _BY_NAME,
    "changed": (EngineRow.at.desc(), *_BY_NAME),
}


def sheets(
    session: Session,
    said: str = "",
    *,
    sort: SheetSort = "",
    most: int | None = None,
    skip: int = 0,
) -> Sequence[EngineRow]:
    """The newest revision of every sheet, by make and name or the last changed first; of those
    called so, so many.
    """
    query = _newest_called(said).order_by(*SHEET_SORTS[sort])
    return session.scalars(query.limit(most).offset(skip)).all()


def count_sheets(session: Session, said: str = "") -> int:
    """How many sheets there are, or are called so."""
    return session.scalar(select(func.count()).select_from(_newest_called(said).subquery())) or 0


class PartsOfSheet(NamedTuple):
    """The parts and figures of one sheet, as its document has them."""

    id: str
    make: str
    name: str
    parts: dict[str, Any] | None
    figures: dict[str, Any]


def parts_elsewhere(session: Session, engine_id: str, most: int) -> list[PartsOfSheet]:
    """The parts of the other sheets, the last changed first, of so many of them."""
    document = EngineRow.document
    columns = (EngineRow.id, EngineRow.make, EngineRow.name)
    query = _newest_called("").where(EngineRow.id != engine_id).order_by(*SHEET_SORTS["changed"])
    asked = query.limit(most).with_only_columns(
        *columns, document["parts"], document["figures"], maintain_column_froms=True
    )
    return [PartsOfSheet(*row) for row in session.execute(asked)]


def _newest_called(said: str) -> Select[EngineRow]:
    newest = (
        select(EngineRow.id, func.max(EngineRow.revision).label("revision"))
        .group_by(EngineRow.id)
        .subquery()
    )
    query = select(EngineRow).join(
        newest, (EngineRow.id == newest.c.id) & (EngineRow.revision == newest.c.revision)
    )
    if said.strip():
        called = EngineRow.make + " " + EngineRow.name
        query = query.where(called.icontains(said.strip(), autoescape=True))
    return query


def readable(session: Session, rows: Sequence[EngineRow]) -> tuple[list[Engine], list[str]]:
    """These sheets, and which of them cannot be read.

    One that does not hold stops no list: it is named there, and the revision before it holds.
    """
    found: list[Engine] = []
    broken: list[str] = []
    for row in rows:
        try:
            found.append(_read(session, row.id, row.revision, row.at))
        except ValidationError:
            broken.append(f"{row.make} {row.name}, revision {row.revision}")
            with suppress(NotFoundError):
                found.append(sheet(session, row.id))
    return found, broken
