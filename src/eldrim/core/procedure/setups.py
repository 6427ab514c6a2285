"""What changing the set-up costs, counted along the steps in the order they are done."""

from eldrim.core.procedure.model import ChangeCost, Step


def change_minutes(cost: ChangeCost, before: str, after: str) -> float:
    """What going from one set-up to another costs, in minutes: by the pieces exchanged."""
    if before == after:
        return 0.0
    pieces = set(filter(None, before.split(" + "))) ^ set(after.split(" + "))
    return cost.change + cost.piece * len(pieces)


def recounted(steps: list[Step], computed: tuple[Step, ...], cost: ChangeCost) -> list[Step]:
    """The steps with their changes of set-up counted anew where another tool is in hand now.

    ``computed`` are the steps as first counted; a step with the same tool in hand before it
    keeps its minutes to the digit.
    """
    was, now = _in_hand(computed), _in_hand(steps)
    return [_again(s, was.get(s.key, s.setup), now[s.key], cost) for s in steps]


def _again(step: Step, was: str, now: str, cost: ChangeCost) -> Step:
    if not step.setup or was == now:
        return step
    exchanged = change_minutes(cost, now, step.setup) - change_minutes(cost, was, step.setup)
    return step.model_copy(
        update={"minutes": round(step.minutes + exchanged, 1), "changes_setup": now != step.setup}
    )


def _in_hand(steps: list[Step] | tuple[Step, ...]) -> dict[str, str]:
    held, found = "", {}
    for step in steps:
        found[step.key] = held
        held = step.setup or held
    return found
