"""Sums of the timing: body, dial, dwell, the verdict of the lamp, advance from a curve.

The distributor turns at half the crank's speed. Its body turned against the rotor advances.
"""

import itertools
from collections.abc import Sequence

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.quantity import Quantity
from eldrim.core.figures.arc import arc_length
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.sums.torque_sums import number
from eldrim.core.words.messages import gettext, gettext_noop

ROTOR = ("right", "left")
CYLINDERS = ("4", "6", "8", "1", "2", "3", "12")
# Idle equals static within this, in degrees of the crank (docs/craft.md §16).
SAME = 1.0
TIMING = f"{SHOP} §16; the maker's figures win"


def edge(diameter: float, crank: float) -> float:
    """How far the edge of a body moves for so many degrees of the crank, in mm."""
    return arc_length(diameter, crank / 2)


def against(rotor: str) -> str:
    """The way against a rotor's direction."""
    return "left" if rotor == "right" else "right"


# How the body is turned: which way, and whether that advances.
TURNS = {
    ("left", True): gettext_noop("turn the body {error}° to the left, against the rotor"),
    ("right", True): gettext_noop("turn the body {error}° to the right, against the rotor"),
    ("left", False): gettext_noop("turn the body {error}° to the left, with the rotor"),
    ("right", False): gettext_noop("turn the body {error}° to the right, with the rotor"),
}


def _turn(error: float, rotor: str, diameter: float | None) -> tuple[str, dict[str, float | str]]:
    """How to turn the body for an error in degrees of the crank (over 0: it has to advance)."""
    way = against(rotor) if error > 0 else rotor
    said = gettext(TURNS[way, error > 0], error=number(abs(error) / 2))
    values: dict[str, float | str] = {"body": round(abs(error) / 2, 3), "way": way}
    if diameter is not None:
        far = edge(diameter, abs(error))
        said += gettext(": {far} mm of its edge", far=number(far))
        values["edge"] = round(far, 3)
    return said, values


def body(given: Given) -> SumResult:
    """How far to turn the distributor's body, and which way, for the timing to be right."""
    found, wanted = given.quantity("found").mid, given.quantity("wanted").mid
    diameter = given.quantity("diameter").mid
    error = round(wanted - found, 6)
    if not error:
        result = gettext("It is right: leave it")
        values: dict[str, float | str] = {"body": 0.0, "edge": 0.0, "way": "none"}
    else:
        said, values = _turn(error, given.choice("rotor"), diameter)
        result = said[0].upper() + said[1:]
    return SumResult(
        result=f"{result}.",
        formula=gettext(
            "body = error ÷ 2; edge = π × diameter × body ÷ 360; against the rotor advances"
        ),
        working=(
            gettext(
                "error {wanted}° − {found}° = {error}° of the crank",
                wanted=number(wanted),
                found=number(found),
                error=number(error),
            ),
            gettext(
                "π × {diameter} mm × {turned}° ÷ 360 = {edge} mm",
                diameter=number(diameter),
                turned=number(abs(error) / 2),
                edge=number(edge(diameter, abs(error))),
            ),
        ),
        source=gettext("half the crank's speed, the arc of a circle; {timing}", timing=TIMING),
        values={**values, "error": error},
    )


def dial(given: Given) -> SumResult:
    """The advance that a lamp with a dial shows: what is dialled and what is left at the mark."""
    dialled, left = given.quantity("dial").mid, given.quantity("offset").mid
    late = given.choice("side") == "after the mark"
    advance = dialled - left if late else dialled + left
    sign = "−" if late else "+"
    return SumResult(
        result=gettext("{advance}° of advance.", advance=number(advance)),
        formula=gettext("advance = dial + what is left before the mark"),
        working=(f"{number(dialled)}° {sign} {number(left)}° = {number(advance)}°",),
        source=TIMING,
        values={"advance": round(advance, 3)},
    )


def dwell(given: Given) -> SumResult:
    """What a dwell is in degrees and per cent, and which way the gap of the points goes for it."""
    count, said = int(given.choice("cylinders")), given.quantity("dwell").mid
    whole = 360 / count
    if said > whole:
        fix = gettext("one cylinder of {count} has {whole}°", count=count, whole=number(whole))
        raise ProblemsError(
            [Problem("dwell", gettext("{said}° cannot be", said=number(said)), fix)]
        )
    share = said / whole * 100
    act = gettext("Set it before the timing.")
    verdict = "told"
    if not given.blank("limits"):
        limits = given.quantity("limits")
        verdict = "over" if said > limits.high else "under" if said < limits.low else "in"
        act = {
            "in": gettext("Inside its limits: leave it."),
            "over": gettext("Too long: open the points a little, then look at the timing again."),
            "under": gettext(
                "Too short: close the points a little, then look at the timing again."
            ),
        }[verdict]
    return SumResult(
        result=gettext(
            "{said}° is {share} %. {act}", said=number(said), share=number(share), act=act
        ),
        formula=gettext("share = dwell ÷ (360 ÷ cylinders); a wider gap makes it shorter"),
        working=(f"{number(said)} ÷ (360 ÷ {count}) = {number(share)} %",),
        source=TIMING,
        values={"percent": round(share, 3), "verdict": verdict},
    )


# What follows from each verdict of the lamp.
ACTS = {
    "leave": gettext_noop("Leave it"),
    "set": gettext_noop("Idle is not the static timing: {turn}"),
    "total counts": gettext_noop(
        "Idle is not the static timing, but the total is inside its range and would leave it: "
        "leave it, and look at the advance"
    ),
    "back": gettext_noop("Total is over its range: {turn}"),
    "forward": gettext_noop("Total is under its range: {turn}"),
    "tired": gettext_noop(
        "Total is under its range and cannot go forward: the advance is tired; look at "
        "springs, weights and the vacuum pot"
    ),
}


def lamp(given: Given) -> SumResult:
    """What to do about idle and total as the lamp shows them.

    The total counts for more than the idle: over its range it is backed off; under it the body goes
    forward as far as the static timing stays in its own range, else the advance is tired.
    """
    static, idle = given.quantity("static"), given.quantity("idle").mid
    rotor = given.choice("rotor")
    diameter = None if given.blank("diameter") else given.quantity("diameter").mid
    low, high = _widened(static)
    if given.blank("total") or given.blank("total_range"):
        verdict, error = _of_idle(low, high, static.mid, idle)
    else:
        total, limits = given.quantity("total").mid, given.quantity("total_range")
        verdict, error = _of_total((low, high), (limits.low, limits.high), idle, total)
    said, values = _turn(error, rotor, diameter) if error else ("", {})
    act = gettext(ACTS[verdict], turn=said)
    if verdict == "back" and idle + error < low - 1e-9:
        act += gettext(
            ". Idle is then {error}°, under the static timing: the advance goes too far, look at "
            "its springs and its stop",
            error=number(idle + error),
        )
    return SumResult(
        result=f"{act}.",
        formula=gettext("idle = static within 1°; total inside its range; body = error ÷ 2"),
        working=(
            gettext(
                "idle {idle}° against {low}° to {high}°",
                idle=number(idle),
                low=number(low),
                high=number(high),
            ),
            *_total_words(given),
        ),
        source=TIMING,
        values={"verdict": verdict, "error": round(error, 3), **values},
    )


def _widened(static: Quantity) -> tuple[float, float]:
    return (static.low, static.high) if static.is_range else (static.mid - SAME, static.mid + SAME)


def _total_words(given: Given) -> tuple[str, ...]:
    if given.blank("total") or given.blank("total_range"):
        return ()
    total, limits = given.quantity("total").mid, given.quantity("total_range")
    return (
        gettext(
            "total {total}° against {low}° to {high}°",
            total=number(total),
            low=number(limits.low),
            high=number(limits.high),
        ),
    )


def _of_idle(low: float, high: float, mid: float, idle: float) -> tuple[str, float]:
    return ("leave", 0.0) if low - 1e-9 <= idle <= high + 1e-9 else ("set", mid - idle)


def _of_total(
    static: tuple[float, float], limits: tuple[float, float], idle: float, total: float
) -> tuple[str, float]:
    if total > limits[1] + 1e-9:
        return "back", limits[1] - total
    if total < limits[0] - 1e-9:
        lack = limits[0] - total
        return ("forward", lack) if idle + lack <= static[1] + 1e-9 else ("tired", 0.0)
    verdict, error = _of_idle(*static, sum(static) / 2, idle)
    stays = limits[0] - 1e-9 <= total + error <= limits[1] + 1e-9
    return (verdict, error) if stays else ("total counts", 0.0)


def advance(given: Given) -> SumResult:
    """The advance at a speed, from the points of a curve; straight between them."""
    speeds, angles = given.many("speeds"), given.many("angles")
    points = _points(speeds, angles)
    at = given.quantity("at").mid
    found = _between(points, at)
    beyond = (
        "" if points[0][0] <= at <= points[-1][0] else gettext(" It stays so beyond the curve.")
    )
    return SumResult(
        result=gettext(
            "{found}° at {at} rpm.{beyond}", found=number(found), at=number(at), beyond=beyond
        ),
        formula=gettext("straight between the points next to it"),
        working=tuple(
            gettext("{speed} rpm: {angle}°", speed=number(speed), angle=number(angle))
            for speed, angle in points
        ),
        source=TIMING,
        values={"advance": round(found, 3)},
    )


def _points(speeds: Sequence[float], angles: Sequence[float]) -> list[tuple[float, float]]:
    if len(speeds) != len(angles):
        said = gettext(
            "{speeds} speeds and {angles} advances", speeds=len(speeds), angles=len(angles)
        )
        raise ProblemsError([Problem("angles", said, gettext("write one advance for each speed"))])
    points = sorted(zip(speeds, angles, strict=True))
    if len(points) < 2 or len({speed for speed, _ in points}) < len(points):
        fix = gettext("write two speeds or more, each once")
        raise ProblemsError([Problem("speeds", gettext("do not make a curve"), fix)])
    return points


def _between(points: Sequence[tuple[float, float]], at: float) -> float:
    if at <= points[0][0]:
        return points[0][1]
    for (low, below), (high, above) in itertools.pairwise(points):
        if at <= high:
            return below + (above - below) * (at - low) / (high - low)
    return points[-1][1]
