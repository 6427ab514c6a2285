"""Sums of time and turn: cooling, idling warm, the arc on a pulley."""

from eldrim.core.figures.arc import arc_length
from eldrim.core.figures.cooling import cooling, idle_minutes
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.sums.torque_sums import number
from eldrim.core.words.messages import gettext


def cooled(given: Given) -> SumResult:
    """When an engine is cool enough, from two readings."""
    names = ("first", "second", "air", "limit")
    first, second, air, limit = (given.quantity(name).mid for name in names)
    source = gettext("Newton's law of cooling")
    if second <= limit:
        said = gettext(
            "{second} °C is {limit} °C or below", second=number(second, 1), limit=number(limit, 1)
        )
        return SumResult(
            result=gettext("You may start now: {said}", said=said),
            formula=gettext("reading ≤ limit"),
            working=(said,),
            source=source,
            values={"wait": 0.0, "ready": 0.0, "constant": None},
        )
    found = cooling(first, second, given.quantity("minutes").mid, air, limit)
    return SumResult(
        result=gettext(
            "Start {wait} min after the second reading; at {limit} °C or below",
            wait=number(found.wait, 1),
            limit=number(limit, 1),
        ),
        formula=gettext("T(t) = air + (first − air)·e^(−k·t)"),
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
        result=gettext("Idle {minutes} min, then measure the head", minutes=number(minutes)),
        formula=gettext("1 min from 15 °C of air, 2 min from 5 °C, 3 min below"),
        working=(
            gettext("air at {air} °C: {minutes} min", air=number(air, 1), minutes=number(minutes)),
        ),
        source=gettext("{shop} §11; the maker's window wins", shop=SHOP),
        values={"minutes": minutes},
    )


def arc(given: Given) -> SumResult:
    """The distance on a pulley's rim for an angle."""
    diameter, angle = given.quantity("diameter").mid, given.quantity("angle").mid
    length = arc_length(diameter, angle)
    return SumResult(
        result=gettext(
            "{length} mm ({inches} in) along the rim",
            length=number(length, 1),
            inches=number(length / 25.4, 2),
        ),
        formula=gettext("arc = π · D · angle ÷ 360"),
        working=(
            gettext(
                "3.1416 × {diameter} × {angle} ÷ 360 = {length} mm",
                diameter=number(diameter),
                angle=number(angle),
                length=number(length),
            ),
        ),
        source=gettext("geometry of the circle"),
        values={"arc": round(length, 3), "arc_in": round(length / 25.4, 4), "unit": "mm"},
    )
