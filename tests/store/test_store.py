"""The store keeps what it acknowledged, once, and never changes what is released or recorded."""

from threading import Thread
from uuid import uuid4

import pytest
from pydantic import ValidationError
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import EngineError, RunError
from eldrim.core.capture.shapes import BY_KEY, Beginning, start
from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.rules.house import Departure
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.state import fold
from eldrim.store import (
    accounts,
    drafts,
    edition_store,
    log,
    past_runs,
    procedure_store,
    runs,
    sheet_store,
)
from eldrim.store import rules as rules_store
from eldrim.store.accounts import Caller
from eldrim.store.errors import ConflictError, EditConflictError, NotFoundError, ThrottledError
from eldrim.store.tables import EditionRow, EntryRow, ProcedureRow, RunRow, UnitRow
from eldrim.web.filters import SHOP_ZONE
from tests.builders import document, engine, tug

Store = sessionmaker[Session]


def reading(value: float = 2000.0, **more: object) -> Entry:
    """A meter reading with a fresh id."""
    plain = {
        "id": uuid4(),
        "kind": "reading",
        "step": "ready/unit",
        "reading": "meter",
        "value": value,
        **more,
    }
    return Entry.model_validate(plain)


def begin(store: Store) -> RunRow:
    """A new run of the demo's edition on tug 14."""
    with store.begin() as session:
        tug = ProcedureRow.engine_id == "marlet-34-v6"
        edition = session.scalars(select(EditionRow).join(ProcedureRow).where(tug)).first()
        assert edition is not None
        return runs.start(session, uuid4(), edition.id, "tug-14", "technician")


@pytest.mark.parametrize("table", ["entries", "editions", "engine_sheets"])
@pytest.mark.parametrize("change", ["UPDATE {} SET by = 'me'", "DELETE FROM {}"])
def test_what_is_released_or_recorded_cannot_change(store: Store, table: str, change: str) -> None:
    """Not even past the application: the database itself refuses."""
    with pytest.raises(DBAPIError, match="never changed or removed"), store.begin() as session:
        session.execute(text(change.format(table)))


def test_sending_an_entry_twice_is_harmless(store: Store) -> None:
    """The same id and content is one entry."""
    run, entry = begin(store), reading()
    for _ in range(3):
        with store.begin() as session:
            runs.add(session, run.id, entry, "technician", Role.TECHNICIAN)
    with store() as session:
        assert len(past_runs.entries(session, run.id)) == 1


def test_one_id_cannot_mean_two_things(store: Store) -> None:
    """Other content or another run under a used id is refused."""
    first, second, entry = begin(store), begin(store), reading()
    with store.begin() as session:
        runs.add(session, first.id, entry, "technician", Role.TECHNICIAN)
    changed = entry.model_copy(update={"value": 3.0})
    for run, made in ((first, changed), (second, entry)):
        with pytest.raises(ConflictError), store.begin() as session:
            runs.add(session, run.id, made, "technician", Role.TECHNICIAN)


def test_two_tablets_at_once_lose_and_double_nothing(store: Store) -> None:
    """Forty entries from four threads, each sent twice."""
    run = begin(store)
    entries = [reading(1000.0 + i) for i in range(40)]

    def send(mine: list[Entry]) -> None:
        for entry in [*mine, *mine]:
            with store.begin() as session:
                runs.add(session, run.id, entry, "technician", Role.TECHNICIAN)

    threads = [Thread(target=send, args=(entries[i::4],)) for i in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with store() as session:
        kept = [r.entry.id for r in past_runs.entries(session, run.id)]
    assert sorted(kept) == sorted(e.id for e in entries)


def test_a_refused_entry_leaves_nothing_behind(store: Store) -> None:
    """Refusal by the core undoes the transaction."""
    run = begin(store)
    with pytest.raises(RunError), store.begin() as session:
        runs.add(session, run.id, reading(step="no/such"), "technician", Role.TECHNICIAN)
    with store() as session:
        assert past_runs.entries(session, run.id) == []
        assert session.scalars(select(EntryRow).where(EntryRow.run_id == run.id)).all() == []


def test_starting_twice_with_one_id_is_one_run(store: Store) -> None:
    """A form sent twice starts one run."""
    run = begin(store)
    with store.begin() as session:
        again = runs.start(session, run.id, run.edition_id, "tug-14", "technician")
        assert again.id == run.id
        assert len([r for r in runs.open_runs(session) if r.id == run.id]) == 1


def test_a_run_on_the_wrong_engine_is_refused(store: Store) -> None:
    """Spec of another engine: impossible."""
    with store.begin() as session:
        session.add(
            UnitRow(
                id="x",
                name="Sweeper 3",
                engine_id="other",
                variant="late",
                serial="1",
                meter="hours",
            )
        )
    edition = begin(store).edition_id
    with pytest.raises(ConflictError, match="another engine"), store.begin() as session:
        runs.start(session, uuid4(), edition, "x", "technician")


def test_the_demo_s_history_is_signed_and_folds(store: Store) -> None:
    """The log is not empty, and each signed run has every step done."""
    with store() as session:
        signed = log.signed_runs(session, log.LogFilter(), SHOP_ZONE).rows
        assert len(signed) == 5
        for run in signed:
            state = fold(past_runs.entries(session, run.id))
            assert state.signed is not None
            assert state.current(edition_store.plan_of(run.edition)) is None
            assert all(
                e.entry.kind is not EntryKind.DEVIATION for e in past_runs.entries(session, run.id)
            )


def test_the_second_of_two_edits_is_told_and_overwrites_nothing(store: Store) -> None:
    """Concurrent edits are detected."""
    with store.begin() as session:
        row = session.scalars(select(ProcedureRow)).first()
        assert row is not None
        key, version = row.id, row.version
        procedure_store.save_edit(session, key, "ready/unit", Edit(text="Mine"), Edit())
    with pytest.raises(EditConflictError) as told, store.begin() as session:
        procedure_store.save_edit(session, key, "ready/unit", Edit(text="Theirs"), Edit())
    assert told.value.now.text == "Mine"
    with store.begin() as session:
        procedure_store.save_edit(session, key, "ready/codes", Edit(note="Another step"), Edit())
        assert procedure_store.procedure(session, key).version == version + 2
    with store() as session:
        assert (
            procedure_store.edits_of(procedure_store.procedure(session, key))["ready/unit"].text
            == "Mine"
        )


def test_an_edition_comes_back_byte_for_byte(store: Store) -> None:
    """What was released is what is read."""
    with store.begin() as session:
        row = session.scalars(select(EditionRow)).first()
        assert row is not None
        plan = edition_store.plan_of(row)
        again = edition_store.release(session, row.procedure_id, plan, "trainer", "same again")
        key = again.id
        assert again.number == 2
    with store() as session:
        kept = edition_store.edition(session, key)
        assert type(plan).model_validate(kept.document).model_dump_json() == plan.model_dump_json()


def test_sheets_keep_their_order_and_their_revisions(store: Store) -> None:
    """The order of joints means something; an older revision is refused."""
    with store() as session:
        kept = sheet_store.sheet(session, "marlet-34-v6")
    assert list(kept.parts["plenum"].joints) == list(tug().parts["plenum"].joints)
    with pytest.raises(ConflictError, match="revision: 9"), store.begin() as session:
        sheet_store.save_sheet(session, kept, "trainer")
    with store.begin() as session:
        sheet_store.save_sheet(session, kept.model_copy(update={"revision": 9}), "trainer")
        sheet_store.save_sheet(session, engine(**{"id": "second", "make": document()["make"]}), "t")
    with store() as session:
        assert sheet_store.sheet(session, "marlet-34-v6").revision == 9
        assert {"marlet-34-v6", "second"} <= {r.id for r in sheet_store.sheets(session)}
    with pytest.raises(NotFoundError), store() as session:
        sheet_store.sheet(session, "third")


def test_signing_in_out_and_too_often(store: Store) -> None:
    """A right password opens, a wrong one counts, too many are throttled."""
    with store.begin() as session:
        found = accounts.sign_in(session, " Trainer ", "eldrim-demo", Caller("a"))
        assert found is not None
    with store.begin() as session:
        row = accounts.session_of(session, found.token)
        assert row is not None
        assert row.role == "trainer"
        assert accounts.session_of(session, "made up") is None
        accounts.sign_out(session, found.token)
    with store() as session:
        assert accounts.session_of(session, found.token) is None
    for _ in range(accounts.MAX_FAILURES):
        with store.begin() as session:
            assert accounts.sign_in(session, "trainer", "wrong", Caller("b")) is None
    with pytest.raises(ThrottledError), store.begin() as session:
        accounts.sign_in(session, "trainer", "eldrim-demo", Caller("b"))
    with store.begin() as session:
        assert accounts.sign_in(session, "trainer", "eldrim-demo", Caller("c")) is not None


def test_house_rules_are_kept_by_version_and_never_overwritten(store: Store) -> None:
    """The second of two changes is told."""
    with store.begin() as session:
        now = rules_store.in_force(session)
        saved = rules_store.save(session, now.using(old_plugs="scrap"), "trainer", "no room")
        assert saved.version == now.version + 1
    with pytest.raises(ConflictError, match="meanwhile"), store.begin() as session:
        rules_store.save(session, now.using(retrieval="hose"), "trainer", "also")
    with store() as session:
        assert rules_store.in_force(session).school["old_plugs"] == "scrap"
        assert [r.reason for r in rules_store.history(session)] == ["no room"]
    with pytest.raises(DBAPIError, match="never changed"), store.begin() as session:
        session.execute(text("DELETE FROM house_rules"))


def test_a_departure_is_kept_with_the_draft_and_dropped_again(store: Store) -> None:
    """Guarded as edits are."""
    with store.begin() as session:
        row = session.scalars(select(ProcedureRow)).first()
        assert row is not None
        key = row.id
        departure = Departure(school="scrap", reason="fouled")
        procedure_store.save_departure(session, key, "old_plugs", departure, None)
    with store.begin() as session:
        assert procedure_store.departures_of(procedure_store.procedure(session, key)) == {
            "old_plugs": departure
        }
        with pytest.raises(ConflictError, match="fouled"):
            procedure_store.save_departure(session, key, "old_plugs", None, None)
        procedure_store.save_departure(session, key, "old_plugs", None, departure)
        assert procedure_store.departures_of(procedure_store.procedure(session, key)) == {}


def test_a_capture_is_undone_redone_and_kept(store: "sessionmaker[Session]") -> None:
    """Every act is in the store at once; a new act after an undo drops what was undone."""
    engine = start(BY_KEY["single"], Beginning("tarn-one", "Tarn", "one", "iron", "stationary"))
    with store.begin() as session:
        drafts.begin(session, engine, "trainer")
        drafts.begin(session, engine, "trainer")
        second = engine.model_copy(update={"note": "second"})
        assert drafts.push(session, 1, second, "noted", "trainer").number == 2
    with store.begin() as session:
        back = drafts.step(session, "tarn-one", 2, -1)
        assert (back.number, back.engine.note, back.undo, back.redo) == (1, "", "", "noted")
        assert drafts.step(session, "tarn-one", 1, -1).number == 1
        on = drafts.step(session, "tarn-one", 1, 1)
        assert (on.engine.note, on.undo, on.redo) == ("second", "noted", "")
        drafts.step(session, "tarn-one", 2, -1)
        third = engine.model_copy(update={"note": "third"})
        assert drafts.push(session, 1, third, "other", "trainer").redo == ""
    with store.begin() as session, pytest.raises(ConflictError):
        drafts.push(session, 1, engine, "late", "trainer")
    with store.begin() as session:
        assert drafts.open_drafts(session) == ["tarn-one"]
        kept = drafts.keep(session, "tarn-one", 2, "trainer")
        assert (kept.revision, kept.note) == (1, "third")
        assert sheet_store.sheet(session, "tarn-one") == kept
        assert drafts.is_known(session, "tarn-one")
        with pytest.raises(NotFoundError):
            drafts.current(session, "tarn-one")
        drafts.begin(session, kept, "trainer")
        assert drafts.keep(session, "tarn-one", 1, "trainer").revision == 2


def test_a_sheet_that_does_not_hold_is_not_kept(store: "sessionmaker[Session]") -> None:
    """Judged at the store as a file is: also a copy nobody validated."""
    with store() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        order = sheet.ignition.model_copy(update={"firing_order": (1, 3, 5, 2, 4)})
        wrong = sheet.model_copy(update={"ignition": order, "revision": sheet.revision + 1})
        with pytest.raises((EngineError, ValidationError)):
            sheet_store.save_sheet(session, wrong, "trainer")
        assert sheet_store.sheet(session, "marlet-34-v6").revision == sheet.revision
