"""Drawing and describing an engine, one act at a time; each act gives a sheet that still holds."""

import math
from collections.abc import Callable

from eldrim.core.capture.hindrances import without_targets
from eldrim.core.capture.minutes import estimate_way
from eldrim.core.capture.part_access import part_of, put, snap
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import COVER_KINDS, LINE_KINDS, Part, PartKind, Point, WayKind

MIN_SIZE_MM = 20.0
# A level for a new part by its kind: what usually lies over what.
LEVELS = {
    PartKind.COVER: 6,
    PartKind.DUCT: 5,
    PartKind.AIR_BOX: 5,
    PartKind.LOOM: 4,
    PartKind.HOSE: 4,
    PartKind.PLENUM: 3,
    PartKind.BRACKET: 2,
}
SIZES = {
    PartKind.PLENUM: (320.0, 140.0),
    PartKind.COVER: (300.0, 160.0),
    PartKind.DUCT: (160.0, 60.0),
    PartKind.BRACKET: (60.0, 40.0),
}


def add_part(engine: Engine, kind: PartKind, at: Point, name: str = "") -> tuple[Engine, str]:
    """Put a new part on the plan with its middle at a place; return the sheet and its key."""
    words = name.strip() or kind.value.replace("_", " ").capitalize()
    key = free_key(words, tuple(engine.parts))
    wide, tall = SIZES.get(kind, (100.0, 70.0))
    x, y = snap(at[0] - wide / 2), snap(at[1] - tall / 2)
    box: tuple[Point, ...] = ((x, y), (x + wide, y), (x + wide, y + tall), (x, y + tall))
    outline = box if kind not in LINE_KINDS else ((x, y), (x + wide, y), (x + wide * 1.5, y + 20))
    way = WayKind.UNCLIP if kind is PartKind.LOOM else WayKind.REMOVE
    part = Part(
        name=words,
        kind=kind,
        outline=outline,
        level=LEVELS.get(kind, 4),
        needed_to_run=kind not in COVER_KINDS,
        ways={way.value.replace("_", "-"): estimate_way(way, {})},
    )
    return put(engine, key, part), key


def move(engine: Engine, key: str, dx: float, dy: float) -> Engine:
    """Move a part on the plan with what holds it, in steps of the grid, never off it."""
    part = part_of(engine, key)
    width, height = engine.layout.plan
    xs, ys = [point[0] for point in part.outline], [point[1] for point in part.outline]
    dx = min(max(snap(dx), -min(xs)), width - max(xs))
    dy = min(max(snap(dy), -min(ys)), height - max(ys))
    return _changed(engine, key, lambda point: (point[0] + dx, point[1] + dy))


def resize(engine: Engine, key: str, dw: float, dh: float) -> Engine:
    """Make a part wider and taller from its top left corner, never smaller than can be seen."""
    part = part_of(engine, key)
    xs, ys = [point[0] for point in part.outline], [point[1] for point in part.outline]
    x0, y0, wide, tall = min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
    width, height = engine.layout.plan
    new_wide = min(max(snap(wide + dw), MIN_SIZE_MM), width - x0)
    new_tall = min(max(snap(tall + dh), MIN_SIZE_MM), height - y0)
    sx, sy = new_wide / (wide or 1), new_tall / (tall or 1)
    return _changed(
        engine,
        key,
        lambda point: (round(x0 + (point[0] - x0) * sx, 1), round(y0 + (point[1] - y0) * sy, 1)),
    )


def turn(engine: Engine, key: str, degrees: float = 90.0) -> Engine:
    """Turn a part about its middle."""
    part = part_of(engine, key)
    cx = sum(point[0] for point in part.outline) / len(part.outline)
    cy = sum(point[1] for point in part.outline) / len(part.outline)
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))

    def turned(point: Point) -> Point:
        x, y = point[0] - cx, point[1] - cy
        return x * c - y * s, x * s + y * c

    wide, high = _fits([turned(point) for point in part.outline], engine.layout.plan)

    def placed(point: Point) -> Point:
        x, y = turned(point)
        return round(cx + x * wide, 1), round(cy + y * high, 1)

    return move(_changed(engine, key, placed), key, 0, 0)


def _fits(points: list[Point], plan: Point) -> tuple[float, float]:
    """The factors, across and along, by which an outline has to shrink to stay on the plan."""
    sides = zip(*points, strict=True)
    spans = [max(side) - min(side) for side in sides]
    return min(1.0, plan[0] / (spans[0] or 1)), min(1.0, plan[1] / (spans[1] or 1))


def _changed(engine: Engine, key: str, changed: Callable[[Point], Point]) -> Engine:
    """The sheet with a part elsewhere: its outline, and where each of its joints sits."""
    part = part_of(engine, key)
    width, height = engine.layout.plan

    def on_plan(point: Point) -> Point:
        x, y = changed(point)
        return min(max(x, 0.0), width), min(max(y, 0.0), height)

    joints = {
        name: joint.model_copy(update={"at": tuple(map(on_plan, joint.at))})
        for name, joint in part.joints.items()
    }
    outline = tuple(map(changed, part.outline))
    return put(engine, key, part.model_copy(update={"outline": outline, "joints": joints}))


def remove_part(engine: Engine, key: str) -> Engine:
    """Take a part off the sheet, with everything said of what it hinders and is hindered by."""
    part_of(engine, key)
    others = [hindrance for hindrance in engine.hindrances if hindrance.part != key]
    kept = without_targets(others, lambda target: target.part == key)
    free = tuple(f for f in engine.free if key not in f.split(">"))
    parts = {
        part_key: part.model_copy(
            update={
                "refit_after": tuple(a for a in part.refit_after if a != key),
                "pushes_onto": tuple(a for a in part.pushes_onto if a != key),
            }
        )
        for part_key, part in engine.parts.items()
        if part_key != key
    }
    return engine.model_copy(update={"parts": parts, "hindrances": kept, "free": free})


def describe(engine: Engine, key: str, **changes: object) -> Engine:
    """Change what a part is called, its kind, its level, or whether the engine needs it to run.

    What never moves has no ways; what moves again has one, estimated.
    """
    plain = part_of(engine, key).model_dump(mode="json")
    made = Part.model_validate({**plain, **changes})
    ways = {} if made.fixed else made.ways
    if not made.fixed and not ways:
        ways = {"remove": estimate_way(WayKind.REMOVE, made.joints)}
    return put(engine, key, made.model_copy(update={"ways": ways}))
