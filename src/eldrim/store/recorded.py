"""An entry as the core reads it."""

from eldrim.core.run.entries import Entry, Recorded, Role
from eldrim.store.tables import EntryRow


def recorded(row: EntryRow) -> Recorded:
    """What a row says, by whom and when."""
    return Recorded(entry=Entry.model_validate(row.body), by=row.by, role=Role(row.role), at=row.at)
