"""Pieces and timing as they are typed: said back, understood again, refused in words."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.capture.wires import pieces_line, read_pieces, read_timing, timing_line
from eldrim.core.consistency import require_consistent
from eldrim.core.engine import Engine
from eldrim.demo.load import demo_engines

ENGINES = {one.id: one for one in demo_engines()}
WITH_PIECES = [key for key, one in ENGINES.items() if one.pieces]
FOUR = "ostler-16-flat-four"


@pytest.mark.parametrize("key", WITH_PIECES)
def test_what_the_sheet_says_is_understood_again(key: str) -> None:
    """Pieces with their joints, numbers and figures; the timing with its curve."""
    sheet = ENGINES[key]
    assert read_pieces(sheet, pieces_line(sheet)) == sheet
    line = timing_line(sheet)
    plain = sheet.model_dump(mode="json", exclude_defaults=True)
    plain.pop("timing", None)
    again = Engine.model_validate({"format": sheet.format, **plain, "timing": read_timing(line)})
    assert timing_line(again) == line
    require_consistent(again)


def test_a_piece_that_is_new_brings_its_torque_to_be_sourced() -> None:
    """A figure for it; the others stay as they are, with the notes they had."""
    sheet = ENGINES["fendrake-50-marine-v8"]
    line = pieces_line(sheet).replace("rotor #FD-R-8", "rotor #X-9: inner-hex screw 3 mm 2 N·m")
    made = read_pieces(sheet, line)
    assert made.pieces["rotor"].part_number == "X-9"
    [joint] = made.pieces["rotor"].joints.values()
    assert joint.torque is not None
    assert str(made.figures[joint.torque][0].value) == "2 N·m"
    assert made.figures[joint.torque][0].source == "to-state"
    assert made.pieces["points"] == sheet.pieces["points"]
    assert read_pieces(sheet, "") == sheet.model_copy(update={"pieces": {}})


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("lid #A", "is not understood"),
        ("cap #A; cap #B", "stands twice"),
        ("cap: 2 wobblers", "wobblers"),
        ("rotor : #", "#"),
    ],
)
def test_a_piece_that_is_not_understood_is_refused(line: str, told: str) -> None:
    """The clause is named, with how it is written."""
    with pytest.raises(EngineError, match=told) as refused:
        read_pieces(ENGINES[FOUR], line)
    assert all(problem.fix for problem in refused.value.problems)


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("pulley wide; source wm p. 3", "pulley wide"),
        ("marks 0, x; source wm p. 3", "marks"),
        ("runs up; source wm p. 3", "runs up"),
        ("curve 1000 9; source wm p. 3", "curve"),
        ("pulley 150 mm", "its source"),
        ("vacuum off; source wm p. 3", "vacuum"),
    ],
)
def test_a_timing_that_is_not_understood_is_refused(line: str, told: str) -> None:
    """The clause is named, with how it is written."""
    with pytest.raises(EngineError, match=told):
        read_timing(line)
    assert read_timing("  ") is None


def test_a_number_with_blanks_and_a_note_with_marks_come_back() -> None:
    """In quotes and in brackets nothing is taken for a mark between clauses."""
    line = 'cap #"C 8" (two clips; left + right first): 2 clips + latch (lift; then pull)'
    [made] = [one for one in demo_engines() if one.id == "ostler-16-flat-four"]
    made = read_pieces(made, line)
    piece = made.pieces["cap"]
    assert (piece.part_number, piece.note) == ("C 8", "two clips; left + right first")
    assert [joint.note for joint in piece.joints.values()] == ["", "lift; then pull"]
    assert read_pieces(made, pieces_line(made)).pieces == made.pieces
