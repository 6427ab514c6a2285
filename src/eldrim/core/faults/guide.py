"""The guide through a large search: what is left after each act, as the groups have it."""

import numpy as np
from numpy.typing import NDArray

from eldrim.core.faults.exact import NO, UNDONE, YES, State
from eldrim.core.faults.problem import Search
from eldrim.core.faults.shares import Act, Group, Shared

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


class Guide:
    """What no strategy goes below from each state on. ``acts`` are repairs by name, then tests."""

    def __init__(self, search: Search) -> None:
        """Work the groups out."""
        self.search, self._tests = search, np.arange(len(search.tests))
        shared = Shared(search)
        groups = shared.groups
        self._flat, self._from = shared.value.ravel(), shared.begins
        self._things = sorted(search.opening)
        self._price = np.array([search.opening[one] for one in self._things])
        self._by_cause(groups)
        self._by_test(groups)
        self._by_thing(groups, shared)
        self._repairs = sorted(search.repairs, key=lambda one: one.key)
        self.acts: list[Act] = [*self._repairs, *search.tests]
        self._cures = np.array(
            [[n in one.cures for n in range(len(search.prior))] for one in self._repairs]
        )
        self._repairs_open = self._opened([one.opens for one in self._repairs])
        self._tests_open = self._opened([one.opens for one in search.tests])
        self._tests_leave = self._opened([one.needs for one in search.tests])
        self._behind = self._opened(list(search.behind))
        self._minutes = (
            np.array([one.minutes for one in self._repairs]),
            np.array([one.minutes for one in search.tests]),
        )

    def _opened(self, needs: list[frozenset[str]]) -> Bools:
        rows = [[one in some for one in self._things] for some in needs]
        return np.array(rows, dtype=bool).reshape(len(needs), len(self._things))

    def _by_cause(self, groups: list[Group]) -> None:
        """How far a cause that is ruled out moves the state of each group."""
        self._bit = np.zeros((len(self.search.prior), len(groups)), dtype=np.int64)
        for n, group in enumerate(groups):
            for place, cause in enumerate(group.causes):
                self._bit[cause, n] = 1 << place

    def _by_test(self, groups: list[Group]) -> None:
        """How far each outcome of a test moves the state of each group; or, where it says the same
        for all its causes, how likely it is.
        """
        shape = (len(self.search.tests), 3, len(groups))
        self._step, self._factor = np.zeros(shape, dtype=np.int64), np.ones(shape)
        every = np.array([test.yes for test in self.search.tests]).reshape(
            shape[0], len(self.search.prior)
        )
        self._likely = np.stack([np.ones_like(every), every, 1 - every], axis=1)
        for n, group in enumerate(groups):
            for place, test in enumerate(group.tests):
                self._step[test, :, n] = np.arange(3) * 3**place << len(group.causes)
            for test in set(range(shape[0])) - set(group.tests):
                self._factor[test, :, n] = self._likely[test, :, group.causes[0]]

    def _by_thing(self, groups: list[Group], shared: Shared) -> None:
        """How far a thing that is open moves the state of each group; and what others it has."""
        self._open = np.zeros((len(self._things), len(groups)), dtype=np.int64)
        self._other = np.zeros((len(self._things), len(groups)), dtype=np.int64)
        row = shared.value.shape[1]
        self._others_open = row << shared.others
        for n, group in enumerate(groups):
            for place, thing in enumerate(group.things(self.search)):
                known = place < shared.others
                self._open[self._things.index(thing), n] = row << place if known else 0
                self._other[self._things.index(thing), n] = not known

    def _begun(self, opened: Bools) -> Ints:
        """How far what is open, by row, moves the state of each group."""
        others = (opened @ self._other > 0) * self._others_open
        return np.asarray(opened @ self._open + others, dtype=np.int64)

    def least(self, state: State) -> float:
        """What no strategy goes below from a state on, times how likely it is to come to it."""
        place, factor = self._place(state)
        return float(self._flat[place + self._begun(self._is_open(state))] @ factor)

    def _weights(self, state: State) -> Floats:
        """How likely each cause is in a state, and that it is come to, together."""
        said = self._likely[self._tests, np.array(state.said, dtype=np.int64)]
        weights = np.array(self.search.prior) * said.prod(axis=0) * ~self._out(state)
        return np.asarray(weights, dtype=np.float64)

    def _out(self, state: State) -> Bools:
        bits = state.out >> np.arange(len(self.search.prior)) & 1
        return np.asarray(bits == 1, dtype=bool)

    def _is_open(self, state: State) -> Bools:
        done = np.array(state.said, dtype=np.int64) != UNDONE
        found = self._tests_leave[done].any(axis=0) | self._behind[self._out(state)].any(axis=0)
        return np.asarray(found, dtype=bool)

    def _place(self, state: State) -> tuple[Ints, Floats]:
        """Where a state stands in the table of each group with nothing open at the start, and by
        what that is to be multiplied.
        """
        said = np.array(state.said, dtype=np.int64)
        steps = self._step[self._tests, said].sum(axis=0)
        ruled_out = self._bit[self._out(state)].sum(axis=0)
        place = self._from + steps + ruled_out
        return place, self._factor[self._tests, said].prod(axis=0)

    def after(self, state: State) -> tuple[Floats, Floats]:
        """By act, as :attr:`acts` has them: its own minutes, and what no strategy goes below after
        it; both times how likely it is to come to the state. What cannot be done is inf.
        """
        opened, (place, factor) = self._is_open(state), self._place(state)
        weight = float(self._weights(state).sum())
        opens = np.concatenate([self._repairs_open, self._tests_open]) & ~opened
        own = (np.concatenate(self._minutes) + opens @ self._price) * weight
        after = [
            self._after_repairs(state, opened, place, factor),
            self._after_tests(state, opened, place, factor),
        ]
        return own, np.concatenate(after)

    def _after_repairs(self, state: State, opened: Bools, place: Ints, factor: Floats) -> Floats:
        """What is left after each repair; of one that cures nothing more: inf."""
        new = self._cures & ~self._out(state)
        at = place + new @ self._bit + self._begun(self._repairs_open | opened)
        return np.where(new.any(axis=1), self._flat[at] @ factor, np.inf)

    def _after_tests(self, state: State, opened: Bools, place: Ints, factor: Floats) -> Floats:
        """What is left after each test, over both outcomes."""
        undone = np.array(state.said) == UNDONE
        at = place + self._begun(self._tests_leave | opened)
        left = np.zeros(len(undone))
        for what in (YES, NO):
            after = self._flat[at + self._step[:, what] * undone[:, None]]
            left = left + (after * self._factor[:, what]) @ factor
        return np.where(undone, left, np.inf)
