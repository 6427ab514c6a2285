"""The turn after seating: from hand-tight, how far the handle goes."""

import math

from eldrim.core.base.quantity import format_number
from eldrim.core.words import say
from eldrim.drawing.svg import el, text

WIDTH, CX, CY, R = 460.0, 230.0, 150.0, 104.0


def draw(low: float, high: float) -> str:
    """Return a dial for an angle or range of angles in degrees, clockwise from the top."""
    ends = [f"{format_number(fromkey, 0)}°" for fromkey in dict.fromkeys((low, high))]
    said = f" {say('to')} ".join(ends)
    ticks = el("path", d="".join(_tick(a) for a in range(0, 360, 30)), class_="tick")
    return el(
        "svg",
        el("circle", cx=CX, cy=CY, r=R, class_="dial"),
        ticks,
        _hex(),
        _sweep(low, high),
        _hand(0, say("draw.hand_tight")),
        _hand(high, said),
        class_="turn-dial",
        viewBox=f"0 0 {WIDTH:g} 300",
        role="img",
        aria_label=say("draw.turn", angle=said),
    )


def _at(angle: float, radius: float) -> tuple[float, float]:
    turn = math.radians(angle)
    return CX + radius * math.sin(turn), CY - radius * math.cos(turn)


def _tick(angle: float) -> str:
    (x1, y1), (x2, y2) = _at(angle, R - (12 if angle % 90 == 0 else 6)), _at(angle, R)
    return f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}"


def _hex() -> str:
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in (_at(30 + 60 * n, 30) for n in range(6)))
    return el("polygon", points=points, class_="hex")


def _sweep(low: float, high: float) -> str:
    """The way to the least turn as a line, from there to the most as a band."""
    shapes = [el("path", d=_arc(0, low, R + 14), class_="way")]
    if high > low:
        shapes.append(el("path", d=_arc(low, high, R + 14), class_="band"))
    return "".join(shapes)


def _arc(start: float, end: float, radius: float) -> str:
    (x1, y1), (x2, y2) = _at(start, radius), _at(min(end, 359.9), radius)
    large = 1 if end - start > 180 else 0
    return f"M{x1:.1f} {y1:.1f}A{radius} {radius} 0 {large} 1 {x2:.1f} {y2:.1f}"


def _hand(angle: float, name: str) -> str:
    (x1, y1), (x2, y2), (x3, y3) = _at(angle, 34), _at(angle, R + 20), _at(angle, R + 32)
    line = el("path", d=f"M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}", class_="hand")
    turned = angle % 360
    side = "mid" if turned < 12 or abs(turned - 180) < 12 else ("end" if turned > 180 else "start")
    return line + text(x3, y3 + 5, name, class_=f"{side} value")
