"""A bound for a search that is too large to be worked out whole, and what it says of each state.

What a strategy takes is a sum over the causes and the acts. Each part of it is shared out among
groups of causes, and for the causes of one group every strategy is a strategy too, with its share
of the minutes; so the least of each group, added up, is never more than the least of all. Every two
causes stand in one group together: what is done for the one while it is the other is counted.
Which group takes how much is settled round by round: more, where the act is done more often
(docs/faults.md).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from eldrim.core.faults.exact import NO, UNDONE, YES
from eldrim.core.faults.problem import Repair, Search, Test

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Act = Test | Repair
# States that all groups have together at most.
MAX_SHARED = 60_000
# Things a group tells open from closed at its start: the dearest. The others count as open all
# together as soon as one is.
MOST_OPEN = 2
# How often the shares are settled anew, and how far they move at first.
ROUNDS, STRIDE = 10, 4.0
_TINY = 1e-12


@dataclass(frozen=True)
class Group:
    """Some causes, the tests that tell them apart, the repairs that cure some of them: by their
    places in the search.
    """

    causes: tuple[int, ...]
    tests: tuple[int, ...]
    repairs: tuple[int, ...]

    @property
    def states(self) -> int:
        """How many there are."""
        return int(3 ** len(self.tests)) << len(self.causes)

    def acts(self, search: Search) -> list[Act]:
        """All that can be done in it: repairs, then tests."""
        return [*(search.repairs[n] for n in self.repairs), *(search.tests[n] for n in self.tests)]

    def things(self, search: Search) -> tuple[str, ...]:
        """All that it opens, the dearest first."""
        opened = {one for act in self.acts(search) for one in act.opens if search.opening[one]}
        return tuple(sorted(opened, key=lambda one: (-search.opening[one], one)))


def group_of(search: Search, causes: tuple[int, ...]) -> Group:
    """The group of some causes."""
    tests = tuple(
        n for n, test in enumerate(search.tests) if len({test.yes[cause] for cause in causes}) > 1
    )
    repairs = tuple(n for n, repair in enumerate(search.repairs) if repair.cures & set(causes))
    return Group(causes, tests, repairs)


def groups_of(search: Search) -> list[Group]:
    """Groups in which every two causes stand together, as large as can be worked out.

    The causes, likeliest first, are dealt to blocks; each two blocks are a group. Where even two
    causes with all that tells them apart are too many, they stand in none together.
    """
    causes = sorted(range(len(search.prior)), key=lambda cause: (-search.prior[cause], cause))
    groups = [group_of(search, tuple(sorted(causes)))] if len(causes) < 3 else []
    for count in range(3, len(causes) + 1):
        blocks = [causes[start::count] for start in range(count)]
        pairs = [tuple(sorted(one + other)) for one, other in combinations(blocks, 2)]
        groups = [group_of(search, pair) for pair in pairs]
        if sum(group.states for group in groups) <= MAX_SHARED:
            return groups
    return _few(search, groups)


def _few(search: Search, groups: list[Group]) -> list[Group]:
    """The smallest of the groups, and each cause that is left over by itself."""
    kept: list[Group] = []
    for group in sorted(groups, key=lambda one: (one.states, one.causes)):
        if sum(one.states for one in kept) + group.states <= MAX_SHARED:
            kept.append(group)
    alone = set(range(len(search.prior))) - {cause for group in kept for cause in group.causes}
    return kept + [group_of(search, (cause,)) for cause in sorted(alone)]


class _States:
    """The states of one group: what its tests said, to the base three, times what is ruled out.

    Arrays are by state, or by act and state. What cannot be done any more leads nowhere: to -1.
    """

    def __init__(self, search: Search, group: Group) -> None:
        sets, codes = 1 << len(group.causes), 3 ** len(group.tests)
        self._out = np.tile(np.arange(sets, dtype=np.int64), codes)
        code = np.repeat(np.arange(codes, dtype=np.int64), sets)
        self._said = [code // 3**place % 3 for place in range(len(group.tests))]
        bits = self._out[:, None] >> np.arange(len(group.causes)) & 1
        self._still = bits == 0
        self.left = self._still.sum(axis=1)
        done = sum((said > 0).astype(np.int64) for said in self._said)
        self.level = np.asarray(bits.sum(axis=1) + done, dtype=np.int64)
        self.likely = self._likelihoods(search, group)
        self.repaired = self._repaired(search, group)
        self.tested = self._tested(group)
        self.opened = self._opened(search, group)

    def _likelihoods(self, search: Search, group: Group) -> Floats:
        """By state and cause: its chance times what it makes of the outcomes; 0 if ruled out."""
        causes = list(group.causes)
        likely = np.array(search.prior)[causes] * self._still
        for said, test in zip(self._said, group.tests, strict=True):
            yes = np.array(search.tests[test].yes)[causes]
            likely = likely * np.stack([np.ones(len(causes)), yes, 1 - yes])[said]
        return np.asarray(likely, dtype=np.float64)

    def _repaired(self, search: Search, group: Group) -> list[tuple[Ints, ...]]:
        """Where each repair leads that does not cure it."""
        here = np.arange(len(self._out), dtype=np.int64)
        found: list[tuple[Ints, ...]] = []
        for repair in (search.repairs[n] for n in group.repairs):
            bits = sum(1 << n for n, one in enumerate(group.causes) if one in repair.cures)
            to = here - self._out + (self._out | bits)
            found.append((np.where(to != here, to, -1),))
        return found

    def _tested(self, group: Group) -> list[tuple[Ints, ...]]:
        """Where each test leads, by both outcomes; nowhere once one cause at most is left."""
        here = np.arange(len(self._out), dtype=np.int64)
        found: list[tuple[Ints, ...]] = []
        for place, said in enumerate(self._said):
            step, useful = 3**place << len(group.causes), (said == UNDONE) & (self.left > 1)
            yes, no = (np.where(useful, here + what * step, -1) for what in (YES, NO))
            found.append((yes, no))
        return found

    def _opened(self, search: Search, group: Group) -> dict[str, Bools]:
        """For each thing its acts open, where it is open."""
        found = {}
        for thing in {one for act in group.acts(search) for one in act.opens}:
            opened = np.zeros(len(self._out), dtype=bool)
            for said, test in zip(self._said, group.tests, strict=True):
                opened |= (said > 0) & (thing in search.tests[test].opens)
            for place, cause in enumerate(group.causes):
                opened |= ~self._still[:, place] & (thing in _left_open(search, group, cause))
            found[thing] = opened
        return found


def _left_open(search: Search, group: Group, cause: int) -> frozenset[str]:
    """What is open once a cause is ruled out: also what one of its repairs opens for a cause
    outside the group.
    """
    found = search.behind[cause]
    for repair in (search.repairs[n] for n in group.repairs):
        if cause in repair.cures:
            here = repair.cures & set(group.causes)
            known = frozenset[str]().union(*(search.behind[one] for one in here))
            found |= repair.needs - known
    return found


@dataclass(frozen=True)
class _Acts:
    """The repairs, or the tests, of all groups, in slots: by group and slot its minutes and what it
    opens; by cause too, whose share it is (as a number; -1: nobody's).

    ``at`` are the states where any of them can be done, ``rows`` where those of a group stand
    among them; ``leads`` is by outcome, slot and such a state, to a state or to the end of the row.
    """

    minutes: Floats
    needs: Floats
    who: Ints
    at: Ints
    rows: tuple[slice, ...]
    leads: tuple[Ints, ...]
    can: Bools
    likely: Floats

    def cost(self, shares: Floats, opening: Floats, dear: Floats) -> Floats:
        """By slot and state, the share of the minutes times the chance of coming there.

        ``dear`` is by thing and state of the whole row: its price where it is closed.
        """
        cost, dear = np.empty(self.can.shape), dear[:, self.at]
        for n, row in enumerate(self.rows):
            likely = self.likely[:, row]
            cost[:, row] = (shares[n] * self.minutes[n][:, None]) @ likely
            cost[:, row] += self.needs[n] @ ((opening[n] @ likely) * dear[:, row])
        cost[~self.can] = np.inf
        return cost


@dataclass(frozen=True)
class _Layer:
    """States from which nothing leads to one another: in the row, among those where something can
    be repaired or tested; and by slot where repairs and both outcomes of tests lead from them.
    """

    here: Ints
    repaired: Ints
    tested: Ints
    by_repair: Ints
    by_test: tuple[Ints, ...]


# The shares of repairs, of tests, and of what is opened: by group, by slot or thing, by cause.
Parts = tuple[Floats, Floats, Floats]


class Shared:
    """All groups side by side: their states in one row, so that a round is a few sums.

    ``value`` is by what is open at the start and by state: a bit for each of a group's dearest
    things, and a last one, the ``others``-th, for all others.
    """

    def __init__(self, search: Search) -> None:
        """Work all groups out, round by round."""
        self.search, self.groups = search, groups_of(search)
        self.begins = np.cumsum([0, *(one.states for one in self.groups[:-1])]).astype(np.int64)
        self._things = sorted(one for one, price in search.opening.items() if price > 0)
        self._names: dict[tuple[str, int], int] = {}
        parts = [_States(search, group) for group in self.groups]
        self._count = sum(group.states for group in self.groups)
        self._group = np.repeat(np.arange(len(parts)), [group.states for group in self.groups])
        self._lay_out(parts)
        self._whose = self._openings()
        shares = self._settled()
        most = max(len(group.things(search)) for group in self.groups)
        self.others = min(most, MOST_OPEN)
        starts = range(1 << min(most, MOST_OPEN + 1))
        self.value = np.stack([self._least(self._costs(shares, start))[0] for start in starts])

    def _lay_out(self, parts: list[_States]) -> None:
        """The row of all states: how likely each is by cause, what is open, where acts lead."""
        most = max(len(group.causes) for group in self.groups)
        self._likely = np.zeros((most, self._count))
        self._prior = np.ones((len(parts), most))
        self._opened = np.zeros((len(self._things), self._count), dtype=bool)
        for n, part in enumerate(parts):
            row = slice(self.begins[n], self.begins[n] + len(part.left))
            self._likely[: part.likely.shape[1], row] = part.likely.T
            prior = [max(self.search.prior[cause], _TINY) for cause in self.groups[n].causes]
            self._prior[n, : len(prior)] = prior
            for place, thing in enumerate(self._things):
                if thing in part.opened:
                    self._opened[place, row] = part.opened[thing]
        left = np.concatenate([one.left for one in parts])
        going, open_ = np.flatnonzero(left > 0), np.flatnonzero(left > 1)
        self._repairs = self._in_slots([one.repaired for one in parts], going, which=0)
        self._tests = self._in_slots([one.tested for one in parts], open_, which=1)
        level = np.concatenate([one.level for one in parts])
        among = np.full((2, self._count), -1)
        among[0, going], among[1, open_] = np.arange(len(going)), np.arange(len(open_))
        layers = [open_[level[open_] == depth] for depth in range(int(level.max()) + 1)]
        self._layers = [self._layer(here, among) for here in layers]
        alone = np.flatnonzero(left == 1)
        self._alone = alone, among[0, alone]

    def _layer(self, here: Ints, among: Ints) -> _Layer:
        repaired, tested = among[:, here]
        by_test = tuple(leads[:, tested] for leads in self._tests.leads)
        return _Layer(here, repaired, tested, self._repairs.leads[0][:, repaired], by_test)

    def _in_slots(self, leads: list[list[tuple[Ints, ...]]], at: Ints, which: int) -> _Acts:
        """The repairs (0) or tests (1) of all groups, with where each leads."""
        most = max(1, *(len(one) for one in leads))
        shape = (len(leads), most)
        minutes, needs = np.zeros(shape), np.zeros((*shape, len(self._things)))
        who = np.full((*shape, len(self._likely)), -1)
        to = np.full((1 + which, most, self._count), self._count)
        for n, (group, mine) in enumerate(zip(self.groups, leads, strict=True)):
            row = slice(self.begins[n], self.begins[n] + group.states)
            acts = [act for act in group.acts(self.search) if isinstance(act, Test) == bool(which)]
            for slot, (act, both) in enumerate(zip(acts, mine, strict=True)):
                minutes[n, slot] = act.minutes
                needs[n, slot] = [one in act.opens for one in self._things]
                who[n, slot, : len(group.causes)] = self._numbers(f"act {act.key}", group)
                for outcome, led in enumerate(both):
                    to[outcome, slot, row] = np.where(led >= 0, led + row.start, self._count)
        ends = np.searchsorted(at, [*self.begins, self._count])
        rows = tuple(slice(a, b) for a, b in pairwise(ends))
        leading = tuple(one[:, at] for one in to)
        can = leading[0] < self._count
        return _Acts(minutes, needs, who, at, rows, leading, can, self._likely[:, at])

    def _numbers(self, name: str, group: Group) -> list[int]:
        """By cause of a group, the number of what is shared out."""
        names = self._names
        return [names.setdefault((name, cause), len(names)) for cause in group.causes]

    def _openings(self) -> Ints:
        """By group, thing and cause whose share it is."""
        whose = np.full((len(self.groups), len(self._things), len(self._likely)), -1)
        for n, group in enumerate(self.groups):
            opened = {one for act in group.acts(self.search) for one in act.opens}
            for place, thing in enumerate(self._things):
                if thing in opened:
                    whose[n, place, : len(group.causes)] = self._numbers(thing, group)
        return whose

    def _closed(self, start: int) -> Bools:
        """Where each thing is closed, with these bits of each group's things open at the start."""
        closed = ~self._opened
        for n, group in enumerate(self.groups):
            for place, thing in enumerate(group.things(self.search)):
                if start >> min(place, MOST_OPEN) & 1:
                    row = slice(self.begins[n], self.begins[n] + group.states)
                    closed[self._things.index(thing), row] = False
        return closed

    def _costs(self, shares: Parts, start: int) -> tuple[Floats, Floats]:
        """What repairs and tests cost, with these bits of each group's things open."""
        prices = np.array([self.search.opening[one] for one in self._things])
        dear = self._closed(start) * prices[:, None]
        repairs, tests, opening = shares
        return self._repairs.cost(repairs, opening, dear), self._tests.cost(tests, opening, dear)

    def _least(self, costs: tuple[Floats, Floats]) -> tuple[Floats, Ints]:
        """The least from every state on, and the slot that begins it: repairs, then tests."""
        value, first = np.zeros(self._count + 1), np.full(self._count, -1)
        alone, repaired_alone = self._alone
        last = costs[0][:, repaired_alone]
        first[alone], value[alone] = last.argmin(axis=0), last.min(axis=0)
        for layer in reversed(self._layers):
            repaired = costs[0][:, layer.repaired] + value[layer.by_repair]
            yes, no = (value[leads] for leads in layer.by_test)
            found = np.concatenate([repaired, costs[1][:, layer.tested] + yes + no])
            first[layer.here] = found.argmin(axis=0)
            value[layer.here] = found.min(axis=0)
        return value, first

    def _settled(self) -> Parts:
        """The shares after all rounds: those with which the bound is highest."""
        shares = self._scaled([np.ones(who.shape) for who in self._all_who()])
        best, found = -np.inf, shares
        for turn in range(ROUNDS):
            value, first = self._least(self._costs(shares, 0))
            bound = float(value[self.begins].sum())
            if bound > best:
                best, found = bound, shares
            stride = STRIDE / sqrt(1 + turn)
            used = self._used(first)
            shares = self._scaled(
                [share * np.exp(stride * by) for share, by in zip(shares, used, strict=True)]
            )
        return found

    def _all_who(self) -> tuple[Ints, Ints, Ints]:
        return self._repairs.who, self._tests.who, self._whose

    def _scaled(self, shares: Sequence[Floats]) -> Parts:
        """Shares that make up one for each act, or thing, and cause."""
        whole = np.zeros(len(self._names) + 1)
        for who, share in zip(self._all_who(), shares, strict=True):
            np.add.at(whole, who, np.where(who >= 0, share, 0.0))
        whole[whole == 0] = 1.0
        one, two, three = (
            np.where(who >= 0, share / whole[who], 0.0)
            for who, share in zip(self._all_who(), shares, strict=True)
        )
        return one, two, three

    def _used(self, first: Ints) -> Parts:
        """How likely each act is done, and each thing opened, in each group for each cause."""
        at, slots = self._reached(first), self._repairs.minutes.shape[1]
        group, closed = self._group[at], ~self._opened[:, at]
        tested = first[at] >= slots
        found = [np.zeros(who.shape) for who in self._all_who()]
        for which, acts, some in ((0, self._repairs, ~tested), (1, self._tests, tested)):
            of, slot = group[some], first[at][some] - slots * which
            opens = acts.needs[of, slot].T * closed[:, some]
            for place, likely in enumerate(self._likely[:, at[some]]):
                weight = likely / self._prior[of, place]
                np.add.at(found[which][:, :, place], (of, slot), weight)
                for thing, opened in enumerate(opens):
                    np.add.at(found[2][:, thing, place], of, weight * opened)
        return found[0], found[1], found[2]

    def _reached(self, first: Ints) -> Ints:
        """The states that the least strategies of the groups come to."""
        reached = np.zeros(self._count + 1, dtype=bool)
        reached[self.begins] = True
        slots = self._repairs.minutes.shape[1]
        for layer in self._layers:
            come = reached[layer.here]
            slot, at = first[layer.here][come], np.flatnonzero(come)
            by_test = slot >= slots
            reached[layer.by_repair[slot[~by_test], at[~by_test]]] = True
            for leads in layer.by_test:
                reached[leads[slot[by_test] - slots, at[by_test]]] = True
        return np.flatnonzero(reached[:-1] & (first >= 0))
