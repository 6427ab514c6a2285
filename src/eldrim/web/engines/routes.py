"""Engines: the list, a file coming in, and the plan where a job is chosen."""

from typing import Annotated

from fastapi import APIRouter, File, Query, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from eldrim.core.engine import Engine
from eldrim.core.errors import Problem, ProblemsError
from eldrim.drawing import engine_plan
from eldrim.exchange.engine_file import MAX_BYTES, read_engine, write_engine
from eldrim.store import drafts, library
from eldrim.store import rules as rules_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, render, swaps, tools_today
from eldrim.web.engines.page import PlanPage, Question

router = APIRouter(include_in_schema=False)


@router.get("/engines")
def index(request: Request, db: Db, _: SignedIn) -> Response:
    """All engines, each with its own small plan."""
    rows = library.sheets(db)
    found = [Engine.model_validate(r.document) for r in rows]
    pictures = {e.id: engine_plan.draw(e, engine_plan.PlanView(compact=True)) for e in found}
    return render(
        request,
        "engines/index.html.jinja",
        engines=found,
        pictures=pictures,
        problems=[],
        name="",
        drafts=drafts.open_drafts(db),
    )


@router.post("/engines")
def upload(
    request: Request, db: Db, signed_in: Trainer, file: Annotated[UploadFile, File()]
) -> Response:
    """Take in an engine file, or say everything that is wrong with it and take in nothing."""
    try:
        engine = read_engine(file.file.read(MAX_BYTES + 1))
        library.save_sheet(db, engine, signed_in.name)
    except ProblemsError as error:
        return _refused(request, error.problems, file.filename or "")
    except ConflictError as error:
        return _refused(request, [Problem("revision", str(error))], file.filename or "")
    return RedirectResponse(f"/engines/{engine.id}", 303)


def _refused(request: Request, problems: list[Problem], name: str) -> Response:
    return render(
        request, "engines/refused.html.jinja", status=422, problems=problems, name=name[:120]
    )


@router.get("/engines/{engine_id}.engine.yaml")
def download(db: Db, _: SignedIn, engine_id: str) -> Response:
    """The sheet as a file."""
    text = write_engine(library.sheet(db, engine_id))
    return Response(
        text,
        media_type="application/yaml",
        headers={"content-disposition": f'attachment; filename="{engine_id}.engine.yaml"'},
    )


@router.get("/engines/{engine_id}")
def show(
    request: Request,
    db: Db,
    _: SignedIn,
    engine_id: str,
    question: Annotated[Question, Query()],
) -> Response:
    """The plan: holes to choose, what has to move for them, why, and what if."""
    sheet, rules = library.sheet(db, engine_id), rules_store.in_force(db)
    view = PlanPage(sheet, question, rules, tools_today(db))
    template = "way_in" if swaps(request) else "plan"
    return render(request, f"engines/{template}.html.jinja", engine=view.engine, view=view)
