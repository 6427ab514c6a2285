"""The shapes an engine can be started from: holes in place, wells as usual, nothing empty.

Everything a shape says is a beginning: its source reads *to be stated* until somebody has looked.
"""

from dataclasses import dataclass
from typing import Any

from eldrim.core.engine.model import TO_BE_STATED, TO_STATE, UNSTATED, Engine

PITCH, EDGE = 110.0, 150.0


@dataclass(frozen=True)
class Shape:
    """One shape: how the cylinders stand, how many a bank, how the spark gets there.

    ``banks`` are key and name; ``along`` tells that rows run up the plan instead of across it.
    """

    key: str
    name: str
    shape: str
    banks: tuple[tuple[str, str], ...]
    each: int
    ignition: str = "coil_on_plug"
    along: bool = False
    cover: bool = True


_ONE = (("only", "Only bank"),)
SHAPES: tuple[Shape, ...] = (
    Shape("inline-four", "Inline four, across, coil on plug", "inline", _ONE, 4),
    Shape("inline-three", "Inline three, across, coil on plug", "inline", _ONE, 3),
    Shape("inline-six", "Inline six, across, coil on plug", "inline", _ONE, 6),
    Shape("inline-four-leads", "Inline four, across, leads and distributor", "inline", _ONE, 4,
          "distributor", cover=False),
    Shape("inline-four-pack", "Inline four, along, leads and coil pack", "inline", _ONE, 4,
          "coil_pack", along=True),
    Shape("inline-six-leads", "Inline six, along, leads and distributor", "inline", _ONE, 6,
          "distributor", along=True, cover=False),
    Shape("vee-four", "Vee four, across, coil on plug", "vee",
          (("rear", "Rear bank"), ("front", "Front bank")), 2),
    Shape("vee-six", "Vee six, across, coil on plug", "vee",
          (("rear", "Rear bank"), ("front", "Front bank")), 3),
    Shape("vee-eight", "Vee eight, along, coil on plug", "vee",
          (("left", "Left bank"), ("right", "Right bank")), 4, along=True),
    Shape("vee-eight-leads", "Vee eight, along, leads and distributor", "vee",
          (("left", "Left bank"), ("right", "Right bank")), 4, "distributor", along=True,
          cover=False),
    Shape("flat-four", "Flat four, along, leads and coil pack", "flat",
          (("left", "Left bank"), ("right", "Right bank")), 2, "coil_pack", along=True,
          cover=False),
    Shape("flat-six", "Flat six, along, coil on plug", "flat",
          (("left", "Left bank"), ("right", "Right bank")), 3, along=True, cover=False),
    Shape("vee-twin", "Vee twin, leads", "vee", (("rear", "Rear"), ("front", "Front")), 1,
          "coil_pack", cover=False),
    Shape("single", "Single, one lead", "single", _ONE, 1, "coil_pack", cover=False),
)  # fmt: skip
BY_KEY = {shape.key: shape for shape in SHAPES}


@dataclass(frozen=True)
class Beginning:
    """What is said of an engine before anything is drawn."""

    key: str
    make: str
    name: str
    head: str = "aluminium"
    service: str = "road"


def start(shape: Shape, begun: Beginning) -> Engine:
    """Return a consistent sheet of this shape, ready to be drawn on and planned with."""
    plan, block = _sizes(shape)
    cylinders = dict(sorted(_cylinders(shape).items()))
    document: dict[str, Any] = {
        "format": "eldrim.engine/1",
        "id": begun.key,
        "make": begun.make,
        "name": begun.name,
        "revision": 1,
        "layout": _layout(shape, begun, plan, block),
        "banks": {key: {"name": name} for key, name in shape.banks},
        "cylinders": cylinders,
        "ignition": {"kind": shape.ignition, "firing_order": sorted(cylinders)},
        "variants": {"all": {"name": "all"}},
        "sources": {TO_STATE: {"document": UNSTATED, "edition": "none"}},
        "figures": {},
        "plugs": [PLUG_TO_STATE],
        **_carriers(shape),
        "parts": _cover(shape, block),
    }
    if shape.cover:
        holes = [f"hole/{number}" for number in cylinders]
        document["hindrances"] = [{"part": "cover", "of": holes, "kind": "hides"}]
    return Engine.model_validate(document)


def _layout(
    shape: Shape, begun: Beginning, plan: list[float], block: list[float]
) -> dict[str, Any]:
    return {
        "shape": shape.shape,
        "mounting": "along" if shape.along else "across",
        "plan": plan,
        "block": block,
        "timing_end": "bottom" if shape.along else "left",
        "stand": "bottom",
        "head": begun.head,
        "service": begun.service,
        "system": "12 V",
    }


# What stands for the plug until somebody has looked it up.
PLUG_TO_STATE = {
    "part_number": TO_BE_STATED,
    "thread": "M14×1.25",
    "reach": "19 mm",
    "seat": "gasket",
    "hex": "16 mm",
    "construction": "nickel",
    "plating": "nickel",
    "heat_range": TO_BE_STATED,
    "resistor": True,
    "gap_supplied": "0.8 mm",
    "source": TO_STATE,
    "page": "none",
}


def _sizes(shape: Shape) -> tuple[list[float], list[float]]:
    rows, long = len(shape.banks), PITCH * shape.each + 60
    deep = 200.0 if rows == 1 else 380.0
    plan = [long + 2 * EDGE, deep + 2 * EDGE]
    block = [EDGE, EDGE, long, deep]
    return (plan, block) if not shape.along else (plan[::-1], [block[1], block[0], deep, long])


def _cylinders(shape: Shape) -> dict[int, dict[str, Any]]:
    plan, (x, y, width, height) = _sizes(shape)
    del plan
    rows = len(shape.banks)
    found = {}
    for row, (bank, _) in enumerate(shape.banks):
        for place in range(shape.each):
            number = place * rows + row + 1
            step = 85 + PITCH * place
            off = (0.5 if rows == 1 else 0.22 + 0.56 * row) * (width if shape.along else height)
            # Along, places count from the timing end at the bottom of the plan.
            at = [x + off, y + height - step] if shape.along else [x + step, y + off]
            found[number] = {"bank": bank, "place": place + 1, "wells": [_well(at, shape)]}
    return found


def _well(at: list[float], shape: Shape) -> dict[str, Any]:
    open_sided = shape.ignition != "coil_on_plug"
    depth, bore = ("30 mm", "30 mm") if open_sided else ("90 mm", "26 mm")
    return {"at": at, "depth": depth, "bore": bore, "tilt": "0°", "room_above": "300 mm"}


def _carriers(shape: Shape) -> dict[str, Any]:
    if shape.ignition == "coil_on_plug":
        joints = {
            "connector": {"kind": "connector_press", "carries": "electric"},
            "body": {"kind": "push_coil"},
        }
        return {"coils": [{"part_number": TO_BE_STATED, "joints": joints}]}
    boot = {"boot": {"kind": "lead_boot"}}
    return {"leads": [{"part_number": TO_BE_STATED, "joints": boot}]}


def _cover(shape: Shape, block: list[float]) -> dict[str, Any]:
    if not shape.cover:
        return {}
    x, y, width, height = block
    box = [
        [x + 14, y + 14],
        [x + width - 14, y + 14],
        [x + width - 14, y + height - 14],
        [x + 14, y + height - 14],
    ]
    return {
        "cover": {
            "name": "Cover",
            "kind": "cover",
            "level": 6,
            "needed_to_run": False,
            "outline": box,
            "joints": {"posts": {"kind": "posts", "count": 4}},
            "ways": {
                "remove": {"kind": "remove", "out": "0.6 min", "back": "0.6 min", "estimated": True}
            },
        }
    }
