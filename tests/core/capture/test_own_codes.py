"""The maker's own codes, typed in a line and kept on the sheet."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.capture.numbering import renumbered
from eldrim.core.capture.own_codes import MAX_TEXT, own_codes_line, read_own_codes
from eldrim.core.engine import Engine
from tests.core.demo_sheets import SIX

LINE = "P1314 = misfire 4: fuel cut, at 4; P1171 = lean rear: lean there; E-17: oil; P17 = cam: cam"


def with_codes(line: str) -> Engine:
    """The vee six with these codes explained."""
    return Engine.model_validate({**SIX.model_dump(mode="json"), "own_codes": read_own_codes(line)})


def test_a_line_says_what_the_sheet_then_says() -> None:
    """A number is a cylinder, a word a bank; written out again it is the same line."""
    sheet = with_codes(LINE)
    assert own_codes_line(sheet) == LINE
    assert sheet.own_codes["P1314"].cylinder == 4
    assert sheet.own_codes["P1171"].bank == "rear"
    assert read_own_codes(" p1314=MISFIRE 4 :  fuel   cut ;; ") == {
        "P1314": {"means": "fuel cut", "about": "misfire", "cylinder": 4}
    }


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("P1314 misfire", "'P1314 misfire' is not understood"),
        ("P1314 = smoke 4: fuel cut", "is not understood"),
        ("P1314: one; P1314: other", "P1314 stands twice"),
        ("P1314: " + "x" * MAX_TEXT, "characters"),
    ],
)
def test_what_is_not_understood_is_named(line: str, said: str) -> None:
    """With how it is written."""
    with pytest.raises(EngineError, match=said):
        read_own_codes(line)


def test_cylinders_called_otherwise_take_their_codes_along() -> None:
    """As pairs and coil letters do."""
    sheet = with_codes("P1314 = misfire 4: fuel cut")
    numbers = list(sheet.cylinders)
    swapped = [{1: 4, 4: 1}.get(n, n) for n in numbers]
    assert renumbered(sheet, swapped).own_codes["P1314"].cylinder == 1
