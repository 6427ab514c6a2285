"""Engine shapes and services: the same craft on one hole, two a cylinder, gas, iron, marine."""

import pytest

from eldrim.core.job import Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.reachable import unreachable
from tests.builders import document, engine, job, part


def keys(made: Plan) -> list[str]:
    """The step keys in order."""
    return [s.key for s in made.steps]


def cautions(made: Plan, key: str) -> set[str]:
    """The cautions on a step."""
    return {c.key for s in made.steps if s.key == key for c in s.cautions}


def test_two_plugs_a_cylinder_are_two_holes() -> None:
    """Each with its own steps, coil and plug; the job still names the cylinder."""
    cylinders = document(2)["cylinders"]
    for cylinder in cylinders.values():
        well = cylinder["wells"][0]
        cylinder["wells"] = [well, {**well, "at": [well["at"][0], 190]}]
    made = compile_plan(engine(2, cylinders=cylinders), job(2))
    assert {"torque/plug/2a", "torque/plug/2b", "fit/coil/2a"} <= set(keys(made))
    assert not [k for k in keys(made) if "/1a" in k or k.endswith("/2")]
    assert {s.cylinder for s in made.steps if s.hole} == {2}
    assert next(p.quantity for p in made.parts if p.name == "spark plug") == 2


def test_one_of_the_two_holes_may_be_hindered_alone() -> None:
    """A hindrance names the hole, not the cylinder."""
    cylinders = document(1)["cylinders"]
    well = cylinders[1]["wells"][0]
    cylinders[1]["wells"] = [well, {**well, "at": [140, 190]}]
    hindrance = [{"part": "box", "of": ["hole/1b/plug"], "kind": "blocks_tool"}]
    made = engine(1, cylinders=cylinders, parts={"box": part()}, hindrances=hindrance)
    assert compile_plan(made, job(1)).moves[0].why == "in the tool's line to plug 1b"
    assert compile_plan(made, job(1, work=(Work.COIL,))).moves == ()


def test_a_single_cylinder_in_the_open_moves_nothing() -> None:
    """And still has its whole procedure."""
    made = compile_plan(engine(1), job(1))
    assert made.moves == ()
    assert keys(made)[0] == "ready/unit"
    assert keys(made)[-1] == "prove/sign"
    assert unreachable(engine(1)) == []


def layout(**changes: object) -> dict[str, object]:
    """The test engine's layout, changed."""
    return {**document()["layout"], **changes}


def test_an_iron_head_has_no_aluminium_caution() -> None:
    """Cautions come from what a step does to what."""
    iron = compile_plan(engine(layout=layout(head="iron")), job(1))
    assert "aluminium_thread" not in cautions(iron, "torque/plug/1")
    assert "aluminium_thread" in cautions(compile_plan(engine(), job(1)), "torque/plug/1")


def test_gas_fuel_and_marine_bring_their_own() -> None:
    """Isolated supply; blower before the first spark."""
    assert "gas_fuel" in cautions(
        compile_plan(engine(layout=layout(fuel="gas")), job(1)), "prove/start"
    )
    gas = keys(compile_plan(engine(layout=layout(fuel="gas")), job(1)))
    assert gas.index("ready/gas") < gas.index("ready/key"), "an empty line is run empty"
    marine = compile_plan(engine(layout=layout(service="marine")), job(1))
    assert keys(marine).index("prove/blower") < keys(marine).index("prove/start")


def test_a_conical_seat_has_no_ring_to_look_for() -> None:
    """Only a gasket seat leaves one behind."""
    conical = [{**document()["plugs"][0], "seat": "conical"}]
    for made, expected in (
        (compile_plan(engine(plugs=conical), job(1)), False),
        (compile_plan(engine(), job(1)), True),
    ):
        pulled = next(s for s in made.steps if s.key == "remove/plug/1")
        assert ("ring" in {c.key for c in pulled.checks}) is expected


@pytest.mark.parametrize(
    ("construction", "says"),
    [
        ("fine_wire", "never lever"),
        ("nickel", "ground strap"),
        ("multi_ground", "Not adjustable"),
        ("surface_gap", "Look for damage"),
    ],
)
def test_the_gap_is_treated_as_the_construction_allows(construction: str, says: str) -> None:
    """A fine tip is never levered."""
    plugs = [{**document()["plugs"][0], "construction": construction}]
    made = compile_plan(engine(plugs=plugs), job(1))
    assert says in next(s.detail for s in made.steps if s.key == "gap/plug/1")


def test_a_felt_well_takes_longer_and_goes_first() -> None:
    """Worst access first."""
    cylinders = document(2)["cylinders"]
    cylinders[2]["wells"][0]["sight"] = "felt"
    made = compile_plan(engine(2, cylinders=cylinders), job(1, 2))
    minutes = {s.key: s.minutes for s in made.steps}
    assert minutes["torque/plug/2"] > minutes["torque/plug/1"]
    assert keys(made).index("torque/plug/2") < keys(made).index("torque/plug/1")


def test_variants_have_their_own_plugs_figures_and_parts() -> None:
    """What is stated for one does not leak into another."""
    base = document()
    plugs = [
        {**base["plugs"][0], "variants": ["early"]},
        {**base["plugs"][0], "part_number": "T-15", "variants": ["late"]},
    ]
    gaps = [
        {"value": "0.7 mm", "source": "wm", "page": "4", "variants": ["early"]},
        {"value": "0.6 mm", "source": "wm", "page": "9", "variants": ["late"]},
    ]
    made = engine(
        variants={"early": {"name": "to 99"}, "late": {"name": "100 on"}},
        plugs=plugs,
        figures={**base["figures"], "plug-gap": gaps},
        parts={"pipe": {**part(), "variants": ["late"]}},
        hindrances=[{"part": "pipe", "of": ["hole/1"], "kind": "hides", "variants": ["late"]}],
    )
    early, late = (compile_plan(made, job(1, variant=v)) for v in ("early", "late"))
    assert [m.part for m in early.moves] == []
    assert [m.part for m in late.moves] == ["pipe"]
    assert early.parts[0].part_number == "T-14"
    assert late.parts[0].part_number == "T-15"
    figure = next(f for s in late.steps if s.key == "gap/plug/1" for f in s.figures)
    assert (figure.printed, figure.variant) == ("0.6 mm", "100 on")
