"""Photos on the steps of a draft, and the marks on them."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import Response

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.procedure.edits import Edit
from eldrim.core.procedure.photos import Mark, Photo
from eldrim.exchange.photo import MAX_BYTES, read_photo
from eldrim.store import images
from eldrim.web.context import Db, SignedIn, Trainer
from eldrim.web.procedures.editing import Base, keep

router = APIRouter(include_in_schema=False)
MOST_PHOTOS, MOST_MARKS = 6, 12
StepKey = Annotated[str, Form(max_length=200)]
Words = Annotated[str, Form(max_length=200)]


@router.get("/images/{digest}.jpg")
def picture(db: Db, _: SignedIn, digest: str) -> Response:
    """A photo as it is kept. Its name says what is in it, so it may be kept for ever."""
    kept = images.image(db, digest)
    forever = {"cache-control": "private, max-age=31536000, immutable"}
    return Response(kept.data, media_type="image/jpeg", headers=forever)


@router.post("/procedures/{key}/photos")
def add(
    request: Request,
    db: Db,
    signed_in: Trainer,
    key: UUID,
    step: StepKey,
    base: Base,
    photo: Annotated[UploadFile, File()],
    caption: Words = "",
) -> Response:
    """Put a photo on a step."""
    if len(base.photos) >= MOST_PHOTOS:
        fix = "take one away first"
        raise ProblemsError([Problem("photo", f"a step has at most {MOST_PHOTOS} photos", fix)])
    data, size = read_photo(photo.file.read(MAX_BYTES + 1))
    digest = images.keep(db, data, size, signed_in.name)
    made = Photo(image=digest, width=size[0], height=size[1], caption=caption)
    return _kept(request, db, key, step, base, (*base.photos, made))


@router.post("/procedures/{key}/marks")
def mark(
    request: Request,
    db: Db,
    _: Trainer,
    key: UUID,
    step: StepKey,
    base: Base,
    index: Annotated[int, Form(ge=0)],
    kind: Annotated[Literal["ring", "arrow"], Form()],
    x: Annotated[float, Form(ge=0, le=100)],
    y: Annotated[float, Form(ge=0, le=100)],
    words: Words = "",
) -> Response:
    """Mark a place on a photo; ``x`` and ``y`` in percent from its upper left corner."""
    photo = _photo(base, index)
    if len(photo.marks) >= MOST_MARKS:
        fix = "take one away first"
        raise ProblemsError([Problem("mark", f"a photo has at most {MOST_MARKS} marks", fix)])
    made = Mark(kind=kind, x=x / 100, y=y / 100, words=words)
    changed = photo.model_copy(update={"marks": (*photo.marks, made)})
    return _kept(request, db, key, step, base, _with(base, index, changed))


@router.post("/procedures/{key}/photos/away")
def take_away(
    request: Request,
    db: Db,
    _: Trainer,
    key: UUID,
    step: StepKey,
    base: Base,
    index: Annotated[int, Form(ge=0)],
    mark: Annotated[int | None, Form(ge=0)] = None,
) -> Response:
    """Take a photo off a step, or one mark off a photo."""
    photo, changed = _photo(base, index), None
    if mark is not None:
        marks = tuple(m for i, m in enumerate(photo.marks) if i != mark)
        changed = photo.model_copy(update={"marks": marks})
    return _kept(request, db, key, step, base, _with(base, index, changed))


def _photo(base: Edit, index: int) -> Photo:
    if index >= len(base.photos):
        raise ProblemsError([Problem("photo", "there is no such photo", "load the page again")])
    return base.photos[index]


def _with(base: Edit, index: int, changed: Photo | None) -> tuple[Photo, ...]:
    """The photos with one changed, or taken away for None."""
    every = [changed if i == index else p for i, p in enumerate(base.photos)]
    return tuple(p for p in every if p is not None)


def _kept(
    request: Request, db: Db, key: UUID, step: str, base: Edit, photos: tuple[Photo, ...]
) -> Response:
    for photo in photos:
        images.image(db, photo.image)
    return keep(request, db, key, step, base, base.model_copy(update={"photos": photos}))
