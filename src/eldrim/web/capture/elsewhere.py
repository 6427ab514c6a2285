"""What comes to the board from elsewhere: from other engines of the shop, or from a table."""

from contextlib import suppress
from typing import Annotated

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, TypeAdapter, ValidationError
from sqlalchemy.orm import Session

from eldrim.core.base.errors import ProblemsError
from eldrim.core.capture import offers
from eldrim.core.capture.offers import Offer
from eldrim.core.capture.said_back import in_full
from eldrim.core.engine import Engine, Part
from eldrim.core.engine.parts import Joint
from eldrim.core.words.messages import gettext
from eldrim.exchange.fasteners import MAX_BYTES, FastenerRow, read_fasteners, with_fasteners
from eldrim.exchange.table_text import decoded
from eldrim.store import drafts, sheet_store
from eldrim.store.drafts import Draft
from eldrim.store.errors import ConflictError
from eldrim.web.capture.act_form import Done
from eldrim.web.capture.page import CapturePage
from eldrim.web.capture.routes import done_on_board, no_worse
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.forms import FormFields, in_shop_words, text_field

router = APIRouter(include_in_schema=False)
# So many sheets, the last changed first, are looked through.
MOST_SHEETS = 200
_parts: TypeAdapter[dict[str, Part]] = TypeAdapter(dict[str, Part])


@router.get("/capture/{engine_id}/offers")
def offered(request: Request, db: Db, _: SignedIn, engine_id: str, part: str = "") -> Response:
    """Parts of other engines like the one in hand; without one, those that could be put on."""
    draft = drafts.current(db, engine_id)
    mine = draft.engine.parts.get(part)
    kind, name = (mine.kind, mine.name) if mine else (None, "")
    most = offers.MOST_OFFERS if mine else 3 * offers.MOST_OFFERS
    found = offers.offers(kind, name, _known(db, draft.engine), most)
    view = CapturePage(draft, part)
    return render(
        request,
        "capture/offers.html.jinja",
        view=view,
        engine=draft.engine,
        found=found,
        mine=mine,
        full=_full,
    )


def _known(db: Session, engine: Engine) -> list[Offer]:
    """The parts of the other sheets; one that cannot be read offers nothing."""
    found: list[Offer] = []
    for sheet in sheet_store.parts_elsewhere(db, engine.id, MOST_SHEETS):
        source = f"{sheet.make} {sheet.name}"
        torques = {key: str(said[0]["value"]) for key, said in sheet.figures.items() if said}
        with suppress(ValidationError):
            parts = _parts.validate_python(sheet.parts or {})
            found += [Offer(sheet.id, source, key, part, torques) for key, part in parts.items()]
    return found


def _full(offer: Offer, joint: Joint) -> str:
    """A joint of an offer in whole words."""
    return in_full(joint, offer.torque_of(joint))


@router.post("/capture/{engine_id}/offer")
def take_offer(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: FormFields
) -> Response:
    """Take what another engine has: one joint, one way, all of a part, or the part itself."""
    other = sheet_store.sheet(db, text_field(form, "of"))
    theirs, what = text_field(form, "theirs"), text_field(form, "what")

    def take(engine: Engine, part: str) -> Done:
        said = gettext("as on {make} {engine}", make=other.make, engine=other.name)
        kind, _, key = what.partition("/")
        if kind == "part":
            made, part = offers.put_on(engine, other, theirs)
        elif kind == "all":
            made = offers.take_all(engine, part, other, theirs)
        else:
            take_one = offers.take_joint if kind == "joint" else offers.take_way
            made = take_one(engine, part, other, theirs, key)
        return made, said, part

    return done_on_board(request, db, signed_in.name, engine_id, form, take)


class TableForm(BaseModel):
    """A table of fasteners: a file, or the text as it was read and mended."""

    number: int = 0
    file: UploadFile | None = None
    table: Annotated[str, Field(max_length=MAX_BYTES)] = ""
    sure: Annotated[str, Field(max_length=8)] = ""


@router.post("/capture/{engine_id}/fasteners")
def fasteners(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, form: Annotated[TableForm, Form()]
) -> Response:
    """Read a table of fasteners; what it says is shown first, then all of it is taken in."""
    draft = drafts.current(db, engine_id)
    text, rows = form.table, tuple[FastenerRow, ...]()
    try:
        if form.file is not None and form.file.filename:
            text = decoded(form.file.file.read(MAX_BYTES + 1), MAX_BYTES)
        rows = read_fasteners(draft.engine, text)
        if not form.sure or any(row.problem for row in rows):
            return _preview(request, draft, text, rows)
        made = Engine.model_validate(with_fasteners(draft.engine, rows).model_dump(mode="json"))
        no_worse(draft.engine, made)
        drafts.push(db, form.number, made, gettext("table of fasteners"), signed_in.name)
    except (ProblemsError, ValidationError) as error:
        return _preview(request, draft, text, rows, in_shop_words(error))
    except ConflictError as error:
        return _preview(request, drafts.current(db, engine_id), text, rows, str(error))
    return RedirectResponse(f"/capture/{engine_id}", 303)


def _preview(
    request: Request, draft: Draft, text: str, rows: tuple[FastenerRow, ...], problem: str = ""
) -> Response:
    wrong = bool(problem) or any(row.problem for row in rows)
    full = {
        row.number: in_full(row.said.joint, str(row.said.torque or "")) for row in rows if row.said
    }
    return render(
        request,
        "capture/fasteners.html.jinja",
        status=422 if wrong else 200,
        engine=draft.engine,
        draft=draft,
        text=text,
        rows=rows,
        full=full,
        problem=problem,
        wrong=wrong,
        news=sum(1 for row in rows if row.said and not row.known),
    )
