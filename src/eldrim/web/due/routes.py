"""The board of what is due: by week, overdue first; calendars; due no more, with a reason."""

import gzip
from threading import Lock
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.run.due import DueKind
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.exchange.calendar import write_calendar
from eldrim.store import audit, due_jobs, dues, runs, sheet_store, unit_store
from eldrim.store.dues import DueFilter
from eldrim.web.context import Db, Reviewer, SignedIn, render
from eldrim.web.due.board import board
from eldrim.web.filters import today
from eldrim.web.forms import download

router = APIRouter(include_in_schema=False)
# So much on one page; units whose dues are worked out before it is shown.
PAGE, SETTLED = 50, 4
KINDS = {
    DueKind.WORK: gettext_lazy("set at a signing"),
    DueKind.RECHECK: gettext_lazy("re-check"),
    DueKind.FOLLOW_UP: gettext_lazy("follow-up"),
    DueKind.INTERVAL: gettext_lazy("by interval"),
    DueKind.WEAR: gettext_lazy("by wear"),
}
Short = Annotated[str, Field(max_length=60)]


class BoardQuery(BaseModel):
    """What of the board is wanted."""

    unit: Short = ""
    engine: Short = ""
    kind: Short = ""
    place: Short = ""
    page: int = Field(1, ge=1, le=100_000)

    @property
    def which(self) -> DueFilter:
        """As the store is asked."""
        return DueFilter(self.unit, self.engine, self.kind, self.place)

    @property
    def plain(self) -> dict[str, str]:
        """What was chosen, for the links to other pages of it."""
        chosen = self.model_dump(exclude={"page"})
        return {key: value for key, value in chosen.items() if value}


@router.get("/due")
def what_is_due(
    request: Request, db: Db, _: SignedIn, asked: Annotated[BoardQuery, Query()]
) -> Response:
    """All that is due over all units, by week, overdue first, in pages."""
    dues.settle(db, SETTLED)
    found = dues.filtered(db, asked.which, PAGE + 1, (asked.page - 1) * PAGE)
    shown = found[:PAGE]
    return render(
        request,
        "due/show.html.jinja",
        groups=board(shown, due_jobs.jobs_for(db, shown), today()),
        counts=dues.counts(db, today()),
        asked=asked,
        more=len(found) > PAGE,
        today=today(),
        kinds=KINDS,
        place_names={place: place for place in dues.places(db)},
        engines=_titles(db),
        unit=unit_store.unit(db, asked.unit) if asked.unit else None,
    )


def _titles(db: Db) -> dict[str, str]:
    """How the engines are called on whose units something is due."""
    titles = sheet_store.titles(db)
    return {key: titles.get(key, key) for key in dues.engines(db)}


# Calendars ask every few minutes; it is written anew when something due has changed.
# As it is, and packed.
_calendar: dict[tuple[object, ...], tuple[bytes, bytes]] = {}
_calendar_lock = Lock()


def forget_calendar() -> None:
    """Write it anew."""
    with _calendar_lock:
        _calendar.clear()


@router.get("/due.ics")
def calendar(request: Request, db: Db, _: SignedIn) -> Response:
    """What is due, for any calendar; kept packed as well, as it may be megabytes."""
    mark = dues.mark(db)
    with _calendar_lock:
        if mark not in _calendar:
            _calendar.clear()
            made = write_calendar(dues.with_a_day(db))
            _calendar[mark] = made, gzip.compress(made, 5, mtime=0)
        plain, packed = _calendar[mark]
    packs = "gzip" in request.headers.get("accept-encoding", "")
    answer = download(packed if packs else plain, "text/calendar; charset=utf-8", "due.ics")
    answer.headers["vary"] = "accept-encoding"
    if packs:
        answer.headers["content-encoding"] = "gzip"
    return answer


@router.get("/units/{key}/due.ics")
def unit_calendar(db: Db, _: SignedIn, key: str) -> Response:
    """What is due on one unit, for any calendar."""
    row = unit_store.unit(db, key)
    made = write_calendar(dues.with_a_day(db, row.id))
    return download(made, "text/calendar; charset=utf-8", f"{row.id}-due.ics")


@router.post("/due/{run}/{kind}/withdraw")
def withdraw_due(
    db: Db,
    signed_in: Reviewer,
    run: UUID,
    kind: DueKind,
    reason: Annotated[str, Form(max_length=400)] = "",
) -> Response:
    """Say that something is due no more, with the reason."""
    if not reason.strip():
        raise ProblemsError(
            [Problem("reason", gettext("say why this is due no more"), gettext("one line"))]
        )
    row = runs.run(db, run)
    dues.withdraw(db, run, kind, signed_in.name, reason.strip())
    audit.note(db, signed_in.name, "due withdrawn", f"{kind} of {run}", why=reason.strip())
    return RedirectResponse(f"/units/{row.unit_id}", 303)
