"""Fault codes as classes of complaint, in our own words; makers' own codes stay text.

A code has a letter, a digit and three more. What generic ones of ignition, mixture, signals and
supply mean is in :data:`CLASSES`; which cylinder a coil's letter is says the sheet. It may also
explain the maker's own codes, of whatever form; one that it gives a class is weighed like a
generic one.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from difflib import get_close_matches
from enum import StrEnum

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.glossary import word as in_words
from eldrim.core.engine.model import Engine
from eldrim.core.words.messages import gettext

MAX_CODES = 24
# What an adapter says where there is none.
NOTHING = ("", "NONE")
_FORM = re.compile(r"[PBCU][0-3][0-9A-F]{3}")
LETTERS = "ABCDEFGHIJKL"


class CodeClass(StrEnum):
    """What a code is about."""

    SUPPLY = "supply"
    CRANK = "crank"
    COIL = "coil"
    INJECTOR = "injector"
    MISFIRE = "misfire"
    RANDOM = "random"
    LEAN = "lean"
    RICH = "rich"
    CAM = "cam"
    KNOCK = "knock"
    BUS = "bus"
    OWN = "own"


@dataclass(frozen=True)
class Code:
    """A code that was read: its class, and the cylinder or bank it names (0: none).

    ``means`` is what the sheet says of it, where it is the maker's own.
    """

    text: str
    kind: CodeClass
    cylinder: int = 0
    bank: str = ""
    means: str = ""


C = CodeClass
# From, to, class, and what the last place counts: a cylinder, a coil's letter, a bank, nothing.
CLASSES: tuple[tuple[str, str, CodeClass, str], ...] = (
    ("P0300", "P0300", C.RANDOM, ""),
    ("P0301", "P0312", C.MISFIRE, "cylinder"),
    ("P0350", "P0350", C.COIL, ""),
    ("P0351", "P0362", C.COIL, "letter"),
    ("P0200", "P0200", C.INJECTOR, ""),
    ("P0201", "P0212", C.INJECTOR, "cylinder"),
    ("P0171", "P0171", C.LEAN, "bank"),
    ("P0172", "P0172", C.RICH, "bank"),
    ("P0174", "P0174", C.LEAN, "second"),
    ("P0175", "P0175", C.RICH, "second"),
    ("P0010", "P0025", C.CAM, ""),
    ("P0340", "P0349", C.CAM, ""),
    ("P0320", "P0323", C.CRANK, ""),
    ("P0335", "P0339", C.CRANK, ""),
    ("P0325", "P0334", C.KNOCK, ""),
    ("P0560", "P0563", C.SUPPLY, ""),
    ("U0000", "U3FFF", C.BUS, ""),
)


def codes_in(text: str) -> tuple[str, ...]:
    """The generic codes that stand in a text, as they are read; all else in it is passed over."""
    return tuple(dict.fromkeys(_FORM.findall(text.upper())))


def read_codes(engine: Engine, text: str) -> tuple[Code, ...]:
    """Read codes apart by commas or blanks. A code said twice counts once.

    Raises :class:`ProblemsError` with every one that is no code, or names what the engine lacks.
    """
    said = re.split(r"[\s,;]+", text.upper()[:400])
    words = [word for word in (one.strip(".:()") for one in said) if word not in NOTHING]
    if len(words) > MAX_CODES:
        raise ProblemsError(
            [
                Problem(
                    "codes",
                    gettext("are {words}", words=len(words)),
                    gettext("at most {max_codes}", max_codes=MAX_CODES),
                )
            ]
        )
    problems: list[Problem] = []
    found: dict[str, Code] = {}
    for word in words:
        try:
            found.setdefault(word, _code(engine, word))
        except ProblemsError as error:
            problems += error.problems
    if problems:
        raise ProblemsError(problems)
    return tuple(found.values())


def _code(engine: Engine, word: str) -> Code:
    if own := engine.own_codes.get(word):
        kind, bank = CodeClass(own.about), own.bank or ""
        return Code(word, kind, own.cylinder or 0, bank, in_words(engine, own.means))
    if not _FORM.fullmatch(word):
        near = f"P{word[-4:]}"
        fix = gettext("a code is a letter P, B, C or U and four places, as P0305")
        if meant := get_close_matches(word, engine.own_codes, 1):
            fix = gettext("did you mean {meant}, one of the maker's own?", meant=meant[0])
        elif word[-4:].isdigit() and len(word) < 7 and _FORM.fullmatch(near):
            fix = gettext("did you mean {near}?", near=near)
        raise ProblemsError([Problem("codes", gettext("'{word}' is no code", word=word[:20]), fix)])
    for first, last, kind, counts in CLASSES:
        if first <= word <= last:
            return _of_class(engine, word, kind, counts)
    return Code(word, C.OWN)


def _of_class(engine: Engine, word: str, kind: CodeClass, counts: str) -> Code:
    if counts == "cylinder":
        number = int(word[3:])
        return Code(word, kind, _known(engine, word, number))
    if counts == "letter":
        letter = LETTERS[int(word[3:]) - 51]
        letters = engine.ignition.coil_letters
        number = letters.get(letter, 0) if letters else LETTERS.index(letter) + 1
        return Code(word, kind, _known(engine, word, number, letter))
    if counts in ("bank", "second"):
        return Code(word, kind, bank=_bank(engine, second=counts == "second"))
    return Code(word, kind)


def _known(engine: Engine, word: str, number: int, coil: str = "") -> int:
    if number not in engine.cylinders:
        have = ", ".join(map(str, sorted(engine.cylinders)))
        said = (
            gettext("{word} names coil {coil}, which it lacks", word=word, coil=coil)
            if coil
            else gettext("{word} names cylinder {number}, which it lacks", word=word, number=number)
        )
        raise ProblemsError(
            [Problem("codes", said, gettext("the engine has cylinders {have}", have=have))]
        )
    return number


def _bank(engine: Engine, *, second: bool) -> str:
    """The key of the bank of cylinder one, or of the other; empty where there is no such."""
    own = engine.cylinders[min(engine.cylinders)].bank
    others = [key for key in engine.banks if key != own]
    if second:
        return others[0] if others else ""
    return own if others else ""


# Codes that say by themselves what is complained of.
TELLING = (C.SUPPLY, C.CRANK, C.COIL, C.INJECTOR, C.MISFIRE, C.RANDOM, C.LEAN, C.RICH)


@dataclass(frozen=True)
class Consequence:
    """A code that may follow from the leading one, until proven otherwise; and why it may."""

    code: Code
    why: str


# The class that leads where several were read: what causes the others first.
LEADS = (
    C.SUPPLY,
    C.CRANK,
    C.COIL,
    C.INJECTOR,
    C.MISFIRE,
    C.LEAN,
    C.RICH,
    C.RANDOM,
    C.CAM,
    C.KNOCK,
    C.BUS,
    C.OWN,
)
# What points at a part of the cylinder whose misfire leads.
POINTS = (C.COIL, C.INJECTOR)
# What may follow from what.
FOLLOWS: dict[CodeClass, tuple[CodeClass, ...]] = {
    C.SUPPLY: (C.CRANK, C.COIL, C.INJECTOR, C.MISFIRE, C.RANDOM, C.CAM, C.KNOCK, C.BUS, C.LEAN),
    C.CRANK: (C.MISFIRE, C.RANDOM, C.CAM),
    C.COIL: (C.RANDOM, C.LEAN, C.RICH, C.CAM, C.KNOCK),
    C.INJECTOR: (C.RANDOM, C.LEAN, C.RICH, C.KNOCK),
    C.MISFIRE: (C.RANDOM, C.LEAN, C.RICH, C.CAM, C.KNOCK),
    C.LEAN: (C.RANDOM, C.MISFIRE, C.KNOCK),
    C.RICH: (C.RANDOM, C.MISFIRE),
    C.RANDOM: (C.CAM, C.KNOCK, C.LEAN, C.RICH),
}


def leading(codes: tuple[Code, ...]) -> Code | None:
    """The code that leads: of the class that causes the others, the first that was read.

    Where the coil or injector of a cylinder is named beside its misfire, the misfire leads and
    they point at the part.
    """
    if not codes:
        return None
    first = min(codes, key=lambda code: (LEADS.index(code.kind), codes.index(code)))
    if first.kind in POINTS and first.cylinder:
        same = [c for c in codes if c.kind is C.MISFIRE and c.cylinder == first.cylinder]
        return same[0] if same else first
    return first


def pointing(codes: tuple[Code, ...], first: Code) -> tuple[Code, ...]:
    """The codes that point at a part of the cylinder whose misfire leads."""
    if first.kind is not C.MISFIRE:
        return ()
    return tuple(c for c in codes if c.kind in POINTS and c.cylinder == first.cylinder)


def consequences(codes: tuple[Code, ...], first: Code) -> Iterator[Consequence]:
    """The codes that may follow from the leading one."""
    for code in codes:
        if code is not first and code.kind in FOLLOWS.get(first.kind, ()):
            yield Consequence(code, f"follows.{first.kind}")
