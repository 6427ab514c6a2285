"""The two searches by which an order is found: least estimate first, and a beam.

Both go over states: what is done and the set-up in hand. Of two ways into one state only the
cheaper is followed.
"""

import heapq
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from eldrim.core.order.entries import SetUp

TrailT = TypeVar("TrailT")


@dataclass(order=True)
class State(Generic[TrailT]):
    """What is done and what could be done next, as bits, with what it cost; least estimate first.

    ``rest`` is what is left at least of what the estimate adds up, ``trail`` how it came about.
    """

    estimate: float
    number: int
    cost: float
    done: int
    ready: int
    setup: SetUp
    trail: TrailT = field(compare=False)
    rest: float = field(default=0.0, compare=False)


def rising(
    start: State[TrailT],
    everything: int,
    following: Callable[[State[TrailT]], Iterable[State[TrailT]]],
) -> Iterator[State[TrailT]]:
    """Each state that can be come to, in rising order of its estimate; nothing follows an end."""
    heap, best = [start], dict[tuple[int, SetUp], float]()
    while heap:
        state = heapq.heappop(heap)
        place = (state.done, state.setup)
        if best.get(place, state.cost + 1) <= state.cost:
            continue
        best[place] = state.cost
        yield state
        if state.done != everything:
            for new in following(state):
                heapq.heappush(heap, new)


def none_below(
    start: State[TrailT],
    everything: int,
    following: Callable[[State[TrailT]], Iterable[State[TrailT]]],
    ceiling: float,
    limit: int,
) -> bool:
    """Whether no end costs less than ``ceiling``; also no where ``limit`` states do not tell.

    Of equal estimates the last found is followed first, so an end below is met soon.
    """
    heap, best, found = [(start.estimate, 0, start)], dict[tuple[int, SetUp], float](), 0
    while heap and heap[0][0] < ceiling:
        state = heapq.heappop(heap)[2]
        place = (state.done, state.setup)
        if best.get(place, state.cost + 1) <= state.cost:
            continue
        if state.done == everything or len(best) >= limit:
            return False
        best[place] = state.cost
        for new in following(state):
            found -= 1
            heapq.heappush(heap, (new.estimate, found, new))
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
        best = min([*ended, *([best] if best else [])], default=None)
        left = [
            state
            for state in cheapest.values()
            if state.done != everything and (best is None or state.estimate < best.cost)
        ]
        level = heapq.nsmallest(width, left, key=lambda state: (*promise(state), state.number))
    return best
