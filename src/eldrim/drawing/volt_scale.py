"""The window of a voltage on its scale, with where another verdict begins."""

from eldrim.core.base.quantity import format_number
from eldrim.core.procedure.model import Reading
from eldrim.core.words import say
from eldrim.drawing.svg import el, text

WIDTH, LEFT, RIGHT = 760.0, 24.0, 736.0


def draw(reading: Reading) -> str:
    """Return the scale of a reading that says something of its values; empty for another."""
    ends = [one.least for one in reading.says if one.least is not None]
    if reading.unit != "V" or not ends:
        return ""
    low = reading.low if reading.low is not None else min(ends)
    high = reading.high if reading.high is not None else max(ends)
    room = max(high - low, 0.08 * high, 0.2)
    first, last = max(0.0, low - room), high + room

    def at(value: float) -> float:
        return LEFT + (value - first) * (RIGHT - LEFT) / (last - first)

    shown = sorted({end for end in (*ends, low, high) if first < end < last})
    said = say("sum.span", low=format_number(low, 2), high=format_number(high, 2), unit="V")
    return el(
        "svg",
        el("path", d=f"M{LEFT} 62H{RIGHT}", class_="axis"),
        el("rect", x=at(low), y=34, width=max(at(high) - at(low), 2), height=28, class_="spec"),
        *_ticks(shown, at),
        class_="torque-rule volt-scale",
        viewBox=f"0 0 {WIDTH:g} 100",
        role="img",
        aria_label=say("draw.volts", span=said),
    )


def _ticks(values: list[float], at) -> list[str]:  # type: ignore[no-untyped-def]
    """Every limit; its number where the one before leaves room for it."""
    found, free = [], 0.0
    for value in values:
        x = at(value)
        tick = el("path", d=f"M{x:.1f} 62v12", class_="tick")
        fits = x - free > 58
        free = x if fits else free
        label = text(x, 94, f"{format_number(value, 2)}", class_="mid value") if fits else ""
        found.append(tick + label)
    return found
