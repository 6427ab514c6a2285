"""The parts a run needs beside those of its procedure."""

from dataclasses import dataclass

from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import BY_KEY
from eldrim.core.words import say

DAMAGED = "damaged"


@dataclass(frozen=True)
class PartNeeded:
    """A part to get: what it is called, and why."""

    name: str
    why: str


def parts_needed(plan: Plan, state: RunState) -> list[PartNeeded]:
    """What a stop asks for or was found damaged, in the order it was written down."""
    steps: dict[str, Step] = {step.key: step for step in plan.steps}
    found = []
    for entry in (mark.entry for mark in state.marks.values()):
        step = steps[entry.step]
        stop = BY_KEY.get(entry.reason) if entry.kind is EntryKind.STOP else None
        if stop and stop.part:
            found.append(PartNeeded(say(stop.part), f"{stop.name}: {step.text}"))
        if entry.kind is EntryKind.DIFFERS and entry.reason == DAMAGED:
            found.append(PartNeeded(step.object, f"{say('differs.damaged')}: {step.text}"))
    return found
