"""Pulley, advance curve and voltages as drawn: to scale, with every limit."""

import re
from itertools import pairwise
from math import atan2, degrees, hypot

import pytest

from eldrim.core.engine.timing import Timing
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.demo.load import demo_engines
from eldrim.drawing import advance_curve, pulley, volt_scale
from eldrim.drawing.pulley import CENTRE, RADIUS

TIMED = [one for one in demo_engines() if Work.TIMING in possible_work(one)]


def _timing(**changes: object) -> Timing:
    plain = {"pulley": "172 mm", "marks": [0, 10], "source": "wm", "page": "3", **changes}
    return Timing.model_validate(plain)


def _angles(drawn: str, kind: str) -> list[float]:
    """Where marks of a kind are, in degrees to the right of the pointer."""
    found = []
    for x, y in re.findall(rf'd="M([\d.-]+) ([\d.-]+)L[^"]*" class="{kind}"', drawn):
        dx, dy = float(x) - CENTRE[0], CENTRE[1] - float(y)
        assert hypot(dx, dy) == pytest.approx(RADIUS, abs=0.2)
        found.append(degrees(atan2(dx, dy)))
    return found


@pytest.mark.parametrize(("turns", "sign"), [("right", 1), ("left", -1)])
def test_marks_stand_at_their_angles_on_the_side_the_engine_turns_to(turns: str, sign: int) -> None:
    """The wanted one at the pointer; a mark of more degrees has passed it."""
    drawn = pulley.draw(_timing(turns=turns), 7.5)
    assert _angles(drawn, "notch") == pytest.approx([-7.5 * sign, 2.5 * sign], abs=0.05)
    assert _angles(drawn, "chalked") == pytest.approx([0.0], abs=0.05)
    assert "3.8 mm" in drawn, "from the nearest mark, that of 10°"
    there = pulley.draw(_timing(turns=turns), 10)
    assert not _angles(there, "chalked")
    assert "measured" not in there


def test_a_pulley_without_its_diameter_or_marks_is_drawn_without_an_arc() -> None:
    """No number that nobody stated."""
    assert "mm" not in pulley.draw(_timing(pulley=None), 7.5)
    assert "notch" not in pulley.draw(_timing(marks=[]), 7.5)


@pytest.mark.parametrize("engine", TIMED, ids=lambda one: one.id)
def test_a_curve_shows_each_limit_and_what_was_read(engine) -> None:  # type: ignore[no-untyped-def]
    """A dot each, apart by its mark where it is out, joined in the order of speed."""
    [step] = [
        s for s in compile_plan(engine, Job(work=(Work.TIMING,))).steps if s.key == "time/curve"
    ]
    points = [r for r in step.readings if r.key != "advance_back"]
    drawn = advance_curve.draw(step.readings)
    assert drawn.count('class="limits"') == len(points)
    assert "<circle" not in drawn
    found = {r.key: (r.high or 0) + (3 if n == 0 else -1) for n, r in enumerate(points)}
    read = advance_curve.draw(step.readings, found)
    assert read.count('class="read"') == len(points) - 1
    assert read.count('class="off"') == 1
    assert advance_curve.draw(step.readings[:1]) == ""


def test_a_voltage_has_its_window_and_where_each_verdict_begins() -> None:
    """Numbers that would run into each other are left away, their ticks are not."""
    plan = compile_plan(TIMED[0], Job(work=(Work.BATTERY, Work.CHARGING)))
    drawn = [volt_scale.draw(r) for s in plan.steps for r in s.readings if r.says and r.unit == "V"]
    assert len(drawn) >= 5
    for one in drawn:
        assert one.count('class="spec"') == 1
        places = [float(x) for x in re.findall(r'<text x="([\d.]+)"', one)]
        assert all(b - a > 50 for a, b in pairwise(places))
