"""Photos on the steps of a draft, and the marks on them."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel, Field, Json

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.procedure.photos import Mark, Photo
from eldrim.core.words.messages import gettext
from eldrim.exchange.photo import MAX_BYTES, read_photo
from eldrim.store import images
from eldrim.web.context import Db, SignedIn, Trainer
from eldrim.web.procedures.editing import Clashing, keep

router = APIRouter(include_in_schema=False)
MAX_PHOTOS, MAX_MARKS = 6, 12


@router.get("/images/{digest}.jpg")
def picture(db: Db, _: SignedIn, digest: str) -> Response:
    """A photo as it is kept. Its name says what is in it, so it may be kept for ever."""
    kept = images.image(db, digest)
    forever = {"cache-control": "private, max-age=31536000, immutable"}
    return Response(kept.data, media_type="image/jpeg", headers=forever)


class PhotoForm(BaseModel):
    """A photo for a step, as it is uploaded."""

    step: Annotated[str, Field(max_length=200)]
    base: Json[Edit]
    photo: UploadFile
    caption: Annotated[str, Field(max_length=200)] = ""


@router.post("/procedures/{key}/photos")
def add(
    request: Request, db: Db, signed_in: Trainer, key: UUID, form: Annotated[PhotoForm, Form()]
) -> Response:
    """Put a photo on a step."""
    base = form.base
    if len(base.photos) >= MAX_PHOTOS:
        raise _full("photo", gettext("a step has at most {count} photos", count=MAX_PHOTOS))
    data, size = read_photo(form.photo.file.read(MAX_BYTES + 1))
    digest = images.keep(db, data, size, signed_in.name)
    made = Photo(image=digest, width=size[0], height=size[1], caption=form.caption)
    mine = _photographed(base, (*base.photos, made))
    return _kept(request, db, key, form.step, Clashing(base, mine))


def _full(what: str, said: str) -> ProblemsError:
    return ProblemsError([Problem(what, said, gettext("take one away first"))])


class MarkForm(BaseModel):
    """A mark on a photo of a step; ``x`` and ``y`` in percent from its upper left corner."""

    step: Annotated[str, Field(max_length=200)]
    base: Json[Edit]
    index: Annotated[int, Field(ge=0)]
    kind: Literal["ring", "arrow"]
    x: Annotated[float, Field(ge=0, le=100)]
    y: Annotated[float, Field(ge=0, le=100)]
    words: Annotated[str, Field(max_length=200)] = ""


@router.post("/procedures/{key}/marks")
def mark(
    request: Request, db: Db, _: Trainer, key: UUID, form: Annotated[MarkForm, Form()]
) -> Response:
    """Mark a place on a photo."""
    photo = _photo(form.base, form.index)
    if len(photo.marks) >= MAX_MARKS:
        raise _full("mark", gettext("a photo has at most {count} marks", count=MAX_MARKS))
    made = Mark(kind=form.kind, x=form.x / 100, y=form.y / 100, words=form.words)
    changed = photo.model_copy(update={"marks": (*photo.marks, made)})
    photos = _with(form.base, form.index, changed)
    return _kept(request, db, key, form.step, Clashing(form.base, _photographed(form.base, photos)))


class AwayForm(BaseModel):
    """A photo to take off a step, or one mark to take off a photo."""

    step: Annotated[str, Field(max_length=200)]
    base: Json[Edit]
    index: Annotated[int, Field(ge=0)]
    mark: Annotated[int | None, Field(ge=0)] = None


@router.post("/procedures/{key}/photos/away")
def take_away(
    request: Request, db: Db, _: Trainer, key: UUID, form: Annotated[AwayForm, Form()]
) -> Response:
    """Take a photo off a step, or one mark off a photo."""
    photo, changed = _photo(form.base, form.index), None
    if form.mark is not None:
        marks = tuple(mark for index, mark in enumerate(photo.marks) if index != form.mark)
        changed = photo.model_copy(update={"marks": marks})
    photos = _with(form.base, form.index, changed)
    return _kept(request, db, key, form.step, Clashing(form.base, _photographed(form.base, photos)))


def _photographed(base: Edit, photos: tuple[Photo, ...]) -> Edit:
    return base.model_copy(update={"photos": photos})


def _photo(base: Edit, index: int) -> Photo:
    if index >= len(base.photos):
        raise ProblemsError(
            [Problem("photo", gettext("there is no such photo"), gettext("load the page again"))]
        )
    return base.photos[index]


def _with(base: Edit, index: int, changed: Photo | None) -> tuple[Photo, ...]:
    """The photos with one changed, or taken away for None."""
    every = [changed if i == index else photo for i, photo in enumerate(base.photos)]
    return tuple(p for p in every if p is not None)


def _kept(request: Request, db: Db, key: UUID, step: str, made: Clashing) -> Response:
    for photo in made.mine.photos:
        images.image(db, photo.image)
    return keep(request, db, key, step, made)
