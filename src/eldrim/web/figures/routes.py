"""The spec sheet: look, state a figure, settle two sources, compare another plug."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import Quantity
from eldrim.core.engine import Engine
from eldrim.core.engine.edit import (
    put_figure,
    put_plug,
    put_source,
    settle_figure,
    source_figures,
    take_away,
)
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Figure, Plug, Source
from eldrim.core.figures.bands import band_for
from eldrim.core.figures.crossref import Offered, cross_reference, fits
from eldrim.core.figures.listing import dimension_of, siblings
from eldrim.core.figures.prices import price_of
from eldrim.core.figures.sheet import plug_of
from eldrim.core.figures.slips import Held, examine
from eldrim.core.interval.life import life_of
from eldrim.core.interval.plug_choice import PlugChoice, PlugCost
from eldrim.core.job import Job, Work
from eldrim.core.words.messages import gettext
from eldrim.exchange.advice import read_reading
from eldrim.store import rules as rules_store
from eldrim.store import sheet_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, tools_today
from eldrim.web.figures.page import SpecPage, Typing
from eldrim.web.forms import (
    MAX_TEXT,
    FormFields,
    decimal_number,
    in_shop_words,
    text_field,
    whole_number,
    with_unit,
)
from eldrim.web.plans import weighed

router = APIRouter(include_in_schema=False)


@router.get("/engines/{engine_id}/figures")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, variant: str = "") -> Response:
    """The spec sheet of one variant."""
    return _page(request, db, sheet_store.sheet(db, engine_id), variant)


def _page(
    request: Request, db: Session, engine: Engine, variant: str, typing: Typing | None = None
) -> Response:
    view = SpecPage(engine, variant, rules_store.in_force(db), tools_today(db), typing)
    status = 422 if typing else 200
    return render(request, "figures/show.html.jinja", status=status, view=view, engine=engine)


@router.post("/engines/{engine_id}/figures/look")
def look(request: Request, db: Db, _: Writer, engine_id: str, form: FormFields) -> Response:
    """What a figure reads as while it is typed, or why it will be held."""
    engine = sheet_store.sheet(db, engine_id)
    key, typed = text_field(form, "key"), text_field(form, "value")
    found: Quantity | Held | None = None
    problem = ""
    try:
        found = _examined(engine, key, text_field(form, "variant"), typed) if typed else None
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
def state(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: FormFields
) -> Response:
    """State a figure. What is out of its band is held until a reading is picked or confirmed."""
    key, variant = text_field(form, "key"), text_field(form, "variant")
    typed = text_field(form, "picked") or text_field(form, "value")
    fields = {k: str(value)[:MAX_TEXT] for k, value in form.items() if isinstance(value, str)}
    index = whole_number("index", fields.get("index", ""))
    try:
        engine = _current(db, engine_id, form)
    except ConflictError as error:
        # Kept beside theirs, the two are two sources, to be settled like any two.
        beside = gettext(
            "{error} Yours is here still: kept, it stands beside theirs until one is settled.",
            error=error,
        )
        typing = Typing(key, None, fields, problem=beside)
        return _page(request, db, sheet_store.sheet(db, engine_id), variant, typing)
    try:
        found = _examined(engine, key, variant, typed)
        if isinstance(found, Held) and not text_field(form, "confirmed"):
            return _page(request, db, engine, variant, Typing(key, index, fields, found))
        changed = _stated(engine, key, typed, form, index)
        sheet_store.save_sheet(db, changed, signed_in.name)
    except (QuantityError, EngineError, ValidationError) as error:
        typing = Typing(key, index, fields, problem=in_shop_words(error))
        return _page(request, db, engine, variant, typing)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}#{key}", 303)


@router.post("/engines/{engine_id}/figures/source")
def source_many(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: FormFields
) -> Response:
    """Name one source for many figures that had none."""
    engine, variant = sheet_store.sheet(db, engine_id), text_field(form, "variant")
    fields = {k: str(value)[:MAX_TEXT] for k, value in form.items() if isinstance(value, str)}
    places = [str(place) for place in form.getlist("figure")]
    try:
        changed, source = _source(engine, form)
        changed = source_figures(changed, places, source, text_field(form, "page"))
        sheet_store.save_sheet(db, changed, signed_in.name)
    except (EngineError, ValidationError) as error:
        typing = Typing("many", None, fields, problem=in_shop_words(error))
        return _page(request, db, engine, variant, typing)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}", 303)


@router.post("/engines/{engine_id}/figures/settle")
def settle_one(db: Db, signed_in: Trainer, engine_id: str, form: FormFields) -> Response:
    """Let one of two disagreeing sources hold, with the reason."""
    engine = _current(db, engine_id, form)
    key = text_field(form, "key")
    changed = settle_figure(engine, key, _index(form), text_field(form, "reason"))
    sheet_store.save_sheet(db, changed, signed_in.name)
    return _back(engine_id, form)


@router.post("/engines/{engine_id}/figures/take-away")
def remove(db: Db, signed_in: Trainer, engine_id: str, form: FormFields) -> Response:
    """Take one stated figure off the sheet; the revision before keeps it."""
    changed = take_away(_current(db, engine_id, form), text_field(form, "key"), _index(form))
    sheet_store.save_sheet(db, changed, signed_in.name)
    return _back(engine_id, form)


@router.post("/engines/{engine_id}/figures/plug-identity")
def identify(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: FormFields
) -> Response:
    """Describe the plug of a variant; lengths out of their band are held like any figure."""
    engine = _current(db, engine_id, form, "plug")
    variant = text_field(form, "variant")
    fields = {field: text_field(form, field) for field in (*PLUG_FIELDS, *SOURCE_FIELDS)}
    try:
        engine, source = _source(engine, form)
        lengths = {name: with_unit(fields[name], "mm") for name in PLUG_LENGTHS}
        plug = Plug.model_validate(
            {
                **{name: fields[name] for name in PLUG_FIELDS},
                **lengths,
                "source": source,
                "resistor": fields["resistor"] == "yes",
                "points": whole_number("points", fields["points"]),
                "adjustable": fields["adjustable"] == "yes",
            }
        )
        changed = put_plug(engine, variant, plug)
        sheet_store.save_sheet(db, changed, signed_in.name)
    except (EngineError, ValidationError) as error:
        typing = Typing("plug", None, fields, problem=in_shop_words(error))
        return _page(request, db, engine, variant, typing)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}", 303)


SOURCE_FIELDS = ("document", "edition", "kind")
# Measured in millimetres where nothing else is said.
PLUG_LENGTHS = ("reach", "hex", "height", "gap_supplied")
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
def compare(request: Request, db: Db, _: Writer, engine_id: str, form: FormFields) -> Response:
    """Compare another plug with the one the sheet asks for, by everything that makes it one; and
    where it is one, which of both costs less to run.
    """
    sheet, variant = sheet_store.sheet(db, engine_id), text_field(form, "variant")
    plug = plug_of(sheet, variant)
    names = ("part_number", "thread", "reach", "seat", "hex", "heat_range", "gap_supplied")
    plain = {name: text_field(form, name) for name in names}
    try:
        offered = Offered.model_validate(
            {**plain, "resistor": text_field(form, "resistor") == "yes"}
        )
    except ValidationError as error:
        return render(
            request,
            "figures/compared.html.jinja",
            problem=in_shop_words(error),
            found=None,
            same=False,
            offered=None,
            choice=(),
        )
    found = cross_reference(plug, offered)
    return render(
        request,
        "figures/compared.html.jinja",
        problem="",
        found=found,
        same=fits(found),
        offered=offered,
        choice=_choice(db, sheet, variant, form) if fits(found) else (),
    )


# What a plug may cost at most, in the money of the house.
MOST_PRICE = 10_000.0


def _choice(db: Db, engine: Engine, variant: str, form: FormData) -> tuple[str, ...]:
    """Which plug costs less to run, in words; nothing where price or life was not said."""
    said, lasts = text_field(form, "price"), text_field(form, "life")
    if not (said and lasts):
        return ()
    price = decimal_number("price", said) or 0.0
    if not 0 <= price <= MOST_PRICE:
        raise ProblemsError(
            [
                Problem(
                    "price",
                    gettext("{said} cannot be", said=said),
                    gettext("0 to {most_price}", most_price=f"{MOST_PRICE:.0f}"),
                )
            ]
        )
    amount, unit = read_reading("life", lasts)
    if amount <= 0:
        raise ProblemsError(
            [Problem("life", gettext("nothing lasts so short"), gettext("write 100000 km"))]
        )
    rules = rules_store.in_force(db)
    life = life_of(engine, variant, "plug", unit, rules)
    assert life is not None, gettext("plugs have a band where the sheet is silent")
    job = Job(cylinders=tuple(engine.cylinders), work=(Work.PLUG,), variant=variant)
    minutes = weighed(engine, job, rules, tools_today(db)).minutes
    count, own = len(engine.holes), price_of(engine, variant, "plug")
    now = PlugCost(own, count, life.amount, unit)
    offered = PlugCost(price, count, amount, unit)
    return PlugChoice(minutes, rules.money_per_minute, now, offered).words()


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
            "page": text_field(form, "page"),
            "variants": tuple(
                str(value) for value in form.getlist("variants") if value in engine.variants
            ),
            "lubricated": bool(text_field(form, "lubricated")),
            "note": text_field(form, "note"),
            "plus": text_field(form, "plus") or None,
            "confirmed": text_field(form, "confirmed"),
        }
    )
    return put_figure(engine, key, figure, index)


def _source(engine: Engine, form: FormData) -> tuple[Engine, str]:
    """The source named, or a new one put on the sheet."""
    key = text_field(form, "source")
    if key != "new":
        return engine, key
    document = text_field(form, "document")
    source = Source.model_validate(
        {
            "document": document,
            "edition": text_field(form, "edition"),
            "kind": text_field(form, "kind"),
        }
    )
    key = free_key(document, tuple(engine.sources))
    return put_source(engine, key, source), key


def _current(db: Session, engine_id: str, form: FormData, what: str = "") -> Engine:
    """The sheet as it stands, whatever others changed elsewhere on it since the form was made.

    Raises :class:`ConflictError` when what the form is about (a figure's key, or ``plug``) is
    not what it was.
    """
    engine = sheet_store.sheet(db, engine_id)
    revision = whole_number("revision", text_field(form, "revision"))
    was = sheet_store.sheet(db, engine_id, revision) if revision is not None else None
    key, variant = what or text_field(form, "key"), text_field(form, "variant")
    if was is None or _stated_of(was, key, variant) != _stated_of(engine, key, variant):
        said = _stated_of(engine, key, variant)
        now = "; ".join(str(f.value) if isinstance(f, Figure) else f.part_number for f in said)
        raise ConflictError(
            gettext(
                "Somebody else changed this meanwhile; it is {now} now, at revision "
                "{revision}. Nothing was overwritten.",
                now=now or gettext("gone"),
                revision=engine.revision,
            )
        )
    return engine


def _stated_of(engine: Engine, key: str, variant: str) -> tuple[Figure | Plug, ...]:
    return (plug_of(engine, variant),) if key == "plug" else engine.figures.get(key, ())


def _back(engine_id: str, form: FormData) -> Response:
    variant, key = text_field(form, "variant"), text_field(form, "key")
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={variant}#{key}", 303)


def _index(form: FormData) -> int:
    index = whole_number("index", text_field(form, "index"))
    if index is None:
        raise ProblemsError(
            [Problem("index", gettext("names no figure"), gettext("load the page again"))]
        )
    return index
