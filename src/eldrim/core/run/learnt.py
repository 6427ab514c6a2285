"""What the bays teach of the plan's minutes: how long a way of a part really takes on an engine.

Real minutes are a median, a long pause left out, drawn towards the plan while runs are few
(docs/craft.md §18); nothing is proposed from under three runs.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Literal
from uuid import UUID

from eldrim.core.engine import Engine
from eldrim.core.engine.parts import Way
from eldrim.core.operations import Phase
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.procedure.setup_changes import without_changes
from eldrim.core.quantity import parse
from eldrim.core.run.history import Past
from eldrim.core.run.report import step_minutes

# The plan counts as so many runs of its own.
PLAN_WEIGH_RUNS = 3
# Less is no trend.
LEAST_RUNS = 3
# So far off the plan, in share and in minutes, before anybody is asked to look.
LEAST_SHARE, LEAST_MINUTES = 0.2, 0.5
# A step that takes this many times its plan, and so many minutes more, held a pause.
PAUSE_TIMES, PAUSE_MINUTES = 4.0, 10.0

Direction = Literal["out", "back"]


@dataclass(frozen=True)
class Took:
    """How long a way of a part took in one run, in minutes."""

    run: UUID
    minutes: float


@dataclass(frozen=True)
class Learnt:
    """What a way of a part really takes, off or back on: as planned, in the middle, and drawn
    towards the plan; by which runs.
    """

    part: str
    way: str
    direction: Direction
    planned: float
    middle: float
    took: tuple[Took, ...]

    @property
    def runs(self) -> int:
        """How many runs it rests on."""
        return len(self.took)

    @property
    def proposed(self) -> float:
        """The minutes to plan with: so many runs against three of the plan."""
        weighed = self.runs * self.middle + PLAN_WEIGH_RUNS * self.planned
        return round(weighed / (self.runs + PLAN_WEIGH_RUNS), 1)

    @property
    def worth_a_look(self) -> bool:
        """Whether it is a trend, and far enough off the plan to matter."""
        off = abs(self.proposed - self.planned)
        far = off >= LEAST_MINUTES and off >= LEAST_SHARE * max(self.planned, 0.1)
        return self.runs >= LEAST_RUNS and far


def learnt(engine: Engine, runs: Sequence[Past]) -> tuple[Learnt, ...]:
    """What runs on one engine tell of the ways of its parts; the furthest off the plan first.

    Ways that the sheet no longer has are left out, and so are runs of another sheet's minutes:
    each is held against what the sheet plans now.
    """
    took: dict[tuple[str, str, Direction], list[Took]] = {}
    for past in runs:
        for key, minutes in _took(past).items():
            took.setdefault(key, []).append(Took(past.run, minutes))
    found = []
    for (part, way, direction), times in took.items():
        stated = _way(engine, part, way)
        if stated is None:
            continue
        planned = (stated.out if direction == "out" else stated.back).mid
        middle = round(median(one.minutes for one in times), 2)
        found.append(Learnt(part, way, direction, planned, middle, tuple(times)))
    return tuple(sorted(found, key=lambda one: (-abs(one.proposed - one.planned), one.part)))


def _way(engine: Engine, part: str, way: str) -> Way | None:
    stated = engine.parts.get(part)
    return stated.ways.get(way) if stated else None


def _took(past: Past) -> dict[tuple[str, str, Direction], float]:
    """By part, way and direction what all its steps took in a run; none with a pause, or a step
    whose time is not known.
    """
    ways = {move.part: move.way for move in past.plan.moves}
    times: dict[str, float] = dict(step_minutes(past.plan, past.entries))
    alone = without_changes(past.plan.steps, past.plan.change_cost)
    found: dict[tuple[str, str, Direction], float] = {}
    spoilt = set()
    for step, direction in _of_parts(past.plan):
        if step.part not in ways:
            continue
        key = (step.part, ways[step.part], direction)
        real = times.get(step.key)
        if real is None or paused(step, real):
            spoilt.add(key)
        else:
            found[key] = round(found.get(key, 0.0) + own_share(step, alone[step.key], real), 2)
    return {key: minutes for key, minutes in found.items() if key not in spoilt}


def _of_parts(plan: Plan) -> Iterable[tuple[Step, Direction]]:
    """The steps whose minutes are those of a way; seals and openings have their own."""
    for step in plan.steps:
        if step.part is not None and step.key.rule.minutes is None:
            yield step, "out" if step.phase is Phase.UNCOVER else "back"


def own_share(step: Step, alone: float, real: float) -> float:
    """The minutes of a step that are its own: changing the set-up has its share of what it took as
    it has of the plan.
    """
    return real * alone / step.minutes if step.minutes > 0 else real


def paused(step: Step, real: float) -> bool:
    """Whether a step took so long that a pause was in it."""
    return real > PAUSE_TIMES * step.minutes + PAUSE_MINUTES


def accepted(engine: Engine, chosen: Iterable[Learnt]) -> Engine:
    """The sheet with what was learnt of these ways, as its next revision."""
    parts = dict(engine.parts)
    for one in chosen:
        part = parts[one.part]
        way = part.ways[one.way].model_copy(update={one.direction: parse(f"{one.proposed:g} min")})
        parts[one.part] = part.model_copy(update={"ways": {**part.ways, one.way: way}})
    return engine.model_copy(update={"parts": parts, "revision": engine.revision + 1})
