"""Proven means least, jointly: every way in with every order of all its steps is tried.

The model here knows nothing of how orders are searched. It walks over what is done and what is in
hand, one step at a time, and follows every step that may be next.
"""

import heapq
from itertools import product

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from eldrim.core.access import WayIn, build
from eldrim.core.access.problem import AccessProblem
from eldrim.core.engine import Engine
from eldrim.core.job import Job, settle_job
from eldrim.core.order.chain import Effort, Stretch, in_chain
from eldrim.core.order.sequence import Task
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.whole_job.least_job import least_job
from eldrim.core.procedure.whole_job.step_order import ordered_steps
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.builders import job
from tests.core.test_whole_job import every_choice, fastened
from tests.sweeps import examples

MOST_PLACES = 60_000


class TooManyError(Exception):
    """More places than a test has time for."""


def change(before: tuple[str, ...], after: tuple[str, ...], rules: HouseRules) -> float:
    """What a change of set-up costs in minutes, as the house rules say it."""
    if before == after:
        return 0.0
    return rules.set_up_minutes + rules.piece_minutes * len(set(before) ^ set(after))


def least_of_all(stretches: tuple[Stretch, ...], rules: HouseRules) -> float:
    """The least that changes of set-up cost along all stretches, whatever is done when.

    A place is: which stretch, what of it is done, the part begun there, and what is in hand.
    """
    heap: list[tuple[float, int, int, frozenset[str], str, tuple[str, ...]]] = [
        (0.0, 0, 0, frozenset(), "", ())
    ]
    best: dict[tuple[object, ...], float] = {}
    number = 0
    while heap:
        cost, _, place, done, begun, hand = heapq.heappop(heap)
        while place < len(stretches) and len(done) == len(stretches[place].tasks):
            place, done, begun = place + 1, frozenset(), ""
        if place == len(stretches):
            return cost
        here = (place, done, begun, hand)
        if best.get(here, cost + 1) <= cost:
            continue
        best[here] = cost
        if len(best) > MOST_PLACES:
            raise TooManyError
        for task in next_ones(stretches[place], done, begun):
            number += 1
            more = change(hand, task.setup, rules) if task.setup else 0.0
            heapq.heappush(
                heap,
                (
                    cost + more,
                    number,
                    place,
                    done | {task.key},
                    begun_by(stretches[place], done, task),
                    task.setup or hand,
                ),
            )
    raise AssertionError("tasks wait for each other")


def next_ones(stretch: Stretch, done: frozenset[str], begun: str) -> list[Task]:
    """What may be done next: all it waits for is done, and no other part is begun."""
    left = [task for task in stretch.tasks if task.key not in done]
    if stretch.as_listed:
        return left[:1]
    here = {task.key for task in stretch.tasks}
    ready = [task for task in left if task.after & here <= done]
    return [task for task in ready if not begun or task.block == begun]


def begun_by(stretch: Stretch, done: frozenset[str], task: Task) -> str:
    """The part that is begun and not finished once a task is done."""
    if not stretch.whole_blocks or not task.block:
        return ""
    of_part = {other.key for other in stretch.tasks if other.block == task.block}
    return "" if of_part <= done | {task.key} else task.block


def joint_least(made: Engine, asked: Job, rules: HouseRules, problem: AccessProblem) -> float:
    """The least sum of way in and changes of all choices, in minutes."""
    capability = ShopCapability(made, asked.variant, rules, STANDARD_CRIB)
    found = []
    for chosen in every_choice(problem):
        cost = sum(problem.cost[option] for option in chosen)
        facts = JobFacts(capability, asked, problem, WayIn(chosen, cost, cost))
        changes = least_of_all(ordered_steps(facts).stretches, rules)
        found.append(cost / 100 + changes)
    return min(found)


@settings(max_examples=examples(500), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(made=fastened(), holes=st.sampled_from([(1,), (3,), (1, 2, 3)]))
def test_no_job_that_is_proven_is_beaten(made: Engine, holes: tuple[int, ...]) -> None:
    """Way in, order and set-ups together; small engines are all proven."""
    asked = settle_job(job(*holes), made)
    capability = ShopCapability(made, asked.variant, DEFAULT_RULES, STANDARD_CRIB)
    problem = build(made, asked, DEFAULT_RULES, capability)
    try:
        least = joint_least(made, asked, DEFAULT_RULES, problem)
    except TooManyError:
        return
    found = least_job(capability, asked, problem)
    assert found.value / 100 == pytest.approx(least, abs=0.006)
    assert found.proven


TOOLS = [(), ("ratchet",), ("wrench", "bit"), ("wrench", "socket"), ("pliers",)]


@st.composite
def chains(draw: st.DrawFn) -> tuple[Stretch, ...]:
    """A few stretches of a few tasks, in which some wait for others."""
    made = []
    for number in range(draw(st.integers(1, 4))):
        tasks: list[Task] = []
        for place in range(draw(st.integers(0, 4))):
            waits = draw(st.sets(st.sampled_from(range(place)), max_size=2)) if place else set()
            after = frozenset(f"{number}/{other}" for other in waits)
            block = draw(st.sampled_from("ab"))
            setup = draw(st.sampled_from(TOOLS))
            tasks.append(Task(f"{number}/{place}", setup, after, (place,), block))
        made.append(Stretch(tuple(tasks), draw(st.booleans()), draw(st.booleans())))
    return tuple(made)


@settings(max_examples=examples(200), deadline=None)
@given(chains())
def test_stretches_in_a_chain_cost_the_least_of_all(stretches: tuple[Stretch, ...]) -> None:
    """The end of one is the beginning of the next; with little effort the bound still holds."""
    rules = DEFAULT_RULES
    merged = tuple(without_circles(stretch) for stretch in stretches)
    least = least_of_all(merged, rules)

    def cost(before: tuple[str, ...], after: tuple[str, ...]) -> float:
        return change(before, after, rules)

    found = in_chain(merged, cost, Effort())
    assert found.cost == pytest.approx(least)
    assert found.bound == pytest.approx(least)
    for stretch, order in zip(merged, found.orders, strict=True):
        assert sorted(order) == sorted(task.key for task in stretch.tasks)
    for effort in (Effort(beginnings=0), Effort(states=1, width=1, beginnings=1)):
        little = in_chain(merged, cost, effort)
        assert little.bound <= least + 1e-9 <= little.cost + 2e-9


def without_circles(stretch: Stretch) -> Stretch:
    """The same with parts that wait for each other's tasks as one part, as orders take them."""
    block_of = {task.key: task.block for task in stretch.tasks}
    pairs = {(block_of[k], t.block) for t in stretch.tasks for k in t.after}
    circle = all(pair in pairs for pair in product("ab", repeat=2) if pair[0] != pair[1])
    if not circle:
        return stretch
    tasks = tuple(Task(t.key, t.setup, t.after, t.rank, "a") for t in stretch.tasks)
    return Stretch(tasks, stretch.whole_blocks, stretch.as_listed)
