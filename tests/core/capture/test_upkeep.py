"""Companion work, intervals and prices as they are typed: said back, understood, refused."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.capture.companions import companions_text, read_companions
from eldrim.core.capture.intervals import (
    intervals_line,
    prices_line,
    read_intervals,
    read_prices,
    source_needed,
)
from eldrim.core.consistency import check, require_consistent
from eldrim.core.engine import Engine
from eldrim.demo.load import demo_engines
from tests.builders import engine, tug

WITH = [one for one in demo_engines() if one.companions]


def with_lines(sheet: Engine, intervals: str, prices: str) -> Engine:
    """The sheet with such lines."""
    plain = sheet.model_dump(mode="json", exclude_defaults=True)
    stated = read_intervals(intervals)
    facts = {
        "intervals": stated,
        "prices": read_prices(prices),
        "sources": source_needed(sheet, stated),
    }
    return Engine.model_validate({"format": sheet.format, **plain, **facts})


@pytest.mark.parametrize("sheet", WITH, ids=lambda one: one.id)
def test_what_the_sheet_says_is_understood_again(sheet: Engine) -> None:
    """Companions with all they have; intervals with severe use and source; prices."""
    assert read_companions(sheet, companions_text(sheet)) == sheet
    again = with_lines(sheet, intervals_line(sheet), prices_line(sheet))
    assert (again.intervals, again.prices) == (sheet.intervals, sheet.prices)


TYPED = """Spark box; at 120 80; coils off 1 2; stops; only all; when it is hot; or smells
note It sits low.
+ 2 Seal ring #X-1
+ Grease
lid: 3 hex bolts 8 mm 9 N·m
- Undo the lid | 1.5 min | undo lid | does hot_parts
- Do it up | 2 min | do up lid | with feeler | check Even all round | note Crosswise.

Other thing
- Look at it | 30 s
"""


def test_what_is_typed_becomes_companion_work() -> None:
    """With joints, parts, checks; a torque that is new waits for its source."""
    made = require_consistent(read_companions(engine(), TYPED))
    box, other = made.companions["spark-box"], made.companions["other-thing"]
    assert (box.at, box.coils_off, box.stops, box.variants) == ((120, 80), (1, 2), True, ("all",))
    assert box.sign == "it is hot; or smells"
    assert [(p.count, p.name, p.part_number) for p in box.parts] == [
        (2, "Seal ring", "X-1"),
        (1, "Grease", None),
    ]
    torque = box.joints["lid"].torque
    assert torque is not None
    assert str(made.figures[torque][0].value) == "9 N·m"
    assert made.figures[torque][0].source == "to-state"
    undo, do_up = box.steps.values()
    assert (undo.undo, undo.does, undo.minutes.mid) == ("lid", ("hot_parts",), 1.5)
    assert (do_up.do_up, do_up.tools, do_up.checks) == ("lid", ("feeler",), ("Even all round",))
    assert other.minutes == 0.5
    again = read_companions(made, companions_text(made))
    assert again.companions == made.companions


def test_what_is_called_as_before_keeps_its_keys() -> None:
    """A step said otherwise is a new one; the rest stay what they were."""
    text = companions_text(tug()).replace(
        "Wipe the housing out | 1 min", "Wipe the housing out | 3 min"
    )
    text = text.replace("Draw a sample and read its frost protection", "Read the frost protection")
    made = read_companions(tug(), text)
    assert list(made.companions) == list(tug().companions)
    assert made.companions["air-filter"].steps["wipe"].minutes.mid == 3
    assert "draw" not in made.companions["coolant-strength"].steps
    gone = read_companions(tug(), "")
    assert gone.companions == {}
    assert any("work 'breather-hose'" in problem.message for problem in check(gone))


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Filter", "has no step"),
        ("Filter; nowhere\n- Do | 1 min", "'nowhere' is not understood"),
        ("Filter\nwobble\n- Do | 1 min", "'wobble' is not understood"),
        ("Filter\n- Do it", "takes how long"),
        ("Filter\n- Do it | 5 mm", "'5 mm' is not understood"),
        ("Filter\n- Do it | 1 min | does magic", "'does magic' is not understood"),
        ("Filter\nlid: 3 wobblers\n- Do it | 1 min", "wobblers"),
        ("x" * 12_001, "characters"),
    ],
)
def test_companion_work_that_is_not_understood_is_refused(text: str, told: str) -> None:
    """The line is named, with how it is written."""
    with pytest.raises(EngineError, match=told) as refused:
        read_companions(engine(), text)
    assert all(problem.fix for problem in refused.value.problems)


def test_intervals_without_a_source_wait_for_one() -> None:
    """The sheet stays consistent; the source is one to be stated."""
    made = require_consistent(
        with_lines(engine(), "plug: 40000 km, 24 months, severe 20000 km", "")
    )
    [one] = made.intervals
    assert (one.source, one.months, one.act) == ("to-state", 24, "replace")
    assert one.distance is not None
    assert one.severe.distance is not None
    inspected = with_lines(engine(), "coil: inspect season, only all, wm p. 7", "")
    assert (inspected.intervals[0].act, inspected.intervals[0].season) == ("inspect", True)
    assert inspected.intervals[0].page == "7"


@pytest.mark.parametrize(
    ("line", "told"),
    [("plug", "is not understood"), ("plug: often", "is not understood"), ("plug: wm p. 3", "not")],
)
def test_an_interval_that_is_not_understood_is_refused(line: str, told: str) -> None:
    """The clause is named."""
    with pytest.raises(EngineError, match=told):
        read_intervals(line)


@pytest.mark.parametrize(
    ("line", "told"),
    [("MP 12", "is not understood"), ("#A x", "is not understood"), ("#A 1; #A 2", "stands twice")],
)
def test_a_price_that_is_not_understood_is_refused(line: str, told: str) -> None:
    """The clause is named."""
    with pytest.raises(EngineError, match=told):
        read_prices(line)


def test_intervals_that_do_not_hold_are_named() -> None:
    """Of something there is not; or longer in severe use."""
    wrong = with_lines(engine(), "zip: 5 h; plug: 500 h, severe 900 h", "")
    said = [problem.message for problem in check(wrong)]
    assert any("thing 'zip' does not exist" in one for one in said)
    assert any("is more than 500 h" in one for one in said)
