"""One run of the log: every reading, fit to print; what is noted on it later."""

from dataclasses import dataclass
from functools import partial
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.engine.targets import hole_order
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import SIGNING, Plan, Reading, Step
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.parts_needed import parts_needed
from eldrim.core.run.readings import (
    at_limit,
    is_number,
    label_at_hole,
    outside_words,
    shown,
    with_meter_unit,
)
from eldrim.core.run.report import DEVIATES, report
from eldrim.core.run.search_report import told as search_told
from eldrim.core.run.state import RunState, fold, fold_all
from eldrim.core.run.stops import reason_of, reasons
from eldrim.core.run.told import told
from eldrim.core.words import say
from eldrim.core.words.language import reading_in, speaking
from eldrim.drawing import advance_curve
from eldrim.exchange.run_files import run_csv, run_json
from eldrim.printing import run_sheet
from eldrim.store import accounts, answers, edition_store, past_runs, runs
from eldrim.store.tables import RunRow
from eldrim.web.bay.verdict import verdict_view
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.filters import SHOP_ZONE, when
from eldrim.web.forms import download
from eldrim.web.papers import kept

router = APIRouter(include_in_schema=False)
DEVIATED = (EntryKind.DEVIATION, EntryKind.OVER, EntryKind.SKIP)


@router.get("/log/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """One run: readings per cylinder, deviations, every entry."""
    row = runs.run(db, key)
    plan, entries, state = (
        with_meter_unit(edition_store.plan_of(row.edition), row.unit.meter),
        past_runs.entries(db, key),
        runs.state(db, key),
    )
    all_done, called = fold_all(entries), accounts.called(db)
    lines = report(plan, entries, called)
    here = {line.key for line in lines}
    # Of a search only the branches that were taken.
    followed = plan.model_copy(update={"steps": tuple(s for s in plan.steps if s.key in here)})
    return render(
        request,
        "log/show.html.jinja",
        run=row,
        plan=plan,
        state=state,
        search=search_told(plan, state, called),
        tray=_readings_by_hole(followed, all_done),
        others=_readings_elsewhere(followed, all_done),
        deviations=[one for one in entries if one.entry.kind in DEVIATED],
        entries=entries,
        reason_of=reason_of,
        value_texts=_texts(plan, entries),
        gone_over=_gone_over(plan, entries, state),
        still_open=state.open_steps(plan),
        lines=lines,
        marks=_marked(plan, entries, called),
        parts=parts_needed(plan, state),
        plugs=verdict_view(db, row, whole=False),
        steps={step.key: step for step in plan.steps},
        said_of=partial(told, others=state.value_of),
        curve=_curve(plan, state),
        notes=list(state.notes.values()),
        kinds=reasons(EntryKind.NOTE),
        cost=_cost(row),
        answers=answers.of_run(db, row.edition.procedure_id, key),
    )


@dataclass(frozen=True)
class CostView:
    """What a run was planned to cost and what it came to, with the minutes of both."""

    minutes: float
    planned: float
    took: float
    real: float


def _cost(row: RunRow) -> CostView | None:
    """None where its prices or its minutes are not known."""
    if row.took is None or row.cost_planned is None or row.cost_real is None:
        return None
    return CostView(row.edition.minutes, row.cost_planned, row.took, row.cost_real)


class NoteForm(BaseModel):
    """What is noted on a run after it was signed."""

    id: UUID
    kind: Annotated[str, Field(max_length=20)] = ""
    words: Annotated[str, Field(max_length=400)] = ""


@router.post("/log/{key}/notes")
def note(db: Db, signed_in: Writer, key: UUID, form: Annotated[NoteForm, Form()]) -> Response:
    """Note something on a signed run, as an entry of its own; the same form again adds nothing."""
    entry = Entry(
        id=form.id,
        kind=EntryKind.NOTE,
        step=SIGNING,
        reason=form.kind,
        note=form.words.strip(),
        how="typed",
    )
    runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    return RedirectResponse(f"/log/{key}#notes", 303)


@router.get("/log/{key}/run.{form}")
def run_file(db: Db, _: SignedIn, key: UUID, form: Literal["pdf", "json", "csv"]) -> Response:
    """The run sheet on paper, or the run as JSON or CSV."""
    row, entries = runs.run(db, key), past_runs.entries(db, key)
    plan = edition_store.plan_of(row.edition)
    name = f"run-{row.unit_id}-{row.at:%Y%m%d}.{form}"
    counted = with_meter_unit(plan, row.unit.meter)
    if form == "pdf":
        called = accounts.called(db)
        said = (row.unit.name, row.unit.serial, row.unit.meter, *sorted(called.items()))
        key_of_it = ("run", row.id, row.signed_at, len(entries), *said)
        data = kept(key_of_it, lambda: _paper(row, counted, entries, called))
        return download(data, "application/pdf", name)
    if form == "csv":
        with reading_in(plan.job.language):
            return download(
                run_csv(counted, entries, accounts.called(db)), "text/csv; charset=utf-8", name
            )
    about = {
        "run": str(row.id),
        "unit": row.unit_id,
        "serial": row.unit.serial,
        "edition": row.edition.number,
        "started": row.at.isoformat(),
        "by": row.by,
        "bay": row.bay,
        "called": accounts.called(db),
    }
    return download(run_json(plan, entries, about), "application/json", name)


def _marked(
    plan: Plan, entries: list[Recorded], called: dict[str, str]
) -> list[tuple[str, tuple[str, ...], list[str]]]:
    """Of each step that something was marked at: its text, what it was, and the photos."""
    photos: dict[str, list[str]] = {}
    for entry in (recorded.entry for recorded in entries if recorded.entry.photo):
        photos.setdefault(entry.step, []).append(entry.photo)
    return [
        (line.text, line.marks, photos.get(line.key, []))
        for line in report(plan, entries, called)
        if line.marks or line.key in photos
    ]


def _paper(row: RunRow, plan: Plan, entries: list[Recorded], called: dict[str, str]) -> bytes:
    state = fold(entries)
    with speaking(plan.job.language):
        sheet = f"{say('doc.sheet')} {say('doc.revision', number=plan.revision)}"
        facts = {
            say("doc.unit_short"): f"{row.unit.name}, {row.unit.serial}",
            say("doc.engine"): f"{plan.engine_name}, {plan.variant_name}",
            say("doc.edition"): f"{row.edition.number}, {sheet}",
            **({say("bay.place"): row.bay} if row.bay else {}),
            say("bay.ended" if state.unfinished else "doc.signed"): _end(row, state, called),
        }
        about = run_sheet.RunFacts(
            facts=facts, parts=parts_needed(plan, state), called=called, zone=SHOP_ZONE
        )
        return run_sheet.pdf(plan, entries, about)


def _end(row: RunRow, state: RunState, called: dict[str, str]) -> str:
    if row.signed_at is None or state.signed is None:
        return say("bay.open")
    why = f": {reason_of(state.signed.entry)}" if state.unfinished else ""
    return f"{when(row.signed_at)}, {called[state.signed.by]}{why}"


@dataclass(frozen=True)
class Cell:
    """One reading of a run: what was asked, what was written, as it reads, and the verdict."""

    reading: Reading
    recorded: Recorded | None
    text: str
    verdict: str


def _readings_by_hole(plan: Plan, state: RunState) -> tuple[list[str], dict[str, dict[str, Cell]]]:
    """Readings per hole: column labels, then hole to label to reading, value and verdict."""
    labels: dict[str, None] = {}
    holes: dict[str, dict[str, Cell]] = {}
    at_holes = [step for step in plan.steps if step.hole]
    for step in sorted(at_holes, key=lambda step: hole_order(step.hole or "")):
        for reading in step.readings:
            label, cell = label_at_hole(step, reading.label), _cell(step, reading, state)
            holes.setdefault(step.hole or "", {})
            # What nobody had to write down, and nobody did, is not missing.
            if reading.required or cell.recorded:
                labels[label] = None
                holes[step.hole or ""][label] = cell
    return list(labels), holes


def _readings_elsewhere(plan: Plan, state: RunState) -> list[tuple[Step, Cell]]:
    return [
        (step, _cell(step, reading, state))
        for step in plan.steps
        if not step.hole
        for reading in step.readings
    ]


def _curve(plan: Plan, state: RunState) -> str:
    """The advance along its curve as it was read; empty where none was."""
    step = next((s for s in plan.steps if s.key.operation is Operation.TIME_CURVE), None)
    if step is None:
        return ""
    read = {r.key: state.values.get((step.key, r.key)) for r in step.readings}
    found = {key: one.entry.value for key, one in read.items() if one}
    numbers = {key: float(value) for key, value in found.items() if is_number(value)}
    return advance_curve.draw(step.readings, numbers) if numbers else ""


def _cell(step: Step, reading: Reading, state: RunState) -> Cell:
    recorded = state.values.get((step.key, reading.key))
    value = recorded.entry.value if recorded else None
    limit = "at limit" if at_limit(reading, value) else ""
    text = shown(reading, value) if recorded else ""
    return Cell(reading, recorded, text, outside_words(reading, value) or limit)


def _gone_over(plan: Plan, entries: list[Recorded], state: RunState) -> dict[UUID, str]:
    """By the value that stands now, what deviated at its place before: it is not written away."""
    texts = _texts(plan, entries)
    found: dict[UUID, str] = {}
    for entry in (recorded.entry for recorded in entries):
        stands = state.values.get((entry.step, entry.reading))
        if entry.kind in DEVIATES and stands and stands.entry.id != entry.id:
            found[stands.entry.id] = texts.get(entry.id, "")
    return found


def _texts(plan: Plan, entries: list[Recorded]) -> dict[UUID, str]:
    """The value of each entry as it reads, with its unit."""
    readings = {
        (step.key, reading.key): reading for step in plan.steps for reading in step.readings
    }
    return {
        entry.id: f"{shown(readings[place], entry.value)} {entry.unit}".strip()
        for entry in (recorded.entry for recorded in entries)
        if (place := (entry.step, entry.reading)) in readings and entry.value is not None
    }
