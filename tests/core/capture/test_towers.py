"""Towers and ways typed in a line, and the same read back."""

import pytest

from eldrim.core.capture.towers import read_towers, read_ways, towers_line, ways_line
from eldrim.core.engine import Engine
from eldrim.core.errors import EngineError
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
