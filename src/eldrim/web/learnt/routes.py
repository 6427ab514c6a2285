"""Minutes learnt from signed runs: proposed with their evidence, what they change shown first."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.errors import JobError, Problem, ProblemsError
from eldrim.core.job import Job
from eldrim.core.procedure.model import Plan
from eldrim.core.run.learnt import Learnt, accepted, learnt
from eldrim.core.words import say, the
from eldrim.store import audit, edition_store, past_runs, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError
from eldrim.store.tables import EditionRow
from eldrim.web.context import Db, SignedIn, Trainer, render, tools_today
from eldrim.web.plans import plan_for

router = APIRouter(include_in_schema=False)
# Runs looked through; procedures whose plan is worked out again to show what would change.
RUNS, PROCEDURES = 60, 6


@dataclass(frozen=True)
class Change:
    """What a released procedure would become: its minutes, and what would move otherwise."""

    title: str
    edition: EditionRow
    before: float
    after: float
    words: tuple[str, ...]


def key_of(one: Learnt) -> str:
    """How a proposal is named in a form."""
    return f"{one.part}/{one.way}/{one.direction}"


@router.get("/engines/{engine_id}/learnt")
def show(
    request: Request,
    db: Db,
    _: SignedIn,
    engine_id: str,
    take: Annotated[list[str], Query(max_length=200)] = [],  # noqa: B006
) -> Response:
    """What the runs on an engine teach, and what taking these into the sheet would change."""
    sheet = sheet_store.sheet(db, engine_id)
    found = learnt(sheet, past_runs.past_of_engine(db, engine_id, RUNS))
    worth = [one for one in found if one.worth_a_look]
    chosen = [one for one in worth if key_of(one) in take] or worth
    return render(
        request,
        "learnt/show.html.jinja",
        engine=sheet,
        worth=worth,
        rest=[one for one in found if not one.worth_a_look],
        chosen={key_of(one) for one in chosen},
        changes=_changes(db, sheet, chosen) if chosen else [],
        key_of=key_of,
        doing=lambda one: _first(
            _doing(sheet.parts[one.part].ways[one.way].kind.value, sheet.parts[one.part].name)
        ),
    )


def _changes(db: Session, sheet: Engine, chosen: list[Learnt]) -> list[Change]:
    """What would change in the procedures that are released for an engine."""
    rules, crib = rules_store.in_force(db), tools_today(db)
    after = accepted(sheet, chosen)
    parts = {one.part for one in chosen}
    query = edition_store.standing().where(EditionRow.engine_id == sheet.id)
    found = []
    for row in db.scalars(query.order_by(EditionRow.title, EditionRow.id).limit(4 * PROCEDURES)):
        job = Job.model_validate(row.procedure.job)
        try:
            plans = [plan_for(one, job, rules, crib) for one in (sheet, after)]
        except JobError:
            continue
        if not parts & {move.part for plan in plans for move in plan.moves}:
            continue
        was, now = plans
        words = _moved_otherwise(was, now)
        found.append(Change(row.title, row, was.minutes, now.minutes, words))
        if len(found) == PROCEDURES:
            break
    return found


def _doing(kind: str, part: str) -> str:
    """How a part is moved, inside a sentence: ``take the intake duct off``."""
    return say(f"doing.{kind}", part=the(part))


def _first(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}"


def _moved_otherwise(was: Plan, now: Plan) -> tuple[str, ...]:
    """Parts that would be moved in another way, no more, or besides."""
    before, after = ({move.part: move for move in plan.moves} for plan in (was, now))
    said = []
    for part in sorted({*before, *after}):
        old, new = before.get(part), after.get(part)
        if old and new and old.way != new.way:
            instead = _doing(old.kind, old.name)
            said.append(f"{_first(_doing(new.kind, new.name))} instead of: {instead}")
        elif old and not new:
            said.append(f"{old.name} stays")
        elif new and not old:
            said.append(_first(_doing(new.kind, new.name)))
    if not said and [s.key for s in was.steps] != [s.key for s in now.steps]:
        said.append("the same moves, in another order")
    return tuple(said)


@router.post("/engines/{engine_id}/learnt")
def accept(
    db: Db,
    signed_in: Trainer,
    engine_id: str,
    revision: Annotated[int, Form()],
    take: Annotated[list[str], Form(max_length=200)] = [],  # noqa: B006
) -> Response:
    """Take minutes into the sheet, as its next revision; released editions stay as they are."""
    sheet = sheet_store.sheet(db, engine_id)
    if sheet.revision != revision:
        raise ConflictError("The sheet changed meanwhile. Nothing was taken in; look at it again.")
    found = learnt(sheet, past_runs.past_of_engine(db, engine_id, RUNS))
    chosen = [one for one in found if one.worth_a_look and key_of(one) in take]
    if not chosen:
        raise ProblemsError([Problem("take", "nothing is chosen", "tick what is to be taken in")])
    sheet_store.save_sheet(db, accepted(sheet, chosen), signed_in.name)
    said = {key_of(one): f"{one.planned:g} → {one.proposed:g} min" for one in chosen}
    audit.note(db, signed_in.name, "minutes learnt", engine_id, **said)
    return RedirectResponse(f"/engines/{engine_id}/learnt", 303)
