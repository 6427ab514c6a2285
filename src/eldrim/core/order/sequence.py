"""Which step when: respect what must come first, with the fewest changes of set-up.

A task carries the set-up it needs (tool, drive, extension, standing place), or none when it is
done by hand and leaves the tool where it is. Exact by A*: the state is the set of tasks done and
the set-up in hand; what needs no change is always done at once, which never costs anything as
long as a change by a detour is not cheaper than the direct one. Past its limit of states a beam
search ends it, and the smallest estimate left is a proven lower limit.
"""

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from eldrim.core.base.bits import bits
from eldrim.core.order.entries import Chain, Change, Entries, SetUp, least_into, saved_at_first
from eldrim.core.order.frontier import Allowance, Place, State, beam, first, none_below, rising

# States tried for a thousand tasks; fewer tasks allow more.
STATE_LIMIT = 400
# States kept side by side once the limit is reached.
BEAM_WIDTH = 60
# What a task done is worth in a beam: as if so many changes of set-up did all of them.
BEAM_STEPS = (8, 24)
TWICE_UP_TO = 250
# More tasks than these are not tried by A* at all.
MAX_EXACT = 300
# States tried for the ends of one block.
ENDINGS_LIMIT = 2000
# Sums of minutes that differ by less are equal.
NEGLIGIBLE = 1e-9


@dataclass(frozen=True)
class Task:
    """One step to order. ``after`` names tasks that must come first; ``rank`` breaks ties.

    ``block`` names what it belongs to, where tasks are ordered block after block.
    """

    key: str
    setup: SetUp = ()
    after: frozenset[str] = frozenset()
    rank: tuple[float, ...] = ()
    block: str = ""


@dataclass(frozen=True)
class Ordered:
    """The tasks' keys in order, the cost of set-up changes, and a proven lower limit of it."""

    order: tuple[str, ...]
    cost: float
    bound: float

    @property
    def proven(self) -> bool:
        """Whether no order costs less."""
        return self.cost <= self.bound + NEGLIGIBLE


class LoopError(ValueError):
    """Some tasks wait for each other."""


def unit_cost(before: SetUp, after: SetUp) -> float:
    """Every change costs one; the first tool costs one to pick up."""
    return 0.0 if before == after else 1.0


def sequence(
    tasks: Sequence[Task],
    in_hand: SetUp = (),
    change: Change = unit_cost,
    state_limit: int = STATE_LIMIT,
    beam_width: int = BEAM_WIDTH,
) -> Ordered:
    """Order ``tasks`` for the least total of ``change(previous set-up, next set-up)``.

    Raises :class:`LoopError` when tasks wait for each other. Past ``state_limit`` states a beam of
    ``beam_width`` ends the search and the answer says it is not proven.
    """
    return _Sequencer(tasks, change, states_for(len(tasks), state_limit), beam_width).run(in_hand)


def tasks_cost_at_least(
    tasks: Sequence[Task],
    starts: Sequence[SetUp],
    change: Change,
    least: float,
    allowance: Allowance,
) -> bool:
    """Whether every order costs ``least`` or more from any of ``starts``.

    Also no where the places allowed do not tell.
    """
    return _Sequencer(tasks, change, 0, 0).at_least(starts, least, allowance)


def states_for(count: int, state_limit: int) -> int:
    """How many states are tried for so many tasks: the fewer tasks, the more."""
    return state_limit * 1000 // max(count, 30) if count <= MAX_EXACT else 0


def endings(
    tasks: Sequence[Task], in_hand: SetUp, change: Change
) -> list[tuple[float, SetUp, tuple[str, ...]]]:
    """Every set-up that can be in hand at the end: the least cost for it, the set-up, the order.

    An end that costs more than another and the change from that one into it is left away. Raises
    :class:`LoopError` when tasks wait for each other.
    """
    return _Sequencer(tasks, change, ENDINGS_LIMIT, BEAM_WIDTH).endings(in_hand)


class _Trail(NamedTuple):
    """The set-ups taken, the last one first."""

    setup: SetUp
    before: "_Trail | None"


_State = State[_Trail]


class _Sequencer:
    def __init__(self, tasks: Sequence[Task], change: Change, limit: int, width: int) -> None:
        self.tasks = sorted(tasks, key=lambda t: (t.rank, t.key))
        index = {t.key: i for i, t in enumerate(self.tasks)}
        self.needs = [sum(1 << index[k] for k in t.after if k in index) for t in self.tasks]
        self.next: list[list[int]] = [[] for _ in self.tasks]
        for i, task in enumerate(self.tasks):
            for key in task.after:
                if key in index:
                    self.next[index[key]].append(i)
        self.limit, self.width, self.number = limit, width, 0
        self.mask: dict[SetUp, int] = {(): 0}
        for i, task in enumerate(self.tasks):
            self.mask[task.setup] = self.mask.get(task.setup, 0) | 1 << i
        self.setups = sorted(setup for setup in self.mask if setup)
        self._change, self._known = change, dict[tuple[SetUp, SetUp], float]()
        self.least = least_into(self.setups, self.change)
        self._saved: dict[SetUp, float] = {}
        self.everything = (1 << len(self.tasks)) - 1

    @cached_property
    def entries(self) -> dict[SetUp, Entries]:
        """How often each set-up has to be taken up."""
        used = [frozenset({task.setup}) - {()} for task in self.tasks]
        chain = Chain(self.next)
        return {setup: Entries(setup, used, chain) for setup in self.setups}

    def change(self, before: SetUp, after: SetUp) -> float:
        """What going from one set-up to another costs."""
        known = self._known.get((before, after))
        if known is None:
            known = self._known[before, after] = self._change(before, after)
        return known

    def run(self, in_hand: SetUp) -> Ordered:
        start = self._start(in_hand)
        quick = self._straight(start)
        if quick is not None:
            return self._ordered(quick, quick.cost)
        start.estimate = self._rest(start.done, in_hand)
        for state in rising(start, self.everything, self._following):
            if state.done == self.everything:
                return self._ordered(state, state.cost)
            if self.number >= self.limit:
                return self._ordered(self._beam(start), state.estimate)
        raise LoopError(", ".join(task.key for task in self.tasks))

    def at_least(self, in_hand: Sequence[SetUp], least: float, allowance: Allowance) -> bool:
        starts = [self._start(setup) for setup in in_hand]
        ready = {(start.done, start.setup): start.ready for start in starts}

        def moves(place: Place) -> list[tuple[float, Place]]:
            found = []
            for setup in self.setups:
                if ready[place] & self.mask[setup]:
                    done, more = self._absorb(place[0], ready[place], setup)
                    ready[done, setup] = more
                    found.append((self.change(place[1], setup), (done, setup)))
            return found

        def ahead(place: Place) -> float:
            return self._rest(*place)

        ceiling = least - NEGLIGIBLE
        return none_below(list(ready), self.everything, moves, ahead, ceiling, allowance)

    def endings(self, in_hand: SetUp) -> list[tuple[float, SetUp, tuple[str, ...]]]:
        ends: list[tuple[float, SetUp, tuple[str, ...]]] = []
        for state in rising(self._start(in_hand), self.everything, self._following):
            if ends and self.number > self.limit:
                break
            known = any(c + self.change(s, state.setup) <= state.cost for c, s, _ in ends)
            if state.done == self.everything and not known:
                ends.append((state.cost, state.setup, self._ordered(state, 0).order))
        return ends

    def _start(self, in_hand: SetUp) -> _State:
        ready = sum(1 << i for i, needs in enumerate(self.needs) if not needs)
        done, ready = self._absorb(0, ready, in_hand)
        return State(0.0, 0, 0.0, done, ready, in_hand, _Trail(in_hand, None))

    def _straight(self, state: _State) -> _State | None:
        """An order that takes up each set-up once at its least, if taking the fullest gives one."""
        left = {s for s in self.setups if self.mask[s] & ~state.done and s != state.setup}
        least = sum(self.least[setup] for setup in left) - self._less_at_first(state.setup)
        while state.done != self.everything:
            ready = [s for s in left if self.mask[s] & state.ready]
            if not ready:
                return None
            setup = min(ready, key=lambda s: (-(self.mask[s] & state.ready).bit_count(), s))
            cost = self.change(state.setup, setup)
            done, more = self._absorb(state.done, state.ready, setup)
            trail = _Trail(setup, state.trail)
            state = State(0.0, 0, state.cost + cost, done, more, setup, trail)
            left.remove(setup)
        return state if state.cost <= least + NEGLIGIBLE else None

    def _less_at_first(self, in_hand: SetUp) -> float:
        if in_hand not in self._saved:
            self._saved[in_hand] = saved_at_first(self.least, in_hand, self.change)
        return self._saved[in_hand]

    def _following(self, state: _State) -> list[_State]:
        found = [self._taken(state, s) for s in self.setups if state.ready & self.mask[s]]
        if not found:
            left = bits(self.everything & ~state.done)
            raise LoopError(", ".join(self.tasks[i].key for i in left))
        return found

    def _taken(self, state: _State, setup: SetUp) -> _State:
        done, ready = self._absorb(state.done, state.ready, setup)
        cost = state.cost + self.change(state.setup, setup)
        self.number += 1
        estimate = cost + self._rest(done, setup)
        trail = _Trail(setup, state.trail)
        return State(estimate, self.number, cost, done, ready, setup, trail)

    def _absorb(self, done: int, ready: int, setup: SetUp) -> tuple[int, int]:
        """Do all that the set-up in hand, or bare hands, can do now; what is ready then."""
        allowed = self.mask.get(setup, 0) | self.mask[()]
        doing = ready & allowed
        while doing:
            low = doing & -doing
            done |= low
            ready ^= low
            doing ^= low
            for later in self.next[low.bit_length() - 1]:
                if not self.needs[later] & ~done:
                    ready |= 1 << later
                    doing |= 1 << later & allowed
        return done, ready

    def _rest(self, done: int, setup: SetUp) -> float:
        """What the changes into the set-ups still needed cost at least."""
        left = self.everything & ~done
        every = sum(
            cost * self.entries[tool].least(left, in_hand=tool == setup)
            for tool, cost in self.least.items()
        )
        return max(0.0, every - self._less_at_first(setup))

    def _beam(self, start: _State) -> _State:
        """The best end of a beam search; small problems are searched with two measures."""
        steps = BEAM_STEPS if len(self.tasks) <= TWICE_UP_TO else BEAM_STEPS[:1]
        return min((self._narrow(start, most) for most in steps), key=first)

    def _narrow(self, start: _State, most: int) -> _State:
        """Keep the most promising states after each change, as if ``most`` changes did it all."""
        worth = max(self.least.values(), default=1.0) / max(len(self.tasks) / most, 1)

        def promise(state: _State) -> tuple[float, ...]:
            return (state.estimate - state.done.bit_count() * worth,)

        best = beam(start, self.everything, self._following, self.width, promise)
        assert best is not None, "following() raises where nothing leads on"
        return best

    def _ordered(self, end: _State, bound: float) -> Ordered:
        setups: list[SetUp] = []
        trail: _Trail | None = end.trail
        while trail is not None:
            setups.append(trail.setup)
            trail = trail.before
        return Ordered(self._replayed(setups[::-1]), end.cost, min(bound, end.cost))

    def _replayed(self, setups: list[SetUp]) -> tuple[str, ...]:
        """The tasks in the order they are done when these set-ups are taken in turn."""
        done, order = 0, list[int]()
        ready = [i for i, needs in enumerate(self.needs) if not needs]
        for setup in setups:
            doing = [i for i in ready if self.tasks[i].setup in ((), setup)]
            ready = [i for i in ready if self.tasks[i].setup not in ((), setup)]
            heapq.heapify(doing)
            while doing:
                index = heapq.heappop(doing)
                done |= 1 << index
                order.append(index)
                for later in self.next[index]:
                    if self.needs[later] & ~done:
                        continue
                    if self.tasks[later].setup in ((), setup):
                        heapq.heappush(doing, later)
                    else:
                        ready.append(later)
        return tuple(self.tasks[i].key for i in order)
