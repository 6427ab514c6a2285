"""From facts and a job to a plan: settle the job, find the way in, make the steps, order them,
choose the tools, add up.
"""

from typing import cast

from eldrim.core.access import NoWayInError, build
from eldrim.core.access.alternatives import Alternative, alternatives, stays
from eldrim.core.access.closed_words import FIX, closed_words
from eldrim.core.access.explain import reason_text
from eldrim.core.access.problem import Option
from eldrim.core.base.errors import JobError, Problem
from eldrim.core.engine import Engine, applies
from eldrim.core.engine.glossary import lacking, translated
from eldrim.core.engine.joints import JointKind
from eldrim.core.job import Job, settle_job
from eldrim.core.operations import OPERATIONS, Operation, Phase
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.joint_words import joint_name
from eldrim.core.procedure.model import PLAN_FORMAT, Move, OpenPoint, PhaseMinutes, Plan, Step
from eldrim.core.procedure.open_points import open_points, wants
from eldrim.core.procedure.steps.uncover_steps import lift_key
from eldrim.core.procedure.whole_job.least_job import LeastJob, least_job
from eldrim.core.procedure.whole_job.parts_list import part_numbers, parts_list
from eldrim.core.procedure.whole_job.tool_roll import tool_roll
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.shop_capability import ShopCapability, capability_for
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import listed, say, the
from eldrim.core.words.language import BASE_LANGUAGE, reading_in


def compile_plan(
    engine: Engine,
    job: Job,
    rules: HouseRules = DEFAULT_RULES,
    crib: Crib = STANDARD_CRIB,
    *,
    at_once: bool = False,
) -> Plan:
    """Answer a job on a consistent engine sheet, with the tools of a crib.

    A way whose tool is missing is not chosen, unless nothing else opens the holes; what is
    missing then stands on the plan with what to get. ``at_once`` takes the first good answer
    where there is much to look through, instead of looking for a cheaper one: that says how far it
    may be over the least and, unless it is proven the least, names no alternatives.

    Raises :class:`JobError` when the job names what the sheet has not, or when no way reaches a
    hole; the message then carries the chain of parts. Minutes are minutes of work; one change of
    set-up costs what the house rules say and is counted on the step that needs it.
    """
    job = settle_job(job, engine)
    with reading_in(job.language):
        sheet = engine if job.language == BASE_LANGUAGE else translated(engine, job.language)
        capability = capability_for(sheet, job.variant, rules, crib.without(job.without_tools))
        least = plan_job(capability, job, at_once)
        plan = assemble(least, alternatives_too=least.proven or not at_once)
        return _with_missing_words(plan, engine)


def plan_job(capability: ShopCapability, job: Job, at_once: bool = False) -> LeastJob:
    """Choose ways and order with this crib; where it opens nothing, with tools still to get."""
    engine, rules = capability.engine, capability.rules
    try:
        try:
            problem = build(engine, job, rules, capability)
            return least_job(capability, job, problem, at_once=at_once)
        except NoWayInError:
            problem = build(engine, job, rules)
            return least_job(capability, job, problem, barred=True, at_once=at_once)
    except NoWayInError as error:
        raise JobError([Problem("hindrances", closed_words(engine, error), FIX)]) from error


def assemble(least: LeastJob, *, alternatives_too: bool = True) -> Plan:
    """Add up the ordered steps: tools, parts, moves, minutes, open points, alternatives."""
    facts, ordered = least.facts, least.ordered
    engine, job, rules, steps = facts.engine, facts.job, facts.rules, ordered.steps
    roll = tool_roll(facts.crib, facts.tools, steps)
    parts = parts_list(facts)
    return Plan(
        format=PLAN_FORMAT,
        engine=engine.id,
        engine_name=engine.title,
        revision=engine.revision,
        variant=job.variant,
        variant_name=engine.variants[job.variant].name,
        job=job,
        title=job.title(engine),
        rules_version=rules.version,
        moves=_moves(facts, steps),
        steps=tuple(steps),
        tools=tuple(ToolRef(id=item.id, name=item.name) for item in roll),
        parts=parts,
        numbers=part_numbers(facts),
        roll=roll,
        wants=wants(facts),
        open_points=open_points(steps, roll, parts),
        crib_version=facts.crib.version,
        minutes=_sum(steps),
        phases=_phases(steps),
        tool_changes=sum(step.changes_setup for step in steps),
        change_cost=ordered.change_cost,
        proven_optimal=least.proven,
        access_minutes=facts.way_in.cost / 100,
        change_minutes=ordered.change_minutes,
        least_sum=least.bound / 100,
        notes=_notes(facts),
        schools=cast(dict[str, str], dict(rules.school)),
        stays=stays(engine, facts.problem, facts.way_in, _present(engine, job.variant)),
        alternatives=_alternatives(facts) if alternatives_too else (),
        defers_to=say("defers_to"),
    )


def _alternatives(facts: JobFacts) -> tuple[Alternative, ...]:
    return alternatives(facts.engine, facts.problem, facts.way_in, facts.rules)


def _with_missing_words(plan: Plan, engine: Engine) -> Plan:
    """The plan with a point open for the words of the sheet that are not in its language."""
    words = lacking(engine, plan.job.language)
    if not words:
        return plan
    said = say("open.words", count=len(words), words="; ".join(words[:5]))
    point = OpenPoint(key="words", text=said)
    return plan.model_copy(update={"open_points": (*plan.open_points, point)})


def _present(engine: Engine, variant: str) -> list[str]:
    return [key for key, part in engine.parts.items() if applies(part.variants, variant)]


def _notes(facts: JobFacts) -> tuple[str, ...]:
    return (*_no_start_between(facts), *_plugs_while_open(facts))


# A way in that takes this long is dear enough to ask what else is worth doing while it is open.
DEAR_MINUTES = 10
PLUG_ACTS = (
    Operation.CLEAN_WELL,
    Operation.REMOVE_PLUG,
    Operation.READ_PLUG,
    Operation.CHECK_GAP,
    Operation.PREPARE_THREAD,
    Operation.START_PLUG,
    Operation.TIGHTEN_PLUG,
)


def _plugs_while_open(facts: JobFacts) -> tuple[str, ...]:
    """For a job on coils or leads alone behind a dear way in: what plugs would add, about."""
    holes = facts.holes
    if holes.plugs_out or not holes.holes or facts.way_in.cost / 100 < DEAR_MINUTES:
        return ()
    one = sum(OPERATIONS[act].minutes or 0.0 for act in PLUG_ACTS)
    more = sum(one * holes.well_factor(hole) for hole in holes.holes)
    access = round(facts.way_in.cost / 100)
    return (say("note.plugs_while_open", minutes=round(more), access=access),)


def _no_start_between(facts: JobFacts) -> tuple[str, ...]:
    holes, ways = facts.holes, facts.ways
    banks = {holes.bank_of(group[0]) for group in holes.groups}
    if not holes.by_bank or holes.start_between() or len(banks) < 2:
        return ()
    parts = [ways.part(option) for option in ways.moves]
    names = [the(part.name) for part in parts if part.needed_to_run]
    return (say("no_start_between", parts=listed(names)),)


def _moves(facts: JobFacts, steps: list[Step]) -> tuple[Move, ...]:
    place = {step.key: index for index, step in enumerate(steps)}
    options = sorted(facts.ways.moves, key=lambda move: place[lift_key(facts.ways, move)])
    return tuple(_move(facts, option, number) for number, option in enumerate(options, 1))


def _move(facts: JobFacts, option: Option, number: int) -> Move:
    ways = facts.ways
    part, way = ways.part(option), ways.way(option)
    said = [reason_text(facts.engine, reason) for reason in ways.reasons.of(option)]
    joints = [j for j in ways.released(option).values() if j.kind is not JointKind.GASKET]
    return Move(
        number=number,
        part=option.part,
        name=part.name,
        way=option.way,
        kind=way.kind.value,
        what=", ".join(map(joint_name, joints)),
        why="; ".join(said) or say("move.asked"),
        because=ways.because(option),
        reasons=ways.reason_lines(option),
        serves=ways.reasons.serves(option),
        minutes=round(way.out.mid + way.back.mid, 1),
        persons=way.persons,
    )


def _sum(steps: list[Step]) -> float:
    return round(sum(step.minutes for step in steps), 1)


def _phases(steps: list[Step]) -> tuple[PhaseMinutes, ...]:
    return tuple(
        PhaseMinutes(phase=phase, minutes=_sum([step for step in steps if step.phase is phase]))
        for phase in Phase
    )
