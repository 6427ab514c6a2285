"""Made-up engines of any size, with the structure real ones have: layers, shared parts, choices."""

import random
from typing import Any

from eldrim.core.engine import Engine

CYLINDERS = 12


def engine(parts: int, seed: int = 1) -> Engine:
    """Return an engine with ``parts`` movable parts over twelve holes; same seed, same engine."""
    chance = random.Random(seed)
    names = [f"p{i}" for i in range(parts)]
    layer = {name: i * 6 // parts for i, name in enumerate(names)}
    listed = [h for name in names for h in _hindrances(chance, name, names, layer)]
    return Engine.model_validate(
        {
            "id": f"synthetic-{parts}",
            "make": "Tarn",
            "name": f"{parts} parts",
            "revision": 1,
            "layout": {
                "shape": "vee",
                "mounting": "along",
                "plan": [900, 500],
                "block": [50, 50, 800, 400],
                "timing_end": "left",
                "stand": "bottom",
                "head": "iron",
                "system": "12 V",
            },
            "banks": {"only": {"name": "Only bank"}},
            "cylinders": {
                n: {
                    "bank": "only",
                    "place": n,
                    "wells": [
                        {
                            "at": [60 * n, 250],
                            "depth": "60 mm",
                            "bore": "24 mm",
                            "tilt": "0°",
                            "room_above": "200 mm",
                        }
                    ],
                }
                for n in range(1, CYLINDERS + 1)
            },
            "ignition": {"kind": "coil_on_plug", "firing_order": list(range(1, CYLINDERS + 1))},
            "variants": {"all": {"name": "all"}},
            "sources": {"wm": {"document": "Made up", "edition": "1"}},
            "figures": {
                "plug-torque": [{"value": "20 to 28 N·m", "source": "wm", "page": "1"}],
                "plug-gap": [{"value": "0.8 mm", "source": "wm", "page": "1"}],
            },
            "plugs": [
                {
                    "part_number": "T",
                    "thread": "M14×1.25",
                    "reach": "19 mm",
                    "seat": "gasket",
                    "hex": "16 mm",
                    "construction": "nickel",
                    "plating": "nickel",
                    "heat_range": "5",
                    "resistor": True,
                    "gap_supplied": "0.8 mm",
                    "source": "wm",
                    "page": "1",
                }
            ],
            "coils": [{"part_number": "C", "joints": {"connector": {"kind": "connector_press"}}}],
            "parts": {name: _part(chance) for name in names},
            "hindrances": listed,
        }
    )


def _part(chance: random.Random) -> dict[str, Any]:
    def minutes() -> str:
        return f"{chance.randint(5, 90) / 10} min"

    size = f"{chance.choice([8, 10, 12, 13])} mm"
    joints = {
        "bolts": {"kind": "bolt", "head": "hex", "size": size, "count": chance.randint(1, 6)},
        "plug": {"kind": chance.choice(["connector_press", "hose_spring_clamp", "clip"])},
    }
    ways = {"remove": {"kind": "remove", "out": minutes(), "back": minutes()}}
    if chance.random() < 0.5:
        ways["swing"] = {"kind": "swing_aside", "out": minutes(), "back": minutes()}
    if chance.random() < 0.3:
        ways["shift"] = {"kind": "loosen_and_shift", "out": minutes(), "back": minutes()}
    outline = [[0, 0], [9, 0], [9, 9]]
    return {"name": "Part", "kind": "other", "outline": outline, "joints": joints, "ways": ways}


def _hindrances(
    chance: random.Random, name: str, names: list[str], layer: dict[str, int]
) -> list[dict[str, Any]]:
    """A part lies over one to three things of the layer below; the lowest over holes."""
    below = [n for n in names if layer[n] == layer[name] - 1]
    holes = [f"hole/{n}" for n in range(1, CYLINDERS + 1)]
    pool = [t for n in below for t in (n, f"{n}/remove")] or holes
    found = []
    for _ in range(chance.randint(1, 2)):
        of = chance.sample(pool, min(len(pool), chance.randint(1, 2)))
        rounds = {}
        if chance.random() < 0.35:
            rounds = {
                "r": {
                    "kind": "wobble",
                    "out": f"{chance.randint(10, 60) / 10} min",
                    "back": "2 min",
                }
            }
        found.append({"part": name, "of": of, "kind": "blocks_tool", "rounds": rounds})
    return found
