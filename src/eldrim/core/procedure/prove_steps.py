"""Prove: nothing left over, started, listened to, tested, read again, signed."""

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import Service
from eldrim.core.engine.parts import AIR_KINDS, Carries, WayKind
from eldrim.core.operations import OPERATIONS, CautionCause, Operation
from eldrim.core.procedure.job_facts import JobFacts
from eldrim.core.procedure.model import Check, Reading, Step
from eldrim.core.procedure.part_step import engine_step
from eldrim.core.procedure.ready_steps import codes_reading
from eldrim.core.procedure.step_checks import check
from eldrim.core.tools.tool_selection import clamp_questions
from eldrim.core.words import listed, say


def before_start(facts: JobFacts) -> list[Step]:
    """Return what must hold before the engine turns, derived from what was touched."""
    ways = facts.ways
    removed = [move for move in ways.moves if ways.way(move).kind is WayKind.REMOVE]
    opened = [opening for o in removed for opening in ways.part(o).opens]
    steps = [_openings(opened)] if opened else []
    steps += [_reconnect(facts)] if ways.isolates() else []
    if _touched(facts, Carries.FUEL, JointKind.FUEL_LINE):
        steps.append(_plain(Operation.PRIME_FUEL))
    if _touched(facts, Carries.COOLANT, JointKind.COOLANT_LINE):
        steps.append(_plain(Operation.FILL_COOLANT))
    if facts.engine.layout.service is Service.MARINE:
        steps.append(_plain(Operation.VENTILATE))
    if facts.engine.layout.cycle == "two_stroke":
        steps.append(_plain(Operation.CHECK_LUBRICATION))
    return steps


def _touched(facts: JobFacts, what: Carries, kind: JointKind) -> bool:
    """Whether a joint let go that carries this."""
    return any(j.carries is what or j.kind is kind for j in facts.ways.all_released)


def start(facts: JobFacts) -> list[Step]:
    """The first start, with the leak check an opened intake calls for."""
    gas = {CautionCause.GAS} if facts.engine.layout.fuel == "gas" else set()
    steps = [_plain(Operation.START_ENGINE, causes=gas)]
    if any(facts.ways.part(move).kind in AIR_KINDS for move in facts.ways.moves):
        steps.append(_plain(Operation.CHECK_AIR_LEAK))
    return steps


def start_between(bank: str) -> Step:
    """A start after one bank, before the next is opened."""
    return _plain(Operation.START_BETWEEN, bank)


def finish(facts: JobFacts) -> list[Step]:
    """Return the steps from clearing codes to signing."""
    return [
        _plain(Operation.CLEAR_CODES),
        _plain(Operation.TEST_LOAD),
        engine_step(
            Operation.READ_CODES_AGAIN,
            checks=(check("ok", "codes_again"),),
            readings=(codes_reading(),),
        ),
        engine_step(
            Operation.SIGN, readings=_next_due(), checks=(Check(key="ok", text=_last_word(facts)),)
        ),
    ]


def _next_due() -> tuple[Reading, ...]:
    return (
        Reading(key="next_due", label=say("label.next_due"), kind="date", required=False),
        Reading(key="next_meter", label=say("label.next_meter"), kind="number", required=False),
        Reading(key="recheck", label=say("label.recheck"), kind="date", required=False),
    )


def _last_word(facts: JobFacts) -> str:
    if not facts.holes.plugs_out:
        return say("sign.nothing")
    return say(f"sign.{facts.rules.school('old_plugs')}")


def _plain(operation: Operation, item: str = "", causes: set[CautionCause] | None = None) -> Step:
    """A step whose one check is worded like the step."""
    checks = (check("ok", OPERATIONS[operation].words),)
    return engine_step(operation, item, checks=checks, causes=causes or set())


def count_tools(count: int) -> Step:
    """Count back what was counted out, before anything turns."""
    return engine_step(
        Operation.COUNT_TOOLS,
        detail=say("count_tools.detail", count=count),
        checks=(check("counted", "counted_back", count=count),),
    )


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
