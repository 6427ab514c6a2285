"""Outlines of any shape, and ways of looms and hoses: corners moved, put on, taken off."""

from collections.abc import Sequence
from itertools import combinations
from math import dist

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.part_access import part_of, put, snap
from eldrim.core.engine import Engine
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.parts import LINE_KINDS, Part
from eldrim.core.words.messages import gettext

Point = tuple[float, float]
# A corner that comes so near the line of a neighbour lies on it.
SNAP_MM = 8.0
# Corners of other parts within so far are neighbours too.
BESIDE_MM = 120.0
MOST_CORNERS = 40


def fewest_corners(part: Part) -> int:
    """A way has two ends, an area three corners."""
    return 2 if part.kind in LINE_KINDS else 3


def move_corner(engine: Engine, key: str, place: int, by: Point) -> Engine:
    """Move one corner, in steps of the grid, onto the line of a neighbour where it comes near."""
    part = part_of(engine, key)
    x, y = _corner(part, place)
    at = _on_plan(engine, (snap(x + by[0]), snap(y + by[1])))
    return _shaped(engine, key, place, _aligned(engine, key, place, at))


def add_corner(engine: Engine, key: str, place: int, at: Point) -> Engine:
    """Put a corner on between corner ``place``, counted from nothing, and the next one."""
    part = part_of(engine, key)
    _corner(part, place)
    if len(part.outline) >= MOST_CORNERS:
        most = gettext("at most {count} corners", count=MOST_CORNERS)
        raise _refused(key, gettext("has many corners"), most)
    new = _on_plan(engine, (snap(at[0]), snap(at[1])))
    outline = (*part.outline[: place + 1], new, *part.outline[place + 1 :])
    return _with(engine, key, outline)


def drop_corner(engine: Engine, key: str, place: int) -> Engine:
    """Take a corner off."""
    part = part_of(engine, key)
    _corner(part, place)
    if len(part.outline) <= fewest_corners(part):
        raise _refused(key, gettext("has no corner to spare"), gettext("take the part off instead"))
    return _with(engine, key, (*part.outline[:place], *part.outline[place + 1 :]))


def mirrored(engine: Engine, key: str) -> tuple[Engine, str]:
    """A copy of a part with its joints and ways on the other side of the block, and its key.

    What it stands in the way of there is asked by the board, as of any part newly put on.
    """
    part = part_of(engine, key)
    x, y, width, height = engine.layout.block
    across = engine.layout.mounting == "across"
    middle = y + height / 2 if across else x + width / 2

    def other(point: Point) -> Point:
        turned = (point[0], 2 * middle - point[1]) if across else (2 * middle - point[0], point[1])
        return _on_plan(engine, turned)

    name = gettext("{part}, other side", part=part.name)
    # The other way round, so that its corners still count the same way about.
    outline = tuple(reversed([other(point) for point in part.outline]))
    joints = {
        joint: stated.model_copy(update={"at": tuple(other(place) for place in stated.at)})
        for joint, stated in part.joints.items()
    }
    changes = {"name": name, "outline": outline, "joints": joints, "refit_after": ()}
    new = free_key(name, tuple(engine.parts))
    return put(engine, new, part.model_copy(update={**changes, "pushes_onto": ()})), new


def crosses_itself(outline: Sequence[Point]) -> bool:
    """Whether two sides of a closed outline that do not meet at a corner cross."""
    sides = list(zip(outline, [*outline[1:], outline[0]], strict=True))
    pairs = combinations(range(len(sides)), 2)
    apart = ((i, j) for i, j in pairs if j - i > 1 and (i, j) != (0, len(sides) - 1))
    return any(_cross(*sides[i], *sides[j]) for i, j in apart)


def _cross(a: Point, b: Point, c: Point, d: Point) -> bool:
    return _side(a, b, c) * _side(a, b, d) < 0 and _side(c, d, a) * _side(c, d, b) < 0


def _side(a: Point, b: Point, point: Point) -> float:
    """On which side of a line a point lies, by its sign."""
    return (b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0])


def _corner(part: Part, place: int) -> Point:
    if not 0 <= place < len(part.outline):
        fix = gettext("load the page again")
        raise _refused(part.name, gettext("has no such corner"), fix)
    return part.outline[place]


def _aligned(engine: Engine, key: str, place: int, at: Point) -> Point:
    """On the line of a neighbour along either axis, where it comes near: of the corners beside it,
    else of those of other parts thereabouts.
    """
    others = [
        corner
        for other, part in engine.parts.items()
        if other != key and part.kind not in LINE_KINDS
        for corner in part.outline
        if dist(corner, at) <= BESIDE_MM
    ]
    beside = _beside(part_of(engine, key), place)
    return (_on_line(at[0], beside, others, 0), _on_line(at[1], beside, others, 1))


def _on_line(at: float, beside: Sequence[Point], others: Sequence[Point], axis: int) -> float:
    for near in (beside, others):
        lines = [one[axis] for one in near if abs(one[axis] - at) <= SNAP_MM]
        if lines:
            return min(lines, key=lambda line: abs(line - at))
    return at


def _beside(part: Part, place: int) -> list[Point]:
    """The corners before and after one."""
    last = len(part.outline) - 1
    beside = [place - 1, place + 1]
    if part.kind not in LINE_KINDS:
        beside = [(one + last + 1) % (last + 1) for one in beside]
    return [part.outline[one] for one in beside if 0 <= one <= last]


def _on_plan(engine: Engine, at: Point) -> Point:
    width, height = engine.layout.plan
    return (min(max(at[0], 0.0), width), min(max(at[1], 0.0), height))


def _shaped(engine: Engine, key: str, place: int, at: Point) -> Engine:
    outline = part_of(engine, key).outline
    return _with(engine, key, (*outline[:place], at, *outline[place + 1 :]))


def _with(engine: Engine, key: str, outline: tuple[Point, ...]) -> Engine:
    part = part_of(engine, key)
    if part.kind not in LINE_KINDS and crosses_itself(outline):
        fix = gettext("move the corner so that no side crosses another")
        raise _refused(key, gettext("would cross itself"), fix)
    return put(engine, key, part.model_copy(update={"outline": outline}))


def _refused(key: str, said: str, fix: str) -> EngineError:
    return EngineError([Problem(f"parts.{key}", said, fix)])
