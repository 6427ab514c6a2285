"""What a store call can refuse."""

from typing import TypeVar

from sqlalchemy.orm import Session

from eldrim.core.procedure.editions.edits import Edit

Row = TypeVar("Row")


class StoreError(Exception):
    """Base of all refusals; the message is meant for people."""


class NotFoundError(StoreError):
    """There is no such thing."""


class ConflictError(StoreError):
    """Somebody else changed it meanwhile; nothing was overwritten."""


class EditConflictError(ConflictError):
    """Somebody else changed the same step meanwhile; ``now`` is the edit as it stands."""

    def __init__(self, step: str, now: Edit) -> None:
        """Say which step, and keep what stands there now."""
        super().__init__(
            f"Somebody else changed the step '{step}' meanwhile. Nothing was overwritten; load "
            "the page again and put yours in."
        )
        self.step, self.now = step, now


class ThrottledError(StoreError):
    """Too many failed sign-ins; try again later."""


def get_or_404(session: Session, table: type[Row], key: object, missing: str) -> Row:
    """Return the row with this key. Raises :class:`NotFoundError` saying ``missing``."""
    row = session.get(table, key)
    if row is None:
        raise NotFoundError(missing)
    return row
