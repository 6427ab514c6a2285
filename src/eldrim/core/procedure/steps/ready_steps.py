"""Ready: the right unit, what was found before, and the bench laid out."""

from eldrim.core.base.quantity import convert, parse
from eldrim.core.engine.model import Engine
from eldrim.core.figures.battery import LEAST, MOST, REST
from eldrim.core.operations import Operation
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import AIR, Reading, Says, Step, StepFigure
from eldrim.core.procedure.steps import supply_steps
from eldrim.core.procedure.steps.part_step import engine_step
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.tool_selection import clamp_questions
from eldrim.core.words import printed, say, sentences

CODE_READER = "code-reader"
# No workshop is colder or warmer; what reads so was read off something else.
AIR_CELSIUS = (-40, 55)


def confirm(facts: JobFacts) -> list[Step]:
    """The right unit, before anything else."""
    return [_unit(facts)]


def ready(facts: JobFacts) -> list[Step]:
    """Return the steps that come before anything is touched, in their fixed order.

    The tools they take are laid out before them: see :func:`bench`, which comes from the rest.
    """
    codes = [_codes(facts)] if has_codes(facts) else []
    gas = facts.engine.layout.fuel == "gas"
    shut = [engine_step(Operation.SHUT_GAS, checks=(check("gas_off"),))] if gas else []
    # An engine that has to run its line empty does that before the key is off.
    off = [*shut, engine_step(Operation.SWITCH_OFF, checks=(check("off"),))]
    warm = _warm(facts)
    # A battery rests with the key off; an engine that has to be warm first runs after that.
    battery = [_battery(facts), *supply_steps.before(facts)]
    steps = [*codes, *battery, *warm, *off] if warm else [*codes, *off, *battery]
    steps.append(_temperature(facts))
    return steps + ([_isolate(facts)] if facts.holes.isolates() else [])


def bench(facts: JobFacts, tools: tuple[ToolRef, ...], parts: tuple[str, ...]) -> list[Step]:
    """Lay out tools and parts, before the first of them is used."""
    return [lay_out(tools), *([_parts(facts, parts)] if parts else [])]


def lay_out(tools: tuple[ToolRef, ...]) -> Step:
    """The tools, counted before the first of them is used."""
    names = "; ".join(tool.name for tool in tools)
    return engine_step(
        Operation.LAY_OUT_TOOLS,
        detail=say("tools.detail", count=len(tools), tools=names),
        checks=(check("counted", "counted_out", count=len(tools)),),
    )


def _parts(facts: JobFacts, parts: tuple[str, ...]) -> Step:
    """New parts against the sheet; what is said of plugs only where plugs are fitted."""
    plug = facts.holes.plug
    data = say(
        "parts.plugs",
        thread=printed(plug.thread),
        reach=printed(str(plug.reach)),
        seat=say(f"seat.{plug.seat}"),
        hex=printed(str(plug.hex)),
    )
    new = facts.holes.plugs_out and facts.rules.school["inspect_or_replace"] == "replace"
    return engine_step(
        Operation.CHECK_PARTS,
        detail=sentences(say("parts.detail", parts="; ".join(parts)), data if new else ""),
        checks=(check("match"),),
    )


def has_codes(facts: JobFacts) -> bool:
    """Whether the engine has fault codes to read."""
    return facts.engine.diagnoses_itself(facts.job.variant)


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


def _codes(facts: JobFacts) -> Step:
    reader = facts.tools.asked(CODE_READER)
    return engine_step(Operation.READ_CODES, tools=reader, readings=(codes_reading(),))


def _battery(facts: JobFacts) -> Step:
    stated = facts.figures.plain("battery-rest", say("figure.battery"))
    reading = Reading(
        key="volts",
        label=say("label.volts"),
        kind="number",
        unit="V",
        low=stated.min if stated else None,
        why_limit=say("limit.volts"),
        says=_says_at_rest(facts.engine, stated.min if stated else None),
    )
    return engine_step(
        Operation.MEASURE_BATTERY,
        detail=_at_battery(facts, "battery.detail"),
        tools=facts.tools.asked("multimeter"),
        figures=(stated,) if stated else (),
        readings=(reading,),
    )


def _says_at_rest(engine: Engine, charged: float | None) -> tuple[Says, ...]:
    """What a battery at rest says on this system; what the sheet calls charged wins."""
    share = engine.layout.system.mid / 12
    names = ("surface", "charged", "low", "poor", "flat")
    least = {name: round(row[0] * share, 2) for name, row in zip(names, REST, strict=True)}
    least |= {"charged": charged} if charged is not None else {}
    below = {"low": least["low"], "poor": least["poor"]}
    limit = least["charged"]
    return (
        Says(text=say("says.wrong_range")),
        Says(least=round(LEAST * share, 2), text=say("says.rest_flat")),
        *(
            Says(least=at, text=say(f"says.rest_{name}"))
            for name, at in sorted(below.items(), key=lambda one: one[1])
            if at < limit
        ),
        Says(least=limit, text=say("says.rest_charged")),
        Says(least=least["surface"], text=say("says.rest_surface")),
        Says(least=round(MOST * share, 2), text=say("says.wrong_range")),
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
    warm = facts.rules.school["temperature"] == "maker_warm"
    return "warm-window" if warm and "warm-window" in facts.engine.figures else "work-temperature"


def _warm(facts: JobFacts) -> list[Step]:
    if _window(facts) != "warm-window":
        return []
    because = (say("because.warm"),)
    checks = (check("idled"),)
    return [engine_step(Operation.WARM_UP, checks=checks, because=because, causes=facts.rolls)]


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
    return engine_step(
        Operation.ISOLATE_BATTERY,
        detail=_at_battery(facts, "isolate.detail"),
        tools=use.tools,
        setup=use.setup,
        because=because,
    )


def _at_battery(facts: JobFacts, words: str) -> str:
    """What a step says, and where the battery is, if the sheet states that."""
    place = facts.engine.layout.battery
    return sentences(say("battery_at", place=place) if place else "", say(words))
