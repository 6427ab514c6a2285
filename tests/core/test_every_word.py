"""Every word of a sum, a slip and a refusal is put into the reader's language, slots and all.

The language here is made up: each letter of a text becomes another one, so that an English word
put into a translated sentence stands out.
"""

import re
from collections.abc import Iterator
from typing import Any

import pytest

from eldrim.core.base.errors import ProblemsError
from eldrim.core.base.quantity import Dimension, QuantityError, convert, parse
from eldrim.core.figures.bands import Band
from eldrim.core.figures.slips import Held, examine
from eldrim.core.sums import SUMS, examples, work_out
from eldrim.core.tools import stack_finder
from eldrim.core.words import all_sentences
from eldrim.core.words.catalogs import CATALOGS, Catalog
from eldrim.core.words.language import reading_in

# Symbols, and what a reader typed or chose, are no words of ours.
SYMBOLS = {"lbf", "Nmm", "rev", "min", "cos", "kgf", "kPa", "psi", "bar", "thou", "docs", "craft"}
SYMBOLS |= {"daN", "ozf", "turn"}


class MadeUp(dict[str, Any]):
    """A catalog that knows every text: letters outside its slots become ж."""

    def get(self, text: str, default: Any = None) -> Any:
        """The text, or its forms, in the language made up."""
        if isinstance(default, tuple):
            return tuple(_in_it(form) for form in default)
        return _in_it(text)


def _in_it(text: str) -> str:
    return "".join(
        part if part.startswith("{") else re.sub(r"[^\W\d]", "ж", part)
        for part in re.split(r"(\{\w+\})", text)
    )


@pytest.fixture(autouse=True)
def reads_it(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Pages are in the made-up language."""
    made_up = {key: _in_it(text) for key, text in all_sentences("de").items()}
    monkeypatch.setitem(CATALOGS, "de", Catalog(made_up, MadeUp()))
    # What was worked out in German before, and in this language here, is worked out anew.
    stack_finder._stack_finder_for.cache_clear()
    with reading_in("de"):
        yield
    stack_finder._stack_finder_for.cache_clear()


MAKERS, RINGS = ("allowed", "not allowed"), ("new", "the same again")
BUILT = ("nickel", "fine_wire", "multi_ground", "surface_gap")
SOCKETS = ("5/8 in", "16 mm", "14 mm", "19 mm")
NO_TORQUE = ("18", "18 mm", "18 жжж", "9 to 5 N·m", "0.001 N·m")


def left(*texts: str) -> list[str]:
    """English words that are left in texts."""
    words = (word for text in texts for word in re.findall("[A-Za-z]{3,}", str(text)))
    return [word for word in words if word not in SYMBOLS]


def said_of(key: str, **given: str) -> list[str]:
    """What a sum says, or refuses."""
    try:
        found = work_out(key, {**examples(key), **given})
    except ProblemsError as error:
        return [text for problem in error.problems for text in (problem.message, problem.fix)]
    return [found.result, found.formula, *found.working]


@pytest.mark.parametrize("key", list(SUMS))
def test_a_sum_with_its_examples(key: str) -> None:
    """Result, formula and working."""
    assert left(*said_of(key)) == []


CASES: list[tuple[str, dict[str, str]]] = [
    *(("battery", {"volts": f"{v} V"}) for v in (13.4, 12.6, 12.4, 12.0, 11.0, 30)),
    *(("battery", {"volts": f"{v} V", "state": "running"}) for v in (15.0, 14.0, 13.0)),
    *(("load", {"loaded": f"{v} V"}) for v in (14.0, 13.2, 12.4)),
    *(("cranking", {"volts": f"{v} V", "cable": "0.5 V"}) for v in (10.4, 8.0)),
    *(("resistance", {"measured": f"{v} kΩ"}) for v in (1, 9, 90)),
    *(("resistance", {"what": "coil primary", "measured": f"{v} Ω"}) for v in (0.1, 1, 9)),
    ("resistance", {"limits": "5 to 6 kΩ"}),
    ("resistance", {"length": ""}),
    *(("compression", {"readings": r}) for r in ("11 11 bar", "11 9 bar", "11 5 bar", "11 bar")),
    *(("body", {"found": f, "rotor": r}) for f in ("6°", "10°", "14°") for r in ("left", "right")),
    *(("dwell", {"dwell": f"{v}°"}) for v in (40, 50, 60, 100)),
    *(
        ("lamp", {"idle": i, "total": t, "total_range": "30 to 34°", "diameter": "76 mm"})
        for i in ("2°", "10°", "12°")
        for t in ("24°", "29°", "32°", "40°")
    ),
    *(("along", {"used": used}) for used in ("1", "40000", "900000")),
    ("along", {"later": "1"}),
    *(("wrench", {"reading": f"{v} N·m"}) for v in (20, 24.8, 30)),
    *(("gap", {"readings": r, "maker": m}) for r in ("0.6", "0.75", "0.9") for m in MAKERS),
    *(("gap", {"readings": "0.9", "state": "used", "construction": c}) for c in BUILT),
    *(("wear", {"gap_found": f"{v} mm"}) for v in (0.75, 0.85, 1.1)),
    *(("fit", {"socket": s, "what": w}) for s in SOCKETS for w in ("plug", "bolt or nut")),
    *(("angle", {"seat": seat, "ring": r}) for seat in ("gasket", "conical") for r in RINGS),
    *(("torque", {"value": v}) for v in NO_TORQUE),
    ("setting", {"thread": "lubricated, figure for dry"}),
    ("setting", {"adapter": "40 mm", "angle": "45°"}),
    ("arc", {"diameter": "14 mm"}),
    ("cooling", {"second": "90 °C"}),
]


@pytest.mark.parametrize(("key", "given"), CASES, ids=str)
def test_a_sum_in_each_of_its_verdicts(key: str, given: dict[str, str]) -> None:
    """Those of the battery, the lead, the lamp and the gap too, and what each refuses."""
    assert left(*said_of(key, **given)) == []


@pytest.mark.parametrize("typed", ["0.7", "8 mm", "0.008 mm", "0.9 to 0.7 mm", "28 thou (0.9 mm)"])
def test_a_slip_and_what_was_meant(typed: str) -> None:
    """Why it is held, and each reading that is offered."""
    held = examine(typed, Band("gap", Dimension.LENGTH, 0.3, 2.0, 0.6, 1.2), Dimension.LENGTH)
    assert isinstance(held, Held)
    said = [held.why, *(reading.how for reading in held.readings)]
    assert [word for word in left(*said) if word != "gap"] == []


@pytest.mark.parametrize(
    "typed", ["12", "12 V", "12 mm to 3 V", "−3 mm", "3 to 2 mm", "3 mmm", "3 жжж", "1/0 mm"]
)
def test_a_figure_that_is_refused(typed: str) -> None:
    """With what it measures and the units that would do."""
    with pytest.raises(QuantityError) as caught:
        parse(typed, Dimension.TORQUE)
    assert [word for word in left(str(caught.value)) if word not in typed] == []


def test_units_of_two_kinds_are_not_converted() -> None:
    """Both kinds are named in the reader's words."""
    with pytest.raises(QuantityError) as caught:
        convert(1.0, "mm", "V")
    assert left(str(caught.value)) == []
