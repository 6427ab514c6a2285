"""Entries kept by one statement: what it keeps is what the long way keeps, and it takes nothing
that the long way would not take.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import timedelta
from threading import Thread
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, event, select, text
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.state import RunState, fold
from eldrim.core.run.stops import stops_at
from eldrim.store import accounts, at_once, past_runs, runs
from eldrim.store.accounts import Caller
from eldrim.store.at_once import Sender
from eldrim.store.edition_store import plan_of
from eldrim.store.tables import EntryRow, RunRow
from tests.store.test_store import begin, reading

Store = sessionmaker[Session]


@dataclass
class Tablet:
    """Somebody signed in, who sends entries of one run."""

    database: Engine
    store: Store
    run: UUID
    sender: Sender
    short: int = field(default=0)

    def at_once(self, entry: Entry, run: UUID | None = None) -> tuple[RunState, Plan] | None:
        """Only by the one statement."""
        return at_once.add(self.database, self.store, self.sender, run or self.run, entry)

    def send(self, entry: Entry) -> RunState:
        """As the server does: at once, or the long way."""
        kept = self.at_once(entry)
        if kept:
            self.short += 1
            return kept[0]
        return self.long_way(entry)

    def long_way(self, entry: Entry) -> RunState:
        """Only under the lock."""
        with self.store.begin() as session:
            return runs.add(session, self.run, entry, "technician", Role.TECHNICIAN)

    def kept(self) -> list[Recorded]:
        """What is in the store."""
        with self.store() as session:
            return past_runs.entries(session, self.run)

    def columns(self) -> tuple[list[str], dict[str, int], float | None]:
        """What lists show of the run."""
        with self.store() as session:
            row = runs.run(session, self.run)
            return row.hands, row.marks, row.meter


@pytest.fixture
def tablet(database: Engine, store: Store) -> Tablet:
    """A technician signed in, with a new run on tug 14; nothing known of either yet."""
    at_once.forget()
    runs.forget_folds()
    run = begin(store)
    with store.begin() as session:
        found = accounts.sign_in(session, "technician", "eldrim-demo", Caller("a"))
        assert found is not None
        person = accounts.session_of(session, found.token)
        assert person is not None
    at_once.remember(found.token, person)
    return Tablet(database, store, run.id, Sender(found.token, person.csrf))


@contextmanager
def statements(engine: Engine) -> Iterator[list[str]]:
    """What is asked of the database meanwhile."""
    asked: list[str] = []

    def note(_: object, __: object, statement: str, *___: object) -> None:
        asked.append(statement)

    event.listen(engine, "before_cursor_execute", note)
    try:
        yield asked
    finally:
        event.remove(engine, "before_cursor_execute", note)


def closing(tablet: Tablet) -> list[Entry]:
    """What closes the first steps of the run, up to a stop, a difference and a step left out."""
    with tablet.store() as session:
        plan = plan_of(runs.run(session, tablet.run).edition)
    typical = {"serial": "2231", "meter": 19000.0, "codes": "none", "volts": 12.6}
    made: list[Entry] = []
    for step in plan.steps[:5]:
        for one in step.readings:
            value = typical.get(one.key, one.choices[0] if one.choices else "sound")
            made.append(reading(value, step=step.key, reading=one.key, unit=one.unit))
        checks = [check.key for check in step.checks]
        made.append(_entry(EntryKind.DONE, step.key, checks=checks))
    here = plan.steps[5].key
    stopped = next(step for step in plan.steps if stops_at(step))
    stop = _entry(EntryKind.STOP, stopped.key, reason=stops_at(stopped)[0].key)
    last = plan.steps[4].key
    return [
        *made,
        _entry(EntryKind.DIFFERS, here, reason="other_size", note="M5"),
        _entry(EntryKind.REOPEN, last, refers_to=made[-1].id),
        _entry(EntryKind.DONE, last, checks=made[-1].checks),
        stop,
    ]


def _entry(kind: EntryKind, step: str, **more: object) -> Entry:
    return Entry.model_validate({"id": uuid4(), "kind": kind, "step": step, **more})


def test_what_is_kept_at_once_is_what_the_long_way_keeps(tablet: Tablet) -> None:
    """The same entries in two runs, one each way: the same rows, the same state, the same lists."""
    other = Tablet(tablet.database, tablet.store, begin(tablet.store).id, tablet.sender)
    made = closing(tablet)
    for entry in made:
        tablet.send(entry)
    renamed = {entry.id: uuid4() for entry in made}
    for entry in made:
        names = renamed.get(entry.refers_to) if entry.refers_to else None
        other.long_way(entry.model_copy(update={"id": renamed[entry.id], "refers_to": names}))
    assert tablet.short >= len(made) - 3
    assert [r.entry.kind for r in tablet.kept()] == [r.entry.kind for r in other.kept()]
    assert [(r.by, r.role) for r in tablet.kept()] == [(r.by, r.role) for r in other.kept()]
    assert tablet.columns() == other.columns()
    assert tablet.columns()[0] == ["technician"]
    assert tablet.columns()[2] == 19000.0
    assert tablet.columns()[1] == {"stop": 1, "differs": 1}
    with tablet.store() as session:
        assert runs.state(session, tablet.run) == fold(tablet.kept())


def test_the_second_entry_of_a_run_asks_one_statement(tablet: Tablet) -> None:
    """What is known of the run and of the sign-in is asked for with the entry."""
    tablet.send(reading(2000.0))
    with statements(tablet.database) as asked:
        assert tablet.at_once(reading(2001.0)) is not None
    assert len(asked) == 1


def test_what_another_process_wrote_is_judged_with(tablet: Tablet) -> None:
    """It comes with the answer: a step closed there is not closed again, and what is admitted only
    after it is admitted.
    """
    made = closing(tablet)
    done = next(place for place, e in enumerate(made) if e.kind is EntryKind.DONE)
    for entry in made[:done]:
        tablet.send(entry)
    # Another process has its own knowledge: the long way tells ours nothing.
    tablet.long_way(made[done])
    again = _entry(EntryKind.DONE, made[done].step, checks=made[done].checks)
    assert tablet.at_once(again) is None
    state = tablet.send(made[done + 1])
    assert state == fold(tablet.kept())
    assert [r.entry.id for r in tablet.kept()] == [e.id for e in made[: done + 2]]


def test_two_who_write_by_turns_hear_of_each_other_with_the_answer(tablet: Tablet) -> None:
    """No run is read anew for it, and none goes the long way."""
    tablet.send(reading(2000.0))
    tablet.long_way(reading(2001.0))
    with statements(tablet.database) as asked:
        kept = tablet.at_once(reading(2002.0))
    assert kept is not None
    assert kept[0].count == 3
    assert len(asked) == 2


def gone(session: Session, tablet: Tablet) -> None:
    """Signed out elsewhere."""
    accounts.sign_out(session, tablet.sender.token)


def other_role(session: Session, _: Tablet) -> None:
    """Became somebody else's to do."""
    session.execute(text("UPDATE users SET role = 'trainer' WHERE name = 'technician'"))


def idle(session: Session, _: Tablet) -> None:
    """Not seen for so long that the sign-in is over, or has to be marked as in use."""
    session.execute(text("UPDATE sessions SET seen = now() - interval '6 minutes'"))


def expired(session: Session, _: Tablet) -> None:
    """Past its last hour."""
    session.execute(text("UPDATE sessions SET expires = now()"))


def signed(session: Session, tablet: Tablet) -> None:
    """Ended meanwhile, without an entry that tells it."""
    row = session.get_one(RunRow, tablet.run)
    row.signed_at = row.at


def dropped(session: Session, tablet: Tablet) -> None:
    """Forgotten by who started it."""
    session.execute(text("ALTER TABLE entries DISABLE TRIGGER ALL"))
    session.execute(text("DELETE FROM entries WHERE run_id = :run"), {"run": tablet.run})
    session.execute(text("ALTER TABLE entries ENABLE TRIGGER ALL"))
    session.delete(session.get_one(RunRow, tablet.run))


def other_meter(session: Session, tablet: Tablet) -> None:
    """The run before this one says another meter by now."""
    run = session.get_one(RunRow, tablet.run)
    before = {"at": run.at - timedelta(hours=1), "meter": 12.0, "unit_id": run.unit_id}
    session.add(RunRow(id=uuid4(), edition_id=run.edition_id, by="technician", **before))


@pytest.mark.parametrize(
    "change",
    [gone, other_role, idle, expired, signed, dropped, other_meter],
    ids=lambda c: c.__name__,
)
def test_what_no_longer_holds_keeps_nothing_at_once(tablet: Tablet, change) -> None:  # type: ignore[no-untyped-def]
    """Though this process knows nothing of it yet."""
    tablet.send(reading(2000.0))
    assert tablet.at_once(reading(2001.0)) is not None
    with tablet.store.begin() as session:
        change(session, tablet)
    before = len(tablet.kept())
    assert tablet.at_once(reading(2002.0)) is None
    assert len(tablet.kept()) == before


def test_another_form_s_token_keeps_nothing(tablet: Tablet) -> None:
    """Nor does a sign-in nobody knows."""
    tablet.send(reading(2000.0))
    known = tablet.sender
    for sender in (Sender(known.token, "made up"), Sender("made up", known.csrf), Sender("", "")):
        tablet.sender = sender
        assert tablet.at_once(reading(2001.0)) is None
    assert len(tablet.kept()) == 1


def test_one_id_is_kept_once_whichever_way(tablet: Tablet) -> None:
    """Sent again, or for another run, it is left to the long way, which says so."""
    tablet.send(reading(1999.0))
    entry = reading(2000.0)
    assert tablet.at_once(entry) is not None
    assert tablet.at_once(entry) is None
    assert tablet.send(entry).count == 2
    other = begin(tablet.store)
    assert tablet.at_once(entry, run=other.id) is None
    with tablet.store() as session:
        rows = session.scalars(select(EntryRow.run_id).where(EntryRow.id == entry.id)).all()
    assert list(rows) == [tablet.run]


def test_many_at_once_in_one_run_lose_and_double_nothing(tablet: Tablet) -> None:
    """Eight threads, each entry sent twice; the state kept is the fold of what is in the store."""
    made = [reading(1000.0 + place) for place in range(80)]

    def send(mine: list[Entry]) -> None:
        for entry in mine:
            tablet.send(entry)
            tablet.send(entry)

    threads = [Thread(target=send, args=(made[place::8],)) for place in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(r.entry.id for r in tablet.kept()) == sorted(e.id for e in made)
    with tablet.store() as session:
        assert runs.state(session, tablet.run) == fold(tablet.kept())
        assert runs.run(session, tablet.run).meter == tablet.kept()[-1].entry.value
