"""Units: named by their plate, with their history and what is due."""

from collections.abc import Sequence
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, HTTPException, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.variants import Plate, candidates, plate_verdicts
from eldrim.core.run.entries import Role
from eldrim.core.run.history import by_hole, marked
from eldrim.core.run.unit_label import unit_code
from eldrim.core.words.language import reading_in
from eldrim.core.words.messages import gettext
from eldrim.printing import labels
from eldrim.store import (
    audit,
    complaints,
    dues,
    edition_store,
    past_runs,
    runs,
    sheet_store,
    unit_store,
)
from eldrim.store.accounts import Person
from eldrim.store.tables import UnitRow
from eldrim.store.unit_store import UnitFacts, UnitsAsked
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.faults.forms import query_of
from eldrim.web.filters import today
from eldrim.web.forms import decimal_number, download
from eldrim.web.forms import year as typed_year
from eldrim.web.listing import Choice, Listing
from eldrim.web.units.life import life_view

router = APIRouter(include_in_schema=False)
Typed = Annotated[str, Field(max_length=120)]
METERS = ("hours", "km", "seasons")
# No unplanned stop costs more.
MOST_STOP = 1_000_000.0
# So much on one page; the rest is a page on, or found by name.
UNITS, DUES, DUE_PAGE, HISTORY, LABELS = 50, 5, 50, 40, 500


class UnitsForm(BaseModel):
    """Which units the list shows."""

    said: Annotated[str, Field(max_length=120)] = ""
    engine: Annotated[str, Field(max_length=48)] = ""
    sort: unit_store.UnitSort = ""
    page: Annotated[int, Field(ge=1, le=10_000)] = 1

    @property
    def asked(self) -> UnitsAsked:
        """The same as the store is asked for it."""
        return UnitsAsked(self.said, self.engine, self.sort)


def _listing(asked: UnitsForm, in_all: int, titles: dict[str, str]) -> Listing:
    engines = sorted(titles.items(), key=lambda one: one[1])
    return Listing(
        "/units",
        gettext("Name or serial"),
        {"said": asked.said, "engine": asked.engine, "sort": asked.sort},
        in_all,
        filters=(Choice("engine", gettext("Engine"), (("", gettext("all")), *engines)),),
        sorts=(
            ("", gettext("by name")),
            ("engine", gettext("by engine")),
            ("serial", gettext("by serial")),
        ),
        page=asked.page,
        size=UNITS,
        most=in_all,
    )


@router.get("/units")
def index(request: Request, db: Db, _: SignedIn, asked: Annotated[UnitsForm, Query()]) -> Response:
    """The units, what is due soonest, and a plate to enter."""
    rows, in_all = unit_store.listed(db, asked.asked, UNITS, (asked.page - 1) * UNITS)
    titles = sheet_store.titles(db)
    return render(
        request,
        "units/index.html.jinja",
        units=rows,
        list=_listing(asked, in_all, titles),
        dues=dues.soonest(db, DUES),
        due_count=dues.counts(db, today())["due"],
        today=today(),
        titles=titles,
        variants=_variant_names(db, rows),
        meters=METERS,
    )


def _variant_names(db: Db, rows: Sequence[UnitRow]) -> dict[str, str]:
    """How the variant of each unit is called; its key where its sheet has it no more."""
    sheets = sheet_store.newest(db, {row.engine_id for row in rows})
    known = {key: sheet.variants for key, sheet in sheets.items()}
    return {
        row.id: known[row.engine_id][row.variant].name
        if row.variant in known.get(row.engine_id, {})
        else row.variant
        for row in rows
    }


@router.get("/labels/units.pdf")
def unit_labels(
    db: Db,
    _: SignedIn,
    unit: str = "",
    said: Annotated[str, Query(max_length=120)] = "",
    engine: Annotated[str, Query(max_length=48)] = "",
) -> Response:
    """Labels with a code for one unit, or for those that a list shows."""
    asked = UnitsAsked(said, engine)
    rows = [unit_store.unit(db, unit)] if unit else unit_store.listed(db, asked, LABELS, 0)[0]
    titles = sheet_store.titles(db)
    made = [
        labels.Label(
            row.name,
            f"{row.serial} · {titles.get(row.engine_id, row.engine_id)}",
            unit_code(row.id, row.serial),
        )
        for row in rows
    ]
    return download(labels.pdf(made), "application/pdf", "unit-labels.pdf")


@router.get("/labels/bags/{run}.pdf")
def bag_labels(db: Db, _: SignedIn, run: UUID) -> Response:
    """Labels for the bags of a run, one for each thing that comes off; and for old plugs kept."""
    row = runs.run(db, run)
    plan = edition_store.plan_of(row.edition)
    with reading_in(plan.job.language):
        made = labels.bag_labels(plan, row.unit.name, str(row.id)[:8])
        made += labels.plug_labels(plan, row.unit.name, row.id, f"{row.at:%Y-%m-%d}")
    return download(labels.pdf(made), "application/pdf", "bag-labels.pdf")


@router.get("/units/{key}")
def show(
    request: Request, db: Db, _: SignedIn, key: str, by: Annotated[str, Query(max_length=8)] = ""
) -> Response:
    """One unit: its plate, its variant and how that was told, its life, its runs, what is due."""
    row = unit_store.unit(db, key)
    sheet = sheet_store.sheet(db, row.engine_id)
    history = runs.of_unit(db, key, HISTORY)
    past = past_runs.past(db, key)
    going = runs.states(db, [run.id for run in history if run.signed_at is None])
    return render(
        request,
        "units/show.html.jinja",
        unit=row,
        engine=sheet,
        history=history,
        history_count=runs.count_of_unit(db, key),
        stops={key: len(state.stops) for key, state in going.items()},
        past=past,
        holes=by_hole(past),
        marked=marked(past),
        dues=dues.of_unit(db, key),
        complaints=complaints.standing(db, [key]).get(key, []),
        query_of=query_of,
        today=today(),
        meters=METERS,
        changes=[(each, audit.words(each)) for each in audit.of_unit(db, key)],
        life=life_view(db, row, by_date=by == "date"),
    )


class UnitForm(BaseModel):
    """A unit as it is typed; ``variant`` is picked where the plate leaves a choice."""

    name: Typed
    engine: Typed
    serial: Typed = ""
    letters: Typed = ""
    year: Typed = ""
    meter: Typed = "hours"
    key: Typed = ""
    variant: Typed = ""
    stop_cost: Typed = ""
    use: Typed = ""
    place: Typed = ""

    @property
    def stop(self) -> float | None:
        """What an unplanned stop costs, as typed; None where the house's holds."""
        cost = decimal_number("stop_cost", self.stop_cost)
        if cost is not None and not 0 <= cost <= MOST_STOP:
            raise ProblemsError(
                [
                    Problem(
                        "stop_cost",
                        gettext("{cost} cannot be", cost=f"{cost:g}"),
                        gettext("0 to {most_stop}", most_stop=f"{MOST_STOP:.0f}"),
                    )
                ]
            )
        return cost

    @property
    def plate(self) -> Plate:
        """What stands on the plate."""
        return Plate(self.serial.strip(), self.letters.strip(), typed_year("year", self.year))


@router.post("/units")
def save(
    request: Request, db: Db, signed_in: Writer, form: Annotated[UnitForm, Form()]
) -> Response:
    """Keep a unit. Its plate picks the variant; where it leaves a choice, a person is asked."""
    sheet, plate = sheet_store.sheet(db, form.engine), form.plate
    if form.key:
        _may_change(unit_store.unit(db, form.key), form, signed_in)
    if not form.name.strip() or form.meter not in METERS:
        raise ProblemsError(
            [Problem("name", gettext("the unit has no name or no meter"), gettext("say both"))]
        )
    found = candidates(sheet, plate)
    if len(found) != 1 and form.variant not in sheet.variants:
        asked, why = form.model_dump(exclude={"variant"}), plate_verdicts(sheet, plate)
        return render(
            request,
            "units/ask.html.jinja",
            status=409,
            sheet=sheet,
            asked=asked,
            found=found,
            verdicts=why,
        )
    variant = found[0] if len(found) == 1 else form.variant
    told_by = "plate" if len(found) == 1 else f"picked by {signed_in.name}"
    about = _facts(form, variant, told_by)
    before = unit_store.facts_of(unit_store.unit(db, form.key)).words() if form.key else {}
    row = unit_store.save_unit(db, form.key or _free(db, form.name), about, new=not form.key)
    if form.key:
        # Its variant, meter and use decide what is due.
        dues.work_out(db, row.id)
    now = about.words()
    changed = {k: [before.get(k, ""), now[k]] for k in now if before.get(k, "") != now[k]}
    audit.note(db, signed_in.name, "unit changed" if form.key else "unit added", row.id, **changed)
    return RedirectResponse(f"/units/{row.id}", 303)


def _facts(form: UnitForm, variant: str, told_by: str) -> UnitFacts:
    """What is kept of a unit, as it was typed."""
    return UnitFacts(
        name=form.name.strip(),
        engine_id=form.engine,
        meter=form.meter,
        plate=form.plate,
        variant=variant,
        told_by=told_by,
        stop_cost=form.stop,
        severe=form.use == "severe",
        place=form.place.strip()[:60],
    )


def _may_change(row: UnitRow, form: UnitForm, signed_in: Person) -> None:
    """What is on a plate is changed by a trainer or a lead, and never to nothing."""
    if signed_in.role == Role.TECHNICIAN:
        raise HTTPException(403, gettext("Only a trainer or lead may change a unit."))
    if row.serial and not form.serial.strip():
        fix = gettext("every run compares the plate with it")
        raise ProblemsError(
            [Problem("serial", gettext("a serial once known is not taken away"), fix)]
        )


def _free(db: Db, name: str) -> str:
    return free_key(name, unit_store.keys_like(db, free_key(name, ())))
