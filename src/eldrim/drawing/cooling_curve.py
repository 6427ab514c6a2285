"""A cooling engine: the curve through two readings, the air, and the minute it may be worked on."""

from eldrim.core.base.quantity import format_number
from eldrim.core.figures.cooling import Cooling
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FLOOR = 760.0, 300.0, 62.0, 736.0, 22.0, 256.0


def draw(cooling: Cooling, unit: str = "°C") -> str:
    """Return the curve, minutes across and degrees up, to scale."""
    last = cooling.points[-1][0]
    warm = max(t for _, t in cooling.points)
    cold = min(cooling.air, cooling.limit) - 4

    def x(minute: float) -> float:
        return LEFT + (RIGHT - LEFT) * minute / last

    def y(degrees: float) -> float:
        return FLOOR - (FLOOR - TOP) * (degrees - cold) / (warm + 4 - cold)

    curve = path([(x(m), y(t)) for m, t in cooling.points], closed=False)
    said = say("cooling.said", minutes=format_number(cooling.ready, 0))
    return el(
        "svg",
        _axes(last, warm, cold, x, y),
        _level(y, "limit", cooling.limit, unit),
        _level(y, "air", cooling.air, unit),
        el("path", d=curve, class_="curve"),
        *(_point(x(m), y(t), _degrees(t, unit)) for m, t in cooling.readings),
        _ready(x(cooling.ready), y(cooling.limit), cooling.ready),
        class_="cooling-curve",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
        aria_label=said,
    )


def _axes(last: float, warm: float, cold: float, x, y) -> str:  # type: ignore[no-untyped-def]
    frame = el("path", d=f"M{LEFT} {TOP}V{FLOOR}H{RIGHT}", class_="axis")
    step = next(s for s in (1, 2, 5, 10, 20, 30, 60, 120, 300, 1000) if last / s <= 9)
    marks = [
        el("path", d=f"M{x(m):.1f} {FLOOR}v6", class_="axis")
        + text(x(m), FLOOR + 22, str(m), class_="mid value")
        for m in range(0, int(last) + 1, step)
    ]
    marks += [
        el("path", d=f"M{LEFT} {y(t):.1f}h-6", class_="axis")
        + text(LEFT - 10, y(t) + 5, f"{t}°", class_="end value")
        for t in range(10 * round(cold / 10 + 0.5), int(warm) + 1, 20)
    ]
    return (
        frame + "".join(marks) + text(RIGHT, FLOOR + 40, say("cooling.minutes"), class_="end tiny")
    )


def _degrees(value: float, unit: str) -> str:
    return f"{format_number(value, 0)} {unit}"


def _level(y, kind: str, value: float, unit: str) -> str:  # type: ignore[no-untyped-def]
    said = f"{say(f'cooling.{kind}')} {_degrees(value, unit)}"
    line = el("path", d=f"M{LEFT} {y(value):.1f}H{RIGHT}", class_=f"level {kind}")
    return line + text(LEFT + 10, y(value) - 6, said, class_="tiny")


def _point(x: float, y: float, name: str) -> str:
    dot = el("circle", cx=x, cy=y, r=5, class_="reading")
    return dot + text(x + 10, y - 6, name, class_="value")


def _ready(x: float, y: float, minute: float) -> str:
    line = el("path", d=f"M{x:.1f} {y:.1f}V{FLOOR}", class_="ready")
    mark = el("path", d=f"M{x:.1f} {y:.1f}l-8 -16h16z", class_="mark")
    said = say("cooling.start", minutes=format_number(minute, 0))
    return line + mark + text(x, y - 22, said, class_="mid set")
