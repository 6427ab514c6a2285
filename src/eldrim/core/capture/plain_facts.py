"""Lines of a sheet as they are typed on the board: their clauses, numbers, pairs and letters."""

import re

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.shorthand import apart
from eldrim.core.words.messages import gettext

MAX_TEXT = 2_000
_NUMBER = re.compile(r"\d+(?:[.]\d+)?")
_LETTER = re.compile(r"([A-Za-z])\s*=\s*(\d{1,2})")


def clauses(field: str, line: str, most: int = MAX_TEXT) -> list[str]:
    """The clauses of a line, apart by semicolons. Raises :class:`EngineError` for one too long."""
    if len(line) > most:
        said = gettext("holds {line} characters", line=len(line))
        raise EngineError([Problem(field, said, gettext("at most {max_text}", max_text=most))])
    return [" ".join(clause.split()) for clause in apart(line, ";")]


def numbers_line(numbers: tuple[float, ...]) -> str:
    """Places or sizes on the plan: ``820 560``."""
    return " ".join(f"{number:g}" for number in numbers)


def read_numbers(field: str, line: str, count: int) -> tuple[float, ...]:
    """So many numbers in mm, apart by blanks, commas or ×."""
    found = _NUMBER.findall(line)
    if len(found) != count or _NUMBER.sub("", line).strip(" ,×xm"):
        said = gettext("'{line}' is not {count} numbers", line=line[:60], count=count)
        example = numbers_line((820.0, 560.0, 400.0, 200.0)[:count])
        raise EngineError(
            [Problem(field, said, gettext("write them as {example}", example=example))]
        )
    return tuple(float(number) for number in found)


def letters_line(letters: dict[str, int]) -> str:
    """Which letter of a code is which cylinder: ``A=1, B=3``."""
    return ", ".join(f"{letter}={cylinder}" for letter, cylinder in letters.items())


def read_letters(line: str) -> dict[str, int]:
    """The letters of coils from such a line; none where nothing is said."""
    found: dict[str, int] = {}
    for word in filter(None, (one.strip() for one in line.split(","))):
        fits = _LETTER.fullmatch(word)
        if fits is None:
            said = gettext("'{clause}' is not understood", clause=word[:60])
            raise EngineError([Problem("coil_letters", said, gettext("write it as A=1, B=3"))])
        found[fits[1].upper()] = int(fits[2])
    return found


def pairs_line(pairs: tuple[tuple[int, int], ...]) -> str:
    """Which cylinders spark together: ``1 4, 2 3``."""
    return ", ".join(f"{one} {other}" for one, other in pairs)


def read_pairs(line: str) -> tuple[tuple[int, int], ...]:
    """The pairs that spark together from such a line; none where nothing is said."""
    found = []
    for word in filter(None, (one.strip() for one in line.split(","))):
        both = re.fullmatch(r"(\d{1,2})(?:\s+|\s*\+\s*)(\d{1,2})", word)
        if both is None:
            said = gettext("'{clause}' is not understood", clause=word[:60])
            raise EngineError([Problem("waste_spark_pairs", said, gettext("write it as 1 4, 2 3"))])
        found.append((int(both[1]), int(both[2])))
    return tuple(found)
