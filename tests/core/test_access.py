"""The way in: what moves, what may stay, and that no cheaper choice exists."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.access import Option, build, solve
from eldrim.core.access.cost import access_costs, levels
from eldrim.core.access.errors import NoWayInError
from eldrim.core.access.loops import find_loop
from eldrim.core.access.problem import AccessProblem
from eldrim.core.base.errors import JobError
from eldrim.core.engine import Engine
from eldrim.core.job import settle_job
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import blocked, engine, job, part, tug
from tests.sweeps import examples


def moved(made_engine: Engine, *cylinders: int, **more: object) -> list[str]:
    """The parts a job moves, in order."""
    return [m.part for m in compile_plan(made_engine, job(*cylinders, **more)).moves]  # type: ignore[arg-type]


def test_the_front_bank_needs_only_the_cover_off() -> None:
    """Nothing more than the wanted holes need."""
    assert moved(tug(), 2) == ["sound-cover"]


def test_the_rear_bank_needs_the_plenum_off_last() -> None:
    """Everything that hinders the plenum goes before it."""
    parts = moved(tug(), 5)
    assert parts[-1] == "plenum"
    assert set(parts) == set(tug().parts)
    assert parts.index("intake-duct") < parts.index("throttle-body")


def test_shared_parts_move_once() -> None:
    """Both banks together cost less than the two jobs apart."""
    both, front, rear = (compile_plan(tug(), job(*c)) for c in ((2, 5), (2,), (5,)))
    assert [m.part for m in both.moves].count("sound-cover") == 1
    assert both.minutes < front.minutes + rear.minutes


def test_every_move_says_why_down_to_a_hole() -> None:
    """The chain of reasons of each move ends at the holes asked for."""
    for move in compile_plan(tug(), job(3)).moves:
        assert move.serves == ("3",)
        assert "plug 3" in move.because[-1]


def test_the_cheaper_way_is_taken_and_forbidding_it_changes_that() -> None:
    """Of two ways the cheaper wins; forbidden, the other does."""
    ways = {"swing": {"kind": "swing_aside", "out": "1 min", "back": "1 min"}}
    made = blocked({"tank": part(9, 9, **ways)}, [("tank", ["hole/1"])])
    assert compile_plan(made, job(1)).moves[0].way == "swing"
    assert compile_plan(made, job(1, forbid=("tank/swing",))).moves[0].way == "remove"
    assert compile_plan(made, job(1, force=("tank/remove",))).moves[0].way == "remove"


def _duct(**more: object) -> Engine:
    round_ = {"kind": "swivel", "out": "1 min", "back": "1 min", "tools": ["swivel"], **more}
    hindrance = {"part": "duct", "of": ["hole/1"], "kind": "blocks_tool", "rounds": {"r": round_}}
    return engine(parts={"duct": part(5, 5)}, hindrances=[hindrance])


def test_a_work_round_leaves_the_part_where_it_is() -> None:
    """With a swivel the duct can stay, and the plug's step says so and lists the tool."""
    made = compile_plan(_duct(), job(1))
    assert made.moves == ()
    step = next(s for s in made.steps if s.key == "torque/plug/1")
    assert "swivel" in {t.name for t in step.tools}
    assert "stays" in step.detail


def test_a_work_round_that_cannot_torque_does_not_save_the_plug() -> None:
    """Good for loosening only is not enough where something is torqued."""
    assert [m.part for m in compile_plan(_duct(good_for_torque=False), job(1)).moves] == ["duct"]


def test_without_the_tool_the_part_moves() -> None:
    """A way whose tool is missing is not chosen."""
    assert [m.part for m in compile_plan(_duct(), job(1, without_tools=("swivel",))).moves] == [
        "duct"
    ]


def test_work_by_feel_may_be_forbidden_by_the_house() -> None:
    """The rule takes the way out of the choice."""
    rules = DEFAULT_RULES.using(work_by_feel="forbidden")
    made = _duct(kind="by_feel")
    assert compile_plan(made, job(1)).moves == ()
    assert [m.part for m in compile_plan(made, job(1), rules).moves] == ["duct"]


def test_a_loop_is_reported_with_its_parts() -> None:
    """Two parts that wait for each other: the message names them."""
    made = blocked({"a": part(), "b": part()}, [("a", ["hole/1", "b"]), ("b", ["a"])])
    with pytest.raises(JobError, match="each must be off before the other"):
        compile_plan(made, job(1))


def test_a_loop_is_broken_by_a_work_round_if_there_is_one() -> None:
    """The dearer work-round is paid for where nothing else helps."""
    round_ = {"r": {"kind": "wobble", "out": "7 min", "back": "7 min"}}
    made = engine(
        parts={"a": part(), "b": part()},
        hindrances=[
            {"part": "a", "of": ["hole/1", "b"], "kind": "hides"},
            {"part": "b", "of": ["hole/1"], "kind": "hides"},
            {"part": "b", "of": ["a"], "kind": "hides", "rounds": round_},
        ],
    )
    assert [m.part for m in compile_plan(made, job(1)).moves] == ["a", "b"]


def test_a_dead_end_names_what_blocks() -> None:
    """Everything forbidden: the part that stands there is named."""
    made = blocked({"a": part()}, [("a", ["hole/1"])])
    with pytest.raises(JobError, match="Thing"):
        compile_plan(made, job(1, forbid=("a",)))


def test_a_part_that_had_to_move_in_two_ways_at_once_is_named_with_what_it_blocks() -> None:
    """One hindrance is cleared by taking it off alone, the other by pushing it back alone."""
    duct = part(1, 1, shift={"kind": "loosen_and_shift", "out": "1 min", "back": "1 min"})
    listed = [
        {"part": "duct", "of": ["hole/1"], "kind": "hides", "cleared_by": ["remove"]},
        {"part": "duct", "of": ["hole/2"], "kind": "hides", "cleared_by": ["shift"]},
    ]
    made = engine(parts={"duct": duct, "lid": part()}, hindrances=listed)
    for only in (1, 2):
        assert moved(made, only) == ["duct"]
    asked = settle_job(job(1, 2), made)
    with pytest.raises(NoWayInError) as refused:
        solve(build(made, asked, DEFAULT_RULES))
    assert refused.value.chain == ("hole/2/coil", "duct")


def test_a_part_moved_in_another_way_is_not_said_to_stay() -> None:
    """What else could be done says how it moves then, and of what stays that it does."""
    duct = part(3, 3, shift={"kind": "loosen_and_shift", "out": "1 min", "back": "1 min"})
    made = blocked({"duct": duct}, [("duct", ["hole/1"])])
    [other] = compile_plan(made, job(1)).alternatives
    assert "leave" not in other.words.lower()
    assert "off" in other.words


def test_what_is_dear_to_reach_is_hatched_closer() -> None:
    """A hole under the plenum is in a higher band than one in the open."""
    settled = settle_job(job(3, 5), tug())
    costs = access_costs(tug(), settled.variant, DEFAULT_RULES)
    assert levels(costs)["1"] > levels(costs)["2"]


NAMES = ["a", "b", "c", "d", "e"]
MINUTES = st.integers(1, 9)


@st.composite
def obstructed(draw: st.DrawFn) -> Engine:
    """A random small engine: parts with one or two ways, hindrances, some with work-rounds."""
    parts = {}
    for name in draw(st.lists(st.sampled_from(NAMES), min_size=1, max_size=5, unique=True)):
        extra = {}
        if draw(st.booleans()):
            extra["shift"] = {
                "kind": "loosen_and_shift",
                "out": f"{draw(MINUTES)} min",
                "back": "1 min",
            }
        parts[name] = part(draw(MINUTES), 1, **extra)
    spots = ["hole/1", "hole/2", "hole/3/plug", *parts, *(f"{p}/remove" for p in parts)]
    listed = []
    for _ in range(draw(st.integers(1, 7))):
        by = draw(st.sampled_from(sorted(parts)))
        of = [
            s
            for s in draw(st.lists(st.sampled_from(spots), min_size=1, max_size=3, unique=True))
            if s.split("/")[0] != by
        ]
        rounds = {}
        if draw(st.booleans()):
            rounds["r"] = {
                "kind": "wobble",
                "out": f"{draw(MINUTES)} min",
                "back": "1 min",
                "good_for_torque": draw(st.booleans()),
                "needs": draw(st.sampled_from([(), (sorted(parts)[0],)])),
            }
        if of:
            cleared = draw(st.sampled_from([(), ("remove",)]))
            listed.append(
                {"part": by, "of": of, "kind": "hides", "rounds": rounds, "cleared_by": cleared}
            )
    return engine(parts=parts, hindrances=listed)


def brute_force(problem: AccessProblem) -> int | None:
    """The least cost over every choice of ways and work-rounds, by trying them all."""
    parts = sorted({n.part for n in problem.cost if n.is_way})
    rounds = sorted(n for n in problem.cost if not n.is_way)
    choices = [[None, *sorted(n for n in problem.cost if n.is_way and n.part == p)] for p in parts]
    best = None
    for picked in product(*choices, *([None, r] for r in rounds)):
        chosen = frozenset(n for n in picked if n is not None)
        cost = sum(problem.cost[n] for n in chosen)
        if (best is None or cost < best) and _valid(problem, chosen):
            best = cost
    return best


def _valid(problem: AccessProblem, chosen: frozenset[Option]) -> bool:
    blocks = [*problem.roots, *(b for n in chosen for b in problem.blocks.get(n, ()))]
    answered = all(any(n in chosen for n in b.options) for b in blocks)
    return answered and not find_loop(problem, chosen)


@settings(max_examples=examples(150), deadline=None)
@given(obstructed())
def test_the_choice_is_the_true_optimum(made: Engine) -> None:
    """Branch and bound equals trying everything, cost for cost, also in having no answer."""
    problem = build(made, settle_job(job(1, 2, 3), made), DEFAULT_RULES)
    best = brute_force(problem)
    if best is None:
        with pytest.raises(NoWayInError):
            solve(problem)
        return
    found = solve(problem)
    assert found.cost == best
    assert found.proven
    assert _valid(problem, found.chosen)


def _cost(made: Engine, *cylinders: int) -> float:
    try:
        return solve(build(made, settle_job(job(*cylinders), made), DEFAULT_RULES)).cost
    except NoWayInError:
        return float("inf")


@settings(max_examples=examples(80), deadline=None)
@given(obstructed(), st.integers(0, 6))
def test_removing_a_hindrance_never_makes_it_dearer(made: Engine, which: int) -> None:
    """Less in the way cannot cost more."""
    kept = tuple(h for i, h in enumerate(made.hindrances) if i != which)
    assert _cost(made.model_copy(update={"hindrances": kept}), 1, 2, 3) <= _cost(made, 1, 2, 3)


@settings(max_examples=examples(80), deadline=None)
@given(obstructed())
def test_adding_a_hole_never_makes_it_cheaper(made: Engine) -> None:
    """More to reach cannot cost less."""
    assert _cost(made, 1) <= _cost(made, 1, 2) <= _cost(made, 1, 2, 3)
