"""Companion work: what the sheet says is done while the way in is open, as steps."""

from eldrim.core.base.quantity import Dimension, unit
from eldrim.core.engine import Target
from eldrim.core.engine.parts import Joint
from eldrim.core.engine.upkeep import Companion, CompanionStep
from eldrim.core.operations import CautionCause, Operation
from eldrim.core.procedure.job.asked import asked_number
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import (
    bare_name,
    joint_causes,
    joint_name,
    release_causes,
)
from eldrim.core.procedure.job.tightening import tightened
from eldrim.core.procedure.model import Check, Reading, Step, StepFigure
from eldrim.core.procedure.steps.step_checks import joint_checks
from eldrim.core.procedure.steps.step_fields import from_rule
from eldrim.core.step_key import StepKey
from eldrim.core.tools.tool_selection import ToolUse
from eldrim.core.words import say, sentences


def companion_steps(facts: JobFacts, keys: list[str]) -> list[Step]:
    """The steps of these companions, one after the other: each waits for the one before."""
    steps: list[Step] = []
    for key in keys:
        companion = facts.engine.companions[key]
        steps += [
            _step(facts, key, name, last=name == last_step(companion)) for name in companion.steps
        ]
    chained = [step.key for step in steps]
    return [
        step.model_copy(update={"after": (chained[place - 1],) if place else ()})
        for place, step in enumerate(steps)
    ]


def in_the_open(facts: JobFacts) -> list[str]:
    """The companions of a job that need no coil off: done before any well is opened, so that
    nothing of them falls in.
    """
    companions = facts.engine.companions
    return [key for key in facts.job.companions if not companions[key].coils_off]


def with_coils_off(facts: JobFacts, holes: list[str]) -> list[str]:
    """The companions of a job that are done while these holes stand without their coils."""
    companions = facts.engine.companions
    return [
        key
        for key in facts.job.companions
        if set(facts.engine.holes_of_all(companions[key].coils_off)) & set(holes)
    ]


def last_step(companion: Companion) -> str:
    """The key of a companion's last step: what goes over it waits for this."""
    return list(companion.steps)[-1]


def step_key(key: str, name: str) -> StepKey:
    """The key of one step of a companion."""
    return StepKey(Operation.COMPANION, key, joint=name)


def _step(facts: JobFacts, key: str, name: str, *, last: bool) -> Step:
    companion = facts.engine.companions[key]
    act = companion.steps[name]
    undone, done_up = (companion.joints.get(one or "") for one in (act.undo, act.do_up))
    use, torque = _use(facts, undone, done_up)
    figure = facts.figures.plain(act.figure, _figure_name(act)) if act.figure else None
    target, first = Target(item=key), name == next(iter(companion.steps))
    ways = facts.ways
    rounds = [way for way, at in (("out", first), ("back", last)) if at]
    extra = sum(ways.round_minutes(target, way) for way in rounds)
    more = facts.tools.asked(*act.tools, *(ways.round_tools(target) if rounds else ()))
    causes = {CautionCause(one) for one in act.does}
    causes |= release_causes(undone) if undone else set()
    causes |= joint_causes(done_up) if done_up else set()
    return Step(
        **from_rule(step_key(key, name), causes),
        object=companion.name,
        text=act.name,
        detail=sentences(
            *(_held(undone, "release") if undone else ()),
            *(_held(done_up, "refit") if done_up else ()),
            act.note,
            companion.note if first else "",
            ways.round_notes(target) if first else "",
        ),
        tools=use.with_more(*more),
        setup=use.setup,
        stacks=use.stacks,
        figures=tuple(one for one in (torque, figure) if one),
        checks=_checks(act, done_up, torque),
        readings=_readings(act, figure),
        minutes=round(act.minutes.mid + extra, 1),
        because=(say("because.companion"),),
    )


def _use(
    facts: JobFacts, undone: Joint | None, done_up: Joint | None
) -> tuple[ToolUse, StepFigure | None]:
    if done_up is not None:
        return tightened(facts, done_up, bare_name(done_up))
    return (facts.tools.release(undone) if undone else ToolUse()), None


def _held(joint: Joint, way: str) -> tuple[str, ...]:
    verb = say(f"joint.{joint.kind}.{way}_verb")
    return (say("piece_joint", verb=verb, joints=joint_name(joint)),)


def _figure_name(act: CompanionStep) -> str:
    """What a figure of the sheet is called: by its key, as on the sheet."""
    words = (act.figure or "").replace("-", " ")
    return f"{words[:1].upper()}{words[1:]}"


def _checks(
    act: CompanionStep, joint: Joint | None, torque: StepFigure | None
) -> tuple[Check, ...]:
    own = [Check(key=f"own-{place}", text=text) for place, text in enumerate(act.checks, 1)]
    return (*(joint_checks(joint, torque) if joint else ()), *own)


def _readings(act: CompanionStep, figure: StepFigure | None) -> tuple[Reading, ...]:
    """A figure that is measured is written down; a torque is proven by its click."""
    if figure is None or unit(figure.unit).dimension is Dimension.TORQUE:
        return ()
    reading = asked_number("measured", figure, "companion")
    return (reading.model_copy(update={"label": figure.name}),)
