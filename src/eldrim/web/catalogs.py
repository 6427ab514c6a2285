"""The catalogs of pages' words, one a language, kept as ``locale/*.po``."""

import json
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import read_po

import eldrim
from eldrim.core import messages

PACKAGE = Path(eldrim.__path__[0])
FOLDER = PACKAGE / "locale"
STATIC = PACKAGE / "web" / "static"
_IN_SCRIPT = re.compile(r'\btranslated\(("(?:[^"\\]|\\.)*")')


def read(language: str) -> Catalog:
    """The catalog of a language as it is kept."""
    with (FOLDER / f"{language}.po").open("rb") as file:
        return read_po(file, locale=language)


def translations(language: str) -> dict[str, str | tuple[str, ...]]:
    """What is translated, by the text; by the form for one where there are two."""
    made: dict[str, str | tuple[str, ...]] = {}
    for message in read(language):
        if not message.id or not message.string:
            continue
        if isinstance(message.id, tuple | list):
            if all(message.string):
                made[message.id[0]] = tuple(message.string)
        else:
            made[message.id] = str(message.string)
    return made


@cache
def install() -> None:
    """Make every catalog known, once a process."""
    for path in FOLDER.glob("*.po"):
        messages.install(path.stem, translations(path.stem))


def slots(text: str) -> set[str]:
    """The names of what is filled in."""
    return set(re.findall(r"(?<!{){(\w+)", text))


def tags(text: str) -> list[str]:
    """The tags inside a message."""
    return re.findall(r"</?[a-z]+\d*>", text)


def of_script(source: str) -> Iterator[str]:
    """The texts that a script says."""
    yield from (json.loads(one) for one in _IN_SCRIPT.findall(source))


@cache
def script_words() -> tuple[str, ...]:
    """Every text that scripts say, for the page to bring along."""
    scripts = (path for path in sorted(STATIC.rglob("*.js")) if "vendor" not in path.parts)
    return tuple(sorted({text for path in scripts for text in of_script(path.read_text())}))
