"""The steps of a plan in the order they are done: made phase by phase, each phase ordered."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

from eldrim.core.operations import Phase
from eldrim.core.order.blocks import sequence_blocks
from eldrim.core.order.chain import Effort, Stretch, in_chain
from eldrim.core.order.entries import Change
from eldrim.core.order.sequence import Task, sequence
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import ChangeCost, PartLine, Step
from eldrim.core.procedure.steps import hole_steps, plug_steps, prove_steps, refit_steps
from eldrim.core.procedure.steps.companion_steps import companion_steps, in_the_open, with_coils_off
from eldrim.core.procedure.steps.piece_steps import piece_steps
from eldrim.core.procedure.steps.ready_steps import bench, confirm, ready
from eldrim.core.procedure.steps.uncover_steps import uncover
from eldrim.core.procedure.whole_job.pace import at_pace
from eldrim.core.procedure.whole_job.parts_list import parts_list
from eldrim.core.procedure.whole_job.setup_changes import all_changes, change_minutes, counted
from eldrim.core.procedure.whole_job.tool_roll import counted_tools
from eldrim.core.step_key import StepKey

# Work that is at no hole and on no part, and has its place before and after all that is.
AROUND = frozenset({Phase.READY, Phase.PROVE})
Rank = Callable[[Step], tuple[float, ...]]


@dataclass(frozen=True)
class OrderedSteps:
    """Steps in order, what their set-up changes take, and by how much that may be over the least.

    ``change_minutes`` and ``gap`` are in minutes; ``stretches`` are the tasks as they follow each
    other. Those at the holes stand in ``at_holes`` too, whatever hole is done first.
    """

    steps: list[Step]
    change_cost: ChangeCost
    change_minutes: float
    gap: float
    stretches: tuple[Stretch, ...] = ()
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


USUAL = Effort()


@dataclass(frozen=True)
class _Made:
    """The steps of one stretch, and what may be chosen of their order."""

    steps: list[Step]
    rank: Rank | None = None
    whole_parts: bool = False

    @property
    def at_holes(self) -> bool:
        """Whether holes are worked at, in an order that is to be found."""
        return self.rank is not None and any(step.part is None for step in self.steps)


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
        self.covers = refit_steps.covers(facts)
        before_covers = rules.school["first_start"] != "after_refit"
        self.late = refit_steps.parts_after_start(facts.ways) if before_covers else set()

    def run(self) -> OrderedSteps:
        """All stretches from the first step to the last, ordered as one chain."""
        facts, body, late = self.facts, self._body(), self._late_covers()
        first, finish = ready(facts), prove_steps.finish(facts)
        before, start = prove_steps.before_start(facts), prove_steps.start(facts)
        made = [_Made(first), *body, _Made([*before, *start]), late, _Made(finish)]
        stretches = tuple(map(self._stretch, made))
        done = in_chain(stretches, self.change, self.effort)
        in_order = [_in_order(of.steps, keys) for of, keys in zip(made, done.orders, strict=True)]
        middle, covers = [step for steps in in_order[1:-3] for step in steps], in_order[-2]
        tools = counted_tools([*first, *middle, *before, *start, *covers, *finish])
        parts = tuple(_part_words(part) for part in parts_list(facts))
        head = [*confirm(facts), *bench(facts, tools, parts), *first]
        measured = any(step.tools for step in start)
        again = [prove_steps.count_again(tools, covered=bool(covers))] if covers or measured else []
        count = prove_steps.count_tools(tools)
        steps = [*head, *middle, *before, count, *start, *covers, *again, *finish]
        steps = at_pace(facts.engine, steps)
        minutes = all_changes(steps, self.cost)
        gap = max(0.0, minutes - done.bound)
        at_holes = tuple(
            tuple(Task(step.key, step.setup, frozenset(step.after)) for step in of.steps)
            for of in made
            if of.at_holes
        )
        return OrderedSteps(counted(steps, self.cost), self.cost, minutes, gap, stretches, at_holes)

    def _body(self) -> list[_Made]:
        """Uncover, then group after group of holes until all is back that is needed to run."""
        facts, groups = self.facts, self.facts.holes.groups
        body = [_Made(self._off(), self._part_by_part)]
        if groups:
            body.append(_Made(hole_steps.clean(facts), self._by_stage))
        # At no hole, in the order it is made: each step waits for the one before.
        alone = companion_steps(facts, in_the_open(facts))
        body.append(_Made([*piece_steps(facts), *alone]))
        early = [cover for cover in self.covers if cover.part not in self.late]
        for group, following in pairwise([*groups, []]):
            body += self._at_holes(group, [] if following else early)
            body.append(_Made(self._start_between(group, following)))
        return body if groups else [*body, self._back(early)]

    def _off(self) -> list[Step]:
        return uncover(self.facts.ways, self.facts.tools, self.facts.rules)

    def parts_at_least(self) -> float:
        off = self._tasks(self._off(), self._part_by_part)
        back = self._tasks(_waits_within(self.covers), self._part_by_part)
        saved = max((self.change((), task.setup) for task in back if task.setup), default=0.0)
        least = sequence_blocks(back, (), self.change).bound - saved
        return sequence(off, (), self.change).bound + max(0.0, least)

    def _at_holes(self, holes: list[str], covers: list[Step]) -> list[_Made]:
        facts = self.facts
        return [
            _Made(hole_steps.pull(facts, holes), self._by_stage),
            _Made(hole_steps.read(facts, holes)),
            _Made(plug_steps.fit(facts, holes), self._by_stage),
            _Made(companion_steps(facts, with_coils_off(facts, holes))),
            _Made(refit_steps.carriers(facts, holes), self._by_stage),
            self._back(covers),
        ]

    def _back(self, covers: list[Step]) -> _Made:
        """Parts back on, each finished before the next is begun (docs/craft.md §17)."""
        return _Made(_waits_within(covers), self._part_by_part, whole_parts=True)

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

    def _late_covers(self) -> _Made:
        """The parts that go on after the first start."""
        return self._back(
            [
                cover.model_copy(update={"phase": Phase.PROVE})
                for cover in self.covers
                if cover.part in self.late
            ]
        )

    def _stretch(self, made: _Made) -> Stretch:
        if made.rank is None:
            return Stretch(tuple(Task(step.key, step.setup) for step in made.steps), as_listed=True)
        return Stretch(tuple(self._tasks(made.steps, made.rank)), made.whole_parts)

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


def _in_order(steps: list[Step], keys: tuple[str, ...]) -> list[Step]:
    by_key: dict[str, Step] = {step.key: step for step in steps}
    return [by_key[key] for key in keys]


def _part_words(part: PartLine) -> str:
    return f"{part.quantity} × {part.name} {part.part_number}".strip()


def _waits_within(steps: list[Step]) -> list[Step]:
    """Drop waits on steps of groups already finished, so that each group can be ordered alone."""
    keys = {step.key for step in steps}
    return [
        s.model_copy(update={"after": tuple(key for key in s.after if key in keys)}) for s in steps
    ]
