"""The pace of an engine: which acts take longer or shorter on it than usual."""

from collections.abc import Sequence

from eldrim.core.engine import Engine
from eldrim.core.procedure.model import Step


def at_pace(engine: Engine, steps: Sequence[Step]) -> list[Step]:
    """The steps with their minutes as this engine takes them. What states its own minutes, a way
    of a part or companion work, keeps them.
    """
    if not engine.pace:
        return list(steps)
    return [_paced(engine, step) for step in steps]


def _paced(engine: Engine, step: Step) -> Step:
    times = engine.pace.get(step.key.operation.value)
    if times is None or step.key.rule.minutes is None:
        return step
    return step.model_copy(update={"minutes": round(step.minutes * times, 1)})
