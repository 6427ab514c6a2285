"""What a scrubber shows: after each step, what is off, what is open, what is in hand."""

from eldrim.core.frozen import Frozen
from eldrim.core.procedure.model import Plan, Step

# What the first word of a step's key does to a hole.
STAGES = {
    "remove/coil": "coil off",
    "remove/lead": "lead off",
    "remove/plug": "open",
    "read/plug": "read",
    "start/plug": "started",
    "torque/plug": "torqued",
    "fit/coil": "coil on",
    "fit/lead": "lead on",
}
AWAY = {"remove", "swing", "unclip", "shift"}
BACK = {"fit", "back"}


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


def frames(plan: Plan) -> tuple[Frame, ...]:
    """Return one frame a step; folding ``away``, ``back`` and ``stage`` gives the whole state."""
    made, gone = [], 0.0
    for step in plan.steps:
        gone = round(gone + step.minutes, 1)
        made.append(_frame(step, gone, " + ".join(step.tools) or "bare hands"))
    return tuple(made)


def _frame(step: Step, gone: float, hand: str) -> Frame:
    verb = step.key.split("/")[0]
    whole = step.part is not None and step.key.count("/") == 1
    item = "/".join(step.key.split("/")[:2])
    return Frame(
        key=step.key,
        text=step.text,
        phase=step.phase.value,
        minutes=gone,
        in_hand=hand,
        away=step.part or "" if whole and verb in AWAY else "",
        back=step.part or "" if whole and verb in BACK else "",
        hole=step.hole or "",
        stage=STAGES.get(item, "") if step.hole else "",
        part=step.part or "",
    )
