"""The order of steps: what comes first comes first, with the fewest changes of set-up."""

from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.order.pattern import tightening_pattern
from eldrim.core.order.sequence import LoopError, Task, sequence, unit_cost
from tests.sweeps import examples


@st.composite
def tasks(draw: st.DrawFn) -> list[Task]:
    """Up to six tasks on three set-ups or bare hands, later ones waiting for earlier ones."""
    found = []
    for index in range(draw(st.integers(1, 6))):
        after = draw(st.sets(st.integers(0, index - 1))) if index else set()
        setup = draw(st.sampled_from([(), ("ratchet",), ("pliers",), ("driver", "bit")]))
        found.append(Task(str(index), setup, frozenset(map(str, after))))
    return found


def changes(order: list[Task]) -> float:
    """What an order costs."""
    total, in_hand = 0.0, ()
    for task in order:
        if task.setup:
            total += unit_cost(in_hand, task.setup)
            in_hand = task.setup
    return total


def respects(order: list[Task]) -> bool:
    """Whether everything that must come first does."""
    done: set[str] = set()
    for task in order:
        if not task.after <= done:
            return False
        done.add(task.key)
    return True


@settings(max_examples=examples(120), deadline=None)
@given(tasks())
def test_the_number_of_set_up_changes_is_the_true_least(listed: list[Task]) -> None:
    """Every order is tried; ours respects what comes first and none is cheaper."""
    best = min(changes(list(p)) for p in permutations(listed) if respects(list(p)))
    found = sequence(listed)
    by_key = {t.key: t for t in listed}
    ours = [by_key[k] for k in found.order]
    assert respects(ours)
    assert found.cost == changes(ours) == best
    assert found.proven


def test_tasks_that_wait_for_each_other_are_reported() -> None:
    """A loop cannot be ordered."""
    with pytest.raises(LoopError, match="a, b"):
        sequence([Task("a", after=frozenset("b")), Task("b", after=frozenset("a"))])


def test_past_its_limit_the_search_still_answers_and_says_so() -> None:
    """A greedy end is never passed off as proven."""
    listed = [
        Task(str(i), f"tool {i % 7}", frozenset({str(i - 9)} if i > 8 else ())) for i in range(60)
    ]
    found = sequence(listed, state_limit=0)
    assert sorted(found.order, key=int) == [str(i) for i in range(60)]
    assert not found.proven


def test_fasteners_are_tightened_from_the_centre_outwards() -> None:
    """Six in two rows: the middle pair, then the ends, far side each time."""
    order = tightening_pattern(((0, 0), (100, 0), (200, 0), (0, 80), (100, 80), (200, 80)))
    assert sorted(order[:2]) == [2, 5]
    assert sorted(order) == [1, 2, 3, 4, 5, 6]
    assert abs(order[2] - order[3]) != 0
    assert {order[2], order[3]} in ({1, 6}, {3, 4})


def test_four_in_a_square_are_tightened_crosswise() -> None:
    """Each next one lies across from the last."""
    order = tightening_pattern(((0, 0), (40, 0), (0, 40), (40, 40)))
    assert {order[0], order[1]} in ({1, 4}, {2, 3})
    assert tightening_pattern(()) == ()
