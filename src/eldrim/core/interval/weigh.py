"""What a job takes, in minutes: in all, and at each hole and companion."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan
from eldrim.core.procedure.whole_job.setup_changes import without_changes
from eldrim.core.step_key import StepKey


@dataclass(frozen=True)
class JobMinutes:
    """A job in minutes: in all, by step without its change of set-up, and what has to move."""

    minutes: float
    by_step: dict[StepKey, float]
    moves: frozenset[str]

    def at(self, steps: Iterable[StepKey]) -> float:
        """The minutes of some steps together."""
        return round(sum(self.by_step.get(key, 0.0) for key in steps), 1)


# What answers a job; a plan that is kept answers at once.
Weigh = Callable[[Job], JobMinutes]


def minutes_of(plan: Plan) -> JobMinutes:
    """A plan in minutes."""
    by_step = without_changes(plan.steps, plan.change_cost)
    return JobMinutes(plan.minutes, by_step, frozenset(move.part for move in plan.moves))


# The places of the ignition by how the keys of their steps begin.
_PLACES = {Work.CAP: "cap/", Work.ROTOR: "rotor/", Work.POINTS: "points/", Work.PACK: "pack/"}


def own_steps(
    engine: Engine, job: JobMinutes, work: str, cylinders: tuple[int, ...]
) -> tuple[StepKey, ...]:
    """The steps of one kind of work: at its holes, at its place, or of its companion."""
    if work in engine.companions:
        return tuple(
            key for key in job.by_step if key.operation is Operation.COMPANION and key.item == work
        )
    if not Work(work).at_holes:
        begins = _PLACES.get(Work(work), f"{work}/")
        return tuple(key for key in job.by_step if key.operation.value.startswith(begins))
    holes = set(engine.holes_of_all(cylinders))
    return tuple(key for key in job.by_step if key.hole in holes and _concerns(engine, key, work))


def _concerns(engine: Engine, key: StepKey, work: str) -> bool:
    """Whether a step at a hole is of this work; a plug is reached through what is over it."""
    return work == Work.PLUG or key.rule.item in ("", carrier(engine).value)
