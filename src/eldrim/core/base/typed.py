"""Figures as people type and print them, taken to pieces: numbers, their unit, how they read.

Input is bounded and its blanks are gathered before anything is matched, so that no pattern runs
long. What can be read in two ways is asked about, never guessed.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.units import UNITS, Dimension, Unit, convert, unit, units_of, working_unit
from eldrim.core.words.messages import gettext

MAX_LENGTH = 80
MAX_DIGITS = 15
VULGAR = {
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
# What a figure of a dimension can hardly be outside of, in its working unit: for telling a
# thousands mark from a decimal one, not for judging the figure.
_POSSIBLE = {
    Dimension.TORQUE: (0.05, 1500),
    Dimension.LENGTH: (0.005, 3000),
    Dimension.ANGLE: (0.1, 1080),
    Dimension.VOLTAGE: (0.05, 60),
    Dimension.TEMPERATURE: (-60, 1300),
    Dimension.TIME: (0.05, 6e6),
    Dimension.DISTANCE: (100, 3e6),
    Dimension.MASS: (0.05, 3000),
    Dimension.SPEED: (100, 20_000),
    Dimension.RESISTANCE: (0.05, 1e6),
    Dimension.PRESSURE: (0.05, 100),
}
# Counted in whole units: nobody writes three places after the point.
_WHOLE = (Dimension.DISTANCE, Dimension.SPEED)
_MAY_BE_NEGATIVE = (Dimension.TEMPERATURE, Dimension.ANGLE)
_EXAMPLE = {
    Dimension.TORQUE: "22 N·m",
    Dimension.LENGTH: "0.8 mm",
    Dimension.ANGLE: "90°",
    Dimension.VOLTAGE: "12.5 V",
    Dimension.TEMPERATURE: "40 °C",
    Dimension.TIME: "5 min",
    Dimension.DISTANCE: "30 000 km",
    Dimension.MASS: "2 kg",
    Dimension.SPEED: "850 rev/min",
    Dimension.RESISTANCE: "5 kΩ",
    Dimension.PRESSURE: "11 bar",
}

_FRACTION = r"\d+[ -]\d+/\d+|\d+/\d+"
_IN_BLANKS = r"\d{1,3}(?: \d{3})+(?![\d.,/])"
_NUM = rf"(?:{_FRACTION}|{_IN_BLANKS}|\d+(?:[.,]\d+)+|\d+|[.,]\d+)(?!\d|/\d)"
_SIGNED = rf"[-−]? ?{_NUM}"
_UNIT = r"[^\d]{0,40}?"
_BETWEEN = r"to|bis|und|and|–|—|-|−|~|\.\.\.?|…"
_TOLERANCE = re.compile(
    rf"^(?P<mid>{_NUM}) ?(?P<u1>{_UNIT}) ?\+ ?(?P<up>{_NUM}) ?(?P<u2>{_UNIT}) ?/? ?[-−] ?"
    rf"(?P<down>{_NUM}) ?(?P<u3>[^\d]*)$",
    re.ASCII,
)
_PLUS_MINUS = re.compile(
    rf"^(?P<mid>{_SIGNED}) ?(?P<u1>{_UNIT}) ?(?:±|\+/-|\+-|\+/−) ?(?P<by>{_NUM}) ?(?P<u2>[^\d]*)$",
    re.ASCII,
)
_RANGE = re.compile(
    rf"^(?P<low>{_SIGNED}) ?(?P<u1>{_UNIT}) ?(?:{_BETWEEN}) ?(?P<high>{_SIGNED}) ?(?P<u2>[^\d]*)$",
    re.ASCII,
)
_SINGLE = re.compile(rf"^(?P<low>{_SIGNED}) ?(?P<u1>[^\d]*)$", re.ASCII)
_PLAIN = re.compile(_SIGNED, re.ASCII)
_TWICE = re.compile(r"^([^()]+)\(([^()]+)\)$")
_FURTHER = re.compile(
    r"^(?P<first>[^()]{1,60}?),? ?(?:then|plus|\+|and then|dann|&) ?"
    rf"(?P<angle>{_NUM} ?(?:°|deg\w*|turns?|grad|umdrehung\w*).*)$",
    re.IGNORECASE | re.ASCII,
)
_HAND_TIGHT = re.compile(r"^(?:hand|finger)[ -]?tight\b|^handfest\b", re.IGNORECASE)
_WORDED = (
    (r"thousandths?(?: of an inch)?", "thou", 1),
    (r"hundredths? of an inch", "in", 100),
    (r"tenths? of an inch", "in", 10),
)


@dataclass(frozen=True)
class Typed:
    """Numbers as they stand, before anybody asks whether they make sense.

    ``low`` and ``high`` are in the order typed, both in ``unit``, which is None where none was
    written; ``printed`` is how they are shown.
    """

    low: float
    high: float
    unit: Unit | None
    printed: str


def gathered(text: str) -> str:
    """The text with its blanks gathered to single ones, and bounded.

    Raises :class:`QuantityError` for a text longer than a quantity is.
    """
    plain = " ".join(text.replace("\u2044", "/").split())
    if len(plain) > MAX_LENGTH:
        said = f"'{plain[:24]}…' has {len(plain)} characters; a figure has at most {MAX_LENGTH}"
        raise QuantityError(said)
    return re.sub(r"(\d?) ?([½¼¾⅛⅜⅝⅞⅓⅔])", _spelled_out, plain)


def twice(text: str) -> tuple[str, str]:
    """A figure and the same again in brackets, as manuals print them; the second may be empty."""
    match = _TWICE.match(" ".join(text.split())[: MAX_LENGTH * 2])
    if match and match[2].strip()[:1] in ("+", "±"):
        return f"{match[1]}{match[2]}", ""
    return (match[1].strip(), match[2].strip()) if match else (text, "")


def further_turn(text: str) -> tuple[str, str]:
    """A torque and the turn after it: ``20 Nm + 90°``; the second is empty where there is none."""
    plain = " ".join(text.split())
    match = _FURTHER.match(plain) if len(plain) <= MAX_LENGTH else None
    return (match["first"].strip(), match["angle"].strip()) if match else (text, "")


def scan(text: str, dimension: Dimension | None = None) -> Typed:
    """Take a typed quantity to pieces; a missing unit and a backward range are let through.

    ``dimension`` is what is expected. Raises :class:`QuantityError` for what is no quantity at
    all, has an unknown unit, or reads two ways.
    """
    plain = _without_hand_tight(gathered(text), dimension)
    plain = re.sub(r"^(?:between|zwischen|from|von) ", "", plain, flags=re.IGNORECASE)
    plain = re.sub(r"(?<![a-z/\d])(?:1/min|min ?-1|min⁻¹)", "rpm", plain, flags=re.IGNORECASE)
    plain = re.sub(r"(\d)(?:1/min|min-1|min⁻¹)", r"\1 rpm", plain, flags=re.IGNORECASE)
    plain = re.sub(r"\(([+±][^()]*)\)", r"\1", plain)
    plain = re.sub(r"^(\d+)-(\d+/\d+)(?= ?[^\d]*$)", r"\1 \2", plain)
    plain = re.sub(r"(\d[.,]\d+) ?/ ?(\d*[.,]\d+)", r"\1 to \2", plain)
    for read in (_plus_minus, _tolerance, _range, _single):
        found = read(plain, dimension)
        if found is not None:
            return found
    raise QuantityError(_no_quantity(text, plain, dimension))


def _without_hand_tight(plain: str, dimension: Dimension | None) -> str:
    """A turn after hand-tight is an angle: what is before it says only from where."""
    if not _HAND_TIGHT.match(plain):
        return plain
    angle = further_turn(plain)[1]
    if angle and dimension in (None, Dimension.ANGLE):
        return angle
    where = "the turn after seating (plug-angle)"
    raise QuantityError(
        gettext(
            "'{plain}' is a turn after hand-tight: it goes in {where}, as 1/2 turn",
            plain=plain,
            where=where,
        )
    )


def _no_quantity(text: str, plain: str, dimension: Dimension | None) -> str:
    first, angle = further_turn(plain)
    if angle:
        return (
            f"'{plain}' is a torque and a further turn: write {first} here, and {angle} as the "
            "turn that follows (plus)"
        )
    wanted = _EXAMPLE[dimension] if dimension else "22 N·m or 0.8 mm"
    shown = plain[:40] if plain else text[:40].strip()
    return f"'{shown}' is not a quantity; write a number and a unit, as {wanted}"


def _single(plain: str, dimension: Dimension | None) -> Typed | None:
    match = _SINGLE.match(plain)
    if match is None:
        return None
    symbol, factor = _unit(match["u1"], dimension)
    (value,) = _numbers([match["low"]], symbol, dimension)
    shown = _shown(match["low"], value, symbol, factor)
    return _typed(value / factor, value / factor, symbol, shown)


def _range(plain: str, dimension: Dimension | None) -> Typed | None:
    match = _RANGE.match(plain)
    if match is None:
        return None
    last, factor = _unit(match["u2"], dimension)
    first, first_factor = _unit(match["u1"], dimension) if match["u1"].strip() else (last, factor)
    if match["u1"].strip() and not match["u2"].strip():
        last, factor = first, first_factor
    if first is not None and last is not None and first.dimension is not last.dimension:
        raise QuantityError(
            gettext(
                "'{plain}' has a {first} at one end and a {last} at the other",
                plain=plain,
                first=first.dimension.words,
                last=last.dimension.words,
            )
        )
    low, high = _numbers([match["low"], match["high"]], last, dimension)
    top = _shown(match["high"], high, last, factor)
    shown = f"{_shown(match['low'], low, None, factor)} to {top}"
    if first is not None and last is not None and first is not last:
        shown = f"{_shown(match['low'], low, first, first_factor)} to {top}"
    low, high = low / first_factor, high / factor
    if first is not None and last is not None and first is not last:
        low = convert(low, first.symbol, last.symbol)
    return _typed(low, high, last, shown)


def _plus_minus(plain: str, dimension: Dimension | None) -> Typed | None:
    match = _PLUS_MINUS.match(plain)
    if match is None:
        return None
    symbol, factor = _unit(match["u2"].strip() or match["u1"].strip(), dimension)
    if match["u1"].strip() and match["u2"].strip():
        first, _ = _unit(match["u1"], dimension)
        if first is not symbol:
            raise QuantityError(gettext("'{plain}' has two units; write both in one", plain=plain))
    mid, by = _numbers([match["mid"], match["by"]], symbol, dimension)
    shown = f"{_shown(match['mid'], mid, None)} ± {_shown(match['by'], by, symbol, factor)}"
    return _typed((mid - by) / factor, (mid + by) / factor, symbol, shown)


def _tolerance(plain: str, dimension: Dimension | None) -> Typed | None:
    match = _TOLERANCE.match(plain)
    if match is None:
        return None
    named = [match[name].strip() for name in ("u1", "u2", "u3")]
    symbol, factor = _unit(next((n for n in reversed(named) if n and n != "/"), ""), dimension)
    mid, up, down = _numbers([match["mid"], match["up"], match["down"]], symbol, dimension)
    low, high = _tidy((mid - down) / factor), _tidy((mid + up) / factor)
    ending = "" if symbol is None else _ending(symbol)
    return _typed(low, high, symbol, f"{low:.6g} to {high:.6g}{ending}")


def _typed(low: float, high: float, symbol: Unit | None, shown: str) -> Typed:
    if symbol is not None and symbol.dimension not in _MAY_BE_NEGATIVE and min(low, high) < 0:
        raise QuantityError(
            gettext(
                "'{shown}' is less than nothing; a {dimension} is not",
                shown=shown,
                dimension=symbol.dimension.words,
            )
        )
    return Typed(_tidy(low), _tidy(high), symbol, shown)


def _unit(spelled: str, dimension: Dimension | None) -> tuple[Unit | None, int]:
    """The unit of a spelling, and what its numbers are divided by: hundredths of an inch."""
    plain = spelled.strip().strip(",;").strip()
    if not plain:
        return None, 1
    for pattern, symbol, factor in _WORDED:
        if re.fullmatch(pattern, plain, re.IGNORECASE):
            return unit(symbol), factor
    return unit(plain, dimension), 1


def _numbers(
    texts: list[str], symbol: Unit | None, dimension: Dimension | None
) -> tuple[float, ...]:
    """The numbers, all read the same way: 1,500 may be one and a half or fifteen hundred."""
    decimal = [_number(text, grouped=False) for text in texts]
    grouped = [_number(text, grouped=True) for text in texts]
    if all(value is None for value in grouped):
        return tuple(_known(value, text) for value, text in zip(decimal, texts, strict=True))
    if any(value is None for value in decimal):
        both = zip(grouped, decimal, texts, strict=True)
        return tuple(_known(d if g is None else g, text) for g, d, text in both)
    thousands = [d if g is None else g for g, d in zip(grouped, decimal, strict=True)]
    return _told_apart(texts, decimal, thousands, symbol, dimension)


def _known(value: float | None, text: str) -> float:
    if value is None:
        raise QuantityError(gettext("'{text}' is not a number; write it as 2.5", text=text))
    return value


def _told_apart(
    texts: list[str],
    decimal: list[float | None],
    thousands: list[float | None],
    symbol: Unit | None,
    dimension: Dimension | None,
) -> tuple[float, ...]:
    """Of two readings the one that can be; asked about where both can."""
    measured = symbol or (working_unit(dimension) if dimension else None)
    one, other = ([value for value in way if value is not None] for way in (decimal, thousands))
    if measured is None:
        raise QuantityError(_ask(texts, one, other, ""))
    if measured.dimension in _WHOLE:
        return tuple(other)
    fits = [_possible(way, measured) for way in (one, other)]
    if all(fits):
        raise QuantityError(_ask(texts, one, other, f" {measured.symbol}"))
    return tuple(other if fits[1] else one)


def _ask(texts: list[str], one: list[float], other: list[float], ending: str) -> str:
    at = next(i for i, pair in enumerate(zip(one, other, strict=True)) if len(set(pair)) > 1)
    both = f"{one[at]:g}{ending} or {other[at]:g}{ending}"
    return f"'{texts[at]}' may be {both}; write it as one of these"


def _possible(values: list[float], measured: Unit) -> bool:
    least, most = _POSSIBLE[measured.dimension]
    base = working_unit(measured.dimension).symbol
    return all(least <= convert(value, measured.symbol, base) <= most for value in values)


def _number(text: str, *, grouped: bool) -> float | None:
    """A number; with ``grouped`` its points or commas mark thousands. None where it is not so."""
    plain = text.replace("−", "-").replace(" -", "-").strip()
    sign = -1.0 if plain.startswith("-") else 1.0
    plain = plain.lstrip("- ")
    if sum(character.isdigit() for character in plain) > MAX_DIGITS:
        raise QuantityError(gettext("'{value}…' has too many digits for a figure", value=text[:20]))
    if "/" in plain:
        return None if grouped else sign * _fraction(plain)
    if " " in plain:
        return None if grouped else sign * float(plain.replace(" ", ""))
    if grouped:
        return _in_groups(plain, sign)
    marks = [character for character in plain if character in ".,"]
    if len(marks) > 1 and len(set(marks)) == 1:
        return None
    if len(marks) > 1:
        whole, _, part = plain.rpartition(marks[-1])
        groups = whole.split(marks[0])
        right = all(len(group) == 3 for group in groups[1:]) and marks[-1] not in whole
        return sign * float(f"{''.join(groups)}.{part}") if right else None
    return sign * float(plain.replace(",", "."))


def _in_groups(plain: str, sign: float) -> float | None:
    """30,000 or 1.234.567: groups of three behind one to three digits."""
    match = re.fullmatch(r"([1-9]\d{0,2})(?:,\d{3})+|([1-9]\d{0,2})(?:\.\d{3})+", plain)
    return sign * float(re.sub(r"[.,]", "", plain)) if match else None


def _fraction(plain: str) -> float:
    whole = plain.replace("-", " ").split()
    try:
        return float(sum(Fraction(part) for part in whole))
    except ZeroDivisionError as error:
        raise QuantityError(gettext("'{plain}' divides by nothing", plain=plain)) from error


def read_number(text: str) -> float:
    """Read a number without a unit, as people type it: ``0,8``, ``30 000``, ``1 1/2``, ``½``.

    Raises :class:`QuantityError` for anything else: ``inf``, ``1_000``, digits of other scripts,
    and ``1,500``, which reads two ways.
    """
    plain = gathered(text)
    if not plain.isascii() and not re.fullmatch(r"[\x00-\x7f−]*", plain):
        raise QuantityError(gettext("'{value}' is not a number; write it as 2.5", value=text[:40]))
    if not _PLAIN.fullmatch(plain):
        raise QuantityError(gettext("'{value}' is not a number; write it as 2.5", value=text[:40]))
    return _numbers([plain], None, None)[0]


def _shown(number: str, value: float, symbol: Unit | None, factor: int = 1) -> str:
    """A number as it was printed; one in thousands with blanks, so that it reads one way."""
    if factor != 1:
        return f"{_tidy(value / factor):g}{_ending(symbol)}"
    plain = _lead(number)
    if re.search(r"[.,]", number) and abs(value) >= 1000:
        plain = f"{value:,.0f}".replace(",", " ") if value % 1 == 0 else f"{value:g}"
    return f"{plain}{_ending(symbol)}"


def _ending(symbol: Unit | None) -> str:
    if symbol is None:
        return ""
    return symbol.symbol if symbol.symbol == "°" else f" {symbol.symbol}"


def _lead(number: str) -> str:
    plain = number.strip()
    if re.fullmatch(r"[-−]?\d*,\d+", plain):
        plain = plain.replace(",", ".")
    return f"0{plain}" if plain.startswith(".") else plain


def _spelled_out(match: "re.Match[str]") -> str:
    whole = f"{match[1]} " if match[1] else ""
    return whole + VULGAR[match[2]]


def _tidy(value: float) -> float:
    return float(f"{value:.12g}")


__all__ = ["UNITS", "Typed", "further_turn", "gathered", "read_number", "scan", "twice", "units_of"]
