"""What is written down while a procedure is followed. Entries are only ever added."""

from datetime import datetime
from enum import StrEnum
from typing import Annotated
from uuid import UUID

from pydantic import StringConstraints

from eldrim.core.frozen import Frozen

Reason = Annotated[str, StringConstraints(strip_whitespace=True, max_length=400)]


class Role(StrEnum):
    """Who may do what."""

    TRAINER = "trainer"
    TECHNICIAN = "technician"
    LEAD = "lead"


class EntryKind(StrEnum):
    """What an entry says."""

    READING = "reading"
    DEVIATION = "deviation"
    DONE = "done"
    SKIP = "skip"
    ACCEPT = "accept"
    RELEASE = "release"
    DIFFERS = "differs"
    STOP = "stop"
    RESUME = "resume"
    WATCH = "watch"
    REOPEN = "reopen"
    SIGN = "sign"
    END = "end"


# Named by a value that is the first at its place, as far as its tablet knew.
NOTHING = UUID(int=0)


class Entry(Frozen):
    """One thing written down. ``id`` is made by the client, so that sending twice is harmless.

    ``step`` and ``reading`` say where; ``value`` what; ``names`` is the entry that an acceptance,
    a resumption or a correction speaks of: a step is opened again by naming what closed it; a value
    names the one it stands for, :data:`NOTHING` where the tablet knew of none, and says nothing
    where the writer saw the newest. ``checks`` are the proofs ticked when a step is done; ``note``
    is what was typed beside a reason of a list, or a value as it was typed in another unit;
    ``photo`` the digest of a photo; ``made`` is when it was written on the tablet. A ``watch`` is a
    value read while one waits for it to come inside its window: it judges nothing yet. An ``end``
    is a lead's word that the run goes no further, with what is open still open.
    """

    id: UUID
    kind: EntryKind
    step: str = ""
    reading: str = ""
    value: float | str | None = None
    unit: str = ""
    reason: Reason = ""
    names: UUID | None = None
    checks: tuple[str, ...] = ()
    photo: str = ""
    note: Reason = ""
    made: datetime | None = None


class Recorded(Frozen):
    """An entry as it stands in the log: who, in which role, when (UTC)."""

    entry: Entry
    by: str
    role: Role
    at: datetime

    @property
    def written(self) -> datetime:
        """When it was written on the tablet; when it was taken, where the tablet did not say."""
        return self.entry.made or self.at
