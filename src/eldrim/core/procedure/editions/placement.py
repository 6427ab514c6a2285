"""A trainer moves a step: within its phase, and never against what must come first."""

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.operations import Beside, Operation, Phase
from eldrim.core.procedure.editions.fold import Act, Round, fold
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.topics import TOPICS
from eldrim.core.words import say
from eldrim.core.words.messages import gettext


class Placement(Frozen):
    """A step placed right after ``follows``. Placements of a draft are replayed by ``order``.

    An act at all its holes is placed after another one, or before the one it ``precedes``.
    """

    order: int = Field(ge=1)
    follows: str = Field("", max_length=200)
    precedes: str = Field("", max_length=200)


def movable(step: Step) -> bool:
    """Whether a trainer may put the step elsewhere: some of those at parts, all at holes."""
    return step.key.rule.movable or bool(step.hole)


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
        return steps, gettext("the step it was to follow is not there, or goes with it")
    step = next(s for s in block if s.key == key)
    low, high = _stretch(steps, first, last)
    against = ""
    if not movable(step):
        against = gettext("its place is fixed: safety or the proof sets the order there")
    elif not low <= slot <= high:
        against = gettext("it stays among the steps of {phase}", phase=step.phase.value.lower())
    else:
        against = _out_of_order(plan, rest[:slot], block, rest[slot:])
    if not against and _splits(rest, slot):
        against = gettext("nothing comes between an opening and its plugging")
    if against:
        return steps, against
    marked = [s.model_copy(update={"moved": True}) if s.key == key else s for s in block]
    return [*rest[:slot], *marked, *rest[slot:]], ""


def place_act(plan: Plan, steps: list[Step], act: str, move: Placement) -> tuple[list[Step], str]:
    """The steps with an act elsewhere at all its holes, or as they were and why that cannot be.

    Where all holes are at the same stage, its steps stay together; where one hole is done after
    another, each stays at its hole. What is done on the bench may go to another phase.
    """
    beside = move.precedes or move.follows
    made = steps
    for block in _blocks(steps, act):
        anchor = _anchor(made, block, beside, before=bool(move.precedes))
        if anchor is None:
            return steps, gettext("what it was to stand beside is not done at the same holes")
        made, against = _block_moved(plan, made, block, anchor + (not move.precedes))
        if against:
            return steps, against
    return made, ""


def act_neighbour(steps: list[Step], act: str, *, later: bool) -> Placement | None:
    """The act, or the step, beside which an act goes one place earlier or later; None at an end."""
    for block in fold(steps):
        acts = block.acts if isinstance(block, Round) else ()
        found = _beside([one.every for one in acts], act, later)
        if found:
            return found
    keys = [block.every or block.steps[0].key for block in fold(steps) if isinstance(block, Act)]
    return _beside(keys, act, later)


def ordered_by(step: Step) -> tuple[str, ...]:
    """The topics of the house rules that order the steps of an act at holes."""
    joint = ("coil_joint_first",) if step.key.operation in _CARRIER_JOINTS else ()
    return (*joint, "open_at_once", "first_cylinder") if step.hole else ()


_CARRIER_JOINTS = frozenset(
    {Operation.RELEASE_COIL_JOINT, Operation.TIGHTEN_COIL_JOINT, Operation.CONNECT_COIL_JOINT}
)


def _beside(keys: list[str], act: str, later: bool) -> Placement | None:
    if act not in keys:
        return None
    at = keys.index(act) + (1 if later else -1)
    if not 0 <= at < len(keys):
        return None
    return Placement(order=1, **{"follows" if later else "precedes": keys[at]})


def _blocks(steps: list[Step], act: str) -> list[tuple[Step, ...]]:
    """The steps of an act that move together: of all holes, or of each hole in its turn."""
    found: list[tuple[Step, ...]] = []
    for block in fold(steps):
        if isinstance(block, Round):
            found += [(step,) for step in block.steps if step.key.at_every_hole == act]
        elif block.every == act:
            found.append(block.steps)
    return found


def _anchor(steps: list[Step], block: tuple[Step, ...], beside: str, *, before: bool) -> int | None:
    """Where the step stands that a block goes before or after: at the block's own holes."""
    holes = {step.hole for step in block}
    places = [
        index
        for index, step in enumerate(steps)
        if step.key == beside or (step.key.at_every_hole == beside and step.hole in holes)
    ]
    if not places:
        return None
    return places[0] if before else places[-1]


def _block_moved(
    plan: Plan, steps: list[Step], block: tuple[Step, ...], slot: int
) -> tuple[list[Step], str]:
    """The steps with a block at a slot, counted while the block still stands where it stood."""
    keys = {step.key for step in block}
    first = next(index for index, step in enumerate(steps) if step.key in keys)
    rest = [step for step in steps if step.key not in keys]
    slot -= sum(step.key in keys for step in steps[:slot])
    low, high = _hole_stretch(steps, first, len(block))
    against = ""
    if not movable(block[0]):
        against = gettext("its place is fixed: safety or the proof sets the order there")
    elif not low <= slot <= high:
        phase = say(f"phase.{block[0].phase.value}")
        against = gettext("it stays among the steps of {phase}", phase=phase.lower())
        if block[0].key.rule.at_bench:
            against = gettext("it stays among the steps at the holes")
    against = against or _out_of_order(plan, rest[:slot], list(block), rest[slot:])
    if against:
        return steps, against
    marked = [step.model_copy(update={"moved": True}) for step in block]
    return [*rest[:slot], *marked, *rest[slot:]], ""


def _hole_stretch(steps: list[Step], first: int, size: int) -> tuple[int, int]:
    """The first and last slot of a block at holes, the block itself taken out."""
    if not steps[first].key.rule.at_bench:
        return _stretch(steps, first, first + size)
    low, high = first, first + size
    while low > 0 and steps[low - 1].hole:
        low -= 1
    while high < len(steps) and steps[high].hole:
        high += 1
    return low, high - size


def _out_of_order(plan: Plan, before: list[Step], block: list[Step], after: list[Step]) -> str:
    """What would come before something it waits on."""
    for step in block:
        for other in after:
            if _waits_on(step, other):
                return _refusal(plan, other, step)
        for other in before:
            if _waits_on(other, step):
                return _refusal(plan, step, other)
    return ""


def _waits_on(step: Step, other: Step) -> bool:
    """Whether a step is done only after another: no part goes back over a hole still open."""
    goes_over = step.part is not None and bool(other.hole)
    closing = step.phase is other.phase is Phase.REFIT
    return other.key in step.after or (goes_over and closing)


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
    said = gettext("“{first}” comes before “{then}”", first=first.text, then=then.text)
    if {first.key.operation, then.key.operation} <= _CARRIER_JOINTS:
        topic = next(topic for topic in TOPICS if topic.key == "coil_joint_first")
        school = topic.school(plan.schools[topic.key]).name
        return gettext(
            "{said}: the house rule “{topic}” says so ({school})",
            said=said,
            topic=topic.name,
            school=school.lower(),
        )
    if first.part == then.part or first.part is None or then.part is None:
        return gettext("{said}: one cannot be done without the other", said=said)
    pair = {first.part, then.part}
    for line in (line for move in plan.moves if move.part in pair for line in move.reasons):
        if line.part in pair and pair & set(line.parts) - {line.part}:
            return f"{said}: {line.text[0].lower()}{line.text[1:]}"
    return gettext("{said}: one is in the way of the other", said=said)
