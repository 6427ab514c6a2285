"""Which step when: respect what must come first, with the fewest changes of set-up.

A task carries the set-up it needs (tool, drive, extension, standing place), or none when it is
done by hand and leaves the tool where it is. Exact by A*: the state is the set of tasks done and
the set-up in hand; what needs no change is always done at once, which never costs anything as
long as a change by a detour is not cheaper than the direct one.
"""

import heapq
from collections.abc import Callable, Sequence
from dataclasses import dataclass

STATE_LIMIT = 20_000


@dataclass(frozen=True)
class Task:
    """One step to order. ``after`` names tasks that must come first; ``rank`` breaks ties."""

    key: str
    setup: str = ""
    after: frozenset[str] = frozenset()
    rank: tuple[float, ...] = ()


@dataclass(frozen=True)
class Ordered:
    """The tasks' keys in order, the cost of set-up changes, and whether it is proven least."""

    order: tuple[str, ...]
    cost: float
    proven: bool


class LoopError(ValueError):
    """Some tasks wait for each other."""


def unit_cost(before: str, after: str) -> float:
    """Every change costs one; the first tool costs one to pick up."""
    return 0.0 if before == after else 1.0


def sequence(
    tasks: Sequence[Task],
    in_hand: str = "",
    change: Callable[[str, str], float] = unit_cost,
    state_limit: int = STATE_LIMIT,
) -> Ordered:
    """Order ``tasks`` for the least total of ``change(previous set-up, next set-up)``.

    Raises :class:`LoopError` when tasks wait for each other. Past ``state_limit`` states the
    search turns greedy and the answer says it is not proven.
    """
    return _Sequencer(tasks, change, state_limit).run(in_hand)


class _Sequencer:
    def __init__(
        self, tasks: Sequence[Task], change: Callable[[str, str], float], limit: int
    ) -> None:
        self.tasks = sorted(tasks, key=lambda t: (t.rank, t.key))
        self.bit = {t.key: 1 << i for i, t in enumerate(self.tasks)}
        self.needs = [sum(self.bit.get(k, 0) for k in t.after) for t in self.tasks]
        self.change, self.limit = change, limit
        setups = {t.setup for t in self.tasks if t.setup}
        self.least = {
            s: min((change(o, s) for o in setups | {""} if o != s), default=0.0) for s in setups
        }

    def run(self, in_hand: str) -> Ordered:
        everything = (1 << len(self.tasks)) - 1
        done, order = self._absorb(0, in_hand)
        heap = [(self._rest(done, in_hand), 0, 0.0, done, in_hand, order)]
        best: dict[tuple[int, str], float] = {}
        count = 0
        while heap:
            _, _, cost, done, setup, order = heapq.heappop(heap)
            if done == everything:
                return Ordered(order, cost, count <= self.limit)
            if best.get((done, setup), cost + 1) <= cost:
                continue
            best[(done, setup)] = cost
            steps = self._next_setups(done)
            if not steps:
                raise LoopError(", ".join(self._left(done)))
            for new in steps:
                count += 1
                grown, tail = self._absorb(done, new)
                spent = cost + self.change(setup, new)
                entry = (spent + self._rest(grown, new), count, spent, grown, new, order + tail)
                heapq.heappush(heap, entry)
            if count > self.limit:
                heap = [min(heap, key=lambda e: (-bin(e[3]).count("1"), e[0], e[1]))]
        raise LoopError(", ".join(t.key for t in self.tasks))

    def _absorb(self, done: int, setup: str) -> tuple[int, tuple[str, ...]]:
        """Do all that the set-up in hand (or bare hands) can do now, in rank order."""
        order: list[str] = []
        moved = True
        while moved:
            moved = False
            for index, task in enumerate(self.tasks):
                free = not done >> index & 1 and self.needs[index] & ~done == 0
                if free and task.setup in ("", setup):
                    done |= 1 << index
                    order.append(task.key)
                    moved = True
                    break
        return done, tuple(order)

    def _next_setups(self, done: int) -> list[str]:
        ready = (
            t.setup
            for i, t in enumerate(self.tasks)
            if not done >> i & 1 and self.needs[i] & ~done == 0
        )
        return list(dict.fromkeys(ready))

    def _rest(self, done: int, setup: str) -> float:
        left = {t.setup for i, t in enumerate(self.tasks) if not done >> i & 1} - {"", setup}
        return sum(self.least[s] for s in left)

    def _left(self, done: int) -> list[str]:
        return [t.key for i, t in enumerate(self.tasks) if not done >> i & 1]
