"""The advance over speed: the limits at each point of the curve, and what was read at it."""

from collections.abc import Mapping
from dataclasses import dataclass

from eldrim.core.base.quantity import format_number
from eldrim.core.procedure.model import Reading
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FLOOR = 760.0, 330.0, 58.0, 736.0, 26.0, 276.0


@dataclass(frozen=True)
class _Point:
    key: str
    speed: float
    low: float
    high: float


def draw(readings: tuple[Reading, ...], found: Mapping[str, float] | None = None) -> str:
    """Return the curve of the readings ``advance_SPEED``; ``found`` are values by their keys.

    Empty where there are fewer than two points.
    """
    points = [
        _Point(r.key, float(r.key.split("_")[1]), r.low or 0.0, r.high or 0.0)
        for r in readings
        if r.key.partition("_")[2].isdigit()
    ]
    if len(points) < 2:
        return ""
    most = max(*(p.high for p in points), *(found or {}).values(), 0.0)
    last, top = points[-1].speed * 1.06, 5 * (int(most) // 5 + 1)

    def x(speed: float) -> float:
        return LEFT + (RIGHT - LEFT) * speed / last

    def y(advance: float) -> float:
        return FLOOR - (FLOOR - TOP) * advance / top

    band = [(x(p.speed), y(p.high)) for p in points]
    band += [(x(p.speed), y(p.low)) for p in reversed(points)]
    return el(
        "svg",
        _axes(points, top, x, y),
        el("path", d=path(band), class_="band"),
        *(_limits(p, x, y) for p in points),
        _found(points, found or {}, x, y),
        class_="advance-curve",
        data_curve=f"{last:g} {top:g} {LEFT:g} {RIGHT:g} {TOP:g} {FLOOR:g}",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
        aria_label=say("draw.curve", points=len(points)),
    )


def _axes(points: list[_Point], top: float, x, y) -> str:  # type: ignore[no-untyped-def]
    frame = el("path", d=f"M{LEFT} {TOP}V{FLOOR}H{RIGHT}", class_="axis")
    marks = [
        el("path", d=f"M{x(p.speed):.1f} {FLOOR}v6", class_="axis")
        + text(x(p.speed), FLOOR + 22, f"{p.speed:g}", class_="mid value")
        for p in points
    ]
    marks += [
        el("path", d=f"M{LEFT} {y(a):.1f}h-6", class_="axis")
        + text(LEFT - 10, y(a) + 5, f"{a}°", class_="end value")
        for a in range(0, int(top) + 1, 10)
    ]
    return frame + "".join(marks) + text(RIGHT, FLOOR + 44, say("draw.speed"), class_="end lesser")


def _limits(point: _Point, x, y) -> str:  # type: ignore[no-untyped-def]
    at, low, high = x(point.speed), y(point.low), y(point.high)
    ends = f"M{at - 7:.1f} {high:.1f}h14M{at - 7:.1f} {low:.1f}h14"
    bar = el("path", d=f"{ends}M{at:.1f} {high:.1f}V{low:.1f}", class_="limits")
    said = f"{format_number(point.low, 1)}–{format_number(point.high, 1)}"
    return bar + text(at, high - 9, said, class_="mid lesser")


def _found(points: list[_Point], found: Mapping[str, float], x, y) -> str:  # type: ignore[no-untyped-def]
    """What was read, joined, each point with its value for whoever cannot tell it by its place."""
    read = [(p, found[p.key]) for p in points if p.key in found]
    line = path([(x(p.speed), y(v)) for p, v in read], closed=False) if len(read) > 1 else ""
    dots = [
        el("circle", cx=x(p.speed), cy=y(v), r=6, class_="read" if p.low <= v <= p.high else "off")
        + text(x(p.speed) + 11, y(v) + 5, f"{format_number(v, 1)}°", class_="set")
        for p, v in read
    ]
    return (el("path", d=line, class_="read-line") if line else "") + "".join(dots)
