"""A complaint at the desk: said in a few fields, answered while one types, what if beside it."""

from collections.abc import Sequence
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.faults.answer import DiagnosisAnswer, certainty, minutes_words
from eldrim.core.faults.complaint import Symptom
from eldrim.core.words import say
from eldrim.drawing import fault_tree
from eldrim.exchange.diagnoses import ComplaintQuestion, answer_diagnosis
from eldrim.store import rules as rules_store
from eldrim.store import sheet_store, unit_store
from eldrim.web.context import Db, SignedIn, render, swaps, tools_today
from eldrim.web.plans import kept_ways

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Field(max_length=400)]
Few = Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=24)]


class FaultForm(BaseModel):
    """A complaint as the form sends it, with what is asked otherwise."""

    unit: Annotated[str, Field(max_length=48)] = ""
    codes: Short = ""
    symptoms: Few = []
    signs: Short = ""
    age: Short = ""
    variant: Annotated[str, Field(max_length=80)] = ""
    without: Few = []
    known: Annotated[str, Field(max_length=40)] = ""

    @property
    def says_something(self) -> bool:
        """Whether there is a complaint at all."""
        return any((self.codes.strip(), self.signs.strip(), self.symptoms))

    def question(self) -> ComplaintQuestion:
        """The same as it is asked."""
        age = self.age.strip()
        return ComplaintQuestion(
            codes=self.codes,
            signs=self.signs,
            symptoms=self.symptoms,
            age=f"plugs={age}" if age else "",
            without=self.without,
            known=self.known,
            variant=self.variant,
        )

    def address(self, **other: object) -> str:
        """The query that asks the same but for this."""
        fields = {**self.model_dump(exclude_defaults=True), **other}
        return urlencode({key: value for key, value in fields.items() if value}, doseq=True)


@router.get("/engines/{engine_id}/fault")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, form: Annotated[FaultForm, Query()]
) -> Response:
    """What a complaint comes from on an engine, and the tree of what to do."""
    sheet = sheet_store.sheet(db, engine_id)
    unit = unit_store.unit(db, form.unit) if form.unit else None
    answer: DiagnosisAnswer | None = None
    problems: Sequence[Problem] = ()
    if form.says_something:
        rules, crib = rules_store.in_force(db), tools_today(db)
        try:
            answer = answer_diagnosis(sheet, form.question(), rules, crib, kept_ways)
        except ProblemsError as error:
            problems = error.problems
    return render(
        request,
        "faults/answer.html.jinja" if swaps(request) else "faults/show.html.jinja",
        engine=sheet,
        unit=unit,
        asked=form,
        symptoms=[(one.value, say(f"fault.symptom.{one}")) for one in Symptom],
        answer=answer,
        problems=problems,
        picture=fault_tree.draw(answer.tree) if answer else "",
        certain=certainty(answer) if answer else "",
        minutes_words=minutes_words,
    )
