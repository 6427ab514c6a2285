"""A photo of the real engine under the drawing: marked, laid straight, kept as the sheet's own."""

from typing import Annotated

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from eldrim.core.base.errors import ProblemsError
from eldrim.core.capture.straighten import Point, Straightening, known_places, straighten
from eldrim.core.engine import Engine
from eldrim.core.engine.model import PlanPhoto
from eldrim.core.words.messages import gettext
from eldrim.exchange.photo import MAX_BYTES, read_photo
from eldrim.exchange.straightened import straightened
from eldrim.store import drafts, images
from eldrim.store.drafts import Draft
from eldrim.store.tables import ImageRow
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.forms import FormFields, decimal_number, in_shop_words, text_field, whole_number

router = APIRouter(include_in_schema=False)
# A place that comes out farther off than this was marked wrongly, or the sheet is wrong there.
FAR_MM = 15.0


class PhotoForm(BaseModel):
    """A photo of an engine that is being captured."""

    photo: UploadFile


@router.post("/capture/{engine_id}/photo")
def take(
    db: Db, signed_in: Trainer, engine_id: str, form: Annotated[PhotoForm, Form()]
) -> Response:
    """Keep the photo, its pixels alone, and ask where in it the engine is."""
    drafts.current(db, engine_id)
    data, size = read_photo(form.photo.file.read(MAX_BYTES + 1))
    digest = images.keep(db, data, size, signed_in.name)
    return RedirectResponse(f"/capture/{engine_id}/photo/{digest}", 303)


@router.get("/capture/{engine_id}/photo/{digest}")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, digest: str) -> Response:
    """The photo, to be clicked at where the holes are."""
    return _page(request, drafts.current(db, engine_id), images.image(db, digest), {})


def _page(
    request: Request, draft: Draft, image: ImageRow, seen: dict[str, Point], problem: str = ""
) -> Response:
    return render(
        request,
        "capture/underlay.html.jinja",
        status=422 if problem else 200,
        engine=draft.engine,
        draft=draft,
        image=image,
        places=list(known_places(draft.engine)),
        seen=seen,
        problem=problem,
    )


@router.post("/capture/{engine_id}/photo/{digest}")
def lay(
    request: Request, db: Db, signed_in: Trainer, engine_id: str, digest: str, form: FormFields
) -> Response:
    """Lay the photo under the drawing by what was marked; what was marked stays where it fails."""
    draft, image = drafts.current(db, engine_id), images.image(db, digest)
    seen: dict[str, Point] = {}
    try:
        for name in known_places(draft.engine):
            across, down = (
                decimal_number(f"{axis}-{name}", text_field(form, f"{axis}-{name}"))
                for axis in ("x", "y")
            )
            if across is not None and down is not None:
                seen[name] = (across, down)
        found = straighten(seen, known_places(draft.engine))
    except ProblemsError as error:
        return _page(request, draft, image, seen, in_shop_words(error))
    if found.error > FAR_MM and "anyway" not in form:
        return _page(request, draft, image, seen, _far_off(found))
    laid, size = straightened(image.data, found.to_plan, draft.engine.layout.plan)
    kept = images.keep(db, laid, size, signed_in.name)
    number = whole_number("number", text_field(form, "number")) or 0
    engine = _with_photo(draft.engine, PlanPhoto(image=kept, size=draft.engine.layout.plan))
    drafts.push(db, number, engine, gettext("photo laid under the drawing"), signed_in.name)
    return RedirectResponse(f"/capture/{engine_id}", 303)


def _far_off(found: Straightening) -> str:
    return gettext(
        "{place} comes out {error} mm from where the sheet has it: mark it again, or lay the photo "
        "all the same.",
        place=found.worst,
        error=round(found.error),
    )


@router.post("/capture/{engine_id}/photo-away")
def away(
    db: Db, signed_in: Trainer, engine_id: str, number: Annotated[int, Form(ge=0)]
) -> Response:
    """Take the photo off the sheet; undo brings it back."""
    engine = _with_photo(drafts.current(db, engine_id).engine, None)
    drafts.push(db, number, engine, gettext("photo taken away"), signed_in.name)
    return RedirectResponse(f"/capture/{engine_id}", 303)


def _with_photo(engine: Engine, photo: PlanPhoto | None) -> Engine:
    layout = engine.layout.model_copy(update={"photo": photo})
    return engine.model_copy(update={"layout": layout})
