"""Quantities as people type them: read, convert, print.

A :class:`Quantity` is a value or a range. Beside the numbers as printed it keeps them in the
working unit of its dimension (an SI unit or a decimal multiple: N·m, mm, V, °C, min, km, degree),
so that two quantities of one dimension always compare.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.frozen import hashed_once
from eldrim.core.base.typed import Typed, further_turn, read_number, scan, twice
from eldrim.core.base.units import UNITS, Dimension, Unit, convert, unit, units_of, working_unit
from eldrim.core.words.language import decimal_mark
from eldrim.core.words.messages import gettext

__all__ = [
    "UNITS",
    "Angle",
    "AnyQuantity",
    "Dimension",
    "Distance",
    "Length",
    "Quantity",
    "Temperature",
    "Time",
    "Torque",
    "Typed",
    "Unit",
    "Voltage",
    "convert",
    "format_number",
    "further_turn",
    "in_unit",
    "make",
    "parse",
    "read_number",
    "scan",
    "twice",
    "unit",
    "units_of",
    "working_unit",
]
D = Dimension
# A figure written twice, in two units, may differ by the rounding of the second.
TWICE_WRITTEN_MAY_DIFFER = 0.05


def format_number(value: float, decimals: int) -> str:
    """Print a number with at most ``decimals`` places and no trailing zeros."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    text = "0" if text == "-0" else text.replace("-", "−")
    return text.replace(".", decimal_mark())


def with_unit(number: str, unit: str) -> str:
    """A number with its unit as it is printed: a degree stands at its number."""
    return f"{number}{unit}" if unit == "°" else f"{number} {unit}".strip()


def _places(value: float, symbol: str) -> int:
    """The places after the point: those of the unit, and more where a figure is small.

    Three digits that count from one upwards, two below.
    """
    size = abs(value)
    if not 1e-6 < size < 1e9:
        return unit(symbol).decimals
    counting = 3 if size >= 1 else 2
    return min(6, max(unit(symbol).decimals, counting - 1 - math.floor(math.log10(size))))


@hashed_once
@dataclass(frozen=True)
class Quantity:
    """A value or range: ``low`` and ``high`` in the working unit, ``text`` as it was printed."""

    low: float
    high: float
    dimension: Dimension
    unit: str
    text: str

    @cached_property
    def mid(self) -> float:
        """The middle of the range, in the working unit."""
        return float(f"{(self.low + self.high) / 2:.12g}")

    @property
    def is_range(self) -> bool:
        """Whether two different limits are stated."""
        return self.low != self.high

    def printed_in(self, symbol: str, decimals: int | None = None) -> str:
        """Print in another unit, e.g. ``"11.1 to 14.8 lbf·ft"``."""
        base = working_unit(self.dimension).symbol
        ends = [convert(end, base, symbol) for end in (self.low, self.high)]
        places = max(_places(end, symbol) for end in ends) if decimals is None else decimals
        low, high = (format_number(end, places) for end in ends)
        space = "" if symbol == "°" else " "
        return f"{low}{space}{symbol}" if low == high else f"{low} to {high}{space}{symbol}"

    def __str__(self) -> str:
        """Print as it was typed, with our symbol for the unit."""
        return self.text


def make(value: float, symbol: str, high: float | None = None) -> Quantity:
    """Build a quantity from numbers in unit ``symbol``."""
    chosen = unit(symbol)
    base = working_unit(chosen.dimension).symbol
    top = value if high is None else high
    quantity = Quantity(
        convert(value, symbol, base), convert(top, symbol, base), chosen.dimension, symbol, ""
    )
    return Quantity(
        quantity.low,
        quantity.high,
        chosen.dimension,
        symbol,
        quantity.printed_in(symbol, max(chosen.decimals, 3)),
    )


def parse(text: str, dimension: Dimension | None = None) -> Quantity:
    """Read what a person typed: ``22 Nm``, ``18.4 ft-lb``, ``.039 in``, ``0,8 mm``, ``15-20 Nm``.

    Accepts decimal point or comma, fractions (``5/8 in``, ``1 1/2 turns``, ``½ turn``), thousands
    in groups (``30 000 km``, ``30,000 km``), ranges with *to*, *bis*, dashes or dots, ``±``,
    tolerances (``1.1 +0.1/-0``), other units at the two ends, and the same figure again in
    brackets, which is checked. A unit is required. Raises :class:`QuantityError` naming what is
    not understood, also when the unit does not measure ``dimension`` or the range runs backwards.
    """
    outer, inner = twice(text)
    value = _parsed(outer, dimension)
    if inner:
        _require_same(value, _parsed(inner, value.dimension))
    return value


def _parsed(text: str, dimension: Dimension | None) -> Quantity:
    typed = scan(text, dimension)
    shown = " ".join(text.split())[:40]
    if typed.unit is None:
        likely = units_of(dimension)
        raise QuantityError(
            gettext(
                "'{shown}' has no unit; write it after the number: {likely}",
                shown=shown,
                likely=likely,
            )
        )
    low, high, symbol = typed.low, typed.high, typed.unit
    if dimension is not None and symbol.dimension is not dimension:
        raise QuantityError(
            gettext(
                "'{shown}' is in {symbol}, which measures {measured}; a {wanted} is "
                "wanted, in {units}",
                shown=shown,
                symbol=symbol.symbol,
                measured=symbol.dimension.words,
                wanted=dimension.words,
                units=units_of(dimension),
            )
        )
    if high < low:
        raise QuantityError(
            gettext("'{shown}' runs backwards; write the smaller limit first", shown=shown)
        )
    base = working_unit(symbol.dimension).symbol
    return Quantity(
        convert(low, symbol.symbol, base),
        convert(high, symbol.symbol, base),
        symbol.dimension,
        symbol.symbol,
        typed.printed,
    )


def _require_same(value: Quantity, again: Quantity) -> None:
    """The figure in brackets is the same, give or take its rounding."""
    pairs = ((value.low, again.low), (value.high, again.high))
    if any(abs(a - b) > TWICE_WRITTEN_MAY_DIFFER * max(abs(a), abs(b)) for a, b in pairs):
        raise QuantityError(
            gettext(
                "{value} and {again} are not the same; write the one that holds",
                value=value,
                again=again,
            )
        )


def in_unit(value: float, source: str, target: str) -> float:
    """A value as it was typed or sent in one unit, rounded as a reading in another is kept."""
    places = max(unit(target).decimals, 1)
    return value if unit(source) is unit(target) else round(convert(value, source, target), places)


def _validator(dimension: Dimension) -> BeforeValidator:
    def read(value: Any) -> Quantity:
        if isinstance(value, Quantity):
            return value
        if not isinstance(value, str):
            raise QuantityError(
                gettext("write a number with its unit, as text; found {value}", value=f"{value!r}")
            )
        return parse(value, dimension)

    return BeforeValidator(read)


_AS_TEXT = PlainSerializer(lambda q: q.text, return_type=str)


def _schema(dimension: Dimension) -> WithJsonSchema:
    units = ", ".join(unit.symbol for unit in UNITS if unit.dimension is dimension)
    return WithJsonSchema(
        {"type": "string", "description": f"A {dimension} with its unit: {units}."}
    )


def _any(value: Any) -> Quantity:
    if isinstance(value, Quantity):
        return value
    if not isinstance(value, str):
        raise QuantityError(
            gettext("write a number with its unit, as text; found {value}", value=f"{value!r}")
        )
    return parse(value)


Torque = Annotated[Quantity, _validator(D.TORQUE), _AS_TEXT, _schema(D.TORQUE)]
Length = Annotated[Quantity, _validator(D.LENGTH), _AS_TEXT, _schema(D.LENGTH)]
Angle = Annotated[Quantity, _validator(D.ANGLE), _AS_TEXT, _schema(D.ANGLE)]
Voltage = Annotated[Quantity, _validator(D.VOLTAGE), _AS_TEXT, _schema(D.VOLTAGE)]
Temperature = Annotated[Quantity, _validator(D.TEMPERATURE), _AS_TEXT, _schema(D.TEMPERATURE)]
Time = Annotated[Quantity, _validator(D.TIME), _AS_TEXT, _schema(D.TIME)]
Distance = Annotated[Quantity, _validator(D.DISTANCE), _AS_TEXT, _schema(D.DISTANCE)]
Speed = Annotated[Quantity, _validator(D.SPEED), _AS_TEXT, _schema(D.SPEED)]
AnyQuantity = Annotated[
    Quantity,
    BeforeValidator(_any),
    _AS_TEXT,
    WithJsonSchema({"type": "string", "description": "A quantity or range with its unit."}),
]
