"""What goes into a bag of its own on the way in, and the step that takes it out again."""

from dataclasses import dataclass

from eldrim.core.operations import Phase
from eldrim.core.procedure.model import Plan, Step

OFF = ("release", "remove")
BACK = ("tighten", "connect", "fit", "back")


@dataclass(frozen=True)
class Bag:
    """One bag: its number, the step that fills it, and the step its content goes back at."""

    number: int
    off: Step
    back: Step | None


def bags(plan: Plan) -> tuple[Bag, ...]:
    """The bags of a run in the order they are filled."""
    off = [s for s in plan.steps if s.phase is Phase.UNCOVER and _verb(s) in OFF]
    return tuple(Bag(n, step, _back(plan, step)) for n, step in enumerate(off, 1))


def _verb(step: Step) -> str:
    return step.key.split("/")[0]


def _back(plan: Plan, off: Step) -> Step | None:
    """The step that does to the same thing the opposite; a part's own where it has none."""
    what = off.key.split("/", 1)[1]
    same = [s for s in plan.steps if _verb(s) in BACK and s.key.split("/", 1)[1] == what]
    part = [s for s in plan.steps if _verb(s) in ("fit", "back") and s.part == off.part]
    return next(iter(same + part), None)
