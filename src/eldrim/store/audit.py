"""The audit trail: who did what to the workshop itself. Only ever added to."""

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from eldrim.store.tables import AuditRow

# What is kept of it, in the words of the page.
ACTS = (
    "signed in", "sign-in refused", "signed out", "PIN right", "PIN wrong", "PIN changed",
    "password changed", "password reset", "person added", "person left", "person came back",
    "unit added", "unit changed", "bay added", "bay taken away", "rules changed", "crib changed",
    "released", "approved", "withdrawn", "let run", "taken in", "due withdrawn",
    "week laid out", "minutes learnt",
    "backup made", "backup restored",
)  # fmt: skip


def note(session: Session, by: str, act: str, about: str = "", **said: object) -> None:
    """Add to the trail, in the transaction of what is noted: neither is without the other.

    ``said`` is what changed, before and after, or why: never a secret.
    """
    if act not in ACTS:
        raise ValueError(act)
    session.add(AuditRow(by=by[:80], act=act, about=about[:120], said=said))


def trail(
    session: Session, *, by: str = "", act: str = "", before: int | None = None, most: int = 100
) -> Sequence[AuditRow]:
    """The newest of the trail first, of one person or kind, older than the id ``before``."""
    query = select(AuditRow).order_by(AuditRow.id.desc()).limit(most)
    if by:
        query = query.where(AuditRow.by == by)
    if act:
        query = query.where(AuditRow.act == act)
    if before is not None:
        query = query.where(AuditRow.id < before)
    return session.scalars(query).all()


def of_unit(session: Session, key: str) -> Sequence[AuditRow]:
    """What was changed about a unit, the newest first."""
    changed = select(AuditRow).where(AuditRow.act == "unit changed", AuditRow.about == key)
    return session.scalars(changed.order_by(AuditRow.id.desc()).limit(100)).all()


def words(row: AuditRow) -> str:
    """What changed, before and after, or why, on one line."""
    return "; ".join(
        f"{name}: {value[0] or 'nothing'} → {value[1] or 'nothing'}"
        if isinstance(value, list)
        else f"{name}: {value}"
        for name, value in row.said.items()
    )
