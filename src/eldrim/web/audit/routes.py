"""Who did what to the workshop itself: read by leads, and taken away as CSV."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from eldrim.exchange.procedure_files import csv_text
from eldrim.store import accounts, audit
from eldrim.web.context import Db, LeadReads, render
from eldrim.web.forms import download

router = APIRouter(include_in_schema=False)
PAGE_SIZE, FILE_SIZE = 100, 100_000


Short = Annotated[str, Query(max_length=80)]


@router.get("/audit")
def index(
    request: Request,
    db: Db,
    _: LeadReads,
    by: Short = "",
    act: Short = "",
    before: Annotated[int | None, Query(ge=0, le=2**62)] = None,
) -> Response:
    """The newest first, a page at a time; of one person or kind where asked."""
    rows = audit.trail(db, by=by, act=act, before=before, most=PAGE_SIZE)
    return render(
        request,
        "audit/index.html.jinja",
        rows=[(row, audit.words(row)) for row in rows],
        older=rows[-1].id if len(rows) == PAGE_SIZE else None,
        by=by,
        act=act,
        acts=audit.ACTS,
        people=sorted(accounts.called(db).items(), key=lambda one: one[1]),
    )


@router.get("/audit.csv")
def as_csv(db: Db, _: LeadReads) -> Response:
    """The whole trail."""
    rows = audit.trail(db, most=FILE_SIZE)
    cells = ((row.at.isoformat(), row.by, row.act, row.about, audit.words(row)) for row in rows)
    table = csv_text(("at", "by", "act", "about", "said"), cells)
    return download(table, "text/csv; charset=utf-8", "audit.csv")
