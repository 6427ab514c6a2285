"""Uncover: what the chosen ways move, joint by joint."""

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import Option
from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS, JointKind
from eldrim.core.engine.parts import COVER_KINDS, HindranceKind, Joint, WayKind
from eldrim.core.operations import MOVES_BY_WAY, CautionCause, Operation
from eldrim.core.procedure.joint_words import joint_name, release_causes, standing_place
from eldrim.core.procedure.minutes import share
from eldrim.core.procedure.model import Check, Step
from eldrim.core.procedure.part_step import part_step
from eldrim.core.procedure.step_checks import check
from eldrim.core.rules.house import HouseRules
from eldrim.core.step_key import StepKey
from eldrim.core.tools.tool_selection import ToolSelection
from eldrim.core.words import listed, say, the

# A part that only blocks the way out, or is tied by a wire, leaves the fasteners free to undo.
LIFT_ONLY = frozenset({HindranceKind.BLOCKS_EXIT, HindranceKind.HOLDS_SHORT})


def lift_key(ways: ChosenWays, option: Option) -> StepKey:
    """The key of the step in which a chosen part comes away."""
    return StepKey(MOVES_BY_WAY[ways.way(option).kind], option.part)


def uncover(ways: ChosenWays, tools: ToolSelection, rules: HouseRules) -> list[Step]:
    """Return the steps that move every chosen part; ``after`` carries what hinders what."""
    return [step for option in ways.moves for step in _move(ways, tools, rules, option)]


def _move(ways: ChosenWays, tools: ToolSelection, rules: HouseRules, option: Option) -> list[Step]:
    joints = {k: j for k, j in ways.released(option).items() if j.kind is not JointKind.GASKET}
    minutes = share(ways.way(option).out.mid, [*(joint.count for joint in joints.values()), 1])
    before_all, before_lift = waits(ways, option)
    steps = [
        _release(ways, tools, rules, option, key, minutes=cost, after=before_all)
        for key, cost in zip(joints, minutes[:-1], strict=True)
    ]
    after = (*(step.key for step in steps), *before_all, *before_lift)
    extra = ways.round_minutes(Target(part=option.part, way=option.way), "out")
    steps.append(_lift(ways, tools, option, round(minutes[-1] + extra, 1), after))
    if ways.part(option).opens and ways.way(option).kind is WayKind.REMOVE:
        steps.append(_plug_opening(ways, tools, option))
    return steps


def waits(ways: ChosenWays, option: Option) -> tuple[tuple[StepKey, ...], tuple[StepKey, ...]]:
    """Keys of the steps before anything of this part is touched, and before it comes away."""
    whole: dict[StepKey, None] = {}
    lift: dict[StepKey, None] = {}
    for hindrance, answer in ways.on_part.get(option.part, ()):
        if answer.is_way:
            (lift if hindrance.kind in LIFT_ONLY else whole)[lift_key(ways, answer)] = None
    return tuple(whole), tuple(lift)


def _release(  # noqa: PLR0913 - whose joint it is, with what, how long, after what
    ways: ChosenWays,
    tools: ToolSelection,
    rules: HouseRules,
    option: Option,
    key: str,
    *,
    minutes: float,
    after: tuple[StepKey, ...],
) -> Step:
    part, joint = ways.part(option), ways.released(option)[key]
    use, known = tools.release(joint), f"joint.{joint.kind}"
    powered = part.kind in COVER_KINDS and joint.kind in FASTENERS
    power = powered and rules.school("power_tools") != "none"
    notes = [
        say(f"{known}.release"),
        joint.note,
        say("mirror") if joint.mirror else "",
        say("power.covers") if power else "",
        standing_place(joint),
    ]
    verb = say(f"{known}.release_verb")
    return part_step(
        StepKey(Operation.RELEASE_JOINT, option.part, joint=key),
        part,
        text=say("release", verb=verb, joints=joint_name(joint), part=the(part.name)),
        detail=" ".join(filter(None, notes)),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        causes=release_causes(joint),
        checks=_count_check(joint),
        minutes=minutes,
        because=ways.because(option),
        after=after,
    )


def _count_check(joint: Joint) -> tuple[Check, ...]:
    return (check("count", count=joint.count),) if joint.kind in FASTENERS else ()


def _lift(
    ways: ChosenWays,
    tools: ToolSelection,
    option: Option,
    minutes: float,
    after: tuple[StepKey, ...],
) -> Step:
    part, way = ways.part(option), ways.way(option)
    target = Target(part=option.part, way=option.way)
    causes = {CautionCause.LIFT} if way.persons > 1 else set()
    causes |= {CautionCause.OPENING} if part.opens else set()
    manner = f"move.{way.kind}"
    detail = (way.note, say(f"{manner}.detail"), ways.skills(way), ways.round_notes(target))
    return part_step(
        lift_key(ways, option),
        part,
        text=say(manner, part=the(part.name)),
        detail=" ".join(filter(None, detail)),
        tools=tools.asked(*way.tools, *ways.round_tools(target)),
        causes=causes,
        checks=(check("labelled"),) if way.kind is WayKind.REMOVE else (),
        minutes=minutes,
        because=ways.because(option),
        after=after,
    )


def _plug_opening(ways: ChosenWays, tools: ToolSelection, option: Option) -> Step:
    part = ways.part(option)
    openings = listed(part.opens)
    return part_step(
        StepKey(Operation.PLUG_OPENING, option.part),
        part,
        object=openings,
        text=say("plug_opening", openings=openings),
        detail=say("plug_opening.detail"),
        tools=tools.asked("opening-plugs"),
        checks=(check("plugged", openings=openings),),
        because=(say("because.opened", part=part.name),),
        after=(lift_key(ways, option),),
    )
