"""A part of the sheet by its key: found, and put back changed."""

from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Part
from eldrim.core.errors import EngineError, Problem
from eldrim.core.messages import gettext

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
