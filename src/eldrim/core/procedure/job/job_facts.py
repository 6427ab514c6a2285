"""What the steps of one procedure follow from, each fact with whoever answers for it."""

from dataclasses import dataclass
from functools import cached_property

from eldrim.core.access import AccessProblem, WayIn
from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.engine import Engine
from eldrim.core.job import Job
from eldrim.core.operations import CautionCause
from eldrim.core.procedure.job.cautions import may_roll
from eldrim.core.procedure.job.job_tools import JobTools
from eldrim.core.procedure.job.serviced_holes import ServicedHoles
from eldrim.core.procedure.job.step_figures import StepFigures
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.tool_selection import ToolSelection


@dataclass(frozen=True)
class JobFacts:
    """One settled job on one engine, by one set of rules, with one shop's tools and one way in.

    ``barred`` tells that the way in had to leave the crib aside: tools are still to be got.
    """

    capability: ShopCapability
    job: Job
    problem: AccessProblem
    way_in: WayIn
    barred: bool = False

    @property
    def engine(self) -> Engine:
        """The engine sheet."""
        return self.capability.engine

    @property
    def rules(self) -> HouseRules:
        """The house rules."""
        return self.capability.rules

    @property
    def crib(self) -> Crib:
        """The tools of the shop."""
        return self.capability.crib

    @cached_property
    def ways(self) -> ChosenWays:
        """What moves, and why."""
        return ChosenWays(self.engine, self.problem, self.way_in)

    @cached_property
    def holes(self) -> ServicedHoles:
        """What is serviced, where, in which order."""
        return ServicedHoles(self.engine, self.job, self.rules, self.ways)

    @cached_property
    def job_tools(self) -> JobTools:
        """Which tools the joints and the plugs take."""
        return JobTools(self.capability, self.ways, self.holes)

    @property
    def rolls(self) -> set[CautionCause]:
        """The cause of caution in a unit that is started on its wheels."""
        return may_roll(self.engine)

    @property
    def tools(self) -> ToolSelection:
        """The tools chosen for the whole job."""
        return self.job_tools.selection

    @cached_property
    def figures(self) -> StepFigures:
        """Figures as a step shows them."""
        return StepFigures(self.engine, self.job.variant, self.rules, self.crib)
