"""Prove: nothing left over, started, listened to, tested, read again, signed."""

from collections.abc import Set

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.engine.joints import HOSES, JointKind
from eldrim.core.engine.model import Service
from eldrim.core.engine.parts import AIR_KINDS, Carries
from eldrim.core.job import Work, timed
from eldrim.core.leads.ways import tower_of
from eldrim.core.operations import OPERATIONS, CautionCause, Operation, Phase
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.job.pieces import cap_as_part, leads_apart, piece_joints
from eldrim.core.procedure.model import Check, Reading, Step
from eldrim.core.procedure.steps import supply_steps, timing_steps
from eldrim.core.procedure.steps.part_step import engine_step
from eldrim.core.procedure.steps.piece_steps import leads_over
from eldrim.core.procedure.steps.ready_steps import CODE_READER, codes_reading, has_codes
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.tool_selection import clamp_questions
from eldrim.core.words import listed, say, sentences, why

# From counting the tools to the first start: asked again before every start of a search.
SAFE_AGAIN = (
    Operation.CHECK_OPENINGS,
    Operation.RECONNECT_BATTERY,
    Operation.PRIME_FUEL,
    Operation.FILL_COOLANT,
    Operation.VENTILATE,
    Operation.CHECK_LUBRICATION,
    Operation.COUNT_TOOLS,
    Operation.START_ENGINE,
    Operation.CHECK_AIR_LEAK,
)
AIR_CARRIED = frozenset({Carries.AIR, Carries.VACUUM, Carries.BREATHER})
SEALED = HOSES | {JointKind.GASKET}


def before_start(facts: JobFacts) -> list[Step]:
    """Return what must hold before the engine turns, derived from what was touched."""
    ways = facts.ways
    opened = [opening for option in ways.moves for opening in ways.opened(option)]
    over = Work.CAP in facts.job.places and cap_as_part(facts.engine, ways) is not None
    moved = [
        step.model_copy(update={"phase": Phase.PROVE})
        for step in (leads_over(facts) if over else ())
    ]
    steps = [*moved, *_order(facts)]
    steps += [_openings(opened)] if opened else []
    steps += [_reconnect(facts)] if facts.holes.isolates() else []
    # Gas that was shut at Ready is opened again, whatever was touched.
    if facts.engine.layout.fuel == "gas" or _touched(facts, Carries.FUEL, JointKind.FUEL_LINE):
        steps.append(_fuel_on(facts))
    if _touched(facts, Carries.COOLANT, JointKind.COOLANT_LINE):
        steps.append(_plain(Operation.FILL_COOLANT))
    if facts.engine.layout.service is Service.MARINE:
        steps.append(_plain(Operation.VENTILATE))
    if facts.engine.layout.cycle == "two_stroke":
        steps.append(_plain(Operation.CHECK_LUBRICATION))
    return steps


def _fuel_on(facts: JobFacts) -> Step:
    """Petrol is primed; gas is let in again and looked for with spray."""
    if facts.engine.layout.fuel != "gas":
        return _plain(Operation.PRIME_FUEL)
    off = _touched(facts, Carries.FUEL, JointKind.FUEL_LINE)
    return engine_step(
        Operation.PRIME_FUEL,
        text=say("gas_back_on"),
        detail=say("gas_back_on.detail" if off else "gas_back_on.untouched"),
        tools=facts.tools.asked("leak-spray"),
        checks=(check("ok", "fuel"),),
        causes={CautionCause.GAS},
        because=why("fuel" if off else "gas_back_on"),
    )


def _touched(facts: JobFacts, what: Carries, kind: JointKind) -> bool:
    """Whether a joint let go that carries this: on the way in, of a piece or a companion."""
    along = piece_joints(facts.job, facts.engine)
    return any(j.carries is what or j.kind is kind for j in (*facts.ways.all_released, *along))


def _hose_of_air_along(facts: JobFacts) -> bool:
    """Whether companion work lets go a hose through which false air could come."""
    along = piece_joints(facts.job, facts.engine)
    return any(joint.kind in HOSES and joint.carries in AIR_CARRIED for joint in along)


def start(facts: JobFacts) -> list[Step]:
    """The first start, with the leak check an opened intake calls for; then what is measured and
    timed while it runs, before the last covers go on.
    """
    gas = {CautionCause.GAS} if facts.engine.layout.fuel == "gas" else set()
    steps = [_plain(Operation.START_ENGINE, causes=gas | facts.rolls)]
    if lets_air_in(facts.ways) or _hose_of_air_along(facts):
        steps.append(_plain(Operation.CHECK_AIR_LEAK, causes=facts.rolls))
    steps += supply_steps.running(facts)
    return steps + (timing_steps.dynamic(facts) if timed(facts.job, facts.engine) else [])


def lets_air_in(ways: ChosenWays) -> bool:
    """Whether something was opened through which false air could come.

    A seal, hose or opening of an air part, or a hose that carries air or vacuum; a part that was
    only swung aside with everything on it lets none in.
    """
    for option in ways.moves:
        joints = ways.released(option).values()
        of_air = ways.part(option).kind in AIR_KINDS
        if of_air and (ways.opened(option) or any(j.kind in SEALED for j in joints)):
            return True
        if any(j.kind in HOSES and j.carries in AIR_CARRIED for j in joints):
            return True
    return False


def start_between(facts: JobFacts, bank: str) -> Step:
    """A start after one bank, before the next is opened."""
    return _plain(Operation.START_BETWEEN, bank, facts.rolls)


def finish(facts: JobFacts) -> list[Step]:
    """Return the steps from clearing codes to signing."""
    codes = has_codes(facts)
    sign = engine_step(
        Operation.SIGN, readings=_next_due(), checks=(Check(key="ok", text=_last_word(facts)),)
    )
    return [
        *([_clear(facts)] if codes else []),
        _plain(Operation.TEST_LOAD),
        *([_codes_again(facts)] if codes else []),
        sign,
    ]


def _clear(facts: JobFacts) -> Step:
    """Codes cleared, and only then the lamp: before, it may show what is cured."""
    return engine_step(
        Operation.CLEAR_CODES,
        tools=facts.tools.asked(CODE_READER),
        checks=(check("ok", "clear_codes"), check("lamp")),
    )


def _codes_again(facts: JobFacts) -> Step:
    """The last reading; the code reader is the last tool counted back."""
    return engine_step(
        Operation.READ_CODES_AGAIN,
        tools=facts.tools.asked(CODE_READER),
        checks=(check("ok", "codes_again"), check("reader")),
        readings=(codes_reading(),),
    )


def _next_due() -> tuple[Reading, ...]:
    return (
        Reading(key="next_due", label=say("label.next_due"), kind="date", required=False),
        Reading(key="next_meter", label=say("label.next_meter"), kind="number", required=False),
        Reading(key="recheck", label=say("label.recheck"), kind="date", required=False),
    )


def _last_word(facts: JobFacts) -> str:
    if not facts.holes.plugs_out:
        return say("sign.nothing")
    return say(f"sign.{facts.rules.school['old_plugs']}")


def _plain(operation: Operation, item: str = "", causes: Set[CautionCause] = frozenset()) -> Step:
    """A step whose one check is worded like the step."""
    checks = (check("ok", OPERATIONS[operation].words),)
    return engine_step(operation, item, checks=checks, causes=causes)


def count_tools(tools: tuple[ToolRef, ...]) -> Step:
    """Count back what was counted out, before anything turns."""
    return engine_step(
        Operation.COUNT_TOOLS,
        detail=say("count_tools.detail", count=len(tools)),
        checks=(check("counted", "counted_back", count=len(tools)),),
    )


def count_again(tools: tuple[ToolRef, ...], *, covered: bool = True) -> Step:
    """Count once more after the last cover, or after what was measured while it ran: all but the
    code reader, which is still needed.
    """
    left = [tool for tool in tools if tool.id != CODE_READER]
    kept = say("count_again.reader") if len(left) < len(tools) else ""
    return engine_step(
        Operation.COUNT_TOOLS_AGAIN,
        detail=sentences(
            say("count_again.detail" if covered else "count_again.measured", count=len(left)), kept
        ),
        checks=(check("counted", "counted_back", count=len(left)),),
    )


# Leads that were off together can be changed over.
FEW_LEADS = 2
# The reading that keeps what was found where a lead was elsewhere.
ORDER = "order"
# What looking along one lead takes, in minutes (shop practice).
LEAD_MINUTES = 0.3


def _order(facts: JobFacts) -> list[Step]:
    """The order of the leads that were off, tower by tower, where the sheet states the towers."""
    towers, whole = tower_of(facts.engine), leads_apart(facts.job)
    off = list(facts.engine.holes) if whole else facts.holes.holes
    if len(off) < FEW_LEADS or not towers:
        return []
    cap = facts.engine.ignition.distributor
    fires = " ".join(map(str, facts.engine.ignition.firing_order))
    turns = say(f"order.{cap.turns}") if cap else ""
    name = "order.detail" if cap else "order.detail_pack"
    step = engine_step(
        Operation.CHECK_ORDER,
        detail=say(name, turns=turns, order=fires),
        checks=tuple(
            check(f"tower-{towers[hole]}", "tower", tower=towers[hole], hole=hole)
            for hole in sorted(off, key=lambda hole: towers[hole])
        ),
        readings=(Reading(key=ORDER, label=say("label.order"), kind="text", required=False),),
    )
    return [step.model_copy(update={"minutes": round(LEAD_MINUTES * len(off), 2)})]


def _openings(opened: list[str]) -> Step:
    return engine_step(
        Operation.CHECK_OPENINGS,
        detail=say("openings.detail", openings=listed(opened)),
        checks=(check("clear"),),
    )


def _reconnect(facts: JobFacts) -> Step:
    use = facts.tools.use(clamp_questions()[1])
    return engine_step(
        Operation.RECONNECT_BATTERY,
        tools=use.tools,
        setup=use.setup,
        checks=(check("tight"),),
        because=(say("because.taken_off"),),
    )
