"""The set-ups of all ways that ask the same of the crib as a job already planned.

Tools are chosen for a whole job by what it asks. Two ways in that ask the same take the same tools,
so what their changes cost is known to the piece, where otherwise only lower limits are.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property, partial

from eldrim.core.access.chosen_ways import isolates
from eldrim.core.access.problem import Option
from eldrim.core.access.whole_model import ToolsAsked
from eldrim.core.engine.parts import Joint
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.sequence import Task, sequence
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.whole_job.change_stretch import Stretch, Waits, hundredths
from eldrim.core.procedure.whole_job.setup_changes import change_minutes
from eldrim.core.procedure.whole_job.step_order import OrderedSteps
from eldrim.core.tools.stack_finder import StackQuestion
from eldrim.core.tools.tool_selection import ToolSelection, ToolUse, clamp_questions

# States tried, by the thousand tasks, for what the work at the holes costs.
STATES_AT_HOLES = 20


class ToolCase:
    """What one planned job tells of all that ask the same: its questions, its set-ups, its ends."""

    def __init__(
        self, facts: JobFacts, ordered: OrderedSteps, joints: Mapping[Option, Sequence[Joint]]
    ) -> None:
        """``joints`` are those that each way lets go with a tool."""
        self.facts, self.ordered, self.joints = facts, ordered, joints
        self.questions, self.isolates = set(facts.tools.asked_of_crib), facts.holes.isolates()
        self.tools = ToolSelection(facts.capability, facts.tools.asked_of_crib)
        self.change: Change = partial(change_minutes, ordered.change_cost)

    @property
    def holds(self) -> bool:
        """Whether nothing but what is known here decides what is in hand.

        What is still to be got depends on the order in which it is asked for.
        """
        to_get = self.facts.barred or self.facts.tools.to_get.bought
        return not to_get and not self.ordered.takes_tools_along

    def asked(self) -> ToolsAsked:
        """Which choices ask the same of the crib."""
        anyway = frozenset(self.facts.job_tools.asked_anyway)
        users: dict[StackQuestion, set[Option]] = {}
        for option, joints in self.joints.items():
            for question in self._questions_of(joints):
                users.setdefault(question, set()).add(option)
        known = self.questions
        needed = [users[q] for q in users if q in known and q not in anyway]
        others = {o for q, options in users.items() if q not in known for o in options}
        rounds = {o for o in self.facts.problem.cost if not o.is_way and self._takes_tools(o)}
        taken = rounds & self.facts.way_in.chosen
        isolating = set() if self.facts.holes.isolates_anyway() else self._isolating()
        if self.isolates:
            needed += [isolating] if isolating else []
        else:
            others |= isolating
        return ToolsAsked(
            users=tuple(dict.fromkeys(map(frozenset, needed))),
            others=frozenset(others | (rounds - taken)),
            with_all=frozenset(taken),
        )

    def _questions_of(self, joints: Sequence[Joint]) -> list[StackQuestion]:
        questions = self.facts.capability.questions
        return [asked for joint in joints if joint.turned for asked in questions(joint)]

    def _isolating(self) -> set[Option]:
        """The ways before which the battery is off; no tool need be taken to the joint itself."""
        return {
            option
            for option in self.joints
            if any(map(isolates, self.facts.ways.released(option).values()))
        }

    def _takes_tools(self, option: Option) -> bool:
        return bool(self.facts.ways.work_round(option).tools)

    def out(self, before: Waits, always: int) -> Stretch:
        """The way out, up to the first tool at the holes; it carries what the holes cost more than
        ``always``.
        """
        first = self._first_at_holes()
        clamp = self.tools.use(clamp_questions()[0]).setup if self.isolates else ()
        holes = self._at_holes(first) + self.change((), clamp) - always / 100
        return Stretch(
            self._let_go, before, self.change, (clamp,), also=first, extra=hundredths(holes)
        )

    def back(self, before: Waits, pushed: set[str]) -> Stretch:
        """The way back from the last tool at the holes, the battery's clamp among it."""
        made_up = self._set_ups(lambda joint: self.tools.tighten(joint)[0])
        setups = {o: [] if o.part in pushed else found for o, found in made_up.items()}
        clamp = self.tools.use(clamp_questions()[1]).setup if self.isolates else ()
        return Stretch(
            setups,
            before,
            self.change,
            self._last_at_holes(),
            whole_parts=True,
            also=clamp,
            also_after=self._before_the_start(),
        )

    @cached_property
    def _let_go(self) -> dict[Option, list[SetUp]]:
        return self._set_ups(self.tools.release)

    @cached_property
    def _used_out(self) -> set[SetUp]:
        """What may be in hand when the last part is off."""
        return {(), *(setup for setups in self._let_go.values() for setup in setups)}

    def _set_ups(self, use: Callable[[Joint], ToolUse]) -> dict[Option, list[SetUp]]:
        """The set-ups of each option that asks nothing else, each once; of others none."""
        found: dict[Option, list[SetUp]] = {}
        for option, joints in self.joints.items():
            same = self.questions.issuperset(self._questions_of(joints))
            used = {use(joint).setup for joint in joints} if same else set()
            found[option] = sorted(used - {()})
        return found

    def _before_the_start(self) -> frozenset[str]:
        """The parts that are surely back before the battery is."""
        parts = self.facts.engine.parts
        last = self.facts.rules.school["first_start"] == "after_refit"
        return frozenset(key for key, part in parts.items() if last or part.needed_to_run)

    def _stretches(self) -> list[list[Task]]:
        """The tasks at the holes that take a tool, stretch after stretch."""
        made = [[task for task in stretch if task.setup] for stretch in self.ordered.at_holes]
        return [stretch for stretch in made if stretch]

    def _first_at_holes(self) -> SetUp:
        """What is taken up first at the holes, where that is one thing."""
        first = {task.setup for stretch in self._stretches()[:1] for task in stretch}
        return first.pop() if len(first) == 1 else ()

    def _last_at_holes(self) -> tuple[SetUp, ...]:
        """What may be in hand when the work at the holes is done."""
        last = {task.setup for stretch in self._stretches()[-1:] for task in stretch}
        return tuple(sorted(last or self._used_out))

    def _at_holes(self, first: SetUp) -> float:
        """What the changes at the holes cost at least, in minutes."""

        def change(before: SetUp, after: SetUp) -> float:
            if before == BEFORE:
                return min(self.change(other, after) for other in self._used_out)
            return self.change(before, after)

        listed = in_turn(self.ordered.at_holes)
        return sequence(listed, first or BEFORE, change, STATES_AT_HOLES).bound


# Stands for what is in hand when the work at the holes begins.
BEFORE: SetUp = ("before",)


def in_turn(stretches: Iterable[Iterable[Task]]) -> list[Task]:
    """Tasks of stretches that follow each other, as one list to order."""
    listed: list[Task] = []
    before: frozenset[str] = frozenset()
    for number, stretch in enumerate(stretches):
        made = [Task(task.key, task.setup, task.after | before, task.rank) for task in stretch]
        done = Task(f"stretch {number}", (), frozenset(task.key for task in made) | before)
        listed += [*made, done]
        before = frozenset({done.key})
    return listed
