"""The one constructor of steps at a hole."""

from collections.abc import Iterable, Set
from typing import Unpack

from eldrim.core.operations import OPERATIONS, CautionCause, Operation
from eldrim.core.procedure.job.serviced_holes import ServicedHoles
from eldrim.core.procedure.model import Step
from eldrim.core.procedure.steps.step_fields import StepFields, from_rule
from eldrim.core.step_key import StepKey
from eldrim.core.words import say, sentences

# Stands in the sentences of a step for its hole, until the step is made.
HOLE = "\ue000"


def hole_step(  # noqa: PLR0913 - a step is made of this many facts, each by name
    holes: ServicedHoles,
    operation: Operation,
    hole: str,
    *,
    text: str,
    detail: str = "",
    here: Iterable[str] = (),
    joint: str = "",
    minutes: float | None = None,
    causes: Set[CautionCause] = frozenset(),
    because: tuple[str, ...] = (),
    **fields: Unpack[StepFields],
) -> Step:
    """Make the step of an operation at a hole; what its row says is filled in.

    Sentences name the hole by :data:`HOLE`, so that the step can also tell them without it.
    ``here`` are sentences said of this hole alone; they follow ``detail``, empty ones left away.
    ``minutes`` are for a hole that stands open and straight; without them those of the row hold.
    What is done at the bench takes as long whatever the hole.
    """
    rule = OPERATIONS[operation]
    own = tuple(filter(None, here))
    whole = sentences(detail, *own)
    taken = (rule.minutes or 0.0) if minutes is None else minutes
    return Step(
        **from_rule(StepKey(operation, hole=hole, joint=joint), causes),
        object=say(f"item.{rule.item}", hole=hole),
        cylinder=holes.engine.holes[hole][0],
        hole=hole,
        text=text.replace(HOLE, hole),
        pattern=_pattern(text),
        detail=whole.replace(HOLE, hole),
        detail_pattern=_pattern(whole),
        detail_shared=detail.replace(HOLE, "{hole}"),
        here=tuple(one.replace(HOLE, hole) for one in own),
        minutes=round(taken * (1.0 if rule.at_bench else holes.well_factor(hole)), 1),
        because=because or (say("because.hole", hole=hole),),
        **fields,
    )


def _pattern(text: str) -> str:
    return text.replace(HOLE, "{hole}") if HOLE in text else ""
