"""Which part when: each part is finished before the next is begun, with the fewest changes.

Tasks belong to blocks. A block once begun is finished before another, unless parts wait for each
other's steps in turn: those are one block together. Exact by A* over (blocks done, set-up in
hand); past a limit of states a beam search ends it, and the smallest estimate left is a proven
lower limit.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from eldrim.core.bits import bits
from eldrim.core.graphs import strongly_connected
from eldrim.core.order.entries import Chain, SetUp
from eldrim.core.order.frontier import State, beam, none_below, rising
from eldrim.core.order.sequence import (
    BEAM_WIDTH,
    NEGLIGIBLE,
    STATE_LIMIT,
    Change,
    LoopError,
    Ordered,
    Task,
    endings,
    states_for,
    unit_cost,
)
from eldrim.core.order.take_ups import TakeUps


def sequence_blocks(
    tasks: Sequence[Task],
    in_hand: SetUp = (),
    change: Change = unit_cost,
    state_limit: int = STATE_LIMIT,
    beam_width: int = BEAM_WIDTH,
) -> Ordered:
    """Order ``tasks``, block after block, for the least total of set-up changes.

    Raises :class:`LoopError` when tasks wait for each other. Past ``state_limit`` states a beam of
    ``beam_width`` ends the search and the answer says it is not proven.
    """
    blocks = _blocks(tasks)
    limit = states_for(len(tasks), state_limit)
    return _BlockSequencer(blocks, change, limit, beam_width).run(in_hand)


def blocks_cost_at_least(
    tasks: Sequence[Task], starts: Sequence[SetUp], change: Change, least: float, state_limit: int
) -> bool:
    """Whether every order, block after block, costs ``least`` or more from any of ``starts``.

    Also no where ``state_limit`` states do not tell.
    """
    found = _BlockSequencer(_blocks(tasks), change, 0, 0)
    return all(found.costs_at_least(start, least, state_limit) for start in starts or [()])


@dataclass(frozen=True)
class _Block:
    """Tasks done together. ``waits`` are the numbers of the blocks that come first."""

    tasks: tuple[Task, ...]
    waits: frozenset[int]
    rank: tuple[float, ...]
    setups: frozenset[SetUp]


def _blocks(tasks: Sequence[Task]) -> list[_Block]:
    """The tasks by block, blocks that wait for each other as one, in rank order."""
    block_of = {task.key: task.block or task.key for task in tasks}
    edges: dict[str, set[str]] = {name: set() for name in block_of.values()}
    for task in tasks:
        edges[block_of[task.key]] |= {block_of[key] for key in task.after if key in block_of}
    groups = strongly_connected(edges)
    members: list[list[Task]] = [[] for _ in groups]
    number = {name: index for index, group in enumerate(groups) for name in group}
    for task in tasks:
        members[number[block_of[task.key]]].append(task)
    ranked = sorted(range(len(groups)), key=lambda g: min((t.rank, t.key) for t in members[g]))
    place = {group: index for index, group in enumerate(ranked)}
    return [
        _Block(
            tuple(sorted(members[group], key=lambda task: (task.rank, task.key))),
            frozenset(
                place[number[goal]]
                for name in groups[group]
                for goal in edges[name]
                if number[goal] != group
            ),
            min(task.rank for task in members[group]),
            frozenset(task.setup for task in members[group] if task.setup),
        )
        for group in ranked
    ]


class _Trail(NamedTuple):
    """What was done, the last first: a block from a set-up to an end, or all that it frees."""

    block: int
    end: int
    setup: SetUp
    before: "_Trail | None"


_State = State[_Trail | None]
_End = tuple[float, SetUp, tuple[int, ...]]
_Shape = tuple[tuple[SetUp, tuple[int, ...]], ...]


def _shape(tasks: tuple[Task, ...]) -> _Shape:
    """What the order inside a block follows from: set-ups, and what waits for what, by place."""
    place = {task.key: index for index, task in enumerate(tasks)}
    return tuple(
        (task.setup, tuple(sorted(place[key] for key in task.after if key in place)))
        for task in tasks
    )


class _BlockSequencer:
    def __init__(self, blocks: list[_Block], change: Change, limit: int, width: int) -> None:
        self.blocks, self.change, self.limit, self.width = blocks, change, limit, width
        self.needs = [sum(1 << other for other in block.waits) for block in blocks]
        self.next: list[list[int]] = [[] for _ in blocks]
        for index, block in enumerate(blocks):
            for other in block.waits:
                self.next[other].append(index)
        self.everything = (1 << len(blocks)) - 1
        self.number = 0
        self._free: dict[SetUp, int] = {}
        self._ahead: dict[tuple[int, SetUp], float] = {}
        self._ends: dict[tuple[_Shape, SetUp], list[_End]] = {}
        setups = [block.setups for block in blocks]
        self.take_ups = TakeUps(setups, Chain(self.next), change)
        self.shapes = [_shape(block.tasks) for block in blocks]
        self.alike = [(shape, tuple(self.next[i])) for i, shape in enumerate(self.shapes)]
        self.inside = self.take_ups.surplus

    def _endings(self, index: int, setup: SetUp) -> list[_End]:
        """How a block can be done from a set-up: cost, set-up in hand then, places of its tasks."""
        key = (self.shapes[index], setup)
        if key not in self._ends:
            tasks = self.blocks[index].tasks
            place = {task.key: number for number, task in enumerate(tasks)}
            self._ends[key] = [
                (cost, end, tuple(place[name] for name in order))
                for cost, end, order in endings(tasks, setup, self.change)
            ]
        return self._ends[key]

    def run(self, in_hand: SetUp) -> Ordered:
        start = self._start(in_hand)
        for state in rising(start, self.everything, self._different_next):
            if state.done == self.everything:
                return self._ordered(state, state.cost)
            if self.number >= self.limit:
                return self._ordered(self._beam(start), state.estimate)
        raise LoopError(", ".join(task.key for block in self.blocks for task in block.tasks))

    def _start(self, in_hand: SetUp) -> _State:
        ready = sum(1 << index for index, needs in enumerate(self.needs) if not needs)
        return self._absorbed(State(0.0, 0, 0.0, 0, ready, in_hand, None, sum(self.inside)))

    def costs_at_least(self, in_hand: SetUp, least: float, limit: int) -> bool:
        start, ceiling = self._start(in_hand), least - NEGLIGIBLE
        return none_below(start, self.everything, self._different_next, ceiling, limit)

    def _following(self, state: _State, blocks: int) -> list[_State]:
        return [
            self._absorbed(self._with(state, index, number, cost, setup))
            for index in bits(blocks)
            for number, (cost, setup, _) in enumerate(self._endings(index, state.setup))
        ]

    def _different_next(self, state: _State) -> list[_State]:
        return self._following(state, self._different(state.ready))

    def _likely_next(self, state: _State) -> list[_State]:
        return self._following(state, self._likely(state))

    def _different(self, ready: int) -> int:
        """The ready blocks, of those alike in all that matters only the first."""
        first = {self.alike[index]: index for index in reversed(list(bits(ready)))}
        return sum(1 << index for index in first.values())

    def _with(self, state: _State, index: int, end: int, cost: float, setup: SetUp) -> _State:
        done = state.done | 1 << index
        ready = state.ready & ~(1 << index) | self._freed(index, done)
        self.number += 1
        return State(
            0.0,
            self.number,
            state.cost + cost,
            done,
            ready,
            setup,
            _Trail(index, end, state.setup, state.trail),
            state.rest - self.inside[index],
        )

    def _freed(self, index: int, done: int) -> int:
        """The blocks that are ready once a block is done."""
        return sum(1 << later for later in self.next[index] if not self.needs[later] & ~done)

    def _absorbed(self, state: _State) -> _State:
        """Do all blocks that need nothing but what is in hand; what the rest costs at least."""
        free = self._free.get(state.setup)
        if free is None:
            free = self._free[state.setup] = self._needs_no_change(state.setup)
        doing = state.ready & free
        while doing:
            index = (doing & -doing).bit_length() - 1
            state.done |= 1 << index
            state.ready = state.ready & ~(1 << index) | self._freed(index, state.done)
            state.trail = _Trail(index, 0, state.setup, state.trail)
            doing = state.ready & free
        place = (state.done, state.setup)
        ahead = self._ahead.get(place)
        if ahead is None:
            left = self.everything & ~state.done
            ahead = self._ahead[place] = self.take_ups.at_least(left, state.setup)
        state.estimate = state.cost + state.rest + ahead
        return state

    def _needs_no_change(self, setup: SetUp) -> int:
        return sum(1 << i for i, block in enumerate(self.blocks) if block.setups <= {setup})

    def _beam(self, start: _State) -> _State:
        """The best end of a beam search that goes on with what is in hand where it can."""
        best = beam(start, self.everything, self._likely_next, self.width, _promise)
        if best is None:
            raise LoopError(", ".join(task.key for block in self.blocks for task in block.tasks))
        return best

    def _likely(self, state: _State) -> int:
        """Of the ready blocks with the same set-ups the one that frees the most."""
        chosen: dict[frozenset[SetUp], int] = {}
        for index in bits(state.ready):
            known = chosen.setdefault(self.blocks[index].setups, index)
            if len(self.next[index]) > len(self.next[known]):
                chosen[self.blocks[index].setups] = index
        going_on = [i for setups, i in chosen.items() if state.setup in setups]
        return sum(1 << index for index in going_on or chosen.values())

    def _ordered(self, end: _State, bound: float) -> Ordered:
        parts: list[tuple[str, ...]] = []
        trail = end.trail
        while trail is not None:
            tasks = self.blocks[trail.block].tasks
            places = self._endings(trail.block, trail.setup)[trail.end][2]
            parts.append(tuple(tasks[place].key for place in places))
            trail = trail.before
        order = tuple(key for part in reversed(parts) for key in part)
        return Ordered(order, end.cost, min(bound, end.cost))


def _promise(state: _State) -> tuple[float, ...]:
    """Which states a beam keeps: the least estimate, then the most done."""
    return (state.estimate, -state.done.bit_count())
