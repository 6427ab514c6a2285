"""The torque window as a rule: spec, aim, graduations, and the setting with its tolerance."""

import math
from collections.abc import Callable

from eldrim.core.base.quantity import convert, format_number
from eldrim.core.procedure.model import StepFigure
from eldrim.core.tools.wrench_setting import Setting
from eldrim.core.words import say
from eldrim.drawing.svg import el, text

WIDTH, LEFT, RIGHT = 760.0, 24.0, 736.0
At = Callable[[float], float]


def draw(figure: StepFigure) -> str:
    """Return the rule for a torque figure with a setting; empty without one."""
    dial = figure.setting
    if dial is None:
        return ""
    low, high, wanted = (
        convert(value, figure.unit, dial.unit) for value in (figure.min, figure.max, figure.aim)
    )
    return rule(dial, low, high, wanted)


def rule(dial: Setting, low: float, high: float, wanted: float) -> str:
    """Return the rule for a setting; the window and the aim are in the wrench's unit.

    What is drawn is what stands on the wrench: with an adapter, spec and aim are shown times its
    factor.
    """
    low, high, wanted = low * dial.factor, high * dial.factor, wanted * dial.factor
    room = max((high - low) * 0.5, dial.graduation * 4, dial.value * dial.tolerance * 1.4)
    first, last = max(0.0, low - room), high + room
    scale = (RIGHT - LEFT) / (last - first)

    def at(value: float) -> float:
        return LEFT + (value - first) * scale

    said = say("sum.span", low=format_number(low, 2), high=format_number(high, 2), unit=dial.unit)
    aimed = f"{format_number(wanted, 2)} {dial.unit}"
    return el(
        "svg",
        _bands(dial, low, high, at),
        _ticks(first, last, dial.graduation, at),
        _aim(at(wanted)),
        _mark(dial, at),
        text(LEFT, 18, say("draw.spec", figure=said), class_="tiny"),
        text(RIGHT, 18, say("draw.aim", figure=aimed), class_="end tiny aim-name"),
        class_="torque-rule",
        data_unit=dial.unit,
        data_scale=f"{first:g} {last:g} {LEFT:g} {RIGHT:g} {WIDTH:g} {dial.graduation:g}",
        viewBox=f"0 0 {WIDTH:g} 112",
        role="img",
        aria_label=say(
            "draw.torque",
            setting=dial.text,
            share=format_number(dial.tolerance * 100, 1),
            span=said,
            aim=format_number(wanted, 2),
        ),
    )


def _bands(dial: Setting, low: float, high: float, at: At) -> str:
    spec = el("rect", x=at(low), y=34, width=max(at(high) - at(low), 2), height=30, class_="spec")
    least, most = at(dial.low), at(dial.high)
    window = el("rect", x=least, y=44, width=max(most - least, 2), height=10, class_="window")
    return spec + window


def _aim(x: float) -> str:
    return el("path", d=f"M{x:.1f} 34v46", class_="aim")


def _mark(dial: Setting, at: At) -> str:
    x, off = at(dial.value), dial.value * dial.tolerance
    left, right = at(dial.value - off), at(dial.value + off)
    whisker = el(
        "path", d=f"M{left:.1f} 24v8M{right:.1f} 24v8M{left:.1f} 28H{right:.1f}", class_="whisker"
    )
    share = f"± {format_number(dial.tolerance * 100, 1)} %"
    return (
        whisker
        + el("path", d=f"M{x:.1f} 60l-9 -26h18z", class_="mark")
        + text(x, 18, say("draw.set", figure=dial.text), class_="mid set")
        + text(right + 6, 31, share, class_="tiny")
    )


def _ticks(first: float, last: float, graduation: float, at: At) -> str:
    every = graduation
    while (last - first) / every > 60:
        every *= 5
    labelled = next(s for s in (0.5, 1, 2, 5, 10, 20, 50, 100) if (last - first) / s <= 8)
    lines, values = [], []
    for n in range(math.ceil(first / every - 1e-9), math.floor(last / every + 1e-9) + 1):
        value = n * every
        whole = abs(value / labelled - round(value / labelled)) < 1e-6
        lines.append(f"M{at(value):.1f} 66v{14 if whole else 7}")
        if whole:
            values.append(text(at(value), 104, format_number(value, 2), class_="mid value"))
    return el("path", d="".join(lines), class_="tick") + "".join(values)
