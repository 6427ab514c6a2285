"""Engines being captured: kept at every act, undone and redone, then kept as a sheet."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import Select, delete, func, select, text
from sqlalchemy.orm import Session

from eldrim.core.capture.teardown import Tap
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.store import sheet_store
from eldrim.store.errors import ConflictError, NotFoundError
from eldrim.store.tables import DraftHeadRow, DraftRow, EngineRow, TapRow

# How far back undo goes.
MAX_DRAWINGS_KEPT = 200


@dataclass(frozen=True)
class Draft:
    """The present state: its number, the engine, and what undo and redo would do."""

    number: int
    engine: Engine
    undo: str
    redo: str


def begin(session: Session, engine: Engine, by: str) -> None:
    """Start capturing; an engine that is being captured already goes on where it was."""
    if session.get(DraftHeadRow, engine.id) is None:
        session.add(DraftHeadRow(engine_id=engine.id, number=1))
        session.add(_row(engine, 1, "started", by))
        session.flush()


def is_known(session: Session, engine_id: str) -> bool:
    """Whether an engine of this key is a sheet or being captured already."""
    sheet = select(func.count()).select_from(EngineRow).where(EngineRow.id == engine_id)
    return bool(session.scalar(sheet)) or session.get(DraftHeadRow, engine_id) is not None


def open_drafts(session: Session) -> Sequence[str]:
    """The keys of the engines being captured."""
    return session.scalars(select(DraftHeadRow.engine_id).order_by(DraftHeadRow.engine_id)).all()


def current(session: Session, engine_id: str) -> Draft:
    """The present state of an engine being captured."""
    head = session.get(DraftHeadRow, engine_id)
    if head is None:
        raise NotFoundError(gettext("'{engine_id}' is not being captured.", engine_id=engine_id))
    rows = session.execute(
        select(DraftRow.number, DraftRow.what).where(
            DraftRow.engine_id == engine_id, DraftRow.number.between(head.number, head.number + 1)
        )
    )
    words = {number: what for number, what in rows}
    before = session.scalar(
        select(func.count()).where(DraftRow.engine_id == engine_id, DraftRow.number < head.number)
    )
    row = session.get_one(DraftRow, (engine_id, head.number))
    undo = words.get(head.number, "") if before else ""
    return Draft(
        head.number, Engine.model_validate(row.document), undo, words.get(head.number + 1, "")
    )


def push(session: Session, number: int, engine: Engine, what: str, by: str) -> Draft:
    """Keep a new state made from state ``number``; what was undone is gone then.

    Raises :class:`ConflictError` when another state is the present one.
    """
    head = _locked(session, engine.id, number)
    session.execute(
        delete(DraftRow).where(DraftRow.engine_id == engine.id, DraftRow.number > number)
    )
    session.add(_row(engine, number + 1, what[:200], by))
    session.execute(
        delete(DraftRow).where(
            DraftRow.engine_id == engine.id, DraftRow.number <= number - MAX_DRAWINGS_KEPT
        )
    )
    head.number = number + 1
    session.flush()
    return current(session, engine.id)


def step(session: Session, engine_id: str, number: int, by: int) -> Draft:
    """Undo (``by`` −1) or redo (+1) one act; where there is nothing, nothing happens."""
    head = _locked(session, engine_id, number)
    if session.get(DraftRow, (engine_id, number + by)) is not None:
        head.number = number + by
        session.flush()
    return current(session, engine_id)


def keep(session: Session, engine_id: str, number: int, by: str) -> Engine:
    """Keep the present state as the next revision of the sheet; the capture ends."""
    _locked(session, engine_id, number)
    engine = current(session, engine_id).engine
    newest = session.scalar(select(func.max(EngineRow.revision)).where(EngineRow.id == engine_id))
    kept = engine.model_copy(update={"revision": (newest or 0) + 1})
    sheet_store.save_sheet(session, kept, by)
    session.execute(delete(DraftRow).where(DraftRow.engine_id == engine_id))
    session.execute(delete(DraftHeadRow).where(DraftHeadRow.engine_id == engine_id))
    return kept


def discard(session: Session, engine_id: str, number: int) -> None:
    """Throw away what is being captured, with its taps; a sheet that was kept stays."""
    _locked(session, engine_id, number)
    for table in (DraftRow, DraftHeadRow, TapRow):
        session.execute(delete(table).where(table.engine_id == engine_id))


def tap(session: Session, key: UUID, engine_id: str, act: str, what: str) -> None:
    """Keep one tap of a teardown; the same one sent again is the same one."""
    if session.get(TapRow, key) is None:
        session.add(TapRow(id=key, engine_id=engine_id, act=act, what=what))
        session.flush()


def untap(session: Session, engine_id: str) -> None:
    """Take the last tap back."""
    last = _taps(engine_id).order_by(None).order_by(TapRow.at.desc()).limit(1)
    row = session.scalar(last)
    if row is not None:
        session.delete(row)
        session.flush()


def taps(session: Session, engine_id: str) -> tuple[Tap, ...]:
    """The taps of a teardown in order, in minutes since the first."""
    rows = session.scalars(_taps(engine_id)).all()
    return tuple(
        Tap.model_validate(
            {"act": row.act, "what": row.what, "at": (row.at - rows[0].at).total_seconds() / 60}
        )
        for row in rows
    )


def clear_taps(session: Session, engine_id: str) -> None:
    """Forget a teardown once its taps are on the sheet."""
    session.execute(delete(TapRow).where(TapRow.engine_id == engine_id))


def _taps(engine_id: str) -> Select[TapRow]:
    return select(TapRow).where(TapRow.engine_id == engine_id).order_by(TapRow.at, TapRow.id)


def _locked(session: Session, engine_id: str, number: int) -> DraftHeadRow:
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext(:id))"), {"id": f"d/{engine_id}"})
    head = session.get(DraftHeadRow, engine_id, populate_existing=True)
    if head is None:
        raise NotFoundError(gettext("'{engine_id}' is not being captured.", engine_id=engine_id))
    if head.number != number:
        raise ConflictError(
            gettext(
                "Somebody else drew on this engine meanwhile. The drawing below is the present "
                "one; do your last act again."
            )
        )
    return head


def _row(engine: Engine, number: int, what: str, by: str) -> DraftRow:
    document = {"format": engine.format, **engine.model_dump(mode="json", exclude_defaults=True)}
    return DraftRow(engine_id=engine.id, number=number, document=document, what=what, by=by)
