"""Which step when: respect what must come first, with the fewest changes of set-up.

A task carries the set-up it needs (tool, drive, extension, standing place), or none when it is
done by hand and leaves the tool where it is. Exact by A*: the state is the set of tasks done and
the set-up in hand; what needs no change is always done at once, which never costs anything as
long as a change by a detour is not cheaper than the direct one.
"""

import heapq
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

# What is in hand, by ids; empty where bare hands do.
SetUp = tuple[str, ...]
# States tried for a thousand tasks; fewer tasks allow more.
STATE_LIMIT = 120


@dataclass(frozen=True)
class Task:
    """One step to order. ``after`` names tasks that must come first; ``rank`` breaks ties."""

    key: str
    setup: SetUp = ()
    after: frozenset[str] = frozenset()
    rank: tuple[float, ...] = ()


@dataclass(frozen=True)
class Ordered:
    """The tasks' keys in order, the cost of set-up changes, and a proven lower limit of it."""

    order: tuple[str, ...]
    cost: float
    bound: float

    @property
    def proven(self) -> bool:
        """Whether no order costs less."""
        return self.cost <= self.bound + 1e-9


class LoopError(ValueError):
    """Some tasks wait for each other."""


def unit_cost(before: SetUp, after: SetUp) -> float:
    """Every change costs one; the first tool costs one to pick up."""
    return 0.0 if before == after else 1.0


def sequence(
    tasks: Sequence[Task],
    in_hand: SetUp = (),
    change: Callable[[SetUp, SetUp], float] = unit_cost,
    state_limit: int = STATE_LIMIT,
) -> Ordered:
    """Order ``tasks`` for the least total of ``change(previous set-up, next set-up)``.

    Raises :class:`LoopError` when tasks wait for each other. Past ``state_limit`` states the
    search turns greedy and the answer says it is not proven.
    """
    limit = state_limit * 1000 // max(len(tasks), 30)
    return _Sequencer(tasks, change, limit).run(in_hand)


class _Sequencer:
    def __init__(
        self, tasks: Sequence[Task], change: Callable[[SetUp, SetUp], float], limit: int
    ) -> None:
        self.tasks = sorted(tasks, key=lambda t: (t.rank, t.key))
        index = {t.key: i for i, t in enumerate(self.tasks)}
        self.needs = [sum(1 << index[k] for k in t.after if k in index) for t in self.tasks]
        self.next: list[list[int]] = [[] for _ in self.tasks]
        for i, task in enumerate(self.tasks):
            for key in task.after:
                if key in index:
                    self.next[index[key]].append(i)
        self.change, self.limit = change, limit
        setups = sorted({t.setup for t in self.tasks if t.setup})
        self.mask = {
            setup: sum(1 << i for i, t in enumerate(self.tasks) if t.setup == setup)
            for setup in setups
        }
        self.by_hand = sum(1 << i for i, t in enumerate(self.tasks) if not t.setup)
        self.least = {
            s: min((change(o, s) for o in [*setups, ()] if o != s), default=0.0) for s in setups
        }
        self.everything = (1 << len(self.tasks)) - 1

    def run(self, in_hand: SetUp) -> Ordered:
        done, first = self._absorb(0, in_hand)
        heap = [_Entry(self._rest(done, in_hand), 0, 0.0, done, in_hand, (first, None))]
        best: dict[tuple[int, SetUp], float] = {}
        count = 0
        while heap:
            entry = heapq.heappop(heap)
            if entry.done == self.everything:
                return Ordered(self._keys(entry.trail), entry.cost, entry.cost)
            if best.get((entry.done, entry.setup), entry.cost + 1) <= entry.cost:
                continue
            best[(entry.done, entry.setup)] = entry.cost
            if count >= self.limit:
                return self._greedily(min([entry, *heap], key=_furthest), bound=entry.estimate)
            for new in self._next_setups(entry.done):
                count += 1
                heapq.heappush(heap, self._taken(entry, new, count))
        raise LoopError(", ".join(task.key for task in self.tasks))

    def _taken(self, entry: "_Entry", setup: SetUp, count: int) -> "_Entry":
        done, tail = self._absorb(entry.done, setup)
        cost = entry.cost + self.change(entry.setup, setup)
        estimate = cost + self._rest(done, setup)
        return _Entry(estimate, count, cost, done, setup, (tail, entry.trail))

    def _greedily(self, entry: "_Entry", bound: float) -> Ordered:
        """Finish by always taking the set-up that gets the most done for its cost."""
        while entry.done != self.everything:
            tried = [self._taken(entry, setup, 0) for setup in self._next_setups(entry.done)]
            start = entry
            entry = max(tried, key=lambda e: _gain(start, e))
        return Ordered(self._keys(entry.trail), entry.cost, bound)

    def _absorb(self, done: int, setup: SetUp) -> tuple[int, list[int]]:
        """Do all that the set-up in hand (or bare hands) can do now, in rank order.

        What bare hands can do was done before, so only tasks of this set-up start anything.
        """
        order: list[int] = []
        left = (self.mask.get(setup, 0) | (0 if done else self.by_hand)) & ~done
        ready = [bit for bit in _bits(left) if self.needs[bit] & ~done == 0]
        while ready:
            index = heapq.heappop(ready)
            done |= 1 << index
            order.append(index)
            for later in self.next[index]:
                if self._free(later, done, setup):
                    heapq.heappush(ready, later)
        return done, order

    def _free(self, index: int, done: int, setup: SetUp) -> bool:
        ours = self.tasks[index].setup in ((), setup)
        return ours and not done >> index & 1 and self.needs[index] & ~done == 0

    def _next_setups(self, done: int) -> list[SetUp]:
        """The set-ups with a task ready now, in rank order of that task."""
        found = {}
        for setup, mask in self.mask.items():
            first = next((bit for bit in _bits(mask & ~done) if self.needs[bit] & ~done == 0), None)
            if first is not None:
                found[setup] = first
        if not found:
            names = (task.key for index, task in enumerate(self.tasks) if not done >> index & 1)
            raise LoopError(", ".join(names))
        return sorted(found, key=lambda s: found[s])

    def _rest(self, done: int, setup: SetUp) -> float:
        return sum(self.least[key] for key, m in self.mask.items() if key != setup and m & ~done)

    def _keys(self, trail: "_Trail | None") -> tuple[str, ...]:
        parts = []
        while trail is not None:
            parts.append(trail[0])
            trail = trail[1]
        return tuple(self.tasks[i].key for part in reversed(parts) for i in part)


_Trail = tuple[list[int], Any]


@dataclass(order=True)
class _Entry:
    estimate: float
    number: int
    cost: float
    done: int
    setup: SetUp
    trail: _Trail = field(compare=False)


def _bits(mask: int) -> Iterator[int]:
    """The places of the ones in ``mask``, lowest first."""
    while mask:
        low = mask & -mask
        yield low.bit_length() - 1
        mask ^= low


def _furthest(entry: _Entry) -> tuple[float, int]:
    return (entry.estimate - entry.done.bit_count() * 1e-3, entry.number)


def _gain(start: _Entry, end: _Entry) -> float:
    return (end.done ^ start.done).bit_count() / (end.cost - start.cost + 1e-6)
