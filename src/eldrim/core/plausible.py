"""Values of a sheet that cannot be: held like slips, with what was most likely meant.

Wells, ways and the plan itself; figures and plugs are held by :mod:`eldrim.core.consistency`.
Source of the bands: geometry of engines of all shapes, docs/craft.md §3, §6, §8.
"""

import math
from collections.abc import Iterator

from eldrim.core.base.errors import Problem
from eldrim.core.base.quantity import Dimension, Quantity
from eldrim.core.engine.model import Engine, Well
from eldrim.core.engine.parts import Joint, Point, place_words
from eldrim.core.figures.bands import Band
from eldrim.core.figures.slips import Held, examine
from eldrim.core.words.messages import either, gettext, gettext_lazy

L, A = Dimension.LENGTH, Dimension.ANGLE
# A length of a well, in mm: what it usually is, and what it can hardly be outside of.
WELL_BANDS = {
    "depth": Band(gettext_lazy("a well's depth"), L, 5, 250, 0, 400),
    "bore": Band(gettext_lazy("a well's bore"), L, 18, 45, 14, 90),
    "room_above": Band(gettext_lazy("the room over a well"), L, 20, 1000, 5, 3000),
    "room_open": Band(gettext_lazy("the room over an open well"), L, 40, 1500, 15, 3000),
    "surround": Band(gettext_lazy("what stands round a well"), L, 0, 80, 0, 300),
    "tilt": Band(gettext_lazy("a well's tilt"), A, 0, 60, 0, 90),
    "line": Band(gettext_lazy("the lean of the line"), A, 0, 30, 0, 90),
    "swing": Band(gettext_lazy("the swing of a handle"), A, 5, 360, 2, 360),
}
JOINT_BANDS = {
    "below": Band(gettext_lazy("how far a head lies below"), L, 0, 300, 0, 800),
    "pocket": Band(gettext_lazy("a pocket's bore"), L, 10, 60, 6, 200),
    "room": Band(gettext_lazy("the room over a head"), L, 10, 600, 5, 3000),
    "size": Band(gettext_lazy("a head's size"), L, 4, 24, 1.5, 60),
}
VOLTAGE_BAND = Band(gettext_lazy("a vehicle's system voltage"), Dimension.VOLTAGE, 6, 24, 6, 60)
# What one way may take, in minutes; a day's work on one part is a slip.
WAY_MINUTES = (0.0, 480.0)


def implausible(engine: Engine) -> Iterator[Problem]:
    """Return a problem for every value that cannot be, each with its path and likely reading."""
    yield from _held(engine.layout.system, VOLTAGE_BAND, "layout.system")
    yield from _wells(engine)
    yield from _joints(engine)
    yield from _minutes(engine)
    yield from _places(engine)


def _wells(engine: Engine) -> Iterator[Problem]:
    for number, cylinder in engine.cylinders.items():
        for index, well in enumerate(cylinder.wells):
            path = f"cylinders.{number}.wells[{index}]"
            for field in () if well.confirmed else WELL_BANDS:
                yield from _held(getattr(well, field), WELL_BANDS[field], f"{path}.{field}")
            yield from _room_and_bore(well, path)


def _room_and_bore(well: Well, path: str) -> Iterator[Problem]:
    if well.room_open is not None and well.room_open.mid < well.room_above.mid:
        said = gettext(
            "{room_open} open is less than {room_above} with nothing removed",
            room_open=well.room_open,
            room_above=well.room_above,
        )
        yield Problem(f"{path}.room_open", said, gettext("state what is free once the way is open"))


def _held(value: Quantity | None, band: Band, path: str) -> Iterator[Problem]:
    if value is None or band.holds(value.low, value.high):
        return
    held = examine(value.text, band, band.dimension)
    readings = held.readings if isinstance(held, Held) else ()
    meant = either(f"{reading.text} ({reading.how})" for reading in readings)
    said = gettext(
        "{value} cannot be {what}; {plausible} can",
        value=value,
        what=band.what,
        plausible=band.plausible,
    )
    fix = gettext("likely meant: {meant}", meant=meant) if meant else gettext("measure it again")
    where = gettext("; or confirm the well in words") if ".wells[" in path else ""
    yield Problem(path, said, f"{fix}{where}")


def _joints(engine: Engine) -> Iterator[Problem]:
    owners: list[tuple[str, dict[str, Joint]]] = [
        *((f"parts.{key}", part.joints) for key, part in engine.parts.items()),
        *((f"coils[{index}]", coil.joints) for index, coil in enumerate(engine.coils)),
        *((f"leads[{index}]", lead.joints) for index, lead in enumerate(engine.leads)),
    ]
    for path, joints in owners:
        for key, joint in joints.items():
            for field, band in JOINT_BANDS.items():
                yield from _held(getattr(joint, field), band, f"{path}.joints.{key}.{field}")


def _minutes(engine: Engine) -> Iterator[Problem]:
    stated = [
        (f"parts.{key}.ways.{name}", way)
        for key, part in engine.parts.items()
        for name, way in part.ways.items()
    ]
    rounds = [
        (f"hindrances[{index}].rounds.{name}", work)
        for index, hindrance in enumerate(engine.hindrances)
        for name, work in hindrance.rounds.items()
    ]
    for path, work in (*stated, *rounds):
        for field in ("out", "back"):
            value: Quantity = getattr(work, field)
            if not WAY_MINUTES[0] <= value.low <= value.high <= WAY_MINUTES[1]:
                said = gettext("{value} is more than a day's work for one part", value=value)
                yield Problem(f"{path}.{field}", said, gettext("write it in min, as 5 min"))


def _places(engine: Engine) -> Iterator[Problem]:
    """Coordinates are finite and lie on the plan."""
    width, height = engine.layout.plan
    if not (0 < width <= 10_000 and 0 < height <= 10_000):
        yield Problem(
            "layout.plan",
            gettext(
                "a plan of {width} by {height} mm cannot be",
                width=f"{width:g}",
                height=f"{height:g}",
            ),
            gettext("measure in mm"),
        )
        return
    x, y, wide, high = engine.layout.block
    corners = ((x, y), (x + wide, y + high))
    yield from _on_plan("layout.block", corners, width, height)
    for key, part in engine.parts.items():
        yield from _on_plan(f"parts.{key}.outline", part.outline, width, height)
        for name, joint in part.joints.items():
            yield from _on_plan(f"parts.{key}.joints.{name}.at", joint.at, width, height)


def _on_plan(
    path: str, points: tuple[Point, ...], width: float, height: float
) -> Iterator[Problem]:
    """A part may stand over the plan's edge by a fifth of it; further it is another plan's."""
    for x, y in points:
        wide, high = 0.2 * width, 0.2 * height
        if not (math.isfinite(x) and math.isfinite(y)):
            yield Problem(
                path, gettext("({x}, {y}) is no place", x=x, y=y), gettext("write numbers, in mm")
            )
        elif not (-wide <= x <= width + wide and -high <= y <= height + high):
            said = gettext("{at} lies off the plan", at=place_words((x, y)))
            yield Problem(
                path,
                said,
                gettext(
                    "stay within 0..{width} by 0..{height}",
                    width=f"{width:g}",
                    height=f"{height:g}",
                ),
            )
            return
