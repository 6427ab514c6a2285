"""The way of each lead on the plan, from its tower along its holders to its plug."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from math import cos, dist, radians, sin

from eldrim.core.engine.model import CoilPack, Distributor, Engine

Point = tuple[float, float]
COIL = "coil"


def tower_places(engine: Engine) -> dict[int, Point]:
    """Where each tower is on the plan, in mm, by its number; empty where that is not stated."""
    if engine.ignition.distributor:
        return _round(engine.ignition.distributor, len(engine.ignition.firing_order))
    return _in_a_row(engine.ignition.pack) if engine.ignition.pack else {}


def tower_angles(distributor: Distributor, count: int) -> list[float]:
    """Where the towers are, in degrees clockwise from the plan's top, from tower one on."""
    steps = [one.mid for one in distributor.angles] or [360 / count] * count
    sign = 1 if distributor.turns == "right" else -1
    at, found = distributor.tower_one.mid, []
    for step in steps[:count]:
        found.append(at % 360)
        at += sign * step
    return found


def _round(distributor: Distributor, count: int) -> dict[int, Point]:
    radius = distributor.across.mid / 2
    return {
        n: _from(distributor.at, angle, radius)
        for n, angle in enumerate(tower_angles(distributor, count), start=1)
    }


def _in_a_row(pack: CoilPack) -> dict[int, Point]:
    length, numbers = pack.along.mid, sorted(pack.towers)
    return {
        number: _from(pack.at, pack.lies.mid, length * (place / (len(numbers) - 1) - 0.5))
        for place, number in enumerate(numbers)
    }


def _from(at: Point, angle: float, far: float) -> Point:
    turn = radians(angle)
    return (at[0] + far * sin(turn), at[1] - far * cos(turn))


def tower_of(engine: Engine) -> dict[str, int]:
    """The tower each hole's lead belongs on: by the sheet of a pack; of a distributor by the firing
    order, also where the sheet does not say where it stands. Empty where neither tells.
    """
    if engine.ignition.pack:
        return {hole: number for number, hole in engine.ignition.pack.towers.items()}
    order = engine.ignition.firing_order
    if engine.ignition.kind != "distributor" or len(engine.holes) != len(order):
        return {}
    return {engine.holes_of(cylinder)[0]: n for n, cylinder in enumerate(order, start=1)}


@dataclass(frozen=True)
class LeadWay:
    """The way of one lead: how long, in mm; as measured, or as drawn through these points."""

    hole: str
    length: float
    measured: bool
    points: tuple[Point, ...]


def lead_ways(engine: Engine) -> dict[str, LeadWay]:
    """The way of every lead that is known, by hole; ``coil`` is that of the main coil.

    A measured length wins; one that is drawn needs its tower's place.
    """
    return {way.hole: way for way in _ways(engine)}


def _ways(engine: Engine) -> Iterator[LeadWay]:
    places, towers = tower_places(engine), tower_of(engine)
    ends: dict[str, tuple[Point | None, Point]] = {
        hole: (places.get(towers.get(hole, 0)), well.at) for hole, (_, well) in engine.holes.items()
    }
    if engine.ignition.main_coil and engine.ignition.distributor:
        ends[COIL] = (engine.ignition.main_coil, engine.ignition.distributor.at)
    for hole, (begin, end) in ends.items():
        run = engine.lead_runs.get(hole)
        stated = run.length.mid if run and run.length else None
        holders = run.holders if run else ()
        points = (begin, *holders, end) if begin else ()
        if stated is None and not points:
            continue
        drawn = sum(dist(one, other) for one, other in pairwise(points))
        yield LeadWay(hole, stated if stated is not None else drawn, stated is not None, points)
