"""A model of the whole job that is told what a choice of ways really brings, until it knows."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from eldrim.core.access.problem import Option
from eldrim.core.access.whole_model import ToolsAsked, Weighed, WholeModel
from eldrim.core.order.frontier import Allowance
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.whole_job.change_stretch import Stretch, fewest
from eldrim.core.procedure.whole_job.set_up_floor import SetUpFloor
from eldrim.core.procedure.whole_job.step_order import OrderedSteps

if TYPE_CHECKING:
    from ortools.sat.python.cp_model import IntVar

# What learning may take: work of CP-SAT in its units, and places looked at to see what a few ways
# cost, for one question and, the fewer options the more, all together.
WORK_LIMIT, MAX_EACH, MAX_PLACES = 3.0, 2_000, 12_000_000
MIN_OPTIONS = 60
# Jobs with other tools that are told apart.
MAX_CASES = 6


class Known(NamedTuple):
    """Both directions, in general or with the tools of a planned job where ``case`` holds."""

    out: Stretch
    back: Stretch
    asked: ToolsAsked | None = None
    case: IntVar | None = None


class Learning:
    """Names the choice that costs least, once nothing more is to be learned of it."""

    def __init__(self, floor: SetUpFloor, always: int) -> None:
        """``always`` is what the work at the holes costs."""
        self.floor, self.always = floor, always
        self.model = WholeModel(floor.problem, always)
        self.general = Known(*floor.stretches())
        self._state(self.general)
        self.cases: list[Known] = []
        places = MAX_PLACES // max(len(floor.problem.cost), MIN_OPTIONS)
        self.work, self.allowance = WORK_LIMIT, Allowance(places, MAX_EACH)
        self.likely: tuple[set[Option], set[Option]] = (set(), set())

    def _state(self, known: Known) -> None:
        self.model.add_changes(self.model.out_least, known.out.chained(), known.case)
        self.model.add_changes(self.model.back_least, known.back.chained(), known.case)

    def planned(self, facts: JobFacts, ordered: OrderedSteps) -> None:
        """Rule out a choice whose job was planned, and know its tools from now on."""
        self.model.rule_out(facts.way_in.chosen)
        if self._known(facts.way_in.chosen).case is not None or len(self.cases) == MAX_CASES:
            return
        same = self.floor.case(facts, ordered, self.always)
        if same is not None:
            self.cases.append(Known(same.out, same.back, same.asked, self.model.case(same.asked)))
            self._state(self.cases[-1])

    def _known(self, chosen: frozenset[Option]) -> Known:
        """What is known of a choice: with its tools, if those are a planned job's."""
        fitting = (case for case in self.cases if case.asked and case.asked.of(chosen))
        return next(fitting, self.general)

    def least(self) -> Weighed:
        """The choice that costs least, once nothing more is to be learned of it.

        Where learning had to end before, only the bound is told.
        """
        weighed = self._next()
        while weighed.chosen is not None and self._learn(weighed, weighed.chosen):
            weighed = self._next()
            if not self.allowance.left:
                return weighed._replace(chosen=None)
        return weighed

    def _next(self) -> Weighed:
        if self.work <= 0:
            return Weighed()
        weighed = self.model.least(self.work)
        self.work -= weighed.work
        return weighed

    def _learn(self, weighed: Weighed, chosen: frozenset[Option]) -> bool:
        """Tell the model what it takes for too cheap; whether there was anything."""
        known = self._known(chosen)
        model, case = self.model, known.case
        out = self._learn_of(known.out.of(chosen), chosen, model.out_least, weighed.out, case)
        back = self._learn_of(known.back.of(chosen), chosen, model.back_least, weighed.back, case)
        return out or back

    def _learn_of(
        self,
        stretch: Stretch,
        chosen: frozenset[Option],
        least: IntVar,
        taken_for: int,
        case: IntVar | None,
    ) -> bool:
        ways = sorted(option for option in chosen if option.is_way)
        cost = stretch.cost(ways)
        if cost <= taken_for:
            return False
        likely = self.likely[stretch.whole_parts]
        few = fewest(stretch, ways, cost, likely, self.allowance)
        likely.update(option for group in few.ways for option in group)
        self.model.add_limit(least, cost, few.ways, few.rounds, case)
        return True
