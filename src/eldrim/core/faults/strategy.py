"""What to do next until it is cured and proven: the tree of tests and repairs, and its worth."""

from collections.abc import Iterable
from typing import Protocol

from eldrim.core.base.frozen import Frozen
from eldrim.core.faults.ahead import Ahead
from eldrim.core.faults.exact import (
    MAX_STATES,
    NO,
    UNDONE,
    YES,
    State,
    Table,
    after_repair,
    after_test,
    belief,
    opened_in,
    states,
)
from eldrim.core.faults.guide import Guide
from eldrim.core.faults.problem import Repair, Search, Test

# What is rarer than this is repaired in order, where a search is too large to be weighed whole.
LEAST_GUIDED = 0.003
# States looked at ahead: at first, and as long as it is not that close to its bound.
AHEAD, CLOSE = (500, 1000, 2500), 1.045
# What is as likely as this has several acts tried, of all others only that which seems best.
HEAVY, MOST_TRIED = 0.5, 2
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
    start = State((UNDONE,) * len(search.tests))
    if states(search) <= MAX_STATES:
        table = Table(search)
        return _solved(search, _Exactly(table), table.least(start))
    return _looked_ahead(search, Ahead(Guide(search), start))


def _looked_ahead(search: Search, ahead: Ahead) -> Strategy:
    """The best strategy met while more and more states are looked at, and the last bound."""
    found: list[Strategy] = []
    for most in AHEAD:
        ahead.look(most)
        found.append(_solved(search, _Guided(search, ahead), ahead.bound))
        best = min(found, key=lambda one: one.expected)
        if best.expected <= CLOSE * ahead.bound:
            break
    return best.model_copy(update={"bound": min(ahead.bound, best.expected)})


def _solved(search: Search, way: "_Way", bound: float) -> Strategy:
    start = State((UNDONE,) * len(search.tests))
    expected = way.choice(start)[0]
    order, minutes = best_order(search)
    if minutes < expected - 1e-9:
        return Strategy(tree=chain(search, order), expected=minutes, bound=min(bound, minutes))
    tree = _tree(search, way, start)
    assert tree is not None
    return Strategy(tree=tree, expected=expected, bound=min(bound, expected))


def _without_useless(search: Search) -> Search:
    """Without tests that say the same whatever the cause."""
    telling = tuple(test for test in search.tests if len(set(test.yes)) > 1)
    return Search(search.prior, telling, search.repairs, search.opening)


# The minutes from a state on, times its chance; and the act, none: the repairs in order.
Choice = tuple[float, Test | Repair | None]


class _Way(Protocol):
    """What to do in each state."""

    def choice(self, state: State) -> Choice:
        """The minutes and the act."""


class _Exactly:
    """By the table of all states."""

    def __init__(self, table: Table) -> None:
        self._table = table

    def choice(self, state: State) -> Choice:
        return self._table.least(state), self._table.next(state)


class _Guided:
    """By the guide, step by step: wherever repairs in order take less, by these."""

    def __init__(self, search: Search, guide: Ahead) -> None:
        self._search, self._guide = search, guide
        self._known: dict[State, Choice] = {}

    def choice(self, state: State) -> Choice:
        if state not in self._known:
            self._known[state] = self._chosen(state)
        return self._known[state]

    def _chosen(self, state: State) -> Choice:
        search, weights = self._search, belief(self._search, state)
        if sum(weights) < _TINY:
            return 0.0, None
        opened = opened_in(search, state)
        in_order = _minutes(search, greedy_order(search, weights, opened), weights, opened)
        if sum(weights) < LEAST_GUIDED:
            return in_order, None
        found: Choice = (in_order, None)
        for act in self._guide.likely(state, MOST_TRIED if sum(weights) >= HEAVY else 1):
            minutes = search.cost(act, opened) * sum(weights)
            minutes += sum(self.choice(after)[0] for after, _, _ in _outcomes(search, state, act))
            found = (minutes, act) if minutes < found[0] else found
        return found


def _outcomes(
    search: Search, state: State, act: Test | Repair
) -> list[tuple[State, str, tuple[float, ...]]]:
    """What an act can end in: the state then, its name, the weights of the causes then."""
    if isinstance(act, Repair):
        then = after_repair(state, act)
        return [(then, "not", belief(search, then))]
    place = search.tests.index(act)
    both = ((after_test(state, place, what), name) for what, name in ((YES, "yes"), (NO, "no")))
    return [(then, name, belief(search, then)) for then, name in both]


def _tree(search: Search, way: _Way, state: State) -> Node | None:
    """The tree from a state on; none where it is too rare to be drawn."""
    weights = belief(search, state)
    if _round(sum(weights)) < LEAST_DRAWN:
        return None
    opened, act = opened_in(search, state), way.choice(state)[1]
    if act is None:
        return _chained(search, greedy_order(search, weights, opened), weights, opened)[0]
    found = _outcomes(search, state, act)
    branches = [
        Branch(outcome=name, chance=_round(sum(after)), node=_tree(search, way, then))
        for then, name, after in found
    ]
    if isinstance(act, Test):
        return _node(search, act, "test", weights, opened, tuple(branches))
    cured = Branch(outcome="cured", chance=_round(sum(weights) - branches[0].chance))
    failed = branches if sum(found[0][2]) > _TINY else []
    return _node(search, act, "repair", weights, opened, (cured, *failed))


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
    return _minutes(search, order, search.prior, frozenset())


def _minutes(
    search: Search, order: Iterable[Repair], weights: tuple[float, ...], opened: frozenset[str]
) -> float:
    left, minutes = dict(enumerate(weights)), 0.0
    for act in order:
        minutes += search.cost(act, opened) * sum(left.values())
        left = {cause: weight for cause, weight in left.items() if cause not in act.cures}
        opened |= act.needs
    return minutes


def greedy_order(
    search: Search, weights: tuple[float, ...] | None = None, opened: frozenset[str] = frozenset()
) -> list[Repair]:
    """Repairs by likelihood per minute, the way in still closed counted."""
    likely = search.prior if weights is None else weights
    left = frozenset(range(len(likely)))
    order: list[Repair] = []
    while left:
        offers = [
            (-sum([likely[i] for i in cured]) / max(search.cost(r, opened), 1e-6), r.key, r)
            for r in search.repairs
            if (cured := r.cures & left)
        ]
        best = min(offers, key=lambda offer: offer[:2])[2]
        order.append(best)
        opened |= best.needs
        left -= best.cures
    return order


def best_order(search: Search) -> tuple[list[Repair], float]:
    """The best fixed order of repairs, exactly: over every set of causes ruled out, as bits."""
    count = len(search.prior)
    everything = (1 << count) - 1
    named = sorted(search.repairs, key=lambda one: one.key)
    repairs = [(sum(1 << cause for cause in one.cures), one) for one in named]
    opened, weight = [frozenset[str]()], [1.0 * sum(search.prior)]
    for out in range(1, everything + 1):
        last, cause = out & (out - 1), (out & -out).bit_length() - 1
        opened.append(opened[last] | search.behind[cause])
        weight.append(weight[last] - search.prior[cause])
    least, first = [0.0] * (everything + 1), list[Repair | None]([None] * (everything + 1))
    for out in range(everything - 1, -1, -1):
        found: list[tuple[float, Repair]] = []
        for bits, repair in repairs:
            if bits & ~out:
                minutes = search.cost(repair, opened[out]) * weight[out]
                found.append((minutes + least[out | bits], repair))
        least[out], first[out] = min(found, key=lambda one: round(one[0], 9))
    order: list[Repair] = []
    out = 0
    while (chosen := first[out]) is not None:
        order.append(chosen)
        out |= sum(1 << cause for cause in chosen.cures)
    return order, least[0]
