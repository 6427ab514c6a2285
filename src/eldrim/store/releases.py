"""What stands beside drafts and editions: approvals, withdrawals, what is newer."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.words.messages import gettext
from eldrim.store.edition_store import set_standing
from eldrim.store.errors import ConflictError
from eldrim.store.tables import ApprovalRow, EditionRow, LetRunRow, WithdrawalRow


def approve(session: Session, procedure: UUID, version: int, by: str) -> None:
    """Approve a draft as it stands; a later edit needs another approval."""
    row = insert(ApprovalRow).values(procedure_id=procedure, version=version, by=by)
    session.execute(row.on_conflict_do_nothing())


def approvals(session: Session, procedure: UUID, version: int) -> Sequence[ApprovalRow]:
    """Who approved a draft at this version, in order."""
    query = select(ApprovalRow).where(
        ApprovalRow.procedure_id == procedure, ApprovalRow.version == version
    )
    return session.scalars(query.order_by(ApprovalRow.at, ApprovalRow.by)).all()


def withdraw(session: Session, edition: UUID, by: str, reason: str) -> None:
    """Withdraw an edition: no new run starts on it, running ones are told.

    Raises :class:`ConflictError` when it is withdrawn already.
    """
    if withdrawal(session, edition) is not None:
        raise ConflictError(gettext("This edition is withdrawn already."))
    session.add(WithdrawalRow(edition_id=edition, by=by, reason=reason))
    session.flush()
    set_standing(session, session.get_one(EditionRow, edition).procedure_id)


def withdrawal(session: Session, edition: UUID) -> WithdrawalRow | None:
    """That an edition is withdrawn, by whom and why; None while it stands."""
    return session.get(WithdrawalRow, edition)


def let_run(session: Session, edition: UUID, revision: int, by: str, reason: str) -> None:
    """Let an edition run on with its sheet at this revision; said twice it stays as said first."""
    row = insert(LetRunRow).values(edition_id=edition, revision=revision, by=by, reason=reason)
    session.execute(row.on_conflict_do_nothing())


def is_let_run(session: Session, edition: UUID, revision: int) -> LetRunRow | None:
    """That an edition runs on with its sheet at this revision; None where nobody said so."""
    return session.get(LetRunRow, (edition, revision))


def notices(session: Session, edition: EditionRow) -> list[str]:
    """What somebody working by an edition has to be told of it."""
    said = []
    gone = withdrawal(session, edition.id)
    if gone is not None:
        said.append(
            f"This edition was withdrawn by {gone.by}: {gone.reason}. Ask the lead before "
            "you go on."
        )
    newest = session.scalar(
        select(func.max(EditionRow.number)).where(EditionRow.procedure_id == edition.procedure_id)
    )
    if newest is not None and newest > edition.number:
        said.append(f"Edition {newest} has been released. This run keeps edition {edition.number}.")
    return said
