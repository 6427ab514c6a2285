"""House rules: every school of every topic changes a procedure, or is refused with its reason."""

from functools import cache
from typing import get_args, get_type_hints

import pytest
from pydantic import ValidationError

from eldrim.core.job import Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.model import Plan, segments
from eldrim.core.rules.house import DEFAULT_RULES, Departure, HouseRules
from eldrim.core.rules.schools import Schools
from eldrim.core.rules.topics import TOPICS
from eldrim.demo.load import demo_engines
from tests.builders import document, engine, job, part, tug

SCHOOLS = [(t.key, s.key) for t in TOPICS for s in t.schools[1:] if not s.refused]


def everything() -> list[tuple[object, object]]:
    """Jobs that between them touch every topic."""
    plug = {**document()["plugs"][0], "plating": "bare", "index": "strap towards the exhaust"}
    coil = [
        {
            "part_number": "C-1",
            "joints": {
                "bolt": {"kind": "bolt", "head": "hex", "size": "10 mm"},
                "connector": {"kind": "connector_press"},
            },
        }
    ]
    cover = {
        **part(),
        "kind": "cover",
        "needed_to_run": False,
        "joints": {"screws": {"kind": "screw", "head": "cross", "size": "6 mm", "count": 2}},
    }
    feel = {"r": {"kind": "by_feel", "out": "0 min", "back": "0 min"}}
    banks = {"left": {"name": "Left"}, "right": {"name": "Right"}}
    cylinders = document(4)["cylinders"]
    for number in (3, 4):
        cylinders[number] = {**cylinders[number], "bank": "right", "place": number - 2}
    for number in (1, 2):
        cylinders[number] = {**cylinders[number], "bank": "left"}
    cylinders[2]["wells"] = [{**cylinders[2]["wells"][0], "sight": "felt"}]
    figures = {
        **document()["figures"],
        "warm-window": [{"value": "35 to 45 °C", "source": "wm", "page": "9"}],
    }
    made = engine(
        4,
        plugs=[plug],
        coils=coil,
        banks=banks,
        cylinders=cylinders,
        figures=figures,
        parts={"cover": cover, "duct": part(4, 4)},
        hindrances=[
            {"part": "cover", "of": ["hole/1"], "kind": "hides"},
            {"part": "duct", "of": ["hole/2"], "kind": "blocks_tool", "rounds": feel},
        ],
    )
    leads = next(e for e in demo_engines() if e.id == "ostler-16-flat-four")
    boat = next(e for e in demo_engines() if e.id == "fendrake-50-marine-v8")
    work = (Work.PLUG, Work.LEAD)
    return [
        (made, job(1, 2, 3)),
        (leads, job(1, 2, work=work)),
        (tug(), job(2)),
        (boat, job(1, work=work)),
    ]


JOBS = everything()


def plans(rules: HouseRules) -> list[Plan]:
    """The procedures of all jobs under these rules."""
    return [compile_plan(e, j, rules) for e, j in JOBS]  # type: ignore[arg-type]


@cache
def by_default() -> list[Plan]:
    """The procedures of all jobs under the rules a shop begins with."""
    return plans(DEFAULT_RULES)


@pytest.mark.sweep(12)
@pytest.mark.parametrize(("topic", "school"), SCHOOLS)
def test_every_school_changes_steps_order_values_or_checks(topic: str, school: str) -> None:
    """It is not a note."""
    changed = plans(DEFAULT_RULES.with_schools({topic: school}))
    assert any(not difference(a, b).empty for a, b in zip(by_default(), changed, strict=True))


@pytest.mark.sweep(12)
@pytest.mark.parametrize(("topic", "school"), SCHOOLS)
def test_under_every_school_what_must_come_first_does(topic: str, school: str) -> None:
    """Order, unique keys and sums hold whatever is chosen."""
    for made in plans(DEFAULT_RULES.with_schools({topic: school})):
        keys = [s.key for s in made.steps]
        assert len(keys) == len(set(keys))
        for step in made.steps:
            assert all(keys.index(k) < keys.index(step.key) for k in step.after)
        assert keys[-1] == "prove/sign"


def test_tightening_by_feel_is_refused_with_its_reason() -> None:
    """No one can check it."""
    with pytest.raises(ValidationError, match="No one can check it"):
        DEFAULT_RULES.using(tightening="feel")
    for wrong in ({"tightening": "guess"}, {"colour": "red"}):
        with pytest.raises(ValidationError, match="no school"):
            DEFAULT_RULES.with_schools(wrong)


def test_the_default_is_not_stored_as_a_choice() -> None:
    """Going back to the default leaves the rules as they were."""
    there = DEFAULT_RULES.using(tightening="low_third")
    assert there.using(tightening="mid") == DEFAULT_RULES


def test_a_departure_changes_one_procedure_only() -> None:
    """With its reason."""
    rules = DEFAULT_RULES.departing({"old_plugs": Departure(school="scrap", reason="fouled")})
    assert rules.school["old_plugs"] == "scrap"
    assert DEFAULT_RULES.school["old_plugs"] == "keep"
    with pytest.raises(ValidationError):
        Departure(school="scrap", reason="")


def key_order(made: Plan, *keys: str) -> bool:
    """Whether steps stand in this order."""
    places = [[s.key for s in made.steps].index(k) for k in keys]
    return places == sorted(places)


def test_one_cylinder_at_a_time_finishes_each_before_the_next() -> None:
    """So that leads cannot be crossed: the default where there are leads."""
    flat_four = by_default()[1]
    first = next(s.hole for s in flat_four.steps if s.key.startswith("remove/lead"))
    other = "2" if first == "1" else "1"
    assert key_order(flat_four, f"fit/lead/{first}", f"remove/lead/{other}")
    together = compile_plan(*JOBS[1], DEFAULT_RULES.using(open_at_once="stage_by_stage"))  # type: ignore[arg-type]
    assert key_order(together, f"remove/plug/{other}", f"fit/lead/{first}")


def test_one_coil_stays_as_height_reference() -> None:
    """The last is pulled only once the others are back."""
    made = plans(DEFAULT_RULES.using(height_reference="one_stays"))[0]
    order = [s.hole for s in made.steps if s.key.startswith("remove/coil")]
    assert key_order(made, f"fit/coil/{order[0]}", f"remove/coil/{order[-1]}")


def test_bank_by_bank_starts_in_between_only_where_the_engine_can_run() -> None:
    """With the plenum off it says why it does not."""
    rules = DEFAULT_RULES.using(first_cylinder="bank_by_bank", work_by_feel="allowed")
    made = compile_plan(JOBS[0][0], job(1, 3), rules)  # type: ignore[arg-type]
    assert [s.key for s in made.steps if s.key.startswith("start-between")]
    tugged = compile_plan(tug(), job(2, 5), rules)
    assert not [s for s in tugged.steps if s.key.startswith("start-between")]
    assert "the intake plenum" in tugged.notes[0]
    assert "must be on for the engine to run" in tugged.notes[0]
    assert len(segments(tugged)) > len(segments(compile_plan(tug(), job(2, 5))))


def test_the_coil_has_to_move_for_its_connector_where_the_loom_is_short() -> None:
    """Then the bolt goes first and comes back last; else the other way round."""
    turbo = next(e for e in demo_engines() if e.id == "corvane-20-turbo-four")
    made = compile_plan(turbo, job(2, variant="late"))
    assert key_order(made, "release/coil/2/bolt", "release/coil/2/connector")
    assert key_order(made, "connect/coil/2/connector", "tighten/coil/2/bolt")
    plain = compile_plan(tug(), job(2))
    assert key_order(plain, "release/coil/2/connector", "release/coil/2/bolt")
    assert key_order(plain, "tighten/coil/2/bolt", "connect/coil/2/connector")


def test_the_angle_is_marked_as_a_fallback_where_the_maker_is_silent() -> None:
    """A band is never passed off as the maker's figure."""
    made = plans(DEFAULT_RULES.using(tightening="seat_plus_angle"))[0]
    step = next(s for s in made.steps if s.key == "torque/plug/1")
    assert "fallback" in step.figures[0].source
    assert (step.figures[0].printed, step.figures[0].unit) == ("1/2 to 2/3 turn", "°")
    assert not step.readings


def test_renewing_the_exposed_bank_takes_its_coils_and_not_its_plugs() -> None:
    """More coils, the same plugs."""
    made = plans(DEFAULT_RULES.using(coils="exposed_bank"))[0]
    keys = {s.key for s in made.steps}
    assert {"fit/coil/4", "fit/coil/3"} <= keys
    assert "remove/plug/4" not in keys
    assert next(p.quantity for p in made.parts if p.name == "ignition coil") == 4


def test_the_difference_says_what_where_and_by_how_much() -> None:
    """Added, changed, moved, minutes."""
    before = by_default()[0]
    after = plans(DEFAULT_RULES.using(thread_cleaning="every_hole", tightening="low_third"))[0]
    found = difference(before, after)
    assert {s.key for s in found.added} == {f"chase/plug/{h}" for h in "123"}
    assert any(c.what == "figure" and c.step.startswith("torque/plug/") for c in found.changed)
    assert found.minutes == (before.minutes, after.minutes)
    assert difference(before, before).empty
    reverse = difference(before, plans(DEFAULT_RULES.using(first_cylinder="easiest_first"))[0])
    assert reverse.moved


@pytest.mark.parametrize(
    ("school", "line"), [("oil", "thin oil"), ("always", "thread compound"), ("never", "")]
)
def test_a_compound_is_laid_out_for_threads_that_come_out_and_for_no_others(
    school: str, line: str
) -> None:
    """Coils alone want none, whatever the school; one tin does for all plugs."""
    rules = DEFAULT_RULES.using(thread_compound=school)
    for work in ((Work.COIL,), (Work.PLUG,), (Work.COIL, Work.PLUG)):
        made = compile_plan(engine(3), job(1, 2, work=work), rules)
        found = [(one.quantity, one.why) for one in made.parts if one.name == line]
        wanted = [(1, "a touch on each thread: 2")] if line and Work.PLUG in work else []
        assert found == wanted, work


def test_the_types_of_schools_are_those_of_the_table() -> None:
    """Topic by topic, the default first; with them a misspelt school does not pass mypy."""
    table = {topic.key: tuple(school.key for school in topic.schools) for topic in TOPICS}
    assert {key: get_args(kind) for key, kind in get_type_hints(Schools).items()} == table
