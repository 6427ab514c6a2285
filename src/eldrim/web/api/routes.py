"""The open interface: a plan from a document and a job; entries for a run; what there is."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import EngineError, Problem, ProblemsError, RunError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.faults.answer import DiagnosisAnswer
from eldrim.core.interval.answer import AdviceAnswer
from eldrim.core.job import Job
from eldrim.core.leads.answer import HeapAnswer, RingAnswer
from eldrim.core.procedure.model import Plan
from eldrim.core.reading.answer import ReadingAnswer
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.run.entries import Entry, EntryKind, Role, SentEntry
from eldrim.core.run.state import RunState
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.exchange.advice import AdviceQuestion, answer_advice
from eldrim.exchange.diagnoses import ComplaintQuestion, Shop, answer_diagnosis
from eldrim.exchange.engine_file import validate_engine
from eldrim.exchange.leads import HeapQuestion, RingQuestion, answer_heap, answer_ring
from eldrim.exchange.photo import read_photo
from eldrim.exchange.readings import ReadingQuestion, answer_reading
from eldrim.store import accounts, at_once, audit, edition_store, images, runs, sheet_store, tablets
from eldrim.store.at_once import Sender
from eldrim.web import metrics
from eldrim.web.bay.advice import cooling_drawn, gap_advice
from eldrim.web.bay.wire import state_of
from eldrim.web.context import AtOnce, Db, SecretTurn, SignedIn, WholeBody, Writer, render, writing
from eldrim.web.plans import plan_for, weighed

router = APIRouter()


class PlanQuestion(BaseModel):
    """An engine document, as in an engine file, and a job on it."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")
    job: Job
    rules: HouseRules = DEFAULT_RULES
    crib: Crib = STANDARD_CRIB


class Trouble(BaseModel):
    """One problem: where, what, and how to mend it."""

    path: str
    message: str
    fix: str


class Troubles(BaseModel):
    """Everything wrong with a question."""

    problems: list[Trouble]


@router.post("/api/v1/plan", response_model=Plan, responses={422: {"model": Troubles}})
def plan(question: PlanQuestion) -> Plan | JSONResponse:
    """Compute the plan for a job. Reads and keeps nothing, so it needs no sign-in."""
    try:
        engine = _consistent(question.engine)
        return plan_for(engine, question.job, question.rules, question.crib)
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


class PlugsQuestion(ReadingQuestion):
    """An engine document, as in an engine file, and a set of plugs read on it."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")


@router.post("/api/v1/readings", response_model=ReadingAnswer, responses={422: {"model": Troubles}})
def reading(question: PlugsQuestion) -> ReadingAnswer | JSONResponse:
    """Say what a set of plugs tells. Reads and keeps nothing, so it needs no sign-in."""
    try:
        engine = _consistent(question.engine)
        return answer_reading(engine, question)
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


class FaultQuestion(ComplaintQuestion):
    """An engine document, as in an engine file, and a complaint on it."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")
    rules: HouseRules = DEFAULT_RULES
    crib: Crib = STANDARD_CRIB


@router.post(
    "/api/v1/diagnoses", response_model=DiagnosisAnswer, responses={422: {"model": Troubles}}
)
def diagnosis(question: FaultQuestion) -> DiagnosisAnswer | JSONResponse:
    """Say what a complaint comes from and what to do next. Keeps nothing; needs no sign-in."""
    try:
        engine = _consistent(question.engine)
        return answer_diagnosis(engine, question, Shop(question.rules, question.crib))
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


class LeadsQuestion(HeapQuestion):
    """An engine document, as in an engine file, and a heap of leads for it."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")
    rules: HouseRules = DEFAULT_RULES


@router.post("/api/v1/leads", response_model=HeapAnswer, responses={422: {"model": Troubles}})
def leads(question: LeadsQuestion) -> HeapAnswer | JSONResponse:
    """Say which lead of a heap goes where. Keeps nothing, so it needs no sign-in."""
    try:
        return answer_heap(_consistent(question.engine), question, question.rules)
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


class OrderQuestion(RingQuestion):
    """An engine document, as in an engine file, and the order its leads were found in."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")


@router.post("/api/v1/ring", response_model=RingAnswer, responses={422: {"model": Troubles}})
def ring(question: OrderQuestion) -> RingAnswer | JSONResponse:
    """Say what is wrong with an order of leads. Keeps nothing, so it needs no sign-in."""
    try:
        return answer_ring(_consistent(question.engine), question)
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


class AlongQuestion(AdviceQuestion):
    """An engine document, as in an engine file, a job on it, and what the unit has run."""

    engine: dict[str, Any] = Field(description="The engine document; see /docs/engine-file.")
    job: Job
    rules: HouseRules = DEFAULT_RULES
    crib: Crib = STANDARD_CRIB


@router.post("/api/v1/advice", response_model=AdviceAnswer, responses={422: {"model": Troubles}})
def advice(question: AlongQuestion) -> AdviceAnswer | JSONResponse:
    """Say what else is worth doing along with a job. Keeps nothing, so it needs no sign-in."""
    try:
        engine = _consistent(question.engine)
        rules, crib = question.rules, question.crib
        return answer_advice(
            engine, question.job, question, rules, lambda job: weighed(engine, job, rules, crib)
        )
    except ProblemsError as error:
        return JSONResponse({"problems": [_trouble(problem) for problem in error.problems]}, 422)


def _consistent(document: dict[str, Any]) -> Engine:
    engine = validate_engine(document)
    if problems := check(engine):
        raise EngineError(problems)
    return engine


def _trouble(problem: Problem) -> dict[str, str]:
    return {"path": problem.path, "message": problem.message, "fix": problem.fix}


class Acknowledged(BaseModel):
    """The entry is in the store."""

    id: UUID
    step_now: str | None


# A tablet holds no more than this; what says more is no tablet of ours.
MAX_TOLD = 100_000


class TabletSays(BaseModel):
    """What a tablet says of itself: which it is, what it has unsent, what was refused and kept."""

    tablet: Annotated[str, Field(max_length=40)] = ""
    unsent: Annotated[int, Field(ge=0)] = 0
    refused: Annotated[int, Field(ge=0)] = 0

    def tell(self, db: Db, run: UUID) -> None:
        """Let the floor know."""
        if self.tablet:
            tablets.hear(db, run, self.tablet, unsent=self._unsent, refused=self._refused)

    def has_news(self, run: UUID) -> bool:
        """Whether the floor does not know it yet."""
        told = {"unsent": self._unsent, "refused": self._refused}
        return bool(self.tablet) and tablets.is_news(run, self.tablet, **told)

    @property
    def _unsent(self) -> int:
        return min(self.unsent, MAX_TOLD)

    @property
    def _refused(self) -> int:
        return min(self.refused, MAX_TOLD)


@router.post("/api/v1/runs/{key}/entries", response_model=Acknowledged)
def add_entry(
    request: Request,
    sent_by: AtOnce,
    key: UUID,
    entry: SentEntry,
    said: Annotated[TabletSays, Query()],
) -> Response:
    """Write an entry down; sending the same one again is harmless.

    A tablet says in the query which it is and how many more entries it has to send.
    """
    state, plan = _at_once(request, sent_by, key, entry.kept(), said) or _the_long_way(
        request, sent_by, key, entry.kept(), said
    )
    metrics.ENTRIES.labels(entry.kind.value).inc()
    now = state.current(plan)
    return JSONResponse({"id": str(entry.id), "step_now": now and str(now.key)})


def _at_once(
    request: Request, sent_by: Sender, key: UUID, entry: Entry, said: TabletSays
) -> tuple[RunState, Plan] | None:
    """Keep an entry by one statement, where nothing came between; None where something did."""
    app = request.app.state
    kept = at_once.add(app.engine, app.sessions, sent_by, key, entry)
    if kept is None:
        return None
    request.state.signed_in = at_once.person_of(sent_by)
    app.notices.send(*runs.topics(key))
    if said.has_news(key):
        with app.sessions.begin() as db:
            said.tell(db, key)
    return kept


def _the_long_way(
    request: Request, sent_by: Sender, key: UUID, entry: Entry, said: TabletSays
) -> tuple[RunState, Plan]:
    with writing(request, sent_by) as (db, signed_in):
        state = runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
        if state.signed is None:
            said.tell(db, key)
        return state, edition_store.plan_of(runs.run(db, key).edition)


@router.get("/api/v1/runs/{key}/state")
def run_state(
    db: Db, _: SignedIn, key: UUID, said: Annotated[TabletSays, Query()]
) -> dict[str, Any]:
    """The state of a run, as the fold of its entries.

    A tablet says in the query what it has unsent, and how many were refused and not let go.
    """
    row = runs.run(db, key)
    if row.signed_at is None:
        said.tell(db, key)
    return state_of(db, row)


@router.get("/api/v1/runs/{key}/gap-advice")
def advise_gap(
    db: Db, _: SignedIn, key: UUID, step: str, reading: str, value: float
) -> dict[str, str]:
    """What to do with a gap, by what the plug allows (docs/craft.md §8)."""
    row = runs.run(db, key)
    engine = sheet_store.sheet(db, edition_store.plan_of(row.edition).engine)
    return {"words": gap_advice(db, row, engine, (step, reading), value)}


@router.get("/api/v1/runs/{key}/cooling")
def cooling(db: Db, _: SignedIn, key: UUID, step: str) -> dict[str, str]:
    """How what is waited for at a step cools down, drawn; empty while it cannot be said."""
    return {"drawing": cooling_drawn(db, runs.run(db, key), step)}


# What a lead may say on somebody else's screen.
BY_PIN = (EntryKind.RELEASE, EntryKind.ACCEPT, EntryKind.REFUSE, EntryKind.AGAIN, EntryKind.RESUME)


class ByLead(BaseModel):
    """An entry that a lead answers for on somebody else's screen."""

    entry: SentEntry
    lead: str = Field(max_length=40)
    pin: str = Field(max_length=12)


@router.post("/api/v1/runs/{key}/by-lead", response_model=Acknowledged)
def add_by_lead(_: SecretTurn, db: Db, signed_in: Writer, key: UUID, asked: ByLead) -> Response:
    """Release a hold point, judge a deviation or clear a stop, by a lead's PIN."""
    with reading_in(edition_store.plan_of(runs.run(db, key).edition).job.language):
        only, wrong = say("refuse.pin_only"), say("refuse.pin")
    if asked.entry.kind not in BY_PIN:
        raise RunError(only)
    if not accounts.is_lead(db, asked.lead, asked.pin, run=key, by=signed_in.name):
        audit.note(db, signed_in.name, "PIN wrong", asked.lead, run=str(key))
        # The failed attempt is counted, so this is an answer and no error that undoes it.
        return JSONResponse({"error": wrong}, 403)
    entry = asked.entry.kept().model_copy(update={"beside": signed_in.name})
    runs.add(db, key, entry, asked.lead, Role.LEAD)
    audit.note(db, signed_in.name, "PIN right", asked.lead, run=str(key), kind=entry.kind.value)
    return JSONResponse({"id": str(asked.entry.id), "step_now": None})


@router.get("/api/v1/me")
def me(signed_in: SignedIn) -> dict[str, str]:
    """Who is signed in, and the token that writes must carry."""
    return {"name": signed_in.name, "role": signed_in.role, "csrf": signed_in.csrf}


@router.post("/api/v1/photos")
def add_photo(db: Db, signed_in: Writer, body: WholeBody) -> dict[str, str]:
    """Keep a photo sent as the body; the answer is the digest to name it by."""
    data, size = read_photo(body)
    return {"photo": images.keep(db, data, size, signed_in.name)}


@router.get("/api", include_in_schema=False)
def describe(request: Request) -> Response:
    """The open interface described in words, from its own schema."""
    return render(request, "api/index.html.jinja", schema=request.app.openapi())
