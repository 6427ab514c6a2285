"""Minutes learnt from signed runs: proposed with their evidence, what they change shown first."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from eldrim.core.base.errors import JobError, Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.job import Job
from eldrim.core.lessons.pace import LearntPace, learn_pace, with_pace
from eldrim.core.lessons.ways import LearntWay, learn_ways, with_ways
from eldrim.core.procedure.model import Plan
from eldrim.core.words import say, the
from eldrim.core.words.messages import gettext
from eldrim.store import audit, edition_store, gathered, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError
from eldrim.store.tables import EditionRow
from eldrim.web import filters
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


def key_of(one: LearntWay | LearntPace) -> str:
    """How a proposal is named in a form."""
    if isinstance(one, LearntPace):
        return f"act:{one.operation.value}"
    return f"{one.part}/{one.way}/{one.direction}"


@dataclass(frozen=True)
class Proposals:
    """What runs teach of an engine's minutes: ways of its parts, and acts by their pace."""

    ways: tuple[LearntWay, ...]
    acts: tuple[LearntPace, ...]

    def chosen(self, take: Collection[str]) -> "Proposals":
        """Those of them that are worth a look and named here."""
        return Proposals(
            tuple(one for one in self.ways if one.worth_a_look and key_of(one) in take),
            tuple(one for one in self.acts if one.worth_a_look and key_of(one) in take),
        )

    @property
    def keys(self) -> list[str]:
        """The names of those that are worth a look."""
        every: list[LearntWay | LearntPace] = [*self.ways, *self.acts]
        return [key_of(one) for one in every if one.worth_a_look]

    def taken_into(self, sheet: Engine) -> Engine:
        """The sheet with all of these, as its next revision."""
        after = with_ways(sheet, self.ways)
        paced = with_pace(after, self.acts) if self.acts else after
        return paced.model_copy(update={"revision": sheet.revision + 1})


def _proposals(db: Session, sheet: Engine) -> Proposals:
    runs = gathered.of_engine(db, sheet.id, RUNS)
    return Proposals(learn_ways(sheet, runs), learn_pace(sheet, runs))


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
    found = _proposals(db, sheet)
    keys = [key for key in found.keys if key in take] or found.keys
    chosen = found.chosen(keys)
    return render(
        request,
        "learnt/show.html.jinja",
        engine=sheet,
        worth=[one for one in found.ways if one.worth_a_look],
        acts=[one for one in found.acts if one.worth_a_look],
        rest=[one for one in found.ways if not one.worth_a_look],
        rest_acts=[one for one in found.acts if not one.worth_a_look],
        chosen=set(keys),
        changes=_changes(db, sheet, chosen) if keys else [],
        act_words=_act_words,
        key_of=key_of,
        doing=lambda one: _first(
            _doing(sheet.parts[one.part].ways[one.way].kind.value, sheet.parts[one.part].name)
        ),
    )


def _act_words(one: LearntPace) -> str:
    """What an act is called: ``remove plug``."""
    return filters.worded(one.operation.value.replace("/", " "))


def _changes(db: Session, sheet: Engine, chosen: Proposals) -> list[Change]:
    """What would change in the procedures that are released for an engine."""
    rules, crib = rules_store.in_force(db), tools_today(db)
    after = chosen.taken_into(sheet)
    parts, acts = {one.part for one in chosen.ways}, {one.operation for one in chosen.acts}
    query = edition_store.standing().where(EditionRow.engine_id == sheet.id)
    found = []
    for row in db.scalars(query.order_by(EditionRow.title, EditionRow.id).limit(4 * PROCEDURES)):
        job = Job.model_validate(row.procedure.job)
        try:
            plans = [plan_for(one, job, rules, crib) for one in (sheet, after)]
        except JobError:
            continue
        was, now = plans
        moved = {move.part for plan in plans for move in plan.moves}
        if not parts & moved and not acts & {step.key.operation for step in was.steps}:
            continue
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
            said.append(
                gettext(
                    "{new} instead of: {instead}",
                    new=_first(_doing(new.kind, new.name)),
                    instead=instead,
                )
            )
        elif old and not new:
            said.append(gettext("{old} stays", old=old.name))
        elif new and not old:
            said.append(_first(_doing(new.kind, new.name)))
    if not said and [s.key for s in was.steps] != [s.key for s in now.steps]:
        said.append(gettext("the same moves, in another order"))
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
        raise ConflictError(
            gettext("The sheet changed meanwhile. Nothing was taken in; look at it again.")
        )
    chosen = _proposals(db, sheet).chosen(take)
    if not chosen.keys:
        raise ProblemsError(
            [Problem("take", gettext("nothing is chosen"), gettext("tick what is to be taken in"))]
        )
    sheet_store.save_sheet(db, chosen.taken_into(sheet), signed_in.name)
    said = {
        key_of(one): gettext(
            "{planned} → {proposed} min", planned=f"{one.planned:g}", proposed=f"{one.proposed:g}"
        )
        for one in chosen.ways
    }
    said |= {
        key_of(one): gettext(
            "{planned} → {proposed} times", planned=f"{one.planned:g}", proposed=f"{one.proposed:g}"
        )
        for one in chosen.acts
    }
    audit.note(db, signed_in.name, "minutes learnt", engine_id, **said)
    return RedirectResponse(f"/engines/{engine_id}/learnt", 303)
