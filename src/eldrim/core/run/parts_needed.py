"""The parts a run needs beside those of its procedure."""

from dataclasses import dataclass

from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import BY_KEY
from eldrim.core.run.verdicts import PARTS, taken_up
from eldrim.core.words import say

DAMAGED = "damaged"


@dataclass(frozen=True)
class PartNeeded:
    """A part to get: what it is called, why, and its number where the edition names it."""

    name: str
    why: str
    number: str = ""


def parts_needed(plan: Plan, state: RunState) -> list[PartNeeded]:
    """What a stop asks for or was found damaged, in the order it was written down."""
    steps: dict[str, Step] = {step.key: step for step in plan.steps}
    found = []
    for entry in (mark.entry for mark in state.marks.values()):
        step = steps[entry.step]
        stop = BY_KEY.get(entry.reason) if entry.kind is EntryKind.STOP else None
        if stop and stop.part:
            found.append(
                PartNeeded(
                    say(stop.part), f"{stop.name}: {step.text}", _number(plan, stop.part, step)
                )
            )
        if entry.kind is EntryKind.DIFFERS and entry.reason == DAMAGED:
            damaged = f"{say('differs.damaged')}: {step.text}"
            found.append(PartNeeded(step.object, damaged, _number(plan, "", step)))
    for entry, said in taken_up(state):
        names = PARTS.get(said.act, ())
        step = steps[entry.step]
        found += [PartNeeded(say(n), said.title, _number(plan, n, step)) for n in names]
    return found


def _number(plan: Plan, part: str, step: Step) -> str:
    """The part number as the edition's list of parts or of what is serviced has it."""
    key = step.key
    of_all = {Operation.CLEAN_COILS: "coil", Operation.CLEAN_LEADS: "lead"}
    own = key.item or key.rule.item or of_all.get(key.operation, "")
    here = f"{own}/{key.joint}" if key.joint else own
    at_joint = part in ("", "part.fastener", "part.connector")
    return plan.numbers.get(here if at_joint else part.removeprefix("part."), "")
