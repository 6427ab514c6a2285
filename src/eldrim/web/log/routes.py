"""The log: signed runs with every reading, fit to print."""

from typing import Literal
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from eldrim.core.language import speaking
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.state import RunState, at_limit, fold, judge
from eldrim.core.run.stops import reason_of
from eldrim.core.words import say
from eldrim.exchange.run_files import run_csv, run_json
from eldrim.printing import run_sheet
from eldrim.store import accounts, library, runs
from eldrim.store.tables import RunRow
from eldrim.web.bay.page import damaged, marks
from eldrim.web.context import Db, SignedIn, render
from eldrim.web.filters import SHOP_ZONE, when

router = APIRouter(include_in_schema=False)


@router.get("/log")
def index(request: Request, db: Db, _: SignedIn, page: int = 1) -> Response:
    """Signed runs, newest first."""
    rows = runs.recent(db, signed=True, page=max(page, 1))
    found = [(r, library.plan_of(r.edition)) for r in rows]
    return render(request, "log/index.html.jinja", rows=found, page=max(page, 1))


@router.get("/log/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """One run: readings per cylinder, deviations, every entry."""
    row = runs.run(db, key)
    plan, entries, state = library.plan_of(row.edition), runs.entries(db, key), runs.state(db, key)
    return render(
        request,
        "log/show.html.jinja",
        run=row,
        plan=plan,
        state=state,
        tray=_tray(plan, state),
        others=_others(plan, state),
        deviations=[e for e in entries if e.entry.kind in (EntryKind.DEVIATION, EntryKind.SKIP)],
        entries=entries,
        reason_of=reason_of,
        still_open=state.open_checks(plan),
        marks=marks(plan, state),
        parts=damaged(plan, state),
        steps={s.key: s for s in plan.steps},
    )


@router.get("/log/{key}/run.{form}")
def run_file(db: Db, _: SignedIn, key: UUID, form: Literal["pdf", "json", "csv"]) -> Response:
    """The run sheet on paper, or the run as JSON or CSV."""
    row, entries = runs.run(db, key), runs.entries(db, key)
    plan = library.plan_of(row.edition)
    name = f"run-{row.unit_id}-{row.at:%Y%m%d}.{form}"
    if form == "pdf":
        return _file(_paper(row, plan, entries, accounts.called(db)), "application/pdf", name)
    if form == "csv":
        with speaking(plan.job.language):
            return _file(run_csv(plan, entries).encode(), "text/csv; charset=utf-8", name)
    about = {
        "run": str(row.id),
        "unit": row.unit_id,
        "serial": row.unit.serial,
        "edition": row.edition.number,
        "started": row.at.isoformat(),
        "by": row.by,
    }
    return _file(run_json(plan, entries, about).encode(), "application/json", name)


def _paper(row: RunRow, plan: Plan, entries: list[Recorded], called: dict[str, str]) -> bytes:
    state = fold(entries)
    with speaking(plan.job.language):
        facts = {
            say("doc.unit").split(",")[0]: f"{row.unit.name}, {row.unit.serial}",
            say("doc.engine"): f"{plan.engine_name}, {plan.variant_name}",
            say("doc.edition"): f"{row.edition.number}, {say('doc.sheet')} "
            f"{say('doc.revision', number=plan.revision)}",
            **({say("bay.place"): row.bay} if row.bay else {}),
            say("bay.ended" if state.unfinished else "doc.signed"): _end(row, state, called),
        }
        points = [s.text for s in state.open_checks(plan)]
        return run_sheet.pdf(plan, entries, facts, damaged(plan, state), points, called, SHOP_ZONE)


def _end(row: RunRow, state: RunState, called: dict[str, str]) -> str:
    if row.signed_at is None or state.signed is None:
        return say("bay.open")
    why = f": {reason_of(state.signed.entry)}" if state.unfinished else ""
    return f"{when(row.signed_at)}, {called[state.signed.by]}{why}"


def _file(data: bytes, kind: str, name: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=kind, headers=headers)


Cell = tuple[Reading, Recorded | None, str]


def _tray(plan: Plan, state: RunState) -> tuple[list[str], dict[str, dict[str, Cell]]]:
    """Readings per hole: column labels, then hole to label to reading, value and verdict."""
    labels: dict[str, None] = {}
    holes: dict[str, dict[str, Cell]] = {}
    for step in sorted((s for s in plan.steps if s.hole), key=lambda s: (s.cylinder, s.hole)):
        for reading in step.readings:
            label = f"{step.object.split()[0]}: {reading.label.lower()}"
            labels[label] = None
            holes.setdefault(step.hole or "", {})[label] = _cell(step, reading, state)
    return list(labels), holes


def _others(plan: Plan, state: RunState) -> list[tuple[Step, Cell]]:
    return [(s, _cell(s, r, state)) for s in plan.steps if not s.hole for r in s.readings]


def _cell(step: Step, reading: Reading, state: RunState) -> Cell:
    recorded = state.values.get((step.key, reading.key))
    value = recorded.entry.value if recorded else None
    return (
        reading,
        recorded,
        judge(reading, value) or ("at limit" if at_limit(reading, value) else ""),
    )
