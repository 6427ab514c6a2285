"""Documents of which the shop has exactly one, kept by version: house rules, crib."""

from collections.abc import Sequence
from datetime import datetime
from threading import Lock
from typing import Any, Generic, TypeVar, cast

from cachetools import LRUCache
from pydantic import BaseModel
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from eldrim.core.words.messages import gettext
from eldrim.store.errors import ConflictError
from eldrim.store.tables import CribRow, RulesRow

Document = TypeVar("Document", bound=BaseModel)
VersionRow = RulesRow | CribRow
VERSIONS_KEPT = 4


class Versions(Generic[Document]):
    """The versions of one document. They are only ever added."""

    def __init__(self, table: type[VersionRow], model: type[Document], default: Document) -> None:
        """Say where they are kept, as what, and what holds before the first is saved."""
        self.table, self.model, self.default = table, model, default
        self._read: LRUCache[tuple[int, datetime], Document] = LRUCache(VERSIONS_KEPT)
        self._lock = Lock()

    def in_force(self, session: Session) -> Document:
        """The newest version; the default where none was ever saved.

        A version never changes, so what was read is kept: tools keep their worked-out answers.
        """
        newest = select(self.table.version, self.table.at).order_by(self.table.version.desc())
        found = session.execute(newest.limit(1)).first()
        if found is None:
            return self.default
        key = (found.version, found.at)
        with self._lock:
            if key not in self._read:
                row: Any = session.get_one(self.table, found.version)
                self._read[key] = self.model.model_validate(row.document)
            return self._read[key]

    def save(self, session: Session, document: Document, by: str, reason: str) -> Document:
        """Keep ``document`` as the next version after the one it says it comes from.

        Raises :class:`ConflictError` when that is no longer the newest.
        """
        name = self.table.__tablename__
        session.execute(text("SELECT pg_advisory_xact_lock(hashtext(:name))"), {"name": name})
        version = _version(document)
        if _version(self.in_force(session)) != version:
            raise ConflictError(
                gettext(
                    "Somebody else changed the {value} meanwhile. Nothing was overwritten; "
                    "look at it again.",
                    value=name.replace("_", " "),
                )
            )
        saved = document.model_copy(update={"version": version + 1})
        fields = {"version": version + 1, "document": saved.model_dump(mode="json")}
        session.add(self.table(**fields, by=by, reason=reason))
        return saved

    def history(self, session: Session) -> Sequence[VersionRow]:
        """All versions, newest first."""
        query = select(self.table).order_by(self.table.version.desc()).limit(50)
        return cast("Sequence[VersionRow]", session.scalars(query).all())


def _version(document: Any) -> int:
    return int(document.version)
