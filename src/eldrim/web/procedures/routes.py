"""Procedures: made from a job, edited in place, released as editions."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from eldrim.core.capture.edits import free_key
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.job import Job, Work
from eldrim.core.job import settle as settle_job
from eldrim.core.procedure.compile import plan as compile_plan
from eldrim.core.procedure.difference import Difference, difference
from eldrim.core.procedure.edits import (
    OWN,
    Edit,
    OwnStep,
    apply_edits,
    may_be_left_out,
    orphans,
    placements,
)
from eldrim.core.procedure.listing import reaches
from eldrim.core.procedure.model import Phase, Plan, Step, segments
from eldrim.core.procedure.moved import Moved, movable, neighbour, put
from eldrim.core.procedure.points import overdue
from eldrim.core.rules.house import Departure
from eldrim.core.rules.topics import TOPICS
from eldrim.core.run.entries import Role
from eldrim.drawing import engine_plan, figure, tool_roll, well_section
from eldrim.exchange import procedure_files as files
from eldrim.printing import job_sheet
from eldrim.store import library, releases
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError
from eldrim.store.tables import ProcedureRow
from eldrim.web.context import Db, Person, SignedIn, Trainer, only, render, tools_today
from eldrim.web.filters import today

router = APIRouter(include_in_schema=False)
Reviewer = Annotated[Person, Depends(only(Role.TRAINER, Role.LEAD))]


@router.get("/procedures")
def index(request: Request, db: Db, _: SignedIn, page: int = 1) -> Response:
    """All procedures, newest first."""
    rows = library.procedures(db, max(page, 1))
    return render(request, "procedures/index.html.jinja", rows=rows, page=max(page, 1))


@router.post("/procedures")
def create(
    db: Db,
    signed_in: Trainer,
    engine: Annotated[str, Form(max_length=48)],
    c: Annotated[list[int], Form()],
    work: Annotated[list[Work], Form()],
    variant: Annotated[str, Form(max_length=48)],
    forbid: Annotated[list[str], Form()] = [],  # noqa: B006
    force: Annotated[list[str], Form()] = [],  # noqa: B006
    without: Annotated[list[str], Form()] = [],  # noqa: B006
) -> Response:
    """Turn a job into a procedure."""
    sheet = library.sheet(db, engine)
    asked = Job(
        cylinders=tuple(c), work=tuple(work), variant=variant, forbid=tuple(forbid),
        force=tuple(force), without_tools=tuple(without),
    )  # fmt: skip
    job = settle_job(asked, sheet)
    compile_plan(sheet, job, rules_store.in_force(db), tools_today(db))
    key = library.add_procedure(db, sheet, job, signed_in.name)
    return RedirectResponse(f"/procedures/{key}", 303)


@router.get("/changed-underneath")
def touched(request: Request, db: Db, _: SignedIn) -> Response:
    """The released procedures that would come out otherwise today, and what would change."""
    found = []
    for edition in library.newest_editions(db):
        released = library.plan_of(edition)
        if _ground(db, released) == (released.revision, released.rules_version,
                                     released.crib_version):  # fmt: skip
            continue
        row = edition.procedure
        now = apply_edits(_compiled(db, row), library.edits_of(row))
        changes = difference(released, now)
        if not changes.empty:
            found.append((row, edition, changes))
    return render(request, "procedures/touched.html.jinja", touched=found)


@router.get("/procedures/{key}")
def show(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """The draft as a document, step by step."""
    row = library.procedure(db, key)
    return render(request, "procedures/show.html.jinja", **_document(db, row))


@router.post("/procedures/{key}/steps/{step:path}")
def edit(
    request: Request,
    db: Db,
    signed_in: Trainer,
    key: UUID,
    step: str,
    version: Annotated[int, Form()],
    text: Annotated[str, Form(max_length=300)] = "",
    note: Annotated[str, Form(max_length=1000)] = "",
    left_out: Annotated[str, Form(max_length=300)] = "",
    hold: Annotated[bool, Form()] = False,
) -> Response:
    """Keep a changed wording or a note; refused when somebody else changed the draft."""
    row = library.procedure(db, key)
    made = _compiled(db, row)
    found = next((s for s in made.steps if s.key == step), None)
    kept = library.edits_of(row).get(step, Edit())
    if found is None and kept.own is None:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    ground = found.text if found else ""
    if left_out.strip() and found and not may_be_left_out(found):
        raise ProblemsError([Problem(step, "this step is never left out", "keep it")])
    changed = Edit(
        text="" if text.strip() == ground else text, note=note, left_out=left_out, hold=hold,
        ground=ground if text.strip() != ground else "", own=kept.own, moves=kept.moves,
    )  # fmt: skip
    try:
        library.save_edit(db, key, version, step, changed)
    except ConflictError as error:
        return render(request, "procedures/conflict.html.jinja", status=409, row=row,
                      step=found or kept.own,
                      theirs=library.edits_of(row).get(step, Edit()), mine=changed,
                      message=str(error))  # fmt: skip
    return RedirectResponse(f"/procedures/{key}#{step}", 303)


@router.post("/procedures/{key}/own")
def add_own(
    db: Db,
    _: Trainer,
    key: UUID,
    version: Annotated[int, Form()],
    after: Annotated[str, Form(max_length=200)],
    text: Annotated[str, Form(max_length=300)],
    detail: Annotated[str, Form(max_length=1000)] = "",
    proof: Annotated[str, Form(max_length=300)] = "",
    minutes: Annotated[float, Form(ge=0, le=240)] = 1.0,
) -> Response:
    """Add a step of one's own after another one."""
    row = library.procedure(db, key)
    taken = tuple(k.removeprefix(OWN) for k in library.edits_of(row))
    if len(text.strip()) < 3:
        raise ProblemsError([Problem("text", "the step says nothing", "say what is done")])
    made = OwnStep(text=text, detail=detail, proof=proof, minutes=minutes, after=after)
    name = f"{OWN}{free_key(text, taken)}"
    library.save_edit(db, key, version, name, Edit(own=made))
    return RedirectResponse(f"/procedures/{key}#{name}", 303)


@router.post("/procedures/{key}/move")
def move(
    request: Request,
    db: Db,
    _: Trainer,
    key: UUID,
    version: Annotated[int, Form()],
    step: Annotated[str, Form(max_length=200)],
    way: Annotated[Literal["earlier", "later", "after"], Form()],
    follows: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Put a step elsewhere in its phase; refused with the hindrance that forbids it."""
    row = library.procedure(db, key)
    made, edits = _compiled(db, row), library.edits_of(row)
    steps, _refused = placements(made, edits)
    if step not in {s.key for s in steps}:
        raise ProblemsError([Problem(step, "the draft has no such step", "load the page again")])
    after = follows if way == "after" else neighbour(steps, step, later=way == "later")
    placed, against = put(made, steps, step, after)
    if not against and [s.key for s in placed] == [s.key for s in steps]:
        against = "it stands there already, or is the first or last of its phase"
    if against:
        return render(request, "procedures/show.html.jinja", status=422, refused=(step, against),
                      **_document(db, row))  # fmt: skip
    last = max((m.at for e in edits.values() for m in e.moves), default=0)
    kept = edits.get(step, Edit())
    moves = (*kept.moves, Moved(at=last + 1, follows=after))[-60:]
    library.save_edit(db, key, version, step, kept.model_copy(update={"moves": moves}))
    return RedirectResponse(f"/procedures/{key}#{step}", 303)


@router.post("/procedures/{key}/drop")
def drop_edit(
    db: Db, _: Trainer, key: UUID, version: Annotated[int, Form()],
    step: Annotated[str, Form(max_length=200)],
) -> Response:  # fmt: skip
    """Let a step stand as computed again, or take a step of one's own away."""
    had = library.edits_of(library.procedure(db, key)).get(step, Edit())
    # Put back, a step keeps its wording; standing as computed again, it keeps nothing.
    kept = had.model_copy(update={"left_out": ""}) if had.left_out else Edit()
    library.save_edit(db, key, version, step, kept)
    return RedirectResponse(f"/procedures/{key}", 303)


@router.post("/procedures/{key}/release")
def release(
    db: Db,
    signed_in: Trainer,
    key: UUID,
    version: Annotated[int, Form()],
    reason: Annotated[str, Form(max_length=400)] = "",
    accepted: Annotated[str, Form(max_length=400)] = "",
) -> Response:
    """Release the draft as the next edition; what is released is what was on the screen."""
    row = library.procedure(db, key)
    if row.version != version:
        raise ConflictError(
            "Somebody changed this draft meanwhile. Look at it again, then release."
        )
    if not reason.strip():
        raise ProblemsError([Problem("reason", "say why this edition is released", "one line")])
    made = apply_edits(_compiled(db, row), library.edits_of(row))
    _releasable(made, accepted.strip())
    _approved(db, key, version, signed_in.name)
    made = made.model_copy(update={"accepted": accepted.strip()})
    edition = library.release(db, key, made, signed_in.name, reason.strip())
    return RedirectResponse(f"/editions/{edition.id}", 303)


def _approved(db: Db, key: UUID, version: int, releasing: str) -> None:
    """Raise :class:`ProblemsError` where the house wants another person's approval first."""
    if not rules_store.in_force(db).second_person:
        return
    found = releases.approval(db, key, version)
    if found is None or found.by == releasing:
        fix = "another trainer or a lead approves the draft as it stands"
        raise ProblemsError([Problem("approval", "nobody else has approved this draft", fix)])


@router.post("/procedures/{key}/approve")
def approve(db: Db, signed_in: Reviewer, key: UUID, version: Annotated[int, Form()]) -> Response:
    """Approve the draft as it stands on the screen."""
    if library.procedure(db, key).version != version:
        raise ConflictError("Somebody changed this draft meanwhile. Look at it again.")
    releases.approve(db, key, version, signed_in.name)
    return RedirectResponse(f"/procedures/{key}", 303)


@router.post("/editions/{key}/withdraw")
def withdraw(
    db: Db, signed_in: Reviewer, key: UUID, reason: Annotated[str, Form(max_length=400)] = ""
) -> Response:
    """Withdraw an edition, with the reason that running technicians are told."""
    if not reason.strip():
        raise ProblemsError([Problem("reason", "say why it is withdrawn", "one line")])
    releases.withdraw(db, library.edition(db, key).id, signed_in.name, reason.strip())
    return RedirectResponse(f"/editions/{key}", 303)


def _ground(db: Db, plan: Plan) -> tuple[int, int, int]:
    """The revision of the sheet, the rules and the crib a plan would be made on today."""
    sheet = library.sheet(db, plan.engine)
    return (sheet.revision, rules_store.in_force(db).version, tools_today(db).version)


def _releasable(plan: Plan, accepted: str) -> None:
    """Raise :class:`ProblemsError` while something bars the release, or nobody accepted it."""
    barring = [Problem(p.key, p.text, "settle it first") for p in plan.open_points if p.bars]
    if barring:
        raise ProblemsError(barring)
    if plan.open_points and not accepted:
        fix = "settle it, or say under the open points why it is accepted"
        raise ProblemsError([Problem(p.key, p.text, fix) for p in plan.open_points])


@router.get("/editions/{key}")
def show_edition(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """A released edition, as it will stay."""
    row = library.edition(db, key)
    made = library.plan_of(row)
    return render(
        request, "procedures/edition.html.jinja", edition=row, plan=made, phases=phases(made),
        rules=rules(made), sections=sections(made), roll=tool_roll.draw(made.roll),
        withdrawn=releases.withdrawal(db, key),
    )  # fmt: skip


@router.get("/editions/{key}/job-sheet.pdf")
def job_sheet_pdf(db: Db, _: SignedIn, key: UUID) -> Response:
    """The edition on paper."""
    row = library.edition(db, key)
    made = library.plan_of(row)
    released = f"released {row.at:%Y-%m-%d} by {row.by}"
    data = job_sheet.pdf(made, library.sheet(db, made.engine), f"edition {row.number}", released)
    return _file(data, "application/pdf", f"job-sheet-{made.engine}-{row.number}.pdf")


@router.get("/editions/{key}/procedure.{form}")
def edition_file(
    db: Db, _: SignedIn, key: UUID, form: Literal["json", "md", "steps.csv", "tools.csv",
                                                  "parts.csv"],
) -> Response:  # fmt: skip
    """The edition in an open format."""
    row = library.edition(db, key)
    made = library.plan_of(row)
    name = f"{made.engine}-{row.number}.{form}"
    if form == "json":
        return _file(files.write_json(made).encode(), "application/json", name)
    if form == "md":
        return _file(files.markdown(made, f"Edition {row.number}").encode(), "text/markdown", name)
    writers = {"steps.csv": files.steps_csv, "tools.csv": files.tools_csv,
               "parts.csv": files.parts_csv}  # fmt: skip
    return _file(writers[form](made).encode(), "text/csv; charset=utf-8", name)


def _file(data: bytes, kind: str, name: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=kind, headers=headers)


@router.post("/procedures/{key}/departures")
def depart(
    db: Db,
    _: Trainer,
    key: UUID,
    version: Annotated[int, Form()],
    topic: Annotated[str, Form(max_length=40)],
    school: Annotated[str, Form(max_length=40)] = "",
    reason: Annotated[str, Form(max_length=400)] = "",
) -> Response:
    """Depart from a house rule in this procedure, with a printed reason; or follow it again."""
    departure = None
    if school:
        if len(reason.strip()) < 3:
            raise ProblemsError([Problem("reason", "a departure needs its reason", "one line")])
        departure = Departure(school=school, reason=reason)
        try:
            rules_store.in_force(db).departing({topic: departure})
        except ValidationError as error:
            said = error.errors()[0]["msg"].removeprefix("Value error, ")
            raise ProblemsError([Problem(topic, said, "choose another school")]) from error
    library.save_departure(db, key, version, topic, departure)
    return RedirectResponse(f"/procedures/{key}", 303)


def _compiled(db: Db, row: ProcedureRow) -> Plan:
    departures = library.departures_of(row)
    rules = rules_store.in_force(db).departing(departures)
    sheet, crib = library.sheet(db, row.engine_id), tools_today(db)
    made = compile_plan(sheet, Job.model_validate(row.job), rules, crib)
    late = overdue(made, crib, today())
    made = made.model_copy(update={"open_points": (*made.open_points, *late)})
    return made.model_copy(update={"departures": departures})


def _document(db: Db, row: ProcedureRow) -> dict[str, object]:
    sheet, edits = library.sheet(db, row.engine_id), library.edits_of(row)
    computed = _compiled(db, row)
    made = apply_edits(computed, edits)
    holes = frozenset(h for c in made.job.cylinders for h in sheet.holes_of(c))
    picture = engine_plan.draw(sheet, engine_plan.PlanView(chosen=holes, moves=made.moves))
    return {
        "row": row, "plan": made, "phases": phases(made), "picture": picture,
        "topics": TOPICS, "rules": rules(made), "lost": orphans(computed, edits),
        "computed": {s.key: s.text for s in computed.steps},
        "keepers": {s.key for s in computed.steps if not may_be_left_out(s)},
        "sections": sections(made), "movable": movable, "unmoved": placements(computed, edits)[1],
        "roll": tool_roll.draw(made.roll), "changes": _since(row, made),
        "approval": releases.approval(db, row.id, row.version),
        "second_person": rules_store.in_force(db).second_person,
    }  # fmt: skip


def _since(row: ProcedureRow, made: Plan) -> Difference | None:
    """What the draft changes against the last edition; None before the first."""
    return difference(library.plan_of(row.editions[0]), made) if row.editions else None


def phases(plan: Plan) -> list[tuple[Phase, list[Step]]]:
    """The steps by phase, in order."""
    return segments(plan)


def rules(plan: Plan) -> dict[str, str]:
    """What is drawn on each step with a figure: torque window, turn, gap."""
    return {s.key: drawn for s in plan.steps for f in s.figures if (drawn := figure.draw(f))}


def sections(plan: Plan) -> list[tuple[str, str]]:
    """The wells in section, each different stack once, with what it is for."""
    return [(words, well_section.draw(stack)) for words, stack in reaches(plan.steps)]
