"""Units of the trade: their symbols, the spellings people use, and conversion by pint."""

import re
from dataclasses import dataclass
from difflib import get_close_matches
from enum import StrEnum
from functools import lru_cache

import pint

from eldrim.core.base.errors import QuantityError
from eldrim.core.words.messages import gettext


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
    RESISTANCE = "resistance"
    PRESSURE = "pressure"

    @property
    def words(self) -> str:
        """Its name in the language of the page."""
        return gettext(self.value)


@dataclass(frozen=True)
class Unit:
    """One unit: the symbol we print, pint's name, its dimension and the spellings we accept."""

    symbol: str
    pint_name: str
    dimension: Dimension
    spellings: tuple[str, ...]
    decimals: int
    usual: bool = True


D = Dimension
# The first unit of a dimension is its working unit. Spellings are compared lower-case with
# spaces, dots and hyphens folded away (see fold_unit).
UNITS: tuple[Unit, ...] = (
    Unit("N·m", "newton*meter", D.TORQUE, ("nm", "newtonmetre", "newtonmeter", "newtonmetres",
         "newtonmeters", "mn"), 1),
    Unit("lbf·ft", "force_pound*foot", D.TORQUE,
         ("lbfft", "ftlb", "lbft", "ftlbf", "ftlbs", "lbsft", "lbsfft", "footpound", "footpounds",
          "poundfoot", "poundfeet", "poundsfeet", "footlb", "footlbs", "feetlbs", "lbfoot"), 1),
    Unit("lbf·in", "force_pound*inch", D.TORQUE,
         ("lbfin", "inlb", "lbin", "inlbf", "inlbs", "lbsin", "inchpound", "inchpounds",
          "poundinch", "poundinches", "inchlb", "inchlbs", "lbinch", "lbfinch"), 0),
    Unit("kgf·m", "force_kilogram*meter", D.TORQUE,
         ("kgfm", "mkgf", "kgm", "mkg", "kpm", "mkp", "kilopondmetre", "kilopondmeter"), 2),
    Unit("kgf·cm", "force_kilogram*centimeter", D.TORQUE, ("kgfcm", "kgcm", "cmkg", "cmkp"), 0),
    Unit("daN·m", "dekanewton*meter", D.TORQUE, ("danm", "mdan"), 2, usual=False),
    Unit("N·cm", "newton*centimeter", D.TORQUE, ("ncm", "cnm"), 0, usual=False),
    Unit("ozf·in", "force_ounce*inch", D.TORQUE, ("ozfin", "ozin", "inoz", "inozf", "ounceinch",
         "ounceinches", "inchounce", "inchounces"), 0, usual=False),
    Unit("mm", "millimeter", D.LENGTH,
         ("mm", "millimetre", "millimeter", "millimetres", "millimeters"), 2),
    Unit("in", "inch", D.LENGTH, ("in", "inch", "inches", '"', "″", "''", "zoll"), 4),
    Unit("thou", "thou", D.LENGTH, ("thou", "thous", "mil", "mils"), 1),
    Unit("cm", "centimeter", D.LENGTH, ("cm", "centimetre", "centimeter", "centimetres"), 2,
         usual=False),
    Unit("°", "degree", D.ANGLE, ("°", "deg", "degs", "degree", "degrees", "grad"), 0),
    Unit("turn", "turn", D.ANGLE, ("turn", "turns", "rev", "revs", "umdrehung", "umdrehungen"), 2),
    Unit("V", "volt", D.VOLTAGE, ("v", "volt", "volts", "vdc"), 2),
    Unit("mV", "millivolt", D.VOLTAGE, ("mv", "millivolt", "millivolts"), 0),
    Unit("kV", "kilovolt", D.VOLTAGE, ("kv", "kilovolt", "kilovolts"), 2),
    Unit("°C", "degC", D.TEMPERATURE, ("°c", "degc", "c", "celsius", "degreesc"), 0),
    Unit("°F", "degF", D.TEMPERATURE, ("°f", "degf", "f", "fahrenheit", "degreesf"), 0),
    Unit("min", "minute", D.TIME, ("min", "mins", "minute", "minutes", "minuten"), 1),
    Unit("h", "hour", D.TIME, ("h", "hr", "hrs", "hour", "hours", "std", "stunden"), 1),
    Unit("s", "second", D.TIME, ("s", "sec", "secs", "second", "seconds"), 0),
    Unit("months", "month", D.TIME, ("month", "months", "monate"), 0),
    Unit("km", "kilometer", D.DISTANCE, ("km", "kilometre", "kilometres", "kilometer",
         "kilometers"), 0),
    Unit("mi", "mile", D.DISTANCE, ("mi", "mile", "miles"), 0),
    Unit("kg", "kilogram", D.MASS, ("kg", "kilogram", "kilograms"), 1),
    Unit("lb", "pound", D.MASS, ("lb", "lbs", "pound", "pounds"), 1),
    Unit("rev/min", "revolutions_per_minute", D.SPEED, ("rev/min", "rpm", "revmin", "u/min",
         "1/min", "min1", "/min"), 0),
    Unit("Ω", "ohm", D.RESISTANCE, ("ω", "ohm", "ohms"), 2),
    Unit("kΩ", "kiloohm", D.RESISTANCE, ("kω", "kohm", "kohms", "kiloohm", "kiloohms"), 2),
    Unit("bar", "bar", D.PRESSURE, ("bar", "bars"), 1),
    Unit("kPa", "kilopascal", D.PRESSURE, ("kpa", "kilopascal"), 0),
    Unit("psi", "psi", D.PRESSURE, ("psi", "lb/in2", "lbf/in²"), 0),
)  # fmt: skip

_BY_SPELLING = {spelling: unit for unit in UNITS for spelling in unit.spellings}
_BY_SYMBOL = {unit.symbol: unit for unit in UNITS}


def working_unit(dimension: Dimension) -> Unit:
    """Return the unit in which quantities of ``dimension`` are compared and stored."""
    return next(unit for unit in UNITS if unit.dimension is dimension)


def units_of(dimension: Dimension | None) -> str:
    """Three likely units to write a dimension in; of no dimension in particular, three lengths
    and torques.
    """
    if dimension is None:
        return gettext("{first} or {last}", first="mm, in", last="N·m")
    symbols = [u.symbol for u in UNITS if u.dimension is dimension and u.usual][:3]
    if len(symbols) == 1:
        return symbols[0]
    return gettext("{first} or {last}", first=", ".join(symbols[:-1]), last=symbols[-1])


def unit(symbol_or_spelling: str, dimension: Dimension | None = None) -> Unit:
    """Return the unit meant by a symbol or any accepted spelling.

    Raises :class:`QuantityError` for an unknown unit, naming the nearest one or, where a
    ``dimension`` is expected, three likely ones.
    """
    found = _BY_SYMBOL.get(symbol_or_spelling) or _BY_SPELLING.get(fold_unit(symbol_or_spelling))
    if found is None:
        near = get_close_matches(fold_unit(symbol_or_spelling), list(_BY_SPELLING), n=1, cutoff=0.7)
        fits = [_BY_SPELLING[n] for n in near]
        fits = [u for u in fits if dimension in (None, u.dimension)]
        hint = (
            gettext("did you mean {unit}?", unit=fits[0].symbol)
            if fits
            else gettext("use {units}", units=units_of(dimension))
        )
        raise QuantityError(
            gettext(
                "unit '{symbol_or_spelling}' is not known; {hint}",
                symbol_or_spelling=symbol_or_spelling[:24],
                hint=hint,
            )
        )
    return found


def fold_unit(text: str) -> str:
    """A unit's spelling for comparing: case, blanks, points, dots and hyphens tell nothing."""
    return re.sub(r"[\s.·\-*⋅]", "", text.lower())


# What pint is told of, a fiftieth of what it could be: reading all of it takes a third of a second
# at each start. Test: every factor is the one of pint's own file.
DEFINITIONS = """
milli- = 1e-3
centi- = 1e-2
deka- = 1e1
kilo- = 1e3
meter = [length]
second = [time]
gram = [mass]
ampere = [current]
kelvin = [temperature]; offset: 0
radian = []
minute = 60 * second
hour = 60 * minute
day = 24 * hour
year = 365.25 * day
month = year / 12
inch = 0.0254 * meter
foot = 12 * inch
mile = 5280 * foot
thou = 1e-3 * inch
pound = 0.45359237 * kilogram
ounce = pound / 16
newton = kilogram * meter / second ** 2
standard_gravity = 9.80665 * meter / second ** 2
force_kilogram = kilogram * standard_gravity
force_pound = pound * standard_gravity
force_ounce = ounce * standard_gravity
pascal = newton / meter ** 2
bar = 1e5 * pascal
psi = force_pound / inch ** 2
volt = kilogram * meter ** 2 / second ** 3 / ampere
ohm = volt / ampere
turn = 6.283185307179586 * radian
degree = turn / 360
revolutions_per_minute = turn / minute
degC = kelvin; offset: 273.15
degF = 5 / 9 * kelvin; offset: 233.15 + 200 / 9
"""


@lru_cache(maxsize=1)
def _registry() -> "pint.UnitRegistry":
    registry = pint.UnitRegistry(None, autoconvert_offset_to_baseunit=True)
    registry.load_definitions(DEFINITIONS.strip().splitlines())
    return registry


@lru_cache(maxsize=4096)
def convert(value: float, source: str, target: str) -> float:
    """Return ``value`` given in unit ``source`` as a number in unit ``target``.

    Units are symbols of :data:`UNITS`; both must share a dimension. Factors are pint's, which
    carries the international definitions (1 lbf·ft = 1.3558 N·m).
    """
    have, want = unit(source), unit(target)
    if have.dimension is not want.dimension:
        raise QuantityError(
            gettext(
                "{source} measures {measured}, not {wanted}",
                source=source,
                measured=have.dimension.words,
                wanted=want.dimension.words,
            )
        )
    if have is want:
        return value
    registry = _registry()
    amount = registry.Quantity(value, have.pint_name).to(want.pint_name)
    return float(f"{float(amount.magnitude):.12g}")
