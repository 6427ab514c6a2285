"""The pulley at its pointer, to scale: its marks, the one that is turned to, and the arc to it."""

from math import cos, radians, sin

from eldrim.core.base.quantity import convert, format_number
from eldrim.core.engine.timing import Timing
from eldrim.core.figures.arc import arc_length
from eldrim.core.words import say
from eldrim.drawing.svg import el, text

WIDTH, HEIGHT, TOP = 760.0, 250.0, 92.0
# Half of what is drawn of the rim, in degrees; the radius that fills the width with it.
SHOWN, RADIUS = 46.0, 500.0
CENTRE = (WIDTH / 2, TOP + RADIUS)


def draw(timing: Timing, degrees: float) -> str:
    """Return the top of the pulley with ``degrees`` before top dead centre at the pointer.

    Turning to the right as drawn, a mark of more degrees has passed the pointer already.
    """
    sign = 1 if timing.turns == "right" else -1
    marks = [mark for mark in timing.marks if abs(mark - degrees) < SHOWN - 2]
    near = min(timing.marks, key=lambda mark: abs(mark - degrees), default=None)
    there = near is not None and abs(near - degrees) < 0.05
    shapes = [_rim(), _pointer(), _turns(sign)]
    shapes += [_mark(sign * (mark - degrees), f"{format_number(mark, 1)}°") for mark in marks]
    if not there:
        shapes.append(_mark(0, f"{format_number(degrees, 1)}°", chalk=True))
    if near is not None and not there and timing.pulley is not None:
        shapes.append(
            _arc(sign * (near - degrees), arc_length(timing.pulley.mid, abs(near - degrees)))
        )
    return el(
        "svg",
        *shapes,
        class_="pulley",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
        aria_label=say("draw.pulley", degrees=format_number(degrees, 1)),
    )


def _at(angle: float, radius: float) -> tuple[float, float]:
    """A place so many degrees to the right of the pointer, so far from the middle."""
    turn = radians(angle)
    return CENTRE[0] + radius * sin(turn), CENTRE[1] - radius * cos(turn)


def _bow(first: float, last: float, radius: float) -> str:
    (x, y), (to_x, to_y) = _at(first, radius), _at(last, radius)
    sweep = 1 if last > first else 0
    return f"M{x:.1f} {y:.1f}A{radius:g} {radius:g} 0 0 {sweep} {to_x:.1f} {to_y:.1f}"


def _rim() -> str:
    outer = el("path", d=_bow(-SHOWN, SHOWN, RADIUS), class_="rim")
    return outer + el("path", d=_bow(-SHOWN, SHOWN, RADIUS - 46), class_="groove")


def _pointer() -> str:
    x, y = _at(0, RADIUS + 6)
    tip = el("path", d=f"M{x:.1f} {y:.1f}l-11 -26h22z", class_="mark")
    return tip + text(x, y - 34, say("draw.pointer"), class_="mid lesser")


def _turns(sign: int) -> str:
    """Which way the engine runs, as it is seen here."""
    inside = RADIUS - 96
    bow = el("path", d=_bow(-sign * 9, sign * 9, inside), class_="runs")
    x, y = _at(sign * 9, inside)
    head = el("path", d=f"M{x:.1f} {y:.1f}l{-sign * 16} -8v16z", class_="mark")
    words = text(CENTRE[0], CENTRE[1] - inside + 30, say("draw.runs"), class_="mid lesser")
    return bow + head + words


def _mark(angle: float, name: str, *, chalk: bool = False) -> str:
    (x, y), (to_x, to_y) = _at(angle, RADIUS), _at(angle, RADIUS - 40)
    line = el(
        "path", d=f"M{x:.1f} {y:.1f}L{to_x:.1f} {to_y:.1f}", class_="chalked" if chalk else "notch"
    )
    at_x, at_y = _at(angle, RADIUS - 66)
    return line + text(at_x, at_y + 6, name, class_="mid set" if chalk else "mid value")


def _arc(angle: float, far: float) -> str:
    """The way along the rim from the nearest mark to the chalked one, in both systems."""
    over = RADIUS + 14
    bow = el("path", d=_bow(angle, 0, over), class_="measured")
    inches = format_number(convert(far, "mm", "in"), 2)
    said = f"{format_number(far, 1)} mm · {inches} {say('unit.in')}"
    x, y = _at(angle, over)
    side, shift = ("end", -14) if angle < 0 else ("", 14)
    return bow + text(x + shift, y - 10, said, class_=f"{side} set".strip())
