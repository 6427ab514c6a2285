"""Engines: the list, and the plan where a job is chosen."""

from dataclasses import dataclass
from typing import Annotated
from urllib.parse import parse_qsl

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.drawing import engine_plan
from eldrim.exchange.engine_file import write_engine
from eldrim.store import drafts, sheet_store
from eldrim.store import rules as rules_store
from eldrim.web.along.view import AlongForm, along_view
from eldrim.web.context import Db, SignedIn, render, swaps, tools_today
from eldrim.web.engines.page import PlanPage, PlanQuery
from eldrim.web.forms import download
from eldrim.web.listing import Listing
from eldrim.web.plans import costs_of

router = APIRouter(include_in_schema=False)
ON_A_PAGE = 24


@router.get("/engines")
def index(
    request: Request,
    db: Db,
    _: SignedIn,
    said: Annotated[str, Query(max_length=120)] = "",
    sort: sheet_store.SheetSort = "",
    page: Annotated[int, Query(ge=1, le=10_000)] = 1,
) -> Response:
    """The engines, each with its own small plan."""
    skip = (page - 1) * ON_A_PAGE
    rows = sheet_store.sheets(db, said, sort=sort, most=ON_A_PAGE, skip=skip)
    found, broken = sheet_store.readable(db, rows)
    pictures = {e.id: engine_plan.draw(e, engine_plan.PlanView(compact=True)) for e in found}
    return render(
        request,
        "engines/index.html.jinja",
        engines=found,
        broken=broken,
        pictures=pictures,
        over={engine.id: over(db, engine) for engine in found},
        drafts=drafts.open_drafts(db),
        titles=sheet_store.titles(db),
        list=Listing(
            "/engines",
            gettext("Make or name"),
            {"said": said, "sort": sort},
            sheet_store.count_sheets(db, said),
            sorts=(("", gettext("by name")), ("changed", gettext("last changed"))),
            page=page,
            size=ON_A_PAGE,
        ),
    )


@dataclass(frozen=True)
class Over:
    """What can lie over the holes of an engine, and the hole that costs most to get at."""

    parts: tuple[str, ...]
    hole: str
    minutes: float


def over(db: Db, engine: Engine) -> Over:
    """What an engine costs to get at, in its first variant."""
    costs = costs_of(engine, next(iter(engine.variants)), rules_store.in_force(db), tools_today(db))
    worst = max(costs, key=lambda hole: costs[hole], default="")
    moved = tuple(part.name for part in engine.parts.values() if part.ways)
    return Over(moved, worst, costs.get(worst, 0.0))


@router.get("/engines/{engine_id}.engine.yaml")
def engine_file(db: Db, _: SignedIn, engine_id: str) -> Response:
    """The sheet as a file."""
    text = write_engine(sheet_store.sheet(db, engine_id))
    return download(text, "application/yaml", f"{engine_id}.engine.yaml")


@router.get("/engines/{engine_id}")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, question: Annotated[PlanQuery, Query()]
) -> Response:
    """The plan: holes to choose, what has to move for them, why, and what if."""
    sheet, rules = sheet_store.sheet(db, engine_id), rules_store.in_force(db)
    view = PlanPage(sheet, question, rules, tools_today(db))
    template = "way_in" if swaps(request) else "plan"
    return render(request, f"engines/{template}.html.jinja", engine=view.engine, view=view)


class LeastQuery(PlanQuery):
    """A job, with the sum in minutes of the plan that is on the screen and its way in."""

    shown: float = Field(ge=0, le=1e6)
    moves: str = Field("", max_length=32)


def asked_of(question: PlanQuery) -> PlanQuery:
    """What is asked of the plan, without what a page adds to its question."""
    return PlanQuery.model_validate(question.model_dump(include=set(PlanQuery.model_fields)))


@router.get("/engines/{engine_id}/least")
def least(
    request: Request, db: Db, _: SignedIn, engine_id: str, question: Annotated[LeastQuery, Query()]
) -> Response:
    """What looking through a large engine brought: how sure its plan is, or a cheaper one."""
    sheet, rules = sheet_store.sheet(db, engine_id), rules_store.in_force(db)
    view = PlanPage(sheet, asked_of(question), rules, tools_today(db), looked_through=True)
    if view.plan is None:
        raise ProblemsError(
            [Problem("c", view.problem or gettext("no hole is chosen"), gettext("choose one"))]
        )
    saved = round(question.shown - view.weighed, 2)
    return render(
        request,
        "engines/certainty.html.jinja",
        view=view,
        plan=view.plan,
        saved=saved,
        other_way=question.moves not in ("", view.moves_digest),
    )


class AlongQuery(PlanQuery, AlongForm):
    """A job, and what the unit it is for has run."""


@router.get("/engines/{engine_id}/along")
def along(
    request: Request, db: Db, _: SignedIn, engine_id: str, question: Annotated[AlongQuery, Query()]
) -> Response:
    """What else is worth doing along with a job that is chosen."""
    sheet, rules = sheet_store.sheet(db, engine_id), rules_store.in_force(db)
    view = PlanPage(sheet, asked_of(question), rules, tools_today(db))
    if view.plan is None:
        raise ProblemsError(
            [Problem("c", view.problem or gettext("no hole is chosen"), gettext("choose one"))]
        )
    found = along_view(db, sheet, view.job(what_if=False), rules, question)
    path, query = view.address().split("?")
    return render(
        request,
        "engines/along.html.jinja" if swaps(request) else "along/alone.html.jinja",
        part="engines/along.html.jinja",
        back=view.address(),
        job=f"{sheet.title}: {view.plan.title}",
        view=view,
        found=found,
        where=f"{path}/along",
        hidden_fields=parse_qsl(query),
    )
