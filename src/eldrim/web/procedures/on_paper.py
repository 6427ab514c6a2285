"""An edition on paper: job sheet, long form, card for the wing; and what their codes lead to."""

from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.procedure.editions.fold import chapters
from eldrim.core.procedure.model import Plan
from eldrim.core.words import say
from eldrim.core.words.language import day_words, reading_in
from eldrim.core.words.messages import gettext
from eldrim.printing import job_sheet, long_form, wing_card
from eldrim.printing.codes import Codes
from eldrim.printing.job_sheet import Edition, Paper
from eldrim.store import accounts, edition_store, images, sheet_store
from eldrim.store.tables import EditionRow
from eldrim.web.context import Db, SignedIn
from eldrim.web.forms import download
from eldrim.web.papers import kept

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Path(max_length=32)]


@router.get("/editions/{key}/job-sheet.pdf")
def job_sheet_pdf(
    request: Request, db: Db, _: SignedIn, key: UUID, paper: Annotated[Paper, Query()] = "A4"
) -> Response:
    """The edition as a sheet to be taken to the engine: one side for up to four holes."""
    row = edition_store.edition(db, key)
    made, about = _edition(request, db, row)
    # As it was drawn then: the sheet may say otherwise by now.
    sheet = sheet_store.sheet(db, made.engine, made.revision)
    name = (gettext("job sheet"), row.id, row.at, about.released, _server(request), paper)
    data = kept(name, lambda: job_sheet.pdf(made, sheet, about, paper))
    return download(data, "application/pdf", f"job-sheet-{made.engine}-{row.number}.pdf")


@router.get("/editions/{key}/wing-card.pdf")
def wing_card_pdf(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """What to set and in which order, on a card for the wing."""
    row = edition_store.edition(db, key)
    made, about = _edition(request, db, row)
    name = (gettext("wing card"), row.id, row.at, about.released, _server(request))
    data = kept(name, lambda: wing_card.pdf(made, about))
    return download(data, "application/pdf", f"card-{made.engine}-{row.number}.pdf")


@router.get("/editions/{key}/long-form.pdf")
def long_form_pdf(request: Request, db: Db, _: SignedIn, key: UUID) -> Response:
    """The edition step by step with its drawings, to learn it from."""
    row = edition_store.edition(db, key)
    made, about = _edition(request, db, row)
    name = (gettext("long form"), row.id, row.at, about.released)
    data = kept(name, lambda: _long_form(db, made, about))
    return download(data, "application/pdf", f"long-form-{made.engine}-{row.number}.pdf")


@router.get("/E/{short}")
def by_code(db: Db, _: SignedIn, short: Short) -> Response:
    """The edition that a code on paper tells."""
    return RedirectResponse(f"/editions/{edition_store.by_start(db, short).id}", 303)


@router.get("/E/{short}/{place}")
def act_by_code(db: Db, _: SignedIn, short: Short, place: int) -> Response:
    """The act of an edition that a code on paper tells by the number of its first step."""
    row = edition_store.by_start(db, short)
    found = [
        one.key
        for chapter in chapters(edition_store.plan_of(row).steps)
        for one in chapter.acts
        if place in one.numbers
    ]
    return RedirectResponse(f"/editions/{row.id}#{quote(found[0]) if found else ''}", 303)


def _edition(request: Request, db: Db, row: EditionRow) -> tuple[Plan, Edition]:
    """The plan of an edition, and what stands at the head of its papers."""
    made = edition_store.plan_of(row)
    called = accounts.called(db)[row.by]
    with reading_in(made.job.language):
        released = say("doc.released", when=day_words(row.at), who=called)
        words = say("doc.edition_of", number=row.number)
    return made, Edition(words, released, Codes(_server(request), row.id))


def _server(request: Request) -> str:
    """The address under which the server was reached."""
    return str(request.base_url)


def _long_form(db: Db, made: Plan, about: Edition) -> bytes:
    pictures = {
        photo.image: images.image(db, photo.image).data
        for step in made.steps
        for photo in step.photos
    }
    sheet = sheet_store.sheet(db, made.engine, made.revision)
    return long_form.pdf(made, sheet, about.words, about.released, pictures)
