"""Ready: the right unit, what was found before, and the bench laid out."""

from eldrim.core.operations import Operation
from eldrim.core.procedure.job_facts import JobFacts
from eldrim.core.procedure.model import AIR, Reading, Step, StepFigure
from eldrim.core.procedure.part_step import engine_step
from eldrim.core.procedure.step_checks import check
from eldrim.core.quantity import convert, parse
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.tool_selection import clamp_questions
from eldrim.core.words import printed, say

# No workshop is colder or warmer; what reads so was read off something else.
AIR_CELSIUS = (-40, 55)


def ready(facts: JobFacts) -> list[Step]:
    """Return the steps that come before anything is touched, in their fixed order.

    What lists tools and parts is added once the rest is known: see :func:`bench`.
    """
    steps = [_unit(facts), _codes(), _battery(facts), *_warm(facts), _temperature(facts)]
    steps.append(engine_step(Operation.SWITCH_OFF, checks=(check("off"),)))
    return steps + ([_isolate(facts)] if facts.ways.isolates() else [])


def bench(facts: JobFacts, tools: tuple[ToolRef, ...], parts: tuple[str, ...]) -> list[Step]:
    """Lay out tools and parts; both come from the finished plan."""
    plug = facts.holes.plug
    names = "; ".join(tool.name for tool in tools)
    listing = say(
        "parts.detail",
        parts="; ".join(parts),
        thread=printed(plug.thread),
        reach=printed(str(plug.reach)),
        seat=say(f"seat.{plug.seat}"),
        hex=printed(str(plug.hex)),
    )
    return [
        engine_step(
            Operation.LAY_OUT_TOOLS,
            detail=say("tools.detail", count=len(tools), tools=names),
            checks=(check("counted", "counted_out", count=len(tools)),),
        ),
        engine_step(Operation.CHECK_PARTS, detail=listing, checks=(check("match"),)),
    ]


def _unit(facts: JobFacts) -> Step:
    engine, variant = facts.engine, facts.engine.variants[facts.job.variant]
    return engine_step(
        Operation.CONFIRM_UNIT,
        text=say("unit", engine=engine.title, variant=variant.name),
        detail=say("unit.detail", revision=engine.revision),
        checks=(check("variant"),),
        readings=(
            Reading(key="serial", label=say("label.serial"), kind="text"),
            Reading(key="meter", label=say("label.meter"), kind="number"),
        ),
    )


def codes_reading() -> Reading:
    """The fault codes, as they are written down."""
    return Reading(key="codes", label=say("label.codes"), kind="text")


def _codes() -> Step:
    return engine_step(Operation.READ_CODES, readings=(codes_reading(),))


def _battery(facts: JobFacts) -> Step:
    stated = facts.figures.plain("battery-rest", say("figure.battery"))
    reading = Reading(
        key="volts",
        label=say("label.volts"),
        kind="number",
        unit="V",
        low=stated.min if stated else None,
        why_limit=say("limit.volts"),
    )
    return engine_step(
        Operation.MEASURE_BATTERY,
        tools=facts.tools.asked("multimeter"),
        figures=(stated,) if stated else (),
        readings=(reading,),
    )


def _temperature(facts: JobFacts) -> Step:
    stated = facts.figures.plain(_window(facts), say("figure.temperature"))
    window = stated or _house_window(facts)
    return engine_step(
        Operation.MEASURE_TEMPERATURE,
        tools=facts.tools.asked("infrared-thermometer"),
        figures=(window,),
        readings=(_head_reading(window), _air_reading(window.unit)),
    )


def _head_reading(window: StepFigure) -> Reading:
    return Reading(
        key="temperature",
        label=say("label.temperature"),
        kind="number",
        unit=window.unit,
        low=window.min,
        high=window.max,
        why_limit=say("limit.temperature"),
        awaited=True,
    )


def _air_reading(unit: str) -> Reading:
    coldest, warmest = (round(convert(degrees, "°C", unit)) for degrees in AIR_CELSIUS)
    return Reading(
        key=AIR,
        label=say("label.air"),
        kind="number",
        unit=unit,
        low=coldest,
        high=warmest,
        required=False,
        why_limit=say("limit.air"),
    )


def _window(facts: JobFacts) -> str:
    """The key of the figure that says when an engine may be worked on."""
    warm = facts.rules.school("temperature") == "maker_warm"
    return "warm-window" if warm and "warm-window" in facts.engine.figures else "work-temperature"


def _warm(facts: JobFacts) -> list[Step]:
    if _window(facts) != "warm-window":
        return []
    because = (say("because.warm"),)
    return [engine_step(Operation.WARM_UP, checks=(check("idled"),), because=because)]


def _house_window(facts: JobFacts) -> StepFigure:
    """The sheet is silent: the house rule's window, and the step says that it is that."""
    window = parse(facts.rules.temperature_limit)
    return StepFigure(
        key="work-temperature",
        name=say("figure.temperature"),
        printed=printed(window.text),
        value=window.mid,
        unit=window.unit,
        min=window.low,
        max=window.high,
        aim=window.mid,
        converted=printed(window.printed_in("°F")),
        source=say("figure.house", version=facts.rules.version),
        variant=facts.engine.variants[facts.job.variant].name,
    )


def _isolate(facts: JobFacts) -> Step:
    use = facts.tools.use(clamp_questions()[0])
    because = (say("because.isolate"),)
    return engine_step(Operation.ISOLATE_BATTERY, tools=use.tools, setup=use.setup, because=because)
