"""The gap as a magnified wedge: range, aim, and a reading with what the gauge cannot tell."""

from functools import partial

from eldrim.core.base.quantity import convert, format_number, with_unit
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text

# Places after the point, where they are not those of millimetres.
PLACES = {"thou": 1, "in": 4}
WIDTH, LEFT, RIGHT, FLOOR, TALL = 760.0, 40.0, 720.0, 122.0, 70.0


def draw(
    low: float, high: float, aim: float, reading: float | None, resolution: float, unit: str = "mm"
) -> str:
    """Return the wedge for a range in mm, as thick as the gap it would fill; told in ``unit``."""
    told = partial(_told, unit=unit)
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

    said = say("draw.gap", low=told(low), high=told(high), aim=told(aim))
    marked = ""
    if reading is not None:
        said += say("draw.gap_measured", reading=told(reading))
        marked = _reading(reading, resolution, at, thick, told(reading))
    return el(
        "svg",
        strip(first, last, "wedge"),
        strip(low, high, "wedge-range"),
        *(_limit(at(one), thick(one), told(one)) for one in (low, high) if high > low),
        el("path", d=f"M{at(aim):.1f} {FLOOR}V{thick(aim):.1f}", class_="aim"),
        text(at(aim), 162, say("draw.aim", figure=told(aim)), class_="mid tiny aim-name"),
        marked,
        class_="gap-wedge",
        data_unit="mm",
        data_scale=f"{first:g} {last:g} {LEFT:g} {RIGHT:g} {WIDTH:g} 0.01",
        viewBox=f"0 0 {WIDTH:g} 170",
        role="img",
        aria_label=said,
    )


def _limit(x: float, top: float, value: str) -> str:
    line = el("path", d=f"M{x:.1f} {FLOOR + 6}V{top - 4:.1f}", class_="limit")
    return line + text(x, FLOOR + 22, value, class_="mid value")


def _reading(reading: float, resolution: float, at, thick, said: str) -> str:  # type: ignore[no-untyped-def]
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
        blur + mark + text(x, max(y - 12, 14), say("draw.measured", figure=said), class_="mid set")
    )


def _told(value: float, unit: str) -> str:
    return with_unit(format_number(convert(value, "mm", unit), PLACES.get(unit, 3)), unit)
