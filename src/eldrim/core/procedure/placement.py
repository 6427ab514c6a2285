"""A trainer moves a step: within its phase, and never against what must come first."""

from pydantic import Field

from eldrim.core.frozen import Frozen
from eldrim.core.operations import Beside
from eldrim.core.procedure.model import Plan, Step


class Placement(Frozen):
    """A step placed right after ``follows``. Placements of a draft are replayed by ``order``."""

    order: int = Field(ge=1)
    follows: str = Field(max_length=200)


def movable(step: Step) -> bool:
    """Whether a trainer may put the step elsewhere."""
    return step.key.rule.movable


def neighbour(steps: list[Step], key: str, *, later: bool) -> str:
    """The step that ``key`` follows when it goes one place earlier or later.

    An opening and its plugging are one place. The first or last of a phase stays: it is told to
    follow what it follows already.
    """
    first, last = _block(steps, key)
    rest = [*steps[:first], *steps[last:]]
    slot = first + 1 if later else first - 1
    while 0 < slot < len(rest) and _splits(rest, slot):
        slot += 1 if later else -1
    low, high = _stretch(steps, first, last)
    return rest[min(max(slot, low), high) - 1].key


def place(plan: Plan, steps: list[Step], key: str, follows: str) -> tuple[list[Step], str]:
    """The steps with ``key`` right after ``follows``, or as they were and why that cannot be.

    The plugging of an opening goes with what opens it, and its unplugging with what closes it.
    """
    first, last = _block(steps, key)
    block, rest = steps[first:last], [*steps[:first], *steps[last:]]
    slot = next((index + 1 for index, s in enumerate(rest) if s.key == follows), None)
    if slot is None:
        return steps, "the step it was to follow is not there, or goes with it"
    step = next(s for s in block if s.key == key)
    low, high = _stretch(steps, first, last)
    against = ""
    if not movable(step):
        against = "its place is fixed: safety or the proof sets the order there"
    elif not low <= slot <= high:
        against = f"it stays among the steps of {step.phase.value.lower()}"
    else:
        against = _out_of_order(plan, rest[:slot], block, rest[slot:])
    if not against and _splits(rest, slot):
        against = "nothing comes between an opening and its plugging"
    if against:
        return steps, against
    marked = [s.model_copy(update={"moved": True}) if s.key == key else s for s in block]
    return [*rest[:slot], *marked, *rest[slot:]], ""


def _out_of_order(plan: Plan, before: list[Step], block: list[Step], after: list[Step]) -> str:
    """What would come before something it waits on."""
    for step in block:
        for other in after:
            if other.key in step.after:
                return _refusal(plan, other, step)
        for other in before:
            if step.key in other.after:
                return _refusal(plan, step, other)
    return ""


def _block(steps: list[Step], key: str) -> tuple[int, int]:
    """Where a step and what goes with it stand: first, and one past the last."""
    here = next(index for index, step in enumerate(steps) if step.key == key)
    first, last, part = here, here + 1, steps[here].part
    if last < len(steps) and _stays_beside(steps[last], Beside.AFTER) and steps[last].part == part:
        last += 1
    while (
        first > 0
        and _stays_beside(steps[first - 1], Beside.BEFORE)
        and steps[first - 1].part == part
    ):
        first -= 1
    return first, last


def _stretch(steps: list[Step], first: int, last: int) -> tuple[int, int]:
    """The first and last slot of a block's stretch of one phase, the block itself taken out."""
    low, high, phase = first, last, steps[first].phase
    while low > 1 and steps[low - 1].phase is phase:
        low -= 1
    while high < len(steps) and steps[high].phase is phase:
        high += 1
    return low, high - (last - first)


def _stays_beside(step: Step, side: Beside) -> bool:
    return step.key.rule.beside is side


def _splits(rest: list[Step], slot: int) -> bool:
    """Whether a step put there would part an opening from its plugging."""
    if not 0 < slot < len(rest):
        return False
    after, before = rest[slot], rest[slot - 1]
    return _stays_beside(after, Beside.AFTER) or _stays_beside(before, Beside.BEFORE)


def _refusal(plan: Plan, first: Step, then: Step) -> str:
    """What forbids it: the hindrance between the two parts, or the part's own order."""
    said = f"“{first.text}” comes before “{then.text}”"
    if first.part == then.part or first.part is None or then.part is None:
        return f"{said}: one cannot be done without the other"
    pair = {first.part, then.part}
    for line in (line for move in plan.moves if move.part in pair for line in move.reasons):
        if line.part in pair and pair & set(line.parts) - {line.part}:
            return f"{said}: {line.text[0].lower()}{line.text[1:]}"
    return f"{said}: one is in the way of the other"
