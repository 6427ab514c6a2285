"""Points in outlines."""

import math
from collections.abc import Sequence

Point = tuple[float, float]


def holds(outline: Sequence[Point], point: Point) -> bool:
    """Whether a point lies inside a closed outline (even-odd rule)."""
    x, y = point
    within = False
    for (ax, ay), (bx, by) in zip(outline, [*outline[1:], outline[0]], strict=True):
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            within = not within
    return within


def inside_corner(outline: Sequence[Point], corner: Point, distance: float) -> Point:
    """A point at most ``distance`` from a corner, inside the outline on the corner's bisector.

    Nearer where the outline is narrow; the corner itself where it holds nothing there.
    """
    at = outline.index(corner)
    sides = (outline[at - 1], outline[(at + 1) % len(outline)])
    dx, dy = (sum(parts) for parts in zip(*(_towards(corner, side) for side in sides), strict=True))
    length = math.hypot(dx, dy)
    if length == 0:
        return corner
    for step in (distance, distance / 2, distance / 4):
        for way in (1, -1):
            reach = way * step / length
            point = (corner[0] + dx * reach, corner[1] + dy * reach)
            if holds(outline, point):
                return point
    return corner


def _towards(start: Point, end: Point) -> Point:
    """The direction from one point to another, of length one; nothing where they are the same."""
    length = math.dist(start, end)
    return ((end[0] - start[0]) / length, (end[1] - start[1]) / length) if length else (0.0, 0.0)
