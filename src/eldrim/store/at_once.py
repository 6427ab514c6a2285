"""Entries kept by one statement, where nothing came between.

An entry is judged on what this process knows of its run and of who sends it. One statement then
looks, under the lock of the run, whether all of that still holds, and keeps the entry or nothing.
What is not settled so goes the long way, :func:`eldrim.store.runs.add`, under the same lock.
"""

from dataclasses import dataclass, replace
from datetime import UTC, datetime
from threading import Lock
from typing import Any
from uuid import UUID

from cachetools import LRUCache
from psycopg.types.json import Jsonb
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import ProblemsError, RunError
from eldrim.core.procedure.model import Plan
from eldrim.core.run.admission import Known
from eldrim.core.run.carried import as_kept
from eldrim.core.run.due import METER
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.state import RunState, with_entry
from eldrim.store import runs
from eldrim.store.accounts import SEEN_EVERY, Person, digest
from eldrim.store.edition_store import plan_of
from eldrim.store.errors import NotFoundError

# What ends a run, or is noted on it then, changes more than the run.
LONG_WAY = (EntryKind.SIGN, EntryKind.END, EntryKind.NOTE)
# Who writes in the same run at the same moment is heard of so often; then the run is locked.
TRIES = 3
KEEP = "SELECT * FROM keep_entry(%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)"


@dataclass(frozen=True)
class Standing:
    """A run after its entry ``seq``: what holds, and the columns that count on it.

    ``stood`` is where the meter of its unit stood before it.
    """

    seq: int
    state: RunState
    plan: Plan
    at: datetime
    serial: str
    stood: float | None
    hands: list[str]
    marks: dict[str, Any]
    meter: float | None


@dataclass(frozen=True)
class Sender:
    """Who sends an entry, as far as the request says: the sign-in's token, and that of the form."""

    token: str
    csrf: str


_standing: LRUCache[UUID, Standing] = LRUCache(512)
_people: LRUCache[str, Person] = LRUCache(1000)
_lock = Lock()


def forget() -> None:
    """Know nothing: another database may stand under the name."""
    with _lock:
        _standing.clear()
        _people.clear()


def remember(token: str, person: Person) -> None:
    """A sign-in was found good: entries by it may be kept at once while it is."""
    with _lock:
        _people[digest(token)] = person


def person_of(sender: Sender) -> Person | None:
    """Who was signed in by this token when it was looked at last; whether it still holds is asked
    with each entry.
    """
    with _lock:
        return _people.get(digest(sender.token))


def add(
    engine: Engine, factory: "sessionmaker[Session]", sender: Sender, key: UUID, entry: Entry
) -> tuple[RunState, Plan] | None:
    """Keep an entry and return the state after it, and the plan; None where the long way has to
    decide, and then nothing was kept.
    """
    person = person_of(sender)
    if person is None or entry.kind in LONG_WAY or entry.photo:
        return None
    with _lock:
        known = _standing.get(key)
    known = known or _read(factory, key)
    for _ in range(TRIES):
        found = _asked(engine, sender, person, key, known, entry) if known else None
        if found is None:
            _forget_run(key)
            return None
        known = found.standing
        _know(key, known)
        if found.kept:
            return known.state, known.plan
    return None


def _read(factory: "sessionmaker[Session]", key: UUID) -> Standing | None:
    """A run as it stands in the store. Its entries are read before its row: were the row older, a
    column of it would be written back as it was.
    """
    with factory() as session:
        seq, state = runs.folded(session, key)
        try:
            row = runs.run(session, key)
        except NotFoundError:
            return None
        plan, stood = plan_of(row.edition), runs.last_meter(session, row)
        columns = (list(row.hands), dict(row.marks), row.meter)
        known = Standing(seq, state, plan, row.at, row.serial, stood, *columns)
    with _lock:
        _standing[key] = known
    return known


@dataclass(frozen=True)
class _Found:
    """What a statement found: the run as it stands after it, and whether the entry is in it."""

    standing: Standing
    kept: bool


def _asked(
    engine: Engine, sender: Sender, person: Person, key: UUID, known: Standing, entry: Entry
) -> _Found | None:
    """Judge an entry, and keep it where what it was judged on holds; None for the long way."""
    role, entry = Role(person.role), as_kept(known.plan, known.state, entry)
    try:
        runs.require_time(known.at, entry)
        runs.judge(known.plan, known.state, entry, role, Known(known.serial, known.stood))
    except (RunError, ProblemsError):
        return None
    if runs.found_words(known.plan, entry):
        return None
    own = Recorded(entry=entry, by=person.name, role=role, at=datetime.now(UTC))
    after = _further(known, known.seq, own)
    values = _values(sender, person, key, known, entry, after)
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        rows = connection.exec_driver_sql(KEEP, values).all()
    if not rows:
        return None
    if rows[0].kept:
        own = own.model_copy(update={"at": rows[0].of_at})
        return _Found(_further(known, rows[0].of_seq, own), kept=True)
    for row in rows:
        read = Entry.model_validate(row.of_body)
        came = Recorded(entry=read, by=row.of_by, role=Role(row.of_role), at=row.of_at)
        known = _further(known, row.of_seq, came)
    return _Found(known, kept=False)


def _further(known: Standing, seq: int, recorded: Recorded) -> Standing:
    """The run after one entry more."""
    after = with_entry(known.state, recorded)
    changed = runs.columns_after(known, recorded.entry, recorded.by, after)
    return replace(known, seq=seq, state=after, **changed)


def _values(
    sender: Sender, person: Person, key: UUID, known: Standing, entry: Entry, after: Standing
) -> tuple[Any, ...]:
    """What the statement is asked with, in the order of its parameters."""
    return (
        digest(sender.token),
        sender.csrf,
        person.name,
        person.role,
        datetime.now(UTC) - SEEN_EVERY,
        key,
        known.seq,
        entry.reading == METER,
        known.stood,
        entry.id,
        Jsonb(runs.body_of(entry)),
        after.hands if after.hands != known.hands else None,
        Jsonb(after.marks) if after.marks != known.marks else None,
        after.meter != known.meter,
        after.meter,
    )


def _forget_run(key: UUID) -> None:
    """What was not taken may not have been taken for what is known here: read it anew next time."""
    with _lock:
        _standing.pop(key, None)


def _know(key: UUID, known: Standing) -> None:
    """Go on from here, where nobody went further meanwhile."""
    with _lock:
        kept = _standing.get(key)
        if kept is None or kept.seq < known.seq:
            _standing[key] = known
    runs.fold_on(key, known.seq, known.state)
