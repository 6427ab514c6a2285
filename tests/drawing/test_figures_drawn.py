"""Drawings of figures and tools are to scale: what they show can be measured on them."""

import re
import xml.etree.ElementTree as ET
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.faults.answer import told
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint
from eldrim.core.faults.diagnosis import diagnose
from eldrim.core.faults.ways import ways
from eldrim.core.figures.cooling import cooling
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.whole_job.tool_roll import as_item
from eldrim.core.reading_choices import MORE_PLUG_CONDITIONS, PLUG_CONDITIONS
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.sums import examples, work_out
from eldrim.core.tools.demand import TurnAction
from eldrim.core.tools.stack_finder import NoStack, StackFinder
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.drawing import (
    cooling_curve,
    fault_plan,
    fault_tree,
    gap_wedge,
    plug_condition,
    plug_figure,
    tool_roll,
    torque_rule,
    turn_dial,
    well_section,
)
from eldrim.drawing.well_section import SCALE
from tests.builders import deep_plug, job, tug
from tests.tables import table

WELL = deep_plug()


def shapes(svg: str, kind: str) -> list[ET.Element]:
    """The shapes of a class in a drawing."""
    root = ET.fromstring(svg)
    return [e for e in root.iter() if kind in (e.get("class") or "").split()]


@given(st.integers(10, 240), st.sampled_from([0.0, 8.0, 14.0]))
def test_a_stack_is_drawn_as_long_as_the_sum_of_its_pieces(depth: int, line: float) -> None:
    """Each piece to scale, none left out, leaning or not."""
    demand = replace(WELL, below=float(depth), line=line)
    answer = StackFinder(STANDARD_CRIB).answer(demand, TurnAction.RUN_OUT)
    if isinstance(answer, NoStack):
        return
    stack = answer[0].stack
    drawn = shapes(well_section.draw(stack), "piece")
    assert [p.get("data-piece") for p in drawn] == [p.id for p in stack.pieces]
    tall = sum(float(p.get("height") or 0) for p in drawn) / SCALE
    assert tall == pytest.approx(stack.length, abs=0.05)
    assert tall == pytest.approx(sum(p.length for p in stack.pieces), abs=0.05)


def test_the_section_states_its_clearances() -> None:
    """Depth, height over the rim, clearance, bore."""
    answer = StackFinder(STANDARD_CRIB).answer(WELL, TurnAction.RUN_OUT)
    assert not isinstance(answer, NoStack)
    stack = answer[0].stack
    svg = well_section.draw(stack)
    for size in (stack.below, stack.rises, stack.clears):
        assert f"{size:g} mm" in svg
    assert f"bore 26 mm, {stack.bore_left:g} mm free" in svg


def _x(svg: str, kind: str) -> tuple[float, float]:
    box = shapes(svg, kind)[0]
    left = float(box.get("x") or 0)
    return left, left + float(box.get("width") or 0)


def test_the_torque_rule_has_the_setting_with_its_tolerance_inside_the_spec() -> None:
    """The law of the setting can be seen."""
    made = compile_plan(tug(), job(2))
    figure = next(s for s in made.steps if s.key == "torque/plug/2").figures[0]
    svg = torque_rule.draw(figure)
    low, high = _x(svg, "spec")
    numbers = re.findall(r"[\d.]+", shapes(svg, "whisker")[0].get("d") or "")
    left, right = float(numbers[0]), float(numbers[3])
    assert low <= left < right <= high
    window = _x(svg, "window")
    mark = float(re.findall(r"M([\d.]+)", shapes(svg, "mark")[0].get("d") or "")[0])
    assert window[0] <= mark <= window[1]


def test_the_wedge_shows_where_a_reading_lies() -> None:
    """Left of the range, in it, right of it."""
    for reading, side in ((0.6, -1), (0.75, 0), (0.95, 1)):
        svg = gap_wedge.draw(0.7, 0.8, 0.75, reading, 0.05)
        limits = sorted(
            float(re.findall(r"M([\d.]+)", e.get("d") or "")[0]) for e in shapes(svg, "limit")
        )
        x = float(re.findall(r"M([\d.]+)", shapes(svg, "mark")[0].get("d") or "")[0])
        assert (x > limits[1]) - (x < limits[0]) == side


def test_the_wedge_tells_its_numbers_in_the_unit_of_its_figure() -> None:
    """What is read in thousandths of an inch is not compared with millimetres."""
    svg = gap_wedge.draw(0.7366, 0.8382, 0.7874, 0.889, 0.05, "thou")
    for said in (">29 thou<", ">33 thou<", "31 thou", "35 thou"):
        assert said in svg
    assert " mm" not in svg
    assert ">0.029 in<" in gap_wedge.draw(0.7366, 0.8382, 0.7874, None, 0.05, "in")


def test_the_cooling_curve_meets_its_limit_at_the_minute_told() -> None:
    """The mark stands where curve and limit cross."""
    found = cooling(82, 70, 10, 18, 40)
    svg = cooling_curve.draw(found)
    points = [
        tuple(map(float, p.split()))
        for p in re.findall(r"[ML]([\d.]+ [\d.]+)", shapes(svg, "curve")[0].get("d") or "")
    ]
    x, y = map(float, re.findall(r"[\d.]+", shapes(svg, "ready")[0].get("d") or "")[:2])
    near = min(points, key=lambda p: abs(p[0] - x))
    assert near[1] == pytest.approx(y, abs=6)


def test_the_roll_holds_every_tool_once_in_order_of_use_and_says_what_is_missing() -> None:
    """Counted out and counted back by it."""
    made = compile_plan(tug(), job(5), crib=STANDARD_CRIB.without(("extension 75 mm, ⅜ in",)))
    svg = tool_roll.draw(made.roll)
    assert len(shapes(svg, "pocket")) == len(made.roll) == len(made.tools)
    assert f"Tool roll with {len(made.roll)} pieces" in svg
    position = {s.key: i for i, s in enumerate(made.steps)}
    firsts = [position[i.first] for i in made.roll]
    assert firsts == sorted(firsts)
    gone = [i.model_copy(update={"missing": "none"}) for i in made.roll[:1]]
    assert "1 missing" in tool_roll.draw((*gone, *made.roll[1:]))
    assert "TO GET" in tool_roll.draw(tuple(gone))


@table("tool", list(STANDARD_CRIB.all()), ids=lambda t: t.id)
def test_every_tool_of_the_catalogue_can_be_drawn(tool) -> None:  # type: ignore[no-untyped-def]
    """Lying in a list, or left out where it states no size."""
    svg = tool_roll.lying(as_item(tool))
    assert not svg or ET.fromstring(svg).get("viewBox")


@pytest.mark.parametrize(
    "svg",
    [
        plug_figure.draw(tug().plugs[0]),
        plug_figure.draw(tug().plugs[0].model_copy(update={"seat": "conical"})),
        turn_dial.draw(180, 240),
        turn_dial.draw(22.5, 22.5),
        gap_wedge.draw(0.7, 0.8, 0.75, None, 0.05),
    ],
)
def test_drawings_say_in_words_what_they_show(svg: str) -> None:
    """For who cannot see them."""
    root = ET.fromstring(svg)
    assert root.get("role") == "img"
    assert any(c.isdigit() for c in root.get("aria-label") or "")


def test_a_drawn_sum_comes_with_its_drawing() -> None:
    """Setting, gap, cooling and angle carry what is drawn."""
    assert work_out("cooling", examples("cooling")).cooling
    assert work_out("setting", examples("setting")).setting
    assert work_out("gap", examples("gap")).gap
    assert work_out("angle", examples("angle")).turn == (180, 240)


def test_every_condition_of_a_plug_has_a_look_of_its_own() -> None:
    """No two drawn alike, and an unknown one is drawn plain."""
    every = (*PLUG_CONDITIONS, *MORE_PLUG_CONDITIONS)
    symbols = plug_condition.symbols().split("<symbol")[1:]
    looks = {symbol.partition(">")[2] for symbol in symbols}
    assert len(looks) == len(symbols) == len(every) + 1
    for condition in every:
        assert f'#look-{condition}"' in plug_condition.draw(condition)
    assert set(plug_condition.LOOKS) == set(every)
    assert "#look-plain" in plug_condition.draw("something new")


def test_a_fault_tree_is_drawn_as_wide_as_it_is_likely() -> None:
    """The first act at the left, each branch as wide as its chance, no wider than the page."""
    sheet = tug()
    codes = read_codes(sheet, "P0305")
    variant = list(sheet.variants)[-1]
    found = diagnose(
        sheet, variant, Complaint(codes=codes), ways(sheet, variant, DEFAULT_RULES, STANDARD_CRIB)
    )
    drawn = fault_tree.draw(told(sheet, found).tree)
    assert drawn.count('class="branch"') >= 4
    assert "way in opens: 56 min" in drawn
    letters = {letter for one in told(sheet, found).opened for letter in one.letter}
    assert re.search(r"opens ([A-Z], )+[A-Z], 56 min", drawn)
    plan = fault_plan.draw(sheet, told(sheet, found))
    assert (
        set(re.findall(r'balloon-number">([A-Z])<', plan))
        | set("".join(re.findall(r'said-of">([A-Z]+)<', plan)))
        == letters
    )
    width = float(re.search(r'width="([\d.]+)"', drawn)[1])  # type: ignore[index]
    assert width <= fault_tree.PAGE + 2 * fault_tree.MARGIN
