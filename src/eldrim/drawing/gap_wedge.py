"""The gap as a magnified wedge: range, aim, and a reading with what the gauge cannot tell."""

from eldrim.core.quantity import format_number
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text

WIDTH, LEFT, RIGHT, FLOOR, TALL = 760.0, 40.0, 720.0, 122.0, 70.0


def draw(low: float, high: float, aim: float, reading: float | None, resolution: float) -> str:
    """Return the wedge for a range in mm; the wedge is as thick as the gap it would fill."""
    room = max((high - low) * 0.9, 0.08, *([abs(reading - aim) * 1.15] if reading else []))
    first, last = max(0.0, aim - room), aim + room
    scale = (RIGHT - LEFT) / (last - first)

    def at(value: float) -> float:
        return LEFT + (value - first) * scale

    def thick(value: float) -> float:
        return FLOOR - TALL * value / last

    def strip(left: float, right: float, class_: str) -> str:
        corners = [(at(left), FLOOR), (at(right), FLOOR)]
        corners += [(at(right), thick(right)), (at(left), thick(left))]
        return el("path", d=path(corners), class_=class_)

    limits = (low, high) if high > low else ()
    said = say("draw.gap", low=_mm(low), high=_mm(high), aim=_mm(aim))
    said += say("draw.gap_measured", reading=_mm(reading)) if reading is not None else ""
    return el(
        "svg",
        strip(first, last, "wedge"),
        strip(low, high, "wedge-range"),
        *(_limit(at(limit), thick(limit), limit) for limit in limits),
        el("path", d=f"M{at(aim):.1f} {FLOOR}V{thick(aim):.1f}", class_="aim"),
        text(at(aim), 162, say("draw.aim", figure=_mm(aim)), class_="mid tiny aim-name"),
        _reading(reading, resolution, at, thick) if reading is not None else "",
        class_="gap-wedge",
        data_unit="mm",
        data_scale=f"{first:g} {last:g} {LEFT:g} {RIGHT:g} {WIDTH:g} 0.01",
        viewBox=f"0 0 {WIDTH:g} 170",
        role="img",
        aria_label=said,
    )


def _limit(x: float, top: float, value: float) -> str:
    line = el("path", d=f"M{x:.1f} {FLOOR + 6}V{top - 4:.1f}", class_="limit")
    return line + text(x, FLOOR + 22, _mm(value), class_="mid value")


def _reading(reading: float, resolution: float, at, thick) -> str:  # type: ignore[no-untyped-def]
    x, half = at(reading), resolution / 2
    left, right, y = at(reading - half), at(reading + half), thick(reading) - 8
    blur = el(
        "rect",
        x=left,
        y=thick(reading + half),
        width=max(right - left, 1),
        height=FLOOR - thick(reading + half),
        class_="blur",
    )
    mark = el("path", d=f"M{x:.1f} {y + 8:.1f}l-8 -16h16z", class_="mark")
    return (
        blur
        + mark
        + text(x, max(y - 12, 14), say("draw.measured", figure=_mm(reading)), class_="mid set")
    )


def _mm(value: float) -> str:
    return f"{format_number(value, 3)} mm"
