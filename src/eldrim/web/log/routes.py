"""The log: signed runs with every reading, fit to print."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.state import RunState, judge
from eldrim.store import library, runs
from eldrim.web.context import Db, SignedIn, render

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
        steps={s.key: s for s in plan.steps},
    )


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
    verdict = judge(reading, recorded.entry.value) if recorded else ""
    return reading, recorded, verdict
