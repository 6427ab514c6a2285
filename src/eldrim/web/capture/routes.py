"""Capturing: start from a shape or a copy, draw, describe, answer, keep."""

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from eldrim.core.capture import edits
from eldrim.core.capture.propose import Answer, answer
from eldrim.core.capture.shapes import BY_KEY, SHAPES, start
from eldrim.core.capture.shorthand import completions, in_full, understand
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import PartKind, WayKind
from eldrim.core.errors import EngineError, Problem, ProblemsError
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.drawing import engine_plan
from eldrim.store import drafts, library
from eldrim.store.drafts import Draft
from eldrim.store.errors import ConflictError
from eldrim.web.capture.page import ANSWERS, PALETTE, WAYS, CapturePage
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, swaps

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=120)]


async def _fields(request: Request) -> FormData:
    return await request.form(max_fields=60)


Fields = Annotated[FormData, Depends(_fields)]


@router.get("/engines/new")
def choose(request: Request, db: Db, _: SignedIn) -> Response:
    """The shapes to start from, each with its drawing, and the engines to copy."""
    pictures = {
        s.key: engine_plan.draw(
            start(s, s.key, "New", s.name, "aluminium", "road"), engine_plan.PlanView(compact=True)
        )
        for s in SHAPES
    }
    known = [(r.id, f"{r.make} {r.name}") for r in library.sheets(db)]
    return render(request, "capture/new.html.jinja", shapes=SHAPES, pictures=pictures, known=known)


@router.post("/engines/new")
def begin(
    db: Db,
    signed_in: Trainer,
    make: Short,
    name: Short,
    shape: Short = "",
    of: Short = "",
    head: Short = "aluminium",
    service: Short = "road",
) -> Response:
    """Begin capturing from a shape, or from a copy of another engine."""
    if not make.strip() or not name.strip():
        raise ProblemsError([Problem("name", "the engine has no name", "say make and name")])
    key = edits.free_key(f"{make} {name}", ())
    if drafts.is_known(db, key):
        raise ConflictError(f"There is an engine '{key}' already. Give the new one another name.")
    if shape in BY_KEY:
        engine = start(BY_KEY[shape], key, make.strip(), name.strip(), head, service)
    else:
        known = library.sheet(db, of)
        changes = {"id": key, "make": make.strip(), "name": name.strip(), "revision": 1}
        engine = known.model_copy(update=changes)
    drafts.begin(db, engine, signed_in.name)
    return RedirectResponse(f"/capture/{key}", 303)


@router.post("/engines/{engine_id}/capture")
def change(db: Db, signed_in: Trainer, engine_id: str) -> Response:
    """Take an engine that is kept back on the drawing board."""
    drafts.begin(db, library.sheet(db, engine_id), signed_in.name)
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
        kinds=list(PartKind),
    )


@router.post("/capture/{engine_id}/understand")
def understood(request: Request, _: Writer, engine_id: str, joint: Short = "") -> Response:
    """A joint as it is understood while it is typed, with words that could come next."""
    full = problem = ""
    try:
        said = understand(joint) if joint.strip() else None
        full = in_full(said.joint, str(said.torque or "")) if said else ""
    except (EngineError, ValidationError) as error:
        problem = _said(error)
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
        return _page(request, draft, "", problem=f"Not kept: {_said(error)}")
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
def do(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, act: str, form: Fields
) -> Response:
    """One act on the drawing; a refused act changes nothing and says why."""
    number, part = _int(form, "number"), _text(form, "part")
    if act in ("undo", "redo"):
        draft = drafts.step(db, engine_id, number, -1 if act == "undo" else 1)
        return _answered(request, draft, part)
    draft = drafts.current(db, engine_id)
    try:
        doing = ACTS.get(act)
        if doing is None:
            raise EngineError([Problem(act, "there is no such act", "load the page again")])
        engine, what, part = doing(draft.engine, part, form)
        engine = Engine.model_validate(engine.model_dump(mode="json"))
        draft = drafts.push(db, number, engine, what, signed_in.name)
    except (EngineError, ValidationError) as error:
        return _page(request, draft, part, _text(form, "joint"), _said(error))
    except ConflictError as error:
        return _page(request, drafts.current(db, engine_id), part, _text(form, "joint"), str(error))
    return _answered(request, draft, part)


def _answered(request: Request, draft: Draft, part: str) -> Response:
    if swaps(request):
        return _page(request, draft, part)
    return RedirectResponse(f"/capture/{draft.engine.id}?part={part}", 303)


Done = tuple[Engine, str, str]
Act = Callable[[Engine, str, FormData], Done]


def _add(engine: Engine, part: str, form: FormData) -> Done:
    width, height = engine.layout.plan
    kind = PartKind(_text(form, "kind"))
    made, key = edits.add_part(engine, kind, (width / 2, height / 2), _text(form, "name"))
    return made, f"put on: {made.parts[key].name}", key


def _move(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.move(engine, part, _float(form, "dx"), _float(form, "dy"))
    return made, f"moved: {made.parts[part].name}", part


def _resize(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.resize(engine, part, _float(form, "dx"), _float(form, "dy"))
    return made, f"sized: {made.parts[part].name}", part


def _turn(engine: Engine, part: str, form: FormData) -> Done:
    return edits.turn(engine, part), f"turned: {edits.part_of(engine, part).name}", part


def _remove(engine: Engine, part: str, form: FormData) -> Done:
    return edits.remove_part(engine, part), f"taken off: {edits.part_of(engine, part).name}", ""


def _describe(engine: Engine, part: str, form: FormData) -> Done:
    needed = _text(form, "needed_to_run") == "yes"
    opens = [w.strip() for w in _text(form, "opens").split(",") if w.strip()]
    made = edits.describe(
        engine,
        part,
        name=_text(form, "name"),
        kind=_text(form, "kind"),
        level=_int(form, "level"),
        needed_to_run=needed,
        opens=opens,
    )
    return made, f"described: {made.parts[part].name}", part


def _joint(engine: Engine, part: str, form: FormData) -> Done:
    said = understand(_text(form, "joint"))
    return edits.add_joint(engine, part, said), f"held by: {_text(form, 'joint')}", part


def _unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = _text(form, "key")
    return edits.remove_joint(engine, part, key), f"joint away: {key}", part


def _way(engine: Engine, part: str, form: FormData) -> Done:
    kind = WayKind(_text(form, "kind"))
    timed = [_minutes(form, name) for name in ("out", "back")]
    chosen = tuple(str(k) for k in form.getlist("releases"))
    every = set(chosen) == set(edits.part_of(engine, part).joints)
    made = edits.set_way(engine, part, kind, timed[0], timed[1], None if every else chosen)
    return made, f"way: {kind.value.replace('_', ' ')}", part


def _unway(engine: Engine, part: str, form: FormData) -> Done:
    key = _text(form, "key")
    return edits.remove_way(engine, part, key), f"way away: {key}", part


def _reply(engine: Engine, part: str, form: FormData) -> Done:
    targets = tuple(t for t in _text(form, "targets").split(",") if t)
    said: Answer = next((a for a in ANSWERS if a == _text(form, "answer")), "free")  # type: ignore[assignment]
    over = _text(form, "over")
    return answer(engine, over, targets, said), f"{over}: {said.replace('_', ' ')}", part


def _unhinder(engine: Engine, part: str, form: FormData) -> Done:
    index = _int(form, "index")
    kept = tuple(h for i, h in enumerate(engine.hindrances) if i != index)
    return engine.model_copy(update={"hindrances": kept}), "hindrance away", part


def _ground(engine: Engine, part: str, form: FormData) -> Done:
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    names = ("timing_end", "stand", "head", "service", "charging", "fuel", "system")
    layout = {
        **plain["layout"],
        **{n: _text(form, n) for n in names},
        "bulkhead": _text(form, "bulkhead") or None,
    }
    order = [int(w) for w in _text(form, "firing_order").replace(",", " ").split() if w.isdigit()]
    ignition = {**plain["ignition"], "firing_order": order}
    made = Engine.model_validate(
        {**plain, "format": engine.format, "layout": layout, "ignition": ignition}
    )
    return made, "ground facts", part


def _wells(engine: Engine, part: str, form: FormData) -> Done:
    """Depth, bore and what is felt, for the holes chosen; all of them where none is."""
    chosen = {str(c) for c in form.getlist("c")} or {str(n) for n in engine.cylinders}
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    names = ("depth", "bore", "room_above", "sight")
    for number, cylinder in plain["cylinders"].items():
        if str(number) in chosen:
            facts = {n: _text(form, n) for n in names if _text(form, n)}
            cylinder["wells"] = [{**w, **facts} for w in cylinder["wells"]]
    return Engine.model_validate({**plain, "format": engine.format}), "wells", part


ACTS: dict[str, Act] = {
    "add": _add,
    "move": _move,
    "resize": _resize,
    "turn": _turn,
    "remove": _remove,
    "describe": _describe,
    "joint": _joint,
    "unjoint": _unjoint,
    "way": _way,
    "unway": _unway,
    "answer": _reply,
    "unhinder": _unhinder,
    "ground": _ground,
    "wells": _wells,
}


def _text(form: FormData, name: str) -> str:
    return str(form.get(name) or "").strip()[:300]


def _int(form: FormData, name: str) -> int:
    text = _text(form, name)
    return int(text) if text.lstrip("-").isdigit() else 0


def _float(form: FormData, name: str) -> float:
    try:
        return float(_text(form, name))
    except ValueError:
        return 0.0


def _minutes(form: FormData, name: str) -> float | None:
    text = _text(form, name).replace(",", ".").removesuffix("min").strip()
    if not text:
        return None
    try:
        return float(text)
    except ValueError as error:
        problem = Problem(name, f"'{text}' is no number of minutes", "write 2.5, or leave it empty")
        raise EngineError([problem]) from error


def _said(error: Exception) -> str:
    if isinstance(error, ValidationError):
        return "; ".join(f"{'.'.join(map(str, e['loc']))}: {e['msg']}" for e in error.errors())
    assert isinstance(error, ProblemsError)
    return "; ".join(f"{p.path}: {p.message} ({p.fix})" for p in error.problems)
