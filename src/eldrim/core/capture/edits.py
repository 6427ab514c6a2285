"""Drawing and describing an engine, one act at a time; each act gives a sheet that still holds."""

import math
from collections.abc import Callable, Sequence

from eldrim.core.capture.shorthand import Said
from eldrim.core.consistency import check
from eldrim.core.engine import Target, parse_target
from eldrim.core.engine.joints import CONNECTORS, FASTENERS, HOSES, JointKind
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import TO_STATE, UNSTATED, Engine, Figure, Source
from eldrim.core.engine.parts import (
    COVER_KINDS,
    LINE_KINDS,
    Hindrance,
    HindranceKind,
    Joint,
    Part,
    PartKind,
    Point,
    Way,
    WayKind,
)
from eldrim.core.errors import EngineError, Problem
from eldrim.core.messages import gettext
from eldrim.core.quantity import Quantity, make

GRID, MIN_SIZE_MM = 5.0, 20.0
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
# Minutes to let one joint go (shop practice, corrected by the log later): fastener and so on.
MINUTES = {
    **dict.fromkeys(FASTENERS, 0.4),
    **dict.fromkeys(CONNECTORS, 0.3),
    **dict.fromkeys(HOSES, 0.7),
    JointKind.FUEL_LINE: 1.5,
    JointKind.COOLANT_LINE: 1.2,
    JointKind.GASKET: 0.3,
    JointKind.CABLE: 0.6,
}
OTHER_JOINT_MINUTES, LIFT_MINUTES, BACK_FACTOR = 0.2, 0.4, 1.15


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


def snap(value: float) -> float:
    """A place on the plan's grid."""
    return GRID * round(value / GRID)


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


def move(engine: Engine, key: str, dx: float, dy: float) -> Engine:
    """Move a part on the plan, in steps of the grid, never off it."""
    part = part_of(engine, key)
    width, height = engine.layout.plan
    xs, ys = [point[0] for point in part.outline], [point[1] for point in part.outline]
    dx = min(max(snap(dx), -min(xs)), width - max(xs))
    dy = min(max(snap(dy), -min(ys)), height - max(ys))
    return _outlined(engine, key, tuple((x + dx, y + dy) for x, y in part.outline))


def resize(engine: Engine, key: str, dw: float, dh: float) -> Engine:
    """Make a part wider and taller from its top left corner, never smaller than can be seen."""
    part = part_of(engine, key)
    xs, ys = [point[0] for point in part.outline], [point[1] for point in part.outline]
    x0, y0, wide, tall = min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
    width, height = engine.layout.plan
    new_wide = min(max(snap(wide + dw), MIN_SIZE_MM), width - x0)
    new_tall = min(max(snap(tall + dh), MIN_SIZE_MM), height - y0)
    sx, sy = new_wide / (wide or 1), new_tall / (tall or 1)
    return _outlined(
        engine,
        key,
        tuple(
            (round(x0 + (x - x0) * sx, 1), round(y0 + (y - y0) * sy, 1)) for x, y in part.outline
        ),
    )


def turn(engine: Engine, key: str, degrees: float = 90.0) -> Engine:
    """Turn a part about its middle."""
    part = part_of(engine, key)
    cx = sum(point[0] for point in part.outline) / len(part.outline)
    cy = sum(point[1] for point in part.outline) / len(part.outline)
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    off = ((x - cx, y - cy) for x, y in part.outline)
    turned = [(x * c - y * s, x * s + y * c) for x, y in off]
    wide, high = _fits(turned, engine.layout.plan)
    placed = tuple((round(cx + x * wide, 1), round(cy + y * high, 1)) for x, y in turned)
    return move(_outlined(engine, key, placed), key, 0, 0)


def _fits(points: list[Point], plan: Point) -> tuple[float, float]:
    """The factors, across and along, by which an outline has to shrink to stay on the plan."""
    sides = zip(*points, strict=True)
    spans = [max(side) - min(side) for side in sides]
    return min(1.0, plan[0] / (spans[0] or 1)), min(1.0, plan[1] / (spans[1] or 1))


def _outlined(engine: Engine, key: str, outline: tuple[Point, ...]) -> Engine:
    return put(engine, key, part_of(engine, key).model_copy(update={"outline": outline}))


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


def without_targets(
    hindrances: Sequence[Hindrance], gone: Callable[[Target], bool]
) -> tuple[Hindrance, ...]:
    """The hindrances without what has gone; one left with nothing to hinder goes too."""
    kept = []
    for hindrance in hindrances:
        parsed = [(text, parse_target(text)) for text in hindrance.of]
        of = tuple(text for text, target in parsed if target is None or not gone(target))
        if of:
            kept.append(hindrance.model_copy(update={"of": of}))
    return tuple(kept)


def hinder(engine: Engine, key: str, target: str, kind: HindranceKind) -> Engine:
    """Say that a part stands in the way of something: a hole, a part, or one joint of either."""
    part_of(engine, key)
    said = Hindrance(part=key, of=(target,), kind=kind)
    made = engine.model_copy(update={"hindrances": (*engine.hindrances, said)})
    wrong = [problem for problem in check(made) if problem not in check(engine)]
    if wrong:
        raise EngineError(wrong)
    return made


def add_joint(engine: Engine, key: str, said: Said) -> Engine:
    """Hold a part by one more joint; a torque that was said becomes a figure to be sourced."""
    part, joint = part_of(engine, key), said.joint
    name = free_key(joint.name or joint.kind.value.replace("_", "-"), tuple(part.joints))
    if said.torque is not None:
        engine, figure = torque_figure(engine, key, said.torque)
        joint = joint.model_copy(update={"torque": figure})
    if joint.kind in CONNECTORS and part.kind in COVER_KINDS and not part.needed_to_run:
        # A panel with something plugged into it is taken to be needed until somebody says not.
        engine = put(engine, key, part.model_copy(update={"needed_to_run": True}))
        part = part_of(engine, key)
    return _jointed(engine, key, {**part.joints, name: joint})


def torque_figure(engine: Engine, part: str, torque: Quantity) -> tuple[Engine, str]:
    """The figure for a torque said of a part: one stated already, or a new one to be sourced."""
    for key, figures in engine.figures.items():
        if key.startswith(f"{part}-bolt") and any(f.value == torque for f in figures):
            return engine, key
    key = free_key(f"{part}-bolt", tuple(engine.figures))
    figure = Figure(value=torque, source=TO_STATE, page="none")
    unstated = {TO_STATE: Source(document=UNSTATED, edition="none")}
    more = {
        "figures": {**engine.figures, key: (figure,)},
        "sources": {**unstated, **engine.sources},
    }
    return engine.model_copy(update=more), key


def remove_joint(engine: Engine, key: str, joint: str) -> Engine:
    """Let a part be held without one of its joints; a figure nothing uses any more goes too."""
    part = part_of(engine, key)
    gone = part.joints.get(joint)
    engine = _jointed(
        engine, key, {other: held for other, held in part.joints.items() if other != joint}
    )
    hindrances = without_targets(
        engine.hindrances, lambda target: (target.part, target.joint) == (key, joint)
    )
    engine = engine.model_copy(update={"hindrances": hindrances})
    used = {held.torque for other in engine.parts.values() for held in other.joints.values()}
    used |= {held.torque for coil in engine.coils for held in coil.joints.values()}
    if gone is None or gone.torque is None or gone.torque in used:
        return engine
    figures = {name: figure for name, figure in engine.figures.items() if name != gone.torque}
    return engine.model_copy(update={"figures": figures})


def _jointed(engine: Engine, key: str, joints: dict[str, Joint]) -> Engine:
    """The part with these joints; minutes nobody has timed follow them."""
    part = part_of(engine, key)
    ways = {
        each: estimate_way(way.kind, joints, way) if way.estimated else _within(way, joints)
        for each, way in part.ways.items()
    }
    return put(engine, key, part.model_copy(update={"joints": joints, "ways": ways}))


def _within(way: Way, joints: dict[str, Joint]) -> Way:
    if way.releases is None:
        return way
    return way.model_copy(
        update={"releases": tuple(release for release in way.releases if release in joints)}
    )


def estimate_way(kind: WayKind, joints: dict[str, Joint], old: Way | None = None) -> Way:
    """A way with minutes worked out from what it lets go."""
    kept = old.releases if old else None
    keys = list(joints) if kept is None else [k for k in kept if k in joints]
    each = [MINUTES.get(joints[key].kind, OTHER_JOINT_MINUTES) * joints[key].count for key in keys]
    out = round(LIFT_MINUTES + sum(each), 1)
    times = {"out": make(out, "min"), "back": make(round(out * BACK_FACTOR, 1), "min")}
    base = old or Way(kind=kind, estimated=True, **times)
    releases = None if kept is None else tuple(keys)
    return base.model_copy(update={**times, "kind": kind, "releases": releases})


def set_way(  # noqa: PLR0913 - what is stated of one way
    engine: Engine,
    key: str,
    kind: WayKind,
    out: float | None,
    back: float | None,
    releases: tuple[str, ...] | None = None,
    opens: tuple[str, ...] | None = None,
) -> Engine:
    """State a way of a part: timed minutes, or None for an estimate from the joints let go.

    ``opens`` is what it opens, None for what the part leaves open.
    """
    part = part_of(engine, key)
    way = estimate_way(
        kind,
        part.joints,
        Way(kind=kind, out=make(1, "min"), back=make(1, "min"), estimated=True, releases=releases),
    )
    if out is not None and back is not None:
        times = {"out": make(out, "min"), "back": make(back, "min"), "estimated": False}
        way = way.model_copy(update=times)
    way = way.model_copy(update={"opens": opens})
    ways = {**part.ways, kind.value.replace("_", "-"): way}
    return put(engine, key, part.model_copy(update={"ways": ways}))


def remove_way(engine: Engine, key: str, way: str) -> Engine:
    """Take a way away; a part keeps at least one."""
    part = part_of(engine, key)
    if len(part.ways) < 2:
        said = gettext("is the only way to move it")
        raise EngineError(
            [Problem(f"parts.{key}.ways.{way}", said, gettext("state another one first"))]
        )
    ways = {key: stated for key, stated in part.ways.items() if key != way}
    changed = part.model_copy(update={"ways": ways})
    hindrances = tuple(
        hindrance.model_copy(
            update={"cleared_by": tuple(c for c in hindrance.cleared_by if c != way)}
        )
        if hindrance.part == key
        else hindrance
        for hindrance in engine.hindrances
    )
    return put(engine.model_copy(update={"hindrances": hindrances}), key, changed)


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
