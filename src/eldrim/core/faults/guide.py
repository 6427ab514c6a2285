"""The guide through a large search: after which act least is left, as the groups have it."""

import numpy as np
from numpy.typing import NDArray

from eldrim.core.faults.exact import NO, UNDONE, YES, State
from eldrim.core.faults.problem import Search, Test
from eldrim.core.faults.shares import Act, Group, Shared

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


class Guide:
    """What no strategy goes below, and what to do in each state."""

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
        self._by_thing(groups, shared.value.shape[1])
        self._repairs = sorted(search.repairs, key=lambda one: one.key)
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

    def _by_thing(self, groups: list[Group], row: int) -> None:
        """How far a thing that is open moves the state of each group."""
        self._open = np.zeros((len(self._things), len(groups)), dtype=np.int64)
        for n, group in enumerate(groups):
            for place, thing in enumerate(group.things(self.search)):
                self._open[self._things.index(thing), n] = row << place

    def least(self, state: State) -> float:
        """What no strategy goes below from the start; from a later state on a guess of it, since
        of what is open there each group knows its dearest things only. Times how likely it is to
        come to it.
        """
        place, factor = self._place(state, self._is_open(state))
        return float(self._flat[place] @ factor)

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

    def _place(self, state: State, opened: Bools) -> tuple[Ints, Floats]:
        """Where a state stands in the table of each group, and by what that is to be multiplied."""
        said = np.array(state.said, dtype=np.int64)
        steps = self._step[self._tests, said].sum(axis=0)
        ruled_out = self._bit[self._out(state)].sum(axis=0)
        place = self._from + steps + ruled_out + self._open[opened].sum(axis=0)
        return place, self._factor[self._tests, said].prod(axis=0)

    def next(self, state: State) -> Act:
        """What to do in a state: that after which least seems to be left; of equal acts a repair,
        then the first by name.
        """
        opened = self._is_open(state)
        place, factor = self._place(state, opened)
        weight = float(self._weights(state).sum())
        left = np.concatenate(
            [
                self._after_repairs(state, opened, place, factor, weight),
                self._after_tests(state, opened, place, factor, weight),
            ]
        )
        acts: list[Act] = [*self._repairs, *self.search.tests]
        best = np.flatnonzero(left <= left.min() + 1e-12)
        found = [acts[n] for n in best]
        return min(found, key=lambda act: (isinstance(act, Test), act.key))

    def _after_repairs(
        self, state: State, opened: Bools, place: Ints, factor: Floats, weight: float
    ) -> Floats:
        """What is left after each repair, with its own minutes; of one that cures nothing: inf."""
        new = self._cures & ~self._out(state)
        opens = self._repairs_open & ~opened
        at = place + new @ self._bit + opens @ self._open
        cost = (self._minutes[0] + opens @ self._price) * weight
        left = self._flat[at] @ factor + cost
        return np.where(new.any(axis=1), left, np.inf)

    def _after_tests(
        self, state: State, opened: Bools, place: Ints, factor: Floats, weight: float
    ) -> Floats:
        """What is left after each test, over both outcomes, with its own minutes."""
        left = (self._minutes[1] + (self._tests_open & ~opened) @ self._price) * weight
        undone = np.array(state.said) == UNDONE
        at = place + (self._tests_leave & ~opened) @ self._open
        for what in (YES, NO):
            after = self._flat[at + self._step[:, what] * undone[:, None]]
            left = left + (after * self._factor[:, what]) @ factor
        return np.where(undone, left, np.inf)
