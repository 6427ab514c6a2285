"""What readings say of the figures they are held to, and of the tools they come from."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from statistics import median
from uuid import UUID

from eldrim.core.lessons.digest import SUPPLIED, RunDigest, Signed, ValueRow
from eldrim.core.lessons.trend import LEAST_CASES, RARE, Slope, slope

# Often: so large a share of all values, in three runs or more.
OFTEN = 1 / 3
# Never: in none of so many runs came it within this share of its window to a limit.
NEVER_RUNS, NEAR = 12, 0.1
# A wrench drifts where what it shows against what it is set to changed by so much.
DRIFT = 0.02
# Weeks it was used in, before anything is said of a wrench.
WRENCH_WEEKS = 8


@dataclass(frozen=True)
class LimitLesson:
    """A reading that often ends at a limit or beyond it, or that never comes near one.

    ``runs`` are those it was read in, ``at`` those in which any of its values was at a limit or
    out; ``values`` and ``out`` count the values. ``where`` are the runs that say so.
    """

    operation: str
    reading: str
    label: str
    unit: str
    low: float | None
    high: float | None
    runs: int
    at: int
    values: int
    out: int
    middle: float
    where: tuple[UUID, ...]

    @property
    def often(self) -> bool:
        """Whether it ends there often enough to ask about its figure."""
        return self.at >= LEAST_CASES and self.out >= OFTEN * self.values


Kind = tuple[str, str, float | None, float | None, str]


def at_limits(runs: Iterable[Signed]) -> tuple[tuple[LimitLesson, ...], tuple[LimitLesson, ...]]:
    """Readings that often end at a limit, most often first; and those that never come near one.

    Values are told apart by their limits: another figure is another reading. A gap as supplied is
    told by :func:`supplied_wrong`.
    """
    kinds: dict[Kind, list[tuple[UUID, ValueRow]]] = {}
    for signed in runs:
        for row in signed.digest.values:
            if row.reading != SUPPLIED:
                key = (row.operation, row.reading, row.low, row.high, row.unit)
                kinds.setdefault(key, []).append((signed.run, row))
    found = [_limit(rows) for rows in kinds.values()]
    often = sorted((one for one in found if one.often), key=lambda one: -one.at / one.runs)
    never = [
        one
        for one, rows in zip(found, kinds.values(), strict=True)
        if one.runs >= NEVER_RUNS and not any(_near(row) for _, row in rows)
    ]
    return tuple(often), tuple(never)


def _limit(rows: Sequence[tuple[UUID, ValueRow]]) -> LimitLesson:
    row = rows[0][1]
    out = [(run, one) for run, one in rows if one.place != "in"]
    where = tuple(dict.fromkeys(run for run, _ in out))
    return LimitLesson(
        operation=row.operation,
        reading=row.reading,
        label=row.label,
        unit=row.unit,
        low=row.low,
        high=row.high,
        runs=len({run for run, _ in rows}),
        at=len(where),
        values=len(rows),
        out=len(out),
        middle=median(one.value for _, one in rows),
        where=where,
    )


def _near(row: ValueRow) -> bool:
    """Whether a value comes near a limit; one with a single limit is near it within a tenth."""
    if row.place != "in":
        return True
    low, high = row.low, row.high
    room = NEAR * (high - low if low is not None and high is not None else abs(low or high or 1.0))
    below = low is not None and row.value - low < room
    return below or (high is not None and high - row.value < room)


@dataclass(frozen=True)
class SuppliedGap:
    """A plug number whose gap is mostly out of its range as it comes out of the box."""

    label: str
    unit: str
    low: float | None
    high: float | None
    wrong: int
    values: int
    runs: int
    middle: float


def supplied_wrong(runs: Iterable[Signed]) -> tuple[SuppliedGap, ...]:
    """Gaps as supplied that are mostly wrong, of three runs or more."""
    kinds: dict[tuple[float | None, float | None, str], list[tuple[UUID, ValueRow]]] = {}
    for signed in runs:
        for row in signed.digest.values:
            if row.reading == SUPPLIED:
                kinds.setdefault((row.low, row.high, row.unit), []).append((signed.run, row))
    found = []
    for (low, high, unit), rows in kinds.items():
        wrong = [row for _, row in rows if row.place in ("under", "over")]
        times = len({run for run, _ in rows})
        if times >= LEAST_CASES and 2 * len(wrong) > len(rows):
            middle = median(row.value for _, row in rows)
            label = rows[0][1].label
            found.append(
                SuppliedGap(label, unit, low, high, len(wrong), len(rows), times, round(middle, 3))
            )
    return tuple(found)


@dataclass(frozen=True)
class WrenchWeek:
    """What a wrench showed in the runs of one week, as a share of what it was set to: the mean of
    the middles of so many runs; ``run`` is the newest of them.
    """

    wrench: str
    name: str
    week: date
    ratio: float
    runs: int
    run: UUID


def clicks_of(digest: RunDigest) -> dict[str, tuple[str, float]]:
    """By wrench what it is called, and what it showed in a run as a share of what it was set to."""
    ratios: dict[str, list[float]] = {}
    names: dict[str, str] = {}
    for row in digest.clicks:
        names[row.wrench] = row.name
        ratios.setdefault(row.wrench, []).append(row.value / row.set_to)
    return {wrench: (names[wrench], median(mine)) for wrench, mine in ratios.items()}


@dataclass(frozen=True)
class WrenchDrift:
    """A wrench whose readings move away from what it is set to; by which weeks, oldest first."""

    wrench: str
    name: str
    line: Slope
    weeks: tuple[WrenchWeek, ...]

    @property
    def share(self) -> float:
        """By how much it moved, as a share."""
        return self.line.rise


def drifting(weeks: Iterable[WrenchWeek]) -> tuple[WrenchDrift, ...]:
    """Wrenches that drift: the line through their weeks leads away by two in a hundred, and chance
    alone hardly gives that.
    """
    found = []
    for wrench, mine in by_wrench(weeks).items():
        if len(mine) < WRENCH_WEEKS:
            continue
        line = slope([(float(one.week.toordinal()), one.ratio) for one in mine])
        if line and abs(line.rise) >= DRIFT and line.chance < RARE / 10:
            found.append(WrenchDrift(wrench, mine[-1].name, line, tuple(mine)))
    return tuple(sorted(found, key=lambda one: -abs(one.share)))


def by_wrench(weeks: Iterable[WrenchWeek]) -> dict[str, list[WrenchWeek]]:
    """The weeks of each wrench, oldest first."""
    found: dict[str, list[WrenchWeek]] = {}
    for one in sorted(weeks, key=lambda one: (one.wrench, one.week)):
        found.setdefault(one.wrench, []).append(one)
    return found
