"""Refit: planned from what was touched, never simply the way out turned round."""

from eldrim.core.access.problem import Node
from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS, JointKind
from eldrim.core.engine.model import Coil
from eldrim.core.engine.parts import Joint, WayKind
from eldrim.core.figures.sheet import joint_window
from eldrim.core.order.pattern import STAGES_FROM, tightening_pattern
from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context, name_of
from eldrim.core.procedure.model import Check, Phase, Step, StepFigure
from eldrim.core.procedure.proofs import proof
from eldrim.core.procedure.service import hole_step, with_rounds
from eldrim.core.procedure.times import ACTS, share
from eldrim.core.procedure.uncover import joint_acts, standing
from eldrim.core.tools.toolbox import ToolUse
from eldrim.core.words import listed, lore, say, the


def carriers(ctx: Context, holes: list[str]) -> list[Step]:
    """Coils or leads back on their plugs, each seated, fastened, clicked and tugged."""
    return [step for hole in holes for step in _carrier(ctx, hole)]


def covers(ctx: Context) -> list[Step]:
    """Every moved part back, its joints made up and proven; ``after`` carries what goes first."""
    return [step for node in ctx.moves for step in _part(ctx, node)]


def late(ctx: Context) -> set[str]:
    """Parts that may wait until after the first start: nothing needed to run goes over them."""
    waiting = {n.part for n in ctx.moves if not ctx.part(n).needed_to_run}
    changed = True
    while changed:
        pairs = [(a, b) for a, b in _back_before(ctx) if a in waiting and b not in waiting]
        waiting -= {a for a, _ in pairs}
        changed = bool(pairs)
    return waiting


def _back_before(ctx: Context) -> list[tuple[str, str]]:
    """Pairs of moved parts (first back, then back)."""
    moved = {n.part for n in ctx.moves}
    pairs = [(b.target.part, n.part) for b, n in ctx.blocks if n.is_way and b.target.part]
    stated = [(a, n.part) for n in ctx.moves for a in ctx.part(n).refit_after if a in moved]
    return pairs + stated


def _carrier(ctx: Context, hole: str) -> list[Step]:
    minutes = with_rounds(ctx, hole, ctx.item, ACTS["fit coil"], "back")
    base = hole_step(ctx, f"fit/{ctx.item}/{hole}", hole, Phase.REFIT, minutes)
    school = ctx.rules.school("dielectric_grease")
    supplied = isinstance(ctx.carrier, Coil) and ctx.carrier.boot_greased
    grease = "" if supplied or school == "none" else say(f"fit_{ctx.item}.{school}")
    new = say(f"fit_{ctx.item}.new") if ctx.item in ctx.job.work else ""
    lores = [lore(j.kind) for j in ctx.carrier.joints.values() if not _fastens(j)]
    seated = [Check(key=k, text=t) for known in lores for k, t in known.proofs]
    fitted = base.model_copy(
        update={
            "text": say(f"fit_{ctx.item}", hole=hole),
            "detail": say(f"fit_{ctx.item}.detail", grease=grease, new=new),
            "tools": ("dielectric grease",) if grease else (),
            "cautions": cautions({Act.SPARK}),
            "checks": tuple(seated) or (proof("flush"),),
        }
    )
    joints = {k: j for k, j in ctx.carrier.joints.items() if _fastens(j)}
    return [fitted, *(_carrier_joint(ctx, hole, k, j, fitted.key) for k, j in joints.items())]


def _fastens(joint: Joint) -> bool:
    return joint.kind in FASTENERS or joint.kind.value.startswith("connector")


def _carrier_joint(ctx: Context, hole: str, key: str, joint: Joint, after: str) -> Step:
    known = lore(joint.kind)
    fastener = joint.kind in FASTENERS
    named = joint.name or known.noun[0]
    use, figure = _use(ctx, joint, say("figure.carrier", item=say(f"noun.{ctx.item}"), joint=named))
    verb = "tighten" if fastener else "connect"
    act = ACTS["fastener" if fastener else "connector"]
    base = hole_step(ctx, f"{verb}/{ctx.item}/{hole}/{key}", hole, Phase.REFIT, act)
    text = say(
        "hole_refit",
        verb=known.refit_verb,
        joints=name_of(joint),
        what=say(f"noun.{ctx.item}"),
        hole=hole,
    )
    return base.model_copy(
        update={
            "text": text,
            "detail": " ".join(_joint_notes(joint)),
            "tools": use.tools,
            "setup": use.setup,
            "stacks": use.stacks,
            "figures": (figure,) if figure else (),
            "checks": joint_checks(joint, figure),
            "after": (after,),
        }
    )


def _part(ctx: Context, node: Node) -> list[Step]:
    joints = ctx.released(node)
    made_up = {k: j for k, j in joints.items() if j.kind is not JointKind.GASKET}
    minutes = share(ctx.way(node).back.mid, [*(j.count for j in made_up.values()), 1])
    before = _fit_after(ctx, node)
    renewed = [
        _renew(ctx, node, k, j, before) for k, j in joints.items() if j.kind is JointKind.GASKET
    ]
    openings = _unplug(ctx, node, (*before, *(s.key for s in renewed)))
    first = tuple(s.key for s in (*openings, *renewed))
    extra = ctx.round_minutes(Target(part=node.part, way=node.way), "back")
    fitted = _fit(ctx, node, round(minutes[-1] + extra, 1), (*before, *first))
    made = [
        _make_up(ctx, node, k, j, cost, fitted.key)
        for (k, j), cost in zip(made_up.items(), minutes[:-1], strict=True)
    ]
    return [*renewed, *openings, fitted, *made]


def _fit_after(ctx: Context, node: Node) -> tuple[str, ...]:
    """Keys of all that must be done before this part goes back on."""
    keys: dict[str, None] = {}
    for block, answer in ctx.blocks:
        if answer == node and block.target.part:
            other = next(n for n in ctx.moves if n.part == block.target.part)
            keys.update(dict.fromkeys(_closed_keys(ctx, other)))
        elif answer == node:
            keys.update(dict.fromkeys(_hole_keys(ctx, block.target.hole)))
    for key in ctx.part(node).refit_after:
        keys.update({k: None for n in ctx.moves if n.part == key for k in _closed_keys(ctx, n)})
    return tuple(keys)


def _hole_keys(ctx: Context, hole: str) -> list[str]:
    keys = [f"fit/{ctx.item}/{hole}"]
    for key, joint in ctx.carrier.joints.items():
        if _fastens(joint):
            verb = "tighten" if joint.kind in FASTENERS else "connect"
            keys.append(f"{verb}/{ctx.item}/{hole}/{key}")
    return keys


def _closed_keys(ctx: Context, node: Node) -> list[str]:
    """The keys that must be done before something goes over ``node``'s part: all of it."""
    joints = ctx.released(node).items()
    made_up = [_joint_key(node, k, j) for k, j in joints if j.kind is not JointKind.GASKET]
    return [_fit_key(ctx, node), *made_up]


def _fit_key(ctx: Context, node: Node) -> str:
    return f"{'fit' if ctx.way(node).kind is WayKind.REMOVE else 'back'}/{node.part}"


def _joint_key(node: Node, key: str, joint: Joint) -> str:
    return f"{'tighten' if joint.kind in FASTENERS else 'connect'}/{node.part}/{key}"


def _renew(ctx: Context, node: Node, key: str, joint: Joint, after: tuple[str, ...]) -> Step:
    part = ctx.part(node)
    return Step(
        key=f"renew/{node.part}/{key}",
        phase=Phase.REFIT,
        verb="renew",
        object=part.name,
        part=node.part,
        text=say("renew", joints=name_of(joint), part=the(part.name)),
        detail=say("renew.detail"),
        cautions=cautions({Act.OLD_GASKET}),
        checks=joint_checks(joint, None),
        minutes=ACTS["opening"],
        because=(say("because.seal"),),
        after=after,
    )


def _unplug(ctx: Context, node: Node, after: tuple[str, ...]) -> list[Step]:
    part = ctx.part(node)
    if not part.opens or ctx.way(node).kind is not WayKind.REMOVE:
        return []
    return [
        Step(
            key=f"unplug-opening/{node.part}",
            phase=Phase.REFIT,
            verb="unplug",
            object=listed(part.opens),
            part=node.part,
            text=say("unplug_opening", openings=listed(part.opens)),
            detail=say("unplug_opening.detail"),
            tools=("light",),
            cautions=cautions({Act.OPENING}),
            checks=(proof("unplugged", openings=listed(part.opens)),),
            minutes=ACTS["opening"],
            because=(say("because.closes"),),
            after=after,
        )
    ]


def _fit(ctx: Context, node: Node, minutes: float, after: tuple[str, ...]) -> Step:
    part, way = ctx.part(node), ctx.way(node)
    removed = way.kind is WayKind.REMOVE
    name = "fit" if removed else "back"
    return Step(
        key=_fit_key(ctx, node),
        phase=Phase.REFIT,
        verb=name,
        object=part.name,
        part=node.part,
        text=say(name, part=the(part.name)),
        detail=say(f"{name}.detail"),
        cautions=cautions({Act.LIFT} if way.persons > 1 else set()),
        checks=(proof("free"),) if removed else (),
        minutes=minutes,
        because=(say("because.came_off"),),
        after=after,
    )


def _make_up(ctx: Context, node: Node, key: str, joint: Joint, minutes: float, fitted: str) -> Step:
    part, known = ctx.part(node), lore(joint.kind)
    use, figure = _use(ctx, joint, f"{part.name}, {name_of(joint)}")
    return Step(
        key=_joint_key(node, key, joint),
        phase=Phase.REFIT,
        verb="tighten" if joint.kind in FASTENERS else "connect",
        object=part.name,
        part=node.part,
        text=say("refit", verb=known.refit_verb, joints=name_of(joint), part=the(part.name)),
        detail=" ".join(_joint_notes(joint)),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,) if figure else (),
        cautions=cautions(joint_acts(joint)),
        checks=joint_checks(joint, figure),
        minutes=minutes,
        because=(say("because.let_go"),),
        after=(fitted,),
    )


def _use(ctx: Context, joint: Joint, name: str) -> tuple[ToolUse, StepFigure | None]:
    """The tools that make a joint up, and its torque where the sheet states one."""
    use, found = ctx.tools.tighten(joint)
    stated = joint_window(ctx.engine, joint, ctx.job.variant, ctx.rules)
    if stated is None or joint.torque is None:
        return use, None
    return use, ctx.figures.torque(joint.torque, name, stated, found)


def _joint_notes(joint: Joint) -> list[str]:
    notes = [say("one_time")] if joint.one_time else []
    notes.append(lore(joint.kind).refit)
    if joint.kind in FASTENERS and joint.count >= STAGES_FROM:
        order = tightening_pattern(joint.at)
        pattern = "-".join(map(str, order))
        notes.append(say("pattern", order=pattern) if order else say("pattern.plain"))
    if joint.stand:
        notes.append(standing(joint))
    if joint.plastic:
        notes.append(say("plastic"))
    return notes


def joint_checks(joint: Joint, figure: StepFigure | None) -> tuple[Check, ...]:
    """What proves a joint is back, from the trade's table; torque where one is stated."""
    proofs = [Check(key=k, text=t) for k, t in lore(joint.kind).proofs]
    if figure:
        clicked = "clicked_further" if figure.plus else "clicked"
        proofs.insert(0, proof("torque", clicked, angle=figure.plus))
    elif joint.kind in FASTENERS:
        proofs.insert(0, proof("snug", "snug_plastic" if joint.plastic else "snug"))
    return tuple(proofs)
