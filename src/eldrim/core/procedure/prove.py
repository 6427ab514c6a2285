"""Prove: nothing left over, started, listened to, tested, read again, signed."""

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import Service
from eldrim.core.engine.parts import Carries, Joint, WayKind
from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context
from eldrim.core.procedure.model import Check, Phase, Reading, Step
from eldrim.core.procedure.proofs import proof
from eldrim.core.procedure.times import ACTS
from eldrim.core.procedure.uncover import AIR_PARTS
from eldrim.core.tools.toolbox import clamp_questions
from eldrim.core.words import listed, say, why


def _next_due() -> tuple[Reading, ...]:
    return (
        Reading(key="next_due", label=say("label.next_due"), kind="date", required=False),
        Reading(key="next_meter", label=say("label.next_meter"), kind="number", required=False),
        Reading(key="recheck", label=say("label.recheck"), kind="date", required=False),
    )


def before_start(ctx: Context) -> list[Step]:
    """Return what must hold before the engine turns, derived from what was touched."""
    opened = [o for n in ctx.moves if ctx.way(n).kind is WayKind.REMOVE for o in ctx.part(n).opens]
    steps = [_openings(opened)] if opened else []
    steps += [_reconnect(ctx)] if ctx.isolates() else []
    joints = [j for n in ctx.moves for j in ctx.released(n).values()]
    if any(_carries(j, Carries.FUEL, JointKind.FUEL_LINE) for j in joints):
        steps.append(_plain("fuel", "prime", {Act.FUEL}))
    if any(_carries(j, Carries.COOLANT, JointKind.COOLANT_LINE) for j in joints):
        steps.append(_plain("coolant", "fill", {Act.COOLANT}))
    if ctx.engine.layout.service is Service.MARINE:
        steps.append(_plain("blower", "ventilate", {Act.MARINE}))
    return steps


def start(ctx: Context) -> list[Step]:
    """The first start, with the leak check an opened intake calls for."""
    acts = {Act.RUN, Act.SPARK} | ({Act.GAS} if ctx.engine.layout.fuel == "gas" else set())
    steps = [_plain("start", "start", acts, "start engine")]
    if any(ctx.part(n).kind in AIR_PARTS for n in ctx.moves):
        steps.append(_plain("air_leak", "check", {Act.RUN, Act.SPARK}, "air leak"))
    return steps


def start_between(ctx: Context, bank: str) -> Step:
    """A start after one bank, before the next is opened."""
    acts = {Act.RUN, Act.SPARK}
    base = _plain("start_between", "start", acts, "start engine")
    return base.model_copy(update={"key": f"start-between/{bank}"})


def finish(ctx: Context) -> list[Step]:
    """Return the steps from clearing codes to signing."""
    again = _plain("codes_again", "read", set(), "codes again")
    return [
        _plain("clear_codes", "clear", set(), "connector"),
        _plain("load", "test", {Act.RUN}, "load test"),
        again.model_copy(
            update={"readings": (Reading(key="codes", label=say("label.codes"), kind="text"),)}
        ),
        _plain("sign", "sign", set()).model_copy(
            update={"readings": _next_due(), "checks": (Check(key="ok", text=_last_word(ctx)),)}
        ),
    ]


def _last_word(ctx: Context) -> str:
    if not ctx.plugs_out:
        return say("sign.nothing")
    return say(f"sign.{ctx.rules.school('old_plugs')}")


def _carries(joint: Joint, what: Carries, kind: JointKind) -> bool:
    return joint.carries is what or joint.kind is kind


def _plain(name: str, verb: str, acts: set[Act], minutes: str = "") -> Step:
    return Step(
        key=f"prove/{name.replace('_', '-')}",
        phase=Phase.PROVE,
        verb=verb,
        object=name.replace("_", " "),
        text=say(name),
        detail=say(f"{name}.detail"),
        cautions=cautions(acts),
        checks=(proof("ok", name),),
        minutes=ACTS[minutes or name],
        because=why(name),
    )


def count_tools(count: int) -> Step:
    """Count back what was counted out, before anything turns."""
    return Step(
        key="prove/tools",
        phase=Phase.PROVE,
        verb="count",
        object="tools",
        text=say("count_tools"),
        detail=say("count_tools.detail", count=count),
        checks=(proof("counted", "counted_back", count=count),),
        minutes=ACTS["count tools"],
        because=why("count_tools"),
    )


def _openings(opened: list[str]) -> Step:
    return Step(
        key="prove/openings",
        phase=Phase.PROVE,
        verb="check",
        object="openings",
        text=say("openings"),
        detail=say("openings.detail", openings=listed(opened)),
        checks=(proof("clear"),),
        minutes=ACTS["opening"],
        because=why("openings"),
    )


def _reconnect(ctx: Context) -> Step:
    use = ctx.tools.use(clamp_questions()[1])
    return Step(
        key="prove/reconnect",
        phase=Phase.PROVE,
        verb="connect",
        object="battery",
        text=say("reconnect"),
        detail=say("reconnect.detail"),
        tools=use.tools,
        setup=use.setup,
        cautions=cautions({Act.BATTERY}),
        checks=(proof("tight"),),
        minutes=ACTS["reconnect"],
        because=(say("because.taken_off"),),
    )
