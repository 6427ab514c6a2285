"""The bay: start a run, follow one step at a time, write down what was found."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.errors import RunError
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.state import SIGNING, RunState, judge
from eldrim.drawing import engine_plan, figure, well_section
from eldrim.store import library, releases, runs
from eldrim.store.tables import RunRow
from eldrim.web.context import Db, SignedIn, Writer, render

router = APIRouter(include_in_schema=False)
Key = Annotated[UUID, Form()]
Short = Annotated[str, Form(max_length=400)]


@router.get("/bay")
def index(request: Request, db: Db, _: SignedIn) -> Response:
    """Runs going on, and units with what can be started on them."""
    going = [(r, runs.state(db, r.id), library.plan_of(r.edition))
             for r in runs.recent(db, signed=False)]  # fmt: skip
    units = library.units(db)
    editions = [(e, library.plan_of(e)) for e in library.newest_editions(db)]
    choices = {
        u.id: [(e, p) for e, p in editions if (p.engine, p.variant) == (u.engine_id, u.variant)]
        for u in units
    }
    startable = [key for key, found in choices.items() if found]
    return render(
        request, "bay/index.html.jinja", going=going, units=units, choices=choices,
        startable=startable,
    )  # fmt: skip


@router.post("/bay/runs")
def start(db: Db, signed_in: Writer, run: Key, edition: Key, unit: Short) -> Response:
    """Start a run; the run keeps this edition to its end."""
    row = runs.start(db, run, edition, unit, signed_in.name)
    return RedirectResponse(f"/bay/runs/{row.id}", 303)


@router.get("/bay/runs/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID, step: str = "") -> Response:
    """The step to do now, or one to look back at."""
    row = runs.run(db, key)
    if row.signed_at is not None:
        return RedirectResponse(f"/log/{key}", 303)
    return render(request, "bay/step.html.jinja", **_page(db, row, step))


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
    names: Annotated[UUID | None, Form()] = None,
    checks: Annotated[list[str], Form()] = [],  # noqa: B006
) -> Response:
    """Write one entry down. A refusal says why and keeps what was typed on the screen."""
    row = runs.run(db, key)
    asked = _reading(library.plan_of(row.edition), step, reading)
    try:
        entry = Entry(
            id=id, kind=kind, step=step, reading=reading, reason=reason, names=names,
            value=_typed(asked, value), unit=asked.unit if asked else "", checks=tuple(checks),
        )  # fmt: skip
        runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    except RunError as refusal:
        page = _page(db, row, step, refused=(reading, value, reason, str(refusal)))
        return render(request, "bay/step.html.jinja", status=409, **page)
    if kind is EntryKind.SIGN:
        return RedirectResponse(f"/log/{key}", 303)
    still_here = kind in (EntryKind.READING, EntryKind.DEVIATION, EntryKind.RELEASE)
    return RedirectResponse(f"/bay/runs/{key}" + (f"?step={step}" if still_here else ""), 303)


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
    except ValueError as error:
        unit = f" in {reading.unit}" if reading.unit else ""
        raise RunError(f"{reading.label}: '{value}' is not a number{unit}") from error


def _page(
    db: Db, row: RunRow, wanted: str, refused: tuple[str, str, str, str] | None = None
) -> dict[str, object]:
    plan, state = library.plan_of(row.edition), runs.state(db, row.id)
    now = state.current(plan)
    step = next((s for s in plan.steps if s.key == wanted), None) or now or plan.steps[-1]
    index = plan.steps.index(step)
    sheet = library.sheet(db, plan.engine)
    view = engine_plan.PlanView(
        chosen=frozenset(h for c in plan.job.cylinders for h in sheet.holes_of(c)),
        compact=True, here=step.hole or step.part or "",
    )  # fmt: skip
    return {
        "run": row, "plan": plan, "state": state, "step": step, "now": now,
        "index": index, "before": plan.steps[index - 1] if index else None,
        "after": plan.steps[index + 1] if index + 1 < len(plan.steps) else None,
        "texts": {s.key: s.text for s in plan.steps},
        "picture": engine_plan.draw(sheet, view),
        "rule": next((d for f in step.figures if (d := figure.draw(f))), ""),
        "sections": [(s.act.value, well_section.draw(s)) for s in step.stacks if s.below > 0],
        "values": {r.key: state.values.get((step.key, r.key)) for r in step.readings},
        "others": _others(plan, state, step), "refused": refused, "judge": judge,
        "signing": step.key == SIGNING, "open_checks": state.open_checks(plan),
        "progress": _progress(plan, state, step), "notices": releases.notices(db, row.edition),
    }  # fmt: skip


def _others(
    plan: Plan, state: RunState, step: Step
) -> list[tuple[str, Reading, Recorded | None, bool]]:
    """The same reading at the other holes: hole, reading, what was recorded, whether it is here."""
    numbers = [r for r in step.readings if r.kind == "number"]
    if step.hole is None or not numbers:
        return []
    kind = step.key.rsplit("/", 1)[0]
    same = [s for s in plan.steps if s.hole and s.key.rsplit("/", 1)[0] == kind]
    same.sort(key=lambda s: (s.cylinder or 0, s.hole or ""))
    return [
        (s.hole or "", r, state.values.get((s.key, r.key)), s.key == step.key)
        for s in same
        for r in s.readings
        if r.key == numbers[-1].key
    ]


def _progress(plan: Plan, state: RunState, step: Step) -> list[tuple[str, int, int, bool]]:
    """Phases as name, steps done, steps in all, and whether the shown step is in it."""
    return [
        (p.phase.value, sum(s.key in state.done for s in plan.steps if s.phase is p.phase),
         sum(s.phase is p.phase for s in plan.steps), step.phase is p.phase)
        for p in plan.phases if p.minutes
    ]  # fmt: skip
