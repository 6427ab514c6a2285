"""What changing the set-up costs, counted along the steps in the order they are done.

A set-up is what is in hand: the ids of its tools, and of the place to stand at.
"""

from collections.abc import Sequence

from eldrim.core.procedure.model import ChangeCost, Step
from eldrim.core.step_key import StepKey

SetUp = tuple[str, ...]


def change_minutes(cost: ChangeCost, before: SetUp, after: SetUp) -> float:
    """What going from one set-up to another costs, in minutes: by the pieces exchanged."""
    if before == after:
        return 0.0
    return cost.change + cost.piece * len(set(before) ^ set(after))


def all_changes(steps: list[Step], cost: ChangeCost) -> float:
    """What all changes of set-up along the steps cost, in minutes."""
    in_hand: SetUp = ()
    total = 0.0
    for setup in (step.setup for step in steps if step.setup):
        total += change_minutes(cost, in_hand, setup)
        in_hand = setup
    return round(total, 6)


def counted(steps: list[Step], cost: ChangeCost) -> list[Step]:
    """The steps with each change of set-up counted on the step that needs it."""
    found: list[Step] = []
    in_hand: SetUp = ()
    for step in steps:
        if step.setup and step.setup != in_hand:
            minutes = round(step.minutes + change_minutes(cost, in_hand, step.setup), 1)
            in_hand = step.setup
            step = step.model_copy(update={"minutes": minutes, "changes_setup": True})
        found.append(step)
    return found


def recounted(steps: list[Step], computed: tuple[Step, ...], cost: ChangeCost) -> list[Step]:
    """The steps with their changes of set-up counted anew where another tool is in hand now.

    ``computed`` are the steps as first counted; a step with the same tool in hand before it
    keeps its minutes to the digit.
    """
    before, now = _in_hand(computed), _in_hand(steps)
    return [
        _recounted(step, before.get(step.key, step.setup), now[step.key], cost) for step in steps
    ]


def without_changes(steps: Sequence[Step], cost: ChangeCost) -> dict[StepKey, float]:
    """The minutes of each step alone, the change of set-up that is counted on it taken off."""
    held = _in_hand(steps)
    return {
        step.key: round(step.minutes - change_minutes(cost, held[step.key], step.setup), 1)
        if step.changes_setup
        else step.minutes
        for step in steps
    }


def _recounted(step: Step, before: SetUp, now: SetUp, cost: ChangeCost) -> Step:
    if not step.setup or before == now:
        return step
    exchanged = change_minutes(cost, now, step.setup) - change_minutes(cost, before, step.setup)
    minutes = round(step.minutes + exchanged, 1)
    return step.model_copy(update={"minutes": minutes, "changes_setup": now != step.setup})


def _in_hand(steps: Sequence[Step]) -> dict[str, SetUp]:
    """What is in hand before each step."""
    held: SetUp = ()
    found: dict[str, SetUp] = {}
    for step in steps:
        found[step.key] = held
        held = step.setup or held
    return found
