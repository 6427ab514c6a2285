"""Procedures: made from a job, edited in place, released as editions."""

from base64 import b64encode
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.job import Job, Work, settle_job
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.editions.fold import chapters
from eldrim.core.procedure.editions.placement import Placement
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Role
from eldrim.core.words.language import Language, page_language, speaking
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.drawing import tool_roll
from eldrim.exchange import procedure_files as files
from eldrim.store import audit, edition_store, images, procedure_store, releases, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError, NotFoundError
from eldrim.web.along.view import AlongForm, along_view
from eldrim.web.context import (
    Db,
    Reviewer,
    SignedIn,
    Trainer,
    TrainerReads,
    Writer,
    render,
    swaps,
    tools_today,
)
from eldrim.web.forms import download
from eldrim.web.lessons.procedure import answered
from eldrim.web.listing import Choice, Listing
from eldrim.web.pager import PAGE_SIZE, pager
from eldrim.web.plans import plan_for
from eldrim.web.procedures.document import compiled, document, photos, rules, sections
from eldrim.web.procedures.formed import form_of
from eldrim.web.procedures.touched import needs_a_word, outdated, outdated_among, outdated_in_all

router = APIRouter(include_in_schema=False)
Place = Annotated[str, Query(max_length=120)]
Said = Annotated[str, Query(max_length=120)]


STATES_SHOWN = (
    ("", gettext_lazy("all")),
    ("released", gettext_lazy("released")),
    ("draft", gettext_lazy("not released yet")),
    ("review", gettext_lazy("open for review")),
)
SORTED = (
    ("", gettext_lazy("newest first")),
    ("oldest", gettext_lazy("oldest first")),
    ("title", gettext_lazy("by job")),
)


class AskedProcedures(BaseModel):
    """What the list of procedures is asked for, and which page of it."""

    at: Place = ""
    said: Said = ""
    state: procedure_store.State = ""
    sort: procedure_store.ProcedureSort = ""


@router.get("/procedures")
def index(
    request: Request, db: Db, _: SignedIn, form: Annotated[AskedProcedures, Query()]
) -> Response:
    """All procedures, newest first or as sorted; or those whose job or engine has in it what is
    said.
    """
    page = procedure_store.procedures(db, form.at, PAGE_SIZE, form.said, form.state, form.sort)
    asked = form.model_dump(exclude={"at"})
    editions = edition_store.newest_of(db, [row.id for row in page.rows])
    behind, rest = outdated_in_all(db)
    words = outdated_among(db, (*editions.values(), *behind))
    return render(
        request,
        "procedures/index.html.jinja",
        rows=page.rows,
        editions=editions,
        words=words,
        outdated=len(behind),
        rest=rest,
        wanting=sum(needs_a_word(db, e) for e in behind),
        list=Listing(
            "/procedures",
            gettext("Job or engine"),
            asked,
            page.count,
            filters=(Choice("state", gettext("shown"), STATES_SHOWN),),
            sorts=SORTED,
            most=page.most,
        ),
        titles=sheet_store.titles(db),
        pager=pager(page, {k: v for k, v in asked.items() if v}),
    )


@router.get("/procedures/options")
def options(request: Request, db: Db, _: SignedIn, said: Said = "") -> Response:
    """Procedures to choose from, as the options of a field: those with this in their name."""
    page = procedure_store.procedures(db, said=said)
    return render(
        request, "procedures/options.html.jinja", procedures=page, titles=sheet_store.titles(db)
    )


class JobForm(BaseModel):
    """A job as the plan page asks for it to be turned into a procedure."""

    engine: Annotated[str, Field(max_length=48)]
    c: list[int] = Field([], max_length=64)
    work: list[Work] = Field([], max_length=16)
    companions: list[str] = Field([], max_length=32)
    plugs: list[int] = Field([], max_length=64)
    carriers: list[int] = Field([], max_length=64)
    variant: Annotated[str, Field(max_length=48)]
    forbid: list[str] = Field([], max_length=64)
    force: list[str] = Field([], max_length=64)
    without: list[str] = Field([], max_length=64)

    def job(self) -> Job:
        """The job meant."""
        return Job(
            cylinders=tuple(self.c),
            work=tuple(self.work),
            companions=tuple(self.companions),
            plugs_at=tuple(self.plugs),
            carriers_at=tuple(self.carriers),
            variant=self.variant,
            language=page_language(),
            forbid=tuple(self.forbid),
            force=tuple(self.force),
            without_tools=tuple(self.without),
        )


@router.post("/procedures")
def create(db: Db, signed_in: Trainer, form: Annotated[JobForm, Form()]) -> Response:
    """Turn a job into a procedure."""
    sheet = sheet_store.sheet(db, form.engine)
    job = settle_job(form.job(), sheet)
    plan_for(sheet, job, rules_store.in_force(db), tools_today(db))
    key = procedure_store.add_procedure(db, sheet, job, signed_in.name)
    return RedirectResponse(f"/procedures/{key}", 303)


class AskedDraft(BaseModel):
    """What a draft is opened with: a move that was refused, or the forms that are wanted: of a
    step, of the house rules, or all of them, where no script fetches them."""

    moving: Annotated[str, Field(max_length=200)] = ""
    follows: Annotated[str, Field(max_length=200)] = ""
    precedes: Annotated[str, Field(max_length=200)] = ""
    forms: Annotated[str, Field(max_length=200)] = ""


@router.get("/procedures/{key}")
def show(
    request: Request, db: Db, _: SignedIn, key: UUID, asked: Annotated[AskedDraft, Query()]
) -> Response:
    """The draft as a document, step by step; a move that cannot be says why at its step."""
    beside = asked.follows or asked.precedes
    move = Placement(order=1, follows=asked.follows, precedes=asked.precedes) if beside else None
    view = document(db, procedure_store.procedure(db, key), asked.moving, move)
    opened = view["refused"][0] if view["refused"] else asked.forms
    with speaking(view["plan"].job.language):
        page = "procedures/show.html.jinja"
        return render(request, page, **view, opened=opened, form_of=form_of)


@router.get("/procedures/{key}/forms")
def step_forms(
    request: Request,
    db: Db,
    _: TrainerReads,
    key: UUID,
    step: Annotated[str, Query(max_length=200)],
) -> Response:
    """What a trainer may do to a step, or to an act at all holes: a part of the draft's page."""
    view = document(db, procedure_store.procedure(db, key))
    if form_of(view, step) is None:
        raise NotFoundError(gettext("This draft has no such step any more. Load the page again."))
    with speaking(view["plan"].job.language):
        page = "procedures/step_forms.html.jinja"
        return render(request, page, **view, form_of=form_of, about=step)


@router.get("/procedures/{key}/steps")
def act_steps(
    request: Request, db: Db, _: SignedIn, key: UUID, act: Annotated[str, Query(max_length=200)]
) -> Response:
    """The steps of an act one by one, as a part of the draft's page."""
    view = document(db, procedure_store.procedure(db, key))
    acts = [one for chapter in view["chapters"] for one in chapter.acts]
    found = next((one for one in acts if one.key == act), None)
    if found is None:
        raise NotFoundError(gettext("This draft has no such act any more. Load the page again."))
    with speaking(view["plan"].job.language):
        return render(request, "procedures/act_steps.html.jinja", **view, one=found, opened="")


@router.get("/procedures/{key}/departures")
def departures(request: Request, db: Db, _: TrainerReads, key: UUID) -> Response:
    """The house rules, and where this procedure departs from them, a part of the draft's page."""
    view = document(db, procedure_store.procedure(db, key))
    return render(request, "procedures/departures.html.jinja", **view)


@router.get("/procedures/{key}/along")
def along(
    request: Request, db: Db, _: SignedIn, key: UUID, form: Annotated[AlongForm, Query()]
) -> Response:
    """What else is worth doing along with a draft's job."""
    row = procedure_store.procedure(db, key)
    sheet, job = sheet_store.sheet(db, row.engine_id), Job.model_validate(row.job)
    kept = rules_store.in_force(db).departing(procedure_store.departures_of(row))
    with speaking(job.language):
        return render(
            request,
            "procedures/along.html.jinja" if swaps(request) else "along/alone.html.jinja",
            part="procedures/along.html.jinja",
            back=f"/procedures/{key}",
            job=f"{sheet.title}: {row.title}",
            row=row,
            found=along_view(db, sheet, job, kept, form),
            where=f"/procedures/{key}/along",
        )


class MoreForm(BaseModel):
    """Work that is done along with a draft's job, on the draft as it was looked at."""

    version: int
    more: Annotated[str, Field(max_length=48)]
    cylinders: list[int] = Field([], max_length=64)


@router.post("/procedures/{key}/along")
def do_along(db: Db, signed_in: Trainer, key: UUID, form: Annotated[MoreForm, Form()]) -> Response:
    """Do more with a draft's job; one that was released stays, the larger one is a new draft."""
    row = procedure_store.procedure(db, key)
    sheet, crib = sheet_store.sheet(db, row.engine_id), tools_today(db)
    job = Job.model_validate(row.job)
    more = settle_job(job.along_with(form.more, form.cylinders), sheet)
    plan_for(sheet, more, rules_store.in_force(db), crib)
    made = procedure_store.do_along(db, key, form.version, sheet, more, signed_in.name)
    return RedirectResponse(f"/procedures/{made}", 303)


@router.post("/procedures/{key}/in/{language}")
def in_language(db: Db, signed_in: Writer, key: UUID, language: Language) -> Response:
    """The draft of the same job in another language; a trainer's first ask makes it."""
    row = procedure_store.procedure(db, key)
    also = procedure_store.languages_of(db, row)
    if language not in also and signed_in.role == Role.TRAINER.value:
        job = Job.model_validate({**row.job, "language": language})
        made = procedure_store.add_procedure(
            db, sheet_store.sheet(db, row.engine_id), job, signed_in.name
        )
        procedure_store.replace_draft(
            db, made, procedure_store.edits_of(row), procedure_store.departures_of(row)
        )
        also = {language: made}
    return RedirectResponse(f"/procedures/{also.get(language, key)}", 303)


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
    # Held until the edition is in: what is compared, compiled and released is one draft.
    row = procedure_store.locked_draft(db, key)
    if row.version != version:
        raise ConflictError(
            gettext(
                "Somebody changed or released this draft meanwhile. Look at it again, then release."
            )
        )
    if not reason.strip():
        raise ProblemsError(
            [Problem("reason", gettext("say why this edition is released"), gettext("one line"))]
        )
    made = apply_edits(compiled(db, row), procedure_store.edits_of(row))
    _releasable(made, accepted.strip())
    _approved(db, key, version, signed_in.name)
    made = made.model_copy(update={"accepted": accepted.strip()})
    edition = edition_store.release(db, key, made, signed_in.name, reason.strip())
    about = gettext(
        "{engine}: {made}, edition {number}",
        engine=made.engine,
        made=made.title,
        number=edition.number,
    )
    audit.note(db, signed_in.name, "released", about, why=reason.strip(), edition=str(edition.id))
    return RedirectResponse(f"/editions/{edition.id}", 303)


def _approved(db: Db, key: UUID, version: int, releasing: str) -> None:
    """Raise :class:`ProblemsError` where the house wants another person's approval first."""
    if not rules_store.in_force(db).second_person:
        return
    if all(row.by == releasing for row in releases.approvals(db, key, version)):
        fix = gettext("another trainer or a lead approves the draft as it stands")
        raise ProblemsError(
            [Problem("approval", gettext("nobody else has approved this draft"), fix)]
        )


@router.post("/procedures/{key}/approve")
def approve(db: Db, signed_in: Reviewer, key: UUID, version: Annotated[int, Form()]) -> Response:
    """Approve the draft as it stands on the screen."""
    if procedure_store.locked_draft(db, key).version != version:
        raise ConflictError(gettext("Somebody changed this draft meanwhile. Look at it again."))
    releases.approve(db, key, version, signed_in.name)
    audit.note(db, signed_in.name, "approved", str(key), version=version)
    return RedirectResponse(f"/procedures/{key}", 303)


@router.post("/editions/{key}/withdraw")
def withdraw(
    db: Db, signed_in: Reviewer, key: UUID, reason: Annotated[str, Form(max_length=400)] = ""
) -> Response:
    """Withdraw an edition, with the reason that running technicians are told."""
    if not reason.strip():
        raise ProblemsError(
            [Problem("reason", gettext("say why it is withdrawn"), gettext("one line"))]
        )
    releases.withdraw(db, edition_store.edition(db, key).id, signed_in.name, reason.strip())
    audit.note(db, signed_in.name, "withdrawn", str(key), why=reason.strip())
    return RedirectResponse(f"/editions/{key}", 303)


@router.post("/editions/{key}/let-run")
def let_run(
    db: Db, signed_in: Reviewer, key: UUID, reason: Annotated[str, Form(max_length=400)] = ""
) -> Response:
    """Let an edition run on although its sheet has changed, with the reason the bays are told."""
    if not reason.strip():
        raise ProblemsError(
            [Problem("reason", gettext("say why it may run on"), gettext("one line"))]
        )
    row = edition_store.edition(db, key)
    revision = sheet_store.sheet(db, edition_store.plan_of(row).engine).revision
    releases.let_run(db, row.id, revision, signed_in.name, reason.strip())
    audit.note(db, signed_in.name, "let run", str(key), why=reason.strip(), revision=revision)
    return RedirectResponse(f"/editions/{key}", 303)


def _releasable(plan: Plan, accepted: str) -> None:
    """Raise :class:`ProblemsError` while something bars the release, or nobody accepted it."""
    barring = [
        Problem(point.key, point.text, gettext("settle it first"))
        for point in plan.open_points
        if point.bars
    ]
    if barring:
        raise ProblemsError(barring)
    if plan.open_points and not accepted:
        fix = gettext("settle it, or say under the open points why it is accepted")
        raise ProblemsError([Problem(p.key, p.text, fix) for p in plan.open_points])


@router.get("/editions/{key}")
def show_edition(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """A released edition, as it will stay."""
    row = edition_store.edition(db, key)
    made = edition_store.plan_of(row)
    with speaking(made.job.language):
        return render(
            request,
            "procedures/edition.html.jinja",
            edition=row,
            outdated=outdated(db, row),
            wants_word=needs_a_word(db, row),
            plan=made,
            chapters=chapters(made.steps),
            rules=rules(made),
            sections=sections(made),
            roll=tool_roll.draw(made.roll),
            withdrawn=releases.withdrawal(db, key),
            photos=photos(made),
            answered=answered(db, row),
        )


@router.get("/editions/{key}/procedure.{form}")
def edition_file(
    db: Db,
    _: SignedIn,
    key: UUID,
    form: Literal["json", "md", "steps.csv", "tools.csv", "parts.csv"],
) -> Response:
    """The edition in an open format."""
    row = edition_store.edition(db, key)
    made = edition_store.plan_of(row)
    name = f"{made.engine}-{row.number}.{form}"
    if form == "json":
        edits = files.EDITS.validate_python(row.edits)
        return download(_whole(db, made, edits), "application/json", name)
    if form == "md":
        return download(files.markdown(made, row.number).encode(), "text/markdown", name)
    writers = {
        "steps.csv": files.steps_csv,
        "tools.csv": files.tools_csv,
        "parts.csv": files.parts_csv,
    }
    return download(writers[form](made).encode(), "text/csv; charset=utf-8", name)


@router.get("/procedures/{key}/procedure.json")
def draft_file(db: Db, _: SignedIn, key: UUID) -> Response:
    """The draft whole, to be taken in elsewhere."""
    row = procedure_store.procedure(db, key)
    edits = procedure_store.edits_of(row)
    made = apply_edits(compiled(db, row), edits)
    return download(_whole(db, made, edits), "application/json", f"{made.engine}-draft.json")


@router.get("/procedures/{key}/steps.csv")
def draft_steps(db: Db, _: SignedIn, key: UUID) -> Response:
    """The draft's steps as a table, to be changed and taken in again."""
    row = procedure_store.procedure(db, key)
    made = apply_edits(compiled(db, row), procedure_store.edits_of(row))
    name = f"{made.engine}-draft.steps.csv"
    return download(files.steps_csv(made).encode(), "text/csv; charset=utf-8", name)


def _whole(db: Db, made: Plan, edits: dict[str, Edit]) -> bytes:
    named = {photo.image for edit in edits.values() for photo in edit.photos}
    photos = {d: b64encode(images.image(db, d).data) for d in sorted(named)}
    file = files.ProcedureFile(
        job=made.job, departures=made.departures, edits=edits, plan=made, photos=photos
    )
    return files.write_json(file).encode()
