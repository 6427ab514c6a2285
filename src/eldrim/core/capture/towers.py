"""Towers and the ways of leads, each in one line, as they are typed on the board.

A distributor: ``at 320 560; across 100 mm; left; tower one 332°; cap tab aft; body 76 mm``.
A pack: ``at 410 380; along 150 mm; lies 90°; 1=1, 2=6, 3=2``.
Ways: ``1: 230 480, 225 260; 3: 560 mm (straight boot)``.
"""

import re
from collections.abc import Iterator
from typing import Any

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, parse
from eldrim.core.capture.plain_facts import clauses
from eldrim.core.engine.model import CoilPack, Distributor, Engine, LeadRun
from eldrim.core.words.messages import gettext

_NUMBER = r"-?\d+(?:[.]\d+)?"
_POINT = re.compile(rf"({_NUMBER})\s+({_NUMBER})")
_TOWER = re.compile(r"(\d{1,3})\s*=\s*(\d{1,3}[ab]?)")
CAP_FIX = "write it as at 320 560; across 100 mm; left; tower one 332°; cap tab to the stern"
PACK_FIX = "write it as at 410 380; along 150 mm; lies 90°; 1=1, 2=6, 3=2, 4=5"
WAY_FIX = "write it as 1: 230 480, 225 260; 3: 560 mm (straight boot); coil: 130 mm"
_ENDS = re.compile(r"(.*)\((.*)\)")


def towers_line(engine: Engine) -> str:
    """What the sheet says of its distributor or pack, as it is typed."""
    cap, pack = engine.ignition.distributor, engine.ignition.pack
    if cap:
        return "; ".join(_cap_words(cap))
    return "; ".join(_pack_words(pack)) if pack else ""


def _cap_words(cap: Distributor) -> Iterator[str]:
    yield f"at {_point(cap.at)}"
    yield f"across {cap.across.text}"
    yield cap.turns
    yield f"tower one {cap.tower_one.text}"
    if cap.angles:
        yield f"angles {', '.join(one.text for one in cap.angles)}"
    if cap.body:
        yield f"body {cap.body.text}"
    if cap.stand:
        yield f"stand {cap.stand}"
    if cap.keyed:
        yield f"cap {cap.keyed}"
    if cap.rotor:
        yield f"rotor {cap.rotor}"


def _pack_words(pack: CoilPack) -> Iterator[str]:
    yield f"at {_point(pack.at)}"
    yield f"along {pack.along.text}"
    yield f"lies {pack.lies.text}"
    yield ", ".join(f"{tower}={hole}" for tower, hole in pack.towers.items())


def _point(at: tuple[float, float]) -> str:
    return f"{at[0]:g} {at[1]:g}"


def read_towers(engine: Engine, line: str) -> dict[str, Any]:
    """The ``distributor`` or ``pack`` of a sheet from such a line; none where nothing is said.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    if engine.ignition.kind == "coil_on_plug":
        if line.strip():
            said, fix = "each plug has a coil of its own", "leave the towers out"
            raise EngineError([Problem("towers", said, fix)])
        return {}
    if not line.strip():
        return {"distributor": None, "pack": None}
    of_cap = engine.ignition.kind == "distributor"
    found: dict[str, Any] = {}
    problems = []
    for clause in clauses("towers", line):
        read = _of_cap(clause) if of_cap else _of_pack(clause)
        if not read:
            fix = CAP_FIX if of_cap else PACK_FIX
            problems.append(
                Problem("towers", gettext("'{clause}' is not understood", clause=clause[:60]), fix)
            )
        found |= read
    needed = ("at", "turns", "tower_one") if of_cap else ("at", "towers")
    lacking = [NAMES[one] for one in needed if one not in found]
    if lacking and not problems:
        fix = CAP_FIX if of_cap else PACK_FIX
        problems.append(
            Problem("towers", gettext("do not say {lacking}", lacking=" and ".join(lacking)), fix)
        )
    if problems:
        raise EngineError(problems)
    return {"distributor" if of_cap else "pack": found}


# What a line has to say, in words.
NAMES = {
    "at": "where the middle is",
    "turns": "which way the rotor turns",
    "tower_one": "where tower one is",
    "towers": "which tower goes where",
}


def _of_cap(clause: str) -> dict[str, Any]:
    word, _, rest = clause.partition(" ")
    word = word.lower()
    if clause.lower() in ("left", "right"):
        return {"turns": clause.lower()}
    if word == "at":
        return _placed(rest)
    if word == "tower" and rest.lower().startswith("one "):
        return _measured("tower_one", rest[4:], Dimension.ANGLE)
    if word == "stand" and rest.lower() in ("top", "bottom", "left", "right"):
        return {"stand": rest.lower()}
    if word in ("across", "body"):
        return _measured(word, rest, Dimension.LENGTH)
    if word == "angles":
        angles = [one.strip() for one in rest.split(",")]
        fits = all(_measured("angle", one, Dimension.ANGLE) for one in angles)
        return {"angles": angles} if fits else {}
    texts = {"cap": "keyed", "rotor": "rotor"}
    return {texts[word]: rest} if word in texts and rest else {}


def _of_pack(clause: str) -> dict[str, Any]:
    word, _, rest = clause.partition(" ")
    if word.lower() == "at":
        return _placed(rest)
    if word.lower() == "along":
        return _measured("along", rest, Dimension.LENGTH)
    if word.lower() == "lies":
        return _measured("lies", rest, Dimension.ANGLE)
    pairs = [_TOWER.fullmatch(one.strip()) for one in clause.split(",")]
    towers = {int(fits[1]): fits[2] for fits in pairs if fits}
    return {"towers": towers} if len(towers) == len(pairs) else {}


def _placed(said: str) -> dict[str, Any]:
    fits = _POINT.fullmatch(said.replace(",", " ").strip())
    return {"at": (float(fits[1]), float(fits[2]))} if fits else {}


def _measured(name: str, said: str, dimension: Dimension) -> dict[str, Any]:
    try:
        parse(said, dimension)
    except QuantityError:
        return {}
    return {name: said}


def ways_line(engine: Engine) -> str:
    """What the sheet says of the ways of leads, as it is typed."""
    return "; ".join(f"{hole}: {_way(run)}" for hole, run in engine.lead_runs.items())


def _way(run: LeadRun) -> str:
    said = [run.length.text] if run.length else []
    ends = f" ({run.ends})" if run.ends else ""
    return ", ".join([*said, *map(_point, run.holders)]) + ends


def read_ways(engine: Engine, line: str) -> dict[str, Any]:
    """The ``lead_runs`` of a sheet from such a line; what stands in brackets is said of the ends.

    Raises :class:`EngineError` with every clause that is not understood.
    """
    found: dict[str, Any] = {}
    problems = []
    for clause in clauses("lead_runs", line):
        hole, _, said = clause.partition(":")
        run = _read_way(said)
        if run is None or not hole.strip():
            problems.append(
                Problem(
                    "lead_runs",
                    gettext("'{clause}' is not understood", clause=clause[:60]),
                    WAY_FIX,
                )
            )
            continue
        hole = hole.strip().lower()
        if hole in found:
            problems.append(
                Problem(
                    "lead_runs", gettext("{hole} stands twice", hole=hole), gettext("say each once")
                )
            )
        found[hole] = run
    if problems:
        raise EngineError(problems)
    return found


def _read_way(said: str) -> dict[str, Any] | None:
    run: dict[str, Any] = {"holders": []}
    if ends := _ENDS.fullmatch(said.strip()):
        said, run["ends"] = ends[1], ends[2]
        if not said.strip():
            return run
    for part in (one.strip() for one in said.split(",")):
        fits = _POINT.fullmatch(part)
        if fits:
            run["holders"].append((float(fits[1]), float(fits[2])))
        elif "length" not in run and _measured("length", part, Dimension.LENGTH):
            run["length"] = part
        else:
            return None
    return run
