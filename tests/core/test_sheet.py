"""Figures on the sheet: settled, kept beside, standing in, and what they do to a procedure."""

from typing import Any

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.edit import put_figure, put_plug, put_source, settle_figure, take_away
from eldrim.core.engine.model import Figure, Source
from eldrim.core.figures.crossref import Offered, cross_reference, fits
from eldrim.core.figures.listing import spec_rows
from eldrim.core.figures.sheet import look_up
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step, StepFigure
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.builders import document, engine, job

PLAIN = {"source": "wm", "page": "3"}


def stating(**figures: Any) -> Engine:
    """The plain engine with other figures."""
    keys = {k.replace("_", "-"): v for k, v in figures.items()}
    return engine(figures={**document()["figures"], **keys})


def torque_step(made: Plan) -> Step:
    """The step that tightens plug 1."""
    return next(s for s in made.steps if s.key == "torque/plug/1")


def shown(made: Plan) -> StepFigure:
    """Its figure."""
    return torque_step(made).figures[0]


TWO = [{**PLAIN, "value": "20 to 28 N·m"}, {**PLAIN, "value": "17 to 19 lbf·ft"}]


def test_two_sources_that_disagree_bar_a_release_and_give_no_setting() -> None:
    """Nobody has said which holds: nothing is dialled by guess."""
    made = compile_plan(stating(plug_torque=TWO), job(1))
    figure = shown(made)
    assert figure.unsettled
    assert figure.setting is None
    assert "17 to 19 lbf·ft" in figure.rivals[0]
    point = next(p for p in made.open_points if p.key == "unsettled/plug-torque")
    assert point.bars
    assert "torque/plug/1" in point.steps


def test_the_settled_one_is_used_and_the_other_kept() -> None:
    """With the reason printed."""
    sheet = settle_figure(stating(plug_torque=TWO), "plug-torque", 1, "the newer bulletin")
    assert check(sheet) == []
    assert sheet.revision == 2
    figure = shown(compile_plan(sheet, job(1)))
    assert figure.printed == "17 to 19 lbf·ft"
    assert figure.settled == "the newer bulletin"
    assert "20 to 28 N·m" in figure.rivals[0]
    assert figure.setting is not None
    other = settle_figure(sheet, "plug-torque", 0, "the head was changed")
    assert [bool(f.settled) for f in other.figures["plug-torque"]] == [True, False]
    with pytest.raises(EngineError, match="say why"):
        settle_figure(sheet, "plug-torque", 0, "  ")


def test_figures_that_agree_need_no_settling() -> None:
    """The same in another unit is the same."""
    agreeing = [{**PLAIN, "value": "27.1 N·m"}, {**PLAIN, "value": "20 lbf·ft"}]
    found = look_up(stating(plug_torque=agreeing), "plug-torque", "all")
    assert found is not None
    assert found.settled
    assert not found.rivals


def test_where_the_maker_is_silent_the_band_stands_in_and_every_step_says_so() -> None:
    """Marked, and an open point at release."""
    silent = engine(figures={})
    assert check(silent) == []
    made = compile_plan(silent, job(1))
    figure = shown(made)
    assert figure.fallback
    assert (figure.min, figure.max) == (25, 30)
    assert "fallback" in figure.source
    assert {"fallback/plug-torque", "fallback/plug-gap"} <= {p.key for p in made.open_points}
    assert not any(p.bars for p in made.open_points)


def test_without_figure_or_band_the_plug_is_turned_by_angle() -> None:
    """No torque is invented for a plug nothing is known of."""
    plugs = [{**document()["plugs"][0], "thread": "M12×1.25", "seat": "conical"}]
    made = compile_plan(engine(figures={}, plugs=plugs), job(1))
    step = torque_step(made)
    assert step.figures[0].key == "plug-angle"
    assert "no torque is stated" in " ".join(step.because)


def test_a_figure_for_greased_threads_is_used_as_it_is() -> None:
    """The reduction is for figures that mean dry threads; the two do not contradict."""
    both = [
        {**PLAIN, "value": "20 to 28 N·m"},
        {**PLAIN, "value": "15 to 20 N·m", "lubricated": True},
    ]
    sheet = stating(plug_torque=both)
    dry = shown(compile_plan(sheet, job(1)))
    greased = shown(compile_plan(sheet, job(1), DEFAULT_RULES.using(thread_compound="always")))
    assert dry.printed == "20 to 28 N·m"
    assert greased.printed == "15 to 20 N·m"
    assert greased.aim == 17.5
    assert not dry.rivals


def test_a_turn_after_the_torque_is_on_the_step() -> None:
    """Torque plus angle, as some makers print it."""
    made = compile_plan(
        stating(plug_torque=[{**PLAIN, "value": "22 to 26 N·m", "plus": "90°"}]), job(1)
    )
    assert shown(made).plus == "90°"
    assert "turn 90° further" in torque_step(made).detail


def test_no_wrench_means_the_angle_method_with_the_reason() -> None:
    """And the cheapest wrench to get is named."""
    bare = STANDARD_CRIB.without(tuple(w.name for w in STANDARD_CRIB.wrenches))
    step = torque_step(compile_plan(engine(), job(1), crib=bare))
    assert step.figures[0].key == "plug-angle"
    assert "no torque wrench; get: torque wrench" in " ".join(step.because)


def test_changing_a_sheet_makes_the_next_revision() -> None:
    """The old one stays as it was."""
    first = engine()
    more = put_source(first, "tb", Source(document="Bulletin", edition="2", kind="bulletin"))
    figure = Figure.model_validate({"value": "25 to 28 N·m", "source": "tb", "page": "1"})
    second = put_figure(more, "plug-torque", figure)
    assert (first.revision, second.revision) == (1, 2)
    assert len(first.figures["plug-torque"]) == 1
    third = take_away(second, "plug-torque", 0)
    assert [f.source for f in third.figures["plug-torque"]] == ["tb"]
    assert "plug-torque" not in take_away(third, "plug-torque", 0).figures
    with pytest.raises(EngineError, match="no longer there"):
        take_away(third, "plug-torque", 5)


def test_a_plug_described_for_one_variant_leaves_the_others_theirs() -> None:
    """Split where it was one entry for all."""
    two = engine(variants={"a": {"name": "a"}, "b": {"name": "b"}})
    new = two.plugs[0].model_copy(update={"part_number": "T-15"})
    made = put_plug(two, "b", new)
    assert check(made) == []
    assert [(p.part_number, p.variants) for p in made.plugs] == [("T-14", ("a",)), ("T-15", ("b",))]
    alone = put_plug(engine(), "all", new)
    assert [(p.part_number, p.variants) for p in alone.plugs] == [("T-15", ())]


def test_the_spec_sheet_lists_every_fastener_once_with_what_it_holds() -> None:
    """Stated or not."""
    coils = [
        {
            "part_number": "C",
            "joints": {
                "bolt": {"kind": "bolt", "head": "hex", "size": "8 mm", "torque": "coil-bolt"}
            },
        }
    ]
    figures = {**document()["figures"], "coil-bolt": [{**PLAIN, "value": "7 to 9 N·m"}]}
    rows = {r.key: r for r in spec_rows(engine(coils=coils, figures=figures), "all", DEFAULT_RULES)}
    assert rows["coil-bolt"].users == ("coil",)
    assert rows["coil-bolt"].window is not None
    assert rows["charging"].looked is not None
    assert rows["charging"].looked.fallback
    assert rows["interval"].looked is None
    assert rows["interval"].wanted


OFFERED = {
    "thread": "M14x1.25",
    "reach": "19 mm",
    "seat": "gasket",
    "hex": "16 mm",
    "heat_range": "5",
    "resistor": True,
    "gap_supplied": "0.75 mm",
}


@pytest.mark.parametrize(
    ("changes", "differs"),
    [
        ({}, set()),
        ({"gap_supplied": "1.1 mm"}, set()),
        ({"reach": "26.5 mm"}, {"reach"}),
        ({"thread": "M12×1.25", "hex": "14 mm"}, {"thread", "hex"}),
        ({"seat": "conical"}, {"seat"}),
        ({"heat_range": "6"}, {"heat range"}),
        ({"resistor": False}, {"resistor"}),
        ({"reach": "3/4 in"}, set()),
    ],
)
def test_another_plug_is_the_same_only_by_every_property(
    changes: dict[str, Any], differs: set[str]
) -> None:
    """A number is no proof; a gap set otherwise is the same plug (docs/craft.md §6)."""
    found = cross_reference(engine().plugs[0], Offered.model_validate({**OFFERED, **changes}))
    assert {c.what for c in found if not c.agrees} == differs
    assert fits(found) is (not differs)
    assert all(c.note for c in found if not c.agrees)
