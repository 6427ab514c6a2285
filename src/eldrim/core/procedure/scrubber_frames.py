"""What the scrubber shows: after each step, what is off, what is open, what is in hand."""

from eldrim.core.base.frozen import Frozen
from eldrim.core.operations import OperationRule, PartChange
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.words import has, say


class Frame(Frozen):
    """The moment after one step: the change it makes, the minutes gone, the tool in hand."""

    key: str
    text: str
    phase: str
    minutes: float
    in_hand: str
    away: str = ""
    back: str = ""
    hole: str = ""
    stage: str = ""
    part: str = ""


def scrubber_frames(plan: Plan) -> tuple[Frame, ...]:
    """Return one frame a step; folding ``away``, ``back`` and ``stage`` gives the whole state."""
    made, gone = [], 0.0
    for step in plan.steps:
        gone = round(gone + step.minutes, 1)
        made.append(_frame(step, gone))
    return tuple(made)


def _frame(step: Step, gone: float) -> Frame:
    rule, part = step.key.rule, step.part or ""
    return Frame(
        key=step.key,
        text=step.text,
        phase=step.phase.value,
        minutes=gone,
        in_hand=tool_words(step) or say("tool.hands"),
        away=part if rule.part is PartChange.AWAY else "",
        back=part if rule.part is PartChange.BACK else "",
        hole=step.hole or "",
        stage=_stage(rule),
        part=part,
    )


def _stage(rule: OperationRule) -> str:
    """The stage a hole is at after an operation, in words; a lead has words of its own."""
    if rule.stage is None:
        return ""
    by_item = f"stage.{rule.stage}.{rule.item}"
    return say(by_item if has(by_item) else f"stage.{rule.stage}")
