"""Leads at the desk: what is found at the towers, tap by tap; a heap of leads, typed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import urlencode
from uuid import UUID, uuid4

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.leads.answer import HeapAnswer, RingAnswer, told_ring
from eldrim.core.leads.ring import Ring, read_ring
from eldrim.core.leads.ways import lead_ways, tower_of
from eldrim.core.operations import Operation
from eldrim.core.rules.house import HouseRules
from eldrim.core.words.language import Language, page_language, speaking
from eldrim.drawing import engine_plan, lead_ring
from eldrim.exchange.leads import MAX_TEXT, HeapQuestion, answer_heap, read_found
from eldrim.store import edition_store, runs, sheet_store, unit_store
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, SignedIn, render, swaps

router = APIRouter(include_in_schema=False)
# As long as a value of a run may be.
MAX_KEPT = 200


class LeadsForm(BaseModel):
    """What was found and what lies on the bench, as the page sends it; the tower in hand."""

    unit: Annotated[str, Field(max_length=48)] = ""
    found: Annotated[str, Field(max_length=MAX_TEXT)] = ""
    tower: int | None = None
    heap: Annotated[str, Field(max_length=MAX_TEXT)] = ""
    run: UUID | None = None

    def address(self, **other: object) -> str:
        """The query that asks the same but for this."""
        fields = {**self.model_dump(exclude_none=True), **other}
        return urlencode({key: value for key, value in fields.items() if value})


@dataclass(frozen=True)
class RingPage:
    """The order on the page: its drawing, the plan to tap holes on, and the verdict."""

    drawn: str
    plan: str
    here: int
    answer: RingAnswer
    looked: bool
    again: str
    keeps: str = ""


@router.get("/engines/{engine_id}/leads")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, form: Annotated[LeadsForm, Query()]
) -> Response:
    """The order of an engine's leads as found, and which of a heap goes where."""
    sheet = sheet_store.sheet(db, engine_id)
    problems: list[Problem] = []
    ring, heap = None, None
    language = _language_of_run(db, form, engine_id)
    if tower_of(sheet):
        with speaking(language or page_language()):
            ring, wrong = _ring(sheet, form)
        problems += wrong
    if form.heap.strip():
        heap, wrong = _heap(sheet, form, rules_store.in_force(db))
        problems += wrong
    ways = lead_ways(sheet)
    slack = {one.hole: f"+{one.slack:.0f}" for one in heap.assignment} if heap else {}
    slack |= {one.hole: f"−{one.by:.0f}" for one in heap.short if one.by} if heap else {}
    placed = engine_plan.PlanView(
        ways={hole: way.points for hole, way in ways.items()}, letters=slack, compact=True
    )
    return render(
        request,
        "leads/told.html.jinja" if swaps(request) else "leads/show.html.jinja",
        engine=sheet,
        unit=unit_store.unit(db, form.unit) if form.unit else None,
        asked=form,
        ring=ring,
        heap=heap,
        heap_plan=engine_plan.draw(sheet, placed) if heap else "",
        ways=ways,
        longest=max((way.length for way in ways.values()), default=1.0),
        problems=problems,
        run=form.run if language else None,
        entry=str(uuid4()),
    )


def _language_of_run(db: Session, form: LeadsForm, engine_id: str) -> Language | None:
    """The language of the run that the page was opened from; None where it proves no order here."""
    if form.run is None:
        return None
    plan = edition_store.plan_of(runs.run(db, form.run).edition)
    proves = any(step.key.operation is Operation.CHECK_ORDER for step in plan.steps)
    return plan.job.language if plan.engine == engine_id and proves else None


def _kept_words(ring: Ring, answer: RingAnswer) -> str:
    """What is kept of an order as found: what is wrong, then tower by tower where it is."""
    elsewhere = [t for t, hole in sorted(ring.found.items()) if hole != ring.meant[t]]
    where = "; ".join(f"{tower}: {ring.found[tower]}" for tower in elsewhere)
    return f"{answer.mistake.words} ({where})" if where else answer.mistake.words


def _ring(engine: Engine, form: LeadsForm) -> tuple[RingPage, Sequence[Problem]]:
    """The order as far as it was looked at; what cannot be is refused and the rest stands."""
    found: dict[int, str] = {}
    problems: Sequence[Problem] = ()
    try:
        said = read_found(form.found)
        read_ring(engine, said)
        found = said
    except ProblemsError as error:
        problems = error.problems
    ring = read_ring(engine, found)
    here = _in_hand(list(ring.meant), found, form.tower)
    towers = {
        tower: f"/engines/{engine.id}/leads?{form.address(tower=tower)}" for tower in ring.meant
    }
    view = lead_ring.RingView(found=found, here=here, wrong=ring.wrong, links=towers)
    answer = told_ring(ring)
    page = RingPage(
        drawn=lead_ring.draw(engine, view),
        plan=engine_plan.draw(engine, _plan_view(engine, form, found, here)),
        here=here,
        answer=answer,
        looked=bool(found),
        again=f"/engines/{engine.id}/leads?{form.address(found='', tower=None)}",
        keeps=_kept_words(ring, answer)[:MAX_KEPT] if found else "",
    )
    return page, problems


def _in_hand(towers: list[int], found: Mapping[int, str], asked: int | None) -> int:
    """The tower that is looked at: as asked, else the first that was not; 0 once all were."""
    if asked in towers:
        return asked or 0
    return next((tower for tower in towers if tower not in found), 0)


def _plan_view(
    engine: Engine, form: LeadsForm, found: Mapping[int, str], here: int
) -> engine_plan.PlanView:
    """The holes to tap: each says that the lead of the tower in hand goes there."""
    links: dict[str, str] = {}
    for hole in engine.holes if here else ():
        # A hole has one lead: said of this tower, it is of no other.
        others = {tower: one for tower, one in found.items() if one != hole and tower != here}
        said = "; ".join(f"{t}: {h}" for t, h in sorted({**others, here: hole}.items()))
        links[hole] = f"/engines/{engine.id}/leads?{form.address(found=said, tower=None)}"
    ways = {hole: way.points for hole, way in lead_ways(engine).items() if way.points}
    there = found.get(here, "")
    return engine_plan.PlanView(
        links=links,
        swap="#leads-told",
        chosen=frozenset({there} if there else ()),
        compact=True,
        ways=ways,
    )


def _heap(
    engine: Engine, form: LeadsForm, rules: HouseRules
) -> tuple[HeapAnswer | None, Sequence[Problem]]:
    try:
        return answer_heap(engine, HeapQuestion(heap=form.heap), rules), ()
    except ProblemsError as error:
        return None, error.problems
