"""Quantities are read the way people type them, and never silently wrong."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.quantity import UNITS, Dimension, convert, make, parse, working_unit

TYPED = [
    ("22 Nm", 22, 22, "N·m"),
    ("22nm", 22, 22, "N·m"),
    ("18.4 ft-lb", 24.947, 24.947, "lbf·ft"),
    ("18.4 lbf·ft", 24.947, 24.947, "lbf·ft"),
    ("177 in-lbs", 19.998, 19.998, "lbf·in"),
    ("2.2 kgf·m", 21.575, 21.575, "kgf·m"),
    (".039 in", 0.9906, 0.9906, "in"),
    ("31 thou", 0.7874, 0.7874, "thou"),
    ("0,8 mm", 0.8, 0.8, "mm"),
    ("5/8 in", 15.875, 15.875, "in"),
    ("1 1/2 turns", 540, 540, "turn"),
    ("15 to 20 N·m", 15, 20, "N·m"),
    ("15-20 Nm", 15, 20, "N·m"),
    ("15 – 20 N.m", 15, 20, "N·m"),
    ("15 Nm to 20 Nm", 15, 20, "N·m"),
    ("17.5 ± 2.5 N·m", 15, 20, "N·m"),
    ("-5 to 40 °C", -5, 40, "°C"),
    ("104 °F", 40, 40, "°F"),
    ("12.3 V", 12.3, 12.3, "V"),
    ("18°", 18, 18, "°"),
    ("750 rpm", 750, 750, "rev/min"),
    ("2 h", 120, 120, "min"),
]


@pytest.mark.parametrize(("typed", "low", "high", "unit"), TYPED)
def test_typed_is_understood(typed: str, low: float, high: float, unit: str) -> None:
    """What a person types becomes limits in the working unit, and keeps its own unit."""
    quantity = parse(typed)
    assert quantity.low == pytest.approx(low, abs=0.001)
    assert quantity.high == pytest.approx(high, abs=0.001)
    assert quantity.unit == unit or unit == working_unit(quantity.dimension).symbol


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("22", "has no unit"),
        ("Nm", "not a quantity"),
        ("", "not a quantity"),
        ("22 parsec", "not known"),
        ("20 to 15 Nm", "runs backwards"),
        ("1,2,3 mm", "not a number"),
    ],
)
def test_nonsense_is_refused_with_the_reason(typed: str, says: str) -> None:
    """What is not understood is refused, and the message says what is wrong."""
    with pytest.raises(QuantityError, match=says):
        parse(typed)


def test_the_wrong_dimension_is_refused() -> None:
    """A length is not taken where a torque is wanted."""
    with pytest.raises(QuantityError, match="a torque is wanted"):
        parse("22 mm", Dimension.TORQUE)


def test_the_maker_s_figure_is_kept_as_printed() -> None:
    """Reading keeps the printed form; converting prints beside it, not over it."""
    quantity = parse("15-20 Nm")
    assert str(quantity) == "15 to 20 N·m"
    assert quantity.printed_in("lbf·ft") == "11.1 to 14.8 lbf·ft"


def test_twelve_inch_pounds_are_a_foot_pound() -> None:
    """Two facts about torque units."""
    assert convert(12, "lbf·in", "lbf·ft") == pytest.approx(1)
    assert convert(1, "lbf·ft", "N·m") == pytest.approx(1.3558, abs=5e-5)


@given(st.sampled_from(UNITS), st.floats(0.001, 1e5))
def test_conversion_there_and_back_changes_nothing(unit, value) -> None:  # type: ignore[no-untyped-def]
    """Converting to the working unit and back is the identity."""
    base = working_unit(unit.dimension).symbol
    back = convert(convert(value, unit.symbol, base), base, unit.symbol)
    assert math.isclose(back, value, rel_tol=1e-9, abs_tol=1e-8)


@given(st.sampled_from(UNITS), st.integers(1, 9999), st.integers(0, 500))
def test_printing_then_reading_is_the_identity(unit, low, more) -> None:  # type: ignore[no-untyped-def]
    """A quantity printed in its unit reads back as the same quantity."""
    quantity = make(low / 10, unit.symbol, (low + more) / 10)
    again = parse(quantity.text)
    assert again.low == pytest.approx(quantity.low, rel=1e-6)
    assert again.high == pytest.approx(quantity.high, rel=1e-6)
