"""The slip catcher: a typed figure is taken, or held with what was most likely meant.

A slip is a lost digit, a decimal comma gone astray, another unit, a range typed backwards, one
fastener's torque given to another, the same figure written twice and different. Source:
docs/craft.md §9 and §21.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import (
    TWICE_WRITTEN_MAY_DIFFER,
    UNITS,
    Dimension,
    Quantity,
    Typed,
    Unit,
    format_number,
    make,
    parse,
    scan,
    twice,
    working_unit,
)
from eldrim.core.figures.bands import Band
from eldrim.core.words.messages import gettext, gettext_noop

# Limits further apart than this are rarely one range: one of them has lost or won a digit.
WIDEST = 2.6
OFFERED = 5
ABOVE = gettext_noop("{both} is above what is plausible{siblings}")
BELOW = gettext_noop("{both} is below what is plausible{siblings}")
# Units that stand on one gauge or in one manual beside each other; others are not offered.
COMMON = frozenset(
    {
        "N·m",
        "lbf·ft",
        "lbf·in",
        "kgf·m",
        "mm",
        "in",
        "thou",
        "°C",
        "°F",
        "V",
        "km",
        "mi",
        "h",
        "months",
        "°",
        "turn",
        "rev/min",
    }
)
# A digit or a decimal mark gone astray by one place is likelier than another unit; by more, less.
NEAR, FAR = (0.1, 10.0), (0.01, 0.001, 100.0, 1000.0)


class LikelyReading(Frozen):
    """What may have been meant: the figure to take, how the slip came about, its conversion."""

    text: str
    how: str
    conversion: str = ""


class Held(Frozen):
    """A figure not taken yet: why, and the likely readings in band, likeliest first."""

    typed: str
    why: str
    band: str
    readings: tuple[LikelyReading, ...] = ()


@dataclass(frozen=True)
class Sibling:
    """Another figure of the same sheet that this one may have been mixed up with."""

    name: str
    band: Band


def examine(
    text: str, band: Band | None, dimension: Dimension, siblings: tuple[Sibling, ...] = ()
) -> Quantity | Held:
    """Take a figure as typed, or hold it.

    ``band`` is what is plausible, None where nothing general is known. Raises
    :class:`QuantityError` for what is no quantity at all, or of another dimension altogether.
    """
    outer, inner = twice(text)
    typed = scan(outer, dimension)
    if typed.unit and typed.unit.dimension is not dimension:
        parse(outer, dimension)
    why = _why_held(typed, outer, inner, band, siblings, dimension)
    if not why:
        return parse(outer, dimension)
    readings = _readings(typed, inner, band, dimension)
    return Held(
        typed=text.strip(),
        why=why,
        readings=tuple(readings)[:OFFERED],
        band=gettext(
            "{plausible_words} is plausible for {what}",
            plausible_words=band.plausible_words,
            what=band.what,
        )
        if band
        else "",
    )


def _why_held(
    typed: Typed,
    outer: str,
    inner: str,
    band: Band | None,
    siblings: tuple[Sibling, ...],
    dimension: Dimension,
) -> str:
    if typed.unit is None:
        return gettext("'{outer}' has no unit", outer=outer.strip())
    if typed.high < typed.low:
        return gettext("'{outer}' runs backwards", outer=outer.strip())
    value = parse(outer, dimension)
    if inner and _differ(value, inner):
        return gettext("{value} and {inner} are not the same", value=value, inner=inner)
    if band is None:
        return ""
    if not band.holds(value.low, value.high):
        return gettext(
            ABOVE if value.high > band.most else BELOW,
            both=_both(value),
            siblings=_mixed_up(value, siblings),
        )
    if _wide(value):
        return gettext("the limits of {value} are far apart for one range", value=value)
    return ""


def _differ(value: Quantity, inner: str) -> bool:
    other = parse(inner, value.dimension)
    pairs = ((value.low, other.low), (value.high, other.high))
    return any(abs(a - b) > TWICE_WRITTEN_MAY_DIFFER * max(abs(a), abs(b)) for a, b in pairs)


def _wide(value: Quantity) -> bool:
    measured = value.dimension in (Dimension.TORQUE, Dimension.LENGTH, Dimension.VOLTAGE)
    return measured and value.low > 0 and value.high / value.low > WIDEST


def _mixed_up(value: Quantity, siblings: tuple[Sibling, ...]) -> str:
    fits = next(
        (sibling for sibling in siblings if sibling.band.expects(value.low, value.high)), None
    )
    return gettext("; it would fit {fits}", fits=fits.name) if fits else ""


def _both(value: Quantity) -> str:
    base = working_unit(value.dimension).symbol
    return str(value) if value.unit == base else f"{value} ({value.printed_in(base)})"


def _readings(
    typed: Typed, inner: str, band: Band | None, dimension: Dimension
) -> list[LikelyReading]:
    found: dict[str, tuple[int, LikelyReading]] = {}
    for order, (low, high, unit, how) in enumerate(_guesses(typed, inner, dimension)):
        value = make(low, unit.symbol, high)
        rank = 0 if band is None or band.expects(value.low, value.high) else 1
        plausible = band is None or band.holds(value.low, value.high)
        if low <= high and plausible and not _wide(value) and value.text not in found:
            reading = LikelyReading(text=value.text, how=how, conversion=_conversion(value))
            found[value.text] = (100 * rank + order, reading)
    return [reading for _, reading in sorted(found.values(), key=lambda pair: pair[0])]


Guess = tuple[float, float, Unit, str]


def _guesses(typed: Typed, inner: str, dimension: Dimension) -> Iterator[Guess]:
    """Every way this may have come about, likeliest first; the caller keeps those in band."""
    units = [u for u in UNITS if u.dimension is dimension and u.symbol in COMMON]
    low, high = sorted((typed.low, typed.high))
    here = typed.unit
    if here is None:
        yield from (
            (low, high, u, gettext("the unit was {symbol}", symbol=u.symbol)) for u in units
        )
        return
    yield from _as_written(typed, here, inner)
    others = [unit for unit in units if unit is not here]
    yield from ((low * f, high * f, here, _factor_words(f)) for f in NEAR)
    for unit in others:
        yield (
            low,
            high,
            unit,
            gettext("{meant} was meant, {typed} typed", meant=unit.symbol, typed=here.symbol),
        )
    yield from ((low * f, high * f, here, _factor_words(f)) for f in FAR)
    yield from _one_limit(typed.low, typed.high, here)
    for unit in units if dimension is Dimension.LENGTH else ():
        for factor in (0.1, 0.01, 0.001):
            words = gettext(
                "{factor}, and in {symbol}", factor=_factor_words(factor), symbol=unit.symbol
            )
            yield low * factor, high * factor, unit, words


def _as_written(typed: Typed, here: Unit, inner: str) -> Iterator[Guess]:
    """The same numbers, turned round or the one of the two that was written."""
    low, high = sorted((typed.low, typed.high))
    if typed.high < typed.low:
        yield low, high, here, gettext("the limits are turned round")
        yield from _one_limit(typed.low, typed.high, here)
    if inner:
        other = scan(inner)
        if other.unit:
            yield low, high, here, gettext("the first of the two")
            yield other.low, other.high, other.unit, gettext("the second of the two")


def _one_limit(low: float, high: float, unit: Unit) -> Iterator[Guess]:
    if low == high:
        return
    for factor in (0.1, 10.0):
        yield (
            low,
            high * factor,
            unit,
            gettext("the upper limit: {factor}", factor=_factor_words(factor)),
        )
        yield (
            low * factor,
            high,
            unit,
            gettext("the lower limit: {factor}", factor=_factor_words(factor)),
        )


def _factor_words(factor: float) -> str:
    if factor == 1000:
        return gettext("thousands: times 1000")
    if factor > 1:
        return gettext("a digit lost: times {factor}", factor=f"{factor:g}")
    return gettext("a decimal point lost: divided by {factor}", factor=format_number(1 / factor, 0))


def _conversion(value: Quantity) -> str:
    """The same in the other unit people think in."""
    pairs = {"N·m": "lbf·ft", "mm": "in", "°C": "°F", "km": "mi"}
    base = working_unit(value.dimension).symbol
    other = base if value.unit != base else pairs.get(base, "")
    return value.printed_in(other) if other else ""
