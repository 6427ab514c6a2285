"""What to do next until it is cured and proven: the tree of tests and repairs, and its worth."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache

from eldrim.core.faults.exact import (
    MAX_STATES,
    NO,
    UNDONE,
    YES,
    State,
    Table,
    after_repair,
    after_test,
    states,
)
from eldrim.core.faults.problem import Repair, Search, Test
from eldrim.core.frozen import Frozen

# What is rarer than this is repaired in order, once what was weighed exactly is ruled out.
LEAST_SEARCHED = 0.01
# What is less likely to be come to is not drawn; its minutes are counted all the same.
LEAST_DRAWN = 0.002
_TINY = 1e-12


class Branch(Frozen):
    """What an act can end in: how likely from the start, what is done then (none: it is cured)."""

    outcome: str
    chance: float
    node: "Node | None" = None


class Node(Frozen):
    """One act: ``opens`` is what it has to open, ``chance`` how likely it is come to at all."""

    act: str
    kind: str
    minutes_own: float
    minutes_access: float
    opens: tuple[str, ...]
    chance: float
    outcomes: tuple[Branch, ...] = ()


class Strategy(Frozen):
    """The tree with its expected minutes, and what no strategy goes below."""

    tree: Node
    expected: float
    bound: float

    @property
    def proven(self) -> bool:
        """Whether no strategy takes fewer minutes, as expected."""
        return self.expected <= self.bound + 1e-6


def solve(search: Search) -> Strategy:
    """The strategy with the least expected minutes; past what is weighed exactly, with a bound."""
    search = _without_useless(search)
    groups = _groups(search)
    inside = _Inside(_restricted(search, *groups[0]), *groups[0])
    table = Table(inside.search)
    found = [_Walk(search, inside, table).run()]
    bound = table.least(_start(inside.search)) + sum(_alone(search, g) for g in groups[1:])
    if len(groups) > 1 and (few := _with_few_tests(search)) is not None:
        found.append(_Walk(search, few, Table(few.search)).run())
    order, minutes = best_order(search)
    tree, expected = min(found, key=lambda one: one[1])
    if minutes < expected - 1e-9:
        tree, expected = chain(search, order), minutes
    return Strategy(tree=tree, expected=expected, bound=min(bound, expected))


# So many states are weighed beside: all causes, with the tests that tell most for their minutes.
FEW_STATES = 3**5 * 2**12


def _with_few_tests(search: Search) -> "_Inside | None":
    """All causes with as many tests as can be weighed, those first that tell most for their
    minutes; None where not even one can.
    """

    def telling(place: int) -> float:
        test = search.tests[place]
        mean = sum(p * yes for p, yes in zip(search.prior, test.yes, strict=True))
        apart = sum(p * abs(yes - mean) for p, yes in zip(search.prior, test.yes, strict=True))
        return apart / max(search.cost(test, frozenset()), 1.0)

    ranked = sorted(range(len(search.tests)), key=lambda place: (-telling(place), place))
    causes = tuple(range(len(search.prior)))
    most = len(ranked)
    while most and 3**most << len(causes) > FEW_STATES:
        most -= 1
    tests = tuple(sorted(ranked[:most]))
    return _Inside(_restricted(search, causes, tests), causes, tests) if most else None


Group = tuple[tuple[int, ...], tuple[int, ...]]


@dataclass(frozen=True)
class _Inside:
    """The part of a search that is weighed exactly: which of its causes and tests."""

    search: Search
    causes: tuple[int, ...]
    tests: tuple[int, ...]


def _start(search: Search) -> State:
    return State((UNDONE,) * len(search.tests))


def _without_useless(search: Search) -> Search:
    """Without tests that say the same whatever the cause."""
    telling = tuple(test for test in search.tests if len(set(test.yes)) > 1)
    return Search(search.prior, telling, search.repairs, search.opening)


def _groups(search: Search) -> list[Group]:
    """The causes, likeliest first, in groups that are weighed exactly with the tests that tell
    the causes of a group apart. All together where they are few enough.

    What a strategy takes is the sum over the causes, and for the causes of one group it is a
    strategy too: so the least of each group together is a bound (docs/faults.md).
    """
    ordered = sorted(range(len(search.prior)), key=lambda cause: (-search.prior[cause], cause))
    groups: list[list[int]] = [[]]
    for cause in ordered:
        grown = [*groups[-1], cause]
        if groups[-1] and 3 ** len(_telling(search, grown)) << len(grown) > MAX_STATES:
            groups.append([])
        groups[-1].append(cause)
    return [(tuple(sorted(group)), _telling(search, group)) for group in groups]


def _telling(search: Search, causes: Iterable[int]) -> tuple[int, ...]:
    """The tests that tell some of these causes apart."""
    some = tuple(causes)
    return tuple(
        place
        for place, test in enumerate(search.tests)
        if len({test.yes[cause] for cause in some}) > 1
    )


def _alone(search: Search, group: Group) -> float:
    """The least minutes of a group of causes, as if there were no others."""
    part = _restricted(search, *group)
    return Table(part).least(_start(part))


def _restricted(search: Search, causes: tuple[int, ...], tests: tuple[int, ...]) -> Search:
    """The search over some causes and tests; a repair of none of them is left out."""
    place = {cause: n for n, cause in enumerate(causes)}
    repairs = []
    for repair in search.repairs:
        cures = frozenset(place[cause] for cause in repair.cures if cause in place)
        if cures:
            repairs.append(replace(repair, cures=cures))
    return Search(
        tuple(search.prior[cause] for cause in causes),
        tuple(
            replace(t, yes=tuple(t.yes[cause] for cause in causes))
            for t in (search.tests[n] for n in tests)
        ),
        tuple(repairs),
        search.opening,
    )


class _Walk:
    """Follow the exact table on the whole search: what it leaves out is repaired at the end."""

    def __init__(self, search: Search, inside: _Inside, table: Table) -> None:
        self._search, self._inside, self._table = search, inside, table
        self._whole = {repair.key: repair for repair in search.repairs}
        self._tests = {test.key: test for test in search.tests}

    def run(self) -> tuple[Node, float]:
        start, nothing = _start(self._inside.search), frozenset[str]()
        node, minutes = self.go(start, self._search.prior, nothing, nothing)
        assert node is not None
        return node, minutes

    def go(
        self, state: State, weights: tuple[float, ...], opened: frozenset[str], done: frozenset[str]
    ) -> tuple[Node | None, float]:
        """What to do from a state on, with its expected minutes times its chance."""
        weight = sum(weights)
        if weight < _TINY:
            return None, 0.0
        if sum(self._table.belief(state)) < _TINY:
            return self._rest(weights, opened, done)
        act = self._table.next(state)
        if isinstance(act, Repair):
            return self._repair(state, self._whole[act.key], weights, opened, done)
        return self._test(state, self._tests[act.key], weights, opened, done)

    def _repair(
        self,
        state: State,
        act: Repair,
        weights: tuple[float, ...],
        opened: frozenset[str],
        done: frozenset[str],
    ) -> tuple[Node, float]:
        left = tuple(0.0 if i in act.cures else w for i, w in enumerate(weights))
        here = next(r for r in self._inside.search.repairs if r.key == act.key)
        then, minutes = self.go(after_repair(state, here), left, opened | act.needs, done)
        cost = self._search.cost(act, opened) * sum(weights)
        return _repaired(self._search, act, weights, left, opened, then), cost + minutes

    def _test(
        self,
        state: State,
        act: Test,
        weights: tuple[float, ...],
        opened: frozenset[str],
        done: frozenset[str],
    ) -> tuple[Node, float]:
        place = next(n for n, t in enumerate(self._inside.search.tests) if t.key == act.key)
        minutes = self._search.cost(act, opened) * sum(weights)
        branches = []
        for what, name in ((YES, "yes"), (NO, "no")):
            chances = act.yes if what == YES else tuple(1 - yes for yes in act.yes)
            after = tuple(w * chance for w, chance in zip(weights, chances, strict=True))
            told = after_test(state, place, what)
            node, more = self.go(told, after, opened | act.needs, done | {act.key})
            minutes += more
            branches.append(Branch(outcome=name, chance=_round(sum(after)), node=_drawn(node)))
        return _node(self._search, act, "test", weights, opened, tuple(branches)), minutes

    def _rest(
        self, weights: tuple[float, ...], opened: frozenset[str], done: frozenset[str]
    ) -> tuple[Node | None, float]:
        """What was not weighed so far: as a search of its own, or in order where it is rare."""
        left = [cause for cause, weight in enumerate(weights) if weight > _TINY]
        if sum(weights) < LEAST_SEARCHED:
            return _chained(
                self._search, greedy_order(self._search, weights, opened), weights, opened
            )
        tests = tuple(
            n for n in _telling(self._search, left) if self._search.tests[n].key not in done
        )
        part = Search(weights, self._search.tests, self._search.repairs, self._search.opening)
        inside = _Inside(_opened(_restricted(part, tuple(left), tests), opened), tuple(left), tests)
        if states(inside.search) > MAX_STATES:
            return _chained(
                self._search, greedy_order(self._search, weights, opened), weights, opened
            )
        walk = _Walk(self._search, inside, Table(inside.search))
        return walk.go(_start(inside.search), weights, opened, done)


def _opened(search: Search, opened: frozenset[str]) -> Search:
    """The same with some things open already."""
    tests = (replace(t, needs=t.needs - opened, shut=t.shut - opened) for t in search.tests)
    repairs = (replace(r, needs=r.needs - opened) for r in search.repairs)
    return Search(search.prior, tuple(tests), tuple(repairs), search.opening)


def _drawn(node: Node | None) -> Node | None:
    return node if node is not None and node.chance >= LEAST_DRAWN else None


def _round(value: float) -> float:
    return round(value, 6)


def _node(
    search: Search,
    act: Test | Repair,
    kind: str,
    weights: tuple[float, ...],
    opened: frozenset[str],
    outcomes: tuple[Branch, ...],
) -> Node:
    return Node(
        act=act.key,
        kind=kind,
        minutes_own=_round(act.minutes),
        minutes_access=_round(search.access(act.opens, opened)),
        opens=tuple(sorted(act.opens - opened)),
        chance=_round(sum(weights)),
        outcomes=outcomes,
    )


def _repaired(
    search: Search,
    act: Repair,
    weights: tuple[float, ...],
    left: tuple[float, ...],
    opened: frozenset[str],
    then: Node | None,
) -> Node:
    cured = sum(weights) - sum(left)
    branches = [Branch(outcome="cured", chance=_round(cured))]
    if sum(left) > _TINY:
        branches.append(Branch(outcome="not", chance=_round(sum(left)), node=_drawn(then)))
    return _node(search, act, "repair", weights, opened, tuple(branches))


def chain(search: Search, order: Iterable[Repair]) -> Node:
    """Repairs one after the other, as a tree."""
    node, _ = _chained(search, list(order), search.prior, frozenset())
    assert node is not None
    return node


def _chained(
    search: Search, order: list[Repair], weights: tuple[float, ...], opened: frozenset[str]
) -> tuple[Node | None, float]:
    if not order or sum(weights) < _TINY:
        return None, 0.0
    act, *rest = order
    left = tuple(0.0 if i in act.cures else w for i, w in enumerate(weights))
    then, minutes = _chained(search, rest, left, opened | act.needs)
    cost = search.cost(act, opened) * sum(weights)
    return _repaired(search, act, weights, left, opened, then), cost + minutes


def order_minutes(search: Search, order: Iterable[Repair]) -> float:
    """The expected minutes of repairs in a fixed order, each proven before the next."""
    return _chained(search, list(order), search.prior, frozenset())[1]


def greedy_order(
    search: Search, weights: tuple[float, ...] | None = None, opened: frozenset[str] = frozenset()
) -> list[Repair]:
    """Repairs by likelihood per minute, the way in still closed counted."""
    likely = search.prior if weights is None else weights
    left = frozenset(range(len(likely)))
    order: list[Repair] = []
    while left:
        offers = [
            (-sum(likely[i] for i in r.cures & left) / max(search.cost(r, opened), 1e-6), r.key, r)
            for r in search.repairs
            if r.cures & left
        ]
        best = min(offers, key=lambda offer: offer[:2])[2]
        order.append(best)
        opened |= best.needs
        left -= best.cures
    return order


def best_order(search: Search) -> tuple[list[Repair], float]:
    """The best fixed order of repairs, exactly: over every set of causes ruled out."""
    everything = frozenset(range(len(search.prior)))

    @cache
    def least(left: frozenset[int]) -> tuple[float, Repair | None]:
        if not left:
            return 0.0, None
        opened = frozenset[str]().union(*(search.behind[i] for i in everything - left))
        weight = sum(search.prior[cause] for cause in left)
        offers = [
            (search.cost(r, opened) * weight + least(left - r.cures)[0], r.key, r)
            for r in search.repairs
            if r.cures & left
        ]
        found = min(offers, key=lambda offer: (round(offer[0], 9), offer[1]))
        return found[0], found[2]

    order, left = [], everything
    while left:
        repair = least(left)[1]
        assert repair is not None
        order.append(repair)
        left -= repair.cures
    return order, least(everything)[0]
