"""The two searches by which an order is found: least estimate first, and a beam.

Both go over states: what is done and the set-up in hand. Of two ways into one state only the
cheaper is followed.
"""

import heapq
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Generic, TypeVar

from eldrim.core.order.entries import SetUp

TrailT = TypeVar("TrailT")


@dataclass(slots=True)
class State(Generic[TrailT]):
    """What is done and what could be done next, as bits, with what it cost.

    ``trail`` tells how it came about.
    """

    estimate: float
    number: int
    cost: float
    done: int
    ready: int
    setup: SetUp
    trail: TrailT


def first(state: State[TrailT]) -> tuple[float, int]:
    """Sort states: the least estimate first, of equal ones the oldest."""
    return (state.estimate, state.number)


def rising(
    start: State[TrailT],
    everything: int,
    following: Callable[[State[TrailT]], Iterable[State[TrailT]]],
) -> Iterator[State[TrailT]]:
    """Each state that can be come to, in rising order of its estimate; nothing follows an end."""
    heap, best = [(*first(start), start)], dict[tuple[int, SetUp], float]()
    while heap:
        state = heapq.heappop(heap)[2]
        place = (state.done, state.setup)
        if best.get(place, state.cost + 1) <= state.cost:
            continue
        best[place] = state.cost
        yield state
        if state.done != everything:
            for new in following(state):
                if best.get((new.done, new.setup), new.cost + 1) > new.cost:
                    heapq.heappush(heap, (new.estimate, new.number, new))


# What is done, as bits, and the set-up in hand.
Place = tuple[int, SetUp]


@dataclass
class Allowance:
    """How many places searches may look at: ``left`` all together, ``each`` so many of them."""

    left: int
    each: int


def none_below(
    starts: Iterable[Place],
    everything: int,
    moves: Callable[[Place], Iterable[tuple[float, Place]]],
    ahead: Callable[[Place], float],
    ceiling: float,
    allowance: Allowance,
) -> bool:
    """Whether no end costs less than ``ceiling``; also no where the places allowed do not tell.

    ``moves`` lead from a place to others, each with its cost; ``ahead`` is what is left at least.
    Where the most is done is followed first, so an end below is met soon.
    """
    cheapest = dict.fromkeys(starts, 0.0)
    heap = [(-place[0].bit_count(), ahead(place), 0.0, place) for place in cheapest]
    heapq.heapify(heap)
    stop = allowance.left - min(allowance.each, allowance.left)
    while heap:
        _, estimate, cost, place = heapq.heappop(heap)
        if cost > cheapest[place] or estimate >= ceiling:
            continue
        if place[0] == everything or allowance.left <= stop:
            return False
        allowance.left -= 1
        for step, after in moves(place):
            new = cost + step
            estimate = new + ahead(after)
            if estimate < ceiling and cheapest.get(after, estimate + 1) > new:
                cheapest[after] = new
                heapq.heappush(heap, (-after[0].bit_count(), estimate, new, after))
    return True


def beam(
    start: State[TrailT],
    everything: int,
    following: Callable[[State[TrailT]], Iterable[State[TrailT]]],
    width: int,
    promise: Callable[[State[TrailT]], tuple[float, ...]],
) -> State[TrailT] | None:
    """The best end found with ``width`` states side by side, least ``promise`` first.

    None where no state leads to an end.
    """
    best: State[TrailT] | None = None
    level = [start]
    while level:
        cheapest: dict[tuple[int, SetUp], State[TrailT]] = {}
        for new in (new for state in level for new in following(state)):
            place = (new.done, new.setup)
            if place not in cheapest or new.cost < cheapest[place].cost:
                cheapest[place] = new
        ended = [state for state in cheapest.values() if state.done == everything]
        best = min([*ended, *([best] if best else [])], key=first, default=None)
        left = [
            state
            for state in cheapest.values()
            if state.done != everything and (best is None or state.estimate < best.cost)
        ]
        level = heapq.nsmallest(width, left, key=lambda state: (*promise(state), state.number))
    return best
