"""Branch and bound over the options of hindrances, within a counted limit.

A hindrance is settled once one of its options is chosen; choosing an option opens the hindrances
it brings. A part moves in at most one way, and no part may have to be off before itself. Sets of
options and of hindrances are whole numbers, a bit for each. docs/planner.md tells the method and
why it is exact.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from eldrim.core.access.change_floor import NO_CHANGES, ChangeFloor
from eldrim.core.access.loops import find_loop, may_loop
from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.base.bits import bits

# One option more is a tie-breaker far below any real cost: of two equal sums the shorter wins.
TIE = 1000


class Answer(NamedTuple):
    """A choice of options and what it costs, changes of set-up included where they are weighed."""

    value: int
    chosen: frozenset[Option]


def by_value(answer: Answer) -> tuple[object, ...]:
    """Sort answers: the cheapest first, of equal ones the shortest."""
    return (answer.value, len(answer.chosen), sorted(answer.chosen))


@dataclass(frozen=True)
class Searched:
    """What a search found, cheapest first; every answer that is not listed costs ``bound`` or more.

    ``bound`` is None where the search looked at everything.
    """

    answers: tuple[Answer, ...]
    bound: int | None


class _State(NamedTuple):
    """A partial choice: options chosen and barred, kinds of set-up used, hindrances open."""

    chosen: int = 0
    barred: int = 0
    kinds: int = 0
    cost: int = 0
    seen: int = 0
    opened: tuple[int, ...] = ()


class Search:
    """One problem, made ready for searching. ``left`` counts the branches still allowed."""

    def __init__(self, problem: AccessProblem, limit: int, floor: ChangeFloor = NO_CHANGES) -> None:
        """Number the options and the different hindrances."""
        self.problem, self.left, self.floor = problem, limit, floor
        self.options = sorted(problem.cost)
        self.bit = {option: 1 << index for index, option in enumerate(self.options)}
        self.price = [self._price(option) for option in self.options]
        self.kinds = [sum(1 << k for k in floor.kinds.get(o, ())) for o in self.options]
        self.masks: list[int] = []
        self._ids: dict[int, int] = {}
        self.brings = [self._numbered(problem.blocks.get(o, ())) for o in self.options]
        self.roots = self._numbered(problem.roots)
        self.siblings = self._siblings()
        self.by_price = [self._sorted(mask) for mask in self.masks]

    @cached_property
    def may_loop(self) -> bool:
        """Whether any choice could make parts wait for each other."""
        return may_loop(self.problem)

    def _price(self, option: Option) -> int:
        return (self.problem.cost[option] + self.floor.own.get(option, 0)) * TIE + 1

    def _numbered(self, hindrances: tuple[MetHindrance, ...]) -> tuple[int, ...]:
        """The numbers of hindrances; those with the same options are one."""
        found: dict[int, None] = {}
        for hindrance in hindrances:
            mask = 0
            for option in hindrance.options:
                mask |= self.bit[option]
            if mask not in self._ids:
                self._ids[mask] = len(self.masks)
                self.masks.append(mask)
            found[self._ids[mask]] = None
        return tuple(found)

    def _siblings(self) -> list[int]:
        """For each way the other ways of its part."""
        of_part: dict[str, int] = {}
        for option, bit in self.bit.items():
            if option.is_way:
                of_part[option.part] = of_part.get(option.part, 0) | bit
        return [of_part[o.part] & ~self.bit[o] if o.is_way else 0 for o in self.options]

    def _sorted(self, mask: int) -> tuple[int, ...]:
        return tuple(sorted(bits(mask), key=lambda index: (self.price[index], index)))

    def least(self, without: frozenset[Option] = frozenset()) -> Searched:
        """The cheapest answer ``without`` some options, if one was found in the limit."""
        self._start(ceiling=None, without=without)
        return self._result()

    def below(self, ceiling: int) -> Searched:
        """Every answer that costs less than ``ceiling``, as far as the limit reaches."""
        self._start(ceiling)
        return self._result()

    def _start(self, ceiling: int | None, without: frozenset[Option] = frozenset()) -> None:
        self.found: list[Answer] = []
        self.bounds: list[int] = []
        self.keep_all = ceiling is not None
        self.ceiling = None if ceiling is None else (ceiling - self.floor.always) * TIE
        barred = sum(self.bit[option] for option in without)
        seen = sum(1 << block for block in self.roots)
        state = _State(barred=barred, seen=seen, opened=self.roots)
        for option in self.problem.forced:
            if state.barred & self.bit[option]:
                return
            state = self._with(state, self.options.index(option))
        self._branch(state)

    def _result(self) -> Searched:
        low = min(self.bounds, default=None)
        answers = sorted(self.found, key=by_value)
        kept = answers if self.keep_all else answers[:1]
        bound = None if low is None else low // TIE + self.floor.always
        return Searched(tuple(kept), bound)

    def _branch(self, state: _State) -> None:
        settled = self._settle(state)
        if settled is None:
            return
        bound = self._bound(settled)
        if self.ceiling is not None and bound >= self.ceiling:
            return
        if not settled.opened:
            self._close(settled)
            return
        if self.left <= 0:
            self.bounds.append(bound)
            return
        self.left -= 1
        self._try_each(settled, self._narrowest(settled))

    def _narrowest(self, state: _State) -> Iterator[int]:
        """The options left of the open hindrance that has the fewest."""
        free = ~state.barred
        block = min(state.opened, key=lambda b: ((self.masks[b] & free).bit_count(), b))
        return (index for index in self.by_price[block] if free >> index & 1)

    def _try_each(self, state: _State, options: Iterator[int]) -> None:
        """One branch for each option; later ones bar the earlier, so no set is met twice."""
        for index in list(options):
            self._branch(self._with(state, index))
            state = state._replace(barred=state.barred | 1 << index)

    def _settle(self, state: _State) -> _State | None:
        """Drop what is answered, take what is forced; None when a hindrance has no answer left."""
        changed = True
        while changed:
            changed, rest = False, []
            for position, block in enumerate(state.opened):
                mask = self.masks[block]
                if mask & state.chosen:
                    continue
                free = mask & ~state.barred
                if not free:
                    return None
                if free & (free - 1):
                    rest.append(block)
                    continue
                waiting = (*rest, *state.opened[position + 1 :])
                state = self._with(state, free.bit_length() - 1, waiting)
                changed = True
                break
            else:
                if len(rest) < len(state.opened):
                    state = state._replace(opened=tuple(rest))
        return state

    def _with(self, state: _State, index: int, opened: tuple[int, ...] | None = None) -> _State:
        """The state with one option more; ``opened`` are the hindrances still open before it."""
        chosen, barred, kinds, cost, seen, waiting = state
        waiting = waiting if opened is None else opened
        new = self.kinds[index] & ~kinds
        cost += self.price[index] + (new.bit_count() * self.floor.price * TIE if new else 0)
        for block in self.brings[index]:
            if not seen >> block & 1:
                seen |= 1 << block
                waiting = (*waiting, block)
        barred |= self.siblings[index]
        return _State(chosen | 1 << index, barred, kinds | new, cost, seen, waiting)

    def _bound(self, state: _State) -> int:
        """What any answer of this state costs at least.

        Open hindrances without a common option each cost their cheapest.
        """
        total, used = state.cost, 0
        for block in state.opened:
            free = self.masks[block] & ~state.barred
            if not free & used:
                used |= free
                total += next(self.price[i] for i in self.by_price[block] if free >> i & 1)
        return total

    def _close(self, state: _State) -> None:
        """Accept a complete choice, or break its loop with one more work-round.

        Every choice without a loop that contains this one answers at least one hindrance on the
        loop by a work-round, so trying each of them in turn misses nothing.
        """
        chosen = frozenset(self.options[index] for index in bits(state.chosen))
        loop = find_loop(self.problem, chosen) if self.may_loop else []
        if not loop:
            self.found.append(Answer(state.cost // TIE + self.floor.always, chosen))
            if not self.keep_all:
                self.ceiling = state.cost
            return
        rounds = dict.fromkeys(o for b in loop for o in b.options if not o.is_way)
        free = [o for o in rounds if not state.barred & self.bit[o]]
        if self.left <= 0 and free:
            self.bounds.append(state.cost)
            return
        self.left -= 1
        self._try_each(state, (self.options.index(o) for o in free))
