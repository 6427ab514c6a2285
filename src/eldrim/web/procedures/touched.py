"""Released procedures that would come out otherwise today, and drafts opened for all of them."""

from threading import Lock
from typing import Annotated
from uuid import UUID

from cachetools import LRUCache
from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from eldrim.core.errors import EldrimError
from eldrim.core.language import speaking
from eldrim.core.procedure.difference import Difference, difference
from eldrim.core.procedure.edits import apply_edits
from eldrim.core.procedure.model import Plan
from eldrim.core.words import say
from eldrim.store import accounts, edition_store, procedure_store, releases, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.tables import EditionRow
from eldrim.web.context import Db, SignedIn, Trainer, render, tools_today
from eldrim.web.procedures.document import compiled

router = APIRouter(include_in_schema=False)
Basis = tuple[int, int, int]
# What an edition and a draft come to on the same basis never changes, so it is compared once.
FOUND_CHANGES: LRUCache[tuple[UUID, int, Basis], Difference] = LRUCache(500)
_found_lock = Lock()


@router.get("/changed-underneath")
def touched(request: Request, db: Db, _: SignedIn) -> Response:
    """What would change in each, and whether its draft is open for review."""
    found = [
        (edition.procedure, edition, c)
        for edition in edition_store.newest_editions(db)
        if (c := changes(db, edition)) is not None
    ]
    return render(request, "procedures/touched.html.jinja", touched=found)


@router.post("/changed-underneath")
def open_drafts(
    db: Db,
    signed_in: Trainer,
    procedures: Annotated[list[UUID], Form(max_length=200)] = [],  # noqa: B006
) -> Response:
    """Open the drafts of all chosen procedures for review, each told why; or of none."""
    for edition in edition_store.newest_editions(db):
        if edition.procedure_id in procedures and not edition.procedure.review:
            said = _why(
                edition_store.plan_of(edition), _basis_today(db, edition_store.plan_of(edition))
            )
            procedure_store.open_review(
                db, edition.procedure_id, f"{said}; opened by {signed_in.name}"
            )
    return RedirectResponse("/changed-underneath", 303)


def changes(db: Session, edition: EditionRow) -> Difference | None:
    """What would come out otherwise today than in an edition; None where nothing would."""
    released = edition_store.plan_of(edition)
    basis = _basis_today(db, released)
    if basis == (released.revision, released.rules_version, released.crib_version):
        return None
    key = (edition.id, edition.procedure.version, basis)
    with _found_lock:
        found = FOUND_CHANGES.get(key)
    if found is None:
        now = apply_edits(
            compiled(db, edition.procedure), procedure_store.edits_of(edition.procedure)
        )
        found = difference(released, now)
        with _found_lock:
            FOUND_CHANGES[key] = found
    return None if found.empty else found


def outdated(db: Session, edition: EditionRow) -> str:
    """What to tell of an edition whose engine is stated otherwise since; empty where it is not.

    Where a trainer lets it run on at this revision of the sheet, that is told with the reason.
    """
    said = changed_since(db, edition)
    plan = edition_store.plan_of(edition)
    lets = releases.is_let_run(db, edition.id, sheet_store.sheet(db, plan.engine).revision)
    if not said or lets is None:
        return said
    with speaking(plan.job.language):
        return f"{said} {say('bay.let_run', by=accounts.called(db)[lets.by], reason=lets.reason)}"


def needs_a_word(db: Session, edition: EditionRow) -> bool:
    """Whether an edition is outdated and nobody has withdrawn it or lets it run."""
    revision = sheet_store.sheet(db, edition_store.plan_of(edition).engine).revision
    settled = releases.is_let_run(db, edition.id, revision) or releases.withdrawal(db, edition.id)
    return not settled and bool(changed_since(db, edition))


def changed_since(db: Session, edition: EditionRow) -> str:
    """How an edition's engine is stated otherwise since its release; empty where it is not."""
    plan = edition_store.plan_of(edition)
    revision = sheet_store.sheet(db, plan.engine).revision
    if revision == plan.revision:
        return ""
    try:
        found = changes(db, edition)
    except EldrimError:
        # Nothing opens the job any more, or it is no job of this engine: no page stops for it.
        with speaking(plan.job.language):
            return say("bay.outdated_all", before=plan.revision, now=revision)
    if found is None:
        return ""
    lines = len(found.changed) + len(found.added) + len(found.removed)
    with speaking(plan.job.language):
        return say("bay.outdated", before=plan.revision, now=revision, count=lines)


def _basis_today(db: Session, plan: Plan) -> Basis:
    """The revision of the sheet, the rules and the crib a plan would be made on today."""
    sheet = sheet_store.sheet(db, plan.engine)
    return (sheet.revision, rules_store.in_force(db).version, tools_today(db).version)


def _why(plan: Plan, now: Basis) -> str:
    was = (plan.revision, plan.rules_version, plan.crib_version)
    names = ("sheet revision", "house rules version", "crib version")
    said = [f"{n} {a} is {b} now" for n, a, b in zip(names, was, now, strict=True) if a != b]
    return ", ".join(said)
