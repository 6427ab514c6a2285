"""Searches for a cause: each with an edition of its own, and what they proved."""

import json
from datetime import datetime
from hashlib import sha256
from uuid import NAMESPACE_URL, UUID, uuid5

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.job import Work
from eldrim.core.procedure.model import CauseSearch, Plan
from eldrim.core.run.path import GONE, walk
from eldrim.core.run.state import RunState
from eldrim.store.edition_store import standing
from eldrim.store.procedure_store import SEARCH
from eldrim.store.tables import EditionRow, ProcedureRow, ProvenCauseRow, RunRow

REASON = "Computed for this run"
# What was gone once these changed places was their connection; of plugs it says nothing.
CONNECTION = {"coil": "connector", "injector": "injector-wiring"}


def edition_for(session: Session, run: UUID, plan: Plan, by: str) -> EditionRow:
    """The edition of a search that this run follows; the same asked for twice is made once.

    Its procedure is no draft and stands in no list: it is for this run alone.
    """
    document = plan.model_dump(mode="json")
    # Before it runs, another complaint may be said under the same key.
    same = sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()
    procedure, edition = (
        uuid5(NAMESPACE_URL, f"{run}/{same}/{what}") for what in ("procedure", "edition")
    )
    made = insert(ProcedureRow).values(
        id=procedure,
        engine_id=plan.engine,
        title=plan.title[:200],
        job=plan.job.model_dump(mode="json"),
        edits={},
        kind=SEARCH,
        by=by,
        at=func.clock_timestamp(),
    )
    session.execute(made.on_conflict_do_nothing())
    released = insert(EditionRow).values(
        id=edition,
        procedure_id=procedure,
        number=1,
        document=document,
        edits={},
        reason=REASON,
        by=by,
    )
    session.execute(released.on_conflict_do_nothing())
    return session.get_one(EditionRow, edition)


def edition_of_repair(
    session: Session, engine: str, variant: str, work: frozenset[Work], cylinders: tuple[int, ...]
) -> EditionRow | None:
    """The standing edition for just these cylinders and all of this work; None for none."""
    rows = session.scalars(
        standing()
        .where(EditionRow.engine_id == engine, EditionRow.variant == variant)
        .order_by(EditionRow.at.desc())
    )
    for row in rows:
        job = row.procedure.job
        if tuple(job["cylinders"]) == cylinders and work <= set(job["work"]):
            return row
    return None


def keep_proven(session: Session, row: RunRow, search: CauseSearch, state: RunState) -> bool:
    """Keep what a search proved once its run is signed: the shares of the causes it cured.

    False where it proved nothing.
    """
    proven = walk(search, state.closings, state.values).proven
    if proven is None:
        return False
    names = [cause.key for cause in search.causes]
    if proven.outcome == GONE:
        loose = CONNECTION.get(search.acts[proven.act].swaps, "")
        shares = {loose: 1.0} if loose in names else {}
    else:
        shares = {names[n]: share for n, share in enumerate(proven.beliefs) if share > 0}
    for cause, share in shares.items():
        said = insert(ProvenCauseRow).values(
            run_id=row.id,
            cause=cause,
            kind=search.kind,
            engine_id=row.edition.engine_id,
            share=share,
        )
        session.execute(said.on_conflict_do_nothing())
    return True


def disprove(session: Session, run: UUID) -> None:
    """Count what a search proved no more: what it cured came back."""
    session.execute(delete(ProvenCauseRow).where(ProvenCauseRow.run_id == run))


def proven_between(session: Session, unit: str, after: datetime, before: datetime | None) -> bool:
    """Whether a search on a unit proved a repair between two times; None is now."""
    query = (
        select(ProvenCauseRow.run_id)
        .join(RunRow)
        .where(RunRow.unit_id == unit, RunRow.signed_at > after)
    )
    if before is not None:
        query = query.where(RunRow.signed_at < before)
    return session.scalar(query.limit(1)) is not None


def proven_causes(session: Session) -> dict[str, dict[str, float]]:
    """How many proven cases of each cause there are, by kind of complaint."""
    query = select(ProvenCauseRow.kind, ProvenCauseRow.cause, func.sum(ProvenCauseRow.share))
    found: dict[str, dict[str, float]] = {}
    for kind, cause, cases in session.execute(
        query.group_by(ProvenCauseRow.kind, ProvenCauseRow.cause)
    ):
        found.setdefault(kind, {})[cause] = float(cases)
    return found
