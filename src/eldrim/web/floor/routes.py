"""The lead's page: who is at which step, what is held, what waits, which tablet is silent."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import RunError
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.parts_needed import parts_needed
from eldrim.core.run.stops import reason_of, reasons
from eldrim.core.words.messages import gettext
from eldrim.store import accounts, dues, edition_store, runs
from eldrim.web.bay.wire import wire_state
from eldrim.web.context import Db, SignedIn, Writer, render, swaps
from eldrim.web.filters import today

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Field(max_length=400)]
# So many of each kind on a page, with how many there are; what needs a hand now is all there.
SHOWN = 25


@router.get("/floor")
def floor(request: Request, db: Db, _: SignedIn) -> Response:
    """All runs going on; what needs a hand stands first."""
    return _floor(request, db)


def _floor(request: Request, db: Db, refused: str = "") -> Response:
    template = "floor/bays" if swaps(request) else "floor/show"
    overdue = [] if swaps(request) else dues.overdue(db, today(), SHOWN)
    return render(
        request,
        f"{template}.html.jinja",
        status=409 if refused else 200,
        wrong_pins=accounts.wrong_pins(db),
        bays=request.app.state.floor.bays(db),
        overdue=overdue,
        overdue_count=dues.counts(db, today())["overdue"] if overdue else 0,
        today=today(),
        refused=refused,
    )


@router.get("/open")
def what_is_open(request: Request, db: Db, _: SignedIn) -> Response:
    """Everything over all units that somebody has still to see to."""
    return _open(request, db)


def _open(request: Request, db: Db, refused: str = "") -> Response:
    found = request.app.state.floor.bays(db)
    rows = runs.ended_unfinished(db, SHOWN)
    states = runs.states(db, [row.id for row in rows])
    ended = [(row, edition_store.plan_of(row.edition), states[row.id]) for row in rows]
    to_get = [(bay.run, parts_needed(bay.plan, bay.state)) for bay in found]
    to_get += [(row, parts_needed(plan, state)) for row, plan, state in ended]
    return render(
        request,
        "floor/open.html.jinja",
        status=409 if refused else 200,
        bays=found,
        not_done=dues.not_done(db, SHOWN),
        dues=dues.soonest(db, SHOWN),
        due_counts=dues.counts(db, today()),
        ended_count=runs.ended_unfinished_count(db),
        ended=ended,
        to_get=[(row, parts) for row, parts in to_get if parts],
        reason_of=reason_of,
        today=today(),
        refused=refused,
    )


class LeadForm(BaseModel):
    """What a lead does from the floor's page, or from that of what is open."""

    id: UUID
    kind: Literal["release", "accept", "refuse", "again", "end"]
    step: Short = ""
    refers_to: UUID | None = None
    reason: Short = ""
    note: Short = ""
    back: Literal["/floor", "/open"] = "/floor"


@router.post("/bay/runs/{key}/lead")
def from_the_desk(
    request: Request, db: Db, signed_in: Writer, key: UUID, form: Annotated[LeadForm, Form()]
) -> Response:
    """A lead releases, judges, or ends a run unfinished, from their own page."""
    entry = Entry.model_validate(form.model_dump(exclude={"back"}))
    try:
        runs.add(db, key, entry, signed_in.name, Role(signed_in.role))
    except RunError as error:
        if form.kind == "end":
            raise
        page = _open if form.back == "/open" else _floor
        return page(request, db, refused=f"{runs.run(db, key).unit.name}: {error}.")
    return RedirectResponse(form.back, 303)


@router.get("/floor/end/{key}")
def end(request: Request, db: Db, signed_in: SignedIn, key: UUID) -> Response:
    """Ask a lead why a run ends unfinished, and show what stays open."""
    if signed_in.role != Role.LEAD.value:
        raise HTTPException(403, gettext("Only a lead ends a run unfinished."))
    row = runs.run(db, key)
    plan, state = edition_store.plan_of(row.edition), runs.state(db, key)
    return render(
        request,
        "floor/end.html.jinja",
        run=row,
        plan=plan,
        ends=reasons(EntryKind.END),
        still_open=state.open_steps(plan),
        stops=list(wire_state(plan, state)["stops"].values()),
    )
