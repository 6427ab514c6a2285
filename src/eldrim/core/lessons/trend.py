"""When something seen in the log is called a trend at all."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

# Nothing under so many cases is called a trend.
LEAST_CASES = 3
# The plan counts as so many runs of its own.
PLAN_WEIGH_RUNS = 3
# So far off the plan, in share and in minutes, before anybody is asked to look.
LEAST_SHARE, LEAST_MINUTES = 0.2, 0.5
# How seldom chance alone may look like it before it is said.
RARE = 0.001


def drawn_to_plan(middle: float, runs: int, planned: float) -> float:
    """What to plan with: the middle of so many runs, drawn towards the plan while they are few."""
    return (runs * middle + PLAN_WEIGH_RUNS * planned) / (runs + PLAN_WEIGH_RUNS)


@dataclass(frozen=True)
class Slope:
    """A straight line through readings: how much it rises from the first to the last of them, and
    how often chance alone would look like that.
    """

    first: float
    last: float
    chance: float
    cases: int

    @property
    def rise(self) -> float:
        """From the first to the last."""
        return self.last - self.first


def slope(points: Sequence[tuple[float, float]]) -> Slope | None:
    """The line through (when, how much), in any order; None where it cannot be told."""
    if len(points) < LEAST_CASES or len({when for when, _ in points}) < LEAST_CASES:
        return None
    # Late: it takes a second or two to load, and most processes never ask for it.
    from scipy.stats import linregress

    whens, values = zip(*sorted(points), strict=True)
    found = linregress(whens, values)
    begin, end = (float(found.intercept + found.slope * when) for when in (whens[0], whens[-1]))
    return Slope(begin, end, float(found.pvalue), len(points))


@lru_cache(4096)
def rarity(hits: int, cases: int, other_hits: int, other_cases: int) -> float:
    """How often chance alone gives so many hits among these cases, given those among the others:
    Fisher's exact test, one-sided.
    """
    from scipy.stats import fisher_exact

    table = [[hits, cases - hits], [other_hits, other_cases - other_hits]]
    return float(fisher_exact(table, alternative="greater").pvalue)
