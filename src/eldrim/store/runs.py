"""Runs and their entries. Whether an entry is admitted is decided by the core, under a row lock."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from threading import Lock
from typing import Any, Protocol
from uuid import UUID

from cachetools import LRUCache
from sqlalchemy import Select, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, aliased

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.model import CONFIRMING, Plan
from eldrim.core.run.admission import Known, admit
from eldrim.core.run.carried import as_kept
from eldrim.core.run.due import METER, DueKind, meter_now
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.report import finding_words
from eldrim.core.run.state import RunState, with_entry
from eldrim.core.run.stops import CAME_BACK, PASSED, reason_of
from eldrim.core.words.language import reading_in
from eldrim.core.words.messages import gettext
from eldrim.store import complaints, dues, gathered, images, search, searches, tablets
from eldrim.store.edition_store import edition, plan_of
from eldrim.store.errors import ConflictError, NotFoundError, get_or_404
from eldrim.store.notices import tell
from eldrim.store.recorded import recorded
from eldrim.store.releases import withdrawal
from eldrim.store.tables import AuditRow, EditionRow, EngineRow, EntryRow, RunRow
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
            gettext(
                "{machine} has another engine or variant than this edition is for: "
                "{engine_name}, {variant_name}.",
                machine=machine.name,
                engine_name=plan.engine_name,
                variant_name=plan.variant_name,
            )
        )
    gone = withdrawal(session, edition_id)
    if gone is not None and session.get(RunRow, key) is None:
        raise ConflictError(
            gettext(
                "This edition was withdrawn: {reason}. No run starts on it.", reason=gone.reason
            )
        )
    session.execute(
        insert(RunRow)
        .values(
            id=key, edition_id=edition_id, unit_id=unit_id, by=by, bay=bay, serial=machine.serial
        )
        .on_conflict_do_nothing()
    )
    tell(session, "floor")
    return run(session, key)


def known(session: Session, key: UUID) -> bool:
    """Whether a run was started under this key."""
    return session.get(RunRow, key) is not None


def run(session: Session, key: UUID) -> RunRow:
    """One run with its edition and unit."""
    return get_or_404(session, RunRow, key, "There is no such run.")


# Entries are only ever added, so a fold goes on from where it was.
_folded: LRUCache[UUID, tuple[int, RunState]] = LRUCache(256)
_folded_lock = Lock()
WROTE, HELD = "wrote entries", "held run"


def forget_folds() -> None:
    """Fold every run anew: another database may stand under the name."""
    with _folded_lock:
        _folded.clear()


def fold_on(key: UUID, seq: int, now: RunState) -> None:
    """Keep what holds in a run after its entry ``seq``, committed meanwhile, if that is newer."""
    with _folded_lock:
        if _folded.get(key, (0, None))[0] < seq:
            _folded[key] = (seq, now)


def folded(session: Session, key: UUID) -> tuple[int, RunState]:
    """What holds in a run after its newest entry that is committed, and that entry's number."""
    now = state(session, key)
    with _folded_lock:
        seq, kept = _folded.get(key, (0, now))
    return seq, kept


# A run signed so shortly before another starts on the same unit is worth a word.
LATELY = timedelta(hours=12)
# What makes a run worth a second look, by the kind of the entry.
MARKS = (
    EntryKind.STOP,
    EntryKind.SKIP,
    EntryKind.DEVIATION,
    EntryKind.OVER,
    EntryKind.DIFFERS,
    EntryKind.NOTE,
)


def state(session: Session, key: UUID) -> RunState:
    """What holds in a run now."""
    return _state_and(session, key)[0]


def states(session: Session, keys: Sequence[UUID]) -> dict[UUID, RunState]:
    """What holds in each of these runs now, by one question."""
    with _folded_lock:
        now = {key: _folded.get(key, (0, RunState())) for key in keys}
    if not now:
        return {}
    newer = ((EntryRow.run_id == key) & (EntryRow.seq > seq) for key, (seq, _) in now.items())
    for row in session.scalars(select(EntryRow).where(or_(*newer)).order_by(EntryRow.seq)):
        now[row.run_id] = row.seq, with_entry(now[row.run_id][1], recorded(row))
    if not session.info.get(WROTE):
        for key, (seq, state_of_it) in now.items():
            fold_on(key, seq, state_of_it)
    return {key: state_of_it for key, (_, state_of_it) in now.items()}


def _state_and(
    session: Session, key: UUID, entry: UUID | None = None
) -> tuple[RunState, EntryRow | None]:
    """What holds in a run now, and the entry of this id, of whatever run; one question for both."""
    with _folded_lock:
        seq, now = _folded.get(key, (0, RunState()))
    newer = (EntryRow.run_id == key) & (EntryRow.seq > seq)
    asked = newer if entry is None else newer | (EntryRow.id == entry)
    named: EntryRow | None = None
    for row in session.scalars(select(EntryRow).where(asked).order_by(EntryRow.seq)):
        named = row if row.id == entry else named
        if row.run_id == key and row.seq > seq:
            seq, now = row.seq, with_entry(now, recorded(row))
    # What this transaction wrote may yet be undone: only what others can see is kept.
    if not session.info.get(WROTE):
        with _folded_lock:
            _folded[key] = (seq, now)
    return now, named


def add(session: Session, key: UUID, entry: Entry, by: str, role: Role) -> RunState:
    """Add an entry and return the new state; an entry already there changes nothing.

    Raises :class:`~eldrim.core.base.errors.RunError` when the core refuses it,
    :class:`ConflictError` when its id already names an entry of another run or with other
    content, and :class:`~eldrim.core.base.errors.ProblemsError` for a time or a photo that cannot
    be.
    """
    row = _locked(session, key)
    (now, before), plan = _state_and(session, key, entry.id), plan_of(row.edition)
    entry = as_kept(plan, now, entry)
    if before is not None:
        if before.run_id != key or not _same(Entry.model_validate(before.body), entry):
            raise ConflictError(gettext("This entry's id is already used for something else."))
        return now
    require_time(row.at, entry)
    if entry.photo and not images.known(session, entry.photo):
        raise ProblemsError(
            [Problem("photo", gettext("this photo has not arrived"), gettext("send it first"))]
        )
    stood = last_meter(session, row) if entry.reading == METER else None
    judge(plan, now, entry, role, Known(row.serial, stood))
    kept = EntryRow(id=entry.id, run_id=key, body=body_of(entry), by=by, role=role.value)
    session.add(kept)
    session.info[WROTE] = True
    words = found_words(plan, entry)
    if words:
        search.index_finding(session, row, entry, words)
    tell(session, *topics(key))
    after = with_entry(now, Recorded(entry=entry, by=by, role=role, at=datetime.now(UTC)))
    for name, value in columns_after(row, entry, by, after).items():
        setattr(row, name, value)
    if entry.kind in (EntryKind.SIGN, EntryKind.END):
        row.unfinished = entry.kind is EntryKind.END
        _ended(session, row, plan, after, by)
    if entry.kind is EntryKind.NOTE:
        _noted(session, row, entry, by)
    session.flush()
    return with_entry(now, Recorded(entry=entry, by=by, role=role, at=kept.at))


def _ended(session: Session, row: RunRow, plan: Plan, after: RunState, by: str) -> None:
    """What follows once a run is signed or ended: proven causes, what is learnt, what is due."""
    row.signed_at = session.scalar(select(func.clock_timestamp()))
    session.flush()
    if plan.search and searches.keep_proven(session, row, plan.search, after):
        complaints.cured(session, row.unit_id, by, plan.search)
    gathered.gather_unit(session, row.unit_id)
    dues.work_out(session, row.unit_id)
    tablets.forget(session, row.id)


def _noted(session: Session, row: RunRow, entry: Entry, by: str) -> None:
    """What a note on a signed run changes: what came back proves no cause any more; what proved
    itself needs no look any more.
    """
    session.flush()
    gathered.retell(session, row)
    if entry.reason == CAME_BACK:
        searches.disprove(session, row.id)
    if entry.reason == PASSED:
        dues.withdraw(session, row.id, DueKind.RECHECK, by, reason_of(entry))


def _locked(session: Session, key: UUID) -> RunRow:
    """The run as it stands, with nobody else writing in it until the transaction ends."""
    row = session.get(RunRow, key, with_for_update={"of": RunRow}, populate_existing=True)
    if row is None:
        raise NotFoundError(gettext("There is no such run."))
    # Held, so that the session need not read it again for who asks for it later.
    session.info[HELD] = row
    return row


def judge(plan: Plan, now: RunState, entry: Entry, role: Role, known: Known) -> None:
    """Raise :class:`~eldrim.core.base.errors.RunError`, in the language of the edition, where the
    core does not take an entry in this state.
    """
    with reading_in(plan.job.language):
        admit(plan, now, entry, role, known)


def body_of(entry: Entry) -> dict[str, Any]:
    """An entry as it is kept."""
    return entry.model_dump(mode="json", exclude_defaults=True)


def topics(key: UUID) -> tuple[str, ...]:
    """What an entry of a run changes, for who listens."""
    return "floor", f"run:{key}"


class InColumns(Protocol):
    """What lists and the next run need of the entries of a run: who wrote, how many marks of each
    kind, where the meter stood.
    """

    @property
    def hands(self) -> list[str]: ...
    @property
    def marks(self) -> dict[str, Any]: ...
    @property
    def meter(self) -> float | None: ...


def columns_after(row: InColumns, entry: Entry, by: str, after: RunState) -> dict[str, Any]:
    """The columns of a run that an entry changes, as they are after it."""
    changed: dict[str, Any] = {}
    if by not in row.hands:
        changed["hands"] = [*row.hands, by]
    if entry.kind in MARKS:
        changed["marks"] = {**row.marks, entry.kind.value: row.marks.get(entry.kind.value, 0) + 1}
    if (entry.step, entry.reading) == (CONFIRMING, METER) or entry.kind is EntryKind.REOPEN:
        stands = meter_now(after)
        if stands != row.meter:
            changed["meter"] = stands
    return changed


# How far the clock of a tablet may be from ours.
CLOCKS_APART = timedelta(days=1)


def require_time(start: datetime, entry: Entry) -> None:
    """Raise :class:`~eldrim.core.base.errors.ProblemsError` for an entry made long before its run
    began, or long after now.
    """
    now = datetime.now(UTC)
    if entry.made and not start - CLOCKS_APART <= entry.made <= now + CLOCKS_APART:
        said = gettext(
            "{made} is not within a day of this run", made=f"{entry.made:%Y-%m-%d %H:%M}"
        )
        raise ProblemsError([Problem("made", said, gettext("set the clock of the tablet"))])


def found_words(plan: Plan, entry: Entry) -> str:
    """What an entry found, to be looked for later; empty where it found nothing."""
    step = next((s for s in plan.steps if s.key == entry.step), None)
    with reading_in(plan.job.language):
        return finding_words(step, entry) if step else ""


def _same(one: Entry, other: Entry) -> bool:
    """Whether two entries say the same; what one carries is worked out here."""
    return one.model_copy(update={"carries": ()}) == other.model_copy(update={"carries": ()})


def last_meter(session: Session, row: RunRow) -> float | None:
    """Where the meter of a run's unit stood in the newest run before it; None where none said."""
    before = select(RunRow.meter).where(
        RunRow.unit_id == row.unit_id, RunRow.at < row.at, RunRow.meter.is_not(None)
    )
    return session.scalar(before.order_by(RunRow.at.desc()).limit(1))


def open_runs(session: Session, most: int | None = None, unit: str = "") -> Sequence[RunRow]:
    """The runs that go on, the one started last first; all, or on one unit."""
    query = select(RunRow).where(RunRow.signed_at.is_(None))
    if unit:
        query = query.where(RunRow.unit_id == unit)
    return session.scalars(query.order_by(RunRow.at.desc(), RunRow.id).limit(most)).all()


def open_mark(session: Session) -> tuple[object, ...]:
    """What tells whether any run that goes on may be shown otherwise: first the newest entry of
    all, then the newest change of a unit, person or sheet, and how many runs are open and the
    newest of them.
    """
    newest = (select(func.max(at)).scalar_subquery() for at in SHOWN_WITH_RUNS)
    asked = select(*newest, func.count(), func.max(RunRow.at)).where(RunRow.signed_at.is_(None))
    return tuple(session.execute(asked).one())


SHOWN_WITH_RUNS = (EntryRow.seq, AuditRow.id, EngineRow.at)


def open_count(session: Session) -> int:
    """How many runs go on."""
    return session.scalar(select(func.count()).where(RunRow.signed_at.is_(None))) or 0


def going_on_of(session: Session, name: str) -> Sequence[RunRow]:
    """The runs a person started, or wrote in, that are not signed; newest first."""
    wrote = RunRow.hands.contains([name])
    query = select(RunRow).where(RunRow.signed_at.is_(None), (RunRow.by == name) | wrote)
    return session.scalars(query.order_by(RunRow.at.desc(), RunRow.id)).all()


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
        raise ConflictError(
            gettext("Only who started a run drops it, and only with nothing written down.")
        )
    session.delete(row)
    tell(session, "floor", f"run:{key}")
    session.flush()


def ended_unfinished(session: Session, most: int) -> Sequence[RunRow]:
    """Where the newest run of a unit was ended unfinished by a lead, the latest first."""
    return session.scalars(_unfinished().order_by(RunRow.signed_at.desc()).limit(most)).all()


def ended_unfinished_count(session: Session) -> int:
    """How many units have as their newest run one that a lead ended unfinished."""
    return session.scalar(select(func.count()).select_from(_unfinished().subquery())) or 0


def _unfinished() -> Select[RunRow]:
    later = aliased(RunRow)
    since = select(later.id).where(
        later.unit_id == RunRow.unit_id, later.signed_at > RunRow.signed_at
    )
    return select(RunRow).where(RunRow.unfinished, ~since.exists())


def of_unit(session: Session, unit: str, most: int) -> Sequence[RunRow]:
    """The newest runs on a unit, the one started last first."""
    query = select(RunRow).where(RunRow.unit_id == unit).order_by(RunRow.at.desc(), RunRow.id)
    return session.scalars(query.limit(most)).all()


def costs(session: Session, unit: str, most: int = 200) -> dict[UUID, tuple[float, float]]:
    """What the newest signed runs on a unit were planned to cost and came to, where it is known."""
    query = (
        select(RunRow.id, RunRow.cost_planned, RunRow.cost_real)
        .where(RunRow.unit_id == unit, RunRow.signed_at.is_not(None), RunRow.cost_real.is_not(None))
        .order_by(RunRow.signed_at.desc())
        .limit(most)
    )
    return {key: (planned or 0.0, real or 0.0) for key, planned, real in session.execute(query)}


def costs_of_procedure(session: Session, procedure: UUID, most: int = 60) -> list[float]:
    """What the newest signed runs of a procedure came to, those ended unfinished left out."""
    query = (
        select(RunRow.cost_real)
        .join(EditionRow, EditionRow.id == RunRow.edition_id)
        .where(
            EditionRow.procedure_id == procedure,
            RunRow.signed_at.is_not(None),
            RunRow.unfinished.is_(False),
            RunRow.cost_real.is_not(None),
        )
        .order_by(RunRow.signed_at.desc())
        .limit(most)
    )
    return [float(cost) for cost in session.scalars(query) if cost is not None]


def count_of_unit(session: Session, unit: str) -> int:
    """How many runs a unit has had."""
    return session.scalar(select(func.count()).where(RunRow.unit_id == unit)) or 0
