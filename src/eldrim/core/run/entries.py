"""What is written down while a procedure is followed. Entries are only ever added."""

from datetime import UTC, datetime
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID

from pydantic import (
    AliasChoices,
    AwareDatetime,
    Field,
    StringConstraints,
    ValidationInfo,
    field_validator,
)

from eldrim.core.base.frozen import Frozen
from eldrim.core.reading_choices import CONDITIONS_BEFORE

Reason = Annotated[str, StringConstraints(strip_whitespace=True, max_length=400)]
ValueText = Annotated[str, StringConstraints(max_length=400)]


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
    HEARD = "heard"
    OVER = "over"
    ACCEPT = "accept"
    REFUSE = "refuse"
    AGAIN = "again"
    RELEASE = "release"
    DIFFERS = "differs"
    STOP = "stop"
    RESUME = "resume"
    WATCH = "watch"
    REOPEN = "reopen"
    VERDICT = "verdict"
    SIGN = "sign"
    END = "end"
    NOTE = "note"


# What a value refers to when its tablet had no value at that place yet.
NO_ENTRY = UUID(int=0)


class Entry(Frozen):
    """One thing written down. ``id`` is made by the client, so that sending twice is harmless.

    ``step`` and ``reading`` say where, ``value`` and ``unit`` what. ``refers_to`` is the id of the
    entry that this one accepts, resumes from, reopens or replaces. A value written where its tablet
    had none yet refers to :data:`NO_ENTRY`; one without ``refers_to`` replaces the newest value.
    ``checks`` are the proofs ticked when a step is done. ``note`` is what was typed beside a reason
    of a list, or a value as it was typed in another unit. ``photo`` is the digest of a photo.
    ``made`` is when it was written on the tablet. A ``watch`` is a value read while one waits for
    it to come inside its window; it judges nothing yet. An ``end`` is a lead's word that the run
    goes no further, although something is open. A ``skip`` ``carries`` the steps that cannot
    follow it; a ``done`` ``resets`` those that are to be done anew where a search comes to them
    again. ``heard`` is what a device said that was not taken, ``over`` a peak above the window:
    it stays a deviation whatever is read after it. A lead who does not ``accept`` a deviation says
    that it is not so (``refuse``; it stays open until it is corrected) or that the step is to be
    done ``again``. A ``verdict`` is what a technician says of what the plugs tell: taken up, or not
    seen so, with the reason. A ``note`` is what is added once a run is signed: that it proved
    itself, that the fault came back, or anything else. ``how`` is how a value came in.
    """

    id: UUID
    kind: EntryKind
    step: str = ""
    reading: str = ""
    value: float | str | None = None
    unit: str = ""
    reason: Reason = ""
    refers_to: UUID | None = Field(None, validation_alias=AliasChoices("refers_to", "names"))
    checks: tuple[str, ...] = ()
    photo: str = ""
    note: Reason = ""
    made: datetime | None = None
    carries: tuple[str, ...] = ()
    resets: tuple[str, ...] = ()
    how: Literal["", "typed", "tapped", "device"] = ""
    beside: str = Field("", description="Whose session a lead's PIN was entered in.")

    @field_validator("made")
    @classmethod
    def _zoned(cls, made: datetime | None) -> datetime | None:
        """A time kept without a zone is read as UTC, so that it can be told from others."""
        return made.replace(tzinfo=UTC) if made and made.tzinfo is None else made

    @field_validator("value")
    @classmethod
    def _condition_id(cls, value: float | str | None, info: ValidationInfo) -> float | str | None:
        """A condition kept before conditions had ids is read as its id."""
        if info.data.get("reading") == "condition" and isinstance(value, str):
            return CONDITIONS_BEFORE.get(value, value)
        return value


class SentEntry(Entry):
    """An entry as a tablet sends it: nothing longer than a step can hold, times with their zone."""

    step: str = Field("", max_length=120)
    reading: str = Field("", max_length=60)
    value: Annotated[float, Field(allow_inf_nan=False)] | ValueText | None = None
    unit: str = Field("", max_length=20)
    checks: tuple[Annotated[str, Field(max_length=60)], ...] = Field((), max_length=60)
    photo: str = Field("", pattern="^([0-9a-f]{64})?$")
    made: AwareDatetime | None = None
    carries: tuple[Annotated[str, Field(max_length=120)], ...] = Field((), max_length=400)
    resets: tuple[Annotated[str, Field(max_length=120)], ...] = Field((), max_length=400)
    # Said by the server alone.
    beside: Literal[""] = ""

    def kept(self) -> Entry:
        """The same as it is kept."""
        return Entry.model_validate(self.model_dump())


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
