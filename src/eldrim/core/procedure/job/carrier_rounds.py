"""Working round what stays at a coil or lead: at which of its steps, with what, for how long.

A work-round that only turns heads is done at the fasteners, not at the pull. Pieces that turn the
plug of the same hole are named at the plug.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from eldrim.core.access.problem import Option
from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.parts import WorkRound
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.tools.naming import ToolRef, is_handle, turns_a_head


class CarrierRounds(NamedTuple):
    """What a step at a coil or lead says of working round, its tools, and the minutes it takes."""

    note: str
    tools: tuple[ToolRef, ...]
    out: float
    back: float


def carrier_rounds(
    facts: JobFacts, hole: str, joint: str = "", *, by_wrench: bool = False
) -> CarrierRounds:
    """The work-rounds at the pull of a coil or lead, or at one joint of it.

    ``by_wrench`` tells that a torque wrench is the handle: no other is named then.
    """
    fasteners = [k for k, j in facts.holes.carrier.joints.items() if j.kind in FASTENERS]
    rounds = _shares(facts, hole, joint, fasteners)
    names = _tools(facts, hole, joint, fasteners)
    if by_wrench:
        names = [name for name in names if not is_handle(name)]
    ways = facts.ways
    return CarrierRounds(
        ways.notes_of(rounds),
        facts.tools.asked(*names),
        sum(ways.minutes_of(option, "out") * share for option, share in rounds.items()),
        sum(ways.minutes_of(option, "back") * share for option, share in rounds.items()),
    )


def _shares(
    facts: JobFacts, hole: str, joint: str, fasteners: Sequence[str]
) -> dict[Option, float]:
    """Which work-rounds are done here, and which share of each: what only turns heads is spread
    over the fasteners, the rest is done at the pull.
    """
    ways, item = facts.ways, facts.holes.item
    whole = ways.rounds_used(Target(hole=hole, item=item))
    turning = {option for option in whole if fasteners and _only_turns(ways.work_round(option))}
    if not joint:
        return {option: 1.0 for option in whole if option not in turning}
    shares = dict.fromkeys(ways.rounds_used(Target(hole=hole, item=item, joint=joint)), 1.0)
    if joint in fasteners:
        for option in (option for option in whole if option in turning):
            shares[option] = shares.get(option, 0.0) + 1 / len(fasteners)
    return shares


def _tools(facts: JobFacts, hole: str, joint: str, fasteners: Sequence[str]) -> list[str]:
    """The tools named here: what turns a head at the fasteners, if it is not named at the plug."""
    ways, item = facts.ways, facts.holes.item
    whole = ways.rounds_used(Target(hole=hole, item=item))
    if joint:
        own = ways.rounds_used(Target(hole=hole, item=item, joint=joint))
        names = _named(facts, own)
    else:
        names = [name for name in _named(facts, whole) if not turns_a_head(name)]
    if joint in fasteners or not (joint or fasteners):
        at_plug = ways.rounds_used(Target(hole=hole, item="plug"))
        only_here = [option for option in whole if option not in at_plug]
        names += [name for name in _named(facts, only_here) if turns_a_head(name)]
    return names


def _named(facts: JobFacts, options: Iterable[Option]) -> list[str]:
    return [name for option in options for name in facts.ways.work_round(option).tools]


def _only_turns(work: WorkRound) -> bool:
    return bool(work.tools) and all(map(turns_a_head, work.tools))
