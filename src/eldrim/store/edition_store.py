"""Released editions, which never change, and the plans they hold."""

from collections.abc import Sequence
from threading import Lock
from uuid import UUID, uuid4

from cachetools import LRUCache, cached
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from eldrim.core.procedure.model import Plan
from eldrim.store import search
from eldrim.store.errors import get_or_404
from eldrim.store.procedure_store import locked_draft
from eldrim.store.tables import EditionRow, ProcedureRow, WithdrawalRow


def release(session: Session, key: UUID, plan: Plan, by: str, reason: str) -> EditionRow:
    """Release the plan as the next edition of its procedure; its draft is another version then."""
    draft = locked_draft(session, key)
    draft.review = ""
    draft.version += 1
    newest = session.scalar(
        select(func.max(EditionRow.number)).where(EditionRow.procedure_id == key)
    )
    row = EditionRow(
        id=uuid4(),
        procedure_id=key,
        number=(newest or 0) + 1,
        document=plan.model_dump(mode="json"),
        edits=draft.edits,
        reason=reason,
        by=by,
    )
    session.add(row)
    session.flush()
    search.index_edition(session, row, plan)
    return row


def edition(session: Session, key: UUID) -> EditionRow:
    """One released edition."""
    return get_or_404(session, EditionRow, key, "There is no such edition.")


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
