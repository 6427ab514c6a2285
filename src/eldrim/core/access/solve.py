"""The cheapest set of ways for the whole job, exactly, and always within a counted limit.

Our own search first, as far as it reaches; the rest is asked of CP-SAT with a limit in units of
work. What neither settles is said with its bound. docs/planner.md tells the method.
"""

from dataclasses import dataclass

from eldrim.core.access.change_floor import NO_CHANGES, ChangeFloor
from eldrim.core.access.dead_end import no_way_in
from eldrim.core.access.errors import UndecidedError
from eldrim.core.access.problem import AccessProblem, Option
from eldrim.core.access.search import Answer, Search, Searched

# Branches our own search may take; past this many options it is not tried at all.
NODE_LIMIT = 120
MAX_OPTIONS = 60
# What CP-SAT may work on one question, in its deterministic units.
WORK_LIMIT = 2.0


@dataclass(frozen=True)
class WayIn:
    """The chosen nodes, their cost, and what is known about cheaper ones.

    ``bound`` is a proven lower limit of any answer's cost; equal to ``cost`` when proven.
    """

    chosen: frozenset[Option]
    cost: int
    bound: int

    @property
    def proven(self) -> bool:
        """Whether no cheaper set exists."""
        return self.bound == self.cost


def solve(
    problem: AccessProblem, node_limit: int = NODE_LIMIT, work_limit: float = WORK_LIMIT
) -> WayIn:
    """Return the cheapest way in.

    Raises :class:`NoWayInError` when none exists, and :class:`UndecidedError`, which is one, when
    none was found within the limits.
    """
    least, bound = least_answer(problem, NO_CHANGES, node_limit, work_limit)
    return WayIn(least.chosen, least.value, bound)


def least_answer(
    problem: AccessProblem,
    floor: ChangeFloor,
    node_limit: int = NODE_LIMIT,
    work_limit: float = WORK_LIMIT,
) -> tuple[Answer, int]:
    """Return the cheapest answer, set-up changes weighed by their floor, and a lower limit of all.

    Raises as :func:`solve` does.
    """
    first = _searched(problem, floor, node_limit)
    if first.bound is None:
        if not first.answers:
            raise no_way_in(problem)
        return first.answers[0], first.answers[0].value
    return _refined(problem, floor, first, work_limit)


def _searched(problem: AccessProblem, floor: ChangeFloor, node_limit: int) -> Searched:
    if len(problem.cost) > MAX_OPTIONS or node_limit <= 0:
        return Searched((), 0)
    return Search(problem, node_limit, floor).least()


def _refined(
    problem: AccessProblem, floor: ChangeFloor, first: Searched, work_limit: float
) -> tuple[Answer, int]:
    # Only hard problems come here; the import takes longer than most whole plans.
    from eldrim.core.access.cp_sat import CpSatModel

    known = first.answers[0] if first.answers else None
    asked = CpSatModel(problem, floor).ask(known.chosen if known else frozenset(), work_limit)
    low = max(first.bound or 0, asked.bound)
    if asked.chosen is None and known is None:
        raise no_way_in(problem) if asked.impossible else UndecidedError()
    if asked.chosen is not None and (known is None or asked.value <= known.value):
        known = Answer(asked.value, asked.chosen)
    assert known is not None
    return known, min(low, known.value)


def answers_below(
    problem: AccessProblem, floor: ChangeFloor, ceiling: int, node_limit: int
) -> Searched:
    """Every answer that costs less than ``ceiling``, set-up changes weighed by their floor.

    Within a limit of branches; what was not looked at is said by its bound.
    """
    return Search(problem, node_limit, floor).below(ceiling)
