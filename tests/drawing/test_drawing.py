"""Drawings are well-formed, to scale and say the same as the plan."""

import itertools
import math
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.fold import chapters
from eldrim.demo.load import demo_engines
from eldrim.drawing import balloons, engine_plan, ribbon, torque_rule
from eldrim.drawing.svg import el, text
from tests.builders import job, tug

PLAN = compile_plan(tug(), job(2, 3))


def all_holes(engine: Engine) -> Job:
    """Plugs of every hole with what leads the spark to them."""
    variant = next(iter(engine.variants))
    works = (w for w in possible_work(engine, variant) if w in {Work.PLUG, Work.COIL, Work.LEAD})
    return Job(cylinders=tuple(engine.cylinders), work=tuple(works), variant=variant)


def elements(svg: str, kind: str) -> list[ElementTree.Element]:
    """All elements carrying a class."""
    return [e for e in ElementTree.fromstring(svg).iter() if kind in e.get("class", "").split()]


def test_text_is_escaped() -> None:
    """A part's name cannot break out of the drawing."""
    assert "<script>" not in text(0, 0, "<script>") + el("g", title='"><script>')


def test_every_hole_is_there_and_the_chosen_are_marked() -> None:
    """Numbered as the maker numbers them, each a link."""
    links = {h: f"/x?c={h}" for h in tug().holes}
    view = engine_plan.PlanView(chosen=frozenset({"2", "3"}), moves=PLAN.moves, links=links)
    svg = engine_plan.draw(tug(), view)
    assert sorted(e.text or "" for e in elements(svg, "number")) == list("123456")
    assert len(elements(svg, "chosen")) == 2
    pressed = [e for e in ElementTree.fromstring(svg).iter("a") if e.get("aria-pressed") == "true"]
    assert sorted(e.get("href") or "" for e in pressed) == ["/x?c=2", "/x?c=3"]


def test_what_moves_is_dashed_and_numbered_in_order() -> None:
    """One balloon a move; what stays has none."""
    svg = engine_plan.draw(tug(), engine_plan.PlanView(moves=PLAN.moves))
    moving = {e.get("data-part") for e in elements(svg, "moves")}
    assert moving == {m.part for m in PLAN.moves}
    numbers = {e.text for e in elements(svg, "balloon-number")}
    assert numbers == {str(m.number) for m in PLAN.moves}
    words = "".join(ElementTree.fromstring(svg).itertext())
    assert "timing end" in words
    assert "you stand here" in words
    assert "bulkhead" in words


def test_the_small_plan_marks_where_you_are() -> None:
    """A hole, or the part in hand."""
    hole = engine_plan.draw(tug(), engine_plan.PlanView(compact=True, here="4"))
    assert len(elements(hole, "here")) == 1
    part = engine_plan.draw(tug(), engine_plan.PlanView(compact=True, here="plenum"))
    assert len(elements(part, "here-part")) == 1


def test_the_ribbon_is_to_scale() -> None:
    """Widths are minutes; notches are changes of set-up."""
    svg = ribbon.draw(PLAN)
    widths = [float(e.get("width") or 0) for e in elements(svg, "step")]
    minutes = [s.minutes for s in PLAN.steps]
    assert len(widths) == len(minutes)
    scale = widths[0] / minutes[0]
    assert widths == pytest.approx([m * scale for m in minutes], abs=0.05)
    assert len(elements(svg, "notch")) == PLAN.tool_changes


@pytest.mark.parametrize("engine", demo_engines(), ids=lambda engine: engine.id)
def test_the_ribbon_names_all_that_is_done_and_no_name_lies_over_another(engine: Engine) -> None:
    """Also where holes have their turns one after the other, and a part of it is short."""
    plan = compile_plan(engine, all_holes(engine))
    drawn = ribbon.draw(plan)
    names = elements(drawn, "phase-name")
    assert len(names) == len(chapters(plan.steps))
    assert all(one.text for one in names)
    taken: dict[str, float] = {}
    for one in names:
        begin, line = float(one.get("x") or 0), str(one.get("y"))
        assert begin >= taken.get(line, 0), f"{one.text} lies over what stands before it"
        taken[line] = begin + 7 * len(one.text or "")
    assert max(taken.values()) <= 1240


@pytest.mark.parametrize("engine", demo_engines(), ids=lambda engine: engine.id)
def test_a_leader_ends_inside_the_part_it_names(engine: Engine) -> None:
    """On a lid as large as the plan too; only a line, as a hose is drawn, has no inside."""
    plan = compile_plan(engine, all_holes(engine))
    drawn = ElementTree.fromstring(engine_plan.draw(engine, engine_plan.PlanView(moves=plan.moves)))
    for callout in (e for e in drawn.iter() if e.get("class") == "callout"):
        dot = next(e for e in callout.iter() if e.get("class") == "dot")
        at = (float(dot.get("cx") or 0), float(dot.get("cy") or 0))
        outline = engine.parts[callout.get("data-part") or ""].outline
        assert len(outline) < 3 or _inside(outline, at)


def _inside(outline: tuple[tuple[float, float], ...], point: tuple[float, float]) -> bool:
    """By the turns of the sides round the point."""
    turned = 0.0
    for a, b in itertools.pairwise([*outline, outline[0]]):
        one, other = (math.atan2(p[1] - point[1], p[0] - point[0]) for p in (a, b))
        turned += math.remainder(other - one, math.tau)
    return abs(turned) > math.pi


def test_the_torque_rule_is_to_scale() -> None:
    """Spec, window and mark stand where their numbers say."""
    figure = next(f for s in PLAN.steps if s.key == "torque/plug/3" for f in s.figures)
    svg = torque_rule.draw(figure)
    spec, window = elements(svg, "spec")[0], elements(svg, "window")[0]
    dial = figure.setting
    assert dial is not None
    scale = float(spec.get("width") or 0) / (figure.max - figure.min)
    assert float(window.get("width") or 0) == pytest.approx((dial.high - dial.low) * scale, abs=0.1)
    start = float(window.get("x") or 0) - float(spec.get("x") or 0)
    assert start == pytest.approx((dial.low - figure.min) * scale, abs=0.1)
    assert "set 17.5 N·m" in "".join(ElementTree.fromstring(svg).itertext())


@given(
    st.dictionaries(
        st.text("abcdef", min_size=1, max_size=2),
        st.tuples(st.floats(0, 780), st.floats(0, 560)),
        max_size=14,
    )
)
def test_balloons_do_not_overlap(anchors: dict[str, tuple[float, float]]) -> None:
    """However the anchors lie, numbers stay readable and on the frame."""
    frame = (-23.0, -23.0, 826.0, 606.0)
    places = list(balloons.place(anchors, frame).values())
    for i, (x, y) in enumerate(places):
        on_side = min(abs(x - frame[0]), abs(x - 803), abs(y - frame[1]), abs(y - 583)) < 1e-6
        assert on_side
        for a, b in places[i + 1 :]:
            assert ((x - a) ** 2 + (y - b) ** 2) ** 0.5 > 24
