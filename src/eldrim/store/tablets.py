"""Which tablets are heard of on which run: for the floor of every process, not for keeps."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from threading import Lock
from uuid import UUID

from cachetools import TTLCache
from sqlalchemy import delete, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.store.notices import tell
from eldrim.store.tables import TabletRow

# One that says the same again is written down no more often than this.
HEARD_EVERY = timedelta(seconds=3)


@dataclass(frozen=True)
class Heard:
    """What the tablets of a run said last, together: minutes since the last of them was heard
    (None without one), entries unsent, entries refused that a person has to let go.
    """

    silent: float | None = None
    unsent: int = 0
    refused: int = 0


# What this process wrote down of late; the same said again at once is not worth a statement.
_written: TTLCache[tuple[UUID, str], tuple[int, int]] = TTLCache(2000, HEARD_EVERY.total_seconds())
_written_lock = Lock()


def is_news(run: UUID, tablet: str, *, unsent: int, refused: int) -> bool:
    """Whether what a tablet says was not written down just now."""
    with _written_lock:
        return _written.get((run, tablet)) != (unsent, refused)


def hear(session: Session, run: UUID, tablet: str, *, unsent: int, refused: int = 0) -> None:
    """A tablet on a run says something."""
    if not is_news(run, tablet, unsent=unsent, refused=refused):
        return
    with _written_lock:
        _written[run, tablet] = (unsent, refused)
    said = insert(TabletRow).values(run_id=run, tablet=tablet, unsent=unsent, refused=refused)
    now = func.clock_timestamp()
    counts = or_(
        TabletRow.unsent != said.excluded.unsent, TabletRow.refused != said.excluded.refused
    )
    changed = {"unsent": said.excluded.unsent, "refused": said.excluded.refused, "at": now}
    kept = said.on_conflict_do_update(
        index_elements=[TabletRow.run_id, TabletRow.tablet],
        set_=changed,
        where=counts | (TabletRow.at < now - HEARD_EVERY),
    )
    if session.execute(kept.returning(TabletRow.tablet)).first() is not None:
        tell(session, "floor")


def heard(session: Session, runs: Sequence[UUID]) -> dict[UUID, Heard]:
    """What is heard of each of these runs; of those without a tablet nothing stands here."""
    query = select(
        TabletRow.run_id,
        func.max(TabletRow.at),
        func.sum(TabletRow.unsent),
        func.sum(TabletRow.refused),
    )
    asked = query.where(TabletRow.run_id.in_(runs)).group_by(TabletRow.run_id)
    now = datetime.now(UTC)
    return {
        run: Heard((now - at).total_seconds() / 60, int(unsent), int(refused))
        for run, at, unsent, refused in session.execute(asked)
    }


def forget(session: Session, run: UUID) -> None:
    """A run is signed: nothing of it waits on a tablet any more."""
    session.execute(delete(TabletRow).where(TabletRow.run_id == run))
