"""Sums of time and turn: cooling, idling warm, the arc on a pulley."""

from eldrim.core.figures.arc import arc_length
from eldrim.core.figures.cooling import cooling, idle_minutes
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.sums.torque_sums import number


def cooled(given: Given) -> SumResult:
    """When an engine is cool enough, from two readings."""
    names = ("first", "second", "air", "limit")
    first, second, air, limit = (given.quantity(name).mid for name in names)
    source = "Newton's law of cooling"
    if second <= limit:
        said = f"{number(second, 1)} °C is {number(limit, 1)} °C or below"
        return SumResult(
            result=f"You may start now: {said}",
            formula="reading ≤ limit",
            working=(said,),
            source=source,
            values={"wait": 0.0, "ready": 0.0, "constant": None},
        )
    found = cooling(first, second, given.quantity("minutes").mid, air, limit)
    return SumResult(
        result=f"Start {number(found.wait, 1)} min after the second reading; at "
        f"{number(limit, 1)} °C or below",
        formula="T(t) = air + (first − air)·e^(−k·t)",
        working=found.sum,
        source=source,
        cooling=found,
        values={"wait": found.wait, "ready": found.ready, "constant": found.constant},
    )


def idled(given: Given) -> SumResult:
    """How long a cold engine idles to be slightly warm."""
    air = given.quantity("air").mid
    minutes = idle_minutes(air)
    return SumResult(
        result=f"Idle {number(minutes)} min, then measure the head",
        formula="1 min from 15 °C of air, 2 min from 5 °C, 3 min below",
        working=(f"air at {number(air, 1)} °C: {number(minutes)} min",),
        source=f"{SHOP} §11; the maker's window wins",
        values={"minutes": minutes},
    )


def arc(given: Given) -> SumResult:
    """The distance on a pulley's rim for an angle."""
    diameter, angle = given.quantity("diameter").mid, given.quantity("angle").mid
    length = arc_length(diameter, angle)
    return SumResult(
        result=f"{number(length, 1)} mm ({number(length / 25.4, 2)} in) along the rim",
        formula="arc = π · D · angle ÷ 360",
        working=(f"3.1416 × {number(diameter)} × {number(angle)} ÷ 360 = {number(length)} mm",),
        source="geometry of the circle",
        values={"arc": round(length, 3), "arc_in": round(length / 25.4, 4), "unit": "mm"},
    )
