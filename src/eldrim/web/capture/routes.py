"""Capturing: start from a shape or a copy, draw, describe, answer, keep."""

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, ValidationError
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem, ProblemsError
from eldrim.core.capture.copies import copied
from eldrim.core.capture.said_back import in_full
from eldrim.core.capture.shapes import BY_KEY, SHAPES, Beginning, start
from eldrim.core.capture.shorthand import completions, understand
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Shape
from eldrim.core.engine.parts import PartKind, RoundKind
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.words.messages import gettext
from eldrim.drawing import engine_plan
from eldrim.store import drafts, sheet_store
from eldrim.store.drafts import Draft
from eldrim.store.errors import ConflictError
from eldrim.web.capture.act_form import Done
from eldrim.web.capture.actions import BOARD_ACTIONS
from eldrim.web.capture.page import ANSWERS, MORE_WELL_FIELDS, PALETTE, WELL_FIELDS, CapturePage
from eldrim.web.capture.stated import HINDERS, WAYS
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, swaps
from eldrim.web.forms import FormFields, in_shop_words, text_field, whole_number

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=120)]


@router.get("/engines/new")
def choose(request: Request, db: Db, _: SignedIn) -> Response:
    """The shapes to start from, each with its drawing, and the engines to copy."""
    return _choice(request, db)


def _choice(
    request: Request, db: Db, typed: dict[str, str] | None = None, why: str = ""
) -> Response:
    pictures = {
        shape.key: engine_plan.draw(
            start(shape, Beginning(shape.key, gettext("New"), gettext(shape.name))),
            engine_plan.PlanView(compact=True),
        )
        for shape in SHAPES
    }
    known = [(sheet.id, f"{sheet.make} {sheet.name}") for sheet in sheet_store.sheets(db)]
    return render(
        request,
        "capture/new.html.jinja",
        status=422 if why else 200,
        shapes=SHAPES,
        pictures=pictures,
        known=known,
        typed=typed or {},
        why=why,
    )


class BeginForm(BaseModel):
    """An engine to capture: from a shape, or from a copy ``of`` another."""

    make: Annotated[str, Field(max_length=300)] = ""
    name: Annotated[str, Field(max_length=300)] = ""
    copy_it: Annotated[str, Field(max_length=8)] = ""
    shape: Annotated[str, Field(max_length=300)] = ""
    of: Annotated[str, Field(max_length=300)] = ""
    head: Annotated[str, Field(max_length=300)] = "aluminium"
    service: Annotated[str, Field(max_length=300)] = "road"


@router.post("/engines/new")
def begin(
    request: Request, db: Db, signed_in: Trainer, form: Annotated[BeginForm, Form()]
) -> Response:
    """Begin capturing from a shape, or from a copy; what is refused keeps what was typed."""
    make, name = form.make.strip(), form.name.strip()
    key = free_key(f"{make} {name}", ())
    why = ""
    if not make or not name:
        why = gettext("The engine has no name: say its make and its name.")
    elif form.shape not in BY_KEY and not form.copy_it:
        why = gettext("Press the shape that is nearest, or start from a copy.")
    elif drafts.is_known(db, key):
        why = gettext("There is an engine '{key}' already. Give the new one another name.", key=key)
    if why:
        return _choice(request, db, form.model_dump(), why)
    if form.shape in BY_KEY:
        begun = Beginning(key, make, name, form.head, form.service)
        engine = start(BY_KEY[form.shape], begun)
    else:
        engine = copied(sheet_store.sheet(db, form.of), key, make, name)
    drafts.begin(db, engine, signed_in.name)
    return RedirectResponse(f"/capture/{key}", 303)


@router.post("/capture/{engine_id}/discard")
def discard(db: Db, _: Trainer, engine_id: str, number: Annotated[int, Form()]) -> Response:
    """Throw a capture away; a sheet that was kept before stays as it was."""
    drafts.discard(db, engine_id, number)
    return RedirectResponse("/engines", 303)


@router.post("/engines/{engine_id}/capture")
def change(db: Db, signed_in: Trainer, engine_id: str) -> Response:
    """Take an engine that is kept back on the drawing board."""
    drafts.begin(db, sheet_store.sheet(db, engine_id), signed_in.name)
    return RedirectResponse(f"/capture/{engine_id}", 303)


@router.get("/capture/{engine_id}")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, part: str = "") -> Response:
    """The drawing board."""
    return _page(request, drafts.current(db, engine_id), part)


def _page(request: Request, draft: Draft, part: str, said: str = "", problem: str = "") -> Response:
    view = CapturePage(draft, part, said, problem)
    template = "board" if swaps(request) else "show"
    # A refused act is answered with the board as it is, so that nothing typed or drawn is lost.
    return render(
        request,
        f"capture/{template}.html.jinja",
        view=view,
        engine=view.engine,
        palette=PALETTE,
        answers=ANSWERS,
        ways=WAYS,
        hinders=HINDERS,
        well_fields=WELL_FIELDS,
        more_well_fields=MORE_WELL_FIELDS,
        kinds=list(PartKind),
        round_kinds=list(RoundKind),
        shapes=list(Shape),
    )


@router.post("/capture/{engine_id}/understand")
def understood(request: Request, _: Writer, engine_id: str, joint: Short = "") -> Response:
    """A joint as it is understood while it is typed, with words that could come next."""
    full = problem = ""
    try:
        said = understand(joint) if joint.strip() else None
        full = in_full(said.joint, str(said.torque or "")) if said else ""
    except (EngineError, ValidationError) as error:
        problem = in_shop_words(error)
    return render(
        request,
        "capture/understood.html.jinja",
        full=full,
        problem=problem,
        completions=completions(joint),
    )


@router.post("/capture/{engine_id}/keep")
def keep(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, number: Annotated[int, Form()]
) -> Response:
    """Keep the drawing as the sheet's next revision, if a plan can be made on it."""
    draft = drafts.current(db, engine_id)
    try:
        _plans(draft.engine)
    except ProblemsError as error:
        return _page(
            request, draft, "", problem=gettext("Not kept: {error}", error=in_shop_words(error))
        )
    drafts.keep(db, engine_id, number, signed_in.name)
    address = f"/engines/{engine_id}/figures"
    if swaps(request):
        return Response(status_code=204, headers={"hx-redirect": address})
    return RedirectResponse(address, 303)


def _plans(engine: Engine) -> None:
    """Raise :class:`ProblemsError` when some hole of some variant cannot be planned for."""
    for variant in engine.variants:
        work = (carrier(engine), Work.PLUG)
        compile_plan(engine, Job(cylinders=tuple(engine.cylinders), work=work, variant=variant))


@router.post("/capture/{engine_id}/{act}")
def act_on_board(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, act: str, form: FormFields
) -> Response:
    """One act on the drawing; a refused act changes nothing and says why."""
    if act in ("undo", "redo"):
        number = whole_number("number", text_field(form, "number")) or 0
        draft = drafts.step(db, engine_id, number, -1 if act == "undo" else 1)
        return _answered(request, draft, text_field(form, "part"))

    def doing(engine: Engine, part: str) -> Done:
        if act not in BOARD_ACTIONS:
            said, fix = gettext("there is no such act"), gettext("load the page again")
            raise EngineError([Problem(act, said, fix)])
        return BOARD_ACTIONS[act](engine, part, form)

    return done_on_board(request, db, signed_in.name, engine_id, form, doing)


def done_on_board(
    request: Request,
    db: Session,
    who: str,
    engine_id: str,
    form: FormData,
    doing: Callable[[Engine, str], Done],
) -> Response:
    """The board after an act on the part in hand; a refused one changes nothing and says why."""
    number, part = whole_number("number", text_field(form, "number")) or 0, text_field(form, "part")
    draft = drafts.current(db, engine_id)
    try:
        engine, what, part = doing(draft.engine, part)
        engine = Engine.model_validate(engine.model_dump(mode="json"))
        no_worse(draft.engine, engine)
        draft = drafts.push(db, number, engine, what, who)
    except (ProblemsError, ValidationError, ValueError) as error:
        return _refused(request, draft, part, text_field(form, "joint"), in_shop_words(error))
    except ConflictError as error:
        return _page(
            request, drafts.current(db, engine_id), part, text_field(form, "joint"), str(error)
        )
    return _answered(request, draft, part)


def no_worse(before: Engine, after: Engine) -> None:
    """Refuse what makes the sheet say something no file may: what is taken in is judged so too."""
    known = set(check(before))
    if problems := [problem for problem in check(after) if problem not in known]:
        raise EngineError(problems)


def _refused(request: Request, draft: Draft, part: str, said: str, why: str) -> Response:
    """Say why beside the form that was sent; the rest of the page, with all typed, stays."""
    if not swaps(request):
        return _page(request, draft, part, said, why)
    answer = render(request, "capture/refused.html.jinja", why=why)
    answer.headers.update({"hx-retarget": "find .form-said", "hx-reswap": "innerHTML"})
    return answer


def _answered(request: Request, draft: Draft, part: str) -> Response:
    if swaps(request):
        return _page(request, draft, part)
    return RedirectResponse(f"/capture/{draft.engine.id}?part={part}", 303)
