"""Units: named by their plate, with their history and what is due."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.capture.edits import free_key
from eldrim.core.engine import Engine
from eldrim.core.engine.variants import Plate, candidates, told
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.language import speaking
from eldrim.core.run.due import due
from eldrim.core.run.history import by_hole, marked
from eldrim.exchange.calendar import write_calendar
from eldrim.printing import labels
from eldrim.store import library, runs
from eldrim.store.tables import UnitRow
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.filters import today
from eldrim.web.typed import year as typed_year

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=120)]
METERS = ("hours", "km", "seasons")


@router.get("/units")
def index(request: Request, db: Db, _: SignedIn) -> Response:
    """All units with what is due, and a plate to enter."""
    return render(request, "units/index.html.jinja", **_listing(db))


def _listing(db: Db) -> dict[str, object]:
    sheets = [Engine.model_validate(r.document) for r in library.sheets(db)]
    return {
        "units": library.units(db),
        "dues": due(runs.signed(db)),
        "today": today(),
        "engines": {e.id: e for e in sheets},
        "meters": METERS,
    }


@router.get("/due.ics")
def calendar(db: Db, _: SignedIn) -> Response:
    """What is due, for any calendar."""
    data = write_calendar(due(runs.signed(db)))
    headers = {"content-disposition": 'attachment; filename="due.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=headers)


@router.get("/labels/units.pdf")
def unit_labels(db: Db, _: SignedIn, unit: str = "") -> Response:
    """Labels with a code for one unit, or for all."""
    rows = [library.unit(db, unit)] if unit else library.units(db)
    made = [
        labels.Label(u.name, f"{u.serial} · {u.engine_id}", labels.unit_code(u.id, u.serial))
        for u in rows
    ]
    return _pdf(labels.pdf(made), "unit-labels.pdf")


@router.get("/labels/bags/{run}.pdf")
def bag_labels(db: Db, _: SignedIn, run: UUID) -> Response:
    """Labels for the bags of a run: one for each thing that comes off."""
    row = runs.run(db, run)
    plan = library.plan_of(row.edition)
    with speaking(plan.job.language):
        made = labels.bag_labels(plan, row.unit.name, str(row.id)[:8])
    return _pdf(labels.pdf(made), "bag-labels.pdf")


def _pdf(data: bytes, name: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/units/{key}")
def show(request: Request, db: Db, _: SignedIn, key: str) -> Response:
    """One unit: its plate, its variant and how that was told, its runs, what is due."""
    row = library.unit(db, key)
    sheet = library.sheet(db, row.engine_id)
    history = [(r, library.plan_of(r.edition)) for r in runs.of_unit(db, key)]
    past = runs.past(db, key)
    return render(
        request,
        "units/show.html.jinja",
        unit=row,
        engine=sheet,
        history=history,
        past=past,
        holes=by_hole(past),
        marked=marked(past),
        dues=due(runs.signed(db, key)),
        today=today(),
        meters=METERS,
    )


@router.post("/units")
def save(
    request: Request,
    db: Db,
    signed_in: Writer,
    name: Short,
    engine: Short,
    serial: Short = "",
    letters: Short = "",
    year: Short = "",
    meter: Short = "hours",
    key: Short = "",
    variant: Short = "",
) -> Response:
    """Keep a unit. Its plate picks the variant; where it leaves a choice, a person is asked."""
    sheet, plate = (
        library.sheet(db, engine),
        Plate(serial.strip(), letters.strip(), typed_year("year", year)),
    )
    if not name.strip() or meter not in METERS:
        raise ProblemsError([Problem("name", "the unit has no name or no meter", "say both")])
    found = candidates(sheet, plate)
    if len(found) != 1 and variant not in sheet.variants:
        asked = {
            "name": name,
            "engine": engine,
            "serial": serial,
            "letters": letters,
            "year": year,
            "meter": meter,
            "key": key,
        }
        return render(
            request,
            "units/ask.html.jinja",
            status=409,
            sheet=sheet,
            asked=asked,
            found=found,
            told=told(sheet, plate),
        )
    row = library.unit(db, key) if key else UnitRow(id=_free(db, name))
    row.name, row.engine_id, row.serial, row.meter = name.strip(), engine, serial.strip(), meter
    row.letters, row.year = letters.strip()[:40], plate.year
    row.variant = found[0] if len(found) == 1 else variant
    row.told_by = "plate" if len(found) == 1 else f"picked by {signed_in.name}"
    library.save_unit(db, row)
    return RedirectResponse(f"/units/{row.id}", 303)


def _free(db: Db, name: str) -> str:
    return free_key(name, tuple(u.id for u in library.units(db)))
