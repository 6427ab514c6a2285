"""One run as the floor and the page of what is open show it."""

from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from threading import Lock
from typing import Any

from eldrim.core.operations import HoleStage
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import Recorded
from eldrim.core.run.holes import closed_again, not_done, stage_words, stages
from eldrim.core.run.readings import shown
from eldrim.core.run.report import judged_words, window
from eldrim.core.run.state import Place, RunState
from eldrim.core.run.stops import reason_of
from eldrim.core.run.waiting import Waiting, waiting
from eldrim.core.words import say
from eldrim.core.words.messages import gettext
from eldrim.drawing import engine_plan
from eldrim.store import accounts, edition_store, runs, sheet_store, tablets
from eldrim.store.tables import RunRow
from eldrim.store.tablets import Heard
from eldrim.web.bay.advice import last_values
from eldrim.web.bay.wire import wire_state
from eldrim.web.context import Db

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
    """One run as the floor shows it. ``picture`` is the engine with the step in hand marked."""

    run: RunRow
    plan: Plan
    state: RunState
    now: Step | None
    done: int
    picture: str
    wire: dict[str, Any]
    waiting: Waiting | None
    holes: dict[str, list[str]]
    to_judge: list[ToJudge] = field(default_factory=list)
    at_hold: list[Fact] = field(default_factory=list)
    heard: Heard = field(default_factory=Heard)

    @property
    def gone(self) -> float:
        """The minutes since it was begun."""
        return (datetime.now(UTC) - (self.state.first or self.run.at)).total_seconds() / 60

    @property
    def silent(self) -> float | None:
        """The minutes since a tablet was heard; None until one is."""
        return self.heard.silent

    @property
    def unsent(self) -> int:
        """How many entries the tablets had unsent when they were heard last."""
        return self.heard.unsent

    @property
    def refused(self) -> int:
        """How many refused entries wait on the tablets for a person to let them go."""
        return self.heard.refused

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
    def of_all(self) -> int:
        """How many steps there are; of a search those of the branch taken so far."""
        if self.plan.search is None:
            return len(self.plan.steps)
        return self.done + len(self.state.ahead(self.plan))

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


class FloorKept:
    """All runs going on, made once a change however many leads look; what tablets say is newer."""

    def __init__(self) -> None:
        """Nothing is made yet."""
        self._lock = Lock()
        self._mark: tuple[object, ...] = ()
        self._made: list[Bay] = []

    def forget(self) -> None:
        """Make them anew."""
        with self._lock:
            self._mark = ()

    def look_again(self) -> None:
        """Something was committed: also where its entry is older than one that was there before."""
        with self._lock:
            self._mark = (None, *self._mark[1:])

    def bays(self, db: Db) -> list[Bay]:
        """The runs as they stand now; what needs a hand stands first."""
        with self._lock:
            mark = runs.open_mark(db)
            if mark != self._mark:
                self._made = self._anew(db, mark)
                self._mark = mark
            made = self._made
        heard = tablets.heard(db, [bay.run.id for bay in made])
        found = [replace(bay, heard=heard.get(bay.run.id, Heard())) for bay in made]
        return sorted(found, key=lambda b: (-b.needs, -b.late, b.run.at))

    def _anew(self, db: Db, mark: tuple[object, ...]) -> list[Bay]:
        """The runs as they stand now; where only entries came, those without one stay as made."""
        _, *others = mark
        had = {bay.run.id: bay for bay in self._made} if others == list(self._mark[1:]) else {}
        rows = runs.open_runs(db)
        states = runs.states(db, [row.id for row in rows])
        kept = {key: bay for key, bay in had.items() if bay.state is states.get(key)}
        return [kept.get(row.id) or bay_of(db, row) for row in rows]


def bay_of(db: Db, row: RunRow) -> Bay:
    """One run as it stands now, without what its tablets say."""
    plan, state = edition_store.plan_of(row.edition), runs.state(db, row.id)
    step = state.current(plan)
    return Bay(
        row,
        plan,
        state,
        step,
        len(state.closings),
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
        found.append(read or Fact(reading.label, gettext("not read yet"), window(reading), last))
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
        if stage not in (HoleStage.CLOSED, closed_again(plan)):
            found.setdefault(stage_words(plan, stage), []).append(hole)
    left = not_done(plan, state)
    return {**found, say("bay.not_done").upper(): list(left)} if left else found
