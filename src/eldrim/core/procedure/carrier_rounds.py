"""Working round what stays at a coil or lead: at which of its steps, with what, for how long.

A work-round that only turns heads is done at the fasteners, not at the pull. Pieces that turn the
plug of the same hole are named at the plug.
"""

from typing import NamedTuple

from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.parts import WorkRound
from eldrim.core.procedure.job_facts import JobFacts
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
    ways, item = facts.ways, facts.holes.item
    whole = ways.rounds_used(Target(hole=hole, item=item))
    named_at_plug = ways.rounds_used(Target(hole=hole, item="plug"))
    fasteners = [k for k, j in facts.holes.carrier.joints.items() if j.kind in FASTENERS]
    turning = [o for o in whole if fasteners and _only_turns(ways.work_round(o))]
    if joint:
        own = ways.rounds_used(Target(hole=hole, item=item, joint=joint))
        share = dict.fromkeys(own, 1.0)
        names = [name for option in own for name in ways.work_round(option).tools]
    else:
        share = {option: 1.0 for option in whole if option not in turning}
        names = [n for o in whole for n in ways.work_round(o).tools if not turns_a_head(n)]
    if joint in fasteners:
        for option in turning:
            share[option] = share.get(option, 0.0) + 1 / len(fasteners)
    if joint in fasteners or not (joint or fasteners):
        only_here = [option for option in whole if option not in named_at_plug]
        names += [n for o in only_here for n in ways.work_round(o).tools if turns_a_head(n)]
    return CarrierRounds(
        ways.notes_of(share),
        facts.tools.asked(*(n for n in names if not (by_wrench and is_handle(n)))),
        sum(ways.minutes_of(option, "out") * part for option, part in share.items()),
        sum(ways.minutes_of(option, "back") * part for option, part in share.items()),
    )


def _only_turns(work: WorkRound) -> bool:
    return bool(work.tools) and all(map(turns_a_head, work.tools))
