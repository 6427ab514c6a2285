"""The steps of a plan in the order they are done: made phase by phase, each phase ordered."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import NamedTuple

from eldrim.core.operations import Phase
from eldrim.core.order.blocks import sequence_blocks
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.sequence import BEAM_WIDTH, STATE_LIMIT, Ordered, Task, sequence
from eldrim.core.procedure import hole_steps, plug_steps, prove_steps, refit_steps
from eldrim.core.procedure.companion_steps import companion_steps, in_the_open, with_coils_off
from eldrim.core.procedure.job_facts import JobFacts
from eldrim.core.procedure.model import ChangeCost, PartLine, Step
from eldrim.core.procedure.pace import at_pace
from eldrim.core.procedure.parts_list import parts_list
from eldrim.core.procedure.piece_steps import piece_steps
from eldrim.core.procedure.ready_steps import bench, confirm, ready
from eldrim.core.procedure.setup_changes import all_changes, change_minutes, counted
from eldrim.core.procedure.tool_roll import counted_tools
from eldrim.core.procedure.uncover_steps import uncover
from eldrim.core.step_key import StepKey

# Work that is at no hole and on no part, and has its place before and after all that is.
AROUND = frozenset({Phase.READY, Phase.PROVE})
Rank = Callable[[Step], tuple[float, ...]]
Sequencer = Callable[[list[Task], SetUp, Change, int, int], Ordered]
# How parts coming off are ordered: joints of several parts may be undone with one tool in hand.
ON_THE_WAY_OUT: Sequencer = sequence


@dataclass(frozen=True)
class OrderedSteps:
    """Steps in order, what their set-up changes take, and by how much that may be over the least.

    ``change_minutes`` and ``gap`` are in minutes; ``at_holes`` are the tasks at the holes, stretch
    after stretch, whatever hole is done first.
    """

    steps: list[Step]
    change_cost: ChangeCost
    change_minutes: float
    gap: float
    at_holes: tuple[tuple[Task, ...], ...] = ()

    @property
    def proven(self) -> bool:
        """Whether no order costs less."""
        return self.gap <= 1e-9

    @property
    def takes_tools_along(self) -> bool:
        """Whether anything else than parts and holes takes tools between the two ends."""
        known = {task.key for stretch in self.at_holes for task in stretch}
        return any(
            step.setup and not step.part and step.phase not in AROUND and step.key not in known
            for step in self.steps
        )


class Effort(NamedTuple):
    """How far the order of a stretch is looked for: states tried, and those of a beam at its end.

    What they count is told by :func:`eldrim.core.order.sequence.sequence`.
    """

    states: int = STATE_LIMIT
    width: int = BEAM_WIDTH


USUAL = Effort()


def ordered_steps(facts: JobFacts, effort: Effort = USUAL) -> OrderedSteps:
    """Make the steps of a job and order them, each stretch with this effort."""
    return _Orderer(facts, effort).run()


def parts_cost_at_least(facts: JobFacts) -> float:
    """What the set-up changes of all parts cost at least, off and back on, in minutes.

    It holds with whatever in hand they are put back; the work at the holes is not in it.
    """
    return _Orderer(facts).parts_at_least()


class _Orderer:
    def __init__(self, facts: JobFacts, effort: Effort = USUAL) -> None:
        self.facts, self.effort = facts, effort
        rules = facts.rules
        self.cost = ChangeCost(change=rules.set_up_minutes, piece=rules.piece_minutes)
        self.change: Change = partial(change_minutes, self.cost)
        self.in_hand: SetUp = ()
        self.gap = 0.0
        self.at_holes: list[tuple[Task, ...]] = []
        self.covers = refit_steps.covers(facts)
        before_covers = rules.school("first_start") != "after_refit"
        self.late = refit_steps.parts_after_start(facts.ways) if before_covers else set()

    def run(self) -> OrderedSteps:
        facts = self.facts
        body, first, finish = self._body(), ready(facts), prove_steps.finish(facts)
        before, start = prove_steps.before_start(facts), prove_steps.start(facts)
        late = self._late_covers()
        tools = counted_tools([*first, *body, *before, *start, *late, *finish])
        parts = tuple(_part_words(part) for part in parts_list(facts))
        head = [*confirm(facts), *bench(facts, tools, parts), *first]
        measured = any(step.tools for step in start)
        again = [prove_steps.count_again(tools, covered=bool(late))] if late or measured else []
        proof = [*before, prove_steps.count_tools(tools), *start, *late, *again, *finish]
        steps = at_pace(facts.engine, [*head, *body, *proof])
        minutes = all_changes(steps, self.cost)
        in_order = counted(steps, self.cost)
        return OrderedSteps(in_order, self.cost, minutes, self.gap, tuple(self.at_holes))

    def _body(self) -> list[Step]:
        """Uncover, then group after group of holes until all is back that is needed to run."""
        facts, groups = self.facts, self.facts.holes.groups
        body = self._order(self._off(), self._part_by_part, ON_THE_WAY_OUT)
        if groups:
            body += self._order(hole_steps.clean(facts), self._by_stage)
        body += self._pieces()
        early = [cover for cover in self.covers if cover.part not in self.late]
        for group, following in pairwise([*groups, []]):
            body += self._at_holes(group, [] if following else early)
            body += self._start_between(group, following)
        return body if groups else [*body, *self._back(early)]

    def _off(self) -> list[Step]:
        return uncover(self.facts.ways, self.facts.tools, self.facts.rules)

    def parts_at_least(self) -> float:
        off = self._tasks(self._off(), self._part_by_part)
        back = self._tasks(_waits_within(self.covers), self._part_by_part)
        saved = max((self.change((), task.setup) for task in back if task.setup), default=0.0)
        least = sequence_blocks(back, (), self.change).bound - saved
        return sequence(off, (), self.change).bound + max(0.0, least)

    def _pieces(self) -> list[Step]:
        """The work at no hole, in the order it is made: each step waits for the one before."""
        alone = companion_steps(self.facts, in_the_open(self.facts))
        return self._as_made([*piece_steps(self.facts), *alone])

    def _as_made(self, steps: list[Step]) -> list[Step]:
        self.in_hand = next((s.setup for s in reversed(steps) if s.setup), self.in_hand)
        return steps

    def _at_holes(self, holes: list[str], covers: list[Step]) -> list[Step]:
        facts = self.facts
        return [
            *self._order(hole_steps.pull(facts, holes), self._by_stage),
            *hole_steps.read(facts, holes),
            *self._order(plug_steps.fit(facts, holes), self._by_stage),
            *self._as_made(companion_steps(facts, with_coils_off(facts, holes))),
            *self._order(refit_steps.carriers(facts, holes), self._by_stage),
            *self._back(covers),
        ]

    def _back(self, covers: list[Step]) -> list[Step]:
        """Parts back on, each finished before the next is begun (docs/craft.md §17)."""
        return self._order(_waits_within(covers), self._part_by_part, sequence_blocks)

    def _start_between(self, group: list[str], following: list[str]) -> list[Step]:
        holes = self.facts.holes
        if not following or not holes.start_between():
            return []
        bank = holes.bank_of(group[0])
        return (
            []
            if bank == holes.bank_of(following[0])
            else [prove_steps.start_between(self.facts, bank)]
        )

    def _late_covers(self) -> list[Step]:
        """The parts that go on after the first start."""
        covers = [
            cover.model_copy(update={"phase": Phase.PROVE})
            for cover in self.covers
            if cover.part in self.late
        ]
        return self._back(covers)

    def _order(self, steps: list[Step], rank: Rank, sequencer: Sequencer = sequence) -> list[Step]:
        """Order one stretch of steps, going on from what is in hand."""
        tasks = self._tasks(steps, rank)
        if any(step.part is None for step in steps):
            self.at_holes.append(
                tuple(Task(step.key, step.setup, frozenset(step.after)) for step in steps)
            )
        done = sequencer(tasks, self.in_hand, self.change, *self.effort)
        self.gap += done.cost - done.bound
        by_key: dict[str, Step] = {s.key: s for s in steps}
        ordered = [by_key[key] for key in done.order]
        self.in_hand = next((s.setup for s in reversed(ordered) if s.setup), self.in_hand)
        return ordered

    def _tasks(self, steps: list[Step], rank: Rank) -> list[Task]:
        """The steps as what is put in order, in the order of ``rank`` where nothing else says."""
        chain = self._hole_after_hole(steps)
        return [
            Task(
                step.key,
                step.setup,
                frozenset((*step.after, *chain.get(step.key, ()))),
                (*rank(step), index),
                step.part or "",
            )
            for index, step in enumerate(steps)
        ]

    def _hole_after_hole(self, steps: list[Step]) -> dict[str, tuple[str, ...]]:
        """The chosen school orders the holes: within a stage each waits for the one before.

        These waits order the document only; they are no part of a step's own ``after``, because
        nothing about the engine demands them.
        """
        rank = self.facts.holes.rank
        stages: dict[StepKey, list[Step]] = {}
        for step in sorted((s for s in steps if s.hole), key=lambda s: rank(s.hole)):
            stages.setdefault(step.key.at(""), []).append(step)
        pairs = [pair for stage in stages.values() for pair in pairwise(stage)]
        return {later.key: (first.key,) for first, later in pairs}

    def _by_stage(self, step: Step) -> tuple[float, ...]:
        """Stage by stage over all wells; within a stage, holes in the school's order."""
        return (step.key.rule.rank, self.facts.holes.rank(step.hole))

    def _part_by_part(self, step: Step) -> tuple[float, ...]:
        """What is at the holes first, then one part after the other, each whole where it can be."""
        if step.part is None:
            return (0, 0, *self._by_stage(step))
        depth = self.facts.ways.depth[step.part]
        sign = 1 if step.phase is Phase.UNCOVER else -1
        return (1, sign * depth, step.key.rule.rank)


def _part_words(part: PartLine) -> str:
    return f"{part.quantity} × {part.name} {part.part_number}".strip()


def _waits_within(steps: list[Step]) -> list[Step]:
    """Drop waits on steps of groups already finished, so that each group can be ordered alone."""
    keys = {step.key for step in steps}
    return [
        s.model_copy(update={"after": tuple(key for key in s.after if key in keys)}) for s in steps
    ]
