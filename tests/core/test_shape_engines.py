"""The craft on twelve further shapes: what each of them must bring about, step by step."""

from collections.abc import Callable

import pytest

from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.reachable import unreachable
from eldrim.demo.load import demo_engines
from eldrim.exchange.engine_file import read_engine, write_engine
from tests.builders import job
from tests.core import shape_engines as shapes


def planned(engine: Engine, *cylinders: int, works: tuple[Work, ...] = ()) -> Plan:
    """The plan of a job, coil or lead and plug, on these cylinders."""
    carrier = Work.COIL if engine.coils else Work.LEAD
    return compile_plan(engine, job(*cylinders, work=works or (carrier, Work.PLUG)))


def keys(plan: Plan) -> list[str]:
    """The step keys in order."""
    return [step.key for step in plan.steps]


def step_of(plan: Plan, key: str) -> Step:
    """The step with this key."""
    return next(step for step in plan.steps if step.key == key)


def in_order(plan: Plan, *wanted: str) -> bool:
    """Whether all of these are steps and come in this order."""
    found = keys(plan)
    places = [found.index(key) for key in wanted]
    return places == sorted(places)


@pytest.mark.parametrize("shape", shapes.SHAPES, ids=lambda shape: shape.__name__)
def test_every_shape_reads_back_agrees_and_is_planned_whole(shape: Callable[[], Engine]) -> None:
    """For each cylinder and for all: no open question of the craft, no step without minutes."""
    engine = shape()
    assert read_engine(write_engine(engine).encode()) == engine
    assert not check(engine)
    assert not unreachable(engine)
    for cylinders in ((1,), tuple(engine.cylinders)):
        plan = planned(engine, *cylinders)
        assert plan.proven_optimal, plan.least_sum
        assert len(keys(plan)) == len(set(keys(plan)))
        assert all(step.minutes > 0 for step in plan.steps)
        assert not [step for step in plan.steps if "  " in step.text or ".." in step.detail]
        to_get = [item.name for item in plan.roll if item.missing]
        assert not to_get, to_get


def test_a_stationary_single_has_no_wheels_no_codes_and_its_shroud_waits() -> None:
    """The shroud comes back after the first start, and the count after it."""
    plan = planned(shapes.single(), 1)
    assert not {"ready/codes", "prove/clear-codes"} & set(keys(plan))
    assert "may_roll" not in {c.key for step in plan.steps for c in step.cautions}
    assert in_order(plan, "prove/tools", "prove/start", "fit/shroud", "prove/tools-again")


def test_a_loom_over_the_coils_goes_aside_before_any_connector_and_its_marks_are_said() -> None:
    """The rail that stays asks for its tool where the bolt is turned, out and back."""
    plan = planned(shapes.loom_over_coils(), 3, 4)
    assert in_order(plan, "unclip/loom", "release/coil/4/connector", "remove/coil/4")
    assert in_order(plan, "connect/coil/4/connector", "back/loom")
    for key in ("release/coil/3/connector", "connect/coil/3/connector"):
        assert "3 on the loom" in step_of(plan, key).detail, key
    for key in ("release/coil/4/bolt", "tighten/coil/4/bolt"):
        assert "universal joint ¼ in" in [tool.name for tool in step_of(plan, key).tools], key
    assert not step_of(plan, "remove/coil/4").tools
    assert not [k for k in keys(plan) if "/rail" in k]


def test_a_coolant_tank_put_aside_is_not_drained() -> None:
    """Only the holes behind it ask for it; the hose stays on, so nothing is filled."""
    engine = shapes.coolant_tank()
    behind, free = planned(engine, 3), planned(engine, 2)
    assert "shift/tank" in keys(behind)
    assert "release/tank/hose" not in keys(behind)
    assert "prove/coolant" not in keys(behind)
    assert not [k for k in keys(free) if "tank" in k]
    tank = step_of(behind, "release/tank/nuts")
    assert tank.tools[0].name == "socket 13 mm, ⅜ in"


def test_an_air_box_over_one_bank_is_plugged_and_checked_for_leaks_only_there() -> None:
    """The other bank needs neither plug nor leak check."""
    engine = shapes.air_box()
    front, rear = planned(engine, 5), planned(engine, 2)
    assert in_order(
        front,
        "remove/box",
        "plug-opening/box",
        "remove/plug/5",
        "unplug-opening/box",
        "fit/box",
        "prove/openings",
        "prove/start",
        "prove/air-leak",
    )
    assert not {"prove/openings", "prove/air-leak", "remove/box"} & set(keys(rear))


def test_two_plugs_a_cylinder_take_what_hides_only_the_one_and_say_its_note() -> None:
    """An E8 head asks for its socket; the outer well's note stands at its steps alone."""
    plan = planned(shapes.twin_plug(), 2)
    shield = step_of(plan, "release/heat-shield/bolts")
    assert "socket E8, ¼ in" in [tool.name for tool in shield.tools]
    assert "Wipe the ring groove first." in step_of(plan, "remove/plug/2b").detail
    assert "Wipe the ring groove first." not in step_of(plan, "remove/plug/2a").detail
    assert next(p.quantity for p in plan.parts if p.name == "spark plug") == 2


def test_what_is_pushed_onto_both_plenums_goes_on_before_either_is_tightened() -> None:
    """Faces wiped with ports plugged, unplugged, new seal, plenum, pipe, then bolts."""
    plan = planned(shapes.vee_twelve(), 1, 2)
    for side in ("left", "right"):
        assert in_order(
            plan,
            f"faces/{side}",
            f"unplug-opening/{side}",
            f"renew/{side}/seal",
            f"fit/{side}",
            "fit/pipe",
            f"tighten/{side}/bolts",
        )
    assert in_order(plan, "remove/pipe", "remove/left")
    assert "Left plenum: gasket" in [line.name for line in plan.parts]
    assert not [k for k in keys(planned(shapes.vee_twelve(), 1)) if "right" in k]


def test_a_fixed_thing_is_worked_round_in_pieces_and_its_minutes_counted() -> None:
    """Nothing of it moves; the stack goes in and out in pieces."""
    engine = shapes.vee_eight_bulkhead()
    hard, easy = planned(engine, 7), planned(engine, 1)
    assert not [k for k in keys(hard) if "servo" in k]
    gap = sum(s.minutes for s in hard.steps) - sum(s.minutes for s in easy.steps)
    assert gap >= 3.5
    assert hard.access_minutes == 3.5


def test_a_flat_engine_is_felt_and_a_twist_coil_is_twisted() -> None:
    """Worst hole first: the felt wells differ by nothing, so by number; the note is said."""
    plan = planned(shapes.flat_six(), 3)
    assert "heater hose" in step_of(plan, "remove/plug/3").detail
    assert {c.text for c in step_of(plan, "fit/coil/3").checks} == {"Flap dropped in"}
    assert "prove/load" in keys(plan)
    assert in_order(plan, "prove/start", "fit/tray", "prove/tools-again")


def test_a_conical_seat_on_an_iron_head_has_no_ring_and_isolation_for_the_whole_job() -> None:
    """Negative off first, on last; the sleeve numbers are said; no code steps."""
    plan = planned(shapes.wheel_arch(), 3)
    assert in_order(plan, "ready/isolate", "release/panel/catch", "prove/reconnect", "prove/start")
    pulled = step_of(plan, "remove/plug/3")
    assert not pulled.checks
    assert "aluminium_thread" not in {c.key for c in pulled.cautions}
    assert "sleeve 3" in step_of(plan, "remove/lead/3").detail
    assert not {"ready/codes", "prove/clear-codes"} & set(keys(plan))
    assert step_of(plan, "torque/plug/3").figures[0].printed == "20 to 30 N·m"


def test_a_pipe_swung_aside_opens_what_its_way_says_and_hoses_go_on_before_its_bolt() -> None:
    """One of its two openings; the same way out and back."""
    plan = planned(shapes.charge_pipe(), 4)
    assert in_order(plan, "swing/pipe", "plug-opening/pipe", "remove/plug/4")
    assert in_order(plan, "back/pipe", "connect/pipe/clamps", "tighten/pipe/bolt")
    said = step_of(plan, "plug-opening/pipe")
    assert "throttle inlet" in said.text
    assert "cooler outlet" not in said.text + said.detail
    assert "prove/air-leak" in keys(plan)


def test_a_seat_that_only_hides_a_bolt_comes_off_before_that_bolt() -> None:
    """A hindrance of one joint; the union nut takes an open tool and is proven dry."""
    plan = planned(shapes.seat_twin(), 1, 2)
    assert in_order(plan, "remove/seat", "release/tank/bolt", "remove/tank")
    assert in_order(plan, "tighten/tank/bolt", "fit/seat")
    union = step_of(plan, "release/tank/union")
    assert any("crow's foot 17 mm" in tool.name for tool in union.tools)
    assert in_order(plan, "ready/isolate", "release/tank/union", "prove/fuel", "prove/start")
    coil_free = compile_plan(shapes.seat_twin(), job(2, work=(Work.PLUG,)))
    assert "remove/tank" in keys(coil_free)


def test_gas_is_let_in_again_and_looked_for_with_spray_never_primed() -> None:
    """The flare nut beyond the small sizes is in the catalogue; the connector alone asks for it."""
    engine = shapes.gas_six()
    plan = planned(engine, 6)
    assert in_order(plan, "remove/gas", "release/coil/6/connector")
    gas = step_of(plan, "prove/fuel")
    assert gas.text == "Open the gas supply and look for leaks"
    assert "gas_fuel" in {c.key for c in gas.cautions}
    assert not [k for k in keys(planned(engine, 5)) if "remove/gas" in k]
    for made in (plan, planned(engine, 5)):
        assert in_order(made, "ready/gas", "prove/fuel", "prove/start"), "shut, and opened again"
    assert not [k for k in keys(planned(engine, 6, works=(Work.PLUG,))) if k == "prove/coils"]


def test_what_a_work_round_needs_away_is_said_for_the_holes_asked_for_alone() -> None:
    """The hindrance names three holes; the job asks for one."""
    engine = next(e for e in demo_engines() if e.id == "dunmarl-42-six")
    made = compile_plan(engine, Job(cylinders=(6,), work=(Work.LEAD, Work.PLUG), variant="gas"))
    [tank] = [move for move in made.moves if move.part == "coolant-tank"]
    assert tank.why == "in the tool's line to plug 6"
    assert tank.serves == ("6",)


def test_a_tool_is_named_once_a_step_and_no_handle_beside_a_torque_wrench() -> None:
    """Also where the sheet names for a work-round what the stack has in it already."""
    for engine in demo_engines():
        job = Job(
            cylinders=tuple(engine.cylinders),
            work=(Work.COIL if engine.coils else Work.LEAD, Work.PLUG),
            variant=next(iter(engine.variants)),
        )
        for step in compile_plan(engine, job).steps:
            ids = [tool.id for tool in step.tools]
            assert len(ids) == len(set(ids)), step.key
            torqued = step.key.startswith("torque/plug")
            assert not (torqued and [i for i in ids if i.startswith("h-")]), step.key
