"""The tables. Documents are validated by the core; columns beside them are for finding.

Sheets and editions are kept as JSON, not JSONB: the order of joints in a sheet means something,
and a released edition must come back byte for byte.
"""

from datetime import date, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import (
    JSON,
    BigInteger,
    Computed,
    DateTime,
    Float,
    ForeignKey,
    Identity,
    Index,
    Integer,
    String,
    Text,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TSVECTOR
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

Json = dict[str, Any]


class Base(DeclarativeBase):
    """All tables."""

    type_annotation_map = {Json: JSONB, datetime: DateTime(timezone=True)}  # noqa: RUF012


class UserRow(Base):
    """An account."""

    __tablename__ = "users"
    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    display: Mapped[str] = mapped_column(String(80))
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str]
    pin_hash: Mapped[str | None]
    left_on: Mapped[datetime | None]
    language: Mapped[str | None] = mapped_column(String(8))


class SessionRow(Base):
    """A sign-in; only the hash of the cookie's token is kept."""

    __tablename__ = "sessions"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"))
    csrf: Mapped[str] = mapped_column(String(64))
    expires: Mapped[datetime]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen: Mapped[datetime] = mapped_column(server_default=func.now())
    agent: Mapped[str] = mapped_column(String(120), default="", server_default="")
    user: Mapped[UserRow] = relationship(lazy="joined")
    __table_args__ = (Index("sessions_of_user", "user_name"),)


class KnownDeviceRow(Base):
    """A browser somebody signed in at before; only the hash of its token is kept."""

    __tablename__ = "known_devices"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_name: Mapped[str] = mapped_column(
        ForeignKey("users.name", ondelete="CASCADE"), primary_key=True
    )
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class FirstStartRow(Base):
    """The code with which the first people of an empty workshop are made; its hash."""

    __tablename__ = "first_start"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    code_hash: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class TabletRow(Base):
    """What a tablet on a run said last. Not logged: lost with a crash, and soon said again."""

    __tablename__ = "tablets"
    run_id: Mapped[UUID] = mapped_column(primary_key=True)
    tablet: Mapped[str] = mapped_column(String(60), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    unsent: Mapped[int]
    refused: Mapped[int]
    __table_args__ = ({"prefixes": ["UNLOGGED"]},)


class AuditRow(Base):
    """What somebody did to the workshop itself. A trigger refuses any change."""

    __tablename__ = "audit"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp(), index=True)
    by: Mapped[str] = mapped_column(String(80))
    act: Mapped[str] = mapped_column(String(40))
    about: Mapped[str] = mapped_column(String(120))
    said: Mapped[dict[str, Any]] = mapped_column(JSONB)


class AttemptRow(Base):
    """A failed sign-in, for throttling."""

    __tablename__ = "sign_in_attempts"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    who: Mapped[str] = mapped_column(String(120), index=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    __table_args__ = (Index("sign_in_attempts_at", "at"),)


class EngineRow(Base):
    """One revision of an engine sheet; the newest is the one in force."""

    __tablename__ = "engine_sheets"
    id: Mapped[str] = mapped_column(String(48), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    make: Mapped[str] = mapped_column(String(120))
    name: Mapped[str] = mapped_column(String(120))
    document: Mapped[Json] = mapped_column(JSON, deferred=True)
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


def _of_document(kind: type, source: str) -> Mapped[Any]:
    return mapped_column(kind, Computed(source, persisted=True), nullable=True)


class ProcedureRow(Base):
    """A job on an engine and the trainer's draft of it. ``version`` guards concurrent edits."""

    __tablename__ = "procedures"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    engine_id: Mapped[str] = mapped_column(String(48), index=True)
    title: Mapped[str] = mapped_column(String(200))
    job: Mapped[Json]
    edits: Mapped[Json]
    departures: Mapped[Json] = mapped_column(default=dict, server_default="{}")
    version: Mapped[int] = mapped_column(default=1)
    review: Mapped[str] = mapped_column(String(200), default="")
    # A job; or the search for a cause of one run, which is no draft and stands in no list.
    kind: Mapped[str] = mapped_column(String(12), default="job", server_default="job")
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    # The same job in whatever language has the same.
    job_hash: Mapped[str] = mapped_column(
        String(32), Computed("md5((job - 'language')::text)", persisted=True)
    )
    # The newest edition that is not withdrawn.
    standing_id: Mapped[UUID | None]
    editions: Mapped[list["EditionRow"]] = relationship(
        order_by="EditionRow.number.desc()", back_populates="procedure"
    )
    __table_args__ = (
        Index("procedures_newest", text("at DESC"), "id"),
        Index("procedures_standing", "standing_id"),
        Index("procedures_same_job", "engine_id", "job_hash"),
    )


class EditionRow(Base):
    """A released procedure. A trigger refuses any change to its document."""

    __tablename__ = "editions"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    procedure_id: Mapped[UUID] = mapped_column(ForeignKey("procedures.id"), index=True)
    number: Mapped[int]
    # Large, and kept read by plan_of: fetched only when it is asked for.
    document: Mapped[Json] = mapped_column(JSON, deferred=True)
    edits: Mapped[Json] = mapped_column(JSON, default=dict, server_default="{}", deferred=True)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    # What it is listed and found by, read out of the document by the database.
    title: Mapped[str] = _of_document(Text, "document ->> 'title'")
    engine_id: Mapped[str] = _of_document(Text, "document ->> 'engine'")
    variant: Mapped[str] = _of_document(Text, "document ->> 'variant'")
    language: Mapped[str] = _of_document(Text, "coalesce(document -> 'job' ->> 'language', 'en')")
    minutes: Mapped[float] = _of_document(Float, "(document ->> 'minutes')::double precision")
    revision: Mapped[int] = _of_document(Integer, "(document ->> 'revision')::integer")
    rules_version: Mapped[int] = _of_document(
        Integer, "coalesce((document ->> 'rules_version')::integer, 0)"
    )
    crib_version: Mapped[int] = _of_document(
        Integer, "coalesce((document ->> 'crib_version')::integer, 0)"
    )
    procedure: Mapped[ProcedureRow] = relationship(back_populates="editions", lazy="joined")
    __table_args__ = (
        Index("editions_number", "procedure_id", "number", unique=True),
        Index("editions_for", "engine_id", "variant"),
        Index("editions_title", "title"),
        Index("editions_sheet", "engine_id", "revision"),
        Index("editions_rules", "rules_version"),
        Index("editions_crib", "crib_version"),
    )


class WithdrawalRow(Base):
    """That an edition is withdrawn: no run starts on it any more. Never changed."""

    __tablename__ = "withdrawals"
    edition_id: Mapped[UUID] = mapped_column(ForeignKey("editions.id"), primary_key=True)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class LetRunRow(Base):
    """That an edition runs on although its sheet has another revision by now. Never changed."""

    __tablename__ = "let_run"
    edition_id: Mapped[UUID] = mapped_column(ForeignKey("editions.id"), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class ApprovalRow(Base):
    """That somebody approved a draft as it stood at a version."""

    __tablename__ = "approvals"
    procedure_id: Mapped[UUID] = mapped_column(ForeignKey("procedures.id"), primary_key=True)
    version: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    by: Mapped[str] = mapped_column(String(40), primary_key=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class RulesRow(Base):
    """One version of the house rules; the newest is in force. Never changed."""

    __tablename__ = "house_rules"
    version: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    document: Mapped[Json] = mapped_column(JSON)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class CribRow(Base):
    """One version of the tool crib; the newest is in force. Never changed."""

    __tablename__ = "tool_crib"
    version: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    document: Mapped[Json] = mapped_column(JSON)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class DraftRow(Base):
    """One state of an engine being captured; undo and redo go along the numbers."""

    __tablename__ = "engine_drafts"
    engine_id: Mapped[str] = mapped_column(String(48), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    document: Mapped[Json] = mapped_column(JSON)
    what: Mapped[str] = mapped_column(String(200))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class DraftHeadRow(Base):
    """Which state of a captured engine is the present one."""

    __tablename__ = "engine_draft_heads"
    engine_id: Mapped[str] = mapped_column(String(48), primary_key=True)
    number: Mapped[int]


class TapRow(Base):
    """One tap of a teardown beside an engine; made by the tablet, so twice sent is once kept."""

    __tablename__ = "teardown_taps"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    engine_id: Mapped[str] = mapped_column(String(48), index=True)
    act: Mapped[str] = mapped_column(String(8))
    what: Mapped[str] = mapped_column(String(48))
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class ImageRow(Base):
    """A photo under the digest of its bytes. A trigger refuses any change."""

    __tablename__ = "images"
    digest: Mapped[str] = mapped_column(String(64), primary_key=True)
    data: Mapped[bytes]
    width: Mapped[int]
    height: Mapped[int]
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class TakeInRow(Base):
    """A file that was read and shown, and waits to be taken in. ``about`` is what it changes."""

    __tablename__ = "take_ins"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(String(120))
    about: Mapped[str] = mapped_column(String(80))
    data: Mapped[bytes]
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class SearchRow(Base):
    """One thing to be found: what it is, where it is, and its words."""

    __tablename__ = "search_entries"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    owner: Mapped[str] = mapped_column(String(80), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    address: Mapped[str] = mapped_column(String(300))
    title: Mapped[str] = mapped_column(String(300))
    body: Mapped[str] = mapped_column(Text)
    words: Mapped[str] = mapped_column(
        TSVECTOR,
        Computed(
            r"setweight(to_tsvector('simple', regexp_replace(title, '\W+', ' ', 'g')), 'A') || "
            r"setweight(to_tsvector('simple', regexp_replace(body, '\W+', ' ', 'g')), 'B')",
            persisted=True,
        ),
    )
    # Steps and findings are many: what is looked for most is found without them.
    __table_args__ = (
        Index(
            "search_entries_few",
            "words",
            postgresql_using="gin",
            postgresql_where=text("kind NOT IN ('step', 'finding')"),
        ),
        Index(
            "search_entries_many",
            "words",
            postgresql_using="gin",
            postgresql_where=text("kind IN ('step', 'finding')"),
        ),
    )


class UnitRow(Base):
    """A machine."""

    __tablename__ = "units"
    id: Mapped[str] = mapped_column(String(48), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    engine_id: Mapped[str] = mapped_column(String(48), index=True)
    variant: Mapped[str] = mapped_column(String(48))
    serial: Mapped[str] = mapped_column(String(60))
    meter: Mapped[str] = mapped_column(String(20))
    letters: Mapped[str] = mapped_column(String(40), default="")
    year: Mapped[int | None]
    told_by: Mapped[str] = mapped_column(String(200), default="")
    # What an unplanned stop of it costs; None: as the house says.
    stop_cost: Mapped[float | None]
    severe: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    # Where it stands, as the shop calls it.
    place: Mapped[str] = mapped_column(String(60), default="", server_default="")
    # False where what is due on it has to be worked out again.
    dues_known: Mapped[bool] = mapped_column(default=True, server_default=text("true"))
    __table_args__ = (Index("units_by_name", "name", "id"),)


class DueRow(Base):
    """One thing that is due on a unit, as its signed runs have it; worked out at each signing."""

    __tablename__ = "dues"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"))
    unit_id: Mapped[str] = mapped_column(ForeignKey("units.id"))
    kind: Mapped[str] = mapped_column(String(20))
    what: Mapped[str] = mapped_column(Text)
    on: Mapped[date | None]
    meter: Mapped[float | None]
    set_at: Mapped[datetime]
    # Of what is foreseen: from when to when it comes, what it is of, and why. After ``until`` it is
    # overdue.
    first: Mapped[date | None]
    until: Mapped[date | None]
    thing: Mapped[str] = mapped_column(String(48), default="", server_default="")
    at: Mapped[list[int]] = mapped_column(JSON, default=list, server_default="[]")
    why: Mapped[str] = mapped_column(Text, default="", server_default="")
    band: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    looks: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    unit: Mapped[UnitRow] = relationship(lazy="joined")
    __table_args__ = (
        Index("dues_by_day", "on", "id"),
        Index("dues_by_kind", "kind", "on", "id"),
        Index("dues_of_unit", "unit_id"),
        Index("dues_until", "until"),
    )


class WeekPlanRow(Base):
    """A week laid out over bays and people. ``version`` guards what two move at once."""

    __tablename__ = "week_plans"
    week: Mapped[str] = mapped_column(String(10), primary_key=True)
    document: Mapped[Json] = mapped_column(JSON)
    version: Mapped[int]
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class ProvenCauseRow(Base):
    """What a signed search proved to be behind its complaint. Several share where they were cured
    together.
    """

    __tablename__ = "proven_causes"
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    cause: Mapped[str] = mapped_column(String(40), primary_key=True)
    kind: Mapped[str] = mapped_column(String(40))
    engine_id: Mapped[str] = mapped_column(String(48))
    share: Mapped[float]
    __table_args__ = (Index("proven_causes_kind", "kind", "cause"),)


class ComplaintRow(Base):
    """What a unit is complained of: ``said`` as it was asked, ``words`` in a line; over once a
    search cured it, or somebody says why.
    """

    __tablename__ = "complaints"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    unit_id: Mapped[str] = mapped_column(ForeignKey("units.id"))
    said: Mapped[Json] = mapped_column(JSON)
    words: Mapped[str] = mapped_column(Text)
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    over_why: Mapped[str] = mapped_column(String(400), default="", server_default="")
    over_by: Mapped[str] = mapped_column(String(40), default="", server_default="")
    over_at: Mapped[datetime | None]
    unit: Mapped[UnitRow] = relationship(lazy="joined")
    __table_args__ = (Index("complaints_of_unit", "unit_id", "at"),)


class BayRow(Base):
    """A place in the shop where units are worked on."""

    __tablename__ = "bays"
    name: Mapped[str] = mapped_column(String(40), primary_key=True)


class RunRow(Base):
    """One execution of an edition on a unit. ``unfinished``: a lead ended it with things open."""

    __tablename__ = "runs"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    edition_id: Mapped[UUID] = mapped_column(ForeignKey("editions.id"), index=True)
    unit_id: Mapped[str] = mapped_column(ForeignKey("units.id"), index=True)
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)
    signed_at: Mapped[datetime | None] = mapped_column(index=True)
    bay: Mapped[str] = mapped_column(String(40), default="")
    unfinished: Mapped[bool] = mapped_column(default=False)
    # The plate as it was known when the run began.
    serial: Mapped[str] = mapped_column(String(120), default="", server_default="")
    # Who wrote in it, what in it is worth a second look by kind, and where the meter stood.
    hands: Mapped[list[str]] = mapped_column(ARRAY(String(40)), default=list, server_default="{}")
    marks: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict, server_default="{}")
    meter: Mapped[float | None]
    # What the log is filtered by, gathered once it is signed: ids of what was found, part numbers
    # that went in, all that was said; what it took in minutes, what it cost.
    gathered: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    found: Mapped[list[str]] = mapped_column(ARRAY(String(80)), default=list, server_default="{}")
    parts: Mapped[list[str]] = mapped_column(ARRAY(String(80)), default=list, server_default="{}")
    said: Mapped[str] = mapped_column(Text, default="", server_default="", deferred=True)
    words: Mapped[str] = mapped_column(
        TSVECTOR,
        Computed(r"to_tsvector('simple', regexp_replace(said, '\W+', ' ', 'g'))", persisted=True),
        nullable=True,
        deferred=True,
    )
    took: Mapped[float | None]
    cost_planned: Mapped[float | None]
    cost_real: Mapped[float | None]
    edition: Mapped[EditionRow] = relationship(lazy="joined")
    unit: Mapped[UnitRow] = relationship(lazy="joined")
    __table_args__ = (
        *(
            Index(
                f"runs_{name}",
                name,
                postgresql_using="gin",
                postgresql_where=text("signed_at IS NOT NULL"),
            )
            for name in ("found", "parts", "words")
        ),
        Index(
            "runs_to_gather",
            "signed_at",
            postgresql_where=text("signed_at IS NOT NULL AND NOT gathered"),
        ),
        Index("runs_of_unit", "unit_id", text("signed_at DESC")),
        Index("runs_open", text("at DESC"), "id", postgresql_where=text("signed_at IS NULL")),
        Index(
            "runs_log", text("signed_at DESC"), "id", postgresql_where=text("signed_at IS NOT NULL")
        ),
        Index(
            "runs_marked",
            text("signed_at DESC"),
            "id",
            postgresql_where=text("signed_at IS NOT NULL AND (unfinished OR marks <> '{}')"),
        ),
        Index("runs_unfinished", "unit_id", postgresql_where=text("unfinished")),
        Index("runs_hands", "hands", postgresql_using="gin"),
    )


class DueWithdrawalRow(Base):
    """That what a run set as due is due no more, by whom and why. Never changed."""

    __tablename__ = "due_withdrawals"
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(String(20), primary_key=True)
    reason: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class EntryRow(Base):
    """One thing written down in a run. A trigger refuses change and removal."""

    __tablename__ = "entries"
    id: Mapped[UUID] = mapped_column(primary_key=True)
    seq: Mapped[int] = mapped_column(BigInteger, Identity(), unique=True)
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"))
    body: Mapped[Json]
    by: Mapped[str] = mapped_column(String(40))
    role: Mapped[str] = mapped_column(String(20))
    at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    __table_args__ = (Index("entries_of_run", "run_id", "seq"),)
