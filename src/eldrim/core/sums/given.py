"""What a person typed into a quick sum, read field by field; every fault names its field."""

from collections.abc import Mapping

from eldrim.core.errors import Problem, ProblemsError, QuantityError
from eldrim.core.quantity import Dimension, Quantity, convert, parse, scan, working_unit


class Given:
    """The fields of one sum. What is wrong is gathered and raised together by :meth:`settle`."""

    def __init__(self, fields: Mapping[str, str]) -> None:
        """Keep what was typed."""
        self.fields = {key: field.strip() for key, field in fields.items()}
        self.problems: list[Problem] = []

    def text(self, name: str, default: str = "") -> str:
        """A field as typed."""
        return self.fields.get(name) or default

    def quantity(self, name: str, dimension: Dimension, default: str = "") -> Quantity:
        """A quantity; a bare number is in the working unit of ``dimension``."""
        typed = self.text(name, default)
        base = working_unit(dimension).symbol
        try:
            if scan(typed).unit is None:
                typed = f"{typed} {base}"
            return parse(typed, dimension)
        except QuantityError as error:
            self.problems.append(Problem(name, str(error), f"write it with a unit, as 22 {base}"))
            return parse(f"1 {base}")

    def number(self, name: str, default: str = "", least: float | None = None) -> float:
        """A plain number, decimal point or comma."""
        typed = self.text(name, default)
        try:
            value = float(typed.replace(",", ".").removesuffix("%").strip())
        except ValueError:
            self.problems.append(Problem(name, f"'{typed}' is not a number", "write it as 4.5"))
            return 1.0
        if least is not None and value < least:
            self.problems.append(Problem(name, f"{typed} is too small", f"at least {least:g}"))
            return least
        return value

    def choice(self, name: str, choices: tuple[str, ...]) -> str:
        """One of a few words; the first where nothing was said."""
        typed = self.text(name, choices[0])
        if typed not in choices:
            known = ", ".join(choices)
            self.problems.append(Problem(name, f"'{typed}' is not one of these", f"use {known}"))
            return choices[0]
        return typed

    def lengths(self, name: str) -> tuple[float, ...]:
        """Several lengths in mm, apart by blanks or semicolons."""
        words = self.text(name).replace(";", " ").split()
        values = []
        for word in words:
            try:
                typed = scan(word)
                unit = typed.unit.symbol if typed.unit else "mm"
                values.append(convert(typed.low, unit, "mm"))
            except QuantityError:
                said = f"'{word}' is not a length"
                self.problems.append(Problem(name, said, "write mm apart by blanks, as 0.82 0.76"))
        return tuple(values)

    def raise_problems(self) -> None:
        """Raise :class:`ProblemsError` when anything was not understood."""
        if self.problems:
            raise ProblemsError(self.problems)
