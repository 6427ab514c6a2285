"""The torque window as a rule: spec, setting window, graduations and the setting."""

import math

from eldrim.core.procedure.model import StepFigure
from eldrim.core.quantity import convert, format_number
from eldrim.drawing.svg import el, text

WIDTH, LEFT, RIGHT = 760.0, 24.0, 736.0


def draw(figure: StepFigure) -> str:
    """Return the rule for a torque figure with a setting; empty without one."""
    dial = figure.setting
    if dial is None:
        return ""
    low, high = (convert(v, figure.unit, dial.unit) for v in (figure.min, figure.max))
    room = max((high - low) * 0.5, dial.graduation * 4)
    first, last = max(0.0, low - room), high + room
    scale = (RIGHT - LEFT) / (last - first)

    def at(value: float) -> float:
        return LEFT + (value - first) * scale

    spec = el("rect", x=at(low), y=26, width=max(at(high) - at(low), 2), height=26, class_="spec")
    window = el("rect", x=at(dial.low), y=34, width=max(at(dial.high) - at(dial.low), 2),
                height=10, class_="window")  # fmt: skip
    ticks = _ticks(first, last, dial.graduation, at)
    mark = el("path", d=f"M{at(dial.value):.1f} 52l-10 -20h20z", class_="mark")
    label = text(at(dial.value), 20, f"set {dial.text}", class_="mid set")
    return el(
        "svg", spec, window, ticks, mark, label, class_="torque-rule",
        viewBox=f"0 0 {WIDTH:g} 96", role="img",
        aria_label=f"Set {dial.text}; the specification runs from {format_number(low, 2)} "
        f"to {format_number(high, 2)} {dial.unit}",
    )  # fmt: skip


def _ticks(first: float, last: float, graduation: float, at) -> str:  # type: ignore[no-untyped-def]
    every = graduation
    while (last - first) / every > 60:
        every *= 5
    labelled = next(s for s in (0.5, 1, 2, 5, 10, 20, 50, 100) if (last - first) / s <= 8)
    shapes = []
    for n in range(math.ceil(first / every - 1e-9), math.floor(last / every + 1e-9) + 1):
        value = n * every
        whole = abs(value / labelled - round(value / labelled)) < 1e-6
        shapes.append(el("path", d=f"M{at(value):.1f} 56v{16 if whole else 8}", class_="tick"))
        if whole:
            shapes.append(text(at(value), 92, format_number(value, 2), class_="mid value"))
    return "".join(shapes)
