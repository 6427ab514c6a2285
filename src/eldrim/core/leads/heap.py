"""A heap of leads: which goes where, so that none is short, none too long, and slack is least."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil

from ortools.graph.python import linear_sum_assignment

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.leads.ways import lead_ways
from eldrim.core.rules.house import HouseRules
from eldrim.core.words.messages import gettext

MAX_HEAP = 60
# Leads are bought in steps of this, in mm.
STEP = 10.0
# The solver counts in whole numbers: in hundredths of a millimetre. A hole without a lead costs
# more than all slack there can be.
_FINE, _WITHOUT = 100, 10**9
_TINY = 1e-6


@dataclass(frozen=True)
class BenchLead:
    """A lead on the bench: what it is called there, and its length in mm."""

    name: str
    length: float


@dataclass(frozen=True)
class Placed:
    """A lead for a hole: its way and what it has to be in mm, and what it has over the way.

    ``like`` are the names of others as long, any of which does.
    """

    hole: str
    lead: BenchLead
    way: float
    run: float
    like: tuple[str, ...]

    @property
    def slack(self) -> float:
        """What it has over its way, both ends together, in mm."""
        return round(self.lead.length - self.way, 1)


@dataclass(frozen=True)
class Lacking:
    """A hole no lead of the heap fits: what its way is, what to buy, and how near the heap comes.

    ``by`` is what the longest one left is too short by, in mm; 0 where all are too long.
    """

    hole: str
    way: float
    run: float
    buy: float
    longest: BenchLead | None
    by: float


@dataclass(frozen=True)
class Heap:
    """The leads placed, in the order to take them; what has to be bought; what is left over."""

    placed: tuple[Placed, ...]
    lacking: tuple[Lacking, ...]
    left_over: tuple[BenchLead, ...]

    @property
    def slack(self) -> float:
        """The slack of all together, in mm."""
        return round(sum(one.slack for one in self.placed), 1)


def assign(engine: Engine, heap: Sequence[BenchLead], rules: HouseRules) -> Heap:
    """Give each hole a lead: as many as can be served, then with the least slack together.

    A lead fits that is not shorter than its way and the house's slack, nor longer by more than the
    house allows. The longest way is served first, so that the one in hand is never wanted later.
    Raises :class:`ProblemsError` where the sheet states no way of a lead.
    """
    ways = {hole: way.length for hole, way in lead_ways(engine).items()}
    if not ways:
        fix = gettext("state the distributor or pack and the holders, or the lengths")
        raise ProblemsError([Problem("leads", gettext("the sheet states no way of a lead"), fix)])
    runs = {hole: way + rules.lead_slack for hole, way in ways.items()}
    chosen = _assigned(runs, heap, rules.lead_over)
    order = sorted(runs, key=lambda hole: (-runs[hole], hole))
    placed = tuple(
        Placed(hole, heap[chosen[hole]], ways[hole], runs[hole], _like(heap, chosen[hole]))
        for hole in order
        if hole in chosen
    )
    over = tuple(lead for n, lead in enumerate(heap) if n not in chosen.values())
    lacking = tuple(_lacking(hole, ways, runs, over) for hole in order if hole not in chosen)
    return Heap(placed, lacking, over)


def _like(heap: Sequence[BenchLead], chosen: int) -> tuple[str, ...]:
    same = heap[chosen].length
    return tuple(lead.name for n, lead in enumerate(heap) if lead.length == same and n != chosen)


def _lacking(
    hole: str, ways: Mapping[str, float], runs: Mapping[str, float], over: Sequence[BenchLead]
) -> Lacking:
    longest = max(over, key=lambda lead: (lead.length, lead.name), default=None)
    by = max(0.0, runs[hole] - longest.length) if longest else 0.0
    buy = ceil(runs[hole] / STEP - 1e-9) * STEP
    return Lacking(hole, ways[hole], runs[hole], buy, longest, round(by, 1))


def _assigned(
    runs: Mapping[str, float], heap: Sequence[BenchLead], most_over: float
) -> dict[str, int]:
    """By hole the place of its lead in the heap: an assignment of least cost.

    Each hole may also go without, which costs more than any slack. Leads of one length are taken
    in their order, the longest way first.
    """
    holes, solver = list(runs), linear_sum_assignment.SimpleLinearSumAssignment()
    for row, hole in enumerate(holes):
        for column, lead in enumerate(heap):
            over = lead.length - runs[hole]
            if -_TINY <= over <= most_over + _TINY:
                solver.add_arc_with_cost(row, column, round(max(over, 0.0) * _FINE))
        for column in range(len(heap), len(heap) + len(holes)):
            solver.add_arc_with_cost(row, column, _WITHOUT)
    for row in range(len(holes), len(holes) + len(heap)):
        for column in range(len(heap) + len(holes)):
            solver.add_arc_with_cost(row, column, 0)
    if solver.solve() != solver.OPTIMAL:
        raise RuntimeError("an assignment with going without is always possible")
    mates = {hole: solver.right_mate(row) for row, hole in enumerate(holes)}
    return _in_order({h: n for h, n in mates.items() if n < len(heap)}, runs, heap)


def _in_order(
    chosen: dict[str, int], runs: Mapping[str, float], heap: Sequence[BenchLead]
) -> dict[str, int]:
    found: dict[str, int] = {}
    for length in {heap[place].length for place in chosen.values()}:
        of_it = [n for n, lead in enumerate(heap) if lead.length == length]
        mine = [hole for hole, place in chosen.items() if heap[place].length == length]
        mine.sort(key=lambda hole: (-runs[hole], hole))
        found |= dict(zip(mine, of_it, strict=False))
    return found
