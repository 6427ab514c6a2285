"""What some cylinders share, in one line: ``Brake vacuum take-off: air 5; Charge inlet: oil 4``."""

import re
from typing import Any, get_args

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import Engine, Shared
from eldrim.core.words.messages import gettext

BRINGS: tuple[str, ...] = get_args(Shared.model_fields["brings"].annotation)
MAX_TEXT = 1_000
_FORM = re.compile(r"(?P<name>[^:]{1,80}):\s*(?P<brings>\w+)\s+(?P<numbers>[\d\s,]+)")
FIX = f"write it as Brake vacuum: air 5, with one of {', '.join(BRINGS)}"


def shared_line(engine: Engine) -> str:
    """What the sheet says is shared, as it is typed."""
    return "; ".join(
        f"{one.name}: {one.brings} {' '.join(map(str, one.cylinders))}"
        for one in engine.shared.values()
    )


def read_shared(engine: Engine, line: str) -> dict[str, Any]:
    """The ``shared`` of a sheet from such a line; one called as before keeps its key.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    if len(line) > MAX_TEXT:
        said, fix = (
            gettext("holds {line} characters", line=len(line)),
            gettext("at most {max_text}", max_text=MAX_TEXT),
        )
        raise EngineError([Problem("shared", said, fix)])
    keys = {one.name: key for key, one in engine.shared.items()}
    found: dict[str, Any] = {}
    problems = []
    for clause in filter(None, (said.strip() for said in line.split(";"))):
        fits = _FORM.fullmatch(clause)
        if fits is None or fits["brings"].lower() not in BRINGS:
            problems.append(
                Problem("shared", gettext("'{clause}' is not understood", clause=clause[:80]), FIX)
            )
            continue
        name = " ".join(fits["name"].split())
        numbers = [int(number) for number in re.findall(r"\d+", fits["numbers"])]
        lacking = sorted(set(numbers) - set(engine.cylinders))
        if lacking:
            said = gettext("cylinder {lacking} does not exist", lacking=lacking[0])
            problems.append(
                Problem(
                    "shared",
                    said,
                    gettext("use some of {cylinders}", cylinders=sorted(engine.cylinders)),
                )
            )
            continue
        plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40]
        key = keys.get(name) or f"from-{plain}".rstrip("-")
        found[key] = {"name": name, "brings": fits["brings"].lower(), "cylinders": numbers}
    if problems:
        raise EngineError(problems)
    return found
