"""What is open in the engine just now: the stage of each hole, and where something was left."""

from eldrim.core.engine.targets import hole_order
from eldrim.core.operations import HoleStage, Operation
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.state import RunState
from eldrim.core.words import has, say


def stages(plan: Plan, state: RunState) -> dict[str, HoleStage]:
    """The stage of each hole of a plan, in the order of their numbers."""
    found: dict[str, HoleStage] = {}
    for step in plan.steps:
        if step.hole:
            reached = step.key.rule.stage if step.key in state.closings else None
            found[step.hole] = reached or found.get(step.hole, HoleStage.CLOSED)
    return dict(sorted(found.items(), key=lambda item: hole_order(item[0])))


def stage_words(plan: Plan, stage: HoleStage) -> str:
    """How far a hole is, in words: what is pulled off a plug by its lead is no coil."""
    leads = any(step.key.operation is Operation.REMOVE_LEAD for step in plan.steps)
    name = f"stage.{stage}.lead"
    return say(name if leads and has(name) else f"stage.{stage}")


def closed_again(plan: Plan) -> HoleStage:
    """The last stage of a hole: its connector made up, or its carrier on where it has none."""
    reached = {step.key.rule.stage for step in plan.steps}
    return HoleStage.CONNECTED if HoleStage.CONNECTED in reached else HoleStage.COIL_ON


def not_done(plan: Plan, state: RunState) -> tuple[str, ...]:
    """The holes at which a step was left out: whatever followed, they are not as planned."""
    left = {
        step.hole
        for step in plan.steps
        if step.hole
        and (closing := state.closings.get(step.key))
        and closing.entry.kind is EntryKind.SKIP
    }
    return tuple(sorted(left, key=hole_order))
