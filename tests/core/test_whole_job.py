"""The whole job: way in and set-up changes in one sum, least of all, and always an answer."""

from collections.abc import Iterator
from itertools import permutations, product
from typing import Any

import pytest
from bench import synthetic
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from eldrim.core.access import AccessProblem, NoWayInError, Option, WayIn, build
from eldrim.core.access import cp_sat as cp_sat_module
from eldrim.core.access.loops import find_loop
from eldrim.core.access.search import Answer, Search
from eldrim.core.access.whole_model import WholeModel
from eldrim.core.base.errors import JobError
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier, settle_job
from eldrim.core.order.blocks import blocks_cost_at_least, sequence_blocks
from eldrim.core.order.frontier import Allowance
from eldrim.core.order.sequence import Task, sequence, tasks_cost_at_least, unit_cost
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.whole_job import learning as learning_module
from eldrim.core.procedure.whole_job import least_job as least_job_module
from eldrim.core.procedure.whole_job.change_stretch import Stretch
from eldrim.core.procedure.whole_job.least_job import least_job
from eldrim.core.procedure.whole_job.step_order import ordered_steps
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.builders import blocked, document, engine, job, part
from tests.core.demo_sheets import ENGINES
from tests.sweeps import examples

DEMO = list(ENGINES.values())

JOINTS = [
    {"kind": "bolt", "head": "hex", "size": "10 mm", "count": 2},
    {"kind": "bolt", "head": "hex", "size": "13 mm", "count": 2},
    {"kind": "hose_spring_clamp"},
    {"kind": "clip"},
    {"kind": "connector_press", "isolate": True},
    {"kind": "bolt", "head": "hex", "size": "10 mm", "count": 4, "torque": "cover-torque"},
]
FIGURES = {
    **document()["figures"],
    "cover-torque": [{"value": "9 to 11 N·m", "source": "wm", "page": "5"}],
}
NAMES = ["a", "b", "c", "d"]
KINDS = ["blocks_tool", "blocks_exit", "hides"]


@st.composite
def fastened(draw: st.DrawFn) -> Engine:
    """A tiny engine whose parts are held by joints of several tools, with more ways than one."""
    parts: dict[str, Any] = {}
    for name in draw(st.lists(st.sampled_from(NAMES), min_size=1, max_size=4, unique=True)):
        held = draw(st.lists(st.sampled_from(range(len(JOINTS))), max_size=3, unique=True))
        minutes = st.integers(1, 4)
        made = part(draw(minutes), draw(minutes))
        made["joints"] = {f"j{number}": JOINTS[number] for number in held}
        made["needed_to_run"] = draw(st.booleans())
        if held and draw(st.booleans()):
            made["ways"]["shift"] = {
                "kind": "loosen_and_shift",
                "out": f"{draw(minutes)} min",
                "back": "1 min",
                "releases": [f"j{held[0]}"],
            }
        parts[name] = made
    order = sorted(parts)
    listed: list[dict[str, Any]] = [{"part": order[0], "of": ["hole/1", "hole/2"], "kind": "hides"}]
    for place, name in enumerate(order[1:], 1):
        of = draw(st.sampled_from([["hole/1"], ["hole/3"], [order[place - 1]]]))
        listed.append({"part": name, "of": of, "kind": draw(st.sampled_from(KINDS))})
    if draw(st.booleans()):
        taken = f"{draw(st.integers(1, 4))} min"
        listed[-1]["rounds"] = {"r": {"kind": "wobble", "out": taken, "back": "1 min"}}
    return engine(parts=parts, hindrances=listed, figures=FIGURES)


def every_choice(problem: AccessProblem) -> list[frozenset[Option]]:
    """All choices that answer everything they meet."""
    parts = sorted({option.part for option in problem.cost if option.is_way})
    ways = [
        [None, *sorted(o for o in problem.cost if o.is_way and o.part == name)] for name in parts
    ]
    rounds = [[None, o] for o in sorted(problem.cost) if not o.is_way]
    found = []
    for picked in product(*ways, *rounds):
        chosen = frozenset(option for option in picked if option is not None)
        blocks = [*problem.roots, *(b for o in chosen for b in problem.blocks.get(o, ()))]
        met = {option for block in blocks for option in block.options}
        answered = all(chosen & set(block.options) for block in blocks)
        if answered and chosen <= met and not find_loop(problem, chosen):
            found.append(chosen)
    return found


def whole_cost(
    capability: ShopCapability, asked: Job, problem: AccessProblem, chosen: frozenset[Option]
) -> int:
    """What one choice costs with the changes of set-up of its steps, in hundredths of a minute."""
    cost = sum(problem.cost[option] for option in chosen)
    facts = JobFacts(capability, asked, problem, WayIn(chosen, cost, cost))
    return cost + round(100 * ordered_steps(facts).change_minutes)


def floors_and_cost(made: Engine, asked: Job, chosen: frozenset[Option]) -> tuple[int, int, int]:
    """What a choice is said to cost at least, at first and with its tools, and what it costs."""
    capability = ShopCapability(made, asked.variant, DEFAULT_RULES, STANDARD_CRIB)
    problem = build(made, asked, DEFAULT_RULES, capability)
    weighing = least_job_module._Weighing(capability, asked, problem, barred=False)
    floor = weighing.floor.by_option
    kinds = {kind for option in chosen for kind in floor.kinds.get(option, ())}
    ways = sum(problem.cost[option] + floor.own.get(option, 0) for option in chosen)
    planned = weighing._planned(Answer(0, chosen))
    always = weighing.floor.at_holes(planned.facts, planned.ordered)
    answer = Answer(ways + floor.price * len(kinds) + floor.always + always, chosen)
    at_first, with_tools = (
        weighing._at_least(answer, always),
        weighing._surely(planned.facts, always),
    )
    return at_first, with_tools, planned.value


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(made=fastened())
def test_no_choice_costs_less_than_it_is_said_to(made: Engine) -> None:
    """Or a cheaper job would be passed over."""
    asked = settle_job(job(1, 2, 3), made)
    for chosen in every_choice(build(made, asked, DEFAULT_RULES)):
        at_first, with_tools, cost = floors_and_cost(made, asked, chosen)
        assert max(at_first, with_tools) <= cost


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(made=fastened(), hand=st.data())
def test_no_choice_that_asks_the_same_of_the_crib_costs_less_than_is_known(
    made: Engine, hand: st.DataObject
) -> None:
    """What one planned job tells of its tools holds for every other that takes them."""
    asked = settle_job(job(1, 2, 3), made)
    choices = every_choice(build(made, asked, DEFAULT_RULES))
    assert all(_known_of_others(made, asked, hand.draw(st.sampled_from(choices)), choices))


def _known_of_others(
    made: Engine, asked: Job, first: frozenset[Option], choices: list[frozenset[Option]]
) -> Iterator[bool]:
    """Plan one choice; for each other whether it costs what is then known of it, or more."""
    capability = ShopCapability(made, asked.variant, DEFAULT_RULES, STANDARD_CRIB)
    problem = build(made, asked, DEFAULT_RULES, capability)
    weighing = least_job_module._Weighing(capability, asked, problem, barred=False)
    planned = weighing._planned(Answer(0, first))
    always = weighing.floor.at_holes(planned.facts, planned.ordered)
    known = weighing.floor.case(planned.facts, planned.ordered, always)
    for chosen in choices if known else []:
        if known.asked.of(chosen):
            changes = known.out.cost_of(chosen) + known.back.cost_of(chosen)
            cost = whole_cost(capability, asked, problem, chosen)
            yield sum(problem.cost[o] for o in chosen) + changes + always <= cost


@pytest.mark.sweep(2)
@pytest.mark.parametrize("sheet", DEMO, ids=lambda one: one.id)
def test_no_job_of_the_demo_costs_less_than_it_is_said_to(sheet: Engine) -> None:
    """With companions, which may leave any tool in hand, and without; plugs, carriers, both."""
    variant = next(iter(sheet.variants))
    of = (carrier(sheet), Work.PLUG)
    works, alongs = (of, of[:1], of[1:]), {(), tuple(sheet.companions)}
    for work, along, count in product(works, alongs, (1, 2)):
        last = tuple(sheet.cylinders)[-count:]
        wanted = Job(cylinders=last, work=work, variant=variant, companions=along)
        asked = settle_job(wanted, sheet)
        choices = every_choice(build(sheet, asked, DEFAULT_RULES))[:12]
        for chosen in choices:
            at_first, with_tools, cost = floors_and_cost(sheet, asked, chosen)
            assert max(at_first, with_tools) <= cost, (asked, chosen)
        assert all(_known_of_others(sheet, asked, choices[0], choices))
        assert all(_known_of_others(sheet, asked, choices[-1], choices))


@pytest.mark.parametrize("most_options", [least_job_module.MAX_OPTIONS, 0])
@settings(
    max_examples=examples(60),
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(made=fastened())
def test_the_whole_job_is_the_least_of_all(
    made: Engine, most_options: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every choice with every order is tried: none is cheaper than ours, listed or modelled."""
    monkeypatch.setattr(least_job_module, "MAX_OPTIONS", most_options)
    asked = settle_job(job(1, 2, 3), made)
    capability = ShopCapability(made, asked.variant, DEFAULT_RULES, STANDARD_CRIB)
    problem = build(made, asked, DEFAULT_RULES, capability)
    best = min(whole_cost(capability, asked, problem, c) for c in every_choice(problem))
    found = least_job(capability, asked, problem)
    assert found.proven
    assert found.value == found.bound == best


def test_a_round_that_saves_the_only_change_of_set_up_is_least(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """The model of the whole counts no change where the one part with a joint stays."""
    monkeypatch.setattr(least_job_module, "MAX_OPTIONS", 0)
    over = {**part(1, 2), "joints": {"j0": JOINTS[0]}}
    stays = {"r": {"kind": "wobble", "out": "3 min", "back": "1 min"}}
    listed = [
        {"part": "a", "of": ["hole/1", "hole/2"], "kind": "hides"},
        {"part": "b", "of": ["hole/1"], "kind": "blocks_tool", "rounds": stays},
    ]
    made = engine(parts={"a": part(1, 1), "b": over}, hindrances=listed)
    plan = compile_plan(made, job(1, 2, 3))
    assert [move.part for move in plan.moves] == ["a"]
    assert plan.proven_optimal


def test_a_dearer_way_wins_where_it_saves_changes_of_set_up() -> None:
    """Shifting takes 0.3 min longer than removing, but one tool instead of three."""
    held = {f"j{number}": JOINTS[number] for number in range(3)}
    made_part = part(
        1,
        1,
        shift={"kind": "loosen_and_shift", "out": "1.3 min", "back": "1 min", "releases": ["j0"]},
    )
    made = blocked({"duct": {**made_part, "joints": held}}, [("duct", ["hole/1"])])
    plan = compile_plan(made, job(1))
    assert [(move.part, move.way) for move in plan.moves] == [("duct", "shift")]
    assert plan.proven_optimal
    assert plan.access_minutes + plan.change_minutes == pytest.approx(plan.least_sum)


@st.composite
def blocks_of_tasks(draw: st.DrawFn) -> list[Task]:
    """Up to three blocks of up to three tasks; later blocks may wait for earlier ones."""
    found: list[Task] = []
    for block in range(draw(st.integers(1, 3))):
        before = [task.key for task in found]
        waits = draw(st.lists(st.sampled_from(before), max_size=2)) if before else []
        for number in range(draw(st.integers(1, 3))):
            setup = draw(st.sampled_from([(), ("ratchet",), ("pliers",), ("driver", "bit")]))
            own = [f"{block}/0"] if number else []
            after = frozenset((*waits, *own))
            found.append(Task(f"{block}/{number}", setup, after, (block, number), str(block)))
    return found


def costs(order: tuple[Task, ...]) -> float | None:
    """What an order costs; None where something comes too early or a block is interrupted."""
    done: set[str] = set()
    total, in_hand, left = 0.0, (), set[str]()
    for place, task in enumerate(order):
        if not task.after <= done or task.block in left:
            return None
        if place and order[place - 1].block != task.block:
            left.add(order[place - 1].block)
            if task.block in left:
                return None
        done.add(task.key)
        if task.setup:
            total += unit_cost(in_hand, task.setup)
            in_hand = task.setup
    return total


@settings(max_examples=examples(80), deadline=None)
@given(blocks_of_tasks())
def test_block_after_block_no_order_is_cheaper(listed: list[Task]) -> None:
    """Every order is tried."""
    listed = listed[:7]
    tried = [cost for p in permutations(listed) if (cost := costs(p)) is not None]
    found = sequence_blocks(listed)
    by_key = {task.key: task for task in listed}
    assert costs(tuple(by_key[key] for key in found.order)) == found.cost == min(tried)
    assert found.proven


@settings(max_examples=examples(80), deadline=None)
@given(blocks_of_tasks())
def test_an_order_surely_costs_what_the_least_order_costs(listed: list[Task]) -> None:
    """And not more; a search that is stopped says no."""
    free, whole = sequence(listed).cost, sequence_blocks(listed).cost

    def at_least(least: float, each: int = 500) -> bool:
        return tasks_cost_at_least(listed, [()], unit_cost, least, Allowance(500, each))

    def whole_at_least(least: float, each: int = 500, left: int = 500) -> bool:
        return blocks_cost_at_least(listed, [()], unit_cost, least, Allowance(left, each))

    assert at_least(free)
    assert not at_least(free + 0.01)
    assert whole_at_least(whole)
    assert not whole_at_least(whole + 0.01)
    if whole and len(listed) > 1:
        assert not whole_at_least(whole + 0.01, each=1)
        assert not whole_at_least(whole + 0.01, left=0)


def test_searches_share_what_they_are_allowed() -> None:
    """Each takes from what is left for all, and none takes more than its own share."""
    listed = [Task(str(n), (f"tool {n % 5}",), frozenset({str(n - 7)})) for n in range(40)]
    allowance = Allowance(left=6, each=4)
    assert not tasks_cost_at_least(listed, [()], unit_cost, 99, allowance)
    assert allowance.left == 2
    assert not tasks_cost_at_least(listed, [()], unit_cost, 99, allowance)
    assert allowance.left == 0


def test_parts_that_wait_for_each_other_s_steps_are_done_as_one() -> None:
    """A's bolts wait for B, which waits for A to be set in place."""
    listed = [
        Task("a/set", (), frozenset(), (0,), "a"),
        Task("a/bolts", ("ratchet",), frozenset({"b/push"}), (1,), "a"),
        Task("b/push", (), frozenset({"a/set"}), (2,), "b"),
        Task("c/clips", (), frozenset({"b/push", "a/bolts"}), (3,), "c"),
    ]
    assert sequence_blocks(listed).order == ("a/set", "b/push", "a/bolts", "c/clips")


# What one question may take: branches of our search over all its parts, questions to CP-SAT about
# the choice and about the whole job, and questions about what a few options cost.
MOST_BRANCHES, MOST_ASKED, MOST_WEIGHED = 12_000, 12, 120


@pytest.fixture
def counted(monkeypatch: pytest.MonkeyPatch) -> dict[str, int]:
    """Counts the work of the two searches."""
    count = {"branches": 0, "asked": 0, "weighed": 0, "costs": 0}
    branch, ask = Search._branch, cp_sat_module.CpSatModel.ask
    least, costs_of = WholeModel.least, Stretch.costs_at_least

    def branched(self: Search, state: Any) -> None:
        count["branches"] += 1
        branch(self, state)

    def asked(self: Any, *args: Any, **named: Any) -> Any:
        count["asked"] += 1
        return ask(self, *args, **named)

    def weighed(self: Any, *args: Any) -> Any:
        count["weighed"] += 1
        return least(self, *args)

    def costing(self: Any, *args: Any) -> Any:
        count["costs"] += 1
        return costs_of(self, *args)

    monkeypatch.setattr(WholeModel, "least", weighed)
    monkeypatch.setattr(Stretch, "costs_at_least", costing)
    monkeypatch.setattr(Search, "_branch", branched)
    monkeypatch.setattr(cp_sat_module.CpSatModel, "ask", asked)
    return count


@pytest.mark.sweep(2)
@pytest.mark.parametrize(
    ("parts", "seed"), [(2, 1), (2, 2), (5, 1), (10, 2), (20, 2), (35, 4), (60, 3), (100, 1)]
)
def test_every_what_if_is_answered_within_a_limit(
    parts: int, seed: int, counted: dict[str, int]
) -> None:
    """Also where nothing opens the job: the answer then names what is closed."""
    made = synthetic.engine(parts, seed)
    base = compile_plan(made, job(*made.cylinders))
    moved = [f"{move.part}/{move.way}" for move in base.moves]
    lowest = [key for key in made.parts if any(f"{key}/" in m for m in moved)]
    asked = [moved[:1], lowest, moved[-1:], lowest[:1], lowest[len(lowest) // 2 :]]
    # Each looks a hundred parts through for seconds: one that is opened, one that is not.
    for forbid in asked[:2] if parts >= 100 else asked:
        counted.update(branches=0, asked=0, weighed=0, costs=0)
        said = _answer(made, tuple(forbid))
        assert said == "" or "ruled out by this question" in said
        assert counted["branches"] <= MOST_BRANCHES
        assert counted["asked"] <= MOST_ASKED
        assert counted["weighed"] <= MOST_WEIGHED
        assert counted["costs"] <= learning_module.MAX_PLACES


@pytest.mark.sweep(2)
@pytest.mark.parametrize(
    ("parts", "seed"),
    [
        *((12, 1), (20, 1), (35, 1), (50, 1), (60, 1), (35, 2), (45, 2), (55, 2), (60, 2)),
        *((35, 3), (40, 3), (45, 3), (40, 4), (50, 4), (60, 4)),
        # Of these the ways in are too many to list though they are few options.
        *((15, 3), (20, 3), (24, 3), (26, 3)),
    ],
)
def test_the_whole_is_proven_to_sixty_parts(parts: int, seed: int) -> None:
    """Way in and set-up changes as one sum, on every hole."""
    made = synthetic.engine(parts, seed)
    plan = compile_plan(made, job(*made.cylinders))
    assert plan.proven_optimal
    assert plan.least_sum == pytest.approx(plan.access_minutes + plan.change_minutes)


MIDDLING = [(15, 3), (18, 3), (20, 1), (20, 3), (22, 2), (24, 3), (26, 3)]


@pytest.mark.sweep(3)
@pytest.mark.parametrize(("parts", "seed"), [(8, 1), (40, 4), (60, 1), *MIDDLING])
def test_a_first_answer_says_how_far_it_may_be_over_the_least(
    parts: int, seed: int, counted: dict[str, int]
) -> None:
    """It takes little work, none of the model of the whole, and no alternative is looked for; the
    least lies between its limit and its sum.
    """
    made = synthetic.engine(parts, seed)
    first = compile_plan(made, job(*made.cylinders), at_once=True)
    assert counted["weighed"] == counted["costs"] == 0
    if not first.proven_optimal:
        assert not first.alternatives
        assert counted["asked"] <= 1
        assert counted["branches"] <= 1000
    least = compile_plan(made, job(*made.cylinders))
    cost = least.access_minutes + least.change_minutes
    assert first.least_sum <= cost <= first.access_minutes + first.change_minutes + 1e-9


def _answer(made: Engine, forbid: tuple[str, ...]) -> str:
    """Why nothing opens every hole; empty where something does."""
    try:
        compile_plan(made, job(*made.cylinders, forbid=forbid))
    except JobError as error:
        return str(error)
    return ""


def test_an_impossible_question_is_no_longer_than_a_possible_one(counted: dict[str, int]) -> None:
    """Twelve layers of two parts over each other, the last one forbidden."""
    names = [f"p{number}" for number in range(24)]
    pairs = [(names[0], ["hole/1"]), (names[1], ["hole/1"])]
    pairs += [(names[n], names[n // 2 * 2 - 2 : n // 2 * 2]) for n in range(2, 24)]
    made = blocked({name: part() for name in names}, pairs)
    with pytest.raises(JobError, match="ruled out by this question"):
        compile_plan(made, job(1, forbid=(names[-1],)))
    assert counted["branches"] + counted["asked"] <= 40


def test_what_closes_the_way_is_said_in_the_words_of_its_rule() -> None:
    """By feel, forbidden; a tool that is lacking; a way without room for the torque."""
    feel = {
        "part": "duct",
        "of": ["hole/1"],
        "kind": "hides",
        "rounds": {"feel": {"kind": "by_feel", "out": "1 min", "back": "1 min"}},
    }
    made = engine(parts={"duct": part()}, hindrances=[feel])
    forbidden = DEFAULT_RULES.using(work_by_feel="forbidden")
    with pytest.raises(JobError, match="work by feel, which a house rule forbids"):
        compile_plan(made, job(1, forbid=("duct/remove",)), forbidden)
    swivel = {"r": {"kind": "swivel", "out": "1 min", "back": "1 min", "tools": ["swivel"]}}
    made = engine(parts={"duct": part()}, hindrances=[{**feel, "rounds": swivel}])
    with pytest.raises(JobError, match="needs “swivel”, which is said to be lacking"):
        compile_plan(made, job(1, forbid=("duct/remove",), without_tools=("swivel",)))
    tight = {"r": {**swivel["r"], "good_for_torque": False}}
    made = engine(parts={"duct": part()}, hindrances=[{**feel, "rounds": tight}])
    with pytest.raises(JobError, match="no room for the torque"):
        compile_plan(made, job(1, forbid=("duct/remove",)))


def test_ways_that_exclude_each_other_are_named() -> None:
    """One hindrance goes only by shifting the tank, another only by removing it."""
    shift = {"shift": {"kind": "loosen_and_shift", "out": "1 min", "back": "1 min"}}
    listed = [
        {"part": "tank", "of": ["hole/1"], "kind": "hides", "cleared_by": ["shift"]},
        {"part": "tank", "of": ["hole/2"], "kind": "hides", "cleared_by": ["remove"]},
    ]
    made = engine(parts={"tank": part(1, 1, **shift)}, hindrances=listed)
    problem = build(made, settle_job(job(1, 2), made), DEFAULT_RULES)
    with pytest.raises(NoWayInError) as raised:
        least_job(ShopCapability(made, "all", DEFAULT_RULES, STANDARD_CRIB), job(1, 2), problem)
    assert raised.value.chain[-1] == "tank"


def test_what_is_in_hand_already_is_not_paid_for() -> None:
    """A way that goes on with a tool that may be in hand costs no change, and is not held to."""
    goes_on, other = Option("duct", "remove"), Option("cover", "remove")
    setups = {goes_on: [("ratchet",)], other: [("pliers",)]}
    starts = (("gun",), ("ratchet",))
    back = Stretch(setups, {}, unit_cost, starts, whole_parts=True)
    told = back.chained()
    held_to = sum(told.prices[kind] for kind in told.kinds[goes_on]) - told.saved + told.fixed
    assert back.cost([goes_on]) == 0
    assert held_to <= 0
