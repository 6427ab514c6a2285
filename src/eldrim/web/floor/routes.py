"""The lead's page: who is at which step, what is held, what waits, which tablet is silent."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from eldrim.core.operations import HoleStage
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.due import due
from eldrim.core.run.entries import EntryKind, Role
from eldrim.core.run.holes import stages
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import reasons
from eldrim.core.run.waiting import Waiting, waiting
from eldrim.core.words import say
from eldrim.drawing import engine_plan
from eldrim.store import edition_store, runs, sheet_store
from eldrim.store.tables import RunRow
from eldrim.web.bay.wire import wire_state
from eldrim.web.context import Db, SignedIn, render, swaps
from eldrim.web.filters import today
from eldrim.web.floor.tablets import Tablets

router = APIRouter(include_in_schema=False)
# A tablet asks every few seconds; longer silent, it has no link or is laid down.
SILENT_MINUTES = 20 / 60
# A run is late when it takes so many times its planned minutes.
LATE_FACTOR = 1.5


@dataclass(frozen=True)
class Bay:
    """One run as the floor shows it. ``gone`` and ``silent`` in minutes.

    ``picture`` is the engine with the step in hand marked; ``silent`` is None until a tablet is
    heard, and ``unsent`` and ``refused`` are what the tablets said last.
    """

    run: RunRow
    plan: Plan
    state: RunState
    now: Step | None
    done: int
    gone: float
    silent: float | None
    unsent: int
    refused: int
    picture: str
    wire: dict[str, Any]
    waiting: Waiting | None
    holes: dict[str, list[str]]

    @property
    def held(self) -> bool:
        """Whether the step in hand waits for a lead."""
        return bool(self.now and self.now.hold and self.now.key not in self.state.released)

    @property
    def quiet(self) -> bool:
        """Whether no tablet is heard: what it holds unsent is not known then."""
        return self.silent is None or self.silent > SILENT_MINUTES

    @property
    def place(self) -> int:
        """The number of the step in hand among the plan's steps."""
        return self.done + 1

    @property
    def late(self) -> bool:
        """Whether it takes far longer than planned."""
        return self.gone > LATE_FACTOR * self.plan.minutes

    @property
    def needs(self) -> int:
        """What waits for a lead, the most urgent first when sorted by it."""
        return (
            4 * (len(self.state.stops) + len(self.state.conflicts))
            + 2 * self.held
            + len(self.state.deviations)
        )


@router.get("/floor")
def floor(request: Request, db: Db, _: SignedIn) -> Response:
    """All runs going on; what needs a hand stands first."""
    tablets: Tablets = request.app.state.tablets
    bays = [_bay(db, row, tablets) for row in runs.recent(db, signed=False)]
    bays.sort(key=lambda b: (-b.needs, -b.late, b.run.at))
    template = "floor/bays" if swaps(request) else "floor/show"
    overdue = [] if swaps(request) else [d for d in due(runs.signed(db)) if d.overdue(today())]
    return render(request, f"{template}.html.jinja", bays=bays, overdue=overdue, today=today())


@router.get("/floor/end/{key}")
def end(request: Request, db: Db, signed_in: SignedIn, key: UUID) -> Response:
    """Ask a lead why a run ends unfinished, and show what stays open."""
    if signed_in.role != Role.LEAD.value:
        raise HTTPException(403, "Only a lead ends a run unfinished.")
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


def _bay(db: Db, row: RunRow, tablets: Tablets) -> Bay:
    plan, state, now = edition_store.plan_of(row.edition), runs.state(db, row.id), datetime.now(UTC)
    step = state.current(plan)
    return Bay(
        row,
        plan,
        state,
        step,
        len(state.closings),
        (now - (state.first or row.at)).total_seconds() / 60,
        tablets.silent_minutes(row.id),
        tablets.unsent(row.id),
        tablets.refused(row.id),
        _picture(db, plan, step),
        wire_state(plan, state),
        waiting(step, state) if step else None,
        _open_holes(plan, state),
    )


def _picture(db: Db, plan: Plan, step: Step | None) -> str:
    engine = sheet_store.sheet(db, plan.engine)
    view = engine_plan.PlanView(
        chosen=frozenset(engine.holes_of_all(plan.job.cylinders)),
        compact=True,
        here=(step.hole or step.part or "") if step else "",
    )
    return engine_plan.draw(engine, view)


def _open_holes(plan: Plan, state: RunState) -> dict[str, list[str]]:
    """The holes by how far they are, those still closed or closed again left out."""
    found: dict[str, list[str]] = {}
    for hole, stage in stages(plan, state).items():
        if stage not in (HoleStage.CLOSED, HoleStage.CONNECTED):
            found.setdefault(say(f"stage.{stage}"), []).append(hole)
    return found
