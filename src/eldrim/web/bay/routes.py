"""The bay: start a run, follow one step at a time, write down what was found."""

import json
import re
from typing import Annotated, Any
from urllib.parse import urlencode
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.base.errors import QuantityError, RunError
from eldrim.core.base.quantity import in_unit, read_number, scan
from eldrim.core.engine.targets import hole_order
from eldrim.core.procedure.model import Plan, Reading
from eldrim.core.reading.observed import Known
from eldrim.core.run.bags import bags
from eldrim.core.run.due import METER, NEXT_METER
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.readings import ADVANCE, dialled
from eldrim.core.run.readings import shown as value_shown
from eldrim.core.run.unit_label import plug_of, unit_of
from eldrim.core.run.waiting import waiting
from eldrim.core.words import all_sentences, say
from eldrim.core.words.language import LANGUAGES, reading_in
from eldrim.core.words.messages import gettext
from eldrim.drawing import hole_stage, plug_condition
from eldrim.store import (
    accounts,
    answers,
    complaints,
    edition_store,
    releases,
    runs,
    sheet_store,
    unit_store,
)
from eldrim.store import bays as bays_store
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import RunRow, UnitRow
from eldrim.web.bay.advice import last_values
from eldrim.web.bay.cards import cards
from eldrim.web.bay.kept_cards import kept_cards, words_of_cards
from eldrim.web.bay.tray import tray_of
from eldrim.web.bay.verdict import no_longer_told, verdict_view, view_signs
from eldrim.web.bay.wire import outline, rules, search_of, state_of
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.faults.forms import query_of, signs_text
from eldrim.web.filters import SHOP_ZONE
from eldrim.web.procedures.touched import outdated_among

router = APIRouter(include_in_schema=False)
Key = Annotated[UUID, Form()]
Short = Annotated[str, Field(max_length=400)]


class AskedBay(BaseModel):
    """Which units are asked for: that of a scanned label or by its key, or those named so."""

    label: Annotated[str, Field(max_length=400)] = ""
    unit: Annotated[str, Field(max_length=48)] = ""
    said: Annotated[str, Field(max_length=80)] = ""
    after: Annotated[str, Field(max_length=120)] = ""
    job: Annotated[str, Field(max_length=120)] = ""

    def alone(self, db: Session) -> UnitRow | None:
        """The one unit that is asked for; None for all."""
        if self.label:
            return _labelled(db, self.label)
        return unit_store.unit(db, self.unit) if self.unit else None


# The words the tablet says by itself.
SPOKEN = (
    "bay.",
    "stage.",
    "stop.",
    "wait.",
    "scan.",
    "device.",
    "refuse.",
    "doc.parts",
    "deviate.",
    "find.",
)


# A page has so many units, each with so many jobs; the rest is found by name, or one unit alone.
UNITS, JOBS, JOBS_ALONE, GOING = 24, 4, 60, 12


@router.get("/bay")
def index(
    request: Request, db: Db, user: SignedIn, asked: Annotated[AskedBay, Query()]
) -> Response:
    """Runs going on, and units with what can be started on them; all, or one alone.

    The label of an old plug leads to the run that took it out.
    """
    took_out = plug_of(asked.label)
    if took_out is not None:
        return RedirectResponse(f"/log/{runs.run(db, took_out).id}", 303)
    only = asked.alone(db)
    machines = [only] if only else unit_store.some(db, UNITS + 1, asked.said, asked.after)
    more, machines = len(machines) > UNITS, machines[:UNITS]
    open_here = runs.open_runs(db, None if only else GOING, only.id if only else "")
    states = runs.states(db, [run.id for run in open_here])
    going = [(run, states[run.id], edition_store.plan_of(run.edition)) for run in open_here]
    most, said = (JOBS_ALONE, asked.job) if only else (JOBS, "")
    choices = edition_store.for_units(db, machines, said, most)
    editions = {edition.id: edition for found, _ in choices.values() for edition in found}
    return render(
        request,
        "bay/index.html.jinja",
        going=going,
        going_count=len(going) if only else runs.open_count(db),
        units=machines,
        complaints=complaints.standing(db, [unit.id for unit in machines]),
        query_of=query_of,
        choices=choices,
        outdated=outdated_among(db, editions.values()),
        only=only,
        asked=asked,
        more=more,
        several=bool(more or asked.said or asked.after),
        bays=bays_store.bays(db),
        news=answers.unread(db, user.name),
    )


def _labelled(db: Session, label: str) -> UnitRow:
    """The unit whose label was scanned."""
    key = unit_of(label)
    if key is None:
        raise NotFoundError(gettext("'{label}' is not the label of a unit.", label=label[:80]))
    return unit_store.unit(db, key)


@router.post("/bay/runs")
def start(  # noqa: PLR0913 - what a form sends
    db: Db,
    signed_in: Writer,
    run: Key,
    edition: Key,
    unit: Annotated[str, Form(max_length=400)],
    bay: Annotated[str, Form(max_length=40)] = "",
    anyway: Annotated[str, Form(max_length=4)] = "",
) -> Response:
    """Start a run; the run keeps this edition to its end.

    Where one goes on there, or was signed lately, that is told first.
    """
    return begin(db, run, edition, unit, signed_in.name, bay, anyway=bool(anyway))


def begin(  # noqa: PLR0913 - what a run is begun with, each by name
    db: Session, run: UUID, edition: UUID, unit: str, by: str, bay: str, *, anyway: bool = False
) -> Response:
    """Start a run, or ask first where one goes on there or was signed lately."""
    others = any(row.id != run for row in runs.lately(db, unit))
    startable = releases.withdrawal(db, edition) is None and not runs.known(db, run)
    if others and startable and not anyway:
        asked = urlencode({"run": run, "edition": edition, "unit": unit, "bay": bay})
        return RedirectResponse(f"/bay/again?{asked}", 303)
    row = runs.start(db, run, edition, unit, by, bay)
    return RedirectResponse(f"/bay/runs/{row.id}", 303)


class AskedRun(BaseModel):
    """A run that was asked for, and waits for a word."""

    run: UUID
    edition: UUID
    unit: Short
    bay: Annotated[str, Field(max_length=40)] = ""


@router.get("/bay/again")
def again(request: Request, db: Db, _: SignedIn, asked: Annotated[AskedRun, Query()]) -> Response:
    """Tell what goes on, or was signed lately, on a unit, before another run starts there."""
    before = runs.lately(db, asked.unit)
    states = runs.states(db, [row.id for row in before])
    return render(
        request,
        "bay/again.html.jinja",
        before=before,
        stops={key: len(state.stops) for key, state in states.items()},
        plans={row.id: edition_store.plan_of(row.edition) for row in before},
        asked=asked,
        machine=unit_store.unit(db, asked.unit),
    )


@router.post("/bay/runs/{key}/drop")
def drop(db: Db, signed_in: Writer, key: UUID) -> Response:
    """Forget a run started by mistake, with nothing written down."""
    runs.drop(db, key, signed_in.name)
    return RedirectResponse("/bay", 303)


@router.get("/bay/runs/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID, step: str = "") -> Response:
    """A run: every step on one page, the one in hand shown; it works on without the link."""
    row = runs.run(db, key)
    if row.signed_at is not None:
        return RedirectResponse(f"/log/{key}", 303)
    return _run_page(request, db, row, step)


def _run_page(
    request: Request, db: Db, row: RunRow, wanted: str, refused: dict[str, str] | None = None
) -> Response:
    plan, state = edition_store.plan_of(row.edition), runs.state(db, row.id)
    engine = sheet_store.sheet(db, plan.engine)
    picture, shown = cards(row.edition, engine)
    now = state.current(plan) or plan.steps[-1]
    here = next((step for step in plan.steps if step.key == wanted), now)
    hub, last = request.app.state.hub, last_values(db, row)
    with reading_in(plan.job.language):
        return render(
            request,
            "bay/run.html.jinja",
            status=409 if refused else 200,
            run=row,
            plan=plan,
            cards=shown,
            at=next(card for card in shown if card.step.key == here.key),
            picture=picture,
            here=here,
            data=_inline(
                {
                    **_run_data(request, db, row, here.key),
                    "last": {f"{s}|{r}": w for (s, r), w in last.items()},
                }
            ),
            refused=refused,
            words=_inline(_spoken_words(plan.job.language)),
            values=state.values,
            value_shown=value_shown,
            last=last,
            waited=waiting(here, state),
            kept=False,
            kept_at=kept_cards(row.edition, engine, bool(hub.adapter)).address,
            **words_of_cards(state),
            symbols=hole_stage.symbols() + plug_condition.symbols(),
            leads=accounts.leads(db),
            adapter=bool(hub.adapter),
            devices=list(hub.urls),
        )


@router.get("/bay/cards/{edition}/{digest}")
def show_cards(request: Request, db: Db, _: SignedIn, edition: UUID, digest: str) -> Response:
    """The cards of an edition, for good: other ones have another address."""
    row = edition_store.edition(db, edition)
    engine = sheet_store.sheet(db, edition_store.plan_of(row).engine)
    kept = kept_cards(row, engine, bool(request.app.state.hub.adapter))
    if not kept.address.endswith(f"/{digest}"):
        raise NotFoundError(gettext("These cards are of another version. Load the page again."))
    headers = {"cache-control": "private, max-age=31536000, immutable"}
    return Response(kept.body, media_type="text/html; charset=utf-8", headers=headers)


@router.get("/bay/runs/{key}/verdict")
def show_verdict(
    request: Request, db: Db, _: SignedIn, key: UUID, repaired: bool = False
) -> Response:
    """What the plugs of a run tell, for its page; nothing while a hole is not read yet."""
    row = runs.run(db, key)
    with reading_in(edition_store.plan_of(row.edition).job.language):
        known = frozenset({Known.REPAIRED}) if repaired else frozenset[Known]()
        view = verdict_view(db, row, known)
        if view is None:
            return Response(status_code=204)
        search = query_of({"signs": signs_text(view_signs(db, row))}, row.unit_id)
        return render(
            request,
            "bay/verdict.html.jinja",
            view=view,
            repaired=repaired,
            row=row,
            search=search,
            stale=no_longer_told(db, row, view),
        )


def _spoken_words(language: str) -> dict[str, str]:
    return {key: text for key, text in all_sentences(language).items() if key.startswith(SPOKEN)}


def _run_data(request: Request, db: Db, row: RunRow, here: str) -> dict[str, Any]:
    """What the tablet's scripts go on by."""
    plan, signed_in = edition_store.plan_of(row.edition), request.state.signed_in
    return {
        "run": str(row.id),
        "rules": rules(),
        "steps": outline(plan),
        "search": search_of(plan),
        "holes": sorted({s.hole for s in plan.steps if s.hole}, key=hole_order),
        "state": state_of(db, row),
        "role": signed_in.role,
        "here": here,
        "tray": tray_of(sheet_store.sheet(db, plan.engine)),
        "zone": SHOP_ZONE.key,
        "leads": accounts.leads(db),
        "me": signed_in.name,
        "serial": row.unit.serial,
        "meter": {
            "unit": row.unit.meter,
            "written": METER_UNITS.get(row.unit.meter, (row.unit.meter,)),
            "last": runs.last_meter(db, row),
        },
        "called": request.app.state.called,
        "decimal": LANGUAGES[plan.job.language].decimal_mark,
        "bags": {bag.off.key: bag.back.key for bag in bags(plan) if bag.back},
    }


def _inline(data: object) -> str:
    """Data for a script element: nothing in it can end the element."""
    plain = json.dumps(data, ensure_ascii=False, separators=(",", ":"))
    return plain.replace("<", "\\u003c")


class EntryForm(BaseModel):
    """One entry as a form without a script sends it."""

    id: UUID
    kind: EntryKind
    step: Short = ""
    reading: Short = ""
    value: Short = ""
    reason: Short = ""
    note: Short = ""
    refers_to: UUID | None = None
    checks: list[Short] = Field([], max_length=60)


@router.post("/bay/runs/{key}/entries")
def write(
    request: Request, db: Db, signed_in: Writer, key: UUID, form: Annotated[EntryForm, Form()]
) -> Response:
    """Write one entry down from a form, where no script runs; a refusal keeps what was typed."""
    row = runs.run(db, key)
    plan = edition_store.plan_of(row.edition)
    try:
        with reading_in(plan.job.language):
            entry = _entry(plan, form, row.unit.meter)
        runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    except RunError as refusal:
        typed = form.model_dump(include={"step", "reading", "value"})
        return _run_page(request, db, row, form.step, {**typed, "why": str(refusal)})
    if form.kind is EntryKind.SIGN:
        return RedirectResponse(f"/log/{key}", 303)
    closed = form.kind in (EntryKind.DONE, EntryKind.SKIP)
    return RedirectResponse(f"/bay/runs/{key}" + ("" if closed else f"?step={form.step}"), 303)


def _entry(plan: Plan, form: EntryForm, meter: str) -> Entry:
    """The entry a form means; its value in the unit its reading asks for."""
    reading = _reading(plan, form.step, form.reading)
    return Entry(
        **form.model_dump(exclude={"value", "checks"}),
        value=_typed_value(reading, form.value, meter),
        unit=reading.unit if reading else "",
        checks=tuple(form.checks),
    )


def _reading(plan: Plan, step: str, reading: str) -> Reading | None:
    steps = (s for s in plan.steps if s.key == step)
    return next((r for s in steps for r in s.readings if r.key == reading), None)


# A meter counts whole hours or kilometres: a mark before three figures only groups them.
_METER = re.compile(r"\s*(\d{1,3}(?:[., ]\d{3})+|\d+(?:[.,]\d{1,2})?)\s*(\D*?)\.?\s*")


# How people write what a meter counts.
METER_UNITS = {
    "hours": ("hours", "h", "hr", "hrs", "hour", "std", "stunden"),
    "km": ("km", "kilometres"),
    "mi": ("mi", "miles"),
}


def _meter_value(typed: str, unit: str) -> float | None:
    """A meter as people write it; None where it is none. Refuses another unit than its own."""
    found = _METER.fullmatch(typed)
    if found is None:
        return None
    if found[2] and found[2].lower() not in METER_UNITS.get(unit, (unit,)):
        raise RunError(say("refuse.meter_unit", unit=unit, typed=found[2]))
    grouped = re.fullmatch(r"\d{1,3}(?:[., ]\d{3})+", found[1])
    return float(re.sub(r"\D", "", found[1]) if grouped else found[1].replace(",", "."))


def _typed_value(reading: Reading | None, value: str, meter: str) -> float | str | None:
    """Read a typed number, with its unit or without; other readings are kept as text."""
    if reading is None:
        return None
    if not value.strip():
        raise RunError(say("refuse.empty", label=reading.label))
    counted = _meter_value(value, meter) if reading.key in (METER, NEXT_METER) else None
    if counted is not None:
        return counted
    if reading.kind != "number":
        return value.strip()
    if reading.key.startswith(ADVANCE) and (sum_ := dialled(value)) is not None:
        return sum_
    try:
        return read_number(value)
    except QuantityError:
        return _number_with_unit(reading, value)


def _number_with_unit(reading: Reading, value: str) -> float:
    """A number typed with its unit, in the unit asked for."""
    wanted = reading.unit or say("refuse.figures")
    try:
        typed = scan(value)
        if typed.unit is None or typed.low != typed.high:
            raise QuantityError(value)
    except QuantityError as error:
        said = say("refuse.not_number", label=reading.label, value=value, unit=wanted)
        raise RunError(said) from error
    try:
        return in_unit(typed.low, typed.unit.symbol, reading.unit)
    except QuantityError as error:
        unit = typed.unit.symbol
        said = say("refuse.other_unit", label=reading.label, unit=unit, wanted=wanted)
        raise RunError(said) from error
