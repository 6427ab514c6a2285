"""A part of the sheet by its key: found, and put back changed."""

from collections.abc import Collection

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Part, Way
from eldrim.core.words.messages import gettext

# The plan's grid, in mm.
GRID = 5.0


def put(engine: Engine, key: str, part: Part) -> Engine:
    """Put a part in its place on the sheet, new or changed; its order among the parts stays."""
    return engine.model_copy(update={"parts": {**engine.parts, key: part}})


def part_of(engine: Engine, key: str) -> Part:
    """A part by key; raises :class:`EngineError` when it has gone."""
    if key not in engine.parts:
        raise EngineError(
            [Problem(f"parts.{key}", gettext("is no longer there"), gettext("load the page again"))]
        )
    return engine.parts[key]


def snap(value: float) -> float:
    """A place on the plan's grid."""
    return GRID * round(value / GRID)


def part_called(engine: Engine, said: str) -> str | None:
    """The key of a part said by key or by name; None where there is none of it."""
    wanted = said.casefold()
    named = ((key, part.name.casefold()) for key, part in engine.parts.items())
    return next((key for key, name in named if wanted in (key, name)), None)


def within(way: Way, joints: Collection[str]) -> Way:
    """A way that lets go none but these joints."""
    if way.releases is None:
        return way
    return way.model_copy(update={"releases": tuple(one for one in way.releases if one in joints)})
