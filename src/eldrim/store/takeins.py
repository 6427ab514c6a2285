"""Files read and shown, waiting to be taken in or forgotten."""

from datetime import timedelta
from uuid import UUID, uuid4

from sqlalchemy import delete, func
from sqlalchemy.orm import Session

from eldrim.core.words.messages import gettext
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import TakeInRow

HELD_FOR = timedelta(days=1)


def hold(session: Session, name: str, about: str, data: bytes, by: str) -> UUID:
    """Keep a file until it is taken in; those nobody took in within a day are forgotten."""
    session.execute(delete(TakeInRow).where(TakeInRow.at < func.now() - HELD_FOR))
    row = TakeInRow(id=uuid4(), name=name[:120], about=about, data=data, by=by)
    session.add(row)
    session.flush()
    return row.id


def held(session: Session, key: UUID, by: str) -> TakeInRow:
    """A file somebody chose before; theirs alone."""
    row = session.get(TakeInRow, key)
    if row is None or row.by != by:
        raise NotFoundError(gettext("This file is no longer held. Choose it again."))
    return row


def forget(session: Session, row: TakeInRow) -> None:
    """It was taken in."""
    session.delete(row)
    session.flush()
