"""What is due, kept as the signed runs have it: worked out for a unit at each signing there."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import ColumnElement, delete, func, nulls_last, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.procedure.model import CONFIRMING, SIGNING
from eldrim.core.run.due import Due, DueKind, Signed, due
from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.search_report import watched
from eldrim.core.run.state import RunState, fold
from eldrim.core.run.stops import reason_of
from eldrim.core.run.verdicts import taken_up
from eldrim.core.words import say, sentences
from eldrim.core.words.language import reading_in
from eldrim.store import rules
from eldrim.store.edition_store import plan_of
from eldrim.store.errors import get_or_404
from eldrim.store.foreseen import foreseen_rows
from eldrim.store.notices import tell
from eldrim.store.paging import COUNTED
from eldrim.store.procedure_store import SEARCH
from eldrim.store.recorded import recorded
from eldrim.store.tables import (
    AuditRow,
    DueRow,
    DueWithdrawalRow,
    EditionRow,
    EntryRow,
    RunRow,
    UnitRow,
)


def work_out(session: Session, unit: str) -> None:
    """Keep what is due on a unit now, in the place of what was before."""
    # Two who sign on one unit at once: the second works it out from both.
    row = session.get_one(UnitRow, unit, with_for_update=True)
    tell(session, "due")
    session.execute(delete(DueRow).where(DueRow.unit_id == unit))
    session.add_all(
        DueRow(
            run_id=one.run,
            unit_id=unit,
            kind=one.kind.value,
            what=one.what,
            on=one.on,
            meter=one.meter,
            set_at=one.set_at,
            until=one.on,
        )
        for one in due(signed(session, unit))
    )
    session.add_all(foreseen_rows(session, row))
    row.dues_known = True
    session.flush()


def of_unit(session: Session, unit: str) -> list[Due]:
    """What is due on a unit, soonest first."""
    return _asked(session, DueRow.unit_id == unit)


def soonest(session: Session, most: int, after: int = 0) -> list[Due]:
    """What is due over all units, soonest first; work that was left out is not among it."""
    return _asked(session, DueRow.kind != DueKind.NOT_DONE.value, most=most, after=after)


def overdue(session: Session, today: date, most: int) -> list[Due]:
    """What should have been done by now, the longest overdue first."""
    return _asked(session, DueRow.until < today, most=most)


def not_done(session: Session, most: int) -> list[Due]:
    """What was left out of runs and stays to be done."""
    return _asked(session, DueRow.kind == DueKind.NOT_DONE.value, most=most)


def counts(session: Session, today: date) -> dict[str, int]:
    """How much is due, overdue and not done over all units; of each one more than is counted where
    there are more.
    """
    left_out = DueRow.kind == DueKind.NOT_DONE.value
    tests = {"due": ~left_out, "overdue": DueRow.until < today, "not_done": left_out}
    some = {name: select(DueRow.id).where(test).limit(COUNTED + 1) for name, test in tests.items()}
    counted = (select(func.count()).select_from(one.subquery()) for one in some.values())
    found = session.execute(select(*(one.scalar_subquery() for one in counted))).one()
    return dict(zip(some, map(int, found), strict=True))


@dataclass(frozen=True)
class DueFilter:
    """Which of what is due: of a unit, an engine, a kind, a place; empty: all."""

    unit: str = ""
    engine: str = ""
    kind: str = ""
    place: str = ""


def filtered(session: Session, which: DueFilter, most: int, after: int = 0) -> list[Due]:
    """What is due of these, soonest first; what has no day stands last."""
    tests = [DueRow.kind != DueKind.NOT_DONE.value]
    tests += [DueRow.unit_id == which.unit] if which.unit else []
    tests += [DueRow.kind == which.kind] if which.kind else []
    if which.engine or which.place:
        units = select(UnitRow.id)
        units = units.where(UnitRow.engine_id == which.engine) if which.engine else units
        units = units.where(UnitRow.place == which.place) if which.place else units
        tests.append(DueRow.unit_id.in_(units))
    return _asked(session, *tests, most=most, after=after)


def places(session: Session) -> list[str]:
    """Where units stand."""
    query = select(UnitRow.place).where(UnitRow.place != "").distinct().order_by(UnitRow.place)
    return list(session.scalars(query.limit(PLACES)))


def engines(session: Session) -> list[str]:
    """The engines of units on which something is due."""
    query = select(UnitRow.engine_id).where(UnitRow.id.in_(select(DueRow.unit_id))).distinct()
    return list(session.scalars(query.order_by(UnitRow.engine_id).limit(PLACES)))


# So many are offered to choose from.
PLACES = 200


def with_a_day(session: Session, unit: str = "") -> list[Due]:
    """All that has a day, of one unit or of all."""
    tests = [DueRow.on.is_not(None)]
    return _asked(session, *tests, *([DueRow.unit_id == unit] if unit else []))


def all_unknown(session: Session) -> None:
    """What is due everywhere is worked out again: what it goes by has changed."""
    session.execute(update(UnitRow).values(dues_known=False))


def settle(session: Session, most: int) -> None:
    """Work out what is due on units where that is not known, so many at a time."""
    unknown = select(UnitRow.id).where(UnitRow.dues_known.is_(False)).order_by(UnitRow.id)
    for unit in session.scalars(unknown.limit(most)).all():
        work_out(session, unit)


def mark(session: Session) -> tuple[object, ...]:
    """What tells whether anything that is due may read otherwise: it follows from the runs signed
    and from what was withdrawn, and a unit that is called otherwise stands in the audit trail.
    """
    newest = (func.max(DueRow.id), func.max(RunRow.signed_at), func.max(AuditRow.id))
    withdrawn = select(func.count()).select_from(DueWithdrawalRow).scalar_subquery()
    asked = select(*(select(one).scalar_subquery() for one in newest), withdrawn)
    return tuple(session.execute(asked).one())


def _asked(
    session: Session, *tests: ColumnElement[bool], most: int | None = None, after: int = 0
) -> list[Due]:
    query = select(DueRow).where(*tests).order_by(nulls_last(DueRow.on), DueRow.id)
    rows: Sequence[DueRow] = session.scalars(query.limit(most).offset(after)).all()
    return [_due(row) for row in rows]


def _due(row: DueRow) -> Due:
    return Due(
        run=row.run_id,
        unit=row.unit_id,
        unit_name=row.unit.name,
        kind=DueKind(row.kind),
        what=row.what,
        on=row.on,
        meter=row.meter,
        meter_unit=row.unit.meter,
        set_at=row.set_at,
        first=row.first,
        until=row.until,
        thing=row.thing,
        at=tuple(row.at),
        why=row.why,
        band=row.band,
        looks=row.looks,
        place=row.unit.place,
        engine=row.unit.engine_id,
        variant=row.unit.variant,
    )


# A date set this many signings ago, and passed over since, is still due.
SIGNED_LOOKED_AT = 12


def signed(session: Session, unit: str) -> list[Signed]:
    """The newest signed runs of each edition on a unit, with their states.

    Those that a lead ended unfinished are left out: nothing is due by them.
    """
    rows = _newest_signed(session, unit)
    withdrawn = _withdrawn(session, [row.id for row in rows])
    states = _at_signing(session, [r.id for r in rows])
    left_out = {row.id: _left_out(row.edition, states[row.id]) for row in rows}
    found = _searches(session, rows)
    follow_ups = {
        row.id: {**_follow_ups(row.edition, states[row.id]), **found.get(row.id, {})}
        for row in rows
    }
    asked = {key: {**left_out[key], **follow_ups[key]} for key in left_out}
    did = _done_later(session, asked)
    recheck = rules.in_force(session).recheck
    return [
        Signed(
            row.id,
            row.unit_id,
            row.unit.name,
            row.edition.title,
            row.unit.meter,
            row.signed_at,
            states[row.id],
            withdrawn.get(row.id, frozenset()),
            left_out[row.id],
            did.get(row.id, frozenset()),
            follow_ups[row.id],
            recheck,
        )
        for row in rows
        if row.signed_at is not None
    ]


def _newest_signed(session: Session, unit: str) -> Sequence[RunRow]:
    place = func.row_number().over(
        partition_by=(RunRow.unit_id, RunRow.edition_id), order_by=RunRow.signed_at.desc()
    )
    done = select(RunRow.id, place.label("place")).where(
        RunRow.unit_id == unit, RunRow.signed_at.is_not(None), RunRow.unfinished.is_(False)
    )
    newest = done.subquery()
    query = select(RunRow).join(newest, newest.c.id == RunRow.id)
    return session.scalars(query.where(newest.c.place <= SIGNED_LOOKED_AT)).all()


def _withdrawn(session: Session, keys: list[UUID]) -> dict[UUID, frozenset[DueKind]]:
    found: dict[UUID, frozenset[DueKind]] = {}
    for row in session.scalars(select(DueWithdrawalRow).where(DueWithdrawalRow.run_id.in_(keys))):
        found[row.run_id] = found.get(row.run_id, frozenset()) | {DueKind(row.kind)}
    return found


def withdraw(session: Session, key: UUID, kind: DueKind, by: str, reason: str) -> None:
    """Say that what a run set as due is due no more; said twice it stays as it was said first."""
    row = get_or_404(session, RunRow, key, "There is no such run.")
    said = insert(DueWithdrawalRow).values(run_id=row.id, kind=kind.value, by=by, reason=reason)
    session.execute(said.on_conflict_do_nothing())
    work_out(session, row.unit_id)


LOOKED_AT = (EntryKind.SKIP, EntryKind.REOPEN, EntryKind.AGAIN, EntryKind.VERDICT)


def _at_signing(session: Session, keys: list[UUID]) -> dict[UUID, RunState]:
    """All that what is due needs: the entries at the first and last step, and what was left out."""
    step = EntryRow.body["step"].astext.in_((CONFIRMING, SIGNING))
    kind = EntryRow.body["kind"].astext.in_(LOOKED_AT)
    query = select(EntryRow).where(EntryRow.run_id.in_(keys), step | kind).order_by(EntryRow.seq)
    entered: dict[UUID, list[Recorded]] = {key: [] for key in keys}
    for row in session.scalars(query):
        entered[row.run_id].append(recorded(row))
    return {key: fold(found) for key, found in entered.items()}


def _follow_ups(edition: EditionRow, state: RunState) -> dict[str, str]:
    """What was taken up of the verdicts on a run's plugs, in words by the step that read them."""
    taken = taken_up(state)
    if not taken:
        return {}
    found: dict[str, str] = {}
    with reading_in(plan_of(edition).job.language):
        for entry, said in taken:
            act = say(f"reading.now.{said.act}")
            words = say("reading.follow_up", verdict=said.title, act=act)
            # Several may have been seen at one plug.
            found[entry.step] = sentences(
                f"{found[entry.step]}." if entry.step in found else "", words
            )
    return found


def _searches(session: Session, rows: Sequence[RunRow]) -> dict[UUID, dict[str, str]]:
    """What is watched after a search that proved something, by the step that proved it."""
    keys = [row.id for row in rows if row.edition.procedure.kind == SEARCH]
    query = select(EntryRow).where(EntryRow.run_id.in_(keys)).order_by(EntryRow.seq)
    entered: dict[UUID, list[Recorded]] = {key: [] for key in keys}
    for entry in session.scalars(query) if keys else ():
        entered[entry.run_id].append(recorded(entry))
    found: dict[UUID, dict[str, str]] = {}
    for row in rows:
        if row.id in entered:
            plan = plan_of(row.edition)
            with reading_in(plan.job.language):
                found[row.id] = watched(plan, fold(entered[row.id]))
    return found


# Nothing is left to do where the thing is not there.
ABSENT = "absent"


def _left_out(edition: EditionRow, state: RunState) -> dict[str, str]:
    """What was left out of a run and stays to be done, in words by its step's key."""
    left = {
        closing.entry.step: closing
        for key, closing in state.closings.items()
        if closing.entry.kind is EntryKind.SKIP
        and closing.entry.step == key
        and closing.entry.reason != ABSENT
    }
    if not left:
        return {}
    plan = plan_of(edition)
    texts: dict[str, str] = {step.key: step.text for step in plan.steps}
    with reading_in(plan.job.language):
        return {
            key: f"{texts.get(key, key)}: {reason_of(closing.entry)}"
            for key, closing in left.items()
        }


def _done_later(
    session: Session, left_out: dict[UUID, dict[str, str]]
) -> dict[UUID, frozenset[str]]:
    """Of the steps that any run left out, those that each run did."""
    steps = {step for found in left_out.values() for step in found}
    if not steps:
        return {}
    done = EntryRow.body["kind"].astext == EntryKind.DONE
    at_step = EntryRow.body["step"].astext
    query = select(EntryRow.run_id, at_step).where(EntryRow.run_id.in_(left_out), done)
    found: dict[UUID, frozenset[str]] = {}
    for run, step in session.execute(query.where(at_step.in_(steps))):
        if step not in left_out[run]:
            found[run] = found.get(run, frozenset()) | {step}
    return found
