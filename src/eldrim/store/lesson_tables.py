"""The tables of what the log teaches; all but views and answers follow from the signed runs."""

from datetime import date, datetime
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, String, func, text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column, relationship

from eldrim.store.tables import Base, Json, UnitRow

NEWEST = text("signed_at DESC")


class DigestRow(Base):
    """What a signed run leaves to learn from; ``search`` is the kind of complaint it searched."""

    __tablename__ = "run_digests"
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"), primary_key=True)
    engine_id: Mapped[str] = mapped_column(String(48))
    procedure_id: Mapped[UUID]
    search: Mapped[str] = mapped_column(String(40), default="", server_default="")
    signed_at: Mapped[datetime]
    document: Mapped[Json]
    __table_args__ = (
        Index("digests_of_engine", "engine_id", NEWEST),
        Index("digests_of_procedure", "procedure_id", NEWEST),
        Index("digests_newest", NEWEST),
        Index("digests_of_searches", NEWEST, postgresql_where=text("search <> ''")),
    )


class FittedPartRow(Base):
    """A thing that was fitted, until it was renewed: where, by which runs, how its gap grew, and
    whether it had failed. Gaps in mm; ``counts`` is km or h, empty where the meter counts neither.
    """

    __tablename__ = "fitted_parts"
    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    unit_id: Mapped[str] = mapped_column(ForeignKey("units.id"))
    engine_id: Mapped[str] = mapped_column(String(48))
    thing: Mapped[str] = mapped_column(String(48))
    hole: Mapped[str] = mapped_column(String(4))
    number: Mapped[str] = mapped_column(String(120))
    counts: Mapped[str] = mapped_column(String(4))
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"))
    at: Mapped[datetime]
    meter: Mapped[float | None]
    gap: Mapped[float | None]
    read_meter: Mapped[float | None]
    read_gap: Mapped[float | None]
    out_run_id: Mapped[UUID | None] = mapped_column(ForeignKey("runs.id"))
    out_at: Mapped[datetime | None]
    # Where the meter stood when it was found failed, else when it was renewed.
    out_meter: Mapped[float | None]
    failed: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    why: Mapped[str] = mapped_column(String(40), default="", server_default="")
    unit: Mapped[UnitRow] = relationship(lazy="joined")
    __table_args__ = (
        Index(
            "parts_in_place",
            "unit_id",
            "thing",
            "hole",
            unique=True,
            postgresql_where=text("out_at IS NULL"),
        ),
        Index("parts_by_number", "thing", "number", text("at DESC")),
        Index("parts_of_engine", "engine_id", text("at DESC")),
        Index("parts_newest", text("at DESC")),
        Index("parts_recalled", "number", "unit_id"),
    )


class PartKindRow(Base):
    """How many of a number were fitted, and how many of them failed."""

    __tablename__ = "part_kinds"
    thing: Mapped[str] = mapped_column(String(48), primary_key=True)
    number: Mapped[str] = mapped_column(String(120), primary_key=True)
    fitted: Mapped[int]
    failed: Mapped[int]
    newest: Mapped[datetime]


class WrenchWeekRow(Base):
    """What a torque wrench showed in a week, as a share of what it was set to; the newest run."""

    __tablename__ = "wrench_weeks"
    wrench: Mapped[str] = mapped_column(String(80), primary_key=True)
    week: Mapped[date] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    ratio: Mapped[float]
    runs: Mapped[int]
    run_id: Mapped[UUID] = mapped_column(ForeignKey("runs.id"))


class LogViewRow(Base):
    """A view of the log that somebody keeps under a name."""

    __tablename__ = "log_views"
    user_name: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    asked: Mapped[Json]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class StepAnswerRow(Base):
    """What a trainer answers to what the bays say of a step. ``reporters`` are those who said
    something of it in ``runs``, ``read_by`` those of them who have read the answer; ``edition`` is
    the number of the newest edition then. Only ``read_by`` changes.
    """

    __tablename__ = "step_answers"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    procedure_id: Mapped[UUID] = mapped_column(ForeignKey("procedures.id"))
    step: Mapped[str] = mapped_column(String(160))
    step_text: Mapped[str] = mapped_column(String(400))
    kind: Mapped[str] = mapped_column(String(12))
    words: Mapped[str] = mapped_column(String(400))
    by: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    reporters: Mapped[list[str]] = mapped_column(ARRAY(String(40)))
    read_by: Mapped[list[str]] = mapped_column(ARRAY(String(40)), default=list, server_default="{}")
    runs: Mapped[Json]
    edition: Mapped[int]
    __table_args__ = (
        Index("answers_of_procedure", "procedure_id", text("at DESC")),
        Index("answers_to", "reporters", postgresql_using="gin"),
    )
