"""A complaint at the desk: said in a few fields, answered while one types, what if beside it."""

from collections.abc import Sequence
from typing import Annotated
from urllib.parse import urlencode
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import Field
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import TESTS
from eldrim.core.faults.answer import DiagnosisAnswer, ToldNode, certainty, minutes_words
from eldrim.core.faults.complaint import Symptom
from eldrim.core.faults.find_steps import Released
from eldrim.core.faults.follow import Asked, follow_plan
from eldrim.core.job import Work
from eldrim.core.words import say
from eldrim.core.words.language import LANGUAGES, Language, reading_in
from eldrim.core.words.messages import gettext
from eldrim.drawing import fault_plan, fault_tree
from eldrim.exchange.diagnoses import Shop, answer_diagnosis, complaint_of, weigh
from eldrim.store import bays as bays_store
from eldrim.store import complaints, runs, searches, sheet_store, unit_store
from eldrim.store import rules as rules_store
from eldrim.store.edition_store import plan_of
from eldrim.store.errors import ConflictError
from eldrim.store.tables import UnitRow
from eldrim.web.bay.routes import begin
from eldrim.web.context import Db, SignedIn, Writer, render, swaps, tools_today
from eldrim.web.faults.forms import FaultForm
from eldrim.web.faults.known import log_knows
from eldrim.web.plans import kept_ways

router = APIRouter(include_in_schema=False)
# The work of a repair that the planner knows, by the repair.
WORK: dict[str, tuple[str, ...]] = {
    "renew-coil": ("coil",),
    "renew-boot": ("coil",),
    "renew-lead": ("lead",),
    "renew-plug": ("plug",),
    "renew-plugs": ("plug",),
    "renew-boot-and-plug": ("coil", "plug"),
    "renew-coil-boot-plug": ("coil", "plug"),
    "renew-lead-and-plug": ("lead", "plug"),
}


def job_of(engine: Engine, node: ToldNode) -> str:
    """The query that plans a repair as a job on the engine's page; empty where it is none."""
    work = WORK.get(node.act, ())
    has = {"coil": bool(engine.coils), "lead": bool(engine.leads), "plug": True}
    if not all(has[kind] for kind in work) or not work:
        return ""
    cylinders = list(engine.cylinders) if node.act == "renew-plugs" else [node.cylinder]
    return urlencode({"c": cylinders, "work": work}, doseq=True)


def _shop(db: Session) -> Shop:
    """The house rules, the tools of today, and what the log proved so far."""
    proven = searches.proven_causes(db)
    return Shop(rules_store.in_force(db), tools_today(db), proven, kept_ways)


@router.get("/engines/{engine_id}/fault")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, form: Annotated[FaultForm, Query()]
) -> Response:
    """What a complaint comes from on an engine, and the tree of what to do."""
    sheet = sheet_store.sheet(db, engine_id)
    unit = unit_store.unit(db, form.unit) if form.unit else None
    log = log_knows(db, unit) if unit else None
    if log and "age" not in form.model_fields_set:
        form = form.model_copy(update={"age": log.age})
    if log and not form.model_fields_set - {"unit", "variant", "age"}:
        form = form.model_copy(update={"signs": log.signs, "symptoms": log.symptoms})
    answer: DiagnosisAnswer | None = None
    problems: Sequence[Problem] = ()
    if form.says_something:
        try:
            answer = answer_diagnosis(sheet, form.question(), _shop(db))
        except ProblemsError as error:
            problems = error.problems
    return render(
        request,
        "faults/answer.html.jinja" if swaps(request) else "faults/show.html.jinja",
        swapped=swaps(request),
        engine=sheet,
        unit=unit,
        log=log,
        adapter=bool(request.app.state.hub.adapter),
        asked=form,
        symptoms=[(one.value, say(f"fault.symptom.{one}")) for one in Symptom],
        answer=answer,
        problems=problems,
        plan_picture=fault_plan.draw(sheet, answer) if answer else "",
        picture=fault_tree.draw(answer.tree) if answer else "",
        certain=certainty(answer) if answer else "",
        minutes_words=minutes_words,
        job_of=job_of,
        tool_of={row.key: row.tool for row in TESTS if row.tool},
        units=[] if unit else unit_store.of_engine(db, engine_id, UNITS),
        bays=bays_store.bays(db),
        languages=LANGUAGES,
    )


# Units that are offered to be searched on.
UNITS = 60


class FollowForm(FaultForm):
    """A complaint whose search is begun on a unit; ``run`` is the key of the run."""

    run: UUID
    bay: Annotated[str, Field(max_length=40)] = ""
    language: Language = "en"


@router.post("/engines/{engine_id}/fault/run")
def follow(
    db: Db, signed_in: Writer, engine_id: str, form: Annotated[FollowForm, Form()]
) -> Response:
    """Begin the search on a unit: its tree becomes a run in the bay.

    Where another run goes on there, or was signed lately, that is told first.
    """
    unit = unit_store.unit(db, form.unit)
    if runs.known(db, form.run):
        return RedirectResponse(f"/bay/runs/{form.run}", 303)
    sheet = sheet_store.sheet(db, engine_id)
    if (unit.engine_id, form.variant or unit.variant) != (engine_id, unit.variant):
        raise ConflictError(
            gettext("{unit} has another engine or variant than was asked about.", unit=unit.name)
        )
    shop, question = _shop(db), form.question().model_copy(update={"variant": unit.variant})
    found = weigh(sheet, question, shop)
    complaint = complaint_of(sheet, question)
    with reading_in(form.language):
        words = complaint.words()
    plan = follow_plan(
        Asked(
            sheet,
            unit.variant,
            shop.rules,
            shop.crib,
            language=form.language,
            complaint=words,
            name=complaint.name,
            released=lambda work, cylinders: _released(db, unit, work, cylinders),
        ),
        found,
    )
    edition = searches.edition_for(db, form.run, plan, signed_in.name)
    return begin(db, form.run, edition.id, unit.id, signed_in.name, form.bay)


class KeepForm(FaultForm):
    """A complaint to be kept on a unit, under a key of its own."""

    id: UUID


@router.post("/engines/{engine_id}/fault/keep")
def keep(db: Db, signed_in: Writer, engine_id: str, form: Annotated[KeepForm, Form()]) -> Response:
    """Keep a complaint on a unit, to be looked into later."""
    unit = unit_store.unit(db, form.unit)
    if unit.engine_id != engine_id:
        raise ConflictError(
            gettext("{unit} has another engine than was asked about.", unit=unit.name)
        )
    if not form.says_something:
        raise ProblemsError(
            [Problem("complaint", gettext("says nothing"), gettext("say codes, signs or symptoms"))]
        )
    said = form.model_dump(mode="json", exclude_defaults=True, exclude={"id", "unit"})
    complaint = complaint_of(sheet_store.sheet(db, engine_id), form.question())
    told = complaints.Told(said, complaint.words(), complaint.name)
    complaints.keep(db, form.id, unit.id, told, signed_in.name)
    return RedirectResponse(f"/units/{unit.id}", 303)


@router.post("/complaints/{key}/over")
def end(
    db: Db, signed_in: Writer, key: UUID, reason: Annotated[str, Form(max_length=400)] = ""
) -> Response:
    """Say that a complaint is over, with the reason."""
    if not reason.strip():
        raise ProblemsError([Problem("reason", gettext("say why it is over"), gettext("one line"))])
    row = complaints.end(db, key, signed_in.name, reason.strip())
    return RedirectResponse(f"/units/{row.unit_id}", 303)


def _released(
    db: Session, unit: UnitRow, work: frozenset[Work], cylinders: tuple[int, ...]
) -> Released | None:
    """The edition that holds a repair, where there is one."""
    row = searches.edition_of_repair(db, unit.engine_id, unit.variant, work, cylinders)
    if row is None:
        return None
    return Released(row.number, row.title, plan_of(row).steps)
