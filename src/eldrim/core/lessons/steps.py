"""Which steps of a procedure do not hold in the bay: ranked by minutes lost, and by risk."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from uuid import UUID

from eldrim.core.lessons.digest import MarkRow, Signed, StepRow
from eldrim.core.lessons.trend import LEAST_CASES
from eldrim.core.operations import CautionCause, Operation
from eldrim.core.run.entries import EntryKind
from eldrim.core.step_key import StepKey

K = EntryKind
# A step is slow where its middle is over its plan by this share and so many minutes.
SLOW_SHARE, SLOW_MINUTES = 0.5, 1.0
# How much each kind of mark weighs where steps are ranked by risk; a stop is worth four doubts.
RISK = {K.STOP: 4, K.OVER: 4, K.SKIP: 3, K.DEVIATION: 2, K.REOPEN: 1, K.DIFFERS: 1}
# What a step that brings one of these does wrong hurts more.
HURTS = frozenset(
    {CautionCause.FUEL, CautionCause.RUN, CautionCause.HOT, CautionCause.SPARK, CautionCause.LIFT}
)
MORE_RISK = 2


@dataclass(frozen=True)
class StepRemark:
    """A mark of a step, with its run: who said what of it, on which unit, when."""

    run: UUID
    at: datetime
    unit: str
    mark: MarkRow


@dataclass(frozen=True)
class StepLesson:
    """A step that does not hold: how often it was done, what was said of it, what it takes.

    ``lost`` is what it took over its plan in all runs, in minutes. ``slow`` tells that it takes
    longer as a rule. ``trend`` tells that three runs or more say it; less is a case.
    """

    step: str
    runs: int
    planned: float
    middle: float | None
    timed: int
    lost: float
    risk: int
    slow: bool
    said: tuple[StepRemark, ...]

    @property
    def marked_runs(self) -> int:
        """In how many runs something was marked at it."""
        return len({one.run for one in self.said})

    @property
    def trend(self) -> bool:
        """Whether it is more than a case or two."""
        return self.slow or self.marked_runs >= LEAST_CASES

    @property
    def counts(self) -> dict[str, int]:
        """How often each kind of mark was made."""
        found: dict[str, int] = {}
        for one in self.said:
            found[one.mark.kind] = found.get(one.mark.kind, 0) + 1
        return found

    @property
    def reporters(self) -> tuple[str, ...]:
        """Who said something of it."""
        return tuple(sorted({one.mark.by for one in self.said if one.mark.by}))


def failing_steps(runs: Iterable[Signed]) -> tuple[StepLesson, ...]:
    """The steps of a procedure at which something was marked, or that are slow; those that lose
    most minutes first.
    """
    rows: dict[str, list[tuple[Signed, StepRow]]] = {}
    for signed in runs:
        for row in signed.digest.steps:
            rows.setdefault(row.step, []).append((signed, row))
    found = [_lesson(step, mine) for step, mine in rows.items()]
    return tuple(
        sorted(
            (one for one in found if one.said or one.slow),
            key=lambda one: (-one.lost, -one.risk, one.step),
        )
    )


def by_risk(found: Iterable[StepLesson]) -> tuple[StepLesson, ...]:
    """The same, what is most dangerous first."""
    return tuple(sorted(found, key=lambda one: (-one.risk, -one.lost, one.step)))


def _lesson(step: str, rows: Sequence[tuple[Signed, StepRow]]) -> StepLesson:
    times = [(row.took, row.planned) for _, row in rows if row.took is not None]
    planned = rows[0][1].planned
    middle = median(took for took, _ in times) if times else None
    over = [took - plan for took, plan in times if took > plan]
    said = tuple(
        StepRemark(signed.run, signed.at, signed.unit, mark)
        for signed, row in rows
        for mark in row.marks
    )
    slow = (
        middle is not None
        and len(times) >= LEAST_CASES
        and middle - planned >= max(SLOW_MINUTES, SLOW_SHARE * planned)
    )
    # What is slow without a mark counts; where it is not, only what its marks cost.
    lost = sum(over) if slow else sum(_over(row) for _, row in rows if row.marks)
    return StepLesson(
        step=step,
        runs=len(rows),
        planned=planned,
        middle=middle,
        timed=len(times),
        lost=round(lost, 1),
        risk=_risk(StepKey.parse(step), said),
        slow=slow,
        said=said,
    )


def _over(row: StepRow) -> float:
    return max(0.0, row.took - row.planned) if row.took is not None else 0.0


def _risk(step: StepKey, said: Sequence[StepRemark]) -> int:
    weight = sum(RISK.get(EntryKind(one.mark.kind), 0) for one in said)
    hurts = step.operation is not Operation.OWN and bool(step.rule.causes & HURTS)
    return weight * (MORE_RISK if hurts else 1)
