"""The words that scripts say, and what a text is made of."""

import json
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import eldrim

PACKAGE = Path(eldrim.__path__[0])
STATIC = PACKAGE / "web" / "static"
_IN_SCRIPT = re.compile(r'\btranslated\(("(?:[^"\\]|\\.)*")')


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
def every_script_text() -> tuple[str, ...]:
    """Every text that scripts say, for the page to bring along."""
    scripts = (path for path in sorted(STATIC.rglob("*.js")) if "vendor" not in path.parts)
    return tuple(sorted({text for path in scripts for text in of_script(path.read_text())}))
