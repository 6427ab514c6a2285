"""Uncover: what the chosen ways move, joint by joint."""

from collections.abc import Mapping
from typing import NamedTuple

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import Option
from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS, JointKind
from eldrim.core.engine.parts import COVER_KINDS, HindranceKind, Joint, Part, PartKind, WayKind
from eldrim.core.operations import MOVES_BY_WAY, CautionCause, Operation
from eldrim.core.procedure.job.joint_words import (
    carries_fuel,
    joint_name,
    joint_sentence,
    release_causes,
    spoken_of,
    standing_place,
)
from eldrim.core.procedure.job.minutes import share
from eldrim.core.procedure.model import Check, Step
from eldrim.core.procedure.steps.part_step import part_step
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.rules.house import HouseRules
from eldrim.core.step_key import StepKey
from eldrim.core.tools.tool_selection import ToolSelection
from eldrim.core.words import listed, say, sentences, the

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
    before = waits(ways, option)
    last = _after_the_others(ways.part(option), joints)
    steps = [
        _release(
            ways,
            tools,
            rules,
            option,
            key,
            minutes=cost,
            after=(
                *before.of_joint(key),
                *(_release_key(option, one) for one in last.get(key, ())),
            ),
        )
        for key, cost in zip(joints, minutes[:-1], strict=True)
    ]
    after = (*(step.key for step in steps), *before.whole, *before.lift)
    extra = ways.round_minutes(Target(part=option.part, way=option.way), "out")
    steps.append(_lift(ways, tools, option, round(minutes[-1] + extra, 1), after))
    if ways.opened(option):
        steps.append(_plug_opening(ways, tools, option))
    return steps


def _release_key(option: Option, joint: str) -> StepKey:
    return StepKey(Operation.RELEASE_JOINT, option.part, joint=joint)


def _after_the_others(part: Part, joints: Mapping[str, Joint]) -> dict[str, tuple[str, ...]]:
    """The joints of a part that wait for its others (docs/craft.md §17).

    A plenum hangs on its fasteners until hoses and brackets are off it; a tank keeps its fuel
    line, relieved and plugged, until all else is off and it lifts.
    """
    if part.kind is PartKind.PLENUM:
        late = {key for key, joint in joints.items() if joint.kind in FASTENERS}
    elif part.kind is PartKind.TANK:
        late = {key for key, joint in joints.items() if joint.kind is JointKind.FUEL_LINE}
    else:
        return {}
    others = tuple(key for key in joints if key not in late)
    return {key: others for key in late}


class Waits(NamedTuple):
    """Keys of the steps before anything of a part is touched, before it comes away, and before
    single joints of it are let go.
    """

    whole: tuple[StepKey, ...]
    lift: tuple[StepKey, ...]
    joints: Mapping[str, tuple[StepKey, ...]]

    def of_joint(self, joint: str) -> tuple[StepKey, ...]:
        """What comes before one joint is let go."""
        return (*self.whole, *self.joints.get(joint, ()))


def waits(ways: ChosenWays, option: Option) -> Waits:
    """What has to be away before a part is moved."""
    whole: dict[StepKey, None] = {}
    lift: dict[StepKey, None] = {}
    joints: dict[str, tuple[StepKey, ...]] = {}
    for hindrance, answer in ways.on_part.get(option.part, ()):
        if not answer.is_way:
            continue
        key, joint = lift_key(ways, answer), hindrance.target.joint
        if joint:
            joints[joint] = (*joints.get(joint, ()), key)
        else:
            (lift if hindrance.kind in LIFT_ONLY else whole)[key] = None
    return Waits(tuple(whole), tuple(lift), joints)


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
    use, slack = tools.release(joint), ways.slackened(option, joint)
    target = Target(part=option.part, way=option.way, joint=key)
    powered = part.kind in COVER_KINDS and joint.kind in FASTENERS
    power = powered and rules.school["power_tools"] != "none"
    notes = [
        say("slacken.release") if slack else joint_sentence(joint, part, "release"),
        joint.note,
        say("mirror") if joint.mirror else "",
        say("power.covers") if power else "",
        standing_place(joint),
        ways.round_notes(target),
    ]
    verb = say("slacken.release_verb" if slack else f"{spoken_of(joint, part)}.release_verb")
    name = joint_name(joint)
    return part_step(
        _release_key(option, key),
        part,
        text=say("release", verb=verb, joints=name, part=the(part.name)),
        brief=say("brief.joint", verb=verb, joints=name),
        detail=sentences(*notes),
        tools=use.with_more(*tools.asked(*_fuel_tools(joint), *ways.round_tools(target))),
        setup=use.setup,
        stacks=use.stacks,
        causes=release_causes(joint),
        checks=(*_count_check(joint), *_fuel_checks(joint)),
        minutes=round(minutes + ways.round_minutes(target, "out"), 1),
        because=ways.because(option),
        after=after,
    )


def _fuel_tools(joint: Joint) -> tuple[str, ...]:
    """A line that carries fuel is plugged as it comes off."""
    return ("opening-plugs",) if carries_fuel(joint) else ()


def _fuel_checks(joint: Joint) -> tuple[Check, ...]:
    return (check("relieved"), check("line_plugged")) if carries_fuel(joint) else ()


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
    causes |= {CautionCause.OPENING} if ways.opened(option) else set()
    manner = f"move.{way.kind}"
    detail = (
        way.note,
        say(f"{manner}.{'slack' if ways.slack_only(option) else 'detail'}"),
        say("tank_down") if part.kind is PartKind.TANK and way.kind is WayKind.REMOVE else "",
        ways.skills(way),
        ways.round_notes(target),
    )
    return part_step(
        lift_key(ways, option),
        part,
        text=say(manner, part=the(part.name)),
        detail=sentences(*detail),
        tools=tools.asked(*way.tools, *ways.round_tools(target)),
        causes=causes,
        checks=(check("labelled"),) if way.kind is WayKind.REMOVE else (),
        minutes=minutes,
        because=ways.because(option),
        after=after,
    )


def _plug_opening(ways: ChosenWays, tools: ToolSelection, option: Option) -> Step:
    part = ways.part(option)
    openings = listed(ways.opened(option))
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
