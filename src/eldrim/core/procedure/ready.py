"""Ready: the right unit, what was found before, and the bench laid out."""

from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context
from eldrim.core.procedure.model import Check, Phase, Reading, Step, StepFigure
from eldrim.core.procedure.times import ACTS
from eldrim.core.procedure.wording import say, why
from eldrim.core.quantity import parse
from eldrim.core.tools.toolbox import clamp_questions


def ready(ctx: Context) -> list[Step]:
    """Return the steps that come before anything is touched, in their fixed order.

    What lists tools and parts is added once the rest is known: see :func:`bench`.
    """
    steps = [_unit(ctx), _codes(), _battery(ctx), *_warm(ctx), _temperature(ctx), _key()]
    return steps + ([_isolate(ctx)] if ctx.isolates() else [])


def bench(ctx: Context, tools: tuple[str, ...], parts: tuple[str, ...]) -> list[Step]:
    """Lay out tools and parts; both come from the finished plan."""
    plug = ctx.plug
    listing = say("parts.detail", parts="; ".join(parts), thread=plug.thread, reach=plug.reach,
                  seat=plug.seat, hex=plug.hex)  # fmt: skip
    return [
        Step(key="ready/tools", phase=Phase.READY, verb="count", object="tools",
             text=say("tools"), detail=say("tools.detail", count=len(tools),
                                           tools="; ".join(tools)),
             checks=(Check(key="counted", text=f"{len(tools)} pieces counted out"),),
             minutes=ACTS["lay out"], because=why("tools")),
        Step(key="ready/parts", phase=Phase.READY, verb="check", object="parts",
             text=say("parts"), detail=listing,
             checks=(Check(key="match", text="Part numbers match the sheet"),),
             minutes=ACTS["parts"], because=why("parts")),
    ]  # fmt: skip


def _unit(ctx: Context) -> Step:
    engine, variant = ctx.engine, ctx.engine.variants[ctx.job.variant]
    return Step(
        key="ready/unit", phase=Phase.READY, verb="confirm", object="unit",
        text=say("unit", engine=engine.title, variant=variant.name),
        detail=say("unit.detail", revision=engine.revision),
        checks=(Check(key="variant", text="Unit and variant are the ones on this sheet"),),
        readings=(Reading(key="meter", label="Meter", kind="number"),),
        minutes=ACTS["unit"], because=why("unit"),
    )  # fmt: skip


def _codes() -> Step:
    return Step(
        key="ready/codes", phase=Phase.READY, verb="read", object="fault codes",
        text=say("codes"), detail=say("codes.detail"),
        readings=(Reading(key="codes", label="Codes found", kind="text"),),
        minutes=ACTS["codes"], because=why("codes"),
    )  # fmt: skip


def _battery(ctx: Context) -> Step:
    figure = ctx.figures.plain("battery-rest", "battery at rest")
    reading = Reading(key="volts", label="At rest", kind="number", unit="V",
                      low=figure.min if figure else None,
                      why_limit="charge the battery and measure again")  # fmt: skip
    return Step(
        key="ready/battery", phase=Phase.READY, verb="measure", object="battery",
        text=say("battery"), detail=say("battery.detail"), tools=("multimeter",),
        figures=(figure,) if figure else (), readings=(reading,),
        cautions=cautions({Act.BATTERY}), minutes=ACTS["battery"], because=why("battery"),
    )  # fmt: skip


def _temperature(ctx: Context) -> Step:
    figure = ctx.figures.plain(_window(ctx), "head temperature") or _house_window(ctx)
    reading = Reading(key="temperature", label="Head", kind="number", unit=figure.unit,
                      low=figure.min, high=figure.max,
                      why_limit="wait until the head is inside its window")  # fmt: skip
    return Step(
        key="ready/temperature", phase=Phase.READY, verb="measure", object="cylinder head",
        text=say("temperature"), detail=say("temperature.detail"), tools=("infrared thermometer",),
        figures=(figure,), readings=(reading,), cautions=cautions({Act.HOT}),
        minutes=ACTS["temperature"], because=why("temperature"),
    )  # fmt: skip


def _window(ctx: Context) -> str:
    warm = ctx.rules.school("temperature") == "maker_warm" and "warm-window" in ctx.engine.figures
    return "warm-window" if warm else "work-temperature"


def _warm(ctx: Context) -> list[Step]:
    if _window(ctx) != "warm-window":
        return []
    return [
        Step(key="ready/warm", phase=Phase.READY, verb="idle", object="engine", text=say("warm"),
             detail=say("warm.detail"), cautions=cautions({Act.RUN, Act.HOT, Act.SPARK}),
             checks=(Check(key="idled", text="Idled, then switched off"),), minutes=ACTS["warm"],
             because=("The maker wants it slightly warm: house rule, temperature",))
    ]  # fmt: skip


def _house_window(ctx: Context) -> StepFigure:
    """The sheet is silent: the house rule's window, and the step says that it is that."""
    window = parse(ctx.rules.temperature_limit)
    return StepFigure(
        key="work-temperature", name="head temperature", printed=window.text, value=window.mid,
        unit=window.unit, min=window.low, max=window.high, aim=window.mid,
        converted=window.printed_in("°F"), source=f"house rules, version {ctx.rules.version}; "
        "the maker is silent", variant=ctx.engine.variants[ctx.job.variant].name,
    )  # fmt: skip


def _key() -> Step:
    return Step(
        key="ready/key", phase=Phase.READY, verb="switch off", object="ignition",
        text=say("key"), detail=say("key.detail"),
        checks=(Check(key="off", text="Key out and kept"),), minutes=0.2, because=why("key"),
    )  # fmt: skip


def _isolate(ctx: Context) -> Step:
    use = ctx.tools.use(clamp_questions()[0])
    return Step(
        key="ready/isolate", phase=Phase.READY, verb="isolate", object="battery",
        text=say("isolate"), detail=say("isolate.detail"), tools=use.tools, setup=use.setup,
        cautions=cautions({Act.BATTERY}), minutes=ACTS["isolate"],
        because=("The job opens an electrical or fuel joint that calls for it",),
    )  # fmt: skip
