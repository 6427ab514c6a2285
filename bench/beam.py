"""A plain beam search for the order of steps: the baseline our sequencer is held against."""

from collections.abc import Callable, Sequence

from eldrim.core.order.entries import SetUp
from eldrim.core.order.sequence import Task

WIDTH = 60
State = tuple[float, int, SetUp, frozenset[str]]


def least_changes(
    tasks: Sequence[Task], in_hand: SetUp, change: Callable[[SetUp, SetUp], float]
) -> float:
    """The cost that a beam of width 60 finds: cheapest states first, of equal ones the fullest."""
    level = [_absorbed(tasks, 0.0, in_hand, frozenset())]
    best = float("inf")
    while level:
        following: dict[tuple[frozenset[str], SetUp], State] = {}
        for cost, _, setup, done in level:
            ready = {t.setup for t in tasks if t.setup and t.key not in done and t.after <= done}
            for new in ready:
                state = _absorbed(tasks, cost + change(setup, new), new, done)
                place = (state[3], new)
                if place not in following or state[0] < following[place][0]:
                    following[place] = state
        ended = [s for s in following.values() if len(s[3]) == len(tasks)]
        best = min([best, *(state[0] for state in ended)])
        left = [s for s in following.values() if len(s[3]) < len(tasks) and s[0] < best]
        level = sorted(left, key=lambda s: (s[0], s[1]))[:WIDTH]
    return best


def _absorbed(tasks: Sequence[Task], cost: float, setup: SetUp, done: frozenset[str]) -> State:
    """Do all that the set-up in hand or bare hands can do."""
    have = set(done)
    grown = True
    while grown:
        grown = False
        for task in tasks:
            if task.key not in have and task.setup in ((), setup) and task.after <= have:
                have.add(task.key)
                grown = True
    return cost, -len(have), setup, frozenset(have)
