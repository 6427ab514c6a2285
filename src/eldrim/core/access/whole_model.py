"""The choice of ways and the set-up changes it brings, as one CP-SAT model of lower limits.

How often a kind of set-up is taken up follows from what has to be done before what: a chain of
parts that wait for each other takes it up anew each time another kind came between. What no chain
shows is told to the model choice by choice, as a limit for a few options taken together.
docs/planner.md tells why the limits hold.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from eldrim.core.access.cp_sat import CpSatModel, solver_for, work_of
from eldrim.core.access.problem import AccessProblem, Option
from eldrim.core.access.search import TIE
from eldrim.core.base.solver import LaterModule

if TYPE_CHECKING:
    from ortools.sat.python import cp_model
else:
    cp_model = LaterModule("ortools.sat.python.cp_model")

# More ends of runs than one kind ever has along a chain of parts, and minutes of changes.
MOST_ENDS, MOST_MINUTES = 80, 1_000_000


@dataclass(frozen=True)
class Chained:
    """What one direction, out or back, says of its set-ups.

    ``kinds`` are those an option uses, ``prices`` what taking one up costs at least, in hundredths
    of a minute. The work of the first option of a pair in ``before`` is done before that of the
    second where both are taken and none of the pair's work-rounds is. The very first kind may be
    cheaper by ``saved``; ``fixed`` comes with every choice. With ``whole_parts`` each part is
    finished before the next is begun; ``begin`` tells that the first kind is then taken up too.
    """

    kinds: Mapping[Option, frozenset[int]]
    prices: Mapping[int, int]
    before: Mapping[tuple[Option, Option], tuple[Option, ...]]
    saved: int = 0
    fixed: int = 0
    whole_parts: bool = False
    begin: bool = True


@dataclass(frozen=True)
class ToolsAsked:
    """What makes the tools of a choice those of a known job.

    One option at least of each set in ``users`` is taken, none of ``others``, all of ``with_all``.
    """

    users: tuple[frozenset[Option], ...]
    others: frozenset[Option]
    with_all: frozenset[Option]

    def of(self, chosen: frozenset[Option]) -> bool:
        """Whether a choice surely takes the tools of that job."""
        used = all(not chosen.isdisjoint(options) for options in self.users)
        return used and chosen.isdisjoint(self.others) and self.with_all <= chosen


class Weighed(NamedTuple):
    """One choice with the limits of its changes, and a lower limit of every choice left.

    ``chosen`` is None where the work ended before one was proven the least; ``nothing_left`` tells
    that all are ruled out. Sums are hundredths of a minute.
    """

    chosen: frozenset[Option] | None = None
    out: int = 0
    back: int = 0
    bound: int = 0
    nothing_left: bool = False
    work: float = 0.0


class WholeModel(CpSatModel):
    """A problem as a model of the whole job; ``always`` comes with every choice."""

    def __init__(self, problem: AccessProblem, always: int) -> None:
        """State the choice; the limits of its changes are added."""
        self.always = always
        self._ends: dict[tuple[object, ...], cp_model.IntVar] = {}
        self._any: dict[frozenset[Option], cp_model.IntVar] = {}
        super().__init__(problem)

    def _changes(self) -> list[tuple[cp_model.IntVar, int]]:
        self.out_least = self.model.new_int_var(0, MOST_MINUTES, "")
        self.back_least = self.model.new_int_var(0, MOST_MINUTES, "")
        return [(self.out_least, 1), (self.back_least, 1)]

    def add_changes(
        self, least: cp_model.IntVar, chained: Chained, case: cp_model.IntVar | None = None
    ) -> None:
        """State what one direction costs at least; with ``case`` only where that holds."""
        often = {kind: self._taken_up(chained, kind) for kind in sorted(chained.prices)}
        every = sum(chained.prices[kind] * count for kind, count in often.items())
        self._only(self.model.add(least >= every + (chained.fixed - chained.saved)), case)
        if chained.whole_parts:
            self._part_by_part(chained, often.values())

    def case(self, asked: ToolsAsked) -> cp_model.IntVar:
        """Whether a choice takes the tools of a known job."""
        used = [self._any_of(options) for options in asked.users]
        holds = self.model.new_bool_var("")
        others = [self.take[option] for option in sorted(asked.others)]
        with_all = [self.take[option].negated() for option in sorted(asked.with_all)]
        self.model.add_bool_or([holds, *(u.negated() for u in used), *others, *with_all])
        return holds

    def _taken_up(self, chained: Chained, kind: int) -> cp_model.IntVar:
        """How often one kind is taken up: a run of it has two ends."""
        alone, along = _users(chained, kind)
        key = (chained.whole_parts, alone, along, tuple(chained.before))
        if key not in self._ends:
            often = self.model.new_int_var(0, MOST_ENDS, "")
            for ends in self._chains(chained, kind).values():
                self.model.add(2 * often >= ends)
            if chained.whole_parts:
                self.model.add(2 * often >= sum(self.take[option] for option in sorted(along)))
            self._ends[key] = often
        return self._ends[key]

    def _chains(self, chained: Chained, kind: int) -> dict[str, cp_model.IntVar]:
        """The ends of runs of one kind until each part is done; an open run has one so far.

        Another kind ends a run, this kind alone keeps one open. A part that takes both begins one
        or ends one.
        """
        parts = sorted({option.part for option in self.take if option.is_way})
        ends = {part: self.model.new_int_var(0, MOST_ENDS, "") for part in parts}
        for option, kinds in chained.kinds.items():
            if kind in kinds:
                self.model.add(ends[option.part] >= 1).only_enforce_if(self.take[option])
        for (first, later), rounds in chained.before.items():
            more = _more_ends(chained.kinds[first], chained.kinds[later], kind)
            chain = self.model.add(ends[later.part] >= ends[first.part] + more)
            chain.only_enforce_if(self._all_of((first, later), rounds))
        return ends

    def _part_by_part(self, chained: Chained, often: Iterable[cp_model.IntVar]) -> None:
        """Changes inside the parts, and the first of all, are among those counted."""
        begun = self.model.new_bool_var("")
        inside = []
        for option, kinds in chained.kinds.items():
            if kinds:
                self.model.add_implication(self.take[option], begun)
                inside.append((len(kinds) - 1) * self.take[option])
        self.model.add(sum(often) >= sum(inside) + chained.begin * begun)

    def _all_of(
        self, options: Iterable[Option], rounds: Iterable[Option]
    ) -> list[cp_model.LiteralT]:
        """That all these options are taken and none of the work-rounds."""
        return [
            *(self.take[option] for option in sorted(set(options))),
            *(self.take[option].negated() for option in sorted(set(rounds))),
        ]

    def add_limit(
        self,
        least: cp_model.IntVar,
        value: int,
        groups: Iterable[frozenset[Option]],
        rounds: Iterable[Option],
        case: cp_model.IntVar | None = None,
    ) -> None:
        """State that one direction costs ``value`` with one option of each of these groups and none
        of the rounds.
        """
        holds = [self._any_of(group) for group in groups] + self._all_of((), rounds)
        self.model.add(least >= value).only_enforce_if(holds if case is None else [*holds, case])

    def _any_of(self, options: frozenset[Option]) -> cp_model.IntVar:
        """Whether any of these options is taken."""
        if len(options) == 1:
            return self.take[next(iter(options))]
        if options not in self._any:
            taken = self._any[options] = self.model.new_bool_var("")
            for option in sorted(options):
                self.model.add_implication(self.take[option], taken)
        return self._any[options]

    @staticmethod
    def _only(constraint: cp_model.Constraint, case: cp_model.IntVar | None) -> None:
        if case is not None:
            constraint.only_enforce_if(case)

    def rule_out(self, chosen: frozenset[Option]) -> None:
        """Leave away a choice, and all that have more in them."""
        self.model.add_bool_or([self.take[option].negated() for option in chosen])

    def least(self, work: float) -> Weighed:
        """The choice that costs least by what the model knows, within ``work``."""
        solver = solver_for(work)
        status = solver.solve(self.model)
        took = work_of(solver)
        if status == cp_model.INFEASIBLE:
            return Weighed(nothing_left=True, work=took)
        bound = max(0, round(solver.best_objective_bound)) // TIE + self.always
        if status != cp_model.OPTIMAL:
            return Weighed(bound=bound, work=took)
        chosen = frozenset(key for key, value in self.take.items() if solver.boolean_value(value))
        out, back = solver.value(self.out_least), solver.value(self.back_least)
        return Weighed(chosen, out, back, bound, work=took)


def _users(chained: Chained, kind: int) -> tuple[frozenset[Option], frozenset[Option]]:
    """The options that take this kind alone, and those that take others too."""
    using = {option for option, kinds in chained.kinds.items() if kind in kinds}
    along = frozenset(option for option in using if len(chained.kinds[option]) > 1)
    return frozenset(using - along), along


def _more_ends(before: Collection[int], after: Collection[int], kind: int) -> int:
    """How many ends of runs of a kind a part adds at least to those of the part before it."""
    if kind in after:
        return 1 if len(after) > 1 or (before and kind not in before) else 0
    return 1 if after and len(before) == 1 and kind in before else 0
