"""The least job: the way in and the order of its steps, weighed in one sum.

Ways are taken in rising cost, each with a lower limit of the set-up changes it brings, until that
sum passes the best job found. docs/planner.md tells why this is exact.
"""

from dataclasses import dataclass

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import AccessProblem
from eldrim.core.access.search import Answer
from eldrim.core.access.solve import MAX_OPTIONS, WayIn, answers_below, least_answer
from eldrim.core.job import Job
from eldrim.core.order.chain import Effort
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.whole_job.learning import Learning
from eldrim.core.procedure.whole_job.set_up_floor import KnownTools, SetUpFloor
from eldrim.core.procedure.whole_job.step_order import (
    USUAL,
    OrderedSteps,
    ordered_steps,
    parts_cost_at_least,
)
from eldrim.core.tools.shop_capability import ShopCapability

# Branches taken to list the ways that could be less: at first, and once the work at the holes is
# counted in.
QUICK_LIMIT, LIST_LIMIT = 40, 2_000
# Ways in that are weighed one by one, at first and where there is time; more are weighed together.
FEW_AT_FIRST, MAX_LISTED = 3, 30
# Ways in looked at in full; what is left is said as a bound.
MAX_WAYS = 16
# How far the order of a large job is looked for at first, and where there is time to look further.
# Up to SMALL options it is looked for in full at once.
SMALL = 30
AT_FIRST = Effort(states=1, width=4, beginnings=0)
LOOKED_THROUGH = Effort(states=4000)
# Past this many options the changes of other ways are not looked at.
MAX_LEARNED = 250


@dataclass(frozen=True)
class LeastJob:
    """A job planned: its facts and its steps in order. Sums are hundredths of a minute.

    ``value`` is the way in and the set-up changes together; no job costs less than ``bound``.
    """

    facts: JobFacts
    ordered: OrderedSteps
    value: int
    bound: int

    @property
    def proven(self) -> bool:
        """Whether no cheaper job exists."""
        return self.bound >= self.value


def least_job(
    capability: ShopCapability,
    job: Job,
    problem: AccessProblem,
    *,
    barred: bool = False,
    at_once: bool = False,
) -> LeastJob:
    """Return the job with the least sum of its way in and its set-up changes.

    ``barred`` tells that the problem leaves the crib aside. ``at_once`` takes the first good
    answer where there is much to look through, its gap stated, instead of looking further. Raises
    :class:`NoWayInError` when nothing opens the job.
    """
    effort = _effort(len(problem.cost), at_once)
    weighing = _Weighing(capability, job, problem, barred=barred, effort=effort)
    return weighing.run(at_once=at_once)


def _effort(options: int, at_once: bool) -> Effort:
    if at_once:
        return AT_FIRST if options > SMALL else USUAL
    return LOOKED_THROUGH if options > MAX_OPTIONS else USUAL


class _Weighing:
    def __init__(
        self,
        capability: ShopCapability,
        job: Job,
        problem: AccessProblem,
        *,
        barred: bool,
        effort: Effort = USUAL,
    ) -> None:
        self.capability, self.job, self.problem, self.barred = capability, job, problem, barred
        self.effort = effort
        self.floor = SetUpFloor(capability, problem)

    def run(self, *, at_once: bool) -> LeastJob:
        first, low = least_answer(self.problem, self.floor.by_option)
        best = self._planned(first)
        if low < first.value:
            return _bounded(best, low)
        if len(self.problem.cost) > (MAX_OPTIONS if at_once else MAX_LEARNED):
            return _bounded(best, low + self.floor.at_holes(best.facts, best.ordered))
        if len(self.problem.cost) > MAX_OPTIONS:
            return self._as_a_whole(best, low)
        return self._one_by_one(best, low, at_once)

    def _one_by_one(self, best: LeastJob, low: int, at_once: bool) -> LeastJob:
        """The best job, each way in that could be less weighed; as a whole where they are many."""
        floor = self.floor.by_option
        quick = answers_below(self.problem, floor, best.value, QUICK_LIMIT)
        if quick.bound is None and len(quick.answers) < 2:
            return best
        always = self.floor.at_holes(best.facts, best.ordered)
        limit, most = (QUICK_LIMIT, FEW_AT_FIRST) if at_once else (LIST_LIMIT, MAX_LISTED)
        listed = answers_below(self.problem, floor, best.value - always, limit)
        if listed.bound is None and len(listed.answers) <= most:
            answers = [Answer(value + always, chosen) for value, chosen in listed.answers]
            return self._least_of(best, answers, always, best.bound)
        return _bounded(best, low + always) if at_once else self._as_a_whole(best, low)

    def _least_of(self, best: LeastJob, answers: list[Answer], always: int, bound: int) -> LeastJob:
        """The best of several ways in, each looked at in full only where it could be less."""
        others = [answer for answer in answers if answer.chosen != best.facts.way_in.chosen]
        known = self.floor.case(best.facts, best.ordered, always) if others else None
        weighed = ((self._at_least(answer, always, known), at) for at, answer in enumerate(others))
        rising = sorted(weighed)
        for count, (least, place) in enumerate(rising):
            if least >= best.value:
                break
            if count == MAX_WAYS:
                bound = min(bound, least)
                break
            facts = self._facts(others[place])
            unknown = known is None or not known.asked.of(others[place].chosen)
            if unknown and self._surely(facts, always) >= best.value:
                continue
            other = self._in_order(facts, others[place])
            bound = min(bound, max(other.bound, least))
            best = min(best, other, key=_preference)
        return _bounded(best, bound)

    def _as_a_whole(self, best: LeastJob, low: int) -> LeastJob:
        """The best job by a model of the whole that learns what the ways in really bring."""
        always = self.floor.at_holes(best.facts, best.ordered)
        learning = Learning(self.floor, always)
        learning.planned(best.facts, best.ordered)
        bound, open_below = low + always, best.bound
        for _ in range(MAX_WAYS):
            weighed = learning.least()
            bound = best.value if weighed.nothing_left else max(bound, weighed.bound)
            if weighed.chosen is None or bound >= best.value:
                break
            other = self._planned(Answer(bound, weighed.chosen))
            open_below = min(open_below, other.bound)
            best = min(best, other, key=_preference)
            learning.planned(other.facts, other.ordered)
        return _bounded(best, min(bound, open_below))

    def _at_least(self, answer: Answer, always: int, known: KnownTools | None = None) -> int:
        """What a way in costs at least, its changes ordered: with tools that are known, if any."""
        floor, chosen = self.floor.by_option, answer.chosen
        if known is not None and known.asked.of(chosen):
            changes = known.out.cost_of(chosen) + known.back.cost_of(chosen)
            return self._way_in(answer).cost + changes + always
        kinds = {kind for option in chosen for kind in floor.kinds.get(option, ())}
        alone = sum(floor.own.get(option, 0) for option in chosen)
        ways = ChosenWays(self.capability.engine, self.problem, self._way_in(answer))
        out = self.floor.on_the_way_out(ways) - floor.price * len(kinds)
        back = self.floor.on_the_way_back(ways) - alone
        return answer.value + max(0, out) + max(0, back)

    def _way_in(self, answer: Answer) -> WayIn:
        cost = sum(self.problem.cost[option] for option in answer.chosen)
        return WayIn(answer.chosen, cost, cost)

    def _planned(self, answer: Answer) -> LeastJob:
        """One way in with its steps in order; its bound is what any order of it costs at least."""
        return self._in_order(self._facts(answer), answer)

    def _facts(self, answer: Answer) -> JobFacts:
        way_in = self._way_in(answer)
        return JobFacts(self.capability, self.job, self.problem, way_in, self.barred)

    def _surely(self, facts: JobFacts, always: int) -> int:
        """What a job costs at least with the tools it takes; ``always`` is the work at holes, which
        may be begun with an empty hand.
        """
        parts = int(100 * parts_cost_at_least(facts) + 1e-6)
        return facts.way_in.cost + parts + always + self.floor.first

    def _in_order(self, facts: JobFacts, answer: Answer) -> LeastJob:
        ordered = ordered_steps(facts, self.effort)
        value = facts.way_in.cost + round(100 * ordered.change_minutes)
        gap = round(100 * ordered.gap)
        return LeastJob(facts, ordered, value, max(value - gap, answer.value))


def _preference(job: LeastJob) -> tuple[object, ...]:
    chosen = job.facts.way_in.chosen
    return (job.value, job.facts.way_in.cost, len(chosen), sorted(chosen))


def _bounded(job: LeastJob, bound: int) -> LeastJob:
    return LeastJob(job.facts, job.ordered, job.value, min(bound, job.value))
