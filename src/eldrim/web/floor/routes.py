"""The lead's page: who is at which step, what is held, what waits, which tablet is silent."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.holes import CLOSED, stages
from eldrim.core.run.state import RunState
from eldrim.core.run.waiting import Waiting, waiting
from eldrim.core.words import say
from eldrim.store import library, runs
from eldrim.store.tables import RunRow
from eldrim.web.bay.page import told
from eldrim.web.context import Db, SignedIn, render, swaps

router = APIRouter(include_in_schema=False)
# A tablet asks every few seconds; longer silent, it has no link or is laid down.
SILENT_SECONDS = 20
# A run is late when it takes so many times its planned minutes.
LATE = 1.5


@dataclass(frozen=True)
class Bay:
    """One run as the floor shows it. ``gone`` in minutes, ``silent`` in seconds."""

    run: RunRow
    plan: Plan
    state: RunState
    now: Step | None
    done: int
    gone: float
    silent: float | None
    unsent: int
    told: dict[str, Any]
    waiting: Waiting | None
    holes: dict[str, list[str]]

    @property
    def held(self) -> bool:
        """Whether the step in hand waits for a lead."""
        return bool(self.now and self.now.hold and self.now.key not in self.state.released)

    @property
    def late(self) -> bool:
        """Whether it takes far longer than planned."""
        return self.gone > LATE * self.plan.minutes

    @property
    def needs(self) -> int:
        """What waits for a lead, the most urgent first when sorted by it."""
        return (
            4 * (len(self.state.stops) + len(self.state.conflicts))
            + 2 * self.held
            + len(self.state.open_deviations)
        )


@router.get("/floor")
def floor(request: Request, db: Db, _: SignedIn) -> Response:
    """All runs going on; what needs a hand stands first."""
    heard = request.app.state.tablets_heard
    bays = [_bay(db, row, heard) for row in runs.recent(db, signed=False)]
    bays.sort(key=lambda b: (-b.needs, -b.late, b.run.at))
    template = "floor/bays" if swaps(request) else "floor/show"
    return render(request, f"{template}.html.jinja", bays=bays)


def _bay(db: Db, row: RunRow, heard: dict[UUID, tuple[datetime, int]]) -> Bay:
    plan, state, now = library.plan_of(row.edition), runs.state(db, row.id), datetime.now(UTC)
    at, unsent = heard.get(row.id, (None, 0))
    step = state.current(plan)
    return Bay(
        row, plan, state, step, len(state.done),
        (now - (state.first or row.at)).total_seconds() / 60,
        (now - at).total_seconds() if at else None, unsent, told(plan, state),
        waiting(step, state) if step else None, _open_holes(plan, state),
    )  # fmt: skip


def _open_holes(plan: Plan, state: RunState) -> dict[str, list[str]]:
    """The holes by how far they are, those still closed or closed again left out."""
    found: dict[str, list[str]] = {}
    for hole, stage in stages(plan, state).items():
        if stage not in (CLOSED, "connected"):
            found.setdefault(say(f"stage.{stage}"), []).append(hole)
    return found
