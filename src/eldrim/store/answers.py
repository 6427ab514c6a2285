"""What trainers answer to what the bays say of a step; whoever reported it is told once."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.words.messages import gettext
from eldrim.store.errors import NotFoundError
from eldrim.store.lesson_tables import StepAnswerRow
from eldrim.store.tables import EditionRow, ProcedureRow

# So many are shown.
MOST = 60


@dataclass(frozen=True)
class Answer:
    """What a trainer says of a step: of which kind, in words; who reported it, in which runs."""

    id: UUID
    step: str
    step_text: str
    kind: str
    words: str
    reporters: tuple[str, ...]
    runs: tuple[UUID, ...]


def keep(session: Session, procedure: UUID, answer: Answer, by: str) -> None:
    """Keep an answer; the same form twice keeps one."""
    newest = select(func.max(EditionRow.number)).where(EditionRow.procedure_id == procedure)
    row = insert(StepAnswerRow).values(
        id=answer.id,
        procedure_id=procedure,
        step=answer.step,
        step_text=answer.step_text[:400],
        kind=answer.kind,
        words=answer.words,
        by=by,
        # Nobody is told what they said themselves.
        reporters=[name for name in answer.reporters if name != by],
        runs={"runs": [str(run) for run in answer.runs[:MOST]]},
        edition=session.scalar(newest) or 0,
    )
    session.execute(row.on_conflict_do_nothing())


def of_procedure(session: Session, procedure: UUID) -> Sequence[StepAnswerRow]:
    """The answers given at a procedure, newest first."""
    query = select(StepAnswerRow).where(StepAnswerRow.procedure_id == procedure)
    return session.scalars(query.order_by(StepAnswerRow.at.desc()).limit(MOST)).all()


def of_edition(session: Session, edition: EditionRow) -> list[StepAnswerRow]:
    """What was answered after the edition before this one: what it answers."""
    rows = of_procedure(session, edition.procedure_id)
    return [row for row in rows if row.edition == edition.number - 1]


def of_run(session: Session, procedure: UUID, run: UUID) -> list[StepAnswerRow]:
    """What was answered to what one run reported."""
    rows = of_procedure(session, procedure)
    return [row for row in rows if str(run) in row.runs["runs"]]


@dataclass(frozen=True)
class News:
    """An answer somebody has not read yet, and the procedure it is at."""

    row: StepAnswerRow
    title: str


def unread(session: Session, name: str) -> list[News]:
    """The answers to what a person reported that they have not read yet, newest first."""
    query = (
        select(StepAnswerRow, ProcedureRow.title)
        .join(ProcedureRow, ProcedureRow.id == StepAnswerRow.procedure_id)
        .where(StepAnswerRow.reporters.contains([name]), ~StepAnswerRow.read_by.contains([name]))
        .order_by(StepAnswerRow.at.desc())
        .limit(MOST)
    )
    return [News(row, title) for row, title in session.execute(query)]


def mark_read(session: Session, key: UUID, name: str) -> None:
    """A person has read an answer. Raises :class:`NotFoundError` where it was none to them."""
    row = session.get(StepAnswerRow, key, with_for_update=True)
    if row is None or name not in row.reporters:
        raise NotFoundError(gettext("There is no such answer to you."))
    if name not in row.read_by:
        row.read_by = [*row.read_by, name]
