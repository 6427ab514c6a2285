"""Capturing: start from a shape or a copy, draw, describe, answer, keep."""

import re
from collections.abc import Callable
from typing import Annotated, Any, get_args

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, ValidationError
from starlette.datastructures import FormData

from eldrim.core.capture import edits
from eldrim.core.capture.carrier import hold_carrier, release_carrier, state_carrier
from eldrim.core.capture.copies import copied
from eldrim.core.capture.numbering import renumbered
from eldrim.core.capture.propose import HindranceAnswer, answer
from eldrim.core.capture.shapes import BY_KEY, SHAPES, Beginning, start
from eldrim.core.capture.shorthand import completions, in_full, understand
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import TO_BE_STATED
from eldrim.core.engine.parts import HindranceKind, PartKind, WayKind
from eldrim.core.errors import EngineError, Problem, ProblemsError
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.drawing import engine_plan
from eldrim.store import drafts, sheet_store
from eldrim.store.drafts import Draft
from eldrim.store.errors import ConflictError
from eldrim.web.capture.page import ANSWERS, HINDERS, PALETTE, WAYS, WELL_FIELDS, CapturePage
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, swaps
from eldrim.web.forms import (
    FormFields,
    decimal_number,
    in_shop_words,
    minutes_number,
    text_field,
    whole_number,
    with_unit,
)

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
            start(shape, Beginning(shape.key, "New", shape.name)),
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
        why = "The engine has no name: say its make and its name."
    elif form.shape not in BY_KEY and not form.copy_it:
        why = "Press the shape that is nearest, or start from a copy."
    elif drafts.is_known(db, key):
        why = f"There is an engine '{key}' already. Give the new one another name."
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
        return _page(request, draft, "", problem=f"Not kept: {in_shop_words(error)}")
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
    number, part = _int(form, "number"), text_field(form, "part")
    if act in ("undo", "redo"):
        draft = drafts.step(db, engine_id, number, -1 if act == "undo" else 1)
        return _answered(request, draft, part)
    draft = drafts.current(db, engine_id)
    try:
        doing = BOARD_ACTIONS.get(act)
        if doing is None:
            raise EngineError([Problem(act, "there is no such act", "load the page again")])
        engine, what, part = doing(draft.engine, part, form)
        engine = Engine.model_validate(engine.model_dump(mode="json"))
        _no_worse(draft.engine, engine)
        draft = drafts.push(db, number, engine, what, signed_in.name)
    except (ProblemsError, ValidationError, ValueError) as error:
        return _refused(request, draft, part, text_field(form, "joint"), in_shop_words(error))
    except ConflictError as error:
        return _page(
            request, drafts.current(db, engine_id), part, text_field(form, "joint"), str(error)
        )
    return _answered(request, draft, part)


def _no_worse(before: Engine, after: Engine) -> None:
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


Done = tuple[Engine, str, str]
BoardAction = Callable[[Engine, str, FormData], Done]


def _add(engine: Engine, part: str, form: FormData) -> Done:
    width, height = engine.layout.plan
    kind = PartKind(text_field(form, "kind"))
    made, key = edits.add_part(engine, kind, (width / 2, height / 2), text_field(form, "name"))
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
    needed = text_field(form, "needed_to_run") == "yes"
    opens = _words(form, "opens")
    made = edits.describe(
        engine,
        part,
        name=text_field(form, "name"),
        kind=text_field(form, "kind"),
        level=_int(form, "level"),
        needed_to_run=needed,
        opens=opens,
        fixed=text_field(form, "fixed") == "yes",
        pushes_onto=[part_key(engine, word) for word in _words(form, "pushes_onto")],
    )
    return made, f"described: {made.parts[part].name}", part


def _words(form: FormData, name: str) -> list[str]:
    """The entries of a field, apart by commas."""
    return [word.strip() for word in text_field(form, name).split(",") if word.strip()]


def part_key(engine: Engine, said: str) -> str:
    """The key of a part said by key or name; what is no part is refused with those there are."""
    for key, part in engine.parts.items():
        if said.lower() in (key, part.name.lower()):
            return key
    known = ", ".join(part.name for part in engine.parts.values())
    raise EngineError([Problem("pushes_onto", f"'{said}' is no part", f"one of {known}")])


def _joint(engine: Engine, part: str, form: FormData) -> Done:
    said = understand(text_field(form, "joint"))
    return edits.add_joint(engine, part, said), f"held by: {text_field(form, 'joint')}", part


def _unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return edits.remove_joint(engine, part, key), f"joint away: {key}", part


def _way(engine: Engine, part: str, form: FormData) -> Done:
    kind = WayKind(text_field(form, "kind"))
    timed = [_minutes(form, name) for name in ("out", "back")]
    chosen = tuple(str(key) for key in form.getlist("releases"))
    every = set(chosen) == set(edits.part_of(engine, part).joints)
    opens = tuple(_words(form, "opens")) or None
    released = None if every else chosen
    made = edits.set_way(engine, part, kind, timed[0], timed[1], released, opens)
    return made, f"way: {kind.value.replace('_', ' ')}", part


def _unway(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return edits.remove_way(engine, part, key), f"way away: {key}", part


def _reply(engine: Engine, part: str, form: FormData) -> Done:
    targets = tuple(t for t in text_field(form, "targets").split(",") if t)
    said: HindranceAnswer = next(
        (a for a in get_args(HindranceAnswer) if a == text_field(form, "answer")), "free"
    )
    over = text_field(form, "over")
    return answer(engine, over, targets, said), f"{over}: {said.replace('_', ' ')}", part


def _unhinder(engine: Engine, part: str, form: FormData) -> Done:
    index = _int(form, "index")
    kept = tuple(hindrance for i, hindrance in enumerate(engine.hindrances) if i != index)
    return engine.model_copy(update={"hindrances": kept}), "hindrance away", part


def _hinder(engine: Engine, part: str, form: FormData) -> Done:
    target, kind = text_field(form, "target"), HindranceKind(text_field(form, "kind"))
    if text_field(form, "turned") and target in engine.parts:
        return edits.hinder(engine, target, part, kind), f"{target} in the way of {part}", part
    if pieces := _words(form, "pieces"):
        target = f"{target}/{','.join(pieces)}"
    return edits.hinder(engine, part, target, kind), f"in the way of {target}", part


def _ground_facts(engine: Engine, part: str, form: FormData) -> Done:
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    names = ("timing_end", "stand", "head", "service", "charging", "fuel", "system")
    layout = {
        **plain["layout"],
        **{name: text_field(form, name) for name in names},
        "bulkhead": text_field(form, "bulkhead") or None,
        "diagnosis": text_field(form, "diagnosis") or None,
        "isolate": text_field(form, "isolate") == "always",
        "battery": text_field(form, "battery"),
    }
    order = _order(engine, text_field(form, "firing_order"))
    ignition = {**plain["ignition"], "firing_order": order}
    facts = {"format": engine.format, "layout": layout, "ignition": ignition}
    facts["cylinders"] = _marked(plain["cylinders"], text_field(form, "marks"))
    facts["banks"] = {
        key: {**bank, "name": text_field(form, f"bank-{key}") or bank["name"]}
        for key, bank in plain["banks"].items()
    }
    made = Engine.model_validate({**plain, **facts})
    # Last: marks and wells are said in the numbers that stood on the page.
    if said := text_field(form, "numbers"):
        made = renumbered(made, [int(word) for word in re.findall(r"\d+", said)])
    return made, "ground facts", part


def _order(engine: Engine, said: str) -> list[int]:
    """The firing order as it was typed: every cylinder once."""
    order = [int(word) for word in re.split(r"[\s,;–-]+", said.strip()) if word.isdigit()]
    if sorted(order) != sorted(engine.cylinders):
        every = " ".join(map(str, sorted(engine.cylinders)))
        fix = f"name each of {every} once"
        raise EngineError([Problem("firing_order", f"'{said}' is no order of this engine", fix)])
    return order


def _marked(cylinders: dict[str, Any], said: str) -> dict[str, Any]:
    """The cylinders with the marks said in their order, apart by commas; none where nothing is."""
    marks = [mark.strip() for mark in said.split(",")] if said else [""] * len(cylinders)
    if len(marks) != len(cylinders):
        fix = f"write {len(cylinders)}, apart by commas; leave one empty where nothing stands"
        raise EngineError([Problem("marks", f"{len(marks)} marks are said", fix)])
    return {
        number: {**cylinder, "mark": mark}
        for (number, cylinder), mark in zip(cylinders.items(), marks, strict=True)
    }


def _wells(engine: Engine, part: str, form: FormData) -> Done:
    """Depth, bore, room, what is felt and a note, one row a hole; a row not sent stays."""
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    for number, cylinder in plain["cylinders"].items():
        wells = cylinder["wells"]
        for place, well in enumerate(wells):
            row = f"{number}-{place}"
            lengths = {
                name: with_unit(text_field(form, f"{name}-{row}"), "mm")
                for name in ("depth", "bore", "room_above")
            }
            well |= {name: length for name, length in lengths.items() if length}
            well |= {
                name: text_field(form, f"{name}-{row}")
                for name in ("sight", "note")
                if f"{name}-{row}" in form
            }
    return Engine.model_validate({**plain, "format": engine.format}), "wells", part


def _carrier(engine: Engine, part: str, form: FormData) -> Done:
    """What is known of the coils or the leads themselves."""
    stated = {
        "part_number": text_field(form, "part_number") or TO_BE_STATED,
        "boot_part": text_field(form, "boot_part") or None,
        "boot_greased": text_field(form, "boot_greased") == "yes",
        "short_loom": text_field(form, "short_loom") == "yes",
    }
    return state_carrier(engine, _int(form, "place"), **stated), "coils or leads", part


def _carrier_joint(engine: Engine, part: str, form: FormData) -> Done:
    said = text_field(form, "joint")
    return hold_carrier(engine, _int(form, "place"), understand(said)), f"held by: {said}", part


def _carrier_unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return release_carrier(engine, _int(form, "place"), key), f"joint away: {key}", part


BOARD_ACTIONS: dict[str, BoardAction] = {
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
    "hinder": _hinder,
    "ground": _ground_facts,
    "wells": _wells,
    "carrier": _carrier,
    "carrier-joint": _carrier_joint,
    "carrier-unjoint": _carrier_unjoint,
}


def _int(form: FormData, name: str) -> int:
    return whole_number(name, text_field(form, name)) or 0


def _float(form: FormData, name: str) -> float:
    return decimal_number(name, text_field(form, name)) or 0.0


def _minutes(form: FormData, name: str) -> float | None:
    return minutes_number(name, text_field(form, name))
