"""House rules by version."""

from collections.abc import Sequence

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.store.errors import ConflictError
from eldrim.store.tables import RulesRow


def in_force(session: Session) -> HouseRules:
    """The newest version; the defaults where the house has never chosen."""
    row = session.scalar(select(RulesRow).order_by(RulesRow.version.desc()).limit(1))
    return HouseRules.model_validate(row.document) if row else DEFAULT_RULES


def save(session: Session, rules: HouseRules, by: str, reason: str) -> HouseRules:
    """Keep ``rules`` as the next version after the one they say they come from.

    Raises :class:`ConflictError` when that is no longer the newest.
    """
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext('house_rules'))"))
    if in_force(session).version != rules.version:
        raise ConflictError("Somebody else changed the house rules meanwhile. Look at them again.")
    saved = rules.model_copy(update={"version": rules.version + 1})
    session.add(
        RulesRow(
            version=saved.version, document=saved.model_dump(mode="json"), by=by, reason=reason
        )
    )
    return saved


def history(session: Session) -> Sequence[RulesRow]:
    """All versions, newest first."""
    return session.scalars(select(RulesRow).order_by(RulesRow.version.desc()).limit(50)).all()
