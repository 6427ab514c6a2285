"""Which released procedure does what is due."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import select, tuple_
from sqlalchemy.orm import Session

from eldrim.core.job import Job
from eldrim.core.run.due import Due, DueKind
from eldrim.store.tables import EditionRow, ProcedureRow, RunRow

# Procedures of one engine and variant that are looked through.
LOOKED_AT = 400


class Released(NamedTuple):
    """A released procedure: what it is started by, its title, its minutes."""

    edition: UUID
    title: str
    number: int
    minutes: float


class _Standing(NamedTuple):
    engine: str
    variant: str
    procedure: UUID
    job: Job
    released: Released


def jobs_for(session: Session, dues: Sequence[Due]) -> list[Released | None]:
    """For each thing due the shortest released procedure that does it; None where there is none."""
    standing = _standing(session, {(one.engine, one.variant) for one in dues})
    mine = _own(session, [one.run for one in dues if not one.is_foreseen])
    return [_fitting(one, standing, mine) for one in dues]


def _standing(session: Session, kinds: set[tuple[str, str]]) -> list[_Standing]:
    if not kinds:
        return []
    query = (
        select(EditionRow, ProcedureRow)
        .join(ProcedureRow, ProcedureRow.standing_id == EditionRow.id)
        .where(tuple_(EditionRow.engine_id, EditionRow.variant).in_(kinds))
        .order_by(EditionRow.minutes, EditionRow.id)
        .limit(LOOKED_AT)
    )
    return [
        _Standing(
            edition.engine_id,
            edition.variant,
            procedure.id,
            Job.model_validate(procedure.job),
            Released(edition.id, edition.title, edition.number, edition.minutes),
        )
        for edition, procedure in session.execute(query)
    ]


def _own(session: Session, runs: Iterable[UUID]) -> dict[UUID, UUID]:
    """The procedure of each of these runs."""
    query = (
        select(RunRow.id, EditionRow.procedure_id)
        .join(EditionRow, EditionRow.id == RunRow.edition_id)
        .where(RunRow.id.in_(list(runs)))
    )
    return {run: procedure for run, procedure in session.execute(query)}


def _fitting(one: Due, standing: list[_Standing], mine: dict[UUID, UUID]) -> Released | None:
    here = [s for s in standing if (s.engine, s.variant) == (one.engine, one.variant)]
    if not one.is_foreseen:
        own = mine.get(one.run)
        return next((s.released for s in here if s.procedure == own), None)
    inspect = one.kind is DueKind.INTERVAL and one.looks
    return next((s.released for s in here if s.job.does(one.thing, one.at, looks=inspect)), None)
