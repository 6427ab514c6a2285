"""What it costs to get at each cylinder of an engine: opened once, it is open for all behind it."""

from dataclasses import dataclass
from math import dist

from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import ALL_PLUGS, NOTHING, OVER, PLUG
from eldrim.core.job import Job, Work, carrier
from eldrim.core.operations import Operation, PartChange, Phase
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib

WORK_PHASES = (Phase.PULL, Phase.FIT, Phase.REFIT)


@dataclass(frozen=True)
class Ways:
    """What has to be open at each cylinder, and what each thing costs, out and back, in minutes.

    Things are parts by their key, and ``carrier/5`` and ``plug/5``: the coil or lead of a cylinder
    off and on again, its plug out and in. ``needed_to_run`` are those parts that have to be back
    before the engine is started; coils, leads and plugs always have.
    """

    over: dict[int, frozenset[str]]
    opening: dict[str, float]
    at: dict[int, tuple[float, float]]
    needed_to_run: frozenset[str] = frozenset()

    def needs(self, what: str, cylinder: int) -> frozenset[str]:
        """What has to be open for an act at a cylinder."""
        if what == NOTHING:
            return frozenset()
        if what == ALL_PLUGS:
            return frozenset().union(*(self.needs(PLUG, number) for number in self.over))
        if cylinder not in self.over:
            return frozenset()
        found = self.over[cylinder]
        if what == OVER:
            return found
        found |= {f"carrier/{cylinder}"}
        return found | {f"plug/{cylinder}"} if what == PLUG else found

    def shut(self, needs: frozenset[str]) -> frozenset[str]:
        """What of this has to be closed again before the engine runs."""
        return frozenset(one for one in needs if "/" in one or one in self.needed_to_run)

    def minutes(self, needs: frozenset[str]) -> float:
        """What this costs with everything closed."""
        return sum(self.opening[one] for one in sorted(needs))

    def partner(self, what: str, cylinder: int) -> int:
        """The cylinder to change over with: the cheapest to get at besides, then the nearest."""
        here = self.needs(what, cylinder)
        others = [number for number in self.over if number != cylinder]
        costs = [
            (self.minutes(self.needs(what, n) - here), dist(self.at[n], self.at[cylinder]), n)
            for n in others
        ]
        return min(costs)[2] if costs else 0


def ways(engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> Ways:
    """Plan the way in to each cylinder alone. What is moved for two of them is moved once.

    Raises :class:`~eldrim.core.base.errors.JobError` for a cylinder no way reaches.
    """
    over: dict[int, frozenset[str]] = {}
    opening: dict[str, float] = {}
    needed: set[str] = set()
    for number in engine.cylinders:
        job = Job(cylinders=(number,), work=(carrier(engine), Work.PLUG), variant=variant)
        plan = compile_plan(engine, job, rules, crib)
        parts = _minutes_by_part(plan)
        over[number] = frozenset(parts)
        for part, minutes in parts.items():
            opening[part] = max(opening.get(part, 0.0), minutes)
        opening |= _at_holes(plan, number)
        needed |= back_before_start(plan)
    at = {n: cylinder.wells[0].at for n, cylinder in engine.cylinders.items()}
    return Ways(over, opening, at, frozenset(needed))


def _minutes_by_part(plan: Plan) -> dict[str, float]:
    """What each part moved takes, out and back."""
    moved = {move.part for move in plan.moves}
    return {
        part: round(sum(step.minutes for step in plan.steps if step.part == part), 2)
        for part in sorted(moved)
    }


def back_before_start(plan: Plan) -> set[str]:
    """The parts a plan puts back before the first start."""
    return {
        step.key.item
        for step in plan.steps
        if step.key.rule.part is PartChange.BACK and step.phase is not Phase.PROVE
    }


def _at_holes(plan: Plan, number: int) -> dict[str, float]:
    """What the coil or lead of a cylinder takes off and on, and its plug out and in."""
    found = {f"carrier/{number}": 0.0, f"plug/{number}": 0.0}
    for step in plan.steps:
        if step.hole and step.phase in WORK_PHASES:
            item = step.key.rule.item or step.key.item
            of_plug = item == "plug" or step.key.operation is Operation.CLEAN_WELL
            found[f"{'plug' if of_plug else 'carrier'}/{number}"] += step.minutes
    return {thing: round(minutes, 2) for thing, minutes in found.items()}
