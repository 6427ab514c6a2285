"""What the bays say of one procedure: its steps that do not hold, and what is answered."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.lessons.steps import by_risk
from eldrim.core.procedure.model import Plan
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.store import answers, edition_store, procedure_store, unit_store
from eldrim.store.answers import Answer
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import EditionRow, ProcedureRow
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render
from eldrim.web.lessons.found import lessons_of

router = APIRouter(include_in_schema=False)
# What is done about a step, as it is kept and as it reads.
KIND_WORDS = {
    "edit": gettext_lazy("the step is edited"),
    "fact": gettext_lazy("a fact on the sheet"),
    "tool": gettext_lazy("a tool to buy"),
    "as_is": gettext_lazy("as it is, because"),
}


@router.get("/procedures/{key}/lessons")
def show(
    request: Request,
    db: Db,
    _: SignedIn,
    key: UUID,
    by: Annotated[Literal["minutes", "risk"], Query()] = "minutes",
) -> Response:
    """The steps at which something was marked, or that are slow; what was answered."""
    row = procedure_store.procedure(db, key)
    found, runs = lessons_of(db, key)
    return render(
        request,
        "lessons/procedure.html.jinja",
        row=row,
        runs=runs,
        found=by_risk(found) if by == "risk" else found,
        by=by,
        texts=_texts(row),
        units=unit_store.called(db, {said.unit for lesson in found for said in lesson.said}),
        edited=set(procedure_store.edits_of(row)),
        answers=answers.of_procedure(db, key),
        kinds=KIND_WORDS,
    )


def _texts(row: ProcedureRow) -> dict[str, str]:
    """What each step says, as the newest edition that has it words it."""
    texts: dict[str, str] = {}
    for edition in reversed(row.editions):
        plan: Plan = edition_store.plan_of(edition)
        texts |= {step.key: step.text for step in plan.steps}
    return texts


class AnswerForm(BaseModel):
    """What a trainer answers to what was said of a step."""

    id: UUID
    step: Annotated[str, Field(max_length=160)]
    kind: Annotated[str, Field(max_length=12)] = ""
    words: Annotated[str, Field(max_length=400)] = ""


@router.post("/procedures/{key}/answers")
def answer(db: Db, signed_in: Trainer, key: UUID, form: Annotated[AnswerForm, Form()]) -> Response:
    """Answer; whoever reported something of the step is told."""
    row = procedure_store.procedure(db, key)
    problems = []
    if form.kind not in KIND_WORDS:
        problems.append(
            Problem("kind", gettext("say what is done about it"), gettext("choose one of the four"))
        )
    if not form.words.strip():
        problems.append(Problem("words", gettext("say it in a line"), gettext("the bay reads it")))
    if problems:
        raise ProblemsError(problems)
    found = next((one for one in lessons_of(db, key)[0] if one.step == form.step), None)
    if found is None:
        raise NotFoundError(gettext("Nothing is said of this step any more. Load the page again."))
    given = Answer(
        id=form.id,
        step=form.step,
        step_text=_texts(row).get(form.step, form.step),
        kind=form.kind,
        words=form.words.strip(),
        reporters=found.reporters,
        runs=tuple(dict.fromkeys(one.run for one in found.said)),
    )
    answers.keep(db, key, given, signed_in.name)
    return RedirectResponse(f"/procedures/{key}/lessons#answers", 303)


@router.post("/answers/{key}/read")
def read(db: Db, signed_in: Writer, key: UUID) -> Response:
    """Whoever reported something has read what was answered."""
    answers.mark_read(db, key, signed_in.name)
    return RedirectResponse("/bay", 303)


def answered(db: Db, edition: EditionRow) -> list[tuple[str, str, str, str]]:
    """What an edition answers to what the bays said: step, kind, words, by whom."""
    return [
        (row.step_text, KIND_WORDS[row.kind], row.words, row.by)
        for row in answers.of_edition(db, edition)
    ]
