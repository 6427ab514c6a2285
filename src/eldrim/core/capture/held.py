"""What holds a part: joints put on, said anew, taken away, and where each sits on the plan."""

import math
from collections.abc import Sequence
from itertools import pairwise

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.base.quantity import AnyQuantity, Quantity
from eldrim.core.capture.hindrances import without_targets
from eldrim.core.capture.minutes import estimate_way
from eldrim.core.capture.part_access import part_of, put, snap, within
from eldrim.core.capture.shorthand import Said
from eldrim.core.engine.joints import CONNECTORS
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import TO_STATE, UNSTATED, Engine, Figure, Source
from eldrim.core.engine.parts import COVER_KINDS, LINE_KINDS, Joint, Part, Point
from eldrim.core.words.messages import gettext


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
    return jointed(engine, key, {**part.joints, name: joint})


def torque_figure(
    engine: Engine, part: str, torque: AnyQuantity, hint: str = "none"
) -> tuple[Engine, str]:
    """The figure for a torque said of a part: one stated already, or a new one to be sourced, with
    a hint of where it was seen.
    """
    for key, figures in engine.figures.items():
        if key.startswith(f"{part}-bolt") and any(f.value == torque for f in figures):
            return engine, key
    key = free_key(f"{part}-bolt", tuple(engine.figures))
    figure = Figure(value=torque, source=TO_STATE, page=hint)
    unstated = {TO_STATE: Source(document=UNSTATED, edition="none")}
    more = {
        "figures": {**engine.figures, key: (figure,)},
        "sources": {**unstated, **engine.sources},
    }
    return engine.model_copy(update=more), key


def restate_joint(engine: Engine, key: str, name: str, said: Said) -> Engine:
    """Say a joint anew under its own key; a torque that did not change keeps its figure."""
    part, joint = part_of(engine, key), said.joint
    old = joint_of(part, name)
    engine, figure = torque_anew(engine, key, old.torque, said.torque)
    joint = joint.model_copy(update={"torque": figure})
    return without_unused(jointed(engine, key, {**part.joints, name: joint}), old.torque)


def torque_anew(
    engine: Engine, part: str, old: str | None, torque: Quantity | None
) -> tuple[Engine, str | None]:
    """The figure of a joint that is said anew: as it was where its torque did not change."""
    if torque is None:
        return engine, None
    stated = engine.figures.get(old or "", ())
    if stated and stated[0].value == torque:
        return engine, old
    return torque_figure(engine, part, torque)


def joint_of(part: Part, name: str) -> Joint:
    """A joint of a part by its key; raises :class:`EngineError` when it has gone."""
    if name not in part.joints:
        said, fix = gettext("is no longer there"), gettext("load the page again")
        raise EngineError([Problem(f"{part.name}, {name}", said, fix)])
    return part.joints[name]


def printed_torque(engine: Engine, joint: Joint) -> str:
    """What a joint is tightened to, as it is printed; empty where nothing is stated."""
    stated = engine.figures.get(joint.torque or "", ())
    return str(stated[0].value) if stated else ""


def remove_joint(engine: Engine, key: str, joint: str) -> Engine:
    """Let a part be held without one of its joints; a figure nothing uses any more goes too."""
    part = part_of(engine, key)
    gone = part.joints.get(joint)
    engine = jointed(
        engine, key, {other: held for other, held in part.joints.items() if other != joint}
    )
    hindrances = without_targets(
        engine.hindrances, lambda target: (target.part, target.joint) == (key, joint)
    )
    engine = engine.model_copy(update={"hindrances": hindrances})
    return without_unused(engine, gone.torque if gone else None)


def without_unused(engine: Engine, figure: str | None) -> Engine:
    """The sheet without a torque that no joint is tightened to any more."""
    sets = [
        *(part.joints for part in engine.parts.values()),
        *(coil.joints for coil in engine.coils),
        *(lead.joints for lead in engine.leads),
        *(piece.joints for piece in engine.pieces.values()),
        *(one.joints for one in engine.companions.values()),
    ]
    if figure is None or figure in {joint.torque for held in sets for joint in held.values()}:
        return engine
    kept = {name: stated for name, stated in engine.figures.items() if name != figure}
    return engine.model_copy(update={"figures": kept})


def jointed(engine: Engine, key: str, joints: dict[str, Joint]) -> Engine:
    """The part with these joints; minutes nobody has timed follow them."""
    part = part_of(engine, key)
    ways = {
        each: estimate_way(way.kind, joints, way) if way.estimated else within(way, joints)
        for each, way in part.ways.items()
    }
    return put(engine, key, part.model_copy(update={"joints": joints, "ways": ways}))


def place_joint(engine: Engine, key: str, name: str) -> Engine:
    """Put every piece of a joint on the plan, evenly along its part: each is then dragged."""
    part = part_of(engine, key)
    count = joint_of(part, name).count
    line = [*part.outline] if part.kind in LINE_KINDS else [*part.outline, part.outline[0]]
    ends = count + 1 if part.kind in LINE_KINDS else count
    step = _length(line) / ends
    first = step if part.kind in LINE_KINDS else step / 2
    return _placed(engine, key, name, tuple(_along(line, first + n * step) for n in range(count)))


def move_piece(engine: Engine, key: str, name: str, place: int, by: Point) -> Engine:
    """Move one piece of a joint, in steps of the grid; a clip stays on the way of its loom."""
    part = part_of(engine, key)
    at = joint_of(part, name).at
    if not 0 <= place < len(at):
        said, fix = gettext("has no such place"), gettext("load the page again")
        raise EngineError([Problem(f"{part.name}, {name}", said, fix)])
    x, y = (snap(at[place][axis] + by[axis]) for axis in (0, 1))
    wide, tall = engine.layout.plan
    moved: Point = (min(max(x, 0.0), wide), min(max(y, 0.0), tall))
    if part.kind in LINE_KINDS:
        moved = _nearest(part.outline, moved)
    return _placed(engine, key, name, (*at[:place], moved, *at[place + 1 :]))


def unplace_joint(engine: Engine, key: str, name: str) -> Engine:
    """Say no more where the pieces of a joint sit."""
    return _placed(engine, key, name, ())


def _placed(engine: Engine, key: str, name: str, at: tuple[Point, ...]) -> Engine:
    part = part_of(engine, key)
    joints = {**part.joints, name: joint_of(part, name).model_copy(update={"at": at})}
    return put(engine, key, part.model_copy(update={"joints": joints}))


def _length(line: Sequence[Point]) -> float:
    return sum(math.dist(start, end) for start, end in pairwise(line))


def _along(line: Sequence[Point], far: float) -> Point:
    """The point so far along a line, in mm."""
    for start, end in pairwise(line):
        side = math.dist(start, end)
        if far <= side and side:
            return _between(start, end, far / side)
        far -= side
    return line[-1]


def _between(start: Point, end: Point, share: float) -> Point:
    x, y = (start[axis] + (end[axis] - start[axis]) * share for axis in (0, 1))
    return (round(x, 1), round(y, 1))


def _nearest(line: Sequence[Point], at: Point) -> Point:
    """The point of a line that is nearest to a place."""
    found = [_foot(start, end, at) for start, end in pairwise(line)]
    return min(found, key=lambda point: math.dist(point, at))


def _foot(start: Point, end: Point, at: Point) -> Point:
    dx, dy = end[0] - start[0], end[1] - start[1]
    square = dx * dx + dy * dy
    share = ((at[0] - start[0]) * dx + (at[1] - start[1]) * dy) / square if square else 0.0
    return _between(start, end, min(max(share, 0.0), 1.0))
