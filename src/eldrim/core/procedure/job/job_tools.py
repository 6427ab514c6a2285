"""The tools of one job: what each joint and each plug asks of the crib, and what was chosen."""

from functools import cached_property
from typing import NamedTuple

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.engine import Target
from eldrim.core.figures.sheet import FigureInForce, plug_window
from eldrim.core.figures.torque import Window
from eldrim.core.procedure.job.pieces import piece_joints
from eldrim.core.procedure.job.serviced_holes import ServicedHoles
from eldrim.core.tools.crib import fold
from eldrim.core.tools.demand import Demand, TurnAction, of_plug
from eldrim.core.tools.missing_tools import missing_for
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stack_finder import StackQuestion, offers
from eldrim.core.tools.tool_selection import ToolSelection, clamp_questions
from eldrim.core.words import say

BY_HANDLE = (TurnAction.BREAK_LOOSE, TurnAction.TIGHTEN)


class PlugAtLeast(NamedTuple):
    """A plug's head, the fewest pieces that turn it, and whether a wrench surely tightens it."""

    demand: Demand
    pieces: int
    surely_by_wrench: bool


class JobTools:
    """Answers which tools a job takes, chosen together, and how each plug is tightened."""

    def __init__(self, capability: ShopCapability, ways: ChosenWays, holes: ServicedHoles) -> None:
        """Keep what the answers follow from."""
        self.capability, self.ways, self.holes = capability, ways, holes
        self._asked_of_plug: dict[str, list[StackQuestion]] = {}

    @cached_property
    def selection(self) -> ToolSelection:
        """The tools of the whole job, chosen together."""
        asked = [
            question
            for joint in self.ways.all_released
            if joint.turned
            for question in self.capability.questions(joint)
        ]
        clamp = clamp_questions() if self.holes.isolates() else ()
        return ToolSelection(self.capability, (*asked, *self.asked_anyway, *clamp))

    @cached_property
    def asked_anyway(self) -> tuple[StackQuestion, ...]:
        """What the work itself asks, whatever is moved to get at it."""
        joints = list(self.holes.carrier.joints.values()) if self.holes.holes else []
        joints += piece_joints(self.holes.job, self.holes.engine)
        asked = [
            question
            for joint in joints
            if joint.turned
            for question in self.capability.questions(joint)
        ]
        for hole in sorted(self.holes.plug_holes):
            asked += self.plug_questions(hole)
        return tuple(asked)

    def plug_questions(self, hole: str) -> list[StackQuestion]:
        """What the plug of a hole asks: break loose, run out, then torque, or by angle."""
        if hole not in self._asked_of_plug:
            self._asked_of_plug[hole] = self._plug_questions(hole)
        return self._asked_of_plug[hole]

    def _plug_questions(self, hole: str) -> list[StackQuestion]:
        named = self.ways.round_tools(Target(hole=hole, item="plug"))
        using = tuple(sorted({fold(tool) for tool in named}))
        well = self.holes.engine.holes[hole][1]
        demand = of_plug(self.holes.plug, well, hole in self.ways.opened_holes, using)
        last: StackQuestion = (demand, TurnAction.TIGHTEN, None)
        if self.plug_torque and not self._always_by_angle:
            torque = (demand, TurnAction.TORQUE, self.plug_torque[1])
            finder = self.capability.finder
            last = torque if finder.possible(*torque) or not finder.possible(*last) else last
        return [(demand, TurnAction.BREAK_LOOSE, None), (demand, TurnAction.RUN_OUT, None), last]

    def plug_at_least(self, hole: str) -> PlugAtLeast:
        """What holds of the plug of a hole whatever else is moved or worked round."""
        well = self.holes.engine.holes[hole][1]
        met = [root for root in self.ways.problem.roots if root.target.hole == hole]
        rounds = {o for root in met if root.target.item == "plug" for o in root.options}
        used = {self.ways.work_round(option).tools for option in rounds if not option.is_way}
        using = [(), *(tuple(sorted({fold(tool) for tool in tools})) for tools in sorted(used))]
        demands = [of_plug(self.holes.plug, well, bool(met), pieces) for pieces in using]
        finder = self.capability.finder
        stated = None if self._always_by_angle else self.plug_torque
        asked: list[tuple[TurnAction, Window | None]] = [
            (TurnAction.BREAK_LOOSE, None),
            (TurnAction.TIGHTEN, None),
        ]
        asked += [(TurnAction.TORQUE, stated[1])] if stated else []
        pieces = [
            len(choice.stack.ids)
            for demand in demands
            for action, wanted in asked
            for choice in offers(finder.answer(demand, action, wanted))
        ]
        surely = stated is not None and all(
            finder.possible(demand, TurnAction.TORQUE, stated[1]) for demand in demands
        )
        return PlugAtLeast(demands[0], min(pieces, default=1), surely and len(used) < 2)

    @property
    def _always_by_angle(self) -> bool:
        return self.holes.rules.school["tightening"] == "seat_plus_angle"

    def by_angle(self, hole: str) -> bool:
        """Whether a plug is turned by angle: by house rule, or because no wrench does it here."""
        return self.plug_questions(hole)[-1][1] is TurnAction.TIGHTEN

    def no_wrench(self, hole: str) -> str:
        """Why no torque wrench tightens the plug of a hole; empty where one does, or none has to.

        A plug is then turned by angle (docs/craft.md §9).
        """
        if self._always_by_angle:
            return ""
        if self.plug_torque is None:
            return say("figure.no_torque")
        demand = self.plug_questions(hole)[-1][0]
        finder, wanted = self.capability.finder, self.plug_torque[1]
        missing = missing_for(finder, demand, TurnAction.TORQUE, wanted)
        return missing.words if missing and self.by_angle(hole) else ""

    @cached_property
    def plug_torque(self) -> tuple[FigureInForce, Window] | None:
        """The plug's torque window; None where only the angle method is left."""
        return plug_window(self.holes.engine, self.holes.job.variant, self.holes.rules)
