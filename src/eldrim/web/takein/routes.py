"""Choose a file, see what it would change, take it in."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext
from eldrim.exchange.procedure_files import MAX_BYTES
from eldrim.store import procedure_store, sheet_store, takeins
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.takein.preview import kind_of, preview, take_in

router = APIRouter(include_in_schema=False)


@router.get("/take-in")
def choose(request: Request, db: Db, _: SignedIn) -> Response:
    """Choose a file."""
    found, titles = procedure_store.procedures(db), sheet_store.titles(db)
    return render(request, "takein/choose.html.jinja", procedures=found, titles=titles)


@router.post("/take-in")
def read(
    request: Request,
    db: Db,
    signed_in: Trainer,
    file: Annotated[UploadFile, File()],
    procedure: Annotated[str, Form(max_length=36)] = "",
) -> Response:
    """Read a file and show what it would change; what is wrong with it is said by place."""
    data, name = file.file.read(MAX_BYTES + 1), (file.filename or "")[:120]
    kind = kind_of(name, data)
    try:
        if kind == "steps" and not procedure:
            fix = gettext("choose it above the file")
            raise ProblemsError(
                [Problem("", gettext("a table of steps is for one procedure"), fix)]
            )
        about = f"steps/{UUID(procedure)}" if kind == "steps" else kind
        key = takeins.hold(db, name, about, data, signed_in.name)
        preview(db, takeins.held(db, key, signed_in.name))
    except ProblemsError as error:
        db.rollback()
        return render(
            request, "takein/refused.html.jinja", status=422, problems=error.problems, name=name
        )
    return RedirectResponse(f"/take-in/{key}", 303)


@router.get("/take-in/{key}")
def show(request: Request, db: Db, signed_in: SignedIn, key: UUID) -> Response:
    """What a file would change."""
    held = takeins.held(db, key, signed_in.name)
    return render(request, "takein/preview.html.jinja", held=held, view=preview(db, held))


@router.post("/take-in/{key}")
def confirm(db: Db, signed_in: Trainer, key: UUID) -> Response:
    """Take all of it in, or nothing."""
    held = takeins.held(db, key, signed_in.name)
    preview(db, held)
    address = take_in(db, held, signed_in.name)
    takeins.forget(db, held)
    return RedirectResponse(address, 303)
