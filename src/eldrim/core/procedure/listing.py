"""What to lay out for a plan: the tool roll in order of use, and the parts."""

from collections.abc import Iterable

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import Coil
from eldrim.core.procedure.context import Context, name_of
from eldrim.core.procedure.model import PartLine, RollItem, Step
from eldrim.core.tools.crib import (
    Extension,
    Handle,
    Reducer,
    Socket,
    Special,
    Swivel,
    Tool,
    Wrench,
    fold,
)
from eldrim.core.tools.shortage import Shortage, bare, named
from eldrim.core.tools.stack import Stack
from eldrim.core.words import listed, say

# Used up, not counted back: they are parts, not tools.
CONSUMABLES = frozenset({"thread compound", "thin oil", "dielectric grease"})
SIZED = Socket | Extension | Swivel | Reducer | Handle | Wrench


def tool_names(steps: Iterable[Step]) -> tuple[str, ...]:
    """Every tool of these steps, in order of first use."""
    used = dict.fromkeys(t for s in steps for t in s.tools)
    return tuple(t for t in used if t not in CONSUMABLES)


def roll(ctx: Context, steps: list[Step]) -> tuple[RollItem, ...]:
    """The tools as they lie in the roll: what each is, where first used, what is missing."""
    by_name = {fold(t.name): t for t in ctx.kit.crib.all()}
    lacking = {s.to_get: s for s in ctx.tools.shortages}
    cautions: dict[str, tuple[str, ...]] = {}
    for stack in (k for s in steps for k in s.stacks):
        if stack.cautions and stack.pieces:
            first = stack.pieces[0].name
            cautions[first] = tuple(dict.fromkeys((*cautions.get(first, ()), *stack.cautions)))
    items = []
    for name in tool_names(steps):
        users = [s for s in steps if name in s.tools]
        short = lacking.get(name) or named(ctx.kit.crib, name)
        tool = by_name.get(fold(name))
        items.append(_item(name, tool, users, None if tool else short, cautions.get(name, ())))
    return tuple(items)


def as_item(tool: Tool) -> RollItem:
    """A tool as it lies in a roll, whatever it is used for."""
    return _item(tool.name, tool, [], None, ())


def _item(
    name: str, tool: object, users: list[Step], short: Shortage | None, cautions: tuple[str, ...]
) -> RollItem:
    length = tool.length.mid if isinstance(tool, SIZED) else 0.0
    outside = tool.outside.mid if isinstance(tool, Socket | Extension | Swivel | Reducer) else 0.0
    kind = "special" if tool is None or isinstance(tool, Special) else type(tool).__name__.lower()
    return RollItem(
        name=bare(name),
        kind=kind,
        uses=len(users),
        first=users[0].key if users else "",
        length=length,
        outside=outside,
        cautions=cautions,
        missing=short.why if short else "",
        cure=short.cure if short else "",
    )


def reaches(steps: Iterable[Step]) -> list[tuple[str, Stack]]:
    """Each different stack that goes down somewhere, with what it is for: drawn once each."""
    found: dict[tuple[object, ...], tuple[list[str], Stack]] = {}
    for step in steps:
        for stack in step.stacks:
            if stack.below > 0:
                same = (stack.act, stack.ids, stack.below, stack.bore, stack.room)
                users = found.setdefault(same, ([], stack))[0]
                users.append(step.object)
    return [
        (f"{listed(list(dict.fromkeys(u)))}: {say(f'act.{s.act.name}')}", s)
        for u, s in found.values()
    ]


def parts(ctx: Context) -> tuple[PartLine, ...]:
    """Plugs, coils, boots, seals, one-time fasteners and compounds, with quantities of the job."""
    return (*_service_parts(ctx), *_one_time(ctx), *_compounds(ctx))


def _service_parts(ctx: Context) -> list[PartLine]:
    lines = []
    if ctx.plugs_out and ctx.rules.school("inspect_or_replace") == "replace":
        lines.append(
            PartLine(
                name=say("part.plug"),
                part_number=ctx.plug.part_number,
                quantity=len(ctx.plug_holes),
                why=say("part.replace"),
            )
        )
    renewed = ctx.item in ctx.job.work
    if renewed:
        lines.append(
            PartLine(
                name=say(f"part.{ctx.item}"),
                part_number=ctx.carrier.part_number,
                quantity=len(ctx.holes),
                why=say("part.asked"),
            )
        )
    boot = ctx.carrier.boot_part if isinstance(ctx.carrier, Coil) else None
    if boot and not renewed and ctx.holes:
        lines.append(
            PartLine(
                name=say("part.boot"),
                part_number=boot,
                quantity=len(ctx.holes),
                why=say("part.open"),
            )
        )
    return lines


def _one_time(ctx: Context) -> list[PartLine]:
    return [
        PartLine(
            name=f"{ctx.part(node).name}: {name_of(joint.model_copy(update={'count': 1}))}",
            part_number=joint.part_number or "",
            quantity=joint.count,
            why=say("part.once"),
        )
        for node in ctx.moves
        for joint in ctx.released(node).values()
        if joint.one_time or joint.kind is JointKind.GASKET
    ]


def _compounds(ctx: Context) -> list[PartLine]:
    lines = []
    if ctx.plugs_out and ctx.figures.compound():
        oil = ctx.rules.school("thread_compound") == "oil"
        why = say("part.threads", count=len(ctx.plug_holes))
        name = say("part.oil" if oil else "part.compound")
        lines.append(PartLine(name=name, part_number="", quantity=1, why=why))
    supplied = isinstance(ctx.carrier, Coil) and ctx.carrier.boot_greased
    if ctx.holes and not supplied and ctx.rules.school("dielectric_grease") != "none":
        lines.append(
            PartLine(
                name=say("part.grease"),
                part_number="",
                quantity=1,
                why=say("part.boots", count=len(ctx.holes)),
            )
        )
    return lines
