"""What a person typed into a quick sum, read field by field; every fault names its field."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import (
    Quantity,
    convert,
    format_number,
    make,
    parse,
    read_number,
    scan,
    unit,
    working_unit,
)
from eldrim.core.figures.bands import Band
from eldrim.core.figures.slips import Held, examine
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.sums.field import Field
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words.messages import either, gettext

MAX_TYPED = 400


@dataclass(frozen=True)
class Shop:
    """Whose habits and tools a sum goes by."""

    rules: HouseRules = DEFAULT_RULES
    crib: Crib = STANDARD_CRIB


class Given:
    """The fields of one sum, read as they are asked; what is wrong is raised together."""

    def __init__(self, asked: tuple[Field, ...], typed: Mapping[str, str], shop: Shop) -> None:
        """Read every field; raises :class:`ProblemsError` naming each that is not understood."""
        self.shop = shop
        self._fields = {field.name: field for field in asked}
        self._typed = {name: " ".join(str(text).split()) for name, text in typed.items()}
        self._quantities: dict[str, tuple[Quantity, ...]] = {}
        self._numbers: dict[str, float] = {}
        problems = [problem for field in asked for problem in self._read(field)]
        if problems:
            raise ProblemsError(problems)

    def blank(self, name: str) -> bool:
        """Whether a field that may be left blank is."""
        return not self._typed.get(name)

    def quantity(self, name: str) -> Quantity:
        """The quantity of a field."""
        return self._quantities[name][0]

    def many(self, name: str) -> tuple[float, ...]:
        """Several quantities of a field, in the working unit."""
        return tuple(value.mid for value in self._quantities.get(name, ()))

    def number(self, name: str) -> float:
        """The plain number of a field, in its unit."""
        return self._numbers[name]

    def choice(self, name: str) -> str:
        """The word chosen."""
        return self._typed[name]

    def refuse(self, name: str, said: str, fix: str) -> ProblemsError:
        """A fault that only the sum itself can find."""
        return ProblemsError([Problem(name, said, fix)])

    def _read(self, field: Field) -> list[Problem]:
        typed = self._typed.get(field.name, "")
        if len(typed) > MAX_TYPED:
            said = gettext("{typed} characters are too many", typed=len(typed))
            return [
                Problem(field.name, said, gettext("write it as {example}", example=field.example))
            ]
        if not typed:
            if field.optional:
                return []
            fix = gettext("fill it in, as {example}", example=field.example or "the label says")
            return [
                Problem(
                    field.name, gettext("{label}: nothing is filled in", label=field.label), fix
                )
            ]
        try:
            self._take(field, typed)
        except QuantityError as error:
            return [
                Problem(
                    field.name, str(error), gettext("write it as {example}", example=field.example)
                )
            ]
        except _Implausible as error:
            return [Problem(field.name, error.said, error.fix)]
        return []

    def _take(self, field: Field, typed: str) -> None:
        if field.choices:
            plain = typed.lower().removesuffix(field.unit.lower()).strip()
            if plain in field.choices:
                self._typed[field.name] = plain
            elif typed not in field.choices:
                known = ", ".join(field.choices)
                raise _Implausible(
                    gettext("'{typed}' is not one of these", typed=typed),
                    gettext("use {known}", known=known),
                )
        elif field.dimension is not None:
            words = _apart(typed) if field.many else [typed]
            usual = self._unit_of(field)
            self._quantities[field.name] = tuple(_quantity(field, word, usual) for word in words)
        else:
            self._numbers[field.name] = _number(field, typed)

    def _unit_of(self, field: Field) -> str:
        """The unit of a bare number: the field's own, or the one chosen beside it."""
        chosen = self._typed.get(field.unit_of, "")
        beside = self._fields.get(field.unit_of)
        return chosen if beside is not None and chosen in beside.choices else field.unit


class _Implausible(Exception):  # noqa: N818 - a step inside reading a field, never seen outside
    """A value that cannot be meant."""

    def __init__(self, said: str, fix: str) -> None:
        """Say what is wrong and what may have been meant."""
        self.said, self.fix = said, fix
        super().__init__(said)


def _apart(typed: str) -> list[str]:
    """Several values: ``0.82 0.76``, ``34 thou; 36 thou``, ``11 10.5 bar``."""
    words = [word.strip() for word in re.split(r"[;→]|, ", typed) if word.strip()]
    if len(words) > 1:
        return words
    found = re.findall(r"[-−]?[\d.,][\d.,/]*(?: ?[^\d\s;,.−-][^\d\s;]*)?", typed)
    ending = re.search(r"[^\d\s.,/]+$", found[-1]) if found else None
    bare = [word for word in found[:-1] if not re.search(r"[^\d\s.,/−-]", word)]
    if ending and len(bare) == len(found) - 1:
        return [*(f"{word} {ending[0]}" for word in bare), found[-1]]
    return found or [typed]


def _quantity(field: Field, typed: str, unit_of_number: str) -> Quantity:
    """One quantity, plausible for its field; a bare number is in the unit named."""
    dimension = field.dimension
    assert dimension is not None
    usual = unit_of_number or working_unit(dimension).symbol
    if scan(typed, dimension).unit is None:
        typed = f"{typed} {usual}"
    value = parse(typed, dimension)
    if field.most <= field.least:
        return value
    band = Band(field.label.lower(), dimension, field.least, field.most, field.least, field.most)
    held = examine(typed, band, dimension)
    if isinstance(held, Held) and not band.holds(value.low, value.high):
        readings = either(f"{r.text} ({r.how})" for r in held.readings[:3])
        low, high = (make(end, working_unit(dimension).symbol) for end in (field.least, field.most))
        span = gettext(
            "{least} to {most}", least=low.printed_in(usual), most=high.printed_in(usual)
        )
        fix = (
            gettext("did you mean {readings}?", readings=readings)
            if readings
            else gettext("measure and read it again: {span}", span=span)
        )
        raise _Implausible(
            gettext(
                "{label}: {value} cannot be; {span} can", label=field.label, value=value, span=span
            ),
            fix,
        )
    return value


def _number(field: Field, typed: str) -> float:
    """A plain number; its own unit may stand behind it."""
    plain = typed.removesuffix(field.unit).strip() if field.unit else typed
    try:
        value = read_number(plain)
    except QuantityError:
        value = _with_unit(field, typed)
    if not field.least <= value <= field.most:
        span = gettext(
            "{least} to {most} {unit}",
            least=format_number(field.least, 3),
            most=format_number(field.most, 3),
            unit=field.unit,
        )
        said = gettext(
            "{label}: {typed} cannot be; {span} can",
            label=field.label,
            typed=typed,
            span=span.strip(),
        )
        raise _Implausible(said, gettext("write it as {example}", example=field.example))
    return value


def _with_unit(field: Field, typed: str) -> float:
    """A number typed with another unit of the same kind, in the field's unit."""
    value = parse(typed)
    if not field.unit or unit(field.unit).dimension is not value.dimension or value.is_range:
        raise QuantityError(gettext("'{typed}' is not a plain number", typed=typed[:40]))
    return convert(value.mid, working_unit(value.dimension).symbol, field.unit)
