"""Follow a search as the bay would: step by step, by the state alone, whatever each test says."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from uuid import UUID

from eldrim.core.faults.diagnosis import WhatIf, diagnose
from eldrim.core.faults.follow import Asked, follow_plan
from eldrim.core.faults.ways import Ways
from eldrim.core.operations import CautionCause, Operation, PartChange, Phase
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.run.admission import admit
from eldrim.core.run.carried import as_kept
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.path import OUTCOME
from eldrim.core.run.state import RunState, with_entry
from eldrim.core.tools.stock import STANDARD_CRIB

K = EntryKind
START = datetime(2026, 5, 4, 8, 0, tzinfo=UTC)
Choose = Callable[[Step, Reading], str]


@dataclass
class Bay:
    """A run followed by hand: its entries, its state, and what is off the engine by now."""

    plan: Plan
    choose: Choose
    state: RunState = field(default_factory=RunState)
    entries: list[Recorded] = field(default_factory=list)
    parts_off: set[str] = field(default_factory=set)
    carriers_off: set[str] = field(default_factory=set)
    plugs_out: set[str] = field(default_factory=set)
    done: list[Step] = field(default_factory=list)

    def write(
        self, kind: EntryKind, step: str, role: Role = Role.TECHNICIAN, **more: object
    ) -> None:
        """Write one entry, as the store would: kept, admitted, folded."""
        number = len(self.entries) + 1
        entry = Entry.model_validate({"id": UUID(int=number), "kind": kind, "step": step, **more})
        entry = as_kept(self.plan, self.state, entry)
        admit(self.plan, self.state, entry, role)
        at = START + timedelta(minutes=number)
        said = Recorded(entry=entry, by="tam", role=role, at=at)
        self.entries.append(said)
        self.state = with_entry(self.state, said)

    def do(self, step: Step) -> None:
        """Do a step: its readings, a lead's release where it is held, and its closing."""
        for reading in step.readings:
            if reading.required and (step.key, reading.key) not in self.state.values:
                value = self.value(step, reading)
                self.write(K.READING, step.key, reading=reading.key, value=value)
        if step.hold and step.key not in self.state.released:
            self.write(K.RELEASE, step.key, Role.LEAD)
        last = step.key.operation is Operation.SIGN
        checks = tuple(check.key for check in step.checks)
        self.write(K.SIGN if last else K.DONE, step.key, checks=checks)
        self.done.append(step)
        self.move(step)

    def value(self, step: Step, reading: Reading) -> str | float:
        """A value that is in its window; of an outcome what was chosen."""
        if reading.key == OUTCOME:
            return self.choose(step, reading)
        if reading.choices:
            return reading.choices[0]
        if reading.kind == "text":
            return "P0301" if reading.key == "codes" else "2231"
        ends = [end for end in (reading.low, reading.high) if end is not None]
        return sum(ends) / len(ends) if ends else 1.0

    def move(self, step: Step) -> None:
        """What of the engine is off or back on after a step; nothing comes off twice."""
        act, hole = step.key.operation, step.hole or ""
        change = step.key.rule.part
        if change is PartChange.AWAY:
            assert step.key.item not in self.parts_off, step.key
            self.parts_off.add(step.key.item)
        elif change is PartChange.BACK:
            self.parts_off.remove(step.key.item)
        elif act in (Operation.REMOVE_COIL, Operation.REMOVE_LEAD):
            assert hole not in self.carriers_off, step.key
            self.carriers_off.add(hole)
        elif act in (Operation.FIT_COIL, Operation.FIT_LEAD):
            assert hole not in self.plugs_out, step.key
            self.carriers_off.remove(hole)
        elif act is Operation.REMOVE_PLUG:
            assert hole in self.carriers_off, step.key
            self.plugs_out.add(hole)
        elif act is Operation.TIGHTEN_PLUG:
            self.plugs_out.remove(hole)

    def follow(self, most: int = 2000) -> Iterator[Step]:
        """Each step as it comes to be done, until the run is signed."""
        for _ in range(most):
            step = self.state.current(self.plan)
            if step is None or self.state.signed:
                return
            yield step
            self.do(step)
        raise AssertionError("the search does not end")


def runs_engine(step: Step) -> bool:
    """Whether the engine runs at a step."""
    return any(caution.key == CautionCause.RUN for caution in step.cautions)


def needed_to_run(plan: Plan) -> set[str]:
    """The parts that a plan puts back before the engine runs."""
    back = (s for s in plan.steps if s.key.rule.part is PartChange.BACK)
    return {step.key.item for step in back if step.phase is not Phase.PROVE}


def search_plan(  # type: ignore[no-untyped-def]
    sheet, variant: str, weighed, ways: Ways, what_if: WhatIf = WhatIf(), **asked
) -> Plan:
    """The procedure that follows what a complaint is weighed to."""
    found = diagnose(sheet, variant, weighed, ways, what_if)
    return follow_plan(Asked(sheet, variant, DEFAULT_RULES, STANDARD_CRIB, **asked), found)
