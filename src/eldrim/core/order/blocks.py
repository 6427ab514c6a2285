"""Which part when: each part is finished before the next is begun, with the fewest changes.

Tasks belong to blocks. A block once begun is finished before another, unless parts wait for each
other's steps in turn: those are one block together. Exact by A* over (blocks done, set-up in
hand); past a limit of states a beam search ends it, and the smallest estimate left is a proven
lower limit.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from eldrim.core.base.bits import bits
from eldrim.core.base.graphs import strongly_connected
from eldrim.core.order.entries import Chain, Change, SetUp
from eldrim.core.order.frontier import Allowance, Place, State, beam, none_below, rising
from eldrim.core.order.sequence import (
    BEAM_WIDTH,
    NEGLIGIBLE,
    STATE_LIMIT,
    LoopError,
    Ordered,
    Task,
    endings,
    states_for,
    unit_cost,
)
from eldrim.core.order.take_ups import TakeUps


class _End(NamedTuple):
    """One way of doing a block: its cost, the set-up in hand then, the places of its tasks."""

    cost: float
    setup: SetUp
    places: tuple[int, ...] = ()


_Shape = tuple[tuple[SetUp, tuple[int, ...]], ...]
# How a block of some shape can be done from a set-up.
Endings = dict[tuple[_Shape, SetUp], list[_End]]


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
    tasks: Sequence[Task],
    starts: Sequence[SetUp],
    change: Change,
    least: float,
    allowance: Allowance,
    known: Endings | None = None,
) -> bool:
    """Whether every order, block after block, costs ``least`` or more from any of ``starts``.

    Also no where the places allowed do not tell. ``known`` keeps what is learned of single
    blocks for the next question with the same ``change``.
    """
    found = _BlockSequencer(_blocks(tasks), change, 0, 0, known)
    return found.costs_at_least(starts, least, allowance)


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


def _shape(tasks: tuple[Task, ...]) -> _Shape:
    """What the order inside a block follows from: set-ups, and what waits for what, by place."""
    place = {task.key: index for index, task in enumerate(tasks)}
    return tuple(
        (task.setup, tuple(sorted(place[key] for key in task.after if key in place)))
        for task in tasks
    )


class _BlockSequencer:
    def __init__(
        self,
        blocks: list[_Block],
        change: Change,
        limit: int,
        width: int,
        known: Endings | None = None,
    ) -> None:
        self.blocks, self.change, self.limit, self.width = blocks, change, limit, width
        self.needs = [sum(1 << other for other in block.waits) for block in blocks]
        self.next: list[list[int]] = [[] for _ in blocks]
        for index, block in enumerate(blocks):
            for other in block.waits:
                self.next[other].append(index)
        self.everything = (1 << len(blocks)) - 1
        self.number = 0
        self._free: dict[SetUp, int] = {}
        self._known_ahead: dict[Place, float] = {}
        self._known_different: dict[int, int] = {}
        self._known_ends = {} if known is None else known
        setups = [block.setups for block in blocks]
        self.chain = Chain(self.next)
        self.take_ups = TakeUps(setups, self.chain, change)
        self.shapes = [_shape(block.tasks) for block in blocks]
        numbers: dict[_Shape, int] = {}
        self.alike = [numbers.setdefault(shape, len(numbers)) for shape in self.shapes]
        self.later = self._later()

    def _later(self) -> list[int]:
        """For each block all that wait for it, also by way of others."""
        later = [0] * len(self.blocks)
        for index in self.chain.last_first:
            for following in self.next[index]:
                later[index] |= later[following] | 1 << following
        return later

    def _ends(self, index: int, setup: SetUp) -> list[_End]:
        """How a block that is not done with this set-up alone can be done from it."""
        setups = self.blocks[index].setups
        if len(setups) == 1:
            (only,) = setups
            return [_End(self.change(setup, only), only)]
        return self._endings(index, setup)

    def _endings(self, index: int, setup: SetUp) -> list[_End]:
        key = (self.shapes[index], setup)
        if key not in self._known_ends:
            tasks = self.blocks[index].tasks
            place = {task.key: number for number, task in enumerate(tasks)}
            self._known_ends[key] = [
                _End(cost, end, tuple(place[name] for name in order))
                for cost, end, order in endings(tasks, setup, self.change)
            ]
        return self._known_ends[key]

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
        return self._absorbed(State(0.0, 0, 0.0, 0, ready, in_hand, None))

    def costs_at_least(self, in_hand: Sequence[SetUp], least: float, allowance: Allowance) -> bool:
        starts = [self._start(setup) for setup in in_hand]
        ready = {(start.done, start.setup): start.ready for start in starts}

        def moves(place: Place) -> list[tuple[float, Place]]:
            found = []
            for index in bits(self._different(ready[place])):
                done = place[0] | 1 << index
                free = ready[place] & ~(1 << index) | self._freed(index, done)
                for cost, setup, _ in self._ends(index, place[1]):
                    closed, open_now = self._with_what_is_free(done, free, setup)
                    ready[closed, setup] = open_now
                    found.append((cost, (closed, setup)))
            return found

        ceiling = least - NEGLIGIBLE
        return none_below(list(ready), self.everything, moves, self._ahead, ceiling, allowance)

    def _with_what_is_free(self, done: int, ready: int, setup: SetUp) -> tuple[int, int]:
        """What is done and what is ready once all is done that needs no change of set-up."""
        free = self._needs_no_change(setup)
        doing = ready & free
        while doing:
            low = doing & -doing
            done |= low
            ready = ready & ~low | self._freed(low.bit_length() - 1, done)
            doing = ready & free
        return done, ready

    def _ahead(self, place: Place) -> float:
        """What is not yet done costs at least."""
        ahead = self._known_ahead.get(place)
        if ahead is None:
            left = self.everything & ~place[0]
            ahead = self._known_ahead[place] = self.take_ups.at_least(left, place[1])
        return ahead

    def _following(self, state: _State, blocks: int) -> list[_State]:
        return [
            self._absorbed(self._with(state, index, number, cost, setup))
            for index in bits(blocks)
            for number, (cost, setup, _) in enumerate(self._ends(index, state.setup))
        ]

    def _different_next(self, state: _State) -> list[_State]:
        return self._following(state, self._different(state.ready))

    def _likely_next(self, state: _State) -> list[_State]:
        return self._following(state, self._likely(state))

    def _different(self, ready: int) -> int:
        """The ready blocks but those for which another alike can be done first.

        That other frees all that this one does; in any order the two can change places. All that
        take one set-up alone are done once it is in hand, so one of them stands for all.
        """
        known = self._known_different.get(ready)
        if known is None:
            known = self._known_different[ready] = self._find_different(ready)
        return known

    def _find_different(self, ready: int) -> int:
        kept: dict[int, list[int]] = {}
        for index in bits(ready):
            known = kept.setdefault(self.alike[index], [])
            freed = self.later[index]
            if known and len(self.blocks[index].setups) == 1:
                continue
            if all(freed & ~self.later[other] for other in known):
                known[:] = [other for other in known if self.later[other] & ~freed]
                known.append(index)
        return sum(1 << index for found in kept.values() for index in found)

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
        )

    def _freed(self, index: int, done: int) -> int:
        """The blocks that are ready once a block is done."""
        freed = 0
        for later in self.next[index]:
            if not self.needs[later] & ~done:
                freed |= 1 << later
        return freed

    def _absorbed(self, state: _State) -> _State:
        """Do all blocks that need nothing but what is in hand; what the rest costs at least."""
        doing = state.ready & self._needs_no_change(state.setup)
        while doing:
            index = (doing & -doing).bit_length() - 1
            state.done |= 1 << index
            state.ready = state.ready & ~(1 << index) | self._freed(index, state.done)
            state.trail = _Trail(index, 0, state.setup, state.trail)
            doing = state.ready & self._needs_no_change(state.setup)
        state.estimate = state.cost + self._ahead((state.done, state.setup))
        return state

    def _needs_no_change(self, setup: SetUp) -> int:
        free = self._free.get(setup)
        if free is None:
            fitting = (1 << i for i, block in enumerate(self.blocks) if block.setups <= {setup})
            free = self._free[setup] = sum(fitting)
        return free

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
            places = self._endings(trail.block, trail.setup)[trail.end].places
            parts.append(tuple(tasks[place].key for place in places))
            trail = trail.before
        order = tuple(key for part in reversed(parts) for key in part)
        return Ordered(order, end.cost, min(bound, end.cost))


def _promise(state: _State) -> tuple[float, ...]:
    """Which states a beam keeps: the least estimate, then the most done."""
    return (state.estimate, -state.done.bit_count())
