"""Uncover: what the chosen ways move, joint by joint."""

from eldrim.core.access.problem import Node
from eldrim.core.engine import Target
from eldrim.core.engine.glossary import word
from eldrim.core.engine.joints import LORE, JointKind
from eldrim.core.engine.parts import Carries, HindranceKind, Joint, PartKind, WayKind
from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context, name_of
from eldrim.core.procedure.model import Check, Phase, Step
from eldrim.core.procedure.proofs import proof
from eldrim.core.procedure.times import ACTS, share
from eldrim.core.words import listed, lore, say, the

# A part that only blocks the way out, or is tied by a wire, leaves the fasteners free to undo.
LIFT_ONLY = frozenset({HindranceKind.BLOCKS_EXIT, HindranceKind.HOLDS_SHORT})
VERB_KEYS = {
    WayKind.REMOVE: "remove",
    WayKind.SWING_ASIDE: "swing",
    WayKind.UNCLIP: "unclip",
    WayKind.LOOSEN_AND_SHIFT: "shift",
}
COVERS = frozenset({PartKind.COVER, PartKind.PANEL, PartKind.SEAT})
AIR_PARTS = frozenset(
    {PartKind.PLENUM, PartKind.DUCT, PartKind.THROTTLE_BODY, PartKind.AIR_BOX, PartKind.CHARGE_PIPE}
)


def lift_key(ctx: Context, node: Node) -> str:
    """The key of the step in which a chosen part comes away."""
    return f"{VERB_KEYS[ctx.way(node).kind]}/{node.part}"


def uncover(ctx: Context) -> list[Step]:
    """Return the steps that move every chosen part; ``after`` carries what hinders what."""
    return [step for node in ctx.moves for step in _move(ctx, node)]


def _move(ctx: Context, node: Node) -> list[Step]:
    joints = {k: j for k, j in ctx.released(node).items() if j.kind is not JointKind.GASKET}
    way = ctx.way(node)
    minutes = share(way.out.mid, [*(j.count for j in joints.values()), 1])
    before_all, before_lift = _before(ctx, node)
    steps = [
        _release(ctx, node, key, joint, cost, before_all)
        for (key, joint), cost in zip(joints.items(), minutes[:-1], strict=True)
    ]
    after = (*(s.key for s in steps), *before_all, *before_lift)
    extra = ctx.round_minutes(Target(part=node.part, way=node.way), "out")
    steps.append(_lift(ctx, node, round(minutes[-1] + extra, 1), after))
    if ctx.part(node).opens and way.kind is WayKind.REMOVE:
        steps.append(_plug_opening(ctx, node))
    return steps


def _before(ctx: Context, node: Node) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Keys of the steps before anything of this part is touched, and before it comes away."""
    whole: dict[str, None] = {}
    lift: dict[str, None] = {}
    for block, answer in ctx.blocks:
        if answer.is_way and block.target.part == node.part:
            (lift if block.kind in LIFT_ONLY else whole)[lift_key(ctx, answer)] = None
    return tuple(whole), tuple(lift)


def _release(
    ctx: Context, node: Node, key: str, joint: Joint, minutes: float, after: tuple[str, ...]
) -> Step:
    known, use, part = lore(joint.kind), ctx.tools.release(joint), ctx.part(node)
    powered = part.kind in COVERS and known.tool == "fastener"
    power = ctx.rules.school("power_tools") != "none" and powered
    notes = [
        known.release,
        joint.note,
        say("mirror") if joint.mirror else "",
        say("power.covers") if power else "",
        standing(joint),
    ]
    return Step(
        key=f"release/{node.part}/{key}",
        phase=Phase.UNCOVER,
        verb="release",
        object=part.name,
        part=node.part,
        text=say("release", verb=known.release_verb, joints=name_of(joint), part=the(part.name)),
        detail=" ".join(n for n in notes if n),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        cautions=cautions(joint_acts(joint)),
        checks=_count_check(joint),
        minutes=minutes,
        because=ctx.because(node),
        after=after,
    )


def _count_check(joint: Joint) -> tuple[Check, ...]:
    if LORE[joint.kind].tool != "fastener":
        return ()
    return (proof("count", count=joint.count),)


def _lift(ctx: Context, node: Node, minutes: float, after: tuple[str, ...]) -> Step:
    part, way = ctx.part(node), ctx.way(node)
    target = Target(part=node.part, way=node.way)
    acts = {Act.SHARP} | ({Act.LIFT} if way.persons > 1 else set())
    acts |= {Act.OPENING} if part.opens else set()
    able = (
        say("skills", skills=listed([word(ctx.engine, s) for s in way.skills]))
        if way.skills
        else ""
    )
    detail = (way.note, say(f"{way.kind.value}.detail"), able, ctx.round_notes(target))
    return Step(
        key=lift_key(ctx, node),
        phase=Phase.UNCOVER,
        verb=way.kind.value,
        object=part.name,
        part=node.part,
        text=say(way.kind.value, part=the(part.name)),
        detail=" ".join(d for d in detail if d),
        tools=(*way.tools, *(t for _, w in ctx.rounds(target) for t in w.tools)),
        cautions=cautions(acts),
        checks=(proof("labelled"),) if way.kind is WayKind.REMOVE else (),
        minutes=minutes,
        because=ctx.because(node),
        after=after,
    )


def _plug_opening(ctx: Context, node: Node) -> Step:
    part = ctx.part(node)
    return Step(
        key=f"plug-opening/{node.part}",
        phase=Phase.UNCOVER,
        verb="plug",
        object=listed(part.opens),
        part=node.part,
        text=say("plug_opening", openings=listed(part.opens)),
        detail=say("plug_opening.detail"),
        tools=("opening plugs",),
        cautions=cautions({Act.OPENING}),
        checks=(proof("plugged", openings=listed(part.opens)),),
        minutes=ACTS["opening"],
        because=(say("because.opened", part=part.name),),
        after=(lift_key(ctx, node),),
    )


def standing(joint: Joint) -> str:
    """Where to stand for a joint, where it is not the usual place."""
    return say("stand", side=say(f"side.{joint.stand}")) if joint.stand else ""


def joint_acts(joint: Joint) -> set[Act]:
    """What letting go or making up a joint does, for cautions."""
    acts: set[Act] = set()
    if joint.kind is JointKind.HOSE_SPRING_CLAMP:
        acts.add(Act.SPRING)
    if joint.carries is Carries.FUEL or joint.kind is JointKind.FUEL_LINE:
        acts.add(Act.FUEL)
    if joint.carries is Carries.COOLANT or joint.kind is JointKind.COOLANT_LINE:
        acts |= {Act.COOLANT, Act.SPRING}
    if joint.kind is JointKind.GASKET:
        acts.add(Act.OLD_GASKET)
    return acts
