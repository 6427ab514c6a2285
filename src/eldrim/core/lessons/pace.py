"""How long the acts at holes and on the engine as a whole really take on an engine.

The law is that of the ways of parts (docs/craft.md §18): a middle of runs, pauses left out, drawn
towards the plan, which counts as three runs of its own.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median
from uuid import UUID

from eldrim.core.engine import Engine
from eldrim.core.lessons.digest import RunDigest, Signed
from eldrim.core.lessons.trend import LEAST_CASES, LEAST_MINUTES, LEAST_SHARE, drawn_to_plan
from eldrim.core.operations import OPERATIONS, Operation
from eldrim.core.step_key import StepKey


@dataclass(frozen=True)
class PaceOfRun:
    """One act in one run: how many times its usual minutes it took; ``beside`` is the same held
    against the pace of that run as a whole, so that a slow hand makes no slow act.
    """

    run: UUID
    times: float
    beside: float


@dataclass(frozen=True)
class LearntPace:
    """An act on an engine: how many times the usual minutes are planned and were taken.

    ``usual`` is what a run does of it, in usual minutes, in the middle.
    """

    operation: Operation
    planned: float
    usual: float
    took: tuple[PaceOfRun, ...]

    @property
    def runs(self) -> int:
        """How many runs it rests on."""
        return len(self.took)

    @property
    def middle(self) -> float:
        """How many times the usual minutes it took, in the middle of the runs."""
        return median(one.times for one in self.took)

    @property
    def proposed(self) -> float:
        """The pace to plan with."""
        return round(drawn_to_plan(self.middle, self.runs, self.planned), 2)

    @property
    def worth_a_look(self) -> bool:
        """Whether it is a trend, and far enough off the plan to matter."""
        off = abs(self.proposed - self.planned)
        far = off * self.usual >= LEAST_MINUTES and off >= LEAST_SHARE * self.planned
        beside = median(one.beside for one in self.took)
        same_way = (beside - 1) * (self.middle - self.planned) > 0
        return self.runs >= LEAST_CASES and far and same_way and abs(beside - 1) >= LEAST_SHARE


def learn_pace(engine: Engine, runs: Iterable[Signed]) -> tuple[LearntPace, ...]:
    """What runs on one engine tell of its acts; the furthest off the plan first. Acts whose minutes
    the sheet states, as ways of parts, are learnt elsewhere.
    """
    took: dict[Operation, list[tuple[PaceOfRun, float]]] = {}
    for signed in runs:
        hand = _pace_of_hand(signed.digest)
        for operation, (real, usual) in _acts(signed.digest).items():
            now = engine.pace.get(operation.value, 1.0)
            mine = PaceOfRun(signed.run, real / usual, real / usual / now / hand)
            took.setdefault(operation, []).append((mine, usual))
    found = [
        LearntPace(
            operation=operation,
            planned=engine.pace.get(operation.value, 1.0),
            usual=round(median(usual for _, usual in times), 2),
            took=tuple(one for one, _ in times),
        )
        for operation, times in took.items()
    ]
    return tuple(sorted(found, key=_furthest_off))


def _furthest_off(one: LearntPace) -> tuple[float, str]:
    return -abs(one.proposed - one.planned) * one.usual, one.operation.value


def _pace_of_hand(digest: RunDigest) -> float:
    """How a run went beside its plan, step by step, in the middle: the pace of who did it."""
    rates = [r.took / r.planned for r in digest.steps if r.took is not None and r.planned > 0]
    return max(median(rates), 0.1) if rates else 1.0


def _acts(digest: RunDigest) -> dict[Operation, tuple[float, float]]:
    """By act the minutes taken and the usual ones, of all steps of a run; none with a pause."""
    found: dict[Operation, tuple[float, float]] = {}
    spoilt = set()
    for row in digest.steps:
        operation = StepKey.parse(row.step).operation
        if not OPERATIONS[operation].minutes:
            continue
        if row.took is None or row.marks:
            spoilt.add(operation)
        else:
            real, usual = found.get(operation, (0.0, 0.0))
            found[operation] = real + row.took, usual + row.planned / row.pace
    return {o: sums for o, sums in found.items() if o not in spoilt and sums[1] > 0}


def with_pace(engine: Engine, chosen: Iterable[LearntPace]) -> Engine:
    """The sheet with what was learnt of these acts, as its next revision."""
    pace = {**engine.pace, **{one.operation.value: one.proposed for one in chosen}}
    return engine.model_copy(update={"pace": pace, "revision": engine.revision + 1})
