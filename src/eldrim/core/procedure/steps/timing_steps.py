"""Timing: static while the distributor is open, dynamic by lamp once it runs (docs/timing.md)."""

from eldrim.core.base.quantity import convert, format_number
from eldrim.core.engine.timing import CurvePoint, Timing
from eldrim.core.figures.arc import arc_length
from eldrim.core.operations import Operation
from eldrim.core.procedure.job.asked import asked_number
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import bare_name
from eldrim.core.procedure.job.tightening import tightened
from eldrim.core.procedure.model import (
    Check,
    Curve,
    CurveLimits,
    Reading,
    Step,
    StepFigure,
    Turning,
)
from eldrim.core.procedure.steps.part_step import engine_step
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.tools.tool_selection import ToolUse
from eldrim.core.words import say, sentences

Act = Operation
# Idle equals static within this, and a single point of a curve holds within it, in degrees of the
# crank (docs/craft.md §16).
SAME = 1.0
# A total is read within this share of its speed.
NEAR = 0.05
# The lamp is built for this; on another system it takes a supply of its own.
LAMP_VOLTS = 12.0


def static(facts: JobFacts) -> list[Step]:
    """To the mark, body turned until it switches, clamped, and proven by coming up again."""
    figure, timing = _static_figure(facts), _timing(facts)
    reading = _angle("static_again", figure, _turning(facts, figure))
    clamp, back, torque = _clamp(facts)
    sensed = "pick_up" if facts.engine.contactless else "points"
    sensor = () if facts.engine.contactless else facts.tools.asked("test-lamp")
    return [
        engine_step(
            Act.TURN_TO_MARK,
            detail=sentences(_direction(timing), _mark_words(facts, timing, figure.value)),
            figures=(figure,),
            checks=(check("same_side"),),
        ),
        engine_step(
            Act.SET_STATIC,
            detail=sentences(say(f"static.{sensed}"), _which_way(facts), say("static.clamp")),
            tools=(*clamp.tools, *(t for t in back.tools if t not in clamp.tools), *sensor),
            setup=clamp.setup,
            stacks=(*clamp.stacks, *back.stacks),
            figures=(figure, *torque),
            checks=(check(f"set_{sensed}"), check("clamped")),
        ),
        engine_step(
            Act.PROVE_STATIC,
            detail=sentences(say(f"static_again.{sensed}"), _direction(timing)),
            readings=(reading,),
            figures=(figure,),
        ),
    ]


def dynamic(facts: JobFacts) -> list[Step]:
    """With the lamp, the engine running: idle against static, the total at speed, the curve."""
    timing, figure = _timing(facts), _static_figure(facts)
    cause = facts.rolls
    steps = _dwell(facts)
    steps.append(
        engine_step(
            Act.CONNECT_LAMP,
            detail=sentences(_supply(facts), say("lamp.detail"), say(f"vacuum.{timing.vacuum}")),
            tools=facts.tools.asked("timing-lamp"),
            checks=(check("arrow"), check("lamp_clear"), *_vacuum_check(timing)),
            causes=cause,
        )
    )
    idle = _angle("advance_idle", figure, _turning(facts, figure))
    steps.append(
        engine_step(
            Act.TIME_IDLE,
            detail=sentences(say("time_idle.detail"), timing.read_at),
            readings=(*_idle_speed(facts), idle),
            figures=(figure,),
            causes=cause,
        )
    )
    steps += _total(facts, idle) + _curve(facts, timing)
    checks = (check("clamped"), check("lamp_off"), *_vacuum_back(timing))
    return [*steps, engine_step(Act.END_TIMING, checks=checks, causes=cause)]


def _timing(facts: JobFacts) -> Timing:
    timing = facts.engine.timing
    assert timing is not None, "an engine that is timed states its timing"
    return timing


def _static_figure(facts: JobFacts) -> StepFigure:
    """The static timing; one angle alone holds within a degree."""
    figure = facts.figures.plain("timing-static", say("figure.timing-static"))
    assert figure is not None, "an engine that is timed states its static timing"
    if figure.min < figure.max:
        return figure
    said = say("sum.timing_alone", printed=figure.printed, same=format_number(SAME, 0))
    low, high = figure.min - SAME, figure.max + SAME
    ends = {"low": format_number(low, 1), "high": f"{format_number(high, 1)}°"}
    held = say("sum.span", **ends, unit="").rstrip()
    return figure.model_copy(update={"min": low, "max": high, "sum": (said,), "converted": held})


def _angle(key: str, figure: StepFigure, turning: Turning | None) -> Reading:
    return asked_number(key, figure, "timing", turning=turning)


def _turning(facts: JobFacts, figure: StepFigure) -> Turning:
    """The static angle: whichever side it is on, the body comes to the middle."""
    return Turning(
        over_to=figure.value,
        under_to=figure.value,
        edge=_edge(facts),
        right=say("turning.right"),
        advance=_body(facts, "advance"),
        retard=_body(facts, "retard"),
    )


def _edge(facts: JobFacts) -> float | None:
    """How far the body's edge goes for a degree of the crank, in mm."""
    cap = facts.engine.ignition.distributor
    return arc_length(cap.body.mid, 0.5) if cap and cap.body else None


def _body(facts: JobFacts, sense: str) -> str:
    """How the body is turned, with its slots left open: against the rotor it advances."""
    cap = facts.engine.ignition.distributor
    assert cap is not None, "an engine that is timed has a distributor"
    other = "left" if cap.turns == "right" else "right"
    way = say(f"order.{other if sense == 'advance' else cap.turns}")
    edge = say("turning.edge") if cap.body else ""
    return say(f"turning.{sense}", way=way) + edge + "."


def _which_way(facts: JobFacts) -> str:
    cap = facts.engine.ignition.distributor
    assert cap is not None, "an engine that is timed has a distributor"
    other = "left" if cap.turns == "right" else "right"
    return say("static.way", early=say(f"order.{other}"), late=say(f"order.{cap.turns}"))


def _direction(timing: Timing) -> str:
    return say(f"engine_turns.{timing.turns}", seen=say(f"seen_from.{timing.seen_from}"))


def _mark_words(facts: JobFacts, timing: Timing, degrees: float) -> str:
    """Which mark, or how far from one that is there: along the rim, in both systems of units."""
    said = format_number(degrees, 1)
    if any(abs(mark - degrees) < 0.05 for mark in timing.marks):
        return sentences(say("mark.there", degrees=said), timing.read_at)
    if timing.pulley is None or not timing.marks:
        return sentences(say("mark.none", degrees=said), timing.read_at)
    near = min(timing.marks, key=lambda mark: abs(mark - degrees))
    far = arc_length(timing.pulley.mid, abs(degrees - near))
    # What comes before the mark in time passes the pointer first: it is on the side ahead.
    words = say(
        "mark.arc",
        degrees=said,
        far=f"{format_number(far, 1)} mm",
        inches=f"{format_number(convert(far, 'mm', 'in'), 2)} in",
        mark=format_number(near, 1),
        diameter=f"{format_number(timing.pulley.mid, 0)} mm",
        side=say("mark.ahead" if degrees > near else "mark.behind"),
    )
    return sentences(words, timing.read_at)


def _clamp(facts: JobFacts) -> tuple[ToolUse, ToolUse, tuple[StepFigure, ...]]:
    """What loosens the clamp of the body, what makes it up, and its torque where one is stated."""
    piece = facts.engine.pieces.get("distributor")
    joint = next(iter(piece.joints.values()), None) if piece else None
    if joint is None:
        return ToolUse(), ToolUse(), ()
    use, torque = tightened(facts, joint, bare_name(joint))
    return facts.tools.release(joint), use, (torque,) if torque else ()


def _supply(facts: JobFacts) -> str:
    volts = facts.engine.layout.system.mid
    own = abs(volts - LAMP_VOLTS) > 0.5
    return say("lamp.own_supply", volts=format_number(volts, 0)) if own else ""


def _vacuum_check(timing: Timing) -> tuple[Check, ...]:
    return (check("vacuum_off"),) if timing.vacuum == "plugged" else ()


def _vacuum_back(timing: Timing) -> tuple[Check, ...]:
    return (check("vacuum_on"),) if timing.vacuum == "plugged" else ()


def _dwell(facts: JobFacts) -> list[Step]:
    """The dwell, where the sheet states one: before the timing, which moves with it."""
    figure = facts.figures.plain("dwell", say("figure.dwell"))
    if figure is None or facts.engine.contactless:
        return []
    reading = asked_number("dwell", figure, "dwell")
    tools = facts.tools.asked("dwell-meter")
    return [
        engine_step(
            Act.MEASURE_DWELL,
            tools=tools,
            readings=(reading,),
            figures=(figure,),
            causes=facts.rolls,
        )
    ]


def _speed(key: str, low: float, high: float) -> Reading:
    return Reading(
        key=key,
        label=say(f"label.{key}"),
        kind="number",
        unit="rev/min",
        low=low,
        high=high,
        why_limit=say("limit.speed"),
    )


def _idle_speed(facts: JobFacts) -> tuple[Reading, ...]:
    figure = facts.figures.plain("idle-speed", say("figure.idle-speed"))
    return (_speed("speed_idle", figure.min, figure.max),) if figure else ()


def _total(facts: JobFacts, idle: Reading) -> list[Step]:
    """The total at its speed: over it is backed off, under it goes forward while the idle allows.

    The total counts for more than the idle (docs/craft.md §16).
    """
    total = facts.figures.plain("timing-total", say("figure.timing-total"))
    speed = facts.figures.plain("timing-speed", say("figure.timing-speed"))
    if total is None or speed is None:
        return []
    alone = total.min == total.max
    low, high = (total.min - SAME, total.max + SAME) if alone else (total.min, total.max)
    turning = Turning(
        over_to=high,
        under_to=low,
        edge=_edge(facts),
        right=say("turning.total_right"),
        advance=sentences(_body(facts, "advance"), say("turning.idle_again")),
        retard=sentences(_body(facts, "retard"), say("turning.idle_again")),
        other=idle.key,
        room=idle.high,
        tired=say("turning.tired"),
    )
    figure = total.model_copy(update={"min": low, "max": high})
    least, most = (
        (speed.min, speed.max)
        if speed.min < speed.max
        else (round(speed.value * (1 - NEAR)), round(speed.value * (1 + NEAR)))
    )
    return [
        engine_step(
            Act.TIME_TOTAL,
            text=say("time_total.at", speed=speed.printed),
            checks=(check("idle_after"),),
            readings=(_speed("speed_total", least, most), _angle("advance_total", figure, turning)),
            figures=(figure,),
            causes=facts.rolls,
        )
    ]


def limits_at(point: CurvePoint) -> tuple[float, float]:
    """Between what the advance at a point lies; one angle alone holds within a degree."""
    low, high = point.advance.low, point.advance.high
    return (low, high) if low < high else (low - SAME, high + SAME)


def curve_reading(point: CurvePoint) -> str:
    """The key of the reading at a point of the curve."""
    return f"advance_{point.speed.mid:.0f}"


def _curve(facts: JobFacts, timing: Timing) -> list[Step]:
    """The advance at each point of its curve, and back at idle: it must return."""
    if not timing.curve:
        return []
    source = facts.engine.sources[timing.source]
    readings = [
        Reading(
            key=curve_reading(point),
            label=say("label.advance_at", speed=f"{point.speed.mid:.0f}"),
            kind="number",
            unit="°",
            low=limits_at(point)[0],
            high=limits_at(point)[1],
            why_limit=say("limit.curve"),
        )
        for point in timing.curve
    ]
    static_ = _static_figure(facts)
    back = asked_number("advance_back", static_, "back", curve=_told_of(readings))
    from_page = say(
        "figure.page", document=source.document, edition=source.edition, page=timing.page
    )
    return [
        engine_step(
            Act.TIME_CURVE,
            detail=sentences(say("time_curve.detail"), say("time_curve.from", source=from_page)),
            readings=(*readings, back),
            causes=facts.rolls,
        )
    ]


def _told_of(readings: list[Reading]) -> Curve:
    """What the whole curve can say."""
    names = ("stuck", "steps", "tired", "late", "early", "well")
    points = tuple(
        CurveLimits(key=one.key, low=one.low or 0.0, high=one.high or 0.0) for one in readings
    )
    return Curve(points=points, **{name: say(f"curve.{name}") for name in names})
