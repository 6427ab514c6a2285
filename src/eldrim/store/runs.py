"""Runs and their entries. Whether an entry is admitted is decided by the core, under a row lock."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from threading import Lock
from uuid import UUID

from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.language import speaking
from eldrim.core.procedure.model import CONFIRMING, SIGNING, Plan
from eldrim.core.run.admission import Known, admit
from eldrim.core.run.carried import as_kept
from eldrim.core.run.due import DueKind, Signed, meter_now
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.report import finding_words
from eldrim.core.run.state import RunState, fold, with_entry
from eldrim.core.run.stops import reason_of
from eldrim.store import images, search
from eldrim.store.edition_store import edition, plan_of
from eldrim.store.errors import ConflictError, get_or_404
from eldrim.store.releases import withdrawal
from eldrim.store.tables import DueWithdrawalRow, EditionRow, EntryRow, RunRow
from eldrim.store.unit_store import unit


def start(
    session: Session, key: UUID, edition_id: UUID, unit_id: str, by: str, bay: str = ""
) -> RunRow:
    """Start a run of an edition on a unit; the same ``key`` again returns the same run.

    Raises :class:`ConflictError` when the edition is for another engine or variant than the
    unit's: the wrong sheet is the first mistake to make impossible.
    """
    plan, machine = plan_of(edition(session, edition_id)), unit(session, unit_id)
    if (plan.engine, plan.variant) != (machine.engine_id, machine.variant):
        raise ConflictError(
            f"{machine.name} has another engine or variant than this edition is for: "
            f"{plan.engine_name}, {plan.variant_name}."
        )
    gone = withdrawal(session, edition_id)
    if gone is not None and session.get(RunRow, key) is None:
        raise ConflictError(f"This edition was withdrawn: {gone.reason}. No run starts on it.")
    session.execute(
        insert(RunRow)
        .values(
            id=key, edition_id=edition_id, unit_id=unit_id, by=by, bay=bay, serial=machine.serial
        )
        .on_conflict_do_nothing()
    )
    return run(session, key)


def known(session: Session, key: UUID) -> bool:
    """Whether a run was started under this key."""
    return session.get(RunRow, key) is not None


def run(session: Session, key: UUID) -> RunRow:
    """One run with its edition and unit."""
    return get_or_404(session, RunRow, key, "There is no such run.")


def entries(session: Session, key: UUID) -> list[Recorded]:
    """All entries of a run in the order of acceptance."""
    rows = session.scalars(select(EntryRow).where(EntryRow.run_id == key).order_by(EntryRow.seq))
    return [_recorded(row) for row in rows]


# Entries are only ever added, so a fold goes on from where it was.
_folded: LRUCache[UUID, tuple[int, RunState]] = LRUCache(256)
_folded_lock = Lock()
WROTE = "wrote entries"
METERS_LOOKED_AT = 10
# A run signed so shortly before another starts on the same unit is worth a word.
LATELY = timedelta(hours=12)
# A date set this many signings ago, and passed over since, is still due.
SIGNED_LOOKED_AT = 12


def state(session: Session, key: UUID) -> RunState:
    """What holds in a run now."""
    with _folded_lock:
        seq, now = _folded.get(key, (0, RunState()))
    query = select(EntryRow).where(EntryRow.run_id == key, EntryRow.seq > seq)
    for row in session.scalars(query.order_by(EntryRow.seq)):
        seq, now = row.seq, with_entry(now, _recorded(row))
    # What this transaction wrote may yet be undone: only what others can see is kept.
    if not session.info.get(WROTE):
        with _folded_lock:
            _folded[key] = (seq, now)
    return now


def add(session: Session, key: UUID, entry: Entry, by: str, role: Role) -> RunState:
    """Add an entry and return the new state; an entry already there changes nothing.

    Raises :class:`~eldrim.core.errors.RunError` when the core refuses it, :class:`ConflictError`
    when its id already names an entry of another run or with other content, and
    :class:`~eldrim.core.errors.ProblemsError` for a time or a photo that cannot be.
    """
    session.execute(select(RunRow.id).where(RunRow.id == key).with_for_update())
    row = run(session, key)
    before = session.get(EntryRow, entry.id)
    now, plan = state(session, key), plan_of(row.edition)
    entry = as_kept(plan, now, entry)
    if before is not None:
        if before.run_id != key or not _same(Entry.model_validate(before.body), entry):
            raise ConflictError("This entry's id is already used for something else.")
        return now
    _require_bounds(session, row, entry)
    with speaking(plan.job.language):
        admit(plan, now, entry, role, Known(row.serial, last_meter(session, row)))
    body = entry.model_dump(mode="json", exclude_defaults=True)
    kept = EntryRow(id=entry.id, run_id=key, body=body, by=by, role=role.value)
    session.add(kept)
    session.info[WROTE] = True
    _index(session, row, plan, entry)
    if entry.kind in (EntryKind.SIGN, EntryKind.END):
        row.signed_at = session.scalar(select(func.clock_timestamp()))
        row.unfinished = entry.kind is EntryKind.END
    session.flush()
    return with_entry(now, Recorded(entry=entry, by=by, role=role, at=kept.at))


# How far the clock of a tablet may be from ours.
CLOCKS_APART = timedelta(days=1)


def _require_bounds(session: Session, row: RunRow, entry: Entry) -> None:
    now = datetime.now(UTC)
    if entry.made and not row.at - CLOCKS_APART <= entry.made <= now + CLOCKS_APART:
        said = f"{entry.made:%Y-%m-%d %H:%M} is not within a day of this run"
        raise ProblemsError([Problem("made", said, "set the clock of the tablet")])
    if entry.photo and not images.known(session, entry.photo):
        raise ProblemsError([Problem("photo", "this photo has not arrived", "send it first")])


def _index(session: Session, row: RunRow, plan: Plan, entry: Entry) -> None:
    """Let what an entry found be found."""
    step = next((s for s in plan.steps if s.key == entry.step), None)
    with speaking(plan.job.language):
        words = finding_words(step, entry) if step else ""
    if words:
        search.index_finding(session, row, entry, words)


def _same(one: Entry, other: Entry) -> bool:
    """Whether two entries say the same; what one carries is worked out here."""
    return one.model_copy(update={"carries": ()}) == other.model_copy(update={"carries": ()})


def last_meter(session: Session, row: RunRow) -> float | None:
    """Where the meter of a run's unit stood in the newest run before it; None where none said."""
    query = select(RunRow.id).where(RunRow.unit_id == row.unit_id, RunRow.at < row.at)
    for key in session.scalars(query.order_by(RunRow.at.desc()).limit(METERS_LOOKED_AT)):
        stood = meter_now(state(session, key))
        if stood is not None:
            return stood
    return None


def recent(session: Session, *, signed: bool, page: int = 1, size: int = 50) -> Sequence[RunRow]:
    """A page of runs, newest first: the signed ones, or those still open."""
    wanted = RunRow.signed_at.is_not(None) if signed else RunRow.signed_at.is_(None)
    query = select(RunRow).where(wanted).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(size).offset((page - 1) * size)).all()


def going_on_of(session: Session, name: str) -> Sequence[RunRow]:
    """The runs a person started, or wrote in, that are not signed; newest first."""
    wrote = select(EntryRow.run_id).where(EntryRow.by == name)
    query = select(RunRow).where(
        RunRow.signed_at.is_(None), (RunRow.by == name) | RunRow.id.in_(wrote)
    )
    return session.scalars(query.order_by(RunRow.at.desc(), RunRow.id)).all()


def signed(session: Session, unit: str | None = None) -> list[Signed]:
    """The newest signed runs of each edition on each unit, with their states; of one unit or all.

    Those that a lead ended unfinished are left out: nothing is due by them.
    """
    place = func.row_number().over(
        partition_by=(RunRow.unit_id, RunRow.edition_id), order_by=RunRow.signed_at.desc()
    )
    done = select(RunRow.id, place.label("place")).where(
        RunRow.signed_at.is_not(None), RunRow.unfinished.is_(False)
    )
    if unit is not None:
        done = done.where(RunRow.unit_id == unit)
    newest = done.subquery()
    query = select(RunRow).join(newest, newest.c.id == RunRow.id)
    withdrawn = _withdrawn(session)
    query = query.where(newest.c.place <= SIGNED_LOOKED_AT)
    rows = session.scalars(query).all()
    states = _at_signing(session, [r.id for r in rows])
    left_out = {row.id: _left_out(plan_of(row.edition), states[row.id]) for row in rows}
    did = _done_later(session, left_out)
    return [
        Signed(
            row.id,
            row.unit_id,
            row.unit.name,
            plan_of(row.edition).title,
            row.unit.meter,
            row.signed_at,
            states[row.id],
            withdrawn.get(row.id, frozenset()),
            left_out[row.id],
            did.get(row.id, frozenset()),
        )
        for row in rows
        if row.signed_at is not None
    ]


def _withdrawn(session: Session) -> dict[UUID, frozenset[DueKind]]:
    found: dict[UUID, frozenset[DueKind]] = {}
    for row in session.scalars(select(DueWithdrawalRow)):
        found[row.run_id] = found.get(row.run_id, frozenset()) | {DueKind(row.kind)}
    return found


def withdraw_due(session: Session, key: UUID, kind: DueKind, by: str, reason: str) -> None:
    """Say that what a run set as due is due no more; said twice it stays as it was said first."""
    row = run(session, key)
    said = insert(DueWithdrawalRow).values(run_id=row.id, kind=kind.value, by=by, reason=reason)
    session.execute(said.on_conflict_do_nothing())


def lately(session: Session, unit_id: str) -> Sequence[RunRow]:
    """Runs on a unit that go on, or were signed within ``LATELY``, newest first."""
    since = func.now() - LATELY
    query = select(RunRow).where(
        RunRow.unit_id == unit_id, RunRow.signed_at.is_(None) | (RunRow.signed_at > since)
    )
    return session.scalars(query.order_by(RunRow.at.desc(), RunRow.id)).all()


def drop(session: Session, key: UUID, by: str) -> None:
    """Forget a run started by mistake: by who started it, with nothing written down.

    Raises :class:`ConflictError` otherwise.
    """
    session.execute(select(RunRow.id).where(RunRow.id == key).with_for_update())
    row = run(session, key)
    if row.by != by or session.scalar(select(EntryRow.id).where(EntryRow.run_id == key).limit(1)):
        raise ConflictError("Only who started a run drops it, and only with nothing written down.")
    session.delete(row)
    session.flush()


def _at_signing(session: Session, keys: list[UUID]) -> dict[UUID, RunState]:
    """All that what is due needs: the entries at the first and last step, and what was left out."""
    step = EntryRow.body["step"].astext.in_((CONFIRMING, SIGNING))
    kind = EntryRow.body["kind"].astext.in_((EntryKind.SKIP, EntryKind.REOPEN, EntryKind.AGAIN))
    query = select(EntryRow).where(EntryRow.run_id.in_(keys), step | kind).order_by(EntryRow.seq)
    entered: dict[UUID, list[Recorded]] = {key: [] for key in keys}
    for row in session.scalars(query):
        entered[row.run_id].append(_recorded(row))
    return {key: fold(found) for key, found in entered.items()}


# Nothing is left to do where the thing is not there.
ABSENT = "absent"


def _left_out(plan: Plan, state: RunState) -> dict[str, str]:
    """What was left out of a run and stays to be done, in words by its step's key."""
    texts: dict[str, str] = {step.key: step.text for step in plan.steps}
    with speaking(plan.job.language):
        return {
            closing.entry.step: f"{texts.get(key, key)}: {reason_of(closing.entry)}"
            for key, closing in state.closings.items()
            if closing.entry.kind is EntryKind.SKIP
            and closing.entry.step == key
            and closing.entry.reason != ABSENT
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


def ended_unfinished(session: Session) -> Sequence[RunRow]:
    """The newest run of each unit, where a lead ended it unfinished."""
    place = func.row_number().over(
        partition_by=RunRow.unit_id, order_by=RunRow.signed_at.desc().nulls_last()
    )
    newest = select(RunRow.id, place.label("place")).where(RunRow.signed_at.is_not(None)).subquery()
    query = select(RunRow).join(newest, newest.c.id == RunRow.id)
    query = query.where(newest.c.place == 1, RunRow.unfinished)
    return session.scalars(query.order_by(RunRow.signed_at.desc())).all()


def of_procedure(
    session: Session, procedure: UUID, most: int = 50
) -> list[tuple[str, Plan, list[Recorded]]]:
    """The newest runs of any edition of a procedure: unit, the edition's plan, and the entries."""
    query = (
        select(RunRow)
        .join(EditionRow)
        .where(EditionRow.procedure_id == procedure)
        .order_by(RunRow.at.desc())
        .limit(most)
    )
    rows = session.scalars(query).all()
    every: dict[UUID, list[Recorded]] = {row.id: [] for row in rows}
    asked = select(EntryRow).where(EntryRow.run_id.in_(every)).order_by(EntryRow.seq)
    for entry in session.scalars(asked):
        every[entry.run_id].append(_recorded(entry))
    return [(r.unit.name, plan_of(r.edition), every[r.id]) for r in rows]


def of_unit(session: Session, unit: str) -> Sequence[RunRow]:
    """All runs on a unit, newest first."""
    query = select(RunRow).where(RunRow.unit_id == unit).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(200)).all()


def past(session: Session, unit: str, most: int = 6) -> list[Past]:
    """The newest runs on a unit that were signed or ended, with their entries; newest first."""
    query = select(RunRow).where(RunRow.unit_id == unit, RunRow.signed_at.is_not(None))
    rows = session.scalars(query.order_by(RunRow.signed_at.desc(), RunRow.id).limit(most)).all()
    found = []
    for row in rows:
        own = entries(session, row.id)
        found.append(Past(row.id, row.signed_at or row.at, plan_of(row.edition), own, fold(own)))
    return found


def _recorded(row: EntryRow) -> Recorded:
    return Recorded(entry=Entry.model_validate(row.body), by=row.by, role=Role(row.role), at=row.at)
