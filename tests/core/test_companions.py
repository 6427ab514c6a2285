"""Companion work: planned in the same way in, in its place, with all a step has."""

from typing import Any

import pytest
from pydantic import ValidationError

from eldrim.core.base.errors import JobError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.glossary import lacking, own_words
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.demo.load import demo_engines
from tests.builders import engine, part, tug

ENGINES = {one.id: one for one in demo_engines()}
GASKET = "rear-cover-gasket"


def planned(*work: str, cylinders: tuple[int, ...] = (), **more: Any) -> Plan:
    """A job on the vee six; companions are named among the work."""
    job = Job.model_validate({"work": list(work), "cylinders": cylinders, **more})
    return compile_plan(tug(), job)


def keys(plan: Plan) -> list[str]:
    """The keys of its steps, in order."""
    return [str(step.key) for step in plan.steps]


def step(plan: Plan, key: str) -> Step:
    """One of its steps."""
    return next(one for one in plan.steps if one.key == key)


def companion(**more: Any) -> dict[str, Any]:
    """A companion of one step, in the open."""
    return {
        "name": "Filter",
        "steps": {"change": {"name": "Change it", "minutes": "2 min"}},
        **more,
    }


def with_one(hindrances: list[dict[str, Any]] | None = None, **more: Any) -> Engine:
    """A small engine with one companion, ``filter``, under a lid where it is hindered."""
    return engine(
        parts={"lid": part(1, 2)},
        hindrances=hindrances or [],
        companions={"filter": companion(**more)},
    )


def test_a_companion_alone_is_a_job() -> None:
    """Without a hole; only what hinders it moves."""
    plan = planned("air-filter")
    assert plan.title == "Air filter"
    assert not plan.moves
    assert [k for k in keys(plan) if k.startswith("along/")] == [
        "along/air-filter/open",
        "along/air-filter/wipe",
        "along/air-filter/close",
    ]
    assert [(p.quantity, p.part_number) for p in plan.parts] == [(1, "MF-340-01")]
    below = planned("breather-hose")
    assert "plenum" in {move.part for move in below.moves}
    assert "the breather hose under the plenum" in next(
        move.why for move in below.moves if move.part == "plenum"
    )


def test_in_the_open_it_is_done_before_a_well_is_opened() -> None:
    """So that nothing of it falls in; what goes over it waits until it is done."""
    order = keys(planned("plug", "air-filter", "breather-hose", cylinders=(5,)))
    assert order.index("along/air-filter/close") < order.index("remove/coil/5")
    assert order.index("along/breather-hose/on") < order.index("fit/plenum")
    assert order.index("remove/plenum") < order.index("along/breather-hose/off")


def test_one_that_needs_coils_off_is_done_with_the_plugs_in() -> None:
    """All its coils come off together, its own plugs stay, and they go on when it is done."""
    order = keys(planned("plug", GASKET, cylinders=(5,)))
    first, last = order.index(f"along/{GASKET}/undo"), order.index(f"along/{GASKET}/do-up")
    assert all(order.index(f"remove/coil/{hole}") < first for hole in (1, 3, 5))
    assert order.index("torque/plug/5") < first
    assert all(last < order.index(f"fit/coil/{hole}") for hole in (1, 3, 5))
    assert "remove/plug/1" not in order


@pytest.mark.parametrize("school", ["one_at_a_time", "all_wells"])
def test_its_coils_are_open_together_whatever_the_school(school: str) -> None:
    """Also where holes are otherwise opened one at a time."""
    rules = DEFAULT_RULES if school == "all_wells" else DEFAULT_RULES.using(open_at_once=school)
    job = Job.model_validate({"work": ["plug", GASKET], "cylinders": (5, 2)})
    order = keys(compile_plan(tug(), job, rules))
    first = order.index(f"along/{GASKET}/undo")
    assert all(order.index(f"remove/coil/{hole}") < first for hole in (1, 3, 5))
    assert all(first < order.index(f"fit/coil/{hole}") for hole in (1, 3, 5))
    assert len(order) == len(set(order))


def test_its_steps_have_tools_torque_cautions_and_checks() -> None:
    """As any other step: from its joints, its figures and what it does."""
    plan = planned(GASKET, "coolant-strength")
    done_up = step(plan, f"along/{GASKET}/do-up")
    [torque] = done_up.figures
    assert (torque.min, torque.max, torque.unit) == (8, 10, "N·m")
    assert torque.setting is not None
    assert any("torque wrench" in tool.name for tool in done_up.tools)
    assert {check.key for check in done_up.checks} >= {"torque"}
    assert "gasket_dust" in {c.key for c in step(plan, f"along/{GASKET}/faces").cautions}
    assert {c.text for c in step(plan, f"along/{GASKET}/lay").checks} >= {
        "Every seal in its groove"
    }
    [reading] = step(plan, "along/coolant-strength/draw").readings
    assert (reading.low, reading.high, reading.unit) == (-38, -30, "°C")
    assert "coolant" in {c.key for c in step(plan, "along/coolant-strength/draw").cautions}


def test_it_waits_for_what_hinders_it_and_carries_the_work_round() -> None:
    """A lid over it comes off and goes on; worked round it costs what the sheet says."""
    over = [{"part": "lid", "of": ["work/filter"], "kind": "hides"}]
    plan = compile_plan(with_one(over), Job.model_validate({"work": ["filter"]}))
    order = keys(plan)
    assert order.index("remove/lid") < order.index("along/filter/change") < order.index("fit/lid")
    around = {"feel": {"kind": "by_feel", "out": "0.5 min", "back": "0.2 min"}}
    plan = compile_plan(
        with_one([{**over[0], "rounds": around}]), Job.model_validate({"work": ["filter"]})
    )
    assert not plan.moves
    assert step(plan, "along/filter/change").minutes == pytest.approx(2.7)
    assert "Thing" in step(plan, "along/filter/change").detail


@pytest.mark.parametrize(
    ("joint", "proof"),
    [
        ({"kind": "hose_spring_clamp", "carries": "coolant"}, "prove/coolant"),
        ({"kind": "fuel_line", "carries": "fuel"}, "prove/fuel"),
        ({"kind": "hose_finger_ring", "carries": "air"}, "prove/air-leak"),
        ({"kind": "clip"}, ""),
    ],
)
def test_what_it_disturbs_is_proven(joint: dict[str, Any], proof: str) -> None:
    """Coolant filled, fuel primed, air leaks looked for; what it does not touch is not."""
    steps = {"off": {"name": "Off and on", "minutes": "1 min", "undo": "end"}}
    made = compile_plan(
        with_one(joints={"end": joint}, steps=steps), Job.model_validate({"work": ["filter"]})
    )
    found = {"prove/coolant", "prove/fuel", "prove/air-leak"} & set(keys(made))
    assert found == ({proof} if proof else set())


def test_the_way_in_is_shared() -> None:
    """Plugs and a companion together are cheaper than apart, and proven."""
    plugs, along = planned("plug", cylinders=(1, 3, 5)), planned(GASKET)
    both = planned("plug", GASKET, cylinders=(1, 3, 5))
    assert both.proven_optimal
    assert both.minutes < plugs.minutes + along.minutes - 50


def test_in_german_it_speaks_german() -> None:
    """Its words are on the sheet; the title names it."""
    plan = planned("plug", "air-filter", cylinders=(2,), language="de")
    assert plan.title.endswith("; Luftfilter")
    assert step(plan, "along/air-filter/wipe").text == "Gehäuse auswischen"
    assert {"Every seal in its groove", "Air filter"} <= set(own_words(tug()))
    assert not [word for word in lacking(tug(), "de") if "filter" in word.lower()]


def test_a_companion_more_is_a_difference() -> None:
    """Told by step, part and minutes."""
    found = difference(
        planned("plug", cylinders=(2,)), planned("plug", "air-filter", cylinders=(2,))
    )
    assert not found.empty


@pytest.mark.parametrize(
    ("work", "told"),
    [
        (("wobbler",), "'wobbler' is no work this sheet knows"),
        (("plug", "air-filtre"), "use .*air-filter"),
        ((), "names no work"),
    ],
)
def test_what_the_sheet_does_not_know_is_refused(work: tuple[str, ...], told: str) -> None:
    """With what it does know."""
    with pytest.raises((JobError, ValueError), match=told):
        planned(*work, cylinders=(2,) if "plug" in work else ())


def test_one_of_another_variant_is_not_offered() -> None:
    """It is stated for some variants alone."""
    other = {"one": {"name": "one"}, "two": {"name": "two"}}
    sheet = engine(variants=other, companions={"filter": companion(variants=["two"])})
    asked = {"work": ["filter"], "variant": "two"}
    assert compile_plan(sheet, Job.model_validate(asked)).minutes > 0
    with pytest.raises(JobError, match="no work this sheet knows"):
        compile_plan(sheet, Job.model_validate({**asked, "variant": "one"}))


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"coils_off": [9]}, "cylinder 9 does not exist"),
        ({"at": (9_000, 1)}, "off the plan"),
        ({"variants": ["late"]}, "variant 'late' does not exist"),
        (
            {"steps": {"a": {"name": "A", "minutes": "1 min", "undo": "clips"}}},
            "joint 'clips' does not exist",
        ),
        (
            {"steps": {"a": {"name": "A", "minutes": "1 min", "figure": "frost"}}},
            "figure 'frost' does not exist",
        ),
    ],
)
def test_a_companion_that_does_not_hold_is_named(more: dict[str, Any], told: str) -> None:
    """With its place in the sheet and the fix."""
    assert any(told in problem.message for problem in check(with_one(**more)))


def test_names_are_free_and_targets_known() -> None:
    """No companion is called like a kind of work; work nobody states hinders nothing."""
    sheet = engine(companions={"cap": companion()})
    assert any("is a kind of work already" in problem.message for problem in check(sheet))
    strange = with_one([{"part": "lid", "of": ["work/fliter"], "kind": "hides"}])
    [problem] = check(strange)
    assert "work 'fliter' does not exist" in problem.message
    assert "filter" in problem.fix


def test_jobs_kept_before_there_was_companion_work_still_read() -> None:
    """A job without the field is one without companions, and says so again."""
    job = Job.model_validate({"cylinders": [1], "work": ["plug"]})
    assert job.companions == ()
    assert Job.model_validate(job.model_dump(mode="json")) == job
    both = job.along_with("air-filter")
    assert both.companions == ("air-filter",)
    assert both.work == (Work.PLUG,)


@pytest.mark.parametrize(
    "said",
    [
        {"work": ["plug"], "companions": None, "cylinders": [1]},
        {"work": ["plug"], "companions": "air-filter", "cylinders": [1]},
        {"work": [["plug"]]},
        {"work": [3]},
        {"work": None},
    ],
)
def test_nonsense_in_the_place_of_work_is_refused(said: dict[str, Any]) -> None:
    """In pydantic's words, never by a crash."""
    with pytest.raises(ValidationError):
        Job.model_validate(said)


@pytest.mark.parametrize(
    ("start", "work", "at", "plugs", "carriers"),
    [
        ({"work": ["plug"], "cylinders": [5]}, "plug", (1, 3), (), ()),
        ({"work": ["plug"], "cylinders": [5]}, "coil", (5,), (), ()),
        ({"work": ["plug"], "cylinders": [5]}, "coil", (1,), (5,), (1,)),
        ({"work": ["plug", "coil"], "cylinders": [5]}, "plug", (1,), (), (5,)),
        ({"work": ["air-filter"]}, "plug", (2,), (), ()),
    ],
)
def test_more_work_joins_where_it_is_done(
    start: dict[str, Any],
    work: str,
    at: tuple[int, ...],
    plugs: tuple[int, ...],
    carriers: tuple[int, ...],
) -> None:
    """What was asked stays where it was; what is new is done where it is new."""
    more = Job.model_validate(start).along_with(work, at)
    assert (more.plugs_at, more.carriers_at) == (plugs, carriers)
    assert set(at) <= set(more.at(Work(work)))
    assert set(more.cylinders) == set(start.get("cylinders", [])) | set(at)


def test_what_proves_a_companion_s_step_is_ticked_one_by_one() -> None:
    """Each check has a key of its own, counted from one, beside those of its joint."""
    steps = {"change": {"name": "Change it", "minutes": "2 min", "checks": ["Clean", "Seated"]}}
    sheet = engine(companions={"filter": companion(steps=steps)})
    made = compile_plan(sheet, Job.model_validate({"work": [], "companions": ["filter"]}))
    [change] = [one for one in made.steps if one.key.operation.value == "along"]
    assert [(check.key, check.text) for check in change.checks] == [
        ("own-1", "Clean"),
        ("own-2", "Seated"),
    ]
