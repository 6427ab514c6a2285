"""Released editions, which never change, and the plans they hold."""

import re
from collections.abc import Sequence
from threading import Lock
from uuid import UUID, uuid4

from cachetools import LRUCache, cached
from sqlalchemy import Select, func, select, true, tuple_, union
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from eldrim.core.procedure.model import Plan
from eldrim.core.words.messages import gettext
from eldrim.store import search
from eldrim.store.errors import NotFoundError, get_or_404
from eldrim.store.procedure_store import locked_draft
from eldrim.store.tables import EditionRow, EngineRow, ProcedureRow, UnitRow, WithdrawalRow


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
    draft.standing_id = row.id
    search.index_edition(session, row, plan)
    return row


def edition(session: Session, key: UUID) -> EditionRow:
    """One released edition."""
    return get_or_404(session, EditionRow, key, "There is no such edition.")


def by_start(session: Session, start: str) -> EditionRow:
    """The edition whose id begins so, as a code on paper tells it; the newest of several."""
    letters = start.lower()
    if not re.fullmatch("[0-9a-f]{8,32}", letters):
        raise NotFoundError(gettext("There is no such edition."))
    low, high = UUID(letters.ljust(32, "0")), UUID(letters.ljust(32, "f"))
    query = select(EditionRow).where(EditionRow.id.between(low, high))
    row = session.scalars(query.order_by(EditionRow.at.desc())).first()
    if row is None:
        raise NotFoundError(gettext("There is no such edition."))
    return row


def newest_editions(session: Session) -> Sequence[EditionRow]:
    """The newest edition of each procedure that is not withdrawn."""
    return session.scalars(standing().order_by(EditionRow.procedure_id)).all()


def standing() -> Select[EditionRow]:
    """A query for the newest edition of each procedure that is not withdrawn."""
    return select(EditionRow).where(
        EditionRow.id.in_(
            select(ProcedureRow.standing_id).where(ProcedureRow.standing_id.is_not(None))
        )
    )


def newest_of(session: Session, procedures: Sequence[UUID]) -> dict[UUID, EditionRow]:
    """The newest edition of each of these procedures, withdrawn or not."""
    query = (
        select(EditionRow)
        .where(EditionRow.procedure_id.in_(procedures))
        .ext(distinct_on(EditionRow.procedure_id))
        .order_by(EditionRow.procedure_id, EditionRow.number.desc())
    )
    return {row.procedure_id: row for row in session.scalars(query)}


def on_other_ground(session: Session, now: tuple[int, int] | None = None) -> Select[EditionRow]:
    """A query for standing editions whose sheet has another revision by now; with ``now``, also
    those made by other versions of the house rules and the crib than these.
    """
    sheet = (
        select(EngineRow.id, func.max(EngineRow.revision).label("revision"))
        .group_by(EngineRow.id)
        .subquery()
    )
    # Each of them by an index of its own; revisions and versions only go up. Sheet by sheet: the
    # offset keeps the database from reading every edition instead, of which few are behind.
    behind = (
        select(EditionRow.id)
        .where(EditionRow.engine_id == sheet.c.id, EditionRow.revision < sheet.c.revision)
        .offset(0)
        .lateral()
    )
    moved = [select(behind.c.id).select_from(sheet.join(behind, true()))]
    if now is not None:
        rules, crib = now
        moved.append(select(EditionRow.id).where(EditionRow.rules_version < rules))
        moved.append(select(EditionRow.id).where(EditionRow.crib_version < crib))
    return (
        select(EditionRow)
        .where(EditionRow.id.in_(union(*moved)))
        .join(ProcedureRow, ProcedureRow.standing_id == EditionRow.id)
    )


Choices = dict[str, tuple[list[EditionRow], int]]


def for_units(session: Session, units: Sequence[UnitRow], said: str, most: int) -> Choices:
    """What can be started on each unit, by title: the first of it, and how much there is."""
    fits = {(unit.engine_id, unit.variant) for unit in units}
    kind = (EditionRow.engine_id, EditionRow.variant)
    query = standing().where(tuple_(*kind).in_(fits))
    if said:
        query = query.where(EditionRow.title.icontains(said, autoescape=True))
    place = func.row_number().over(partition_by=kind, order_by=(EditionRow.title, EditionRow.id))
    count = func.count().over(partition_by=kind)
    numbered = query.with_only_columns(
        EditionRow.id, place.label("place"), count.label("count")
    ).subquery()
    first = (
        select(EditionRow, numbered.c.count)
        .join(numbered, numbered.c.id == EditionRow.id)
        .where(numbered.c.place <= most)
        .order_by(EditionRow.title, EditionRow.id)
    )
    found: dict[tuple[str, str], tuple[list[EditionRow], int]] = {}
    for edition, every in session.execute(first):
        held = found.setdefault((edition.engine_id, edition.variant), ([], every))
        held[0].append(edition)
    return {unit.id: found.get((unit.engine_id, unit.variant), ([], 0)) for unit in units}


def set_standing(session: Session, procedure: UUID) -> None:
    """Keep which edition of a procedure is the newest that is not withdrawn."""
    newest = (
        select(EditionRow.id)
        .outerjoin(WithdrawalRow)
        .where(EditionRow.procedure_id == procedure, WithdrawalRow.edition_id.is_(None))
        .order_by(EditionRow.number.desc())
        .limit(1)
    )
    row = session.get_one(ProcedureRow, procedure)
    row.standing_id = session.scalar(newest)


# Editions of the runs that go on, at once in a large shop.
PLANS_KEPT = 128


@cached(LRUCache(PLANS_KEPT), key=lambda row: row.id, lock=Lock())
def plan_of(row: EditionRow) -> Plan:
    """The procedure an edition holds. Editions never change, so what was read is kept a while."""
    return Plan.model_validate(row.document)
