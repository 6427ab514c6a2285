"""Cap, rotor, points, the main coil's lead and the pack: what is done at no hole, in its order."""

from typing import Unpack

from eldrim.core.base.quantity import convert
from eldrim.core.engine import Target
from eldrim.core.engine.model import Side
from eldrim.core.engine.parts import Joint
from eldrim.core.engine.targets import hole_order
from eldrim.core.engine.timing import PieceKey
from eldrim.core.job import Work, timed
from eldrim.core.leads.ways import tower_of
from eldrim.core.operations import OPERATIONS, Operation
from eldrim.core.procedure.job.asked import asked_number
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import bare_name, joint_name
from eldrim.core.procedure.job.pieces import cap_as_part
from eldrim.core.procedure.job.tightening import tightened
from eldrim.core.procedure.model import Check, Reading, Step, StepFigure
from eldrim.core.procedure.steps import timing_steps
from eldrim.core.procedure.steps.hole_steps import condition
from eldrim.core.procedure.steps.part_step import engine_step
from eldrim.core.procedure.steps.step_checks import check, joint_checks
from eldrim.core.procedure.steps.step_fields import StepFields
from eldrim.core.reading_choices import (
    ADVANCE_CONDITIONS,
    CAP_CONDITIONS,
    LEAD_CONDITIONS,
    PACK_CONDITIONS,
    POINTS_CONDITIONS,
    ROTOR_CONDITIONS,
)
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.tool_selection import ToolUse
from eldrim.core.words import say, sentences

Act = Operation
# Blades of a gauge are so far apart, in mm.
BLADE_STEP_MM = 0.05


def piece_steps(facts: JobFacts) -> list[Step]:
    """All of it, one step after the other: each waits for the one before."""
    steps = [*_at_the_distributor(facts), *_coil_lead(facts), *_pack(facts)]
    chained = [step.key for step in steps]
    return [
        step.model_copy(update={"after": (chained[place - 1],) if place else ()})
        for place, step in enumerate(steps)
    ]


def done_at(facts: JobFacts, item: str) -> tuple[StepKey, ...]:
    """The last step of the work at a place: what goes over it waits for this."""
    mine = {"pack": ("pack",), "coil-lead": ("coil-lead",), "battery": (), "charging": ()}.get(
        item, ("cap", "rotor", "points", "time")
    )
    found = [s.key for s in piece_steps(facts) if s.key.operation.value.split("/")[0] in mine]
    return tuple(found[-1:])


def _piece_step(
    facts: JobFacts,
    operation: Operation,
    piece: PieceKey,
    direction: str = "out",
    text: str = "",
    **fields: Unpack[StepFields],
) -> Step:
    """A step on a piece, with what the sheet notes of it and the tools of what holds it."""
    stated = facts.engine.pieces.get(piece)
    joints = list(stated.joints.values()) if stated else []
    made = [_use(facts, joint, direction) for joint in joints]
    use, torques = [one for one, _ in made], tuple(figure for _, figure in made if figure)
    tools = {tool.id: tool for one in use for tool in one.tools}
    words = OPERATIONS[operation].words
    target = Target(item="timing" if piece == "distributor" else piece)
    extra = facts.ways.round_minutes(target, direction)
    step = engine_step(operation, text=text, because=(_because(facts, piece),), **fields)
    held, how = _held(joints, direction), say(f"{words}.detail")
    detail = sentences(
        *((held, how) if direction == "out" else (how, held)),
        _sheet_words(facts, piece),
        stated.note if stated else "",
        _stand(facts, piece),
        facts.ways.round_notes(target),
    )
    more = facts.tools.asked(*facts.ways.round_tools(target))
    return step.model_copy(
        update={
            "detail": detail,
            "tools": (*tools.values(), *more, *step.tools),
            "setup": next((one.setup for one in use if one.setup), step.setup),
            "stacks": tuple(stack for one in use for stack in one.stacks),
            "minutes": round(step.minutes + extra, 1),
            "figures": (*step.figures, *torques),
            "checks": (*step.checks, *_proofs(joints, [f for _, f in made], direction)),
        }
    )


def _use(facts: JobFacts, joint: Joint, direction: str) -> tuple[ToolUse, StepFigure | None]:
    if direction == "out":
        return facts.tools.release(joint), None
    return tightened(facts, joint, bare_name(joint))


def _because(facts: JobFacts, piece: PieceKey) -> str:
    """Asked for, or on the way to what was asked for."""
    asked = piece in facts.job.places
    return say("because.piece_asked" if asked else "because.piece_under")


def _held(joints: list[Joint], direction: str) -> str:
    """What holds it, and how each lets go or is made up."""
    way = "release" if direction == "out" else "refit"
    said = [
        say("piece_joint", verb=say(f"joint.{joint.kind}.{way}_verb"), joints=joint_name(joint))
        for joint in joints
    ]
    return sentences(*said)


def _proofs(joints: list[Joint], figures: list[StepFigure | None], direction: str) -> list[Check]:
    """What proves that it is held again; alike of several joints it is said once."""
    if direction == "out":
        return []
    made = zip(joints, figures, strict=True)
    return list({one.key: one for j, f in made for one in joint_checks(j, f)}.values())


def _sheet_words(facts: JobFacts, piece: PieceKey) -> str:
    """How the sheet says that the cap is keyed, or the rotor sits."""
    cap = facts.engine.ignition.distributor
    said = {"cap": cap.keyed, "rotor": cap.rotor}.get(piece, "") if cap else ""
    return f"{said[:1].upper()}{said[1:]}." if said else ""


def _stand(facts: JobFacts, piece: PieceKey) -> str:
    cap = facts.engine.ignition.distributor
    stands: Side | None = cap.stand if cap and piece != "pack" else None
    return say(f"stand_at.{stands}") if stands else ""


def _condition_of(choices: tuple[str, ...]) -> tuple[Reading, ...]:
    return (condition(choices, ()),)


def _at_the_distributor(facts: JobFacts) -> list[Step]:
    """Under the cap and back: the cap goes on last, whatever was done below."""
    asked, steps = facts.job.places, list[Step]()
    lifted = facts.job.cap_off
    # Drawn as a part, it came off and goes on like any other.
    moved = cap_as_part(facts.engine, facts.ways) is not None
    if lifted:
        steps += [
            *([] if moved else [_piece_step(facts, Act.LIFT_CAP, "cap")]),
            engine_step(Act.READ_CAP, readings=_condition_of(CAP_CONDITIONS)),
            engine_step(Act.TEST_ADVANCE, readings=_condition_of(ADVANCE_CONDITIONS)),
        ]
    rotor = bool({Work.ROTOR, Work.POINTS} & asked)
    if rotor:
        steps += [
            _piece_step(facts, Act.REMOVE_ROTOR, "rotor"),
            engine_step(Act.READ_ROTOR, readings=_condition_of(ROTOR_CONDITIONS)),
        ]
    steps += _points(facts) if Work.POINTS in asked else []
    if rotor:
        checks = (check("rotor_keyed"), check("rotor_down"))
        steps.append(_piece_step(facts, Act.FIT_ROTOR, "rotor", "back", checks=checks))
    steps += timing_steps.static(facts) if timed(facts.job, facts.engine) else []
    return steps + (_cap_back(facts) if lifted and not moved else [])


def _points(facts: JobFacts) -> list[Step]:
    """Contact points are looked at and set by their gap; a pick-up by its air gap."""
    if facts.engine.contactless:
        return [_set_gap(facts, Act.SET_AIR_GAP, "air-gap", "air_gap", "blade-non-magnetic")]
    looked = engine_step(Act.READ_POINTS, readings=_condition_of(POINTS_CONDITIONS))
    return [looked, _set_gap(facts, Act.SET_POINTS, "points-gap", "points_gap", "blade-gauge")]


def _set_gap(facts: JobFacts, operation: Operation, key: str, reading: str, blade: str) -> Step:
    figure = facts.figures.plain(key, say(f"figure.{reading}"))
    assert figure is not None, "a sheet with points states their gap, or a band stands in"
    step_size = float(f"{convert(BLADE_STEP_MM, 'mm', figure.unit):.4g}")
    asked = asked_number(reading, figure, reading, resolution=step_size)
    step = _piece_step(facts, operation, "points", readings=(asked,), figures=(figure,))
    blades = facts.tools.asked(blade)
    tight = check("points_tight")
    return step.model_copy(
        update={"tools": (*step.tools, *blades), "checks": (*step.checks, tight)}
    )


def _cap_back(facts: JobFacts) -> list[Step]:
    new = Work.CAP in facts.job.places
    text = say("cap_on.new") if new else ""
    checks = (check("cap_keyed"), check("cap_still"))
    fitted = _piece_step(facts, Act.FIT_CAP, "cap", "back", text=text, checks=checks)
    return [fitted, *(leads_over(facts) if new else [])]


def leads_over(facts: JobFacts) -> list[Step]:
    """The leads over from the old cap to the new, tower by tower; those that are renewed go on as
    they are fitted.
    """
    towers = tower_of(facts.engine)
    left = [hole for hole in facts.engine.holes if hole not in facts.holes.renewed]
    if not left:
        return []
    left.sort(key=lambda hole: towers[hole])
    cap = facts.engine.ignition.distributor
    turns = f", {say(f'order.{cap.turns}')}" if cap else ""
    step = engine_step(
        Act.MOVE_LEADS,
        detail=say("move_leads.detail", turns=turns),
        checks=tuple(
            check(f"moved-{towers[hole]}", "moved", tower=towers[hole], hole=hole) for hole in left
        ),
    )
    minutes = round(OPERATIONS[Act.MOVE_LEADS].minutes or 0.0, 2) * len(left)
    return [step.model_copy(update={"minutes": round(minutes, 1)})]


def _coil_lead(facts: JobFacts) -> list[Step]:
    if Work.COIL_LEAD not in facts.job.places:
        return []
    checks = (check("coil_lead_ends"), check("coil_lead_away"))
    readings = (condition(LEAD_CONDITIONS, ()), _ohms(facts, "lead-resistance", "resistance"))
    figures, meter = _figures(facts, "lead-resistance"), _meter(facts)
    read: StepFields = {"readings": readings, "figures": figures, "tools": meter}
    return [
        _piece_step(facts, Act.READ_COIL_LEAD, "coil-lead", **read),
        _piece_step(facts, Act.FIT_COIL_LEAD, "coil-lead", "back", checks=checks),
    ]


def _meter(facts: JobFacts) -> tuple[ToolRef, ...]:
    return facts.tools.asked("multimeter")


def _figures(facts: JobFacts, *keys: str) -> tuple[StepFigure, ...]:
    found = [facts.figures.plain(key, say(f"figure.{key}")) for key in keys]
    return tuple(figure for figure in found if figure)


def _ohms(facts: JobFacts, key: str, reading: str) -> Reading:
    """A resistance to be measured, against the sheet's limits or the band that stands in."""
    return asked_number(reading, facts.figures.plain(key, say(f"figure.{key}")), "ohms", "kΩ")


def _pack(facts: JobFacts) -> list[Step]:
    if Work.PACK not in facts.job.places:
        return []
    towers = tower_of(facts.engine)
    holes = sorted(facts.engine.holes, key=lambda hole: (towers.get(hole, 0), hole_order(hole)))
    kept = [hole for hole in holes if hole not in facts.holes.renewed and hole in towers]
    back = tuple(
        check(f"moved-{towers[hole]}", "on_tower", tower=towers[hole], hole=hole) for hole in kept
    )
    measured = (
        _ohms(facts, "coil-primary", "primary"),
        _ohms(facts, "coil-secondary", "secondary"),
    )
    look = engine_step(
        Act.READ_PACK,
        readings=(condition(PACK_CONDITIONS, ()), *measured),
        figures=_figures(facts, "coil-primary", "coil-secondary"),
        tools=_meter(facts),
    )
    return [
        _piece_step(facts, Act.REMOVE_PACK, "pack"),
        look,
        _piece_step(facts, Act.FIT_PACK, "pack", "back", checks=(check("pack_flat"), *back)),
    ]
