"""Released procedures that would come out otherwise today, and drafts opened for all of them."""

from collections.abc import Iterable
from threading import Lock
from typing import Annotated
from uuid import UUID

from cachetools import LRUCache
from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from eldrim.core.base.errors import EldrimError
from eldrim.core.procedure.editions.difference import Difference, difference
from eldrim.core.procedure.editions.edits import apply_edits
from eldrim.core.procedure.model import Plan
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.core.words.messages import gettext
from eldrim.store import accounts, edition_store, procedure_store, releases, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.paging import Order, page_of
from eldrim.store.tables import EditionRow
from eldrim.web.context import Db, SignedIn, Trainer, render, tools_today
from eldrim.web.pager import pager
from eldrim.web.procedures.document import compiled

router = APIRouter(include_in_schema=False)
Basis = tuple[int, int, int]
# What an edition and a draft come to on the same basis never changes, so it is compared once.
FOUND_CHANGES: LRUCache[tuple[UUID, int, Basis], Difference] = LRUCache(500)
_found_lock = Lock()


def forget_changes() -> None:
    """Compare every edition anew."""
    with _found_lock:
        FOUND_CHANGES.clear()


PAGE_SIZE = 25
ORDER = Order(EditionRow.at, EditionRow.id)


@router.get("/changed-underneath")
def touched(
    request: Request, db: Db, _: SignedIn, at: Annotated[str, Query(max_length=120)] = ""
) -> Response:
    """What would change in each, and whether its draft is open for review."""
    now = (rules_store.in_force(db).version, tools_today(db).version)
    page = page_of(db, edition_store.on_other_ground(db, now), ORDER, at, PAGE_SIZE)
    found = [
        (edition.procedure, edition, c)
        for edition in page.rows
        if (c := changes(db, edition)) is not None
    ]
    return render(
        request,
        "procedures/touched.html.jinja",
        touched=found,
        pager=pager(page),
        looked_at=len(page.rows),
        titles=sheet_store.titles(db),
    )


@router.post("/changed-underneath")
def open_drafts(
    db: Db,
    signed_in: Trainer,
    procedures: Annotated[list[UUID], Form(max_length=200)] = [],  # noqa: B006
) -> Response:
    """Open the drafts of all chosen procedures for review, each told why; or of none."""
    chosen = edition_store.standing().where(EditionRow.procedure_id.in_(procedures))
    for edition in db.scalars(chosen):
        if not edition.procedure.review:
            plan = edition_store.plan_of(edition)
            said = gettext(
                "{plan}; opened by {signed_in}",
                plan=_why(plan, _basis_today(db, plan)),
                signed_in=signed_in.name,
            )
            procedure_store.open_review(db, edition.procedure_id, said)
    return RedirectResponse("/changed-underneath", 303)


# Beyond so many a list says only that they are on another revision: each is a plan to compare.
COMPARED = 40


def outdated_in_all(db: Session) -> tuple[list[EditionRow], int]:
    """The standing editions that are outdated, and how many more have not been compared."""
    asked = edition_store.on_other_ground(db)
    rows = db.scalars(asked.order_by(EditionRow.at.desc(), EditionRow.id).limit(COMPARED)).all()
    rest = 0
    if len(rows) == COMPARED:
        rest = (db.scalar(select(func.count()).select_from(asked.subquery())) or 0) - COMPARED
    return [row for row in rows if changed_since(db, row)], rest


def changes(db: Session, edition: EditionRow) -> Difference | None:
    """What would come out otherwise today than in an edition; None where nothing would."""
    basis = (
        sheet_store.sheet(db, edition.engine_id).revision,
        rules_store.in_force(db).version,
        tools_today(db).version,
    )
    if basis == (edition.revision, edition.rules_version, edition.crib_version):
        return None
    released = edition_store.plan_of(edition)
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
    if not said:
        return ""
    plan = edition_store.plan_of(edition)
    lets = releases.is_let_run(db, edition.id, sheet_store.sheet(db, plan.engine).revision)
    if lets is None:
        return said
    with reading_in(plan.job.language):
        return f"{said} {say('bay.let_run', by=accounts.called(db)[lets.by], reason=lets.reason)}"


def outdated_among(db: Session, editions: Iterable[EditionRow]) -> dict[UUID, str]:
    """What to tell of each of these that is outdated."""
    now = sheet_store.revisions(db)
    moved = (row for row in editions if row.revision != now.get(row.engine_id))
    return {row.id: told for row in moved if (told := outdated(db, row))}


def needs_a_word(db: Session, edition: EditionRow) -> bool:
    """Whether an edition is outdated and nobody has withdrawn it or lets it run."""
    revision = sheet_store.sheet(db, edition.engine_id).revision
    settled = releases.is_let_run(db, edition.id, revision) or releases.withdrawal(db, edition.id)
    return not settled and bool(changed_since(db, edition))


def changed_since(db: Session, edition: EditionRow) -> str:
    """How an edition's engine is stated otherwise since its release; empty where it is not."""
    revision = sheet_store.sheet(db, edition.engine_id).revision
    if revision == edition.revision:
        return ""
    plan = edition_store.plan_of(edition)
    try:
        found = changes(db, edition)
    except EldrimError:
        # Nothing opens the job any more, or it is no job of this engine: no page stops for it.
        with reading_in(plan.job.language):
            return say("bay.outdated_all", before=plan.revision, now=revision)
    if found is None:
        return ""
    lines = len(found.changed) + len(found.added) + len(found.removed)
    with reading_in(plan.job.language):
        return say("bay.outdated", before=plan.revision, now=revision, count=lines)


def _basis_today(db: Session, plan: Plan) -> Basis:
    """The revision of the sheet, the rules and the crib a plan would be made on today."""
    sheet = sheet_store.sheet(db, plan.engine)
    return (sheet.revision, rules_store.in_force(db).version, tools_today(db).version)


def _why(plan: Plan, now: Basis) -> str:
    was = (plan.revision, plan.rules_version, plan.crib_version)
    names = (gettext("sheet revision"), gettext("house rules version"), gettext("crib version"))
    said = [
        gettext("{n} {a} is {b} now", n=n, a=a, b=b)
        for n, a, b in zip(names, was, now, strict=True)
        if a != b
    ]
    return ", ".join(said)
