"""Stretches of work that follow each other: the least changes of set-up along all of them.

What is in hand at the end of one stretch is in hand when the next begins, so a stretch may be worth
ending otherwise than is least for it alone. Between two stretches the set-ups are carried on that
may be taken up first in the next, each with the least that taking it up costs by then: the end of
the least order stands for all that no other end beats. Exact where each search in it is.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

from eldrim.core.order.blocks import sequence_blocks
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.sequence import BEAM_WIDTH, NEGLIGIBLE, STATE_LIMIT, Ordered, Task, sequence

Sequencer = Callable[[Sequence[Task], SetUp, Change, int, int], Ordered]
# The key of the task that stands for the next stretch.
LAST = "then"


@dataclass(frozen=True)
class Stretch:
    """Tasks that are done before those of the next stretch are begun.

    ``whole_blocks`` asks that a block once begun is finished; ``as_listed`` leaves no choice.
    """

    tasks: tuple[Task, ...]
    whole_blocks: bool = False
    as_listed: bool = False

    @property
    def takes_tools(self) -> bool:
        """Whether anything but bare hands is needed."""
        return any(task.setup for task in self.tasks)

    @property
    def can_end_so(self) -> bool:
        """Whether there may be a choice of what is in hand at its end."""
        return not self.as_listed and len({task.setup for task in self.tasks} - {()}) > 1

    @property
    def beginnings(self) -> tuple[SetUp, ...]:
        """The set-ups that can be taken up first; more may be named than really can."""
        if self.as_listed:
            return next((task.setup,) for task in self.tasks if task.setup)
        keys, done = {task.key for task in self.tasks}, set[str]()
        while True:
            left = [task for task in self.tasks if task.key not in done]
            ready = [task for task in left if task.after & keys <= done]
            by_hand = {task.key for task in ready if not task.setup}
            if not by_hand:
                return tuple(sorted({task.setup for task in ready}))
            done |= by_hand

    def ordered(self, in_hand: SetUp, change: Change, effort: "Effort") -> Ordered:
        """The least order of this stretch alone."""
        if self.as_listed:
            cost, setups = 0.0, [in_hand, *(task.setup for task in self.tasks if task.setup)]
            for before, after in pairwise(setups):
                cost += change(before, after)
            return Ordered(tuple(task.key for task in self.tasks), cost, cost)
        order: Sequencer = sequence_blocks if self.whole_blocks else sequence
        return order(self.tasks, in_hand, change, effort.states, effort.width)

    def then(self, setup: SetUp) -> "Stretch":
        """The same, and a set-up taken up once all is done."""
        every = frozenset(task.key for task in self.tasks)
        last = Task(LAST, setup, every, (float("inf"),), LAST)
        return Stretch((*self.tasks, last), self.whole_blocks)


class Effort(NamedTuple):
    """How far an order is looked for: states tried in each search, and those of a beam at its end,
    as :func:`eldrim.core.order.sequence.sequence` counts them; and for each end of a stretch so
    many beginnings of the next.
    """

    states: int = STATE_LIMIT
    width: int = BEAM_WIDTH
    beginnings: int = 16


@dataclass(frozen=True)
class InChain:
    """The order of each stretch, the cost of all changes along them, and a lower limit of it."""

    orders: tuple[tuple[str, ...], ...]
    cost: float
    bound: float


def in_chain(stretches: Sequence[Stretch], change: Change, effort: Effort) -> InChain:
    """Order stretches for the least total of ``change`` along all, beginning with empty hands.

    Of orders that cost the same, that is taken which is least stretch by stretch. Raises
    :class:`LoopError` when tasks wait for each other.
    """
    carried = [_Carried((), 0.0, 0.0, ())]
    for place, stretch in enumerate(stretches):
        following = next((s for s in stretches[place + 1 :] if s.takes_tools), None)
        beginnings = following.beginnings if following else ()
        ends = (
            end for begun in carried for end in _ends(stretch, begun, beginnings, change, effort)
        )
        carried = _worth_carrying(ends, change)
    best = carried[0]
    for end in carried[1:]:
        if end.cost < best.cost - NEGLIGIBLE:
            best = end
    return InChain(best.orders, best.cost, min(end.bound for end in carried))


@dataclass(frozen=True)
class _Carried:
    """What is in hand between two stretches, what it cost by then, and at least costs."""

    setup: SetUp
    cost: float
    bound: float
    orders: tuple[tuple[str, ...], ...]


def _ends(
    stretch: Stretch, begun: _Carried, beginnings: Sequence[SetUp], change: Change, effort: Effort
) -> Iterator[_Carried]:
    """What can be in hand after a stretch: the end that is least for it alone, then others."""
    alone = stretch.ordered(begun.setup, change, effort)
    setups = {task.key: task.setup for task in stretch.tasks}
    in_hand = next((setups[key] for key in reversed(alone.order) if setups[key]), begun.setup)
    cost, bound = begun.cost + alone.cost, begun.bound + alone.bound
    others = [setup for setup in beginnings if setup != in_hand] if stretch.can_end_so else []
    # Of a beginning that is not looked at, the most it can save is left open.
    open_still = [change(in_hand, setup) for setup in others[effort.beginnings :]]
    bound -= max(open_still, default=0.0)
    yield _Carried(in_hand, cost, bound, (*begun.orders, alone.order))
    for setup in others[: effort.beginnings]:
        onto = stretch.then(setup).ordered(begun.setup, change, effort)
        order = tuple(key for key in onto.order if key != LAST)
        least = begun.bound + max(onto.bound, alone.bound)
        yield _Carried(setup, begun.cost + onto.cost, least, (*begun.orders, order))


def _worth_carrying(ends: Iterable[_Carried], change: Change) -> list[_Carried]:
    """The ends from which going on may be cheaper than from all others; of equal ones the first."""

    def saves(kept: _Carried, other: _Carried) -> tuple[float, float]:
        step = change(kept.setup, other.setup)
        return other.cost - kept.cost - step, other.bound - kept.bound - step

    kept: list[_Carried] = []
    for end in ends:
        if any(min(saves(other, end)) >= -NEGLIGIBLE for other in kept):
            continue
        kept = [other for other in kept if min(saves(end, other)) < -NEGLIGIBLE]
        kept.append(end)
    return kept
