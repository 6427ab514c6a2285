"""What units are complained of, until it is cured or said to be over."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.procedure.model import CauseSearch
from eldrim.core.words.messages import gettext
from eldrim.store.errors import ConflictError, get_or_404
from eldrim.store.tables import ComplaintRow

# More are not shown of one unit.
SHOWN = 12


@dataclass(frozen=True)
class Told:
    """A complaint as it was typed, in words, and by what tells it from another."""

    said: dict[str, Any]
    words: str
    name: str


def keep(session: Session, key: UUID, unit: str, told: Told, by: str) -> None:
    """Keep a complaint of a unit; under the same key it is kept once."""
    said = {**told.said, "name": told.name}
    row = insert(ComplaintRow).values(id=key, unit_id=unit, said=said, words=told.words, by=by)
    session.execute(row.on_conflict_do_nothing())


def standing(session: Session, units: Sequence[str]) -> dict[str, list[ComplaintRow]]:
    """The complaints of units that are not over, the newest first, by unit."""
    query = (
        select(ComplaintRow)
        .where(ComplaintRow.unit_id.in_(units), ComplaintRow.over_at.is_(None))
        .order_by(ComplaintRow.at.desc(), ComplaintRow.id)
    )
    found: dict[str, list[ComplaintRow]] = {}
    for row in session.scalars(query):
        if len(found.setdefault(row.unit_id, [])) < SHOWN:
            found[row.unit_id].append(row)
    return found


def end(session: Session, key: UUID, by: str, why: str) -> ComplaintRow:
    """Say that a complaint is over. Raises :class:`ConflictError` where that was said already."""
    row = get_or_404(session, ComplaintRow, key, "There is no such complaint.")
    session.refresh(row, with_for_update={"of": ComplaintRow})
    if row.over_at is not None:
        raise ConflictError(gettext("This complaint is over: {over_why}", over_why=row.over_why))
    row.over_why, row.over_by, row.over_at = why, by, func.clock_timestamp()
    session.flush()
    return row


def cured(session: Session, unit: str, by: str, search: CauseSearch) -> None:
    """A search proved a repair: the same complaint of the unit is over, in whatever language.

    One that was kept before complaints had names is known by its words.
    """
    for row in standing(session, [unit]).get(unit, []):
        name = row.said.get("name")
        if (name == search.name) if name and search.name else (row.words == search.complaint):
            end(session, row.id, by, "cured")
