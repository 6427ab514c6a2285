"""What is open in the engine just now: the stage of each hole."""

from eldrim.core.errors import RunError
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.state import RunState, admit_order

# The stage a hole is at once a step at it is done, by how the step's key begins.
STAGES = (
    ("remove/coil/", "open_coil"),
    ("remove/lead/", "open_coil"),
    ("remove/plug/", "open"),
    ("read/plug/", "read"),
    ("start/plug/", "fitted"),
    ("torque/plug/", "torqued"),
    ("fit/coil/", "coil_on"),
    ("fit/lead/", "coil_on"),
    ("connect/coil/", "connected"),
    ("connect/lead/", "connected"),
)
CLOSED = "closed"


def stage_after(step: Step) -> str:
    """The stage its hole is at once ``step`` is done; empty where it changes none."""
    return next((name for start, name in STAGES if step.key.startswith(start)), "")


def stages(plan: Plan, state: RunState) -> dict[str, str]:
    """The stage of each hole of a plan, in the order of their numbers."""
    found: dict[str, str] = {}
    for step in plan.steps:
        if step.hole:
            done = stage_after(step) if step.key in state.done else ""
            found[step.hole] = done or found.get(step.hole, CLOSED)
    return dict(sorted(found.items(), key=lambda h: (int(h[0].rstrip("ab")), h[0])))


def waits_on(plan: Plan, state: RunState, step: Step) -> str:
    """What has to be done before a step; empty when it can be done now."""
    try:
        admit_order(plan, state, step)
    except RunError as error:
        return str(error)
    return ""
