"""The planner as a whole: demo engines, alternatives, what stays, frames, the general solver."""

import json
from datetime import UTC, datetime
from uuid import uuid4

import pytest
from bench import cpsat, synthetic
from hypothesis import given, settings

from eldrim.core.access import build, solve
from eldrim.core.access.alternatives import alternatives
from eldrim.core.access.cp_sat import CpSatModel
from eldrim.core.access.errors import NoWayInError
from eldrim.core.access.loops import find_loop, may_loop, waiting_groups
from eldrim.core.access.search import Search
from eldrim.core.base.errors import JobError
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier, possible_work, settle_job
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import SIGNING, Plan
from eldrim.core.procedure.scrubber_frames import scrubber_frames
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.run.admission import admit
from eldrim.core.run.entries import Entry, Recorded, Role
from eldrim.core.run.state import RunState, with_entry
from eldrim.demo.load import demo_engines
from tests.builders import job, tug, typical
from tests.core.test_access import obstructed
from tests.sweeps import examples

ENGINES = {e.id: e for e in demo_engines()}


def ask(made: Engine, *cylinders: int, **more: object) -> Plan:
    """Plug and coil or lead on some cylinders, or all."""
    return compile_plan(
        made,
        Job.model_validate(
            {
                "cylinders": cylinders or tuple(made.cylinders),
                "work": (carrier(made), Work.PLUG),
                "variant": next(iter(made.variants)),
                **more,
            }
        ),
    )


@pytest.mark.parametrize("key", sorted(ENGINES))
def test_every_demo_engine_has_a_proven_plan_that_respects_every_hindrance(key: str) -> None:
    """Off before what they hinder, back after it."""
    made = ask(ENGINES[key])
    assert made.proven_optimal
    away = {f.away: i for i, f in enumerate(scrubber_frames(made)) if f.away}
    back = {f.back: i for i, f in enumerate(scrubber_frames(made)) if f.back}
    assert set(away) == set(back) == {m.part for m in made.moves}
    for hindrance in ENGINES[key].hindrances:
        for target in hindrance.of:
            first, later = hindrance.part, target.split("/")[0]
            clears = not hindrance.cleared_by or any(
                m.part == first and m.way in hindrance.cleared_by for m in made.moves
            )
            if first in away and later in away and clears and "/" not in target:
                assert away[first] < away[later]
                assert back[later] < back[first]


def moved(made: Plan) -> set[tuple[str, str]]:
    """Part and way of each move."""
    return {(m.part, m.way) for m in made.moves}


def test_the_turbo_s_duct_is_shifted_rather_than_removed() -> None:
    """And with the shift forbidden, a locking extension does it in pieces."""
    turbo = ENGINES["corvane-20-turbo-four"]
    assert ("intake-duct", "shift") in moved(ask(turbo, 4))
    assert "intake-duct" not in {p for p, _ in moved(ask(turbo, 1, 2, 3))}
    without = ask(turbo, 4, forbid=("intake-duct/shift",))
    assert "locking extension 100 mm, ⅜ in" in {t.name for t in without.tools}
    neither = ask(
        turbo, 4, forbid=("intake-duct/shift",), without_tools=("locking extension 100 mm ⅜ in",)
    )
    assert ("intake-duct", "remove") in moved(neither)


def test_the_six_is_reached_round_the_back_unless_feel_is_forbidden() -> None:
    """Then the manifold has to come off."""
    six = ENGINES["dunmarl-42-six"]
    assert ("coolant-tank", "aside") in moved(ask(six, 5))
    rules = DEFAULT_RULES.using(work_by_feel="forbidden")
    settled = Job(cylinders=(5,), work=(Work.PLUG,), variant="gas")
    assert ("manifold", "remove") in moved(compile_plan(six, settled, rules))
    assert "manifold" not in {p for p, _ in moved(ask(six, 2))}


def test_the_twin_s_tank_is_propped_with_its_fuel_line_on() -> None:
    """And parted only where the prop is missing; then fuel brings its cautions and its check."""
    twin = ENGINES["kestwick-900-twin"]
    assert ("tank", "prop") in moved(ask(twin, 1))
    off = ask(twin, 1, without_tools=("tank prop",))
    assert ("tank", "remove") in moved(off)
    release = next(s for s in off.steps if s.key == "release/tank/fuel")
    assert "fuel" in {c.key for c in release.cautions}
    assert "prove/fuel" in {s.key for s in off.steps}


def test_the_boats_are_ventilated_before_they_are_started() -> None:
    """Marine vapour."""
    for key in ("sulair-750-triple", "fendrake-50-marine-v8"):
        keys = [s.key for s in ask(ENGINES[key]).steps]
        assert keys.index("prove/blower") < keys.index("prove/start")


def test_a_coil_is_not_asked_of_an_engine_with_leads() -> None:
    """The message says what fits."""
    with pytest.raises(JobError, match="no coil on its plugs"):
        compile_plan(ENGINES["dunmarl-42-six"], job(1))


def test_each_alternative_is_what_forbidding_gives_and_none_is_cheaper() -> None:
    """Following its link makes it the plan, at the stated difference."""
    base = compile_plan(tug(), job(3, 5))
    assert base.alternatives
    for other in base.alternatives:
        made = compile_plan(tug(), job(3, 5, forbid=other.forbid))
        assert {m.part for m in made.moves} == set(other.parts)
        gained = made.access_minutes - base.access_minutes
        assert gained == pytest.approx(other.minutes + other.risk, abs=0.11)
        assert gained >= 0


@settings(max_examples=examples(60), deadline=None)
@given(obstructed())
def test_alternatives_of_random_engines_are_true_and_sorted(made: Engine) -> None:
    """Each is an optimum with something ruled out, cheapest first."""
    problem = build(made, settle_job(job(1, 2, 3), made), DEFAULT_RULES)
    try:
        best = solve(problem)
    except NoWayInError:
        return
    costs = [a.minutes + a.risk for a in alternatives(made, problem, best, DEFAULT_RULES)]
    assert all(c >= -0.06 for c in costs)
    assert costs == sorted(costs)


@given(obstructed())
def test_whether_parts_may_wait_in_a_circle_is_told_by_their_groups(made: Engine) -> None:
    """Two ways of finding out, one that names the groups and one that only says."""
    problem = build(made, settle_job(job(1, 2, 3), made), DEFAULT_RULES)
    assert may_loop(problem) == bool(waiting_groups(problem))


def test_what_stays_says_what_saved_it() -> None:
    """Worked round, made needless, or simply not in the way."""
    why = {s.part: s.why for s in ask(ENGINES["dunmarl-42-six"], 5).stays}
    assert why["manifold"].startswith("worked round: round the back by feel")
    front = {s.part: s.why for s in compile_plan(tug(), job(2)).stays}
    assert front["plenum"] == "not in the way of these holes"


@settings(max_examples=examples(100), deadline=None)
@given(obstructed())
def test_the_general_solver_agrees_with_our_search(made: Engine) -> None:
    """Loops and all."""
    problem = build(made, settle_job(job(1, 2, 3), made), DEFAULT_RULES)
    ours = Search(problem, 100_000).least()
    other = CpSatModel(problem).ask()
    assert ours.bound is None
    if not ours.answers:
        assert other.impossible
        return
    assert other.chosen is not None
    assert other.value == other.bound == ours.answers[0].value
    assert not find_loop(problem, other.chosen)


def test_a_large_engine_is_chosen_for_as_cheaply_as_by_a_plain_model() -> None:
    """A hundred parts: proven, and equal to the baseline."""
    made = synthetic.engine(100)
    problem = build(made, settle_job(job(*made.cylinders), made), DEFAULT_RULES)
    found = solve(problem)
    assert found.proven
    assert (found.cost, True) == cpsat.solve(problem, seconds=20)


def test_the_same_question_gives_the_same_bytes_on_a_large_engine() -> None:
    """Also where the general solver helps."""
    made = synthetic.engine(80)
    once, again = (compile_plan(made, job(1, 2, 3)).model_dump_json() for _ in range(2))
    assert once == again


def test_frames_fold_to_everything_back_where_it_was() -> None:
    """Scrubbed to the end, nothing is off and the clock shows the whole job."""
    made = compile_plan(tug(), job(2, 5))
    off: set[str] = set()
    for frame in scrubber_frames(made):
        off |= {frame.away} - {""}
        off -= {frame.back}
    assert off == set()
    assert scrubber_frames(made)[-1].minutes == pytest.approx(made.minutes)
    stages = [f.stage for f in scrubber_frames(made) if f.hole == "5" and f.stage]
    assert stages == ["coil off", "open", "read", "fitted", "torqued", "coil on", "connected"]
    assert json.loads(scrubber_frames(made)[0].model_dump_json())["key"] == "ready/unit"


@pytest.mark.sweep(9)
@pytest.mark.parametrize("all_of_it", [False, True], ids=["plugs", "everything"])
@pytest.mark.parametrize("key", sorted(ENGINES))
def test_every_demo_engine_runs_from_facts_to_a_signature(key: str, all_of_it: bool) -> None:
    """Followed step by step in the order printed, every entry is admitted and it can be signed;
    also with all the work that its sheet can answer.
    """
    made = ask(ENGINES[key])
    if all_of_it:
        everything = made.job.model_copy(update={"work": possible_work(ENGINES[key])})
        made = compile_plan(ENGINES[key], everything)
    state = RunState()
    for step in made.steps:
        for reading in step.readings:
            value = typical(reading)
            state = record(made, state, "reading", step.key, reading=reading.key, value=value)
        kind = "sign" if step.key == SIGNING else "done"
        state = record(made, state, kind, step.key, checks=tuple(c.key for c in step.checks))
    assert state.signed is not None


def record(made: Plan, state: RunState, kind: str, step: str, **more: object) -> RunState:
    """Admit one entry and add it."""
    entry = Entry.model_validate({"id": uuid4(), "kind": kind, "step": step, **more})
    admit(made, state, entry, Role.TECHNICIAN)
    now = datetime.now(UTC)
    return with_entry(state, Recorded(entry=entry, by="x", role=Role.TECHNICIAN, at=now))
