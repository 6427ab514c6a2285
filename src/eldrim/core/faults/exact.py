"""The strategy with the least expected minutes, exactly: over all that can be seen and done.

What was seen and what was repaired decide the belief, whatever the order; what was done decides
what is open. So a state is which tests said what, and which causes are ruled out by repairs. The
value of a state is weighted by how likely it is to come to it: a test then adds the values of both
outcomes, and a repair the value of the state without the causes it cures. All states are worked out
from those where everything is known back to the first, by numpy.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from eldrim.core.faults.problem import Repair, Search, Test
from eldrim.core.words.messages import gettext

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# States that are worked out at most: nine tests with seven causes, or eight with nine.
MAX_STATES = 3**8 * 2**9
UNDONE, YES, NO = 0, 1, 2


@dataclass(frozen=True)
class State:
    """What each test said (not done, yes, no), and the causes repairs have ruled out, as bits."""

    said: tuple[int, ...]
    out: int = 0


class Table:
    """The least expected minutes from every state of a search, weighted by coming to it."""

    def __init__(self, search: Search) -> None:
        """Work every state out. Raises :class:`ValueError` past :data:`MAX_STATES`."""
        if states(search) > MAX_STATES:
            raise ValueError(gettext("too many states"))
        self.search = search
        self._tests, self._causes = len(search.tests), len(search.prior)
        # Both in an order in which what an act leads to comes later: layers are slices.
        self._step = 3 ** np.arange(self._tests, dtype=np.int64)
        codes = np.arange(3**self._tests, dtype=np.int64)
        said = codes[:, None] // self._step % 3
        order = np.argsort((said > 0).sum(axis=1), kind="stable")
        self._said, self._rows = said[order], np.argsort(order)
        self._sets = np.array(sorted(range(1 << self._causes), key=int.bit_count), dtype=np.int64)
        self._columns = np.argsort(self._sets)
        self.likely = self._likelihoods()
        still_in = (self._sets[None, :] >> np.arange(self._causes)[:, None]) & 1 == 0
        self._weight = self.likely @ still_in.astype(np.float64)
        self._done = (self._said > 0) @ (1 << np.arange(self._tests, dtype=np.int64))
        self._costs = self._cost_tables()
        self._value = self._values()

    def _likelihoods(self) -> Floats:
        """By state of the tests and cause: its chance times what it makes of the outcomes."""
        likely = np.tile(np.array(self.search.prior), (len(self._said), 1))
        for place, test in enumerate(self.search.tests):
            yes = np.array(test.yes)
            told = np.stack([np.ones(self._causes), yes, 1 - yes])
            likely = likely * told[self._said[:, place]]
        return likely

    def _cost_tables(self) -> dict[str, Floats]:
        """The minutes of each act, by the set of tests done and by the causes ruled out."""
        names = sorted(self.search.opening)
        bit = {name: 1 << place for place, name in enumerate(names)}

        def bits(needs: frozenset[str]) -> int:
            return sum(bit[name] for name in needs)

        price = np.zeros(1 << len(names))
        for place, name in enumerate(names):
            price += (np.arange(len(price)) >> place & 1) * self.search.opening[name]
        by_tests = _united([bits(test.needs) for test in self.search.tests])
        by_repairs = _united([bits(needs) for needs in self.search.behind])[self._sets]
        opened = by_tests[:, None] | by_repairs[None, :]
        acts: tuple[Test | Repair, ...] = (*self.search.tests, *self.search.repairs)
        return {act.key: act.minutes + price[bits(act.opens) & ~opened] for act in acts}

    def _values(self) -> Floats:
        value = np.zeros((len(self._said), len(self._sets)))
        rows = _layers((self._said > 0).sum(axis=1), self._tests)
        columns = _layers(np.array([int(one).bit_count() for one in self._sets]), self._causes)
        both = [self._after_tests(layer) for layer in rows]
        # Where all causes are ruled out nothing is left to do.
        for out in reversed(columns[:-1]):
            new = [self._columns[self._sets[out] | _bits_of(r)] for r in self.search.repairs]
            for layer, after in zip(reversed(rows), reversed(both), strict=True):
                value[layer, out] = self._least(value, layer, out, new, after)
        return value

    def _after_tests(self, layer: slice) -> list[tuple[Ints, Ints, Ints]]:
        """For each test, the states of a layer it can be done in, and where yes and no lead to."""
        codes, found = self._said[layer] @ self._step, []
        for place, step in enumerate(self._step):
            some = np.flatnonzero(self._said[layer, place] == UNDONE)
            yes, no = (self._rows[codes[some] + what * step] for what in (YES, NO))
            found.append((some, yes, no))
        return found

    def _least(
        self,
        value: Floats,
        layer: slice,
        out: slice,
        new: list[Ints],
        after: list[tuple[Ints, Ints, Ints]],
    ) -> Floats:
        """The least of all that can be done next, in each of these states."""
        weight, done = self._weight[layer, out], self._done[layer]
        least = np.full(weight.shape, np.inf)
        for repair, columns in zip(self.search.repairs, new, strict=True):
            # A repair of what is ruled out already leads nowhere.
            leads = np.flatnonzero(columns != np.arange(out.start, out.stop))
            cost = self._costs[repair.key][done, out][:, leads] * weight[:, leads]
            cost += value[layer][:, columns[leads]]
            least[:, leads] = np.minimum(least[:, leads], cost)
        for test, (some, yes, no) in zip(self.search.tests, after, strict=True):
            if len(some):
                cost = self._costs[test.key][done[some], out] * weight[some]
                cost += value[yes, out] + value[no, out]
                least[some] = np.minimum(least[some], cost)
        return least

    def least(self, state: State) -> float:
        """The expected minutes from a state on, times how likely it is to come to it."""
        return float(self._value[self._row(state), self._columns[state.out]])

    def _row(self, state: State) -> int:
        return int(self._rows[int(np.array(state.said, dtype=np.int64) @ self._step)])

    def next(self, state: State) -> Test | Repair:
        """What to do in a state: of equal acts a repair, then the first by name."""
        opened = opened_in(self.search, state)
        weight = sum(belief(self.search, state))
        offers: list[tuple[float, int, str, Test | Repair]] = []
        for repair in self.search.repairs:
            then = after_repair(state, repair)
            if then.out != state.out:
                cost = self.search.cost(repair, opened) * weight + self.least(then)
                offers.append((round(cost, 9), 0, repair.key, repair))
        for place, test in enumerate(self.search.tests):
            if state.said[place] == UNDONE:
                both = sum(self.least(after_test(state, place, what)) for what in (YES, NO))
                cost = self.search.cost(test, opened) * weight + both
                offers.append((round(cost, 9), 1, test.key, test))
        return min(offers, key=lambda offer: offer[:3])[3]


def opened_in(search: Search, state: State) -> frozenset[str]:
    """What is open in a state."""
    found = [test.needs for test, said in zip(search.tests, state.said, strict=True) if said]
    found += [needs for cause, needs in enumerate(search.behind) if state.out >> cause & 1]
    return frozenset[str]().union(*found)


def belief(search: Search, state: State) -> tuple[float, ...]:
    """How likely each cause is in a state, and that it is come to, together."""
    likely = [0.0 if state.out >> n & 1 else p for n, p in enumerate(search.prior)]
    for test, said in zip(search.tests, state.said, strict=True):
        if said:
            told = test.yes if said == YES else tuple(1 - yes for yes in test.yes)
            likely = [p * chance for p, chance in zip(likely, told, strict=True)]
    return tuple(likely)


def _layers(counts: Ints, most: int) -> list[slice]:
    """Where each count from nothing to the most stands in what is sorted by it."""
    starts = np.searchsorted(counts, np.arange(most + 2))
    return [slice(int(starts[n]), int(starts[n + 1])) for n in range(most + 1)]


def _bits_of(repair: Repair) -> int:
    return sum(1 << cause for cause in repair.cures)


def _united(masks: list[int]) -> Ints:
    """For each set of places the union of their masks."""
    found = np.zeros(1 << len(masks), dtype=np.int64)
    for place, mask in enumerate(masks):
        found |= (np.arange(len(found)) >> place & 1) * mask
    return found


def states(search: Search) -> int:
    """How many states there are."""
    return int(3 ** len(search.tests)) << len(search.prior)


def after_test(state: State, place: int, what: int) -> State:
    """The state once a test said this."""
    return State((*state.said[:place], what, *state.said[place + 1 :]), state.out)


def after_repair(state: State, repair: Repair) -> State:
    """The state once a repair did not cure it."""
    return State(state.said, state.out | _bits_of(repair))
