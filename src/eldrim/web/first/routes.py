"""An empty workshop: its first people by the code on the console, then what to do first."""

from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words.messages import gettext
from eldrim.store import audit, first_start
from eldrim.store import crib as crib_store
from eldrim.store.first_start import Newcomer
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.first.todo import to_do
from eldrim.web.security import sent_from_here

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Field(max_length=80)]
Secret = Annotated[str, Field(max_length=200)]


class Beginning(BaseModel):
    """The code, and the two people."""

    code: Short = ""
    lead_name: Short = ""
    lead_display: Short = ""
    lead_password: Secret = ""
    lead_pin: Annotated[str, Field(max_length=12)] = ""
    trainer_name: Short = ""
    trainer_display: Short = ""
    trainer_password: Secret = ""

    def lead(self) -> Newcomer:
        """The first lead."""
        return Newcomer(self.lead_name, self.lead_display, self.lead_password, self.lead_pin)

    def trainer(self) -> Newcomer:
        """The first trainer."""
        return Newcomer(self.trainer_name, self.trainer_display, self.trainer_password)


@router.get("/first")
def ask(request: Request, db: Db) -> Response:
    """Ask for the first people; where there are people, for who it is."""
    if not first_start.nobody_works_here(db):
        return RedirectResponse("/sign-in", 303)
    return render(request, "first/begin.html.jinja", typed={}, problems={})


@router.post("/first")
def begin(request: Request, db: Db, form: Annotated[Beginning, Form()]) -> Response:
    """Make the first people; what was typed stays when something is wrong, but for secrets."""
    if not sent_from_here(request):
        raise HTTPException(403, gettext("This page is sent from here, not from another site."))
    try:
        first_start.begin(db, form.code, form.lead(), form.trainer())
    except ProblemsError as error:
        secrets = {"lead_password", "lead_pin", "trainer_password"}
        return render(
            request,
            "first/begin.html.jinja",
            status=422,
            typed=form.model_dump(exclude=secrets),
            problems={found.path: _sentence(found) for found in error.problems},
        )
    for newcomer, role in ((form.lead(), "lead"), (form.trainer(), "trainer")):
        audit.note(db, "the first start", "person added", newcomer.name.strip().lower(), role=role)
    return RedirectResponse("/sign-in", 303)


@router.get("/first-steps")
def steps(request: Request, db: Db, _: SignedIn) -> Response:
    """What an empty workshop still lacks, in the order in which it is needed."""
    return render(request, "first/steps.html.jinja", steps=to_do(db))


@router.post("/first-steps/crib")
def usual_crib(db: Db, trainer: Trainer) -> Response:
    """Begin the crib with the tools a workshop usually has; one that is kept stays."""
    if not crib_store.history(db):
        crib_store.save(db, STANDARD_CRIB, trainer.name, "The usual workshop's, to begin with.")
        audit.note(db, trainer.name, "crib changed", "version 1", why="the usual workshop's")
    return RedirectResponse("/crib", 303)


def _sentence(found: Problem) -> str:
    return f"{found.message[:1].upper()}{found.message[1:]}: {found.fix}."
