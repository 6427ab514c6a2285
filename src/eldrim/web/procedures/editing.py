"""A draft edited in place: words, holds, cautions, own steps, order, departures."""

from dataclasses import dataclass
from typing import Annotated, Literal
from urllib.parse import urlencode
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, Json, ValidationError

from eldrim.core.engine.keys import free_key
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.procedure.edits import OWN, Edit, OwnStep, may_be_left_out, placements
from eldrim.core.procedure.merge import merge
from eldrim.core.procedure.model import Step
from eldrim.core.procedure.placement import Placement, neighbour, place
from eldrim.core.rules.house import Departure
from eldrim.exchange.model_faults import fault_words
from eldrim.store import procedure_store
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, Trainer, render
from eldrim.web.forms import FormFields, minutes_number, problems_of, text_field
from eldrim.web.procedures.document import compiled

router = APIRouter(include_in_schema=False)
# The edit a form was made from: what is compared when it comes back.
Base = Annotated[Json[Edit], Form()]
# An edit as JSON is longer than what is typed into one field.
MAX_EDIT = 40_000


class EditForm(BaseModel):
    """What a trainer changed about a step, made on ``base``."""

    base: Json[Edit]
    text: Annotated[str, Field(max_length=300)] = ""
    note: Annotated[str, Field(max_length=1000)] = ""
    left_out: Annotated[str, Field(max_length=300)] = ""
    hold: bool = False
    cautions: Annotated[str, Field(max_length=1500)] = ""
    detail: Annotated[str, Field(max_length=1000)] = ""
    minutes: Annotated[str, Field(max_length=40)] = ""
    tools: Annotated[str, Field(max_length=1500)] = ""
    readings: Annotated[str, Field(max_length=1500)] = ""

    def edit(self, found: Step | None) -> Edit:
        """The edit meant, on the step as it is computed; None for one of the trainer's own."""
        computed, how = (found.text, found.detail) if found else ("", "")
        minutes = minutes_number("minutes", self.minutes) if self.minutes.strip() else None
        taken = found.minutes if found else None
        own = self.base.own
        same = own is not None or self.text.strip() == computed
        changed = {
            "text": "" if same else self.text,
            "note": self.note,
            "left_out": self.left_out,
            "hold": self.hold,
            "computed": "" if same else computed,
            "cautions": _lines(self.cautions),
            "detail": "" if own or self.detail.strip() == how else self.detail,
            "minutes": None if own or minutes == taken else minutes,
            "tools": _lines(self.tools),
            "readings": _lines(self.readings),
            "own": {**dict(own), "text": self.text} if own else None,
        }
        try:
            return Edit.model_validate({**dict(self.base), **changed})
        except ValidationError as error:
            raise problems_of(error) from error


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())


@router.post("/procedures/{key}/steps/{step:path}")
def edit(
    request: Request, db: Db, _: Trainer, key: UUID, step: str, form: Annotated[EditForm, Form()]
) -> Response:
    """Keep what was changed about a step; what others changed meanwhile is kept beside it."""
    found = next(
        (s for s in compiled(db, procedure_store.procedure(db, key)).steps if s.key == step), None
    )
    if found is None and form.base.own is None:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    if form.left_out.strip() and found and not may_be_left_out(found):
        raise ProblemsError([Problem(step, "this step is never left out", "keep it")])
    mine = form.edit(found)
    return keep(request, db, key, step, Clashing(form.base, mine))


@dataclass(frozen=True)
class Clashing:
    """An edit of mine, and the one it was made on."""

    base: Edit
    mine: Edit


def keep(request: Request, db: Db, key: UUID, step: str, made: Clashing) -> Response:
    """Keep an edit merged with what stands there now; ask about a clash."""
    now = procedure_store.edits_of(procedure_store.procedure(db, key)).get(step, Edit())
    merged, clashes = merge(made.base, now, made.mine)
    if clashes:
        return render(
            request,
            "procedures/conflict.html.jinja",
            status=409,
            key=key,
            step=step,
            clashes=clashes,
            theirs=now,
            mine=made.mine,
            base=made.base,
        )
    procedure_store.save_edit(db, key, step, merged, now)
    return RedirectResponse(f"/procedures/{key}?{urlencode({'kept': step})}#{step}", 303)


@router.post("/procedures/{key}/settle")
def settle_clash(request: Request, db: Db, _: Trainer, key: UUID, form: FormFields) -> Response:
    """Settle a clash field by field: theirs, mine, or both; asked again if theirs moved on."""
    base, theirs, mine = (
        Edit.model_validate_json(text_field(form, n, MAX_EDIT)) for n in ("base", "theirs", "mine")
    )
    merged, clashes = merge(base, theirs, mine)
    chosen = {
        clash.field: getattr(clash, pick)
        for clash in clashes
        if (pick := text_field(form, clash.field)) in ("mine", "both")
    }
    if chosen.get("text"):
        chosen["computed"] = mine.computed
    step = text_field(form, "step")
    return keep(request, db, key, step, Clashing(theirs, merged.model_copy(update=chosen)))


class OwnStepForm(BaseModel):
    """A step of the trainer's own, after another one."""

    after: Annotated[str, Field(max_length=200)]
    text: Annotated[str, Field(max_length=300)]
    detail: Annotated[str, Field(max_length=1000)] = ""
    proof: Annotated[str, Field(max_length=300)] = ""
    minutes: Annotated[float, Field(ge=0, le=240)] = 1.0


@router.post("/procedures/{key}/own")
def add_own(db: Db, _: Trainer, key: UUID, form: Annotated[OwnStepForm, Form()]) -> Response:
    """Add a step of one's own after another one."""
    row = procedure_store.procedure(db, key)
    taken = tuple(k.removeprefix(OWN) for k in procedure_store.edits_of(row))
    if len(form.text.strip()) < 3:
        raise ProblemsError([Problem("text", "the step says nothing", "say what is done")])
    name = f"{OWN}{free_key(form.text, taken)}"
    own = OwnStep.model_validate(form.model_dump())
    procedure_store.save_edit(db, key, name, Edit(own=own), Edit())
    return RedirectResponse(f"/procedures/{key}#{name}", 303)


@router.post("/procedures/{key}/move")
def move(
    db: Db,
    _: Trainer,
    key: UUID,
    step: Annotated[str, Form(max_length=200)],
    way: Annotated[Literal["earlier", "later", "after"], Form()],
    follows: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Put a step elsewhere in its phase; what forbids it is said at the step."""
    row = procedure_store.procedure(db, key)
    made, edits = compiled(db, row), procedure_store.edits_of(row)
    steps, _refused = placements(made, edits)
    if step not in {s.key for s in steps}:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    after = follows if way == "after" else neighbour(steps, step, later=way == "later")
    placed, against = place(made, steps, step, after)
    if against or [s.key for s in placed] == [s.key for s in steps]:
        asked = urlencode({"moving": step, "follows": after})
        return RedirectResponse(f"/procedures/{key}?{asked}#{step}", 303)
    last = max((m.order for edit in edits.values() for m in edit.placed), default=0)
    kept = edits.get(step, Edit())
    moves = (*kept.placed, Placement(order=last + 1, follows=after))[-60:]
    procedure_store.save_edit(db, key, step, kept.model_copy(update={"placed": moves}), kept)
    return RedirectResponse(f"/procedures/{key}#{step}", 303)


@router.post("/procedures/{key}/drop")
def drop_edit(
    db: Db, _: Trainer, key: UUID, step: Annotated[str, Form(max_length=200)], base: Base
) -> Response:
    """Let a step stand as computed again, or take a step of one's own away."""
    # Put back, a step keeps its wording; standing as computed again, it keeps nothing.
    kept = base.model_copy(update={"left_out": ""}) if base.left_out else Edit()
    procedure_store.save_edit(db, key, step, kept, base)
    return RedirectResponse(f"/procedures/{key}", 303)


class DepartureForm(BaseModel):
    """A school of the procedure's own on a topic; without one the house rule is followed again."""

    topic: Annotated[str, Field(max_length=40)]
    school: Annotated[str, Field(max_length=40)] = ""
    reason: Annotated[str, Field(max_length=400)] = ""
    base: Json[Departure | None] = None


@router.post("/procedures/{key}/departures")
def depart(db: Db, _: Trainer, key: UUID, form: Annotated[DepartureForm, Form()]) -> Response:
    """Depart from a house rule in this procedure, with a printed reason; or follow it again."""
    departure = None
    if form.school:
        if len(form.reason.strip()) < 3:
            raise ProblemsError([Problem("reason", "a departure needs its reason", "one line")])
        departure = Departure(school=form.school, reason=form.reason)
        try:
            rules_store.in_force(db).departing({form.topic: departure})
        except ValidationError as error:
            said = fault_words(error.errors()[0])
            raise ProblemsError([Problem(form.topic, said, "choose another school")]) from error
    procedure_store.save_departure(db, key, form.topic, departure, form.base)
    return RedirectResponse(f"/procedures/{key}", 303)
