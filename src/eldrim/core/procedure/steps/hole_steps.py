"""Clean, Pull and Read: the work at each hole until its plug is out, stage by stage."""

from functools import cache

from eldrim.core.engine import Target
from eldrim.core.engine.joints import CONNECTORS, FASTENERS, JOINT_RULES
from eldrim.core.engine.model import Coil
from eldrim.core.engine.parts import Joint
from eldrim.core.leads.ways import lead_ways
from eldrim.core.operations import OPERATIONS, CautionCause, Operation
from eldrim.core.procedure.job.asked import asked_number
from eldrim.core.procedure.job.carrier_rounds import carrier_rounds
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import joint_name, joint_sentence
from eldrim.core.procedure.model import Reading, Step
from eldrim.core.procedure.steps.hole_step import HOLE, hole_step
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.procedure.steps.step_fields import from_rule
from eldrim.core.reading_choices import (
    COIL_CONDITIONS,
    LEAD_CONDITIONS,
    MORE_COIL_CONDITIONS,
    MORE_PLUG_CONDITIONS,
    OF_A_RING,
    PLUG_CONDITIONS,
)
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.words import has, listed, say, say_in, sentences
from eldrim.core.words.language import Language, spoken

# The operations on the carrier of the spark: by coil and by lead.
RELEASE_CARRIER = {"coil": Operation.RELEASE_COIL_JOINT, "lead": Operation.RELEASE_LEAD_JOINT}
REMOVE_CARRIER = {"coil": Operation.REMOVE_COIL, "lead": Operation.REMOVE_LEAD}
CLEAN_CARRIERS = {"coil": Operation.CLEAN_COILS, "lead": Operation.CLEAN_LEADS}
CLEANERS: dict[str, tuple[str, ...]] = {
    "air": ("air-gun",),
    "vacuum": ("vacuum-with-thin-nozzle",),
    "both": ("vacuum-with-thin-nozzle", "air-gun"),
}
LIFTERS = {"socket": (), "hose": ("old-boot-or-hose",), "magnet": ("pick-up-magnet",)}


def clean(facts: JobFacts) -> list[Step]:
    """Return the cleaning that comes before anything is opened."""
    return [_clean_carriers(facts)]


def pull(facts: JobFacts, holes: list[str]) -> list[Step]:
    """Return the steps that empty each well; the well is cleaned before its plug moves."""
    steps: list[Step] = []
    for hole in holes:
        releases = _release_carrier(facts, hole)
        steps += [*releases, _pull_carrier(facts, hole, tuple(release.key for release in releases))]
        if hole in facts.holes.plug_holes:
            steps += [_clean_well(facts, hole), _pull_plug(facts, hole)]
    return steps


def read(facts: JobFacts, holes: list[str]) -> list[Step]:
    """Return one reading step for each thing that came out."""
    steps = [_read_plug(facts, hole) for hole in holes if hole in facts.holes.plug_holes]
    read_carrier = _read_coil if isinstance(facts.holes.carrier, Coil) else _read_lead
    return steps + [read_carrier(facts, hole) for hole in holes if hole in facts.holes.renewed]


def _clean_carriers(facts: JobFacts) -> Step:
    holes = facts.holes
    operation = CLEAN_CARRIERS[holes.item]
    what = say(f"noun.{holes.item}{'s' if len(holes.holes) > 1 else ''}")
    cleaners = _cleaners(facts)
    return Step(
        **from_rule(StepKey(operation), _cleaning_causes(facts)),
        object=what,
        text=say("clean_coils", what=what, holes=listed(holes.by_number)),
        detail=say("clean_coils.detail"),
        tools=cleaners,
        setup=(cleaners[-1].id,),
        minutes=round((OPERATIONS[operation].minutes or 0) * len(holes.holes), 1),
        because=(say(f"because.{holes.item}s"),),
    )


def _cleaners(facts: JobFacts) -> tuple[ToolRef, ...]:
    return facts.tools.asked(*CLEANERS[facts.rules.school["well_cleaning"]])


def _cleaning_causes(facts: JobFacts) -> set[CautionCause]:
    blown = "air-gun" in CLEANERS[facts.rules.school["well_cleaning"]]
    return {CautionCause.AIR} if blown else set()


def _release_carrier(facts: JobFacts, hole: str) -> list[Step]:
    """Connectors before fasteners, unless the coil has to move for its connector."""
    carrier = facts.holes.carrier
    joints = {key: joint for key, joint in carrier.joints.items() if lets_go_first(joint)}
    fasteners = [k for k, j in joints.items() if j.kind in FASTENERS]
    connectors = [k for k in joints if k not in fasteners]
    moving = facts.holes.connector_while_moving
    first, second = (fasteners, connectors) if moving else (connectors, fasteners)
    opening = [_release(facts, hole, k, joints[k], ()) for k in first]
    waits = tuple(step.key for step in opening)
    return [*opening, *(_release(facts, hole, k, joints[k], waits) for k in second)]


def lets_go_first(joint: Joint) -> bool:
    """Whether a joint of a coil or lead is undone before it is pulled."""
    return joint.kind in FASTENERS or joint.kind in CONNECTORS


def _release(
    facts: JobFacts, hole: str, key: str, joint: Joint, after: tuple[StepKey, ...]
) -> Step:
    use, item = facts.tools.release(joint), facts.holes.item
    known, rounds = f"joint.{joint.kind}", carrier_rounds(facts, hole, key)
    mark = marked(facts, hole) if joint.kind in CONNECTORS else ""
    return hole_step(
        facts.holes,
        RELEASE_CARRIER[item],
        hole,
        joint=key,
        minutes=JOINT_RULES[joint.kind].minutes + rounds.out,
        text=say(
            "hole_release",
            verb=say(f"{known}.release_verb"),
            joints=joint_name(joint),
            what=say(f"noun.{item}"),
            hole=HOLE,
        ),
        detail=sentences(joint_sentence(joint, None, "release"), joint.note),
        here=(mark, rounds.note),
        tools=use.with_more(*rounds.tools),
        setup=use.setup,
        stacks=use.stacks,
        after=after,
    )


def _pull_carrier(facts: JobFacts, hole: str, after: tuple[StepKey, ...]) -> Step:
    item, rounds = facts.holes.item, carrier_rounds(facts, hole)
    operation = REMOVE_CARRIER[item]
    holding = [j for j in facts.holes.carrier.joints.values() if not lets_go_first(j)]
    how = [say(f"joint.{joint.kind}.release") for joint in holding] or [say(f"remove_{item}.how")]
    here = (marked(facts, hole), well_note(facts, hole), rounds.note)
    return hole_step(
        facts.holes,
        operation,
        hole,
        minutes=(OPERATIONS[operation].minutes or 0) + rounds.out,
        text=say(f"remove_{item}", hole=HOLE),
        detail=sentences(*how, say(f"remove_{item}.detail", hole=HOLE)),
        here=here,
        tools=rounds.tools,
        after=after,
    )


def marked(facts: JobFacts, hole: str) -> str:
    """The number or letter that stands on the coil, loom or lead of a hole, where one does."""
    mark = facts.engine.cylinders[facts.engine.holes[hole][0]].mark
    return say("marked", mark=mark) if mark else ""


def well_note(facts: JobFacts, hole: str) -> str:
    """What the sheet says of a well."""
    well = facts.engine.holes[hole][1]
    return sentences(say("felt") if well.sight == "felt" else "", well.note)


def with_rounds(facts: JobFacts, operation: Operation, target: Target, direction: str) -> float:
    """The minutes of an operation with those of the work-rounds used there, out or back."""
    extra = facts.ways.round_minutes(target, direction)
    return (OPERATIONS[operation].minutes or 0) + extra


def _clean_well(facts: JobFacts, hole: str) -> Step:
    cleaners = _cleaners(facts)
    return hole_step(
        facts.holes,
        Operation.CLEAN_WELL,
        hole,
        text=say("clean_well", hole=HOLE),
        detail=say("clean_well.detail"),
        tools=cleaners,
        setup=(cleaners[-1].id,),
        causes=_cleaning_causes(facts),
        because=(say("because.well"),),
        after=(StepKey(REMOVE_CARRIER[facts.holes.item], hole=hole),),
    )


def _pull_plug(facts: JobFacts, hole: str) -> Step:
    use = facts.tools.use(*facts.job_tools.plug_questions(hole)[:2])
    target = Target(hole=hole, item="plug")
    lifters = LIFTERS[facts.rules.school["retrieval"]]
    more = facts.tools.asked(*lifters, *facts.ways.round_tools(target))
    return hole_step(
        facts.holes,
        Operation.REMOVE_PLUG,
        hole,
        minutes=with_rounds(facts, Operation.REMOVE_PLUG, target, "out"),
        text=say("remove_plug", hole=HOLE),
        detail=_pull_words(facts),
        here=(well_note(facts, hole), facts.ways.round_notes(target)),
        tools=use.with_more(*more),
        setup=use.setup,
        stacks=use.stacks,
        causes=aluminium_head(facts),
        checks=(check("ring"),) if facts.holes.plug.seat == "gasket" else (),
        after=(StepKey(Operation.CLEAN_WELL, hole=hole),),
    )


def aluminium_head(facts: JobFacts) -> set[CautionCause]:
    """The cause of caution in a plug's thread."""
    aluminium = facts.engine.layout.head == "aluminium"
    return {CautionCause.ALUMINIUM} if aluminium else set()


def _pull_words(facts: JobFacts) -> str:
    school = facts.rules.school
    run = "run_out" if school["power_tools"] == "run_out" else "hand"
    return say(
        "remove_plug.detail",
        pull=say(f"pull.{school['breaking_loose']}"),
        run=say(f"run.{run}"),
        lift=say(f"lift.{school['retrieval']}"),
    )


def _read_plug(facts: JobFacts, hole: str) -> Step:
    gap = facts.figures.gap()
    unit = gap.unit if gap else "mm"
    gasket = facts.holes.plug.seat == "gasket"
    more = tuple(one for one in MORE_PLUG_CONDITIONS if gasket or one not in OF_A_RING)
    return hole_step(
        facts.holes,
        Operation.READ_PLUG,
        hole,
        text=say("read_plug", hole=HOLE),
        detail=say("read_plug.detail" if gasket else "read_plug.conical", hole=HOLE),
        tools=facts.tools.asked("wire-gauge", "plug-tray"),
        figures=(gap,) if gap else (),
        readings=(
            condition(PLUG_CONDITIONS, more),
            Reading(key="gap_found", label=say("label.gap_found"), kind="number", unit=unit),
        ),
        after=(StepKey(Operation.REMOVE_PLUG, hole=hole),),
    )


def condition(first: tuple[str, ...], more: tuple[str, ...]) -> Reading:
    """What is seen of a part, picked from its list; several things may be."""
    return _condition(first, more, spoken())


@cache
def _condition(first: tuple[str, ...], more: tuple[str, ...], language: Language) -> Reading:
    """The same for all holes of every job in a language."""
    return Reading(
        key="condition",
        label=say_in(language, "label.condition"),
        kind="choice",
        choices=(*first, *more),
        shown=tuple(map(seen_words, (*first, *more))),
        several=True,
        folded=len(first) if more else None,
    )


def seen_words(condition: str) -> str:
    """A condition as it is picked and read."""
    return say(f"seen.{condition}" if has(f"seen.{condition}") else f"reading.sign.{condition}")


def _read_coil(facts: JobFacts, hole: str) -> Step:
    return hole_step(
        facts.holes,
        Operation.READ_COIL,
        hole,
        text=say("read_coil", hole=HOLE),
        detail=say("read_coil.detail"),
        readings=(condition(COIL_CONDITIONS, MORE_COIL_CONDITIONS),),
        after=(StepKey(Operation.REMOVE_COIL, hole=hole),),
    )


def _read_lead(facts: JobFacts, hole: str) -> Step:
    """A lead that is renewed, off at both ends: looked at, its length and resistance held against
    what they should be.
    """
    ohms = facts.figures.plain("lead-resistance", say("figure.lead-resistance"))
    resistance = asked_number("resistance", ohms, "ohms", "kΩ", required=False)
    return hole_step(
        facts.holes,
        Operation.READ_LEAD,
        hole,
        text=say("read_lead", hole=HOLE),
        detail=say("read_lead.detail"),
        tools=facts.tools.asked("multimeter"),
        figures=(ohms,) if ohms else (),
        readings=(condition(LEAD_CONDITIONS, ()), *_length(facts, hole), resistance),
        after=(StepKey(Operation.REMOVE_LEAD, hole=hole),),
    )


def _length(facts: JobFacts, hole: str) -> tuple[Reading, ...]:
    """How long a lead may be for its way, by house rule; nothing where its way is not known."""
    way = lead_ways(facts.engine).get(hole)
    if way is None:
        return ()
    least = way.length + facts.rules.lead_slack
    return (
        Reading(
            key="length",
            label=say("label.length"),
            kind="number",
            unit="mm",
            low=round(least),
            high=round(least + facts.rules.lead_over),
            required=False,
            why_limit=say("limit.lead_length"),
        ),
    )
