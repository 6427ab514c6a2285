"""Signed runs gathered: what the log is filtered by, and the plain rows it teaches by.

Each run is gathered once, those of a unit in the order they were signed: what one fits ends the
life of what was there. Runs of earlier versions are gathered as the log is looked at.
"""

from collections.abc import Sequence
from datetime import date, timedelta
from threading import Lock
from uuid import UUID

import structlog
from cachetools import LRUCache, cached
from sqlalchemy import ColumnElement, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.lessons.costs import planned_cost, real_cost
from eldrim.core.lessons.digest import RunDigest, Signed, digest
from eldrim.core.lessons.figures import WrenchWeek, clicks_of
from eldrim.core.run.history import Past
from eldrim.core.run.report import report
from eldrim.core.run.state import fold_all
from eldrim.core.words.language import reading_in
from eldrim.store import past_runs, rules, sheet_store
from eldrim.store.edition_store import plan_of
from eldrim.store.errors import NotFoundError
from eldrim.store.foreseen import COUNTS
from eldrim.store.lesson_tables import DigestRow, FittedPartRow, PartKindRow, WrenchWeekRow
from eldrim.store.tables import EditionRow, RunRow

log = structlog.get_logger("eldrim.gathered")
MAX_TOLD = 6_000
# The lock of who gathers.
GATHERING = 0x6C65726E
# Texts that say nothing.
NOTHING_SAID = ("", "none", "-")


def settle(session: Session, most: int) -> None:
    """Gather signed runs that are not yet, the oldest first, so many at a time."""
    waiting = select(RunRow).where(RunRow.signed_at.is_not(None), ~RunRow.gathered)
    if session.scalar(select(waiting.exists())) and _may_gather(session):
        for row in session.scalars(waiting.order_by(RunRow.signed_at, RunRow.id).limit(most)).all():
            _gather(session, row)


def _may_gather(session: Session) -> bool:
    """Whether it is ours to gather until the transaction ends: one at a time, since a life begun by
    one is ended by the next, and all count into the same rows. Nobody waits: what is not gathered
    now is as the log is looked at.
    """
    return bool(session.scalar(select(func.pg_try_advisory_xact_lock(GATHERING))))


def forget(session: Session) -> None:
    """Know nothing of any run: all are gathered anew, where runs came in that are older than what
    was gathered.
    """
    for table in (DigestRow, FittedPartRow, PartKindRow, WrenchWeekRow):
        session.execute(delete(table))
    session.execute(update(RunRow).values(gathered=False).where(RunRow.gathered))


def gather_unit(session: Session, unit: str) -> None:
    """Gather what was signed on a unit and is not yet, the oldest first."""
    waiting = select(RunRow).where(
        RunRow.unit_id == unit, RunRow.signed_at.is_not(None), ~RunRow.gathered
    )
    if not _may_gather(session):
        return
    for row in session.scalars(waiting.order_by(RunRow.signed_at, RunRow.id)).all():
        _gather(session, row)


def _gather(session: Session, row: RunRow) -> None:
    """Gather one run. What is only learnt from never stands in the way of a signature: a run that
    cannot be gathered is in the log all the same, and the server's log says why.
    """
    try:
        with session.begin_nested():
            past = past_runs.past_of_run(session, row)
            with reading_in(past.plan.job.language):
                _keep(session, row, past)
    except Exception:
        log.exception("a signed run was not gathered", run=str(row.id))
    row.gathered = True
    session.flush()


def _keep(session: Session, row: RunRow, past: Past) -> None:
    found = digest(past, _pace(session, past))
    _columns(session, row, past, found)
    session.merge(
        DigestRow(
            run_id=row.id,
            engine_id=past.plan.engine,
            procedure_id=row.edition.procedure_id,
            search=found.search.kind if found.search else "",
            signed_at=row.signed_at,
            document=found.model_dump(mode="json", exclude_defaults=True),
        )
    )
    _parts(session, row, past, found)
    _wrenches(session, row, found)
    session.flush()


def _pace(session: Session, past: Past) -> dict[str, float]:
    """The pace that the sheet of a run's edition states."""
    try:
        return dict(sheet_store.sheet(session, past.plan.engine, past.plan.revision).pace)
    except NotFoundError:
        return {}


def _columns(session: Session, row: RunRow, past: Past, found: RunDigest) -> None:
    row.found, row.parts = list(found.found), [number[:80] for number in found.numbers]
    row.said = said_in(row, past)
    row.took = found.took
    minute = rules.in_force(session).money_per_minute
    try:
        sheet = sheet_store.sheet(session, past.plan.engine)
    except NotFoundError:
        return
    row.cost_planned = planned_cost(sheet, past.plan, minute).total
    row.cost_real = real_cost(sheet, past.plan, found, minute).total


def said_in(row: RunRow, past: Past) -> str:
    """All that was said in a run, to be looked for."""
    said = [past.plan.title, past.plan.engine_name, row.unit.name, row.serial, row.bay]
    for line in report(past.plan, past.entries):
        if line.marks or line.left_out:
            said += [line.text, *line.marks]
        said += [value.value for value in line.values if _is_said(value.value)]
    notes = [one.entry.note for one in past.entries if one.entry.note]
    return " ".join(dict.fromkeys([*said, *notes, *row.parts]))[:MAX_TOLD]


def _is_said(value: str) -> bool:
    return value.strip().lower() not in NOTHING_SAID and not value.replace(".", "").isdigit()


def _parts(session: Session, row: RunRow, past: Past, found: RunDigest) -> None:
    """End the lives of what was found failed or renewed, and begin those of what was fitted."""
    inside = {
        (one.thing, one.hole): one
        for one in session.scalars(
            select(FittedPartRow).where(
                FittedPartRow.unit_id == row.unit_id, FittedPartRow.out_at.is_(None)
            )
        )
    }
    for gap in found.gaps:
        mine = inside.get(("plug", gap.hole))
        if mine is not None and gap.found is not None:
            mine.read_gap, mine.read_meter = gap.found, past.meter
    for failure in found.failed:
        mine = inside.get((failure.thing, failure.hole))
        if mine is not None and not mine.failed:
            mine.failed, mine.why, mine.out_meter = True, failure.why, past.meter
            _count(session, mine, failed=1)
    for one in found.new:
        before = inside.get((one.thing, one.hole))
        if before is not None:
            before.out_at, before.out_run_id = row.signed_at, row.id
            # One that failed before ran until then.
            before.out_meter = before.out_meter if before.failed else past.meter
    session.flush()
    _begin(session, row, past, found)


def _begin(session: Session, row: RunRow, past: Past, found: RunDigest) -> None:
    """Begin the lives of what a run fitted."""
    left = {("plug", gap.hole): gap.left for gap in found.gaps}
    for one in found.new:
        fitted = FittedPartRow(
            unit_id=row.unit_id,
            engine_id=past.plan.engine,
            thing=one.thing,
            hole=one.hole,
            number=one.number,
            counts=COUNTS.get(row.unit.meter, ""),
            run_id=row.id,
            at=row.signed_at or row.at,
            meter=past.meter,
            gap=left.get((one.thing, one.hole)),
        )
        session.add(fitted)
        _count(session, fitted, fitted=1)


def _count(session: Session, part: FittedPartRow, *, fitted: int = 0, failed: int = 0) -> None:
    row = insert(PartKindRow).values(
        thing=part.thing, number=part.number, fitted=fitted, failed=failed, newest=part.at
    )
    session.execute(
        row.on_conflict_do_update(
            index_elements=["thing", "number"],
            set_={
                "fitted": PartKindRow.fitted + fitted,
                "failed": PartKindRow.failed + failed,
                "newest": func.greatest(PartKindRow.newest, part.at),
            },
        )
    )


def _wrenches(session: Session, row: RunRow, found: RunDigest) -> None:
    day = (row.signed_at or row.at).date()
    week = day - timedelta(days=day.weekday())
    for wrench, (name, ratio) in clicks_of(found).items():
        said = insert(WrenchWeekRow).values(
            wrench=wrench, week=week, name=name[:200], ratio=ratio, runs=1, run_id=row.id
        )
        mean = (WrenchWeekRow.ratio * WrenchWeekRow.runs + ratio) / (WrenchWeekRow.runs + 1)
        session.execute(
            said.on_conflict_do_update(
                index_elements=["wrench", "week"],
                set_={"ratio": mean, "runs": WrenchWeekRow.runs + 1, "run_id": row.id},
            )
        )


def retell(session: Session, row: RunRow) -> None:
    """Let the log find what was noted on a run after it was gathered."""
    past = past_runs.past_of_run(session, row)
    with reading_in(past.plan.job.language):
        row.said = said_in(row, past)


def of_engine(session: Session, engine: str, most: int) -> list[Signed]:
    """The digests of the newest signed runs on an engine, newest first."""
    return _signed(session, most, DigestRow.engine_id == engine)


def of_procedure(session: Session, procedure: UUID, most: int) -> list[Signed]:
    """The digests of the newest signed runs of a procedure, newest first."""
    return _signed(session, most, DigestRow.procedure_id == procedure)


def going_on(session: Session, procedure: UUID, most: int) -> list[Signed]:
    """What the newest runs of a procedure that are not signed yet say so far: what a bay reports is
    not to wait for the signature.
    """
    query = (
        select(RunRow)
        .join(EditionRow, EditionRow.id == RunRow.edition_id)
        .where(EditionRow.procedure_id == procedure, RunRow.signed_at.is_(None))
        .order_by(RunRow.at.desc())
        .limit(most)
    )
    return [_so_far(session, row) for row in session.scalars(query).all()]


def _so_far(session: Session, row: RunRow) -> Signed:
    own, plan = past_runs.entries(session, row.id), plan_of(row.edition)
    past = Past(row.id, row.at, plan, own, fold_all(own))
    with reading_in(plan.job.language):
        found = digest(past, _pace(session, past))
    return Signed(
        run=row.id,
        at=row.at,
        unit=row.unit_id,
        engine=plan.engine,
        edition=row.edition_id,
        procedure=row.edition.procedure_id,
        title=plan.title,
        by=row.by,
        digest=found,
    )


def newest(session: Session, most: int) -> list[Signed]:
    """The digests of the newest signed runs of all, newest first."""
    return _signed(session, most)


def searches(session: Session, most: int) -> list[Signed]:
    """The digests of the newest searches for a cause."""
    return _signed(session, most, DigestRow.search != "")


def _signed(session: Session, most: int, *tests: ColumnElement[bool]) -> list[Signed]:
    query = (
        select(DigestRow, RunRow.unit_id, RunRow.edition_id, RunRow.by, EditionRow.title)
        .join(RunRow, RunRow.id == DigestRow.run_id)
        .join(EditionRow, EditionRow.id == RunRow.edition_id)
        .where(*tests)
        .order_by(DigestRow.signed_at.desc())
        .limit(most)
    )
    return [
        Signed(
            run=row.run_id,
            at=row.signed_at,
            unit=unit,
            engine=row.engine_id,
            edition=edition,
            procedure=row.procedure_id,
            title=title or "",
            by=by,
            digest=_read(row),
        )
        for row, unit, edition, by, title in session.execute(query)
    ]


# What a run leaves does not change.
@cached(LRUCache(1_000), key=lambda row: row.run_id, lock=Lock())
def _read(row: DigestRow) -> RunDigest:
    return RunDigest.model_validate(row.document)


def wrench_weeks(session: Session, since: date) -> list[WrenchWeek]:
    """What each wrench showed week by week since a day."""
    query = select(WrenchWeekRow).where(WrenchWeekRow.week >= since)
    rows: Sequence[WrenchWeekRow] = session.scalars(query).all()
    return [
        WrenchWeek(row.wrench, row.name, row.week, row.ratio, row.runs, row.run_id) for row in rows
    ]
