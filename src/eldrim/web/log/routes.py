"""The log: signed runs with every reading, fit to print."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Literal, TypeVar
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field

from eldrim.core.days import read_day
from eldrim.core.engine.targets import hole_order
from eldrim.core.language import speaking
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import EntryKind, Recorded
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
from eldrim.core.run.stops import reason_of
from eldrim.core.run.told import told
from eldrim.core.words import say
from eldrim.drawing import advance_curve
from eldrim.exchange.run_files import run_csv, run_json
from eldrim.printing import run_sheet
from eldrim.store import accounts, edition_store, log, past_runs, runs, unit_store
from eldrim.store.log import LogFilter
from eldrim.store.tables import RunRow
from eldrim.web.bay.verdict import verdict_view
from eldrim.web.context import Db, SignedIn, render
from eldrim.web.filters import SHOP_ZONE, when
from eldrim.web.forms import download
from eldrim.web.pager import PAGE_SIZE, pager
from eldrim.web.papers import kept

T = TypeVar("T")
router = APIRouter(include_in_schema=False)
# So many units and jobs are offered while one types; any other is found by what is typed.
OFFERED = 40


class LogForm(BaseModel):
    """What of the log is asked for, as a form sends it: what is left empty asks for all."""

    unit: Annotated[str, Field(max_length=80)] = ""
    by: Annotated[str, Field(max_length=40)] = ""
    job: Annotated[str, Field(max_length=200)] = ""
    since: Annotated[str, Field(max_length=20)] = ""
    until: Annotated[str, Field(max_length=20)] = ""
    marked: Annotated[str, Field(max_length=8)] = ""
    at: Annotated[str, Field(max_length=120)] = ""

    def asked(self) -> tuple[LogFilter, list[str]]:
        """What to look for, and what of it was not understood."""
        wrong: list[str] = []

        def read(kind: Callable[[str], T], text: str, fix: str) -> T | None:
            try:
                return kind(text.strip()) if text.strip() else None
            except ValueError:
                wrong.append(f"'{text.strip()}' {fix}")
                return None

        as_day = "is no day: write it as 2026-05-31. It was left out."
        found = LogFilter(
            unit=self.unit.strip(),
            by=self.by,
            job=self.job.strip(),
            since=read(read_day, self.since, as_day),
            until=read(read_day, self.until, as_day),
            marked=bool(self.marked),
        )
        return found, wrong


@router.get("/log")
def index(request: Request, db: Db, _: SignedIn, form: Annotated[LogForm, Query()]) -> Response:
    """Signed runs, the one signed last first; all, or those asked for."""
    wanted, wrong = form.asked()
    page = log.signed_runs(db, wanted, SHOP_ZONE, form.at, PAGE_SIZE)
    asked = form.model_dump(exclude={"at"}, exclude_defaults=True)
    return render(
        request,
        "log/index.html.jinja",
        rows=page.rows,
        pager=pager(page, asked),
        typed=form,
        wrong=wrong,
        filtered=bool(asked),
        units=unit_store.some(db, OFFERED),
        jobs=log.jobs(db, OFFERED),
        people=sorted(accounts.called(db).items(), key=lambda one: one[1]),
    )


@router.get("/log/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """One run: readings per cylinder, deviations, every entry."""
    row = runs.run(db, key)
    plan, entries, state = (
        with_meter_unit(edition_store.plan_of(row.edition), row.unit.meter),
        past_runs.entries(db, key),
        runs.state(db, key),
    )
    all_done = fold_all(entries)
    lines = report(plan, entries, accounts.called(db))
    here = {line.key for line in lines}
    # Of a search only the branches that were taken.
    followed = plan.model_copy(update={"steps": tuple(s for s in plan.steps if s.key in here)})
    return render(
        request,
        "log/show.html.jinja",
        run=row,
        plan=plan,
        state=state,
        search=search_told(plan, state, accounts.called(db)),
        tray=_readings_by_hole(followed, all_done),
        others=_readings_elsewhere(followed, all_done),
        deviations=[
            entry
            for entry in entries
            if entry.entry.kind in (EntryKind.DEVIATION, EntryKind.OVER, EntryKind.SKIP)
        ],
        entries=entries,
        reason_of=reason_of,
        value_texts=_texts(plan, entries),
        gone_over=_gone_over(plan, entries, state),
        still_open=state.open_steps(plan),
        lines=lines,
        marks=_marked(plan, entries, accounts.called(db)),
        parts=parts_needed(plan, state),
        plugs=verdict_view(db, row, whole=False),
        steps={step.key: step for step in plan.steps},
        said_of=partial(told, others=state.value_of),
        curve=_curve(plan, state),
    )


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
        with speaking(plan.job.language):
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
            label = label_at_hole(step, reading.label)
            labels[label] = None
            holes.setdefault(step.hole or "", {})[label] = _cell(step, reading, state)
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
