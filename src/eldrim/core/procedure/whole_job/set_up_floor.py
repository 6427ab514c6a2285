"""The least set-up changes that a choice of ways brings, so that ways and order make one sum.

Set-ups with sockets for different heads are different whatever tools are chosen in the end; so
are one with a torque wrench and one without. Counting only these, no plan has fewer changes than
are counted here. docs/planner.md writes the argument out.
"""

from collections.abc import Callable, Collection
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

from eldrim.core.access.change_floor import ChangeFloor
from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import AccessProblem, Option
from eldrim.core.access.whole_model import ToolsAsked
from eldrim.core.engine.joints import JOINT_RULES
from eldrim.core.engine.parts import Joint
from eldrim.core.order.blocks import sequence_blocks
from eldrim.core.order.entries import SetUp
from eldrim.core.order.sequence import Task, sequence
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.steps.uncover_steps import LIFT_ONLY, lift_key, waits
from eldrim.core.procedure.whole_job.change_stretch import Stretch, Waits
from eldrim.core.procedure.whole_job.step_order import OrderedSteps
from eldrim.core.procedure.whole_job.tool_case import BEFORE, ToolCase, in_turn
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stack_finder import StackFinder
from eldrim.core.tools.tool_selection import clamp_questions


class Symbols:
    """Set-ups as far as they are certainly different: by the head their socket is for."""

    def __init__(self, finder: StackFinder) -> None:
        """Know the crib's wrenches, and which sockets fit what."""
        self._finder = finder
        self._wrenches = {wrench.id for wrench in finder.crib.wrenches}
        self._root: dict[str, str] = {}
        self._of_head: dict[tuple[object, ...], str] = {}

    def of_demand(self, demand: Demand) -> str:
        """The symbol of a head to turn; sockets that fit two heads make them one symbol."""
        key = (demand.head, demand.size, demand.plug, demand.points)
        if key not in self._of_head:
            fitting = self._finder.fitting(demand)
            for other in fitting:
                self._root[self._top(other)] = self._top(fitting[0])
            self._of_head[key] = fitting[0] if fitting else demand.id
        return self._of_head[key]

    def _top(self, socket: str) -> str:
        while self._root.get(socket, socket) != socket:
            socket = self._root[socket]
        return socket

    def top(self, symbol: str) -> str:
        """The symbol that stands for this one, once all heads are known."""
        return self._top(symbol)

    def of_setup(self, setup: SetUp, *, wrench: bool) -> SetUp:
        """A set-up of a step as its symbol; with ``wrench`` those with a torque wrench differ."""
        if not setup:
            return ()
        first = self._top(next((i for i in setup if i in self._finder.known_sockets), setup[0]))
        turned = wrench and not self._wrenches.isdisjoint(setup)
        return (first, "", "", "wrench") if turned else (first, "", "")


class KnownTools(NamedTuple):
    """Both directions with the tools of a planned job, and which choices take them."""

    asked: ToolsAsked
    out: Stretch
    back: Stretch


class SetUpFloor:
    """Lower limits of the set-up changes of one job, for any choice of its ways."""

    def __init__(self, capability: ShopCapability, problem: AccessProblem) -> None:
        """Sort the joints that each way lets go by the set-ups they take."""
        self.capability, self.problem = capability, problem
        self.symbols = Symbols(capability.finder)
        self._pieces: dict[str, int] = {}
        self._same: dict[str, int] | None = None
        self._last: set[SetUp] = set()
        self._symbols: dict[int, str] = {}
        self.rules = rules = capability.rules
        self.price = int(100 * (rules.set_up_minutes + 2 * rules.piece_minutes) + 1e-6)
        # The very first set-up may be one piece, taken up by an empty hand.
        self.first = -int(100 * rules.piece_minutes + 1)
        self._joints = {o: self._used(o) for o in sorted(problem.cost) if o.is_way}
        for joint in (joint for joints in self._joints.values() for joint in joints):
            if joint.turned:
                self._learn(joint)

    def _learn(self, joint: Joint) -> None:
        """Note the head of a joint, and the fewest pieces that turn it."""
        self._note(self._demand(joint), self.capability.fewest_pieces(joint))

    def _note(self, demand: Demand, pieces: int) -> None:
        symbol = self.symbols.of_demand(demand)
        self._pieces[symbol] = min(pieces, self._pieces.get(symbol, pieces))
        self._same = None

    def _used(self, option: Option) -> list[Joint]:
        """The joints an option lets go that take a tool."""
        part = self.capability.engine.parts[option.part]
        released = part.released(part.ways[option.way]).values()
        return [joint for joint in released if joint.turned or JOINT_RULES[joint.kind].tool]

    def _demand(self, joint: Joint) -> Demand:
        return self.capability.questions(joint)[0][0]

    def _out(self, joint: Joint) -> SetUp:
        """The symbol of what lets a joint go; another standing place is another set-up."""
        tool = JOINT_RULES[joint.kind].tool
        head = self._head_of(joint) if joint.turned else str(tool)
        return (head, joint.stand or "", "mirror" if joint.mirror else "")

    def _back(self, joint: Joint) -> SetUp:
        """The symbol of what makes a joint up."""
        torque = joint.turned and self.capability.questions(joint)[-1][1] is TurnAction.TORQUE
        return (*self._out(joint), "wrench") if torque else self._out(joint)

    def _head_of(self, joint: Joint) -> str:
        """The symbol of a fastener's head."""
        symbol = self._symbols.get(id(joint))
        if symbol is None:
            symbol = self._symbols[id(joint)] = self.symbols.of_demand(self._demand(joint))
        return self.symbols.top(symbol)

    def _head(self, demand: Demand) -> str:
        return self.symbols.top(self.symbols.of_demand(demand))

    def stretches(self) -> tuple[Stretch, Stretch]:
        """Both directions for any choice; the work at the holes is known, see :meth:`at_holes`."""
        out = self._set_ups(self._out)
        made_up = self._set_ups(self._back)
        back = {o: [] if o.part in self.pushed else setups for o, setups in made_up.items()}
        used = {setup for setups in back.values() for setup in setups}
        before, after = self._waits
        return (
            Stretch(out, before, self._change),
            Stretch(back, after, self._change, self._starts(used), whole_parts=True),
        )

    def case(self, job: JobFacts, ordered: OrderedSteps, always: int) -> KnownTools | None:
        """Both directions for whatever asks of the crib what a planned job asks.

        ``always`` is what the work at the holes costs in general. None where more than the tools
        decides what is in hand.
        """
        known = ToolCase(job, ordered, self._joints)
        if not known.holds:
            return None
        before, after = self._waits
        out, back = known.out(before, always), known.back(after, self.pushed)
        return KnownTools(known.asked(), out, back)

    def _set_ups(self, symbol: Callable[[Joint], SetUp]) -> dict[Option, list[SetUp]]:
        """The set-ups that each option takes, each once."""
        return {option: sorted(set(map(symbol, found))) for option, found in self._joints.items()}

    def _starts(self, back: Collection[SetUp]) -> tuple[SetUp, ...]:
        """What may be in hand before these are used on the way back; of those that save the same,
        one.
        """
        used = sorted(back)
        alike = {tuple(self._change(s, setup) for setup in used): s for s in sorted(self._last)}
        return tuple(alike.values())

    @cached_property
    def _waits(self) -> tuple[Waits, Waits]:
        """What is done before what, out and back, where no work-round is taken.

        On the way out what lies over is off before the joints under it are reached, unless it only
        blocks the way or a joint; on the way back what lies under is made up first.
        """
        out: dict[tuple[Option, Option], tuple[Option, ...]] = {}
        back: dict[tuple[Option, Option], tuple[Option, ...]] = {}
        for under, met in self.problem.blocks.items():
            for block in met if under.is_way else ():
                rounds = tuple(option for option in block.options if not option.is_way)
                for over in (option for option in block.options if option.is_way):
                    back[under, over] = rounds
                    if block.kind not in LIFT_ONLY and not block.target.joint:
                        out[over, under] = rounds
        return out, back

    @cached_property
    def by_option(self) -> ChangeFloor:
        """What the search may add for each option: its kinds once on the way out, and what it
        takes to make one part up before the next is begun on the way back.
        """
        out, back = self._set_ups(self._out), self._set_ups(self._back)
        every = sorted({symbol for found in out.values() for symbol in found})
        number = {symbol: place for place, symbol in enumerate(every)}
        return ChangeFloor(
            own={
                option: self.price * max(0, len(found) - 1)
                for option, found in back.items()
                if option.part not in self.pushed
            },
            kinds={o: frozenset(number[symbol] for symbol in found) for o, found in out.items()},
            price=self.price,
            always=self.first,
        )

    @cached_property
    def pushed(self) -> set[str]:
        """Parts that are put together with others before their fasteners are made up."""
        parts = self.capability.engine.parts
        return {key for key, part in parts.items() if part.pushes_onto} | {
            other for part in parts.values() for other in part.pushes_onto
        }

    def at_holes(self, facts: JobFacts, ordered: OrderedSteps) -> int:
        """What the work at the holes costs at least, whatever ways are chosen.

        It lies together between the last part off and the first part back, and its stretches
        follow each other as they are here; what is in hand before it is no tool of it.
        """
        plugs = [facts.job_tools.plug_at_least(hole) for hole in sorted(facts.holes.plug_holes)]
        wrench = all(plug.surely_by_wrench for plug in plugs)
        for plug in plugs:
            self._note(plug.demand, plug.pieces)
        symbolic = [
            [replace(t, setup=self.symbols.of_setup(t.setup, wrench=wrench)) for t in stretch]
            for stretch in ordered.at_holes
        ]
        listed = in_turn(symbolic)
        self._last = {task.setup for task in listed if task.setup}
        if not facts.holes.holes or ordered.takes_tools_along:
            # Work along the way may leave anything in hand.
            self._last |= {self._back(joint) for held in self._joints.values() for joint in held}
        return int(100 * sequence(listed, BEFORE, self._change, state_limit=20).bound)

    def _change(self, before: SetUp, after: SetUp) -> float:
        """The least that going from one symbol to another costs, in minutes."""
        if before == after:
            return 0.0
        least = [self._fewest(setup[0]) if setup else 0 for setup in (before, after)]
        pieces = sum(least) if min(least) <= 1 else 2
        return self.rules.set_up_minutes + self.rules.piece_minutes * pieces

    def _fewest(self, symbol: str) -> int:
        """The fewest pieces of any set-up with this symbol; sockets may share one."""
        if self._same is None:
            self._same = {}
            for other, pieces in self._pieces.items():
                top = self.symbols.top(other)
                self._same[top] = min(pieces, self._same.get(top, pieces))
        return self._same.get(symbol, 1)

    def on_the_way_out(self, ways: ChosenWays) -> int:
        """What the changes on the way out cost at least for one choice of ways."""
        tasks = []
        clamp = frozenset[str]()
        if ways.isolates():
            demand = clamp_questions()[0][0]
            tasks.append(Task("clamp", (self._head(demand), "", "")))
            clamp = frozenset({"clamp"})
        for option in ways.moves:
            before_it = waits(ways, option)
            before = frozenset(map(str, before_it.whole)) | clamp
            made = self._tasks(option, self._out, before)
            comes_away = frozenset((*(t.key for t in made), *before, *map(str, before_it.lift)))
            tasks += [*made, Task(str(lift_key(ways, option)), (), comes_away)]
        return int(100 * sequence(tasks, (), self._change, state_limit=20).bound)

    def on_the_way_back(self, ways: ChosenWays) -> int:
        """What the changes on the way back cost at least, each part finished before the next.

        Before it, the work at the holes was done: see :meth:`at_holes`, which comes first.
        """
        tasks: list[Task] = []
        for option in ways.moves:
            over = [f"{block.target.part}/on" for block in ways.answered.get(option, ())]
            made = [] if option.part in self.pushed else self._tasks(option, self._back)
            waiting = [replace(task, after=frozenset(over)) for task in made]
            on = frozenset((*over, *(task.key for task in made)))
            tasks += [*waiting, Task(f"{option.part}/on", (), on, block=option.part)]
        begun = self._starts({task.setup for task in tasks if task.setup}) or ((),)
        found = [sequence_blocks(tasks, s, self._change, 20, beam_width=1).bound for s in begun]
        return int(100 * min(found))

    def _tasks(
        self, option: Option, symbol: Callable[[Joint], SetUp], after: frozenset[str] = frozenset()
    ) -> list[Task]:
        """One task for each joint of a way, with the symbol of its set-up."""
        return [
            Task(f"{option.part}/{number}", symbol(joint), after, block=option.part)
            for number, joint in enumerate(self._joints[option])
        ]
