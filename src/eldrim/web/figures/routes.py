"""The spec sheet: look, state a figure, settle two sources, compare another plug."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from eldrim.core.consistency import require_consistent
from eldrim.core.engine import Engine
from eldrim.core.engine.edit import put_figure, put_plug, put_source, settle, take_away
from eldrim.core.engine.model import Figure, Plug, Source
from eldrim.core.errors import EngineError, Problem, ProblemsError, QuantityError
from eldrim.core.figures.bands import band_for
from eldrim.core.figures.crossref import Offered, cross_reference, fits
from eldrim.core.figures.listing import dimension_of, siblings
from eldrim.core.figures.sheet import plug_of
from eldrim.core.figures.slips import Held, examine
from eldrim.core.quantity import Quantity
from eldrim.store import library
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, tools_today
from eldrim.web.figures.page import SpecPage, Typing


async def _fields(request: Request) -> FormData:
    return await request.form(max_fields=60)


Fields = Annotated[FormData, Depends(_fields)]
router = APIRouter(include_in_schema=False)
LONGEST = 300


@router.get("/engines/{engine_id}/figures")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, variant: str = "") -> Response:
    """The spec sheet of one variant."""
    return _page(request, db, library.sheet(db, engine_id), variant)


def _page(
    request: Request, db: Session, engine: Engine, variant: str, typing: Typing | None = None
) -> Response:
    view = SpecPage(engine, variant, rules_store.in_force(db), tools_today(db), typing)
    status = 422 if typing else 200
    return render(request, "figures/show.html.jinja", status=status, view=view, engine=engine)


@router.post("/engines/{engine_id}/figures/look")
def look(request: Request, db: Db, _: Writer, engine_id: str, form: Fields) -> Response:
    """What a figure reads as while it is typed, or why it will be held."""
    engine = library.sheet(db, engine_id)
    key, typed = _text(form, "key"), _text(form, "value")
    found: Quantity | Held | None = None
    problem = ""
    try:
        found = _examined(engine, key, _text(form, "variant"), typed) if typed else None
    except QuantityError as error:
        problem = str(error)
    return render(
        request,
        "figures/held.html.jinja",
        found=found,
        problem=problem,
        held=found if isinstance(found, Held) else None,
    )


@router.post("/engines/{engine_id}/figures")
def state(request: Request, db: Db, signed_in: Trainer, engine_id: str, form: Fields) -> Response:
    """State a figure. What is out of its band is held until a reading is picked or confirmed."""
    key, variant = _text(form, "key"), _text(form, "variant")
    typed = _text(form, "picked") or _text(form, "value")
    fields = {k: str(v)[:LONGEST] for k, v in form.items() if isinstance(v, str)}
    index = int(fields["index"]) if fields.get("index", "").isdigit() else None
    try:
        engine = _current(db, engine_id, form)
    except ConflictError as error:
        # Kept beside theirs, the two are two sources, to be settled like any two.
        beside = f"{error} Yours is here still: kept, it stands beside theirs until one is settled."
        typing = Typing(key, None, fields, problem=beside)
        return _page(request, db, library.sheet(db, engine_id), variant, typing)
    try:
        found = _examined(engine, key, variant, typed)
        if isinstance(found, Held) and not _text(form, "confirmed"):
            return _page(request, db, engine, variant, Typing(key, index, fields, found))
        changed = _stated(engine, key, typed, form, index)
        library.save_sheet(db, require_consistent(changed), signed_in.name)
    except (QuantityError, EngineError, ValidationError) as error:
        typing = Typing(key, index, fields, problem=_said(error))
        return _page(request, db, engine, variant, typing)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}#{key}", 303)


@router.post("/engines/{engine_id}/figures/settle")
def settle_one(db: Db, signed_in: Trainer, engine_id: str, form: Fields) -> Response:
    """Let one of two disagreeing sources hold, with the reason."""
    engine = _current(db, engine_id, form)
    key = _text(form, "key")
    changed = settle(engine, key, _index(form), _text(form, "reason"))
    library.save_sheet(db, require_consistent(changed), signed_in.name)
    return _back(engine_id, form)


@router.post("/engines/{engine_id}/figures/take-away")
def remove(db: Db, signed_in: Trainer, engine_id: str, form: Fields) -> Response:
    """Take one stated figure off the sheet; the revision before keeps it."""
    changed = take_away(_current(db, engine_id, form), _text(form, "key"), _index(form))
    library.save_sheet(db, require_consistent(changed), signed_in.name)
    return _back(engine_id, form)


@router.post("/engines/{engine_id}/figures/plug-identity")
def identify(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: Fields
) -> Response:
    """Describe the plug of a variant; lengths out of their band are held like any figure."""
    engine = _current(db, engine_id, form, "plug")
    variant = _text(form, "variant")
    fields = {n: _text(form, n) for n in PLUG_FIELDS}
    try:
        plug = Plug.model_validate(
            {
                **fields,
                "resistor": fields["resistor"] == "yes",
                "points": int(fields["points"]),
                "adjustable": fields["adjustable"] == "yes",
            }
        )
        changed = require_consistent(put_plug(engine, variant, plug))
        library.save_sheet(db, changed, signed_in.name)
    except (EngineError, ValidationError) as error:
        typing = Typing("plug", None, fields, problem=_said(error))
        return _page(request, db, engine, variant, typing)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}", 303)


PLUG_FIELDS = (
    "part_number",
    "thread",
    "reach",
    "seat",
    "hex",
    "points",
    "height",
    "construction",
    "plating",
    "heat_range",
    "resistor",
    "gap_supplied",
    "adjustable",
    "index",
    "source",
    "page",
    "confirmed",
)


@router.post("/engines/{engine_id}/figures/plug")
def compare(request: Request, db: Db, _: Writer, engine_id: str, form: Fields) -> Response:
    """Compare another plug with the one the sheet asks for, by everything that makes it one."""
    plug = plug_of(library.sheet(db, engine_id), _text(form, "variant"))
    names = ("part_number", "thread", "reach", "seat", "hex", "heat_range", "gap_supplied")
    plain = {n: _text(form, n) for n in names}
    try:
        offered = Offered.model_validate({**plain, "resistor": _text(form, "resistor") == "yes"})
    except ValidationError as error:
        return render(
            request,
            "figures/compared.html.jinja",
            problem=_said(error),
            found=None,
            same=False,
            offered=None,
        )
    found = cross_reference(plug, offered)
    return render(
        request,
        "figures/compared.html.jinja",
        problem="",
        found=found,
        same=fits(found),
        offered=offered,
    )


def _examined(engine: Engine, key: str, variant: str, typed: str) -> Quantity | Held:
    dimension = dimension_of(engine, key)
    chosen = variant if variant in engine.variants else next(iter(engine.variants))
    band = band_for(engine, key, chosen, dimension)
    return examine(typed, band, dimension, siblings(engine, key, chosen))


def _stated(engine: Engine, key: str, typed: str, form: FormData, index: int | None) -> Engine:
    engine, source = _source(engine, form)
    bare = typed.partition("(")[0].strip()
    figure = Figure.model_validate(
        {
            "value": bare,
            "source": source,
            "page": _text(form, "page"),
            "variants": tuple(str(v) for v in form.getlist("variants") if v in engine.variants),
            "lubricated": bool(_text(form, "lubricated")),
            "note": _text(form, "note"),
            "plus": _text(form, "plus") or None,
            "confirmed": _text(form, "confirmed"),
        }
    )
    return put_figure(engine, key, figure, index)


def _source(engine: Engine, form: FormData) -> tuple[Engine, str]:
    """The source named, or a new one put on the sheet."""
    key = _text(form, "source")
    if key != "new":
        return engine, key
    document = _text(form, "document")
    source = Source.model_validate(
        {"document": document, "edition": _text(form, "edition"), "kind": _text(form, "kind")}
    )
    base = "".join(
        c if c.isalnum() else "-" for c in document.lower().encode("ascii", "ignore").decode()
    )
    key = "-".join(filter(None, base.split("-")))[:40] or "source"
    while key in engine.sources:
        key = f"{key}-2"
    return put_source(engine, key, source), key


def _current(db: Session, engine_id: str, form: FormData, what: str = "") -> Engine:
    """The sheet as it stands, whatever others changed elsewhere on it since the form was made.

    Raises :class:`ConflictError` when what the form is about (a figure's key, or ``plug``) is
    not what it was.
    """
    engine, text = library.sheet(db, engine_id), _text(form, "revision")
    was = library.sheet(db, engine_id, int(text)) if text.isdigit() else None
    key, variant = what or _text(form, "key"), _text(form, "variant")
    if was is None or _stated_of(was, key, variant) != _stated_of(engine, key, variant):
        said = _stated_of(engine, key, variant)
        now = "; ".join(str(f.value) if isinstance(f, Figure) else f.part_number for f in said)
        raise ConflictError(
            f"Somebody else changed this meanwhile; it is {now or 'gone'} now, at revision "
            f"{engine.revision}. Nothing was overwritten."
        )
    return engine


def _stated_of(engine: Engine, key: str, variant: str) -> tuple[Figure | Plug, ...]:
    return (plug_of(engine, variant),) if key == "plug" else engine.figures.get(key, ())


def _back(engine_id: str, form: FormData) -> Response:
    address = f"/engines/{engine_id}/figures?variant={_text(form, 'variant')}#{_text(form, 'key')}"
    return RedirectResponse(address, 303)


def _text(form: FormData, name: str) -> str:
    return str(form.get(name) or "").strip()[:LONGEST]


def _index(form: FormData) -> int:
    text = _text(form, "index")
    if not text.isdigit():
        raise ProblemsError([Problem("index", "names no figure", "load the page again")])
    return int(text)


def _said(error: Exception) -> str:
    if isinstance(error, ValidationError):
        return "; ".join(
            f"{'.'.join(map(str, e['loc']))}: {e['msg'].removeprefix('Value error, ')}"
            for e in error.errors()
        )
    if isinstance(error, ProblemsError):
        return "; ".join(map(str, error.problems))
    return str(error)
