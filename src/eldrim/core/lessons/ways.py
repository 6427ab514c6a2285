"""How long a way of a part really takes on an engine, off or back on.

Real minutes are a median, a long pause left out, drawn towards the plan while runs are few
(docs/craft.md §18); nothing is proposed from under three runs.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median
from typing import Literal
from uuid import UUID

from eldrim.core.base.quantity import parse
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import Way
from eldrim.core.lessons.digest import RunDigest, Signed
from eldrim.core.lessons.trend import LEAST_CASES, LEAST_MINUTES, LEAST_SHARE, drawn_to_plan

Direction = Literal["out", "back"]


@dataclass(frozen=True)
class WayOfRun:
    """How long a way of a part took in one run, in minutes."""

    run: UUID
    minutes: float


@dataclass(frozen=True)
class LearntWay:
    """What a way of a part really takes, off or back on: as planned, in the middle, and drawn
    towards the plan; by which runs.
    """

    part: str
    way: str
    direction: Direction
    planned: float
    middle: float
    took: tuple[WayOfRun, ...]

    @property
    def runs(self) -> int:
        """How many runs it rests on."""
        return len(self.took)

    @property
    def proposed(self) -> float:
        """The minutes to plan with."""
        return round(drawn_to_plan(self.middle, self.runs, self.planned), 1)

    @property
    def worth_a_look(self) -> bool:
        """Whether it is a trend, and far enough off the plan to matter."""
        off = abs(self.proposed - self.planned)
        far = off >= LEAST_MINUTES and off >= LEAST_SHARE * max(self.planned, 0.1)
        return self.runs >= LEAST_CASES and far


def learn_ways(engine: Engine, runs: Iterable[Signed]) -> tuple[LearntWay, ...]:
    """What runs on one engine tell of the ways of its parts; the furthest off the plan first.

    Ways that the sheet no longer has are left out, and so are runs of another sheet's minutes:
    each is held against what the sheet plans now.
    """
    took: dict[tuple[str, str, Direction], list[WayOfRun]] = {}
    for signed in runs:
        for key, minutes in _took(signed.digest).items():
            took.setdefault(key, []).append(WayOfRun(signed.run, minutes))
    found = []
    for (part, way, direction), times in took.items():
        stated = _way(engine, part, way)
        if stated is None:
            continue
        planned = (stated.out if direction == "out" else stated.back).mid
        middle = round(median(one.minutes for one in times), 2)
        found.append(LearntWay(part, way, direction, planned, middle, tuple(times)))
    return tuple(sorted(found, key=lambda one: (-abs(one.proposed - one.planned), one.part)))


def _way(engine: Engine, part: str, way: str) -> Way | None:
    stated = engine.parts.get(part)
    return stated.ways.get(way) if stated else None


def _took(digest: RunDigest) -> dict[tuple[str, str, Direction], float]:
    """By part, way and direction what all its steps took in a run; none with a pause, or a step
    whose time is not known.
    """
    found: dict[tuple[str, str, Direction], float] = {}
    spoilt = set()
    for row in digest.steps:
        if row.moves not in digest.ways:
            continue
        key: tuple[str, str, Direction] = (
            row.moves,
            digest.ways[row.moves],
            "out" if row.out else "back",
        )
        if row.took is None:
            spoilt.add(key)
        else:
            found[key] = round(found.get(key, 0.0) + row.took, 2)
    return {key: minutes for key, minutes in found.items() if key not in spoilt}


def with_ways(engine: Engine, chosen: Iterable[LearntWay]) -> Engine:
    """The sheet with what was learnt of these ways, as its next revision."""
    parts = dict(engine.parts)
    for one in chosen:
        part = parts[one.part]
        way = part.ways[one.way].model_copy(update={one.direction: parse(f"{one.proposed:g} min")})
        parts[one.part] = part.model_copy(update={"ways": {**part.ways, one.way: way}})
    return engine.model_copy(update={"parts": parts, "revision": engine.revision + 1})
