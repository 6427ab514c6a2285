"""Fit: plugs gapped, prepared, started and tightened, all started by hand before any is tight."""

from eldrim.core.base.quantity import convert
from eldrim.core.engine import Target
from eldrim.core.figures.gap import GAUGE_STEP_MM
from eldrim.core.operations import CautionCause, Operation
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import Reading, Step, StepFigure
from eldrim.core.procedure.steps.hole_step import HOLE, hole_step
from eldrim.core.procedure.steps.hole_steps import aluminium_head, well_note, with_rounds
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef, is_handle
from eldrim.core.words import printed, say, say_in, sentences


def fit(facts: JobFacts, holes: list[str]) -> list[Step]:
    """Return the steps that put plugs in."""
    holes = [hole for hole in holes if hole in facts.holes.plug_holes]
    compound = facts.figures.compound()
    chased = facts.rules.school["thread_cleaning"] == "every_hole"
    steps = [_check_gap(facts, h) for h in holes]
    steps += [_chase(facts, h) for h in holes] if chased else []
    steps += [_prepare(facts, h) for h in holes] if compound else []
    starts = [_start(facts, h, compound, chased) for h in holes]
    all_started = tuple(step.key for step in starts)
    tighten = [(_turn if facts.job_tools.by_angle(h) else _torque, h) for h in holes]
    return [*steps, *starts, *(make(facts, h, all_started) for make, h in tighten)]


def _check_gap(facts: JobFacts, hole: str) -> Step:
    gap = facts.figures.gap()
    assert gap is not None, "a consistent sheet states plug-gap for every variant"
    used = _used(facts)
    if facts.rules.school["new_gap"] == "as_supplied" and not used:
        return hole_step(
            facts.holes,
            Operation.CHECK_GAP,
            hole,
            text=say("look_plug", hole=HOLE),
            detail=say("gap_plug.as_supplied"),
            checks=(check("whole"),),
            figures=(gap,),
        )
    construction = facts.holes.plug.construction
    return hole_step(
        facts.holes,
        Operation.CHECK_GAP,
        hole,
        text=say("gap_plug.used" if used else "gap_plug", hole=HOLE),
        detail=say("gap_plug.used.detail" if used else f"gap_plug.{construction}"),
        tools=facts.tools.asked("wire-gauge"),
        figures=(gap,),
        readings=(_gap_reading(gap), *(() if used else (_supplied(gap),))),
    )


def _supplied(gap: StepFigure) -> Reading:
    """The gap as it comes out of the box: kept where it is measured, asked of nobody."""
    label = say("label.gap_supplied")
    return Reading(key="gap_supplied", label=label, kind="number", unit=gap.unit, required=False)


def _gap_reading(gap: StepFigure) -> Reading:
    return Reading(
        key="gap_left",
        label=say("label.gap_left"),
        kind="number",
        unit=gap.unit,
        low=gap.min,
        high=gap.max,
        resolution=float(f"{convert(GAUGE_STEP_MM, 'mm', gap.unit):.4g}"),
        why_limit=say("limit.gap_left"),
    )


def _chase(facts: JobFacts, hole: str) -> Step:
    thread = facts.holes.plug.thread
    named = ToolRef(
        id=f"thread-chaser-{thread.lower()}", name=say("tool.thread-chaser", size=printed(thread))
    )
    chaser = facts.tools.asked_as(named, say_in("en", "tool.thread-chaser", size=thread))
    return hole_step(
        facts.holes,
        Operation.CHASE_THREAD,
        hole,
        text=say("chase_plug", hole=HOLE),
        detail=say("chase_plug.detail"),
        tools=(chaser,),
        setup=(chaser.id,),
        checks=(check("clean"),),
        because=(say("because.threads"),),
        after=(StepKey(Operation.REMOVE_PLUG, hole=hole),),
    )


def _prepare(facts: JobFacts, hole: str) -> Step:
    oil = facts.rules.school["thread_compound"] == "oil"
    return hole_step(
        facts.holes,
        Operation.PREPARE_THREAD,
        hole,
        text=say("prepare_plug.oil" if oil else "prepare_plug", hole=HOLE),
        detail=say("prepare_plug.detail"),
        tools=facts.tools.asked("thin-oil" if oil else "thread-compound"),
        because=(say("because.compound"),),
        after=(StepKey(Operation.CHECK_GAP, hole=hole),),
    )


def _start(facts: JobFacts, hole: str, compound: bool, chased: bool) -> Step:
    use = facts.tools.use(facts.job_tools.plug_questions(hole)[-1])
    pieces = {piece.id for stack in use.stacks for piece in stack.pieces}
    before = [Operation.READ_PLUG]
    before += [Operation.PREPARE_THREAD if compound else Operation.CHECK_GAP]
    before += [Operation.CHASE_THREAD] if chased else []
    gasket = facts.holes.plug.seat == "gasket"
    ring = say("start_plug.ring") if gasket and not _used(facts) else ""
    turns = Reading(
        key="free_turns",
        label=say("label.free_turns"),
        kind="number",
        unit=say("unit.turns"),
        low=2,
        why_limit=say("limit.free_turns"),
    )
    return hole_step(
        facts.holes,
        Operation.START_PLUG,
        hole,
        text=say("start_plug", hole=HOLE),
        detail=say("start_plug.detail", ring=ring, dry="" if compound else say("start_plug.dry")),
        here=(well_note(facts, hole),),
        tools=tuple(tool for tool in use.tools if tool.id in pieces),
        readings=(turns,),
        checks=(check("by_hand"),),
        causes=aluminium_head(facts),
        after=tuple(StepKey(operation, hole=hole) for operation in before),
    )


def _turn(facts: JobFacts, hole: str, all_started: tuple[StepKey, ...]) -> Step:
    """Tighten by angle."""
    figure = facts.figures.plug_angle(facts.holes.plug)
    lacking = facts.job_tools.no_wrench(hole)
    if lacking:
        said = say("turn_plug.no_wrench", why=lacking)
        figure = figure.model_copy(update={"sum": (said,)})
    use = facts.tools.use(facts.job_tools.plug_questions(hole)[-1])
    return hole_step(
        facts.holes,
        Operation.TIGHTEN_PLUG,
        hole,
        text=say("turn_plug", hole=HOLE, angle=figure.printed),
        detail=sentences(_turn_words(facts), _index(facts)),
        here=(well_note(facts, hole),),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        because=(say("because.hole", hole=hole), *figure.sum),
        figures=(figure,),
        checks=(check("turned", angle=figure.converted or figure.printed),),
        causes={CautionCause.ALUMINIUM},
        after=all_started,
    )


def _used(facts: JobFacts) -> bool:
    """Whether plugs, and with them their rings, go in again."""
    return facts.rules.school["inspect_or_replace"] == "refit_in_limits"


def _turn_words(facts: JobFacts) -> str:
    """How a plug is turned by angle: only a new crush ring is felt twice."""
    new_ring = facts.holes.plug.seat == "gasket" and not _used(facts)
    return sentences(say("turn_plug.detail"), say("turn_plug.ring") if new_ring else "")


def _index(facts: JobFacts) -> str:
    index = facts.holes.plug.index
    asked = facts.rules.school["electrode_index"] == "maker" and index
    return say("index", index=index) if asked else ""


def _beside_the_wrench(facts: JobFacts, target: Target) -> list[str]:
    """The tools of the work-rounds but their handles: the torque wrench is the handle."""
    return [tool for tool in facts.ways.round_tools(target) if not is_handle(tool)]


def _torque(facts: JobFacts, hole: str, all_started: tuple[StepKey, ...]) -> Step:
    """Tighten by a torque wrench."""
    asked = facts.job_tools.plug_questions(hole)[-1]
    window = facts.job_tools.plug_torque
    assert window is not None, "a torque step needs its window"
    use, choice = facts.tools.use(asked), facts.tools.stack_for(asked)
    figure = facts.figures.torque("plug-torque", say("figure.plug_torque"), window, choice)
    target = Target(hole=hole, item="plug")
    return hole_step(
        facts.holes,
        Operation.TIGHTEN_PLUG,
        hole,
        minutes=with_rounds(facts, Operation.TIGHTEN_PLUG, target, "back"),
        text=say("torque_plug", hole=HOLE),
        detail=sentences(say("torque_plug.detail"), further_turn(figure), _index(facts)),
        here=(well_note(facts, hole), facts.ways.round_notes(target)),
        tools=use.with_more(*facts.tools.asked(*_beside_the_wrench(facts, target))),
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,),
        readings=(torque_reading(figure),),
        causes=aluminium_head(facts),
        after=all_started,
    )


def further_turn(figure: StepFigure) -> str:
    """The turn after the torque, where the source states one."""
    return say("further", angle=figure.plus) if figure.plus else ""


def torque_reading(figure: StepFigure) -> Reading:
    """A torque to enter as the wrench shows it, with the maker's limits.

    With an adapter the wrench shows another torque than the plug gets; the limits follow it.
    """
    dial = figure.setting
    unit, factor = (dial.unit, dial.factor) if dial else (figure.unit, 1.0)
    low, high = (
        round(convert(value, figure.unit, unit) * factor, 2) for value in (figure.min, figure.max)
    )
    return Reading(
        key="torque",
        label=say("label.torque" if factor == 1 else "label.torque_shown"),
        kind="number",
        unit=unit,
        low=low,
        high=high,
        why_limit=say("limit.torque"),
    )
