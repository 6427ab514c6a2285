"""Refit: planned from what was touched, never simply the way out turned round."""

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import Option
from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS, JOINT_RULES, JointKind
from eldrim.core.engine.parts import Joint, Part, WayKind
from eldrim.core.figures.sheet import joint_window
from eldrim.core.operations import CautionCause, Operation
from eldrim.core.order.pattern import STAGES_FROM, tightening_pattern
from eldrim.core.procedure.hole_step import HOLE, hole_step
from eldrim.core.procedure.hole_steps import lets_go_first, with_rounds
from eldrim.core.procedure.job_facts import JobFacts
from eldrim.core.procedure.joint_words import joint_causes, joint_name, standing_place
from eldrim.core.procedure.minutes import share
from eldrim.core.procedure.model import Step, StepFigure
from eldrim.core.procedure.part_step import part_step
from eldrim.core.procedure.step_checks import check, joint_checks, joint_proofs
from eldrim.core.step_key import StepKey
from eldrim.core.tools.tool_selection import ToolUse
from eldrim.core.words import listed, say, the

# The operations on the carrier of the spark: by coil and by lead.
FIT_CARRIER = {"coil": Operation.FIT_COIL, "lead": Operation.FIT_LEAD}
TIGHTEN_CARRIER = {"coil": Operation.TIGHTEN_COIL_JOINT, "lead": Operation.TIGHTEN_LEAD_JOINT}
CONNECT_CARRIER = {"coil": Operation.CONNECT_COIL_JOINT, "lead": Operation.CONNECT_LEAD_JOINT}


def carriers(facts: JobFacts, holes: list[str]) -> list[Step]:
    """Coils or leads back on their plugs, each seated, fastened, clicked and tugged."""
    return [step for hole in holes for step in _carrier(facts, hole)]


def covers(facts: JobFacts) -> list[Step]:
    """Every moved part back, its joints made up and proven; ``after`` carries what goes first."""
    return [step for option in facts.ways.moves for step in _part(facts, option)]


def parts_after_start(ways: ChosenWays) -> set[str]:
    """Parts that may wait until after the first start: nothing needed to run goes over them."""
    waiting = {move.part for move in ways.moves if not ways.part(move).needed_to_run}
    changed = True
    while changed:
        pairs = [(a, b) for a, b in _back_before(ways) if a in waiting and b not in waiting]
        waiting -= {a for a, _ in pairs}
        changed = bool(pairs)
    return waiting


def _back_before(ways: ChosenWays) -> list[tuple[str, str]]:
    """Pairs of moved parts (first back, then back)."""
    moved = {move.part for move in ways.moves}
    pairs = [(hole.target.part, o.part) for hole, o in ways.met if o.is_way and hole.target.part]
    stated = [(a, o.part) for o in ways.moves for a in ways.part(o).refit_after if a in moved]
    return pairs + stated


def _carrier(facts: JobFacts, hole: str) -> list[Step]:
    carrier, item = facts.holes.carrier, facts.holes.item
    target = Target(hole=hole, item=item)
    grease, new = _grease_words(facts), ""
    if facts.holes.renews_carrier:
        new = say(f"fit_{item}.new")
    seated = [
        proof
        for joint in carrier.joints.values()
        if not lets_go_first(joint)
        for proof in joint_proofs(joint)
    ]
    fitted = hole_step(
        facts.holes,
        FIT_CARRIER[item],
        hole,
        minutes=with_rounds(facts, FIT_CARRIER[item], target, "back"),
        text=say(f"fit_{item}", hole=HOLE),
        detail=say(f"fit_{item}.detail", grease=grease, new=new),
        tools=facts.tools.asked("dielectric-grease") if grease else (),
        checks=tuple(seated) or (check("flush"),),
    )
    joints = [key for key, j in carrier.joints.items() if lets_go_first(j)]
    return [fitted, *(_carrier_joint(facts, hole, k, fitted.key) for k in joints)]


def _grease_words(facts: JobFacts) -> str:
    school = facts.rules.school("dielectric_grease")
    if facts.holes.boot_greased or school == "none":
        return ""
    return say(f"fit_{facts.holes.item}.{school}")


def _carrier_joint(facts: JobFacts, hole: str, key: str, after: StepKey) -> Step:
    joint, item = facts.holes.carrier.joints[key], facts.holes.item
    known, noun = f"joint.{joint.kind}", say(f"noun.{item}")
    named = joint.name or say(f"{known}.one")
    use, figure = _use(facts, joint, say("figure.carrier", item=noun, joint=named))
    return hole_step(
        facts.holes,
        _carrier_operation(facts, joint),
        hole,
        joint=key,
        minutes=JOINT_RULES[joint.kind].minutes,
        text=say(
            "hole_refit",
            verb=say(f"{known}.refit_verb"),
            joints=joint_name(joint),
            what=noun,
            hole=HOLE,
        ),
        detail=" ".join(_joint_notes(joint)),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,) if figure else (),
        checks=joint_checks(joint, figure),
        after=(after,),
    )


def _carrier_operation(facts: JobFacts, joint: Joint) -> Operation:
    table = TIGHTEN_CARRIER if joint.kind in FASTENERS else CONNECT_CARRIER
    return table[facts.holes.item]


def _part(facts: JobFacts, option: Option) -> list[Step]:
    ways = facts.ways
    joints = ways.released(option)
    made_up = [key for key, joint in joints.items() if joint.kind is not JointKind.GASKET]
    seals = [k for k, j in joints.items() if j.kind is JointKind.GASKET]
    minutes = share(ways.way(option).back.mid, [*(joints[k].count for k in made_up), 1])
    before = _fit_after(facts, option)
    renewed = [_renew(ways.part(option), option.part, seal, before) for seal in seals]
    openings = _unplug(facts, option, (*before, *(step.key for step in renewed)))
    first = tuple(opening.key for opening in (*openings, *renewed))
    extra = ways.round_minutes(Target(part=option.part, way=option.way), "back")
    fitted = _fit(ways, option, round(minutes[-1] + extra, 1), (*before, *first))
    made = [
        _make_up(facts, option, k, cost, fitted.key)
        for k, cost in zip(made_up, minutes[:-1], strict=True)
    ]
    return [*renewed, *openings, fitted, *made]


def _fit_after(facts: JobFacts, option: Option) -> tuple[StepKey, ...]:
    """Keys of all that must be done before this part goes back on."""
    ways = facts.ways
    keys: dict[StepKey, None] = {}
    for hindrance in ways.answered.get(option, ()):
        if hindrance.target.part:
            other = ways.move_of[hindrance.target.part]
            keys.update(dict.fromkeys(_closed_keys(ways, other)))
        else:
            keys.update(dict.fromkeys(_hole_keys(facts, hindrance.target.hole)))
    others = [ways.move_of[key] for key in ways.part(option).refit_after if key in ways.move_of]
    keys.update({key: None for other in others for key in _closed_keys(ways, other)})
    return tuple(keys)


def _hole_keys(facts: JobFacts, hole: str) -> list[StepKey]:
    """The keys that must be done before something goes over a hole."""
    joints = facts.holes.carrier.joints.items()
    made_up = [
        StepKey(_carrier_operation(facts, joint), hole=hole, joint=key)
        for key, joint in joints
        if lets_go_first(joint)
    ]
    return [StepKey(FIT_CARRIER[facts.holes.item], hole=hole), *made_up]


def _closed_keys(ways: ChosenWays, option: Option) -> list[StepKey]:
    """The keys that must be done before something goes over a part: all of it."""
    joints = ways.released(option).items()
    made_up = [_joint_key(option, key, j) for key, j in joints if j.kind is not JointKind.GASKET]
    return [_fit_key(ways, option), *made_up]


def _fit_key(ways: ChosenWays, option: Option) -> StepKey:
    removed = ways.way(option).kind is WayKind.REMOVE
    return StepKey(Operation.FIT_PART if removed else Operation.BRING_PART_BACK, option.part)


def _joint_key(option: Option, key: str, joint: Joint) -> StepKey:
    fastener = joint.kind in FASTENERS
    operation = Operation.TIGHTEN_JOINT if fastener else Operation.CONNECT_JOINT
    return StepKey(operation, option.part, joint=key)


def _renew(part: Part, part_key: str, key: str, after: tuple[StepKey, ...]) -> Step:
    joint = part.joints[key]
    return part_step(
        StepKey(Operation.RENEW_SEAL, part_key, joint=key),
        part,
        text=say("renew", joints=joint_name(joint), part=the(part.name)),
        detail=say("renew.detail"),
        checks=joint_checks(joint, None),
        because=(say("because.seal"),),
        after=after,
    )


def _unplug(facts: JobFacts, option: Option, after: tuple[StepKey, ...]) -> list[Step]:
    part = facts.ways.part(option)
    if not part.opens or facts.ways.way(option).kind is not WayKind.REMOVE:
        return []
    openings = listed(part.opens)
    return [
        part_step(
            StepKey(Operation.UNPLUG_OPENING, option.part),
            part,
            object=openings,
            text=say("unplug_opening", openings=openings),
            detail=say("unplug_opening.detail"),
            tools=facts.tools.asked("light"),
            checks=(check("unplugged", openings=openings),),
            because=(say("because.closes"),),
            after=after,
        )
    ]


def _fit(ways: ChosenWays, option: Option, minutes: float, after: tuple[StepKey, ...]) -> Step:
    part, way = ways.part(option), ways.way(option)
    removed = way.kind is WayKind.REMOVE
    sentence = "fit" if removed else "back"
    return part_step(
        _fit_key(ways, option),
        part,
        text=say(sentence, part=the(part.name)),
        detail=say(f"{sentence}.detail"),
        causes={CautionCause.LIFT} if way.persons > 1 else set(),
        checks=(check("free"),) if removed else (),
        minutes=minutes,
        because=(say("because.came_off"),),
        after=after,
    )


def _make_up(facts: JobFacts, option: Option, key: str, minutes: float, fitted: StepKey) -> Step:
    part = facts.ways.part(option)
    joint = part.joints[key]
    use, figure = _use(facts, joint, f"{part.name}, {joint_name(joint)}")
    verb = say(f"joint.{joint.kind}.refit_verb")
    return part_step(
        _joint_key(option, key, joint),
        part,
        text=say("refit", verb=verb, joints=joint_name(joint), part=the(part.name)),
        detail=" ".join(_joint_notes(joint)),
        tools=use.tools,
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,) if figure else (),
        causes=joint_causes(joint),
        checks=joint_checks(joint, figure),
        minutes=minutes,
        because=(say("because.let_go"),),
        after=(fitted,),
    )


def _use(facts: JobFacts, joint: Joint, name: str) -> tuple[ToolUse, StepFigure | None]:
    """The tools that make a joint up, and its torque where the sheet states one."""
    use, choice = facts.tools.tighten(joint)
    window = joint_window(facts.engine, joint, facts.job.variant, facts.rules)
    if window is None or joint.torque is None:
        return use, None
    return use, facts.figures.torque(joint.torque, name, window, choice)


def _joint_notes(joint: Joint) -> list[str]:
    notes = [say("one_time")] if joint.one_time else []
    notes.append(say(f"joint.{joint.kind}.refit"))
    if joint.kind in FASTENERS and joint.count >= STAGES_FROM:
        order = tightening_pattern(joint.at)
        pattern = "-".join(map(str, order))
        notes.append(say("pattern", order=pattern) if order else say("pattern.plain"))
    if joint.stand:
        notes.append(standing_place(joint))
    if joint.plastic:
        notes.append(say("plastic"))
    return notes
