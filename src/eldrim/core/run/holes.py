"""What is open in the engine just now: the stage of each hole, and what can be done next at it."""

from dataclasses import dataclass

from eldrim.core.errors import RunError
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.state import RunState, admit_order

# The stages a hole goes through, by what is done last at it; later wins.
STAGES = (
    ("remove/coil/", "open_coil"), ("remove/lead/", "open_coil"), ("remove/plug/", "open"),
    ("read/plug/", "read"), ("start/plug/", "fitted"), ("torque/plug/", "torqued"),
    ("fit/coil/", "coil_on"), ("fit/lead/", "coil_on"), ("connect/coil/", "connected"),
    ("connect/lead/", "connected"),
)  # fmt: skip
CLOSED = "closed"


@dataclass(frozen=True)
class Hole:
    """One hole of the run: its stage, the next step at it, and why that cannot be done yet."""

    hole: str
    stage: str
    next: str
    waits: str = ""


def holes(plan: Plan, state: RunState) -> tuple[Hole, ...]:
    """The holes of a plan in their order of numbers."""
    found: dict[str, list[Step]] = {}
    for step in plan.steps:
        if step.hole:
            found.setdefault(step.hole, []).append(step)
    return tuple(
        _hole(plan, state, hole, found[hole])
        for hole in sorted(found, key=lambda h: (int(h.rstrip("ab")), h))
    )


def _hole(plan: Plan, state: RunState, hole: str, steps: list[Step]) -> Hole:
    done = [s.key for s in steps if s.key in state.done]
    stage = CLOSED
    for start, name in STAGES:
        if any(k.startswith(start) for k in done):
            stage = name
    ahead = next((s for s in steps if s.key not in state.done), None)
    if ahead is None:
        return Hole(hole, stage, "")
    return Hole(hole, stage, ahead.key, waits_on(plan, state, ahead))


def waits_on(plan: Plan, state: RunState, step: Step) -> str:
    """What has to be done before a step; empty when it can be done now."""
    try:
        admit_order(plan, state, step)
    except RunError as error:
        return str(error)
    return ""
