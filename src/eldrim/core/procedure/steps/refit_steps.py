"""Refit: planned from what was touched, never simply the way out turned round."""

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import Option
from eldrim.core.engine import Target
from eldrim.core.engine.joints import CLAMPS, CONNECTORS, FASTENERS, JOINT_RULES, JointKind
from eldrim.core.engine.parts import AIR_KINDS, Joint, Part, WayKind
from eldrim.core.leads.ways import tower_of
from eldrim.core.operations import OPERATIONS, CautionCause, Operation
from eldrim.core.order.pattern import STAGES_FROM, tightening_pattern
from eldrim.core.procedure.job.carrier_rounds import carrier_rounds
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import (
    bare_name,
    joint_causes,
    joint_name,
    joint_sentence,
    spoken_of,
    standing_place,
)
from eldrim.core.procedure.job.minutes import share
from eldrim.core.procedure.job.pieces import cap_as_part
from eldrim.core.procedure.job.tightening import tightened
from eldrim.core.procedure.model import Step
from eldrim.core.procedure.steps.companion_steps import last_step, step_key
from eldrim.core.procedure.steps.hole_step import HOLE, hole_step
from eldrim.core.procedure.steps.hole_steps import lets_go_first, marked, well_note
from eldrim.core.procedure.steps.part_step import part_step
from eldrim.core.procedure.steps.piece_steps import done_at
from eldrim.core.procedure.steps.step_checks import check, joint_checks, joint_proofs
from eldrim.core.step_key import StepKey
from eldrim.core.words import listed, say, sentences, the

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
    rounds = carrier_rounds(facts, hole)
    grease, new = _grease_words(facts), ""
    if hole in facts.holes.renewed:
        new = say(f"fit_{item}.new")
    holding = [joint for joint in carrier.joints.values() if not lets_go_first(joint)]
    seated = [proof for joint in holding for proof in joint_proofs(joint)]
    how = [say(f"joint.{joint.kind}.refit") for joint in holding] or [say(f"fit_{item}.seat")]
    tower = _tower(facts, hole)
    how += [say("fit_lead.both")] if tower else []
    here = (tower, _level_with(facts, hole), well_note(facts, hole))
    fitted = hole_step(
        facts.holes,
        FIT_CARRIER[item],
        hole,
        minutes=(OPERATIONS[FIT_CARRIER[item]].minutes or 0) + rounds.back,
        text=say(f"fit_{item}", hole=HOLE),
        detail=new + grease + sentences(*how),
        here=here,
        tools=(*(facts.tools.asked("dielectric-grease") if grease else ()), *rounds.tools),
        checks=tuple(seated) or (check("flush"),),
    )
    return [fitted, *_carrier_joints(facts, hole, fitted.key)]


def _tower(facts: JobFacts, hole: str) -> str:
    """The tower of a lead that is renewed: it is pushed on there too."""
    towers = tower_of(facts.engine) if facts.holes.item == "lead" else {}
    off = hole in facts.holes.renewed and hole in towers
    return say("fit_lead.tower", tower=towers[hole]) if off else ""


def _level_with(facts: JobFacts, hole: str) -> str:
    """The coil that stayed fitted as height reference, where it still is the measure."""
    reference = facts.holes.reference
    return say("fit_coil.level", reference=reference) if reference not in ("", hole) else ""


def _carrier_joints(facts: JobFacts, hole: str, fitted: StepKey) -> list[Step]:
    """Fasteners before connectors, unless the coil has to move for its connector."""
    joints = facts.holes.carrier.joints
    keys = [key for key, joint in joints.items() if lets_go_first(joint)]
    fasteners = [key for key in keys if joints[key].kind in FASTENERS]
    connectors = [key for key in keys if key not in fasteners]
    moving = facts.holes.connector_while_moving
    first, second = (connectors, fasteners) if moving else (fasteners, connectors)
    made = [_carrier_joint(facts, hole, key, (fitted,)) for key in first]
    waits = (fitted, *(step.key for step in made))
    return [*made, *(_carrier_joint(facts, hole, key, waits) for key in second)]


def _grease_words(facts: JobFacts) -> str:
    school = facts.rules.school["dielectric_grease"]
    if facts.holes.boot_greased or school == "none":
        return ""
    return say(f"fit_{facts.holes.item}.{school}")


def _carrier_joint(facts: JobFacts, hole: str, key: str, after: tuple[StepKey, ...]) -> Step:
    joint, item = facts.holes.carrier.joints[key], facts.holes.item
    known, noun = f"joint.{joint.kind}", say(f"noun.{item}")
    named = joint.name or say(f"{known}.one")
    named = named if noun in named.lower() else say("figure.carrier", item=noun, joint=named)
    use, figure = tightened(facts, joint, named)
    rounds = carrier_rounds(facts, hole, key, by_wrench=figure is not None)
    mark = marked(facts, hole) if joint.kind in CONNECTORS else ""
    return hole_step(
        facts.holes,
        _carrier_operation(facts, joint),
        hole,
        joint=key,
        minutes=JOINT_RULES[joint.kind].minutes + rounds.back,
        text=say(
            "hole_refit",
            verb=say(f"{known}.refit_verb"),
            joints=joint_name(joint),
            what=noun,
            hole=HOLE,
        ),
        detail=sentences(*_joint_notes(joint)),
        here=(mark, rounds.note),
        tools=use.with_more(*rounds.tools),
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,) if figure else (),
        checks=joint_checks(joint, figure),
        after=after,
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
    faces = [_clean_faces(ways.part(option), option.part, before)] if seals else []
    first = (*before, *(step.key for step in faces))
    openings = _unplug(facts, option, first)
    bare = (*first, *(step.key for step in openings))
    renewed = [_renew(ways.part(option), option.part, seal, bare) for seal in seals]
    extra = ways.round_minutes(Target(part=option.part, way=option.way), "back")
    ready = (*bare, *(step.key for step in renewed))
    fitted = _fit(ways, option, round(minutes[-1] + extra, 1), ready)
    made = [
        _make_up(facts, option, k, cost, _made_up_after(ways, option, k))
        for k, cost in zip(made_up, minutes[:-1], strict=True)
    ]
    return [*faces, *openings, *renewed, fitted, *made]


def _made_up_after(ways: ChosenWays, option: Option, key: str) -> tuple[StepKey, ...]:
    """What comes before a joint is made up: the part in its place; before a fastener is
    tightened, its air hoses and all that is pushed onto it; before a connector of what seals on
    a face, the fasteners, so that no tug shifts the seal.
    """
    fitted, part = _fit_key(ways, option), ways.part(option)
    joint, released = part.joints[key], ways.released(option).items()
    seals = any(other.kind is JointKind.GASKET for _, other in released)
    if joint.kind in CONNECTORS and seals and not ways.pushed.get(option.part):
        return (fitted, *(_joint_key(option, k, j) for k, j in released if j.kind in FASTENERS))
    if joint.kind not in FASTENERS:
        return (fitted,)
    hoses = [
        _joint_key(option, other, hose)
        for other, hose in released
        if hose.kind in CLAMPS and part.kind in AIR_KINDS
    ]
    return (fitted, *(_fit_key(ways, other) for other in ways.pushed.get(option.part, ())), *hoses)


def _fit_after(facts: JobFacts, option: Option) -> tuple[StepKey, ...]:
    """Keys of all that must be done before this part goes back on."""
    ways = facts.ways
    keys: dict[StepKey, None] = {}
    together = {other.part for other in ways.pushed.get(option.part, ())}
    for hindrance in ways.answered.get(option, ()):
        target = hindrance.target
        if target.item and not target.hole:
            keys.update(dict.fromkeys(_done_at(facts, target.item)))
            continue
        if not target.part:
            keys.update(dict.fromkeys(_hole_keys(facts, target.hole)))
            continue
        other = ways.move_of[target.part]
        closed = _joint_keys(ways, other, target.joint) if target.joint else None
        whole = [] if target.part in together else _closed_keys(ways, other)
        keys.update(dict.fromkeys(whole if closed is None else closed))
    if option.part == cap_as_part(facts.engine, ways):
        keys.update(dict.fromkeys(done_at(facts, "cap")))
    others = [ways.move_of[key] for key in ways.part(option).refit_after if key in ways.move_of]
    keys.update({key: None for other in others for key in _closed_keys(ways, other)})
    under = [ways.move_of[k] for k in ways.part(option).pushes_onto if k in ways.move_of]
    keys.update({_fit_key(ways, other): None for other in under})
    return tuple(keys)


def _done_at(facts: JobFacts, place: str) -> tuple[StepKey, ...]:
    """The last step of the work at a place, or of a companion."""
    companion = facts.engine.companions.get(place)
    return (step_key(place, last_step(companion)),) if companion else done_at(facts, place)


def _joint_keys(ways: ChosenWays, option: Option, joint: str) -> list[StepKey]:
    """The keys that must be done before something goes over one joint."""
    return [_fit_key(ways, option), _joint_key(option, joint, ways.part(option).joints[joint])]


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


def _clean_faces(part: Part, part_key: str, after: tuple[StepKey, ...]) -> Step:
    """Old seals off and faces wiped while the openings are still plugged."""
    return part_step(
        StepKey(Operation.CLEAN_FACES, part_key),
        part,
        text=say("faces", part=the(part.name)),
        brief=say("brief.faces"),
        detail=say("faces.detail"),
        checks=(check("faces"),),
        because=(say("because.seal"),),
        after=after,
    )


def _renew(part: Part, part_key: str, key: str, after: tuple[StepKey, ...]) -> Step:
    joint = part.joints[key]
    return part_step(
        StepKey(Operation.RENEW_SEAL, part_key, joint=key),
        part,
        text=say("renew", joints=joint_name(joint), part=the(part.name)),
        brief=say("brief.renew", joints=joint_name(joint)),
        detail=say("renew.detail"),
        checks=joint_checks(joint, None, part),
        because=(say("because.seal"),),
        after=after,
    )


def _unplug(facts: JobFacts, option: Option, after: tuple[StepKey, ...]) -> list[Step]:
    part, opened = facts.ways.part(option), facts.ways.opened(option)
    if not opened:
        return []
    openings = listed(opened)
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
    onto = [ways.engine.parts[key].name for key in ways.move_of if key in part.pushes_onto]
    pushed = say("fit.onto", parts=listed([the(name) for name in onto])) if onto else ""
    return part_step(
        _fit_key(ways, option),
        part,
        text=say(sentence, part=the(part.name)),
        detail=sentences(say(f"{sentence}.detail"), pushed),
        causes={CautionCause.LIFT} if way.persons > 1 else set(),
        checks=(check("free"),) if removed else (),
        minutes=minutes,
        because=(say("because.came_off" if removed else "because.moved"),),
        after=after,
    )


def _make_up(
    facts: JobFacts, option: Option, key: str, minutes: float, after: tuple[StepKey, ...]
) -> Step:
    part, ways = facts.ways.part(option), facts.ways
    joint = part.joints[key]
    name = joint_name(joint)
    use, figure = tightened(facts, joint, f"{part.name}, {bare_name(joint)}")
    slack = ways.slackened(option, joint)
    verb = say("slacken.refit_verb" if slack else f"{spoken_of(joint, part)}.refit_verb")
    target = Target(part=option.part, way=option.way, joint=key)
    notes = (*_joint_notes(joint, part), ways.round_notes(target))
    return part_step(
        _joint_key(option, key, joint),
        part,
        text=say("refit", verb=verb, joints=name, part=the(part.name)),
        brief=say("brief.joint", verb=verb, joints=name),
        detail=sentences(*notes),
        tools=use.with_more(*facts.tools.asked(*ways.round_tools(target))),
        setup=use.setup,
        stacks=use.stacks,
        figures=(figure,) if figure else (),
        causes=joint_causes(joint),
        checks=joint_checks(joint, figure, part),
        minutes=round(minutes + ways.round_minutes(target, "back"), 1),
        because=(say("because.let_go"),),
        after=after,
    )


def _joint_notes(joint: Joint, part: Part | None = None) -> list[str]:
    notes = [say("one_time")] if joint.one_time else []
    notes.append(joint_sentence(joint, part, "refit"))
    if joint.kind in FASTENERS and joint.count >= STAGES_FROM:
        order = tightening_pattern(joint.at)
        pattern = "-".join(map(str, order))
        notes.append(say("pattern", order=pattern) if order else say("pattern.plain"))
    if joint.stand:
        notes.append(standing_place(joint))
    if joint.plastic:
        notes.append(say("plastic.torqued" if joint.torque else "plastic"))
    return notes
