"""The constructors of steps on a part, and of those on the engine as a whole."""

from collections.abc import Set
from typing import Unpack

from eldrim.core.engine.parts import Part
from eldrim.core.operations import OPERATIONS, CautionCause, Operation
from eldrim.core.procedure.model import Step
from eldrim.core.procedure.steps.step_fields import StepFields, from_rule
from eldrim.core.step_key import StepKey
from eldrim.core.words import say, why


def part_step(  # noqa: PLR0913 - a step is made of this many facts, each by name
    key: StepKey,
    part: Part,
    *,
    text: str,
    detail: str = "",
    object: str = "",
    minutes: float | None = None,
    causes: Set[CautionCause] = frozenset(),
    because: tuple[str, ...],
    **fields: Unpack[StepFields],
) -> Step:
    """Make the step of a key on a part; what the row of its operation says is filled in.

    ``object`` is what is worked on, where it is not the part; without ``minutes`` those of the row
    hold.
    """
    rule = key.rule
    return Step(
        **from_rule(key, causes),
        object=object or part.name,
        part=key.item,
        text=text,
        detail=detail,
        minutes=(rule.minutes or 0.0) if minutes is None else minutes,
        because=because,
        **fields,
    )


def engine_step(
    operation: Operation,
    item: str = "",
    *,
    text: str = "",
    detail: str = "",
    causes: Set[CautionCause] = frozenset(),
    because: tuple[str, ...] = (),
    **fields: Unpack[StepFields],
) -> Step:
    """Make a step on the engine as a whole (Ready, Prove), worded as its operation is."""
    rule = OPERATIONS[operation]
    return Step(
        **from_rule(StepKey(operation, item), causes),
        object=say(f"thing.{rule.words}"),
        text=text or say(rule.words),
        detail=detail or say(f"{rule.words}.detail"),
        minutes=rule.minutes or 0.0,
        because=because or why(rule.words),
        **fields,
    )
