"""What searches for a cause were expected to take, against what they took."""

from collections.abc import Iterable
from dataclasses import dataclass
from statistics import fmean
from uuid import UUID

from eldrim.core.lessons.digest import Signed
from eldrim.core.lessons.trend import LEAST_CASES


@dataclass(frozen=True)
class SearchLesson:
    """Searches of one kind of complaint: minutes expected and taken, both as means, and the causes
    that proved to be behind it, most often first.
    """

    kind: str
    expected: float
    took: float
    proven: tuple[tuple[str, int], ...]
    runs: tuple[UUID, ...]

    @property
    def trend(self) -> bool:
        """Whether there are cases enough to judge the tree by."""
        return len(self.runs) >= LEAST_CASES

    @property
    def off(self) -> float:
        """How many times what was expected it takes."""
        return self.took / self.expected if self.expected else 1.0


def searches(runs: Iterable[Signed]) -> tuple[SearchLesson, ...]:
    """What each kind of search took; the one with most cases first."""
    kinds: dict[str, list[Signed]] = {}
    for signed in runs:
        if signed.digest.search is not None:
            kinds.setdefault(signed.digest.search.kind, []).append(signed)
    found = [_lesson(kind, mine) for kind, mine in kinds.items()]
    return tuple(sorted(found, key=lambda one: (-len(one.runs), one.kind)))


def _lesson(kind: str, runs: list[Signed]) -> SearchLesson:
    counted: dict[str, int] = {}
    for signed in runs:
        for cause in signed.digest.search.proven if signed.digest.search else ():
            counted[cause] = counted.get(cause, 0) + 1
    # A tree states what it takes on the average: means are compared, not middles.
    expected = fmean(s.digest.search.expected if s.digest.search else 0.0 for s in runs)
    took = fmean(s.digest.took for s in runs)
    proven = tuple(sorted(counted.items(), key=lambda one: (-one[1], one[0])))
    return SearchLesson(
        kind, round(expected, 1), round(took, 1), proven, tuple(one.run for one in runs)
    )
