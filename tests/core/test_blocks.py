"""Parts back on, each finished before the next: the least of all orders, and limits that hold."""

from functools import cache
from math import inf

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.order.blocks import sequence_blocks
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.sequence import Task
from tests.sweeps import examples

PIECES = [("small", "ratchet"), ("large", "ratchet"), ("pliers",), ("driver", "bit"), ("large",)]
IN_HAND = [(), ("gun",), *PIECES]


def by_pieces(before: SetUp, after: SetUp) -> float:
    """A change costs by the pieces exchanged; a detour is never cheaper."""
    return 0.0 if before == after else 0.4 + 0.05 * len(set(before) ^ set(after))


def each_one(before: SetUp, after: SetUp) -> float:
    """Every change costs the same."""
    return float(before != after)


@st.composite
def parts(draw: st.DrawFn) -> list[Task]:
    """Up to five parts of up to three steps; parts wait for earlier ones, steps for their own."""
    made: list[Task] = []
    for part in range(draw(st.integers(1, 5))):
        over = draw(st.sets(st.integers(0, part - 1), max_size=2)) if part else set()
        after = {f"{other}/on" for other in over}
        steps = draw(st.lists(st.sampled_from(PIECES), max_size=3))
        in_turn = draw(st.booleans())
        for number, setup in enumerate(steps):
            own = {f"{part}/{number - 1}"} if in_turn and number else set()
            made.append(Task(f"{part}/{number}", setup, frozenset(after | own), block=str(part)))
        whole = {f"{part}/{number}" for number in range(len(steps))}
        made.append(Task(f"{part}/on", (), frozenset(after | whole), block=str(part)))
    return made


def least(listed: list[Task], in_hand: SetUp, change: Change) -> float:
    """The least cost of all orders that finish each part before the next; all are tried."""

    @cache
    def rest(done: frozenset[str], block: str, setup: SetUp) -> float:
        left = [task for task in listed if task.key not in done]
        ready = [task for task in left if task.after <= done]
        mine = [task for task in ready if task.block == block]
        inside = any(task.block == block for task in left)
        costs = [
            (change(setup, task.setup) if task.setup else 0.0)
            + rest(done | {task.key}, task.block, task.setup or setup)
            for task in (mine if inside else ready)
        ]
        return min(costs, default=0.0 if not left else inf)

    return rest(frozenset(), "", in_hand)


def cost(order: list[Task], in_hand: SetUp, change: Change) -> float:
    """What the changes of set-up of an order cost."""
    total = 0.0
    for setup in (task.setup for task in order if task.setup):
        total += change(in_hand, setup)
        in_hand = setup
    return total


@settings(max_examples=examples(400), deadline=None)
@given(parts(), st.sampled_from(IN_HAND), st.sampled_from([by_pieces, each_one]))
def test_parts_one_after_the_other_cost_the_true_least(
    listed: list[Task], in_hand: SetUp, change: Change
) -> None:
    """Every order is tried; ours respects what comes first and none is cheaper."""
    found = sequence_blocks(listed, in_hand, change)
    by_key = {task.key: task for task in listed}
    ours = [by_key[key] for key in found.order]
    assert len(ours) == len(listed)
    assert all(task.after <= set(found.order[:place]) for place, task in enumerate(ours))
    assert found.proven
    assert found.cost == pytest.approx(cost(ours, in_hand, change))
    assert found.cost == pytest.approx(least(listed, in_hand, change))


@settings(max_examples=examples(400), deadline=None)
@given(parts(), st.sampled_from(IN_HAND), st.sampled_from([by_pieces, each_one]))
def test_a_limit_said_early_holds(listed: list[Task], in_hand: SetUp, change: Change) -> None:
    """What is said before anything was tried is no more than the least."""
    found = sequence_blocks(listed, in_hand, change, state_limit=0)
    true = least(listed, in_hand, change)
    assert found.bound <= true + 1e-9
    assert found.cost >= true - 1e-9


def test_a_part_that_comes_back_to_a_tool_ends_as_it_began() -> None:
    """Pliers, ratchet and pliers again: the next part goes on with the pliers."""
    turn = [("pliers",), ("small", "ratchet"), ("pliers",)]
    first = [
        Task(f"1/{number}", setup, frozenset({f"1/{number - 1}"} if number else ()), block="1")
        for number, setup in enumerate(turn)
    ]
    second = [Task("2/0", ("pliers",), block="2"), Task("2/1", ("driver", "bit"), block="2")]
    found = sequence_blocks([*first, *second], ("pliers",), each_one)
    assert found.cost == 3
    assert found.proven
    assert sequence_blocks([*first, *second], ("pliers",), each_one, state_limit=0).bound <= 3
