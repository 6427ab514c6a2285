"""What was found and left at each hole of a unit, run by run; and what was marked."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from eldrim.core.base.quantity import convert
from eldrim.core.engine.targets import hole_order
from eldrim.core.figures.gap import Wear, wear
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import Recorded
from eldrim.core.run.readings import label_at_hole
from eldrim.core.run.report import Value, report
from eldrim.core.run.state import Place, RunState
from eldrim.core.step_key import StepKey

METER: Place = (StepKey(Operation.CONFIRM_UNIT), "meter")


@dataclass(frozen=True)
class Past:
    """One run on the unit: its edition's plan, its entries, and their fold."""

    run: UUID
    at: datetime
    plan: Plan
    entries: list[Recorded]
    state: RunState

    @property
    def fitted_plugs(self) -> bool:
        """Whether plugs were tightened in it."""
        return any(
            step.key.operation is Operation.TIGHTEN_PLUG and step.key in self.state.closings
            for step in self.plan.steps
        )

    @property
    def renewed_coils(self) -> frozenset[int]:
        """The cylinders whose coil was renewed in it: as a job, or as a repair of a search."""
        done = self.state.done
        if self.plan.search is not None:
            acts = self.plan.search.acts.values()
            new = [act for act in acts if "coil" in act.renews and act.hands in done]
            return frozenset(number for act in new for number in act.cylinders)
        read = {s.hole for s in self.plan.steps if s.key.operation is Operation.READ_COIL}
        holes = {
            step.hole
            for step in self.plan.steps
            if step.key.operation is Operation.FIT_COIL and step.key in done
        }
        return frozenset(int(hole.rstrip("ab")) for hole in holes & read if hole)

    @property
    def meter(self) -> float | None:
        """What the meter read then."""
        return number(self.state, METER)


@dataclass(frozen=True)
class Marked:
    """A stop, a deviation, a step left out or whatever differed: at which step of which run."""

    run: UUID
    at: datetime
    step: str
    words: str


def by_hole(runs: Iterable[Past]) -> dict[str, dict[UUID, tuple[Value, ...]]]:
    """What was written down at each hole, by run; the holes in the order of their numbers."""
    found: dict[str, dict[UUID, tuple[Value, ...]]] = {}
    for past in runs:
        steps: dict[str, Step] = {step.key: step for step in past.plan.steps}
        for line in report(past.plan, past.entries):
            step = steps[line.key]
            if step.hole and line.values:
                mine = found.setdefault(step.hole, {})
                named = (_with_item(step, value) for value in line.values)
                mine[past.run] = (*mine.get(past.run, ()), *named)
    return dict(sorted(found.items(), key=lambda item: hole_order(item[0])))


def _with_item(step: Step, value: Value) -> Value:
    """The value with what it was read of."""
    return replace(value, label=label_at_hole(step, value.label))


def marked(runs: Iterable[Past]) -> tuple[Marked, ...]:
    """Whatever was marked or written down outside its window, in the order of the runs."""
    found = []
    for past in runs:
        for line in report(past.plan, past.entries):
            outside = [
                f"{value.label} {value.value} {value.unit}: {value.reason}"
                for value in line.values
                if value.outside
            ]
            found += [
                Marked(past.run, past.at, line.text, mark) for mark in (*line.marks, *outside)
            ]
    return tuple(found)


def compared_place(step: StepKey, reading: str) -> Place:
    """Where the last run wrote what a reading is held against: a gap as it was left."""
    operation, other = step.rule.compares.get(reading, (step.operation, reading))
    return StepKey(operation, step.item, step.hole, step.joint), other


def number(state: RunState, key: Place) -> float | None:
    """A number as it stands in a run; None where there is none."""
    had = state.values.get(key)
    value = had.entry.value if had else None
    return float(value) if isinstance(value, int | float) else None


def grown(
    last: Past, state: RunState, step: StepKey, reading: Reading, value: float, most: float
) -> Wear | None:
    """How a gap grew since it was left in the last run, in mm; None where that cannot be said.

    ``value`` and ``most``, the upper limit, are in the unit of ``reading``.
    """
    key = compared_place(step, reading.key)
    had, now = last.state.values.get(key), number(state, METER)
    if had is None or now is None or last.meter is None or not reading.unit:
        return None
    left = number(last.state, key)
    if left is None:
        return None
    before = convert(left, had.entry.unit or reading.unit, "mm")
    found, limit = (convert(v, reading.unit, "mm") for v in (value, most))
    return wear((last.meter, before), (now, found), limit)
