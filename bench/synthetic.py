"""Made-up engines of any size, with the structure real ones have: layers, shared parts, choices."""

import random
from typing import Any

from tests.builders import engine as inline

from eldrim.core.engine import Engine

CYLINDERS = 12


def engine(parts: int, seed: int = 1) -> Engine:
    """Return an engine with ``parts`` movable parts over twelve holes; same seed, same engine."""
    chance = random.Random(seed)
    names = [f"p{i}" for i in range(parts)]
    layer = {name: i * 6 // parts for i, name in enumerate(names)}
    listed = [h for name in names for h in _hindrances(chance, name, names, layer)]
    return inline(
        CYLINDERS,
        id=f"synthetic-{parts}",
        name=f"{parts} parts",
        parts={name: _part(chance) for name in names},
        hindrances=listed,
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
