"""The least job: the way in and the order of its steps, weighed in one sum.

Ways are taken in rising cost, each with a lower limit of the set-up changes it brings, until that
sum passes the best job found. docs/planner.md tells why this is exact.
"""

from dataclasses import dataclass

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.access.problem import AccessProblem
from eldrim.core.access.search import Answer
from eldrim.core.access.solve import WayIn, answers_below, least_answer
from eldrim.core.job import Job
from eldrim.core.procedure.job_facts import JobFacts
from eldrim.core.procedure.set_up_floor import SetUpFloor
from eldrim.core.procedure.step_order import OrderedSteps, ordered_steps
from eldrim.core.tools.shop_capability import ShopCapability

# Branches taken to list the ways that could be less: at first, and once the work at the holes is
# counted in.
QUICK_LIMIT, LIST_LIMIT = 40, 8_000
# Ways whose changes are worked out, and of these the ways looked at in full; what is left is said
# as a bound.
MAX_WEIGHED, MAX_WAYS = 200, 12


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
    capability: ShopCapability, job: Job, problem: AccessProblem, *, barred: bool = False
) -> LeastJob:
    """Return the job with the least sum of its way in and its set-up changes.

    ``barred`` tells that the problem leaves the crib aside. Raises :class:`NoWayInError` when
    nothing opens the job.
    """
    return _Weighing(capability, job, problem, barred=barred).run()


class _Weighing:
    def __init__(
        self, capability: ShopCapability, job: Job, problem: AccessProblem, *, barred: bool
    ) -> None:
        self.capability, self.job, self.problem, self.barred = capability, job, problem, barred
        self.floor = SetUpFloor(capability, problem)

    def run(self) -> LeastJob:
        first, low = least_answer(self.problem, self.floor.by_option)
        best = self._planned(first)
        if low < first.value:
            return _bounded(best, low)
        floor = self.floor.by_option
        quick = answers_below(self.problem, floor, best.value, QUICK_LIMIT)
        if quick.bound is None and len(quick.answers) < 2:
            return best
        always = self.floor.at_holes(best.facts, best.ordered)
        listed = answers_below(self.problem, floor, best.value - always, LIST_LIMIT)
        if listed.bound is not None:
            return _bounded(best, max(low, listed.bound) + always)
        answers = [Answer(value + always, chosen) for value, chosen in listed.answers]
        return self._least_of(best, answers, best.bound)

    def _least_of(self, best: LeastJob, answers: list[Answer], bound: int) -> LeastJob:
        """The best of several ways in, each looked at in full only where it could be less."""
        others = [answer for answer in answers if answer.chosen != best.facts.way_in.chosen]
        if len(others) > MAX_WEIGHED:
            bound = min(bound, others[MAX_WEIGHED].value)
        weighed = enumerate(others[:MAX_WEIGHED])
        rising = sorted((self._at_least(answer), place) for place, answer in weighed)
        for count, (least, place) in enumerate(rising):
            if least >= best.value:
                break
            if count == MAX_WAYS:
                bound = min(bound, least)
                break
            other = self._planned(others[place])
            bound = min(bound, max(other.bound, least))
            best = min(best, other, key=_preference)
        return _bounded(best, bound)

    def _at_least(self, answer: Answer) -> int:
        """What a way in costs at least, its changes on the way out ordered."""
        floor, chosen = self.floor.by_option, answer.chosen
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
        way_in = self._way_in(answer)
        facts = JobFacts(self.capability, self.job, self.problem, way_in, self.barred)
        ordered = ordered_steps(facts)
        value = way_in.cost + round(100 * ordered.change_minutes)
        gap = round(100 * ordered.gap)
        return LeastJob(facts, ordered, value, max(value - gap, answer.value))


def _preference(job: LeastJob) -> tuple[object, ...]:
    chosen = job.facts.way_in.chosen
    return (job.value, job.facts.way_in.cost, len(chosen), sorted(chosen))


def _bounded(job: LeastJob, bound: int) -> LeastJob:
    return LeastJob(job.facts, job.ordered, job.value, min(bound, job.value))
