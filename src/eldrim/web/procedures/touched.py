"""Released procedures that would come out otherwise today, and drafts opened for all of them."""

from collections import OrderedDict
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.procedure.difference import Difference, difference
from eldrim.core.procedure.edits import apply_edits
from eldrim.core.procedure.model import Plan
from eldrim.store import library
from eldrim.store import rules as rules_store
from eldrim.store.tables import EditionRow
from eldrim.web.context import Db, SignedIn, Trainer, render, tools_today
from eldrim.web.procedures.document import compiled

router = APIRouter(include_in_schema=False)
Ground = tuple[int, int, int]
# What an edition and a draft come to on a ground never changes, so it is worked out once.
_compared: OrderedDict[tuple[UUID, int, Ground], Difference] = OrderedDict()
KEPT = 500


@router.get("/changed-underneath")
def touched(request: Request, db: Db, _: SignedIn) -> Response:
    """What would change in each, and whether its draft is open for review."""
    found = [
        (e.procedure, e, c)
        for e in library.newest_editions(db)
        if (c := _changes(db, e)) is not None
    ]
    return render(request, "procedures/touched.html.jinja", touched=found)


@router.post("/changed-underneath")
def open_drafts(
    db: Db,
    signed_in: Trainer,
    procedures: Annotated[list[UUID], Form(max_length=200)] = [],  # noqa: B006
) -> Response:
    """Open the drafts of all chosen procedures for review, each told why; or of none."""
    for edition in library.newest_editions(db):
        if edition.procedure_id in procedures and not edition.procedure.review:
            said = _why(library.plan_of(edition), _ground(db, library.plan_of(edition)))
            library.open_review(db, edition.procedure_id, f"{said}; opened by {signed_in.name}")
    return RedirectResponse("/changed-underneath", 303)


def _changes(db: Db, edition: EditionRow) -> Difference | None:
    released = library.plan_of(edition)
    ground = _ground(db, released)
    if ground == (released.revision, released.rules_version, released.crib_version):
        return None
    key = (edition.id, edition.procedure.version, ground)
    if key not in _compared:
        now = apply_edits(compiled(db, edition.procedure), library.edits_of(edition.procedure))
        _compared[key] = difference(released, now)
        if len(_compared) > KEPT:
            _compared.popitem(last=False)
    found = _compared[key]
    return None if found.empty else found


def _ground(db: Db, plan: Plan) -> Ground:
    """The revision of the sheet, the rules and the crib a plan would be made on today."""
    sheet = library.sheet(db, plan.engine)
    return (sheet.revision, rules_store.in_force(db).version, tools_today(db).version)


def _why(plan: Plan, now: Ground) -> str:
    was = (plan.revision, plan.rules_version, plan.crib_version)
    names = ("sheet revision", "house rules version", "crib version")
    said = [f"{n} {a} is {b} now" for n, a, b in zip(names, was, now, strict=True) if a != b]
    return ", ".join(said)
