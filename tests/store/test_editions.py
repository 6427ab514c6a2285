"""A released edition is the same bytes for ever, whatever happens to what it was made from."""

import contextlib
from collections.abc import Callable
from uuid import UUID

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.rules.house import Departure
from eldrim.store import crib, edition_store, procedure_store, releases, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.errors import StoreError
from eldrim.store.tables import EditionRow
from tests.builders import job, tug

Store = sessionmaker[Session]
Act = Callable[[Session, EditionRow], object]


def _edit(session: Session, row: EditionRow) -> None:
    now = procedure_store.edits_of(procedure_store.procedure(session, row.procedure_id))
    had = now.get("ready/unit", Edit())
    changed = had.model_copy(update={"note": f"{had.note}x"[-1000:]})
    procedure_store.save_edit(session, row.procedure_id, "ready/unit", changed, had)


def _sheet(session: Session, row: EditionRow) -> None:
    sheet = sheet_store.sheet(session, "marlet-34-v6")
    sheet_store.save_sheet(session, sheet.model_copy(update={"revision": sheet.revision + 1}), "t")


def _rules(session: Session, row: EditionRow) -> None:
    rules_store.save(session, rules_store.in_force(session).using(old_plugs="scrap"), "t", "why")


ACTS: dict[str, Act] = {
    "edit": _edit,
    "sheet": _sheet,
    "rules": _rules,
    "crib": lambda s, _: crib.save(s, crib.in_force(s), "t", "counted"),
    "depart": lambda s, r: procedure_store.save_departure(
        s, r.procedure_id, "retrieval", Departure(school="hose", reason="no grip"), None
    ),
    "withdraw": lambda s, r: releases.withdraw(s, r.id, "t", "wrong"),
    "release": lambda s, r: edition_store.release(
        s, r.procedure_id, edition_store.plan_of(r), "t", "again"
    ),
    "overwrite": lambda s, r: s.execute(text("UPDATE editions SET document = '{}'")),
    "reword": lambda s, r: setattr(r, "reason", "another"),
    "remove": lambda s, r: s.delete(r),
}


def raw(session: Session, key: UUID) -> tuple[str, ...]:
    """An edition as its bytes stand in the database."""
    query = text(
        "SELECT document::text, edits::text, reason, by, at::text FROM editions WHERE id = :key"
    )
    return tuple(session.execute(query, {"key": key}).one())


@pytest.fixture
def edition(store: Store) -> UUID:
    """An edition with an edit in it."""
    with store.begin() as session:
        key = procedure_store.add_procedure(session, tug(), job(5, variant="late"), "trainer")
        procedure_store.save_edit(session, key, "remove/plug/5", Edit(note="Hose is close"), Edit())
        made = compile_plan(tug(), job(5, variant="late"))
        made = apply_edits(made, procedure_store.edits_of(procedure_store.procedure(session, key)))
        return edition_store.release(session, key, made, "trainer", "first").id


@settings(
    max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(st.lists(st.sampled_from(sorted(ACTS)), min_size=1, max_size=8))
def test_nothing_that_happens_changes_a_released_edition(
    store: Store, edition: UUID, names: list[str]
) -> None:
    """Not through the store, and not past it."""
    with store() as session:
        before = raw(session, edition)
    for name in names:
        with contextlib.suppress(StoreError, DBAPIError), store.begin() as session:
            ACTS[name](session, session.get_one(EditionRow, edition))
    with store() as session:
        assert raw(session, edition) == before
        assert session.scalar(select(EditionRow.number).where(EditionRow.id == edition)) == 1


def test_a_draft_nobody_touched_is_taken_up_again(store: Store) -> None:
    """Going back and asking once more begins no second one; a touched or another's draft does."""
    wanted = job(3, variant="late")
    with store.begin() as session:
        first = procedure_store.add_procedure(session, tug(), wanted, "trainer")
        assert procedure_store.add_procedure(session, tug(), wanted, "trainer") == first
        assert procedure_store.add_procedure(session, tug(), wanted, "lead") != first
        assert (
            procedure_store.add_procedure(session, tug(), job(1, variant="late"), "trainer")
            != first
        )
        step = "remove/plug/3"
        procedure_store.save_edit(session, first, step, Edit(note="Slowly"), Edit())
        assert procedure_store.add_procedure(session, tug(), wanted, "trainer") != first
