"""One run as the floor and the page of what is open show it."""

from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from eldrim.core.operations import HoleStage
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import Recorded
from eldrim.core.run.holes import not_done, stages
from eldrim.core.run.readings import shown
from eldrim.core.run.report import judged_words, window
from eldrim.core.run.state import Place, RunState
from eldrim.core.run.stops import reason_of
from eldrim.core.run.waiting import Waiting, waiting
from eldrim.core.words import say
from eldrim.drawing import engine_plan
from eldrim.store import accounts, edition_store, runs, sheet_store
from eldrim.store.tables import RunRow
from eldrim.web.bay.advice import last_values
from eldrim.web.bay.wire import wire_state
from eldrim.web.context import Db
from eldrim.web.floor.tablets import Tablets

# A tablet asks every few seconds; longer silent, it has no link or is laid down.
SILENT_MINUTES = 20 / 60
# A run is late when it takes so many times its planned minutes.
LATE_FACTOR = 1.5


@dataclass(frozen=True)
class Fact:
    """One value as a lead judges it: what it is, as it reads, its window, the last time."""

    label: str
    value: str
    window: str
    last: str


@dataclass(frozen=True)
class ToJudge:
    """Something a lead has to accept. ``said`` is what a lead said of it before."""

    recorded: Recorded
    text: str
    why: str
    fact: Fact | None
    said: str


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
    to_judge: list[ToJudge] = field(default_factory=list)
    at_hold: list[Fact] = field(default_factory=list)

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


def bays(db: Db, tablets: Tablets) -> list[Bay]:
    """All runs going on; what needs a hand stands first."""
    found = [bay_of(db, row, tablets) for row in runs.recent(db, signed=False)]
    return sorted(found, key=lambda b: (-b.needs, -b.late, b.run.at))


def bay_of(db: Db, row: RunRow, tablets: Tablets) -> Bay:
    """One run as it stands now."""
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
        _to_judge(db, row, plan, state),
        _facts(db, row, step, state) if step and step.hold else [],
    )


def _to_judge(db: Db, row: RunRow, plan: Plan, state: RunState) -> list[ToJudge]:
    """What a lead has to accept, each with all that it is judged by."""
    steps: dict[str, Step] = {step.key: step for step in plan.steps}
    if not state.deviations:
        return []
    before, called = last_values(db, row), accounts.called(db)
    return [
        ToJudge(
            recorded=open_,
            text=steps[open_.entry.step].text,
            why=reason_of(open_.entry),
            fact=_fact(steps[open_.entry.step], open_, before),
            said=judged_words(open_.entry.id, state, called),
        )
        for open_ in state.deviations.values()
    ]


def _fact(step: Step, recorded: Recorded, before: dict[Place, str]) -> Fact | None:
    entry = recorded.entry
    reading = next((r for r in step.readings if r.key == entry.reading), None)
    if reading is None:
        return None
    value = f"{shown(reading, entry.value)} {entry.unit or reading.unit}".strip()
    last = before.get((step.key, reading.key), "")
    return Fact(reading.label, value, window(reading), last)


def _facts(db: Db, row: RunRow, step: Step, state: RunState) -> list[Fact]:
    """What was read at a step that is held, and what was not yet."""
    before, found = last_values(db, row), []
    for reading in step.readings:
        had = state.values.get((step.key, reading.key))
        last = before.get((step.key, reading.key), "")
        read = _fact(step, had, before) if had else None
        found.append(read or Fact(reading.label, "not read yet", window(reading), last))
    return found


def _picture(db: Db, plan: Plan, step: Step | None) -> str:
    engine = sheet_store.sheet(db, plan.engine)
    view = engine_plan.PlanView(
        chosen=frozenset(engine.holes_of_all(plan.job.cylinders)),
        compact=True,
        here=(step.hole or step.part or "") if step else "",
    )
    return engine_plan.draw(engine, view)


def _open_holes(plan: Plan, state: RunState) -> dict[str, list[str]]:
    """The holes by how far they are, those still closed or closed again left out, and
    those at which something was not done.
    """
    found: dict[str, list[str]] = {}
    for hole, stage in stages(plan, state).items():
        if stage not in (HoleStage.CLOSED, HoleStage.CONNECTED):
            found.setdefault(say(f"stage.{stage}"), []).append(hole)
    left = not_done(plan, state)
    return {**found, say("bay.not_done").upper(): list(left)} if left else found
