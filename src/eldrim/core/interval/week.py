"""A week's plan: jobs over bays and people within their hours, so that the least is late and
nothing there is only one of is wanted twice at once. docs/interval.md tells the law.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from itertools import combinations
from typing import TYPE_CHECKING

from eldrim.core.base.solver import LaterModule

if TYPE_CHECKING:
    from ortools.sat.python import cp_model
else:
    cp_model = LaterModule("ortools.sat.python.cp_model")


# Minutes are laid out in steps of so many.
STEP = 15
# Deterministic units of work, not seconds: the same week is laid out alike anywhere. First for the
# least late, then for early and even.
LATE_LIMIT, TIDY_LIMIT = 1.5, 0.4


@dataclass(frozen=True)
class WeekJob:
    """A job to be laid out: how long it takes, by which day it should be done, what it needs.

    ``needs`` are tools by id, ``skills`` what whoever does it has to have.
    """

    key: str
    unit: str
    words: str
    minutes: float
    due: date | None = None
    needs: frozenset[str] = frozenset()
    skills: frozenset[str] = frozenset()

    @property
    def steps(self) -> int:
        """How many steps of the day it takes."""
        return max(1, -(-round(self.minutes * 100) // (STEP * 100)))


@dataclass(frozen=True)
class Person:
    """Somebody who does jobs, and what he or she is skilled in."""

    name: str
    skills: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Shop:
    """Where, by whom and when: bays, people, working days with their hours in minutes from
    midnight, and how many there are of each tool that is scarce.
    """

    bays: tuple[str, ...]
    people: tuple[Person, ...]
    days: tuple[date, ...]
    opens: int = 8 * 60
    closes: int = 16 * 60
    tools: Mapping[str, int] = field(default_factory=dict)

    @property
    def steps(self) -> int:
        """How many steps a day has."""
        return (self.closes - self.opens) // STEP

    def count(self, tool: str) -> int:
        """How many there are; what is not listed is no matter."""
        return self.tools.get(tool, 1)


@dataclass(frozen=True)
class Placed:
    """A job laid out: where, by whom, on which day, from which minute of it."""

    key: str
    bay: str
    person: str
    day: date
    start: int


@dataclass(frozen=True)
class WeekPlan:
    """A week laid out. ``late`` are days late together, ``least`` no plan has fewer.

    ``left`` are jobs that found no place, with why.
    """

    placed: tuple[Placed, ...]
    left: Mapping[str, str]
    late: int
    least: int

    @property
    def proven(self) -> bool:
        """Whether no plan is less late."""
        return self.least >= self.late


def late_days(job: WeekJob, shop: Shop, day: date | None) -> int:
    """How many days a job is late; one without a place counts to the day after the week."""
    if job.due is None:
        return 0 if day is not None else 1
    done = day or (max(shop.days) + timedelta(days=1))
    return max(0, (done - job.due).days) + (0 if day is not None else 1)


def lay_out(jobs: Sequence[WeekJob], shop: Shop) -> WeekPlan:
    """Lay jobs out over a week. Nothing is booked twice; the least is late; then early and even."""
    left = {job.key: why for job in jobs if (why := _impossible(job, shop))}
    able = [job for job in jobs if job.key not in left]
    placed, bound = _Model(able, shop).solve() if able and shop.days else ((), 0)
    where = {one.key: one for one in placed}
    left |= {job.key: "no_room" for job in able if job.key not in where}
    days = {job.key: where[job.key].day if job.key in where else None for job in jobs}
    lost = sum(late_days(job, shop, None) for job in jobs if job.key not in {j.key for j in able})
    late = sum(late_days(job, shop, days[job.key]) for job in jobs)
    return WeekPlan(placed, left, late, min(late, bound + lost))


def _sum(terms: Sequence[cp_model.LinearExprT]) -> cp_model.LinearExpr:
    return cp_model.LinearExpr.sum(list(terms))


def _impossible(job: WeekJob, shop: Shop) -> str:
    """Why a job has no place in any plan; empty where it may have."""
    if not (shop.bays and shop.people):
        return "nobody"
    if job.steps > shop.steps:
        return "too_long"
    if not any(job.skills <= person.skills for person in shop.people):
        return "no_skill"
    return "no_tool" if any(shop.count(tool) < 1 for tool in job.needs) else ""


class _Model:
    """Jobs as intervals on a line of days, each in one bay, by one person, or left out."""

    def __init__(self, jobs: Sequence[WeekJob], shop: Shop) -> None:
        self.jobs, self.shop = jobs, shop
        self.model = cp_model.CpModel()
        self.starts: dict[str, cp_model.IntVar] = {}
        self.bays: dict[tuple[str, str], cp_model.IntVar] = {}
        self.people: dict[tuple[str, str], cp_model.IntVar] = {}
        self.days: dict[tuple[str, int], cp_model.IntVar] = {}
        self.intervals: dict[str, list[cp_model.IntervalVar]] = {}
        for job in jobs:
            self._job(job)
        for group in self.intervals.values():
            self.model.add_no_overlap(group)
        self._tools()

    def _job(self, job: WeekJob) -> None:
        shop, model = self.shop, self.model
        room = [
            (day * shop.steps, (day + 1) * shop.steps - job.steps) for day in range(len(shop.days))
        ]
        start = model.new_int_var_from_domain(cp_model.Domain.from_intervals(room), "")
        self.starts[job.key] = start
        days = [model.new_bool_var("") for _ in shop.days]
        for place, (first, last) in enumerate(room):
            self.days[job.key, place] = days[place]
            model.add_linear_constraint(start, first, last).only_enforce_if(days[place])
        model.add_at_most_one(days)
        for kind, names in (
            ("bay", shop.bays),
            ("person", [p.name for p in shop.people if job.skills <= p.skills]),
        ):
            taken = [self._taken(job, kind, name) for name in names]
            model.add(_sum(taken) == _sum(days))
        self._alone(job, f"unit {job.unit}", _sum(days))

    def _taken(self, job: WeekJob, kind: str, name: str) -> cp_model.IntVar:
        """Whether a bay or a person takes a job; no two at once."""
        taken = self.model.new_bool_var("")
        (self.bays if kind == "bay" else self.people)[job.key, name] = taken
        one = self.model.new_optional_fixed_size_interval_var(
            self.starts[job.key], job.steps, taken, ""
        )
        self.intervals.setdefault(f"{kind} {name}", []).append(one)
        return taken

    def _alone(self, job: WeekJob, what: str, placed: cp_model.LinearExpr) -> None:
        there = self.model.new_bool_var("")
        self.model.add(placed == there)
        one = self.model.new_optional_fixed_size_interval_var(
            self.starts[job.key], job.steps, there, ""
        )
        self.intervals.setdefault(what, []).append(one)

    def _tools(self) -> None:
        """No tool is wanted more often at once than there are of it."""
        for tool in sorted({tool for job in self.jobs for tool in job.needs}):
            users = [job for job in self.jobs if tool in job.needs]
            there = [self.model.new_bool_var("") for _ in users]
            for job, one in zip(users, there, strict=True):
                self.model.add(
                    _sum([self.days[job.key, d] for d in range(len(self.shop.days))]) == one
                )
            spans = [
                self.model.new_optional_fixed_size_interval_var(
                    self.starts[job.key], job.steps, one, ""
                )
                for job, one in zip(users, there, strict=True)
            ]
            self.model.add_cumulative(spans, [1] * len(spans), self.shop.count(tool))

    def _late(self) -> cp_model.LinearExpr:
        """Days late together: by the day each is laid out on, or as left out."""
        left_out = sum(late_days(job, self.shop, None) for job in self.jobs)
        spared = [
            (late_days(job, self.shop, day) - late_days(job, self.shop, None))
            * self.days[job.key, place]
            for job in self.jobs
            for place, day in enumerate(self.shop.days)
        ]
        return _sum(spared) + left_out

    def _early(self) -> cp_model.LinearExpr:
        """Earlier is better; what is due sooner counts for more."""
        order = sorted(self.jobs, key=lambda job: (job.due or date.max, job.key))
        weights = {job.key: len(order) - place for place, job in enumerate(order)}
        return _sum([weights[key] * start for key, start in self.starts.items()])

    def solve(self) -> tuple[tuple[Placed, ...], int]:
        """The jobs laid out, and how many days late any plan is at least."""
        late = self._late()
        self.model.minimize(late)
        first = self._solver(LATE_LIMIT)
        if first is None:
            return (), 0
        found = tuple(self._placed(first))
        least, reached = first.best_objective_bound, round(first.objective_value)
        self.model.add(late <= reached)
        for name in (self.starts, self.bays, self.people, self.days):
            for variable in name.values():
                self.model.add_hint(variable, first.value(variable))
        self.model.minimize(self._early())
        then = self._solver(TIDY_LIMIT)
        return (tuple(self._placed(then)) if then is not None else found), max(0, round(least))

    def _solver(self, limit: float) -> cp_model.CpSolver | None:
        """What was found within a limit of work; None where nothing was."""
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 7
        solver.parameters.max_deterministic_time = limit
        status = solver.solve(self.model)
        return solver if status in (cp_model.OPTIMAL, cp_model.FEASIBLE) else None

    def _placed(self, solver: cp_model.CpSolver) -> Iterator[Placed]:
        for job in self.jobs:
            start = solver.value(self.starts[job.key])
            day, step = divmod(start, self.shop.steps)
            if not solver.value(self.days[job.key, day]):
                continue
            bay = next(n for n in self.shop.bays if solver.value(self.bays[job.key, n]))
            people = [p.name for p in self.shop.people if (job.key, p.name) in self.people]
            person = next(n for n in people if solver.value(self.people[job.key, n]))
            minute = self.shop.opens + step * STEP
            yield Placed(job.key, bay, person, self.shop.days[day], minute)


@dataclass(frozen=True)
class Clash:
    """What does not go: two jobs at once in one ``what``, or one job by itself."""

    kind: str
    jobs: tuple[str, ...]
    what: str = ""


def clashes(placed: Iterable[Placed], jobs: Mapping[str, WeekJob], shop: Shop) -> tuple[Clash, ...]:
    """What clashes in a week laid out by hand: a bay, a person, a unit or a tool wanted twice at
    once, hours, skills.
    """
    known = [one for one in placed if one.key in jobs]
    found = [clash for one in known for clash in _by_itself(one, jobs[one.key], shop)]
    for one, other in combinations(sorted(known, key=lambda p: (p.day, p.start, p.key)), 2):
        if not _at_once(one, other, jobs):
            continue
        pair = (one.key, other.key)
        found += [Clash("bay", pair, one.bay)] if one.bay == other.bay else []
        found += [Clash("person", pair, one.person)] if one.person == other.person else []
        unit = jobs[one.key].unit
        found += [Clash("unit", pair, unit)] if unit == jobs[other.key].unit else []
    return (*found, *_tools_wanted(known, jobs, shop))


def _by_itself(one: Placed, job: WeekJob, shop: Shop) -> Iterator[Clash]:
    if one.day not in shop.days:
        yield Clash("day", (one.key,))
    if one.start < shop.opens or one.start + job.minutes > shop.closes:
        yield Clash("hours", (one.key,))
    person = next((p for p in shop.people if p.name == one.person), None)
    if person is None or one.bay not in shop.bays:
        yield Clash("gone", (one.key,), one.person if person is None else one.bay)
    elif lacking := sorted(job.skills - person.skills):
        yield Clash("skill", (one.key,), lacking[0])


def _at_once(one: Placed, other: Placed, jobs: Mapping[str, WeekJob]) -> bool:
    ends = one.start + jobs[one.key].minutes, other.start + jobs[other.key].minutes
    return one.day == other.day and one.start < ends[1] and other.start < ends[0]


def _tools_wanted(
    placed: Sequence[Placed], jobs: Mapping[str, WeekJob], shop: Shop
) -> Iterator[Clash]:
    """Tools of which more are wanted at once than there are, each with who wants it then."""
    for tool in sorted({tool for one in placed for tool in jobs[one.key].needs}):
        users = sorted(
            (one for one in placed if tool in jobs[one.key].needs),
            key=lambda p: (p.day, p.start, p.key),
        )
        seen: set[tuple[str, ...]] = set()
        for one in users:
            then = tuple(
                other.key
                for other in users
                if other.key == one.key or (_at_once(one, other, jobs) and other.start <= one.start)
            )
            if len(then) > shop.count(tool) and then not in seen:
                seen.add(then)
                yield Clash("tool", then, tool)
