"""The choice of ways and the set-up changes it brings, as one CP-SAT model of lower limits.

How often a kind of set-up is taken up follows from what has to be done before what: a chain of
parts that wait for each other takes it up anew each time another kind came between. What no chain
shows is told to the model choice by choice, as a limit for a few options taken together.
docs/planner.md tells why the limits hold.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from ortools.sat.python import cp_model

from eldrim.core.access.cp_sat import CpSatModel, solver_for, work_of
from eldrim.core.access.problem import AccessProblem, Option
from eldrim.core.access.search import TIE

# More changes of set-up than one kind ever needs along a chain of parts, and minutes of changes.
MOST_ENTRIES, MOST_MINUTES = 40, 1_000_000


@dataclass(frozen=True)
class Chained:
    """What one direction, out or back, says of its set-ups.

    ``kinds`` are those an option uses, ``prices`` what taking one up costs at least, in hundredths
    of a minute. The work of the first option of a pair in ``before`` is done before that of the
    second where both are taken and none of the pair's work-rounds is. The very first kind may be
    cheaper by ``saved``. ``own`` is what the changes inside a part cost where it is finished before
    the next is begun, ``begin`` what taking up the first kind costs then.
    """

    kinds: Mapping[Option, frozenset[int]]
    prices: Mapping[int, int]
    before: Mapping[tuple[Option, Option], tuple[Option, ...]]
    saved: int = 0
    own: Mapping[Option, int] = field(default_factory=dict)
    begin: int = 0


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

    def __init__(self, problem: AccessProblem, out: Chained, back: Chained, always: int) -> None:
        """State the choice, and for both directions the limits that chains of parts give."""
        self.out, self.back, self.always = out, back, always
        super().__init__(problem)

    def _changes(self) -> list[cp_model.LinearExprT]:
        self.out_least = self.model.new_int_var(0, MOST_MINUTES, "")
        self.back_least = self.model.new_int_var(0, MOST_MINUTES, "")
        for chained, least in ((self.out, self.out_least), (self.back, self.back_least)):
            self.model.add(least >= self._taken_up(chained))
            self.model.add(least >= self._part_by_part(chained))
        return [TIE * self.out_least, TIE * self.back_least]

    def _taken_up(self, chained: Chained) -> cp_model.LinearExprT:
        """What it costs to take up each kind as often as some chain of parts does."""
        most = {kind: self._entries() for kind in sorted(chained.prices)}
        for kind, most_often in most.items():
            self._chains(chained, kind, most_often)
        every = sum(chained.prices[kind] * often for kind, often in most.items())
        return every - chained.saved

    def _chains(self, chained: Chained, kind: int, most_often: cp_model.IntVar) -> None:
        """How often one kind is taken up until each part is done."""
        parts = sorted({option.part for option in self.take if option.is_way})
        often = {part: self._entries() for part in parts}
        for until in often.values():
            self.model.add(most_often >= until)
        for option, kinds in chained.kinds.items():
            if kind in kinds:
                self.model.add(often[option.part] >= 1).only_enforce_if(self.take[option])
        for (first, later), rounds in chained.before.items():
            between = chained.kinds[first]
            again = bool(between) and kind in chained.kinds[later] and kind not in between
            chain = self.model.add(often[later.part] >= often[first.part] + again)
            chain.only_enforce_if(self._all_of((first, later), rounds))

    def _entries(self) -> cp_model.IntVar:
        return self.model.new_int_var(0, MOST_ENTRIES, "")

    def _part_by_part(self, chained: Chained) -> cp_model.LinearExprT:
        """What changes inside the parts cost, and the first of all."""
        begun = self.model.new_bool_var("")
        for option, kinds in chained.kinds.items():
            if kinds:
                self.model.add_implication(self.take[option], begun)
        own = sum(cost * self.take[option] for option, cost in chained.own.items())
        return own + chained.begin * begun

    def _all_of(
        self, options: Iterable[Option], rounds: Iterable[Option]
    ) -> list[cp_model.LiteralT]:
        """That all these options are taken and none of the work-rounds."""
        return [
            *(self.take[option] for option in sorted(set(options))),
            *(self.take[option].negated() for option in sorted(set(rounds))),
        ]

    def add_limit(
        self, least: cp_model.IntVar, value: int, options: list[Option], rounds: Iterable[Option]
    ) -> None:
        """State that one direction costs ``value`` with these options and none of the rounds."""
        self.model.add(least >= value).only_enforce_if(self._all_of(options, rounds))

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
