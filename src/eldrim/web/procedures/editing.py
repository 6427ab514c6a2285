"""A draft edited in place: words, holds, cautions, own steps, order, departures."""

from typing import Annotated, Literal
from urllib.parse import urlencode
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Json, ValidationError
from starlette.datastructures import FormData

from eldrim.core.capture.edits import free_key
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.procedure.edits import OWN, Edit, OwnStep, may_be_left_out, placements
from eldrim.core.procedure.merge import merge
from eldrim.core.procedure.placement import Moved, neighbour, put
from eldrim.core.rules.house import Departure
from eldrim.store import library
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, Trainer, render
from eldrim.web.procedures.document import compiled

router = APIRouter(include_in_schema=False)
# The edit a form was made from: what is compared when it comes back.
Base = Annotated[Json[Edit], Form()]


@router.post("/procedures/{key}/steps/{step:path}")
def edit(
    request: Request,
    db: Db,
    _: Trainer,
    key: UUID,
    step: str,
    base: Base,
    text: Annotated[str, Form(max_length=300)] = "",
    note: Annotated[str, Form(max_length=1000)] = "",
    left_out: Annotated[str, Form(max_length=300)] = "",
    hold: Annotated[bool, Form()] = False,
    cautions: Annotated[str, Form(max_length=1500)] = "",
) -> Response:
    """Keep what was changed about a step; what others changed meanwhile is kept beside it."""
    found = next((s for s in compiled(db, library.procedure(db, key)).steps if s.key == step), None)
    if found is None and base.own is None:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    ground = found.text if found else ""
    if left_out.strip() and found and not may_be_left_out(found):
        raise ProblemsError([Problem(step, "this step is never left out", "keep it")])
    said = "" if base.own or text.strip() == ground else text
    more = tuple(line.strip() for line in cautions.splitlines() if line.strip())
    try:
        mine = Edit.model_validate(
            {
                **dict(base),
                "text": said,
                "note": note,
                "left_out": left_out,
                "hold": hold,
                "ground": ground if said else "",
                "cautions": more,
                "own": _own(base, text),
            }
        )
    except ValidationError as error:
        raise ProblemsError(
            [Problem(str(e["loc"][0]), e["msg"], "") for e in error.errors()]
        ) from error
    return keep(request, db, key, step, base, mine)


def _own(base: Edit, text: str) -> dict[str, object] | None:
    """A step of one's own with its wording as typed now."""
    return {**dict(base.own), "text": text} if base.own else None


def keep(request: Request, db: Db, key: UUID, step: str, base: Edit, mine: Edit) -> Response:
    """Keep an edit made on ``base``, merged with what stands there now; ask about a clash."""
    now = library.edits_of(library.procedure(db, key)).get(step, Edit())
    merged, clashes = merge(base, now, mine)
    if clashes:
        return render(
            request,
            "procedures/conflict.html.jinja",
            status=409,
            key=key,
            step=step,
            clashes=clashes,
            theirs=now,
            mine=mine,
            base=base,
        )
    library.save_edit(db, key, step, merged, now)
    return RedirectResponse(f"/procedures/{key}?{urlencode({'kept': step})}#{step}", 303)


@router.post("/procedures/{key}/settle")
async def settle(request: Request, db: Db, _: Trainer, key: UUID) -> Response:
    """Settle a clash field by field: theirs, mine, or both; asked again if theirs moved on."""
    form = await request.form(max_fields=40)
    base, theirs, mine = (
        Edit.model_validate_json(_text(form, n)) for n in ("base", "theirs", "mine")
    )
    merged, clashes = merge(base, theirs, mine)
    chosen = {
        c.field: getattr(c, pick)
        for c in clashes
        if (pick := _text(form, c.field)) in ("mine", "both")
    }
    if chosen.get("text"):
        chosen["ground"] = mine.ground
    step = _text(form, "step")
    return keep(request, db, key, step, theirs, merged.model_copy(update=chosen))


def _text(form: FormData, name: str) -> str:
    return str(form.get(name) or "")


@router.post("/procedures/{key}/own")
def add_own(
    db: Db,
    _: Trainer,
    key: UUID,
    after: Annotated[str, Form(max_length=200)],
    text: Annotated[str, Form(max_length=300)],
    detail: Annotated[str, Form(max_length=1000)] = "",
    proof: Annotated[str, Form(max_length=300)] = "",
    minutes: Annotated[float, Form(ge=0, le=240)] = 1.0,
) -> Response:
    """Add a step of one's own after another one."""
    row = library.procedure(db, key)
    taken = tuple(k.removeprefix(OWN) for k in library.edits_of(row))
    if len(text.strip()) < 3:
        raise ProblemsError([Problem("text", "the step says nothing", "say what is done")])
    made = OwnStep(text=text, detail=detail, proof=proof, minutes=minutes, after=after)
    name = f"{OWN}{free_key(text, taken)}"
    library.save_edit(db, key, name, Edit(own=made), Edit())
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
    row = library.procedure(db, key)
    made, edits = compiled(db, row), library.edits_of(row)
    steps, _refused = placements(made, edits)
    if step not in {s.key for s in steps}:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    after = follows if way == "after" else neighbour(steps, step, later=way == "later")
    placed, against = put(made, steps, step, after)
    if against or [s.key for s in placed] == [s.key for s in steps]:
        asked = urlencode({"moving": step, "follows": after})
        return RedirectResponse(f"/procedures/{key}?{asked}#{step}", 303)
    last = max((m.order for e in edits.values() for m in e.placed), default=0)
    kept = edits.get(step, Edit())
    moves = (*kept.placed, Moved(order=last + 1, follows=after))[-60:]
    library.save_edit(db, key, step, kept.model_copy(update={"placed": moves}), kept)
    return RedirectResponse(f"/procedures/{key}#{step}", 303)


@router.post("/procedures/{key}/drop")
def drop_edit(
    db: Db, _: Trainer, key: UUID, step: Annotated[str, Form(max_length=200)], base: Base
) -> Response:
    """Let a step stand as computed again, or take a step of one's own away."""
    # Put back, a step keeps its wording; standing as computed again, it keeps nothing.
    kept = base.model_copy(update={"left_out": ""}) if base.left_out else Edit()
    library.save_edit(db, key, step, kept, base)
    return RedirectResponse(f"/procedures/{key}", 303)


@router.post("/procedures/{key}/departures")
def depart(
    db: Db,
    _: Trainer,
    key: UUID,
    topic: Annotated[str, Form(max_length=40)],
    school: Annotated[str, Form(max_length=40)] = "",
    reason: Annotated[str, Form(max_length=400)] = "",
    base: Annotated[Json[Departure | None], Form()] = None,
) -> Response:
    """Depart from a house rule in this procedure, with a printed reason; or follow it again."""
    departure = None
    if school:
        if len(reason.strip()) < 3:
            raise ProblemsError([Problem("reason", "a departure needs its reason", "one line")])
        departure = Departure(school=school, reason=reason)
        try:
            rules_store.in_force(db).departing({topic: departure})
        except ValidationError as error:
            said = error.errors()[0]["msg"].removeprefix("Value error, ")
            raise ProblemsError([Problem(topic, said, "choose another school")]) from error
    library.save_departure(db, key, topic, departure, base)
    return RedirectResponse(f"/procedures/{key}", 303)
