"""A draft edited in place: words, holds, cautions, own steps, order, departures."""

from dataclasses import dataclass
from typing import Annotated, Literal
from urllib.parse import urlencode
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, Json, ValidationError

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.keys import free_key
from eldrim.core.procedure.editions.edits import OWN, Edit, OwnStep, placements, put
from eldrim.core.procedure.editions.fold import gathered
from eldrim.core.procedure.editions.merge import merge
from eldrim.core.procedure.editions.placement import Placement, act_neighbour, neighbour
from eldrim.core.procedure.editions.wording import refuse_unknown, worded
from eldrim.core.procedure.model import Step
from eldrim.core.rules.house import Departure
from eldrim.core.step_key import EVERY, StepKey
from eldrim.core.words.messages import gettext
from eldrim.exchange.model_faults import fault_words
from eldrim.store import procedure_store
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, Trainer, TrainerReads, render
from eldrim.web.forms import FormFields, minutes_number, problems_of, text_field
from eldrim.web.procedures.document import compiled
from eldrim.web.procedures.ground import Ground, ground_of, refuse_lost

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
    apart: bool = False

    def edit(self, ground: Ground) -> Edit:
        """The edit meant, on the step or act as it stands without it.

        Where a hole is to have less than its act (no note, no hold point) it goes by itself, with
        all else that its act has.
        """
        less = (ground.note and not self.note.strip()) or (ground.hold and not self.hold)
        if ground.alone and (self.apart or less):
            of_act = Edit() if self.apart else ground.of_act
            return self._made(ground.alone, apart=True, lists=of_act)
        return self._made(ground, apart=False, lists=Edit())

    def own_step(self) -> Edit:
        """The edit of a step of the trainer's own."""
        own = self.base.own
        assert own is not None
        return self._validated(
            {
                "note": self.note,
                "hold": self.hold,
                "cautions": _lines(self.cautions),
                "own": {**dict(own), "text": self.text},
            }
        )

    def _made(self, ground: Ground, *, apart: bool, lists: Edit) -> Edit:
        minutes = minutes_number("minutes", self.minutes) if self.minutes.strip() else None
        if minutes == 0:
            raise ProblemsError([Problem("minutes", gettext("a step takes some time"))])
        same = self.text.strip() == ground.text
        return self._validated(
            {
                "text": "" if same else self.text,
                "note": "" if self.note.strip() == ground.note else self.note,
                "left_out": self.left_out,
                "hold": self.hold and not ground.hold,
                "computed": "" if same else ground.text,
                "cautions": (*lists.cautions, *_lines(self.cautions)),
                "detail": "" if self.detail.strip() == ground.detail else self.detail,
                "minutes": None if minutes == ground.minutes else minutes,
                "tools": (*lists.tools, *_lines(self.tools)),
                "readings": (*lists.readings, *_lines(self.readings)),
                "photos": (*lists.photos, *self.base.photos),
                "apart": apart,
            }
        )

    def _validated(self, changed: dict[str, object]) -> Edit:
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
    if form.base.own is not None:
        return keep(request, db, key, step, Clashing(form.base, form.own_step()))
    row = procedure_store.procedure(db, key)
    ground = ground_of(compiled(db, row), procedure_store.edits_of(row), step)
    if ground is None:
        raise refuse_lost(step)
    if form.left_out.strip() and ground.required:
        raise ProblemsError(
            [Problem(step, gettext("this step is never left out"), gettext("keep it"))]
        )
    for field in ("text", "detail"):
        ground.refuse_wording(field, getattr(form, field))
    return keep(request, db, key, step, Clashing(form.base, form.edit(ground)))


@router.get("/procedures/{key}/filled")
def filled(
    request: Request,
    db: Db,
    _: TrainerReads,
    key: UUID,
    act: Annotated[str, Query(max_length=200)],
    text: Annotated[str, Query(max_length=300)] = "",
) -> Response:
    """A wording of an act, filled for each of its holes: a part of the draft's page."""
    row = procedure_store.procedure(db, key)
    found = gathered(compiled(db, row).steps, act)
    if found is None:
        raise refuse_lost(act)
    try:
        refuse_unknown("text", text, found.first)
    except ProblemsError as error:
        said = f"{error.problems[0].message}: {error.problems[0].fix}"
        return render(request, "procedures/filled.html.jinja", refused=said, filled=())
    filled_in = [worded(text, step) for step in found.steps]
    return render(request, "procedures/filled.html.jinja", refused="", filled=filled_in)


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
    minutes: Annotated[float, Field(gt=0, le=240)] = 1.0


@router.post("/procedures/{key}/own")
def add_own(db: Db, _: Trainer, key: UUID, form: Annotated[OwnStepForm, Form()]) -> Response:
    """Add a step of one's own after another one."""
    row = procedure_store.procedure(db, key)
    taken = tuple(k.removeprefix(OWN) for k in procedure_store.edits_of(row))
    if len(form.text.strip()) < 3:
        raise ProblemsError(
            [Problem("text", gettext("the step says nothing"), gettext("say what is done"))]
        )
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
    """Put a step, or an act at all its holes, elsewhere; what forbids it is said there."""
    row = procedure_store.procedure(db, key)
    made, edits = compiled(db, row), procedure_store.edits_of(row)
    steps, _refused = placements(made, edits)
    if ground_of(made, {}, step) is None:
        raise refuse_lost(step)
    asked = Placement(order=1, follows=follows) if way == "after" else _one_on(steps, step, way)
    placed, against = put(made, steps, step, asked) if asked else (steps, "")
    if against or [s.key for s in placed] == [s.key for s in steps]:
        where = asked.model_dump(exclude={"order"}, exclude_defaults=True) if asked else {}
        said = urlencode({"moving": step, **where})
        return RedirectResponse(f"/procedures/{key}?{said}#{step}", 303)
    assert asked is not None
    last = max((m.order for edit in edits.values() for m in edit.placed), default=0)
    kept = edits.get(step, Edit())
    moves = (*kept.placed, asked.model_copy(update={"order": last + 1}))[-60:]
    procedure_store.save_edit(db, key, step, kept.model_copy(update={"placed": moves}), kept)
    return RedirectResponse(f"/procedures/{key}#{step}", 303)


def _one_on(steps: list[Step], key: str, way: str) -> Placement | None:
    """One place earlier or later; None for an act that is the first or last."""
    later = way == "later"
    if StepKey.parse(key).hole == EVERY:
        return act_neighbour(steps, key, later=later)
    return Placement(order=1, follows=neighbour(steps, key, later=later))


@router.post("/procedures/{key}/drop")
def drop_edit(
    db: Db,
    _: Trainer,
    key: UUID,
    step: Annotated[str, Form(max_length=200)],
    base: Base,
    apart: Annotated[bool, Form()] = False,
) -> Response:
    """Let a step stand as computed again, or take a step of one's own away.

    ``apart``: one hole of an act that is left out is done all the same.
    """
    # Put back, a step keeps its wording; standing as computed again, it keeps nothing.
    kept = base.model_copy(update={"left_out": ""}) if base.left_out else Edit()
    if apart:
        kept = base.model_copy(update={"apart": True})
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
            raise ProblemsError(
                [Problem("reason", gettext("a departure needs its reason"), gettext("one line"))]
            )
        departure = Departure(school=form.school, reason=form.reason)
        try:
            rules_store.in_force(db).departing({form.topic: departure})
        except ValidationError as error:
            said = fault_words(error.errors()[0])
            raise ProblemsError(
                [Problem(form.topic, said, gettext("choose another school"))]
            ) from error
    procedure_store.save_departure(db, key, form.topic, departure, form.base)
    return RedirectResponse(f"/procedures/{key}", 303)
