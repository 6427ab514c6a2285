"""What goes into a bag of its own on the way in, and the step that takes it out again."""

from dataclasses import dataclass

from eldrim.core.operations import Bagging, PartChange, Phase
from eldrim.core.procedure.model import Plan, Step


@dataclass(frozen=True)
class Bag:
    """One bag: its number, the step that fills it, and the step its content goes back at."""

    number: int
    off: Step
    back: Step | None


def bags(plan: Plan) -> tuple[Bag, ...]:
    """The bags of a run in the order they are filled."""
    off = [s for s in plan.steps if s.phase is Phase.UNCOVER and s.key.rule.bag is Bagging.FILLS]
    return tuple(Bag(index, step, _back(plan, step)) for index, step in enumerate(off, 1))


def _back(plan: Plan, off: Step) -> Step | None:
    """The step that does to the same thing the opposite; a part's own where it has none."""
    emptying = [step for step in plan.steps if step.key.rule.bag is Bagging.EMPTIES]
    same = [s for s in emptying if (s.key.item, s.key.joint) == (off.key.item, off.key.joint)]
    whole = [s for s in emptying if s.key.rule.part is PartChange.BACK and s.part == off.part]
    return next(iter(same + whole), None)
