"""Towers and ways typed in a line, and the same read back."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.base.quantity import parse
from eldrim.core.capture.lead_routes import (
    MOST_HOLDERS,
    add_holder,
    drop_holder,
    measure_lead,
    move_holder,
)
from eldrim.core.capture.towers import read_towers, read_ways, towers_line, ways_line
from eldrim.core.engine import Engine
from eldrim.core.leads.ways import lead_ways
from tests.core.demo_sheets import ENGINES, FLAT, GAS, MARINE, SIX


@pytest.mark.parametrize("sheet", [MARINE, FLAT, GAS], ids=lambda one: one.id)
def test_what_a_sheet_says_is_typed_and_read_back(sheet: Engine) -> None:
    """The same distributor or pack, the same ways, with what is said of their ends."""
    plain = sheet.model_dump(mode="json")
    towers = read_towers(sheet, towers_line(sheet))
    made = {**plain, "ignition": {**plain["ignition"], **towers}}
    made["lead_runs"] = read_ways(sheet, ways_line(sheet))
    again = Engine.model_validate(made)
    assert again.ignition == sheet.ignition
    assert again.lead_runs == sheet.lead_runs


def test_clauses_may_stand_in_any_order_and_small_or_large() -> None:
    """As people type."""
    said = "LEFT; Tower one 12°; at 320, 560; body 3 in; cap two clips"
    assert read_towers(MARINE, said) == {
        "distributor": {
            "turns": "left",
            "tower_one": "12°",
            "at": (320.0, 560.0),
            "body": "3 in",
            "keyed": "two clips",
        }
    }
    assert read_ways(FLAT, "1: 40 cm; 2: 10 20, 30 40.5") == {
        "1": {"holders": [], "length": "40 cm"},
        "2": {"holders": [(10.0, 20.0), (30.0, 40.5)]},
    }


@pytest.mark.parametrize(
    ("sheet", "line", "words"),
    [
        ("fendrake-50-marine-v8", "at 320; left", "'at 320' is not understood"),
        ("fendrake-50-marine-v8", "at 320 560; left", "do not say where tower one is"),
        ("fendrake-50-marine-v8", "at 320 560; round", "'round' is not understood"),
        (
            "fendrake-50-marine-v8",
            "at 3 5; left; tower one 3 mm",
            "'tower one 3 mm' is not understood",
        ),
        ("dunmarl-42-six", "at 320 560", "do not say which tower goes where"),
        ("dunmarl-42-six", "at 320 560; 1=1, x", "'1=1, x' is not understood"),
        ("marlet-34-v6", "at 320 560; left", "each plug has a coil of its own"),
        ("dunmarl-42-six", "x" * 2_001, "characters"),
    ],
)
def test_towers_that_are_not_understood_are_named(sheet: str, line: str, words: str) -> None:
    """With how they are written."""
    with pytest.raises(EngineError, match=words):
        read_towers(ENGINES[sheet], line)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("1: here", "'1: here' is not understood"),
        ("1: 300 mm, 400 mm", "is not understood"),
        ("1: 300 mm; 1: 2 3", "1 stands twice"),
        (": 300 mm", "is not understood"),
    ],
)
def test_ways_that_are_not_understood_are_named(line: str, words: str) -> None:
    """With how they are written."""
    with pytest.raises(EngineError, match=words):
        read_ways(MARINE, line)


def test_nothing_said_is_nothing_kept() -> None:
    """An empty line takes the towers away, and says nothing of an engine without leads."""
    assert read_towers(MARINE, "  ") == {"distributor": None, "pack": None}
    assert read_towers(SIX, "") == {}
    assert read_ways(MARINE, "") == {}


def test_holders_are_put_on_moved_and_taken_off() -> None:
    """The drawn length follows; a measured one wins; what is off the plan stays on its edge."""
    sheet = FLAT
    before = lead_ways(sheet)["1"]
    more = add_holder(sheet, "1", 0, (401, 399))
    assert more.lead_runs["1"].holders == ((400, 400), (430, 420))
    moved = move_holder(more, "1", 1, (50, 0))
    assert moved.lead_runs["1"].holders[1] == (480, 420)
    assert lead_ways(moved)["1"].length > before.length
    assert move_holder(more, "1", 1, (9_000, -9_000)).lead_runs["1"].holders[1] == (720, 0)
    assert drop_holder(more, "1", 0) == sheet
    measured = measure_lead(moved, "1", parse("560 mm"))
    assert lead_ways(measured)["1"].length == 560
    assert lead_ways(measured)["1"].points == lead_ways(moved)["1"].points
    assert measure_lead(measured, "1", None) == moved
    for wrong in (
        lambda: move_holder(sheet, "1", 4, (1, 1)),
        lambda: drop_holder(sheet, "9", 0),
        lambda: add_holder(sheet, "1", 7, (1, 1)),
    ):
        with pytest.raises(EngineError, match="lead"):
            wrong()
    full = sheet
    for _ in range(MOST_HOLDERS - 1):
        full = add_holder(full, "1", 0, (400, 400))
    with pytest.raises(EngineError, match="take one off"):
        add_holder(full, "1", 0, (400, 400))
