"""A large search looked at ahead: from the start on, state by state, where it matters most.

What no strategy goes below from a state on is known more exactly once its acts are looked at: it
is the least, over them, of their own minutes and what is left after. So the states that the
strategy comes to which seems best are looked at one after the other, those that weigh most first,
and what is learned goes back to the start (docs/faults.md).
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from eldrim.core.faults.exact import NO, YES, State, after_repair, after_test
from eldrim.core.faults.guide import Guide
from eldrim.core.faults.problem import Repair
from eldrim.core.faults.shares import Act

Floats = NDArray[np.float64]
# Of the states the best strategy comes to a part at a time is looked at, none that weighs far less
# than the one that weighs most.
PART, FAR_LESS = 4, 0.3
_TINY = 1e-9


@dataclass
class _Seen:
    """A state looked at: by act its own minutes, what is left at least with them, where it leads.

    ``least`` is what no strategy goes below from here on.
    """

    own: Floats
    left: Floats
    least: float
    leads: dict[int, tuple[State, ...]] = field(default_factory=dict)

    @property
    def best(self) -> int:
        """The act with which least seems to be left: of equal ones the first."""
        return int(self.left.argmin())


class Ahead:
    """What is learned of a search by looking ahead."""

    def __init__(self, guide: Guide, start: State) -> None:
        """Look at the start."""
        self._guide, self._start = guide, start
        self._seen: dict[State, _Seen] = {}
        self._taken_for: dict[State, float] = {}
        self._look_at(start)

    def look(self, most: int) -> None:
        """Look at the states that matter, until so many were looked at or none is left."""
        while len(self._seen) < most:
            edge = self._edge()
            if not edge:
                break
            heaviest = max(edge.values())
            heavy = sorted(edge, key=lambda one: (-edge[one], one.said, one.out))
            for state in heavy[: max(PART, len(heavy) // PART)]:
                if edge[state] >= FAR_LESS * heaviest:
                    self._look_at(state)

    @property
    def bound(self) -> float:
        """What no strategy goes below."""
        return self._seen[self._start].least

    def likely(self, state: State, most: int) -> list[Act]:
        """What to do in a state, at most so many: the acts after which least seems to be left."""
        left = (self._seen.get(state) or self._looked(state)).left
        best = np.argsort(left, kind="stable")[:most]
        return [self._guide.acts[n] for n in best if np.isfinite(left[n])]

    def _looked(self, state: State) -> _Seen:
        own, after = self._guide.after(state)
        left = own + after
        return _Seen(own, left, max(float(left.min()), self._least(state)))

    def _look_at(self, state: State) -> None:
        self._seen[state] = self._looked(state)

    def _least(self, state: State) -> float:
        if state in self._seen:
            return self._seen[state].least
        if state not in self._taken_for:
            self._taken_for[state] = self._guide.least(state)
        return self._taken_for[state]

    def _edge(self) -> dict[State, float]:
        """The states the best strategy comes to that were not looked at, and what they weigh."""
        edge: dict[State, float] = {}
        self._settle(self._start, edge, set())
        return edge

    def _settle(self, state: State, edge: dict[State, float], met: set[State]) -> None:
        """Bring what is known of a state, and of all that it leads to, up to date."""
        seen = self._seen.get(state)
        if seen is None:
            if self._least(state) > _TINY:
                edge[state] = self._least(state)
            return
        if state in met:
            return
        met.add(state)
        act = self._chosen(state, seen)
        while True:
            for after in seen.leads[act]:
                self._settle(after, edge, met)
            again = self._chosen(state, seen)
            if again == act:
                break
            act = again
        seen.least = max(seen.least, float(seen.left[act]))

    def _chosen(self, state: State, seen: _Seen) -> int:
        """The best act by what is known now of where it leads."""
        while True:
            act = seen.best
            if act not in seen.leads:
                seen.leads[act] = self._after(state, self._guide.acts[act])
            found = float(seen.own[act]) + sum(map(self._least, seen.leads[act]))
            if found <= seen.left[act] + _TINY:
                return act
            seen.left[act] = found

    def _after(self, state: State, act: Act) -> tuple[State, ...]:
        if isinstance(act, Repair):
            return (after_repair(state, act),)
        place = self._guide.search.tests.index(act)
        return tuple(after_test(state, place, what) for what in (YES, NO))
