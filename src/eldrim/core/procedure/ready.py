"""Ready: the right unit, what was found before, and the bench laid out."""

from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context
from eldrim.core.procedure.model import AIR, Phase, Reading, Step, StepFigure
from eldrim.core.procedure.proofs import proof
from eldrim.core.procedure.times import ACTS
from eldrim.core.quantity import convert, parse
from eldrim.core.tools.toolbox import clamp_questions
from eldrim.core.words import figure, say, tool, why

# No workshop is colder or warmer; what reads so was read off something else.
AIR_CELSIUS = (-40, 55)


def ready(ctx: Context) -> list[Step]:
    """Return the steps that come before anything is touched, in their fixed order.

    What lists tools and parts is added once the rest is known: see :func:`bench`.
    """
    steps = [_unit(ctx), _codes(), _battery(ctx), *_warm(ctx), _temperature(ctx), _key()]
    return steps + ([_isolate(ctx)] if ctx.isolates() else [])


def bench(ctx: Context, tools: tuple[str, ...], parts: tuple[str, ...]) -> list[Step]:
    """Lay out tools and parts; both come from the finished plan."""
    plug = ctx.plug
    listing = say(
        "parts.detail",
        parts="; ".join(parts),
        thread=figure(plug.thread),
        reach=figure(str(plug.reach)),
        seat=say(f"seat.{plug.seat}"),
        hex=figure(str(plug.hex)),
    )
    return [
        Step(
            key="ready/tools",
            phase=Phase.READY,
            verb="count",
            object="tools",
            text=say("tools"),
            detail=say("tools.detail", count=len(tools), tools="; ".join(map(tool, tools))),
            checks=(proof("counted", "counted_out", count=len(tools)),),
            minutes=ACTS["lay out"],
            because=why("tools"),
        ),
        Step(
            key="ready/parts",
            phase=Phase.READY,
            verb="check",
            object="parts",
            text=say("parts"),
            detail=listing,
            checks=(proof("match"),),
            minutes=ACTS["parts"],
            because=why("parts"),
        ),
    ]


def _unit(ctx: Context) -> Step:
    engine, variant = ctx.engine, ctx.engine.variants[ctx.job.variant]
    return Step(
        key="ready/unit",
        phase=Phase.READY,
        verb="confirm",
        object="unit",
        text=say("unit", engine=engine.title, variant=variant.name),
        detail=say("unit.detail", revision=engine.revision),
        checks=(proof("variant"),),
        readings=(
            Reading(key="serial", label=say("label.serial"), kind="text"),
            Reading(key="meter", label=say("label.meter"), kind="number"),
        ),
        minutes=ACTS["unit"],
        because=why("unit"),
    )


def _codes() -> Step:
    return Step(
        key="ready/codes",
        phase=Phase.READY,
        verb="read",
        object="fault codes",
        text=say("codes"),
        detail=say("codes.detail"),
        readings=(Reading(key="codes", label=say("label.codes"), kind="text"),),
        minutes=ACTS["codes"],
        because=why("codes"),
    )


def _battery(ctx: Context) -> Step:
    stated = ctx.figures.plain("battery-rest", say("figure.battery"))
    reading = Reading(
        key="volts",
        label=say("label.volts"),
        kind="number",
        unit="V",
        low=stated.min if stated else None,
        why_limit=say("limit.volts"),
    )
    return Step(
        key="ready/battery",
        phase=Phase.READY,
        verb="measure",
        object="battery",
        text=say("battery"),
        detail=say("battery.detail"),
        tools=("multimeter",),
        figures=(stated,) if stated else (),
        readings=(reading,),
        cautions=cautions({Act.BATTERY}),
        minutes=ACTS["battery"],
        because=why("battery"),
    )


def _temperature(ctx: Context) -> Step:
    stated = ctx.figures.plain(_window(ctx), say("figure.temperature")) or _house_window(ctx)
    reading = Reading(
        key="temperature",
        label=say("label.temperature"),
        kind="number",
        unit=stated.unit,
        low=stated.min,
        high=stated.max,
        why_limit=say("limit.temperature"),
        awaited=True,
    )
    coldest, warmest = (round(convert(t, "°C", stated.unit)) for t in AIR_CELSIUS)
    air = Reading(
        key=AIR,
        label=say("label.air"),
        kind="number",
        unit=stated.unit,
        low=coldest,
        high=warmest,
        required=False,
        why_limit=say("limit.air"),
    )
    return Step(
        key="ready/temperature",
        phase=Phase.READY,
        verb="measure",
        object="cylinder head",
        text=say("temperature"),
        detail=say("temperature.detail"),
        tools=("infrared thermometer",),
        figures=(stated,),
        readings=(reading, air),
        cautions=cautions({Act.HOT}),
        minutes=ACTS["temperature"],
        because=why("temperature"),
    )


def _window(ctx: Context) -> str:
    warm = ctx.rules.school("temperature") == "maker_warm" and "warm-window" in ctx.engine.figures
    return "warm-window" if warm else "work-temperature"


def _warm(ctx: Context) -> list[Step]:
    if _window(ctx) != "warm-window":
        return []
    return [
        Step(
            key="ready/warm",
            phase=Phase.READY,
            verb="idle",
            object="engine",
            text=say("warm"),
            detail=say("warm.detail"),
            cautions=cautions({Act.RUN, Act.HOT, Act.SPARK}),
            checks=(proof("idled"),),
            minutes=ACTS["warm"],
            because=(say("because.warm"),),
        )
    ]


def _house_window(ctx: Context) -> StepFigure:
    """The sheet is silent: the house rule's window, and the step says that it is that."""
    window = parse(ctx.rules.temperature_limit)
    return StepFigure(
        key="work-temperature",
        name=say("figure.temperature"),
        printed=figure(window.text),
        value=window.mid,
        unit=window.unit,
        min=window.low,
        max=window.high,
        aim=window.mid,
        converted=figure(window.printed_in("°F")),
        source=say("figure.house", version=ctx.rules.version),
        variant=ctx.engine.variants[ctx.job.variant].name,
    )


def _key() -> Step:
    return Step(
        key="ready/key",
        phase=Phase.READY,
        verb="switch off",
        object="ignition",
        text=say("key"),
        detail=say("key.detail"),
        checks=(proof("off"),),
        minutes=0.2,
        because=why("key"),
    )


def _isolate(ctx: Context) -> Step:
    use = ctx.tools.use(clamp_questions()[0])
    return Step(
        key="ready/isolate",
        phase=Phase.READY,
        verb="isolate",
        object="battery",
        text=say("isolate"),
        detail=say("isolate.detail"),
        tools=use.tools,
        setup=use.setup,
        cautions=cautions({Act.BATTERY}),
        minutes=ACTS["isolate"],
        because=(say("because.isolate"),),
    )
