"""Quantities as people type them: read, convert, print.

A :class:`Quantity` is a value or a range. Beside the numbers as printed it keeps them in the
working unit of its dimension (an SI unit or a decimal multiple: N·m, mm, V, °C, min, km, degree),
so that two quantities of one dimension always compare.
"""

import re
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache
from typing import Annotated, Any

import pint
from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from eldrim.core.errors import QuantityError
from eldrim.core.language import decimal_mark


class Dimension(StrEnum):
    """What kind of thing is measured."""

    TORQUE = "torque"
    LENGTH = "length"
    ANGLE = "angle"
    VOLTAGE = "voltage"
    TEMPERATURE = "temperature"
    TIME = "time"
    DISTANCE = "distance"
    MASS = "mass"
    SPEED = "speed of rotation"


@dataclass(frozen=True)
class Unit:
    """One unit: the symbol we print, pint's name, its dimension and the spellings we accept."""

    symbol: str
    pint_name: str
    dimension: Dimension
    spellings: tuple[str, ...]
    decimals: int


D = Dimension
# The first unit of a dimension is its working unit. Spellings are compared lower-case with
# spaces, dots and hyphens folded away (see _fold).
UNITS: tuple[Unit, ...] = (
    Unit("N·m", "newton*meter", D.TORQUE, ("nm", "newtonmetre", "newtonmeter", "mn"), 1),
    Unit("lbf·ft", "force_pound*foot", D.TORQUE,
         ("lbfft", "ftlb", "lbft", "ftlbf", "ftlbs", "lbsft", "footpound", "footpounds"), 1),
    Unit("lbf·in", "force_pound*inch", D.TORQUE,
         ("lbfin", "inlb", "lbin", "inlbf", "inlbs", "lbsin", "inchpound", "inchpounds"), 0),
    Unit("kgf·m", "force_kilogram*meter", D.TORQUE, ("kgfm", "mkgf", "kgm", "mkg", "kpm"), 2),
    Unit("kgf·cm", "force_kilogram*centimeter", D.TORQUE, ("kgfcm", "kgcm"), 0),
    Unit("mm", "millimeter", D.LENGTH,
         ("mm", "millimetre", "millimeter", "millimetres", "millimeters"), 2),
    Unit("cm", "centimeter", D.LENGTH, ("cm",), 2),
    Unit("in", "inch", D.LENGTH, ("in", "inch", "inches", '"', "″"), 4),
    Unit("thou", "thou", D.LENGTH, ("thou", "mil", "mils", "thousandth", "thousandths"), 1),
    Unit("°", "degree", D.ANGLE, ("°", "deg", "degree", "degrees"), 0),
    Unit("turn", "turn", D.ANGLE, ("turn", "turns"), 2),
    Unit("V", "volt", D.VOLTAGE, ("v", "volt", "volts"), 2),
    Unit("°C", "degC", D.TEMPERATURE, ("°c", "degc", "c", "celsius"), 0),
    Unit("°F", "degF", D.TEMPERATURE, ("°f", "degf", "f", "fahrenheit"), 0),
    Unit("min", "minute", D.TIME, ("min", "mins", "minute", "minutes"), 1),
    Unit("s", "second", D.TIME, ("s", "sec", "second", "seconds"), 0),
    Unit("h", "hour", D.TIME, ("h", "hr", "hrs", "hour", "hours"), 1),
    Unit("months", "month", D.TIME, ("month", "months"), 0),
    Unit("km", "kilometer", D.DISTANCE, ("km", "kilometre", "kilometres"), 0),
    Unit("mi", "mile", D.DISTANCE, ("mi", "mile", "miles"), 0),
    Unit("kg", "kilogram", D.MASS, ("kg",), 1),
    Unit("rev/min", "revolutions_per_minute", D.SPEED, ("rev/min", "rpm", "revmin"), 0),
)  # fmt: skip

_BY_SPELLING = {spelling: unit for unit in UNITS for spelling in unit.spellings}
_BY_SYMBOL = {unit.symbol: unit for unit in UNITS}

_FRACTION = r"\d+\s+\d+/\d+|\d+/\d+"
_GROUPED = r"\d{1,3}(?:[\s\u00a0\u202f]\d{3})+"
_NUMBER = rf"[-−]?(?:{_FRACTION}|{_GROUPED}|\d+(?:[.,]\d+)?|[.,]\d+)"
_VULGAR = {
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "⅓": "1/3",
    "⅔": "2/3",
}
_OPERATOR = r"to|–|—|-|−|~|\.\.|±|\+/-"
_RANGE = re.compile(
    rf"^(?P<low>{_NUMBER})\s*(?P<unit1>\D*?)\s*(?P<op>{_OPERATOR})\s*"
    rf"(?P<high>{_NUMBER})\s*(?P<unit2>\D.*)?$",
    re.ASCII,
)
_SINGLE = re.compile(
    rf"^(?P<low>{_NUMBER})\s*(?P<unit1>(?P<op>)(?P<high>)(?P<unit2>\D.*)?)$", re.ASCII
)
_PLAIN = re.compile(_NUMBER, re.ASCII)


def working_unit(dimension: Dimension) -> Unit:
    """Return the unit in which quantities of ``dimension`` are compared and stored."""
    return next(unit for unit in UNITS if unit.dimension is dimension)


def unit(symbol_or_spelling: str) -> Unit:
    """Return the unit meant by a symbol or any accepted spelling.

    Raises :class:`QuantityError` for an unknown unit.
    """
    found = _BY_SYMBOL.get(symbol_or_spelling) or _BY_SPELLING.get(_fold(symbol_or_spelling))
    if found is None:
        known = ", ".join(u.symbol for u in UNITS)
        raise QuantityError(f"unit '{symbol_or_spelling}' is not known; use one of {known}")
    return found


@lru_cache(maxsize=1)
def _registry() -> "pint.UnitRegistry":
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@lru_cache(maxsize=4096)
def convert(value: float, source: str, target: str) -> float:
    """Return ``value`` given in unit ``source`` as a number in unit ``target``.

    Units are symbols of :data:`UNITS`; both must share a dimension. Factors are pint's, which
    carries the international definitions (1 lbf·ft = 1.3558 N·m).
    """
    have, want = unit(source), unit(target)
    if have.dimension is not want.dimension:
        raise QuantityError(f"{source} measures {have.dimension}, not {want.dimension}")
    if have is want:
        return value
    registry = _registry()
    amount = registry.Quantity(value, have.pint_name).to(want.pint_name)
    return float(f"{float(amount.magnitude):.12g}")


def format_number(value: float, decimals: int) -> str:
    """Print a number with at most ``decimals`` places and no trailing zeros."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    text = "0" if text == "-0" else text.replace("-", "−")
    return text.replace(".", decimal_mark())


@dataclass(frozen=True)
class Quantity:
    """A value or range: ``low`` and ``high`` in the working unit, ``text`` as it was printed."""

    low: float
    high: float
    dimension: Dimension
    unit: str
    text: str

    @property
    def mid(self) -> float:
        """The middle of the range, in the working unit."""
        return float(f"{(self.low + self.high) / 2:.12g}")

    @property
    def is_range(self) -> bool:
        """Whether two different limits are stated."""
        return self.low != self.high

    def printed_in(self, symbol: str, decimals: int | None = None) -> str:
        """Print in another unit, e.g. ``"11.1 to 14.8 lbf·ft"``."""
        places = unit(symbol).decimals if decimals is None else decimals
        base = working_unit(self.dimension).symbol
        low = format_number(convert(self.low, base, symbol), places)
        high = format_number(convert(self.high, base, symbol), places)
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


@dataclass(frozen=True)
class Typed:
    """Numbers as they stand, before anybody asks whether they make sense.

    ``low`` and ``high`` are in the order typed, ``unit`` is None where none was written.
    """

    low: float
    high: float
    unit: Unit | None
    printed: str


def scan(text: str) -> Typed:
    """Take a typed quantity to pieces; a missing unit and a backward range are let through.

    Raises :class:`QuantityError` for what is no quantity at all, or has an unknown unit.
    """
    match = _match(text)
    first = _number(match["low"])
    second = _number(match["high"]) if match["high"] else first
    if match["op"] in ("±", "+/-"):
        first, second = _tidy(first - second), _tidy(first + second)
    spelled = (match["unit2"] or "").strip() or (match["unit1"] or "").strip()
    symbol = unit(spelled) if spelled else None
    return Typed(first, second, symbol, _as_printed(match, symbol))


def _match(text: str) -> "re.Match[str]":
    plain = re.sub(r"(\d?)\s*([½¼¾⅛⅜⅝⅞⅓⅔])", _spelled_out, text.strip())
    match = _RANGE.match(plain) or _SINGLE.match(plain)
    if match is None:
        raise QuantityError(f"'{text}' is not a quantity; write a number and a unit, as 22 N·m")
    return match


def _spelled_out(match: "re.Match[str]") -> str:
    whole = f"{match[1]} " if match[1] else ""
    return whole + _VULGAR[match[2]]


def parse(text: str, dimension: Dimension | None = None) -> Quantity:
    """Read what a person typed: ``22 Nm``, ``18.4 ft-lb``, ``.039 in``, ``0,8 mm``, ``15-20 Nm``.

    Accepts decimal point or comma, fractions (``5/8 in``, ``1 1/2 turns``, ``½ turn``), thousands
    in groups (``30 000 km``), ranges with *to* or a dash, ``±``. A unit is required. Raises
    :class:`QuantityError` naming what is not understood, also when the unit does not measure
    ``dimension`` or the range runs backwards.
    """
    typed = scan(text)
    if typed.unit is None:
        raise QuantityError(f"'{text}' has no unit; write it after the number, as 22 N·m")
    low, high, symbol = typed.low, typed.high, typed.unit
    if dimension is not None and symbol.dimension is not dimension:
        raise QuantityError(
            f"'{text}' is in {symbol.symbol}, which measures {symbol.dimension}; "
            f"a {dimension} is wanted"
        )
    if high < low:
        raise QuantityError(f"'{text}' runs backwards; write the smaller limit first")
    base = working_unit(symbol.dimension).symbol
    return Quantity(
        convert(low, symbol.symbol, base),
        convert(high, symbol.symbol, base),
        symbol.dimension,
        symbol.symbol,
        typed.printed,
    )


def read_number(text: str) -> float:
    """Read a number without a unit, as people type it: ``0,8``, ``30 000``, ``1 1/2``, ``½``.

    Raises :class:`QuantityError` for anything else: ``inf``, ``1_000``, digits of other scripts.
    """
    plain = re.sub(r"(\d?)\s*([½¼¾⅛⅜⅝⅞⅓⅔])", _spelled_out, text.strip())
    if not _PLAIN.fullmatch(plain):
        raise QuantityError(f"'{text}' is not a number; write it as 2.5")
    return _number(plain)


def in_unit(value: float, source: str, target: str) -> float:
    """A value as it was typed or sent in one unit, rounded as a reading in another is kept."""
    places = max(unit(target).decimals, 1)
    return value if unit(source) is unit(target) else round(convert(value, source, target), places)


def _as_printed(match: "re.Match[str]", symbol: Unit | None) -> str:
    ending = "" if symbol is None else f"{'' if symbol.symbol == '°' else ' '}{symbol.symbol}"
    low = match["low"].replace(",", ".")
    if not match["high"]:
        return f"{_lead(low)}{ending}"
    word = "±" if match["op"] in ("±", "+/-") else "to"
    return f"{_lead(low)} {word} {_lead(match['high'].replace(',', '.'))}{ending}"


def _lead(number: str) -> str:
    return f"0{number}" if number.startswith(".") else number


def _number(text: str) -> float:
    whole = text.replace("−", "-").replace(",", ".").strip()
    if "/" in whole:
        sign = -1 if whole.startswith("-") else 1
        return sign * float(sum(Fraction(part) for part in whole.lstrip("-").split()))
    return float(re.sub(r"\s", "", whole))


def _tidy(value: float) -> float:
    return float(f"{value:.12g}")


def _fold(text: str) -> str:
    return re.sub(r"[\s.·\-*⋅]", "", text.lower())


def _validator(dimension: Dimension) -> BeforeValidator:
    def read(value: Any) -> Quantity:
        if isinstance(value, Quantity):
            return value
        if not isinstance(value, str):
            raise QuantityError(f"write a number with its unit, as text; found {value!r}")
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
        raise QuantityError(f"write a number with its unit, as text; found {value!r}")
    return parse(value)


Torque = Annotated[Quantity, _validator(D.TORQUE), _AS_TEXT, _schema(D.TORQUE)]
Length = Annotated[Quantity, _validator(D.LENGTH), _AS_TEXT, _schema(D.LENGTH)]
Angle = Annotated[Quantity, _validator(D.ANGLE), _AS_TEXT, _schema(D.ANGLE)]
Voltage = Annotated[Quantity, _validator(D.VOLTAGE), _AS_TEXT, _schema(D.VOLTAGE)]
Temperature = Annotated[Quantity, _validator(D.TEMPERATURE), _AS_TEXT, _schema(D.TEMPERATURE)]
Time = Annotated[Quantity, _validator(D.TIME), _AS_TEXT, _schema(D.TIME)]
AnyQuantity = Annotated[
    Quantity,
    BeforeValidator(_any),
    _AS_TEXT,
    WithJsonSchema({"type": "string", "description": "A quantity or range with its unit."}),
]
