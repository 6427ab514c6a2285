"""The towers of a cap or a pack seen from above, with the hole each lead goes to as found."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import cos, radians, sin

from eldrim.core.engine.model import Distributor, Engine
from eldrim.core.leads.ways import tower_angles, tower_of
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text, title

SIDE, MIDDLE = 470.0, 235.0
CAP, RING, TOWER, HUB = 190.0, 142.0, 34.0, 40.0
# Of a pack: from tower to tower, and its height.
APART, HIGH = 82.0, 200.0


@dataclass(frozen=True)
class RingView:
    """What to show: the hole found at each tower, the tower in hand, the wrong ones, and where a
    tower leads to when it is tapped.
    """

    found: Mapping[int, str] = field(default_factory=dict)
    here: int = 0
    wrong: frozenset[int] = frozenset()
    links: Mapping[int, str] = field(default_factory=dict)


def draw(engine: Engine, view: RingView) -> str:
    """Return the towers as an SVG element; empty where the sheet states none."""
    if engine.ignition.distributor:
        return _cap(engine, engine.ignition.distributor, view)
    return _pack(engine, view) if engine.ignition.pack else ""


def _cap(engine: Engine, cap: Distributor, view: RingView) -> str:
    meant = {tower: hole for hole, tower in tower_of(engine).items()}
    angles = tower_angles(cap, len(meant))
    shapes = [
        el("circle", cx=MIDDLE, cy=MIDDLE, r=CAP, class_="cap"),
        _rotor(angles[0]),
        _arrow(cap.turns, angles[0]),
        el("circle", cx=MIDDLE, cy=MIDDLE, r=HUB, class_="hub"),
    ]
    for tower, angle in enumerate(angles, start=1):
        shapes.append(_tower(view, tower, _at(angle, RING), _at(angle, CAP + 22)))
    return _svg(engine, shapes, SIDE, SIDE, view)


def _pack(engine: Engine, view: RingView) -> str:
    pack = engine.ignition.pack
    assert pack is not None
    numbers = sorted(pack.towers)
    width = APART * len(numbers) + 40
    shapes = [el("rect", x=12, y=50, width=width - 24, height=100, rx=12, class_="cap")]
    places = {n: (20 + APART * (place + 0.5), 100.0) for place, n in enumerate(numbers)}
    hole_at = {pack.towers[n]: n for n in numbers}
    for pair in engine.ignition.waste_spark_pairs:
        one, other = sorted(hole_at[engine.holes_of(cylinder)[0]] for cylinder in pair)
        (x, _), (to, _) = places[one], places[other]
        drop = 176 if other - one == 1 else 190
        line = path([(x, 152), (x, drop), (to, drop), (to, 152)], closed=False)
        shapes.append(el("path", d=line, class_="pair"))
    shapes += [_tower(view, n, at, (at[0], 32)) for n, at in places.items()]
    return _svg(engine, shapes, width, HIGH, view)


def _svg(engine: Engine, shapes: list[str], width: float, height: float, view: RingView) -> str:
    said = say("ring.drawing", engine=engine.title)
    return el(
        "svg",
        title(said),
        *shapes,
        class_="lead-ring",
        viewBox=f"0 0 {width:g} {height:g}",
        role="group" if view.links else "img",
        aria_label=said,
    )


def _at(angle: float, far: float) -> tuple[float, float]:
    turn = radians(angle)
    return MIDDLE + far * sin(turn), MIDDLE - far * cos(turn)


def _rotor(angle: float) -> str:
    """The rotor's arm, at tower one."""
    return el(
        "path", d=path([(MIDDLE, MIDDLE), _at(angle, RING - TOWER - 8)], closed=False), class_="arm"
    )


def _arrow(turns: str, angle: float) -> str:
    """Which way the rotor turns, beside the hub."""
    sign = 1 if turns == "right" else -1
    points = [_at(angle + sign * step, HUB + 26) for step in range(20, 101, 8)]
    tip = _at(angle + sign * 112, HUB + 26)
    barbs = [_at(angle + sign * 96, HUB + 17), tip, _at(angle + sign * 96, HUB + 35)]
    return el("path", d=path([*points, tip], closed=False), class_="turning") + el(
        "path", d=path(barbs, closed=False), class_="turning-tip"
    )


def _tower(view: RingView, tower: int, at: tuple[float, float], label: tuple[float, float]) -> str:
    hole, wrong = view.found.get(tower, ""), tower in view.wrong
    shapes = el("circle", cx=at[0], cy=at[1], r=TOWER, class_="tower")
    shapes += text(at[0], at[1] + 9, hole or "?", class_="hole-there mid" if hole else "open mid")
    if wrong:
        cross = [(at[0] + 22, at[1] - 40), (at[0] + 38, at[1] - 24)]
        other = [(at[0] + 38, at[1] - 40), (at[0] + 22, at[1] - 24)]
        shapes += "".join(
            el("path", d=path(one, closed=False), class_="not-there") for one in (cross, other)
        )
    kind = " ".join(name for name, on in (("here", tower == view.here), ("wrong", wrong)) if on)
    group = el("g", shapes, class_=f"tower-of {kind}".strip())
    number = text(label[0], label[1] + 8, str(tower), class_="tower-number mid")
    link = view.links.get(tower)
    if link is None:
        return number + group
    said = (
        say("ring.tower_found", tower=tower, hole=hole)
        if hole
        else say("ring.tower_open", tower=tower)
    )
    said += f"; {say('ring.is_wrong')}" if wrong else ""
    return number + el(
        "a",
        title(said),
        group,
        href=link,
        data_swap="#leads-told",
        data_key=f"tower-{tower}",
        aria_label=said,
        role="button",
        aria_pressed="true" if tower == view.here else "false",
    )
