"""What lies over what is known from the drawing; what it hinders is proposed, and confirmed."""

from dataclasses import dataclass
from typing import Literal

from shapely import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import LINE_KINDS, Hindrance, HindranceKind, Part, PartKind
from eldrim.core.engine.targets import parse_target
from eldrim.core.words.messages import gettext

HOLE_MM, CABLE_MM = 24.0, 9.0
# A part that laps over another by less than this share of the smaller hardly stands in its way.
MIN_OVERLAP_SHARE = 0.03
HindranceAnswer = Literal["hides", "blocks_tool", "blocks_exit", "holds_short", "free"]


@dataclass(frozen=True)
class Proposal:
    """One question: ``part`` lies over ``targets``; which of ``answers`` is it?"""

    part: str
    targets: tuple[str, ...]
    words: str
    answers: tuple[HindranceAnswer, ...]

    @property
    def key(self) -> str:
        """What tells this question from the others."""
        return f"{self.part}>{','.join(self.targets)}"


def proposals(engine: Engine) -> list[Proposal]:
    """Every question the drawing raises and nobody has answered yet, in the order of the parts."""
    shapes = {part_key: _shape(p) for part_key, p in engine.parts.items()}
    found = []
    for key, part in engine.parts.items():
        holes = tuple(
            f"hole/{hole}"
            for hole, (_, w) in engine.holes.items()
            if shapes[key].intersects(Point(w.at).buffer(HOLE_MM))
            and not _answered(engine, key, f"hole/{hole}")
        )
        if holes:
            found.append(_over_holes(part, key, holes))
        for other, under in engine.parts.items():
            if (
                part.level > under.level
                and _laps(shapes[key], shapes[other])
                and not _answered(engine, key, other)
            ):
                found.append(_over_part(part, key, under, other))
    return found


def _over_holes(part: Part, key: str, holes: tuple[str, ...]) -> Proposal:
    numbers = ", ".join(hole.removeprefix("hole/") for hole in holes)
    answers: tuple[HindranceAnswer, ...] = ("hides", "blocks_tool", "free")
    if part.kind in LINE_KINDS:
        answers = ("holds_short", "blocks_tool", "free")
    return Proposal(
        key, holes, gettext("{part} lies over {numbers}", part=part.name, numbers=numbers), answers
    )


def _over_part(part: Part, key: str, under: Part, other: str) -> Proposal:
    first: HindranceAnswer = "holds_short" if part.kind is PartKind.LOOM else "blocks_exit"
    answers: tuple[HindranceAnswer, ...] = (first, "hides", "free")
    return Proposal(
        key,
        (other,),
        gettext("{part} lies over {under}", part=part.name, under=under.name.lower()),
        answers,
    )


def answer(engine: Engine, part: str, targets: tuple[str, ...], said: HindranceAnswer) -> Engine:
    """Keep an answer: a hindrance of that kind, or that there is none."""
    if said == "free":
        free = tuple(dict.fromkeys((*engine.free, *(f"{part}>{target}" for target in targets))))
        return engine.model_copy(update={"free": free})
    made = Hindrance(part=part, of=targets, kind=HindranceKind(said))
    return engine.model_copy(update={"hindrances": (*engine.hindrances, made)})


def covered_holes(engine: Engine, part: str) -> tuple[str, ...]:
    """The holes a part lies over, by the drawing."""
    shape = _shape(engine.parts[part])
    return tuple(
        key for key, (_, w) in engine.holes.items() if shape.intersects(Point(w.at).buffer(HOLE_MM))
    )


def laps_over(engine: Engine, part: str, other: str) -> bool:
    """Whether two parts lie over one another, whichever is on top."""
    return _laps(_shape(engine.parts[part]), _shape(engine.parts[other]))


def _answered(engine: Engine, part: str, target: str) -> bool:
    if f"{part}>{target}" in engine.free:
        return True
    wanted = parse_target(target)
    stated = [
        parse_target(t)
        for hindrance in engine.hindrances
        if hindrance.part == part
        for t in hindrance.of
    ]
    return any(
        figure and wanted and (figure.hole, figure.part) == (wanted.hole, wanted.part)
        for figure in stated
    )


def _shape(part: Part) -> BaseGeometry:
    if part.kind in LINE_KINDS or len(part.outline) < 3:
        return LineString(part.outline).buffer(CABLE_MM)
    return Polygon(part.outline).buffer(0)


def _laps(over: BaseGeometry, under: BaseGeometry) -> bool:
    smaller = min(over.area, under.area) or 1.0
    return bool(over.intersection(under).area / smaller > MIN_OVERLAP_SHARE)
