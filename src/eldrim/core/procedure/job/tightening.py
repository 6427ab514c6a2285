"""What makes a joint up: its tools, and its torque where the sheet states one."""

from eldrim.core.engine.parts import Joint
from eldrim.core.figures.sheet import joint_window
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import StepFigure
from eldrim.core.tools.tool_selection import ToolUse


def tightened(facts: JobFacts, joint: Joint, name: str) -> tuple[ToolUse, StepFigure | None]:
    """The tools that make a joint up, and its torque, called ``name``, where one is stated."""
    use, choice = facts.tools.tighten(joint)
    window = joint_window(facts.engine, joint, facts.job.variant, facts.rules)
    if window is None or joint.torque is None:
        return use, None
    return use, facts.figures.torque(joint.torque, name, window, choice)
