"""The bay: start a run, follow one step at a time, write down what was found."""

import json
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.errors import QuantityError, RunError
from eldrim.core.language import DECIMAL, speaking
from eldrim.core.procedure.model import Plan, Reading
from eldrim.core.quantity import convert, parse, working_unit
from eldrim.core.run import bags as bagged
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.stops import reasons
from eldrim.core.run.waiting import waiting
from eldrim.core.words import TABLES, say
from eldrim.drawing import hole_stage, plug_condition
from eldrim.printing.labels import unit_of
from eldrim.store import accounts, bays, library, runs
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import RunRow, UnitRow
from eldrim.web.bay.page import cards, last_time, outline, state_of, tray_of, units
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.filters import SHOP_ZONE

router = APIRouter(include_in_schema=False)
Key = Annotated[UUID, Form()]
Short = Annotated[str, Form(max_length=400)]
# The words the tablet says by itself.
SPOKEN = (
    "bay.",
    "stage.",
    "stop.",
    "wait.",
    "scan.",
    "device.",
    "refuse.plate",
    "refuse.done",
    "doc.parts",
    "refuse.empty",
    "refuse.figures",
    "refuse.not_number",
    "refuse.other_unit",
)


@router.get("/bay")
def index(request: Request, db: Db, _: SignedIn, label: str = "") -> Response:
    """Runs going on, and units with what can be started on them; all, or of a scanned label."""
    only = _labelled(db, label) if label else None
    going = [
        (r, runs.state(db, r.id), library.plan_of(r.edition))
        for r in runs.recent(db, signed=False)
        if only in (None, r.unit)
    ]
    machines = [only] if only else library.units(db)
    editions = [(e, library.plan_of(e)) for e in library.newest_editions(db)]
    choices = {
        u.id: [(e, p) for e, p in editions if (p.engine, p.variant) == (u.engine_id, u.variant)]
        for u in machines
    }
    startable = [key for key, found in choices.items() if found]
    return render(
        request,
        "bay/index.html.jinja",
        going=going,
        units=machines,
        choices=choices,
        startable=startable,
        only=only,
        bays=bays.bays(db),
    )


def _labelled(db: Db, label: str) -> UnitRow:
    """The unit whose label was scanned."""
    key = unit_of(label)
    if key is None:
        raise NotFoundError(f"'{label[:80]}' is not the label of a unit.")
    return library.unit(db, key)


@router.post("/bay/runs")
def start(
    db: Db,
    signed_in: Writer,
    run: Key,
    edition: Key,
    unit: Short,
    bay: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """Start a run; the run keeps this edition to its end."""
    row = runs.start(db, run, edition, unit, signed_in.name, bay)
    return RedirectResponse(f"/bay/runs/{row.id}", 303)


@router.get("/bay/runs/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID, step: str = "") -> Response:
    """A run: every step on one page, the one in hand shown; it works on without the link."""
    row = runs.run(db, key)
    if row.signed_at is not None:
        return RedirectResponse(f"/log/{key}", 303)
    return _run(request, db, row, step)


def _run(
    request: Request, db: Db, row: RunRow, wanted: str, refused: dict[str, str] | None = None
) -> Response:
    plan, state = library.plan_of(row.edition), runs.state(db, row.id)
    picture, shown = cards(row.edition, library.sheet(db, plan.engine))
    now = state.current(plan) or plan.steps[-1]
    here = next((s for s in plan.steps if s.key == wanted), now)
    data = {
        "run": str(row.id),
        "steps": outline(plan),
        "state": state_of(db, row),
        "role": request.state.signed_in.role,
        "here": here.key,
        "tray": tray_of(library.sheet(db, plan.engine)),
        "zone": SHOP_ZONE.key,
        "leads": accounts.leads(db),
        "me": request.state.signed_in.name,
        "units": units(),
        "serial": row.unit.serial,
        "called": request.app.state.called,
        "decimal": DECIMAL[plan.job.language],
        "bags": {b.off.key: b.back.key for b in bagged.bags(plan) if b.back},
    }
    with speaking(plan.job.language):
        return render(
            request,
            "bay/run.html.jinja",
            status=409 if refused else 200,
            run=row,
            plan=plan,
            cards=shown,
            at=next(c for c in shown if c.step.key == here.key),
            picture=picture,
            here=here,
            data=_inline(data),
            refused=refused,
            words=_inline(
                {k: w for k, w in TABLES[plan.job.language].items() if k.startswith(SPOKEN)}
            ),
            values=state.values,
            last=last_time(db, row),
            waited=waiting(here, state),
            cannot=reasons("cannot"),
            differs=reasons("differs"),
            look=plug_condition.draw,
            symbols=hole_stage.symbols(),
            leads=accounts.leads(db),
            adapter=bool(request.app.state.hub.adapter),
            devices=list(request.app.state.hub.urls),
        )


def _inline(data: object) -> str:
    """Data for a script element: nothing in it can end the element."""
    return json.dumps(data, ensure_ascii=False).replace("<", "\\u003c")


@router.post("/bay/runs/{key}/entries")
def write(
    request: Request,
    db: Db,
    signed_in: Writer,
    key: UUID,
    id: Key,
    kind: Annotated[EntryKind, Form()],
    step: Short = "",
    reading: Short = "",
    value: Short = "",
    reason: Short = "",
    note: Short = "",
    names: Annotated[UUID | None, Form()] = None,
    checks: Annotated[list[str], Form()] = [],  # noqa: B006
) -> Response:
    """Write one entry down from a form, where no script runs; a refusal keeps what was typed."""
    row = runs.run(db, key)
    plan = library.plan_of(row.edition)
    asked = _reading(plan, step, reading)
    try:
        with speaking(plan.job.language):
            typed = _typed(asked, value)
        entry = Entry(
            id=id,
            kind=kind,
            step=step,
            reading=reading,
            reason=reason,
            note=note,
            names=names,
            value=typed,
            unit=asked.unit if asked else "",
            checks=tuple(checks),
        )
        runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    except RunError as refusal:
        said = {"step": step, "reading": reading, "value": value, "why": str(refusal)}
        return _run(request, db, row, step, said)
    if kind is EntryKind.SIGN:
        return RedirectResponse(f"/log/{key}", 303)
    still_here = kind not in (EntryKind.DONE, EntryKind.SKIP)
    return RedirectResponse(f"/bay/runs/{key}" + (f"?step={step}" if still_here else ""), 303)


@router.post("/bay/runs/{key}/lead")
def from_the_floor(
    db: Db,
    signed_in: Writer,
    key: UUID,
    id: Key,
    kind: Annotated[Literal["release", "accept", "end"], Form()],
    step: Short = "",
    names: Annotated[UUID | None, Form()] = None,
    reason: Short = "",
    note: Short = "",
) -> Response:
    """A lead releases, accepts, or ends a run unfinished, from their own page."""
    entry = Entry(id=id, kind=EntryKind(kind), step=step, names=names, reason=reason, note=note)
    runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    return RedirectResponse("/floor", 303)


def _reading(plan: Plan, step: str, reading: str) -> Reading | None:
    steps = (s for s in plan.steps if s.key == step)
    return next((r for s in steps for r in s.readings if r.key == reading), None)


def _typed(reading: Reading | None, value: str) -> float | str | None:
    """Read a typed number, with a point or a comma; other readings are kept as text."""
    if reading is None:
        return None
    if reading.kind != "number":
        return value.strip()
    try:
        return float(value.strip().replace(",", ".").replace("−", "-"))
    except ValueError:
        return _in_unit(reading, value)


def _in_unit(reading: Reading, value: str) -> float:
    """A number typed with its unit, in the unit asked for."""
    wanted = reading.unit or say("refuse.figures")
    try:
        typed = parse(value)
    except QuantityError as error:
        said = say("refuse.not_number", label=reading.label, value=value, unit=wanted)
        raise RunError(said) from error
    try:
        return round(convert(typed.mid, working_unit(typed.dimension).symbol, reading.unit), 4)
    except QuantityError as error:
        said = say("refuse.other_unit", label=reading.label, unit=typed.unit, wanted=wanted)
        raise RunError(said) from error
