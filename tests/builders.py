"""Small engines for tests, said in a few words."""

from dataclasses import replace
from functools import cache
from typing import Any

from eldrim.core.base.quantity import parse
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import Head
from eldrim.core.job import Job, Work
from eldrim.core.procedure.model import Reading
from eldrim.core.run.plausible import span
from eldrim.core.tools.demand import Demand
from eldrim.demo.load import demo_engines

BOTH = (Work.COIL, Work.PLUG)


@cache
def tug() -> Engine:
    """The demo's transverse vee six."""
    return next(e for e in demo_engines() if e.id == "marlet-34-v6")


def job(*cylinders: int, work: tuple[Work, ...] = BOTH, **more: Any) -> Job:
    """A job on the only variant."""
    return Job(cylinders=cylinders, work=work, **more)


def document(holes: int = 3, **changes: Any) -> dict[str, Any]:
    """An inline engine with everything in the open, as a plain document."""
    wells = {"depth": "60 mm", "bore": "24 mm", "tilt": "0°", "room_above": "300 mm"}
    base: dict[str, Any] = {
        "format": "eldrim.engine/1",
        "id": "test-engine",
        "make": "Tarn",
        "name": "inline",
        "revision": 1,
        "layout": {
            "shape": "inline",
            "mounting": "along",
            "plan": [max(600, 120 + 80 * holes), 300],
            "block": [50, 80, 500, 140],
            "timing_end": "left",
            "stand": "bottom",
            "head": "aluminium",
            "system": "12 V",
        },
        "banks": {"only": {"name": "Only bank"}},
        "cylinders": {
            n: {"bank": "only", "place": n, "wells": [{**wells, "at": [60 + 80 * n, 150]}]}
            for n in range(1, holes + 1)
        },
        "ignition": {"kind": "coil_on_plug", "firing_order": list(range(1, holes + 1))},
        "variants": {"all": {"name": "all"}},
        "sources": {"wm": {"document": "Tarn manual", "edition": "1st edition"}},
        "figures": {
            "plug-torque": [{"value": "20 to 28 N·m", "source": "wm", "page": "3"}],
            "plug-gap": [{"value": "0.7 to 0.8 mm", "source": "wm", "page": "4"}],
        },
        "plugs": [
            {
                "part_number": "T-14",
                "thread": "M14×1.25",
                "reach": "19 mm",
                "seat": "gasket",
                "hex": "16 mm",
                "construction": "nickel",
                "plating": "nickel",
                "heat_range": "5",
                "resistor": True,
                "gap_supplied": "0.75 mm",
                "source": "wm",
                "page": "2",
            }
        ],
        "coils": [{"part_number": "C-1", "joints": {"connector": {"kind": "connector_press"}}}],
    }
    return {**base, **changes}


def part(out: float = 1, back: float = 1, **ways: dict[str, Any]) -> dict[str, Any]:
    """A part held by nothing in particular; more ways may be given by name."""
    every = {"remove": {"kind": "remove", "out": f"{out} min", "back": f"{back} min"}, **ways}
    return {"name": "Thing", "kind": "other", "outline": [[0, 0], [10, 0], [10, 10]], "ways": every}


def engine(holes: int = 3, **changes: Any) -> Engine:
    """An inline engine with these changes."""
    return Engine.model_validate(document(holes, **changes))


def blocked(
    parts: dict[str, dict[str, Any]], hindrances: list[tuple[str, list[str]]], holes: int = 3
) -> Engine:
    """An engine whose parts hinder as listed: (part, targets)."""
    listed = [{"part": p, "of": of, "kind": "hides"} for p, of in hindrances]
    return engine(holes, parts=parts, hindrances=listed)


def deep_plug(**changes: Any) -> Demand:
    """A hex 16 mm plug, hard, at the bottom of a well of 118 mm."""
    stuck = Demand(
        "plug-16-mm",
        "plug",
        Head.HEX,
        parse("16 mm"),
        "3/8",
        plug=True,
        height=50,
        below=118,
        surround=10,
        bore=26,
        hard=True,
    )
    return replace(stuck, **changes)


def typical(reading: Reading) -> float | str:
    """A value inside its window."""
    if reading.kind == "date":
        return "2087-05-20"
    if reading.key == "next_meter":
        return 9_000.0
    if reading.kind != "number":
        return reading.choices[0] if reading.choices else "none"
    if reading.low is not None and reading.high is not None:
        return (reading.low + reading.high) / 2
    least, most = span(reading)
    if reading.low is None and reading.high is None:
        return ((least or 0.0) + min(most or 2000.0, 2000.0)) / 2
    return reading.low + 1 if reading.low is not None else (reading.high or 0.0)
