"""The choice of ways as a CP-SAT model, for problems too large for our own search alone."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING

from eldrim.core.access.change_floor import NO_CHANGES, ChangeFloor
from eldrim.core.access.loops import waiting_groups
from eldrim.core.access.problem import AccessProblem, Option
from eldrim.core.access.search import TIE
from eldrim.core.base.solver import LaterModule

if TYPE_CHECKING:
    from ortools.sat.python import cp_model
else:
    cp_model = LaterModule("ortools.sat.python.cp_model")

# Deterministic units of work, not seconds: the same question gives the same answer anywhere.
WORK_LIMIT = 2.0
# Up to so many options, trying what each value leads to takes longer than it saves.
UNPROBED = 300


@dataclass(frozen=True)
class Asked:
    """What CP-SAT says: a choice with its value and a proven lower limit of any other's.

    ``chosen`` is None where none was found: ``impossible`` tells that there is none, else the
    limit ended the work. ``work`` is what it took.
    """

    chosen: frozenset[Option] | None
    value: int = 0
    bound: int = 0
    impossible: bool = False
    work: float = 0.0


class CpSatModel:
    """One problem as a model, changes of set-up weighed where a floor of them is given."""

    def __init__(self, problem: AccessProblem, floor: ChangeFloor = NO_CHANGES) -> None:
        """State options, hindrances, what may not wait for itself, and the cost."""
        self.problem, self.floor = problem, floor
        self.model = cp_model.CpModel()
        self.take = {n: self.model.new_bool_var("") for n in sorted(problem.cost)}
        self._one_way_a_part()
        self._answers()
        self._places()
        self._cost()

    def _one_way_a_part(self) -> None:
        ways: dict[str, list[cp_model.IntVar]] = {}
        for node, chosen in self.take.items():
            if node.is_way:
                ways.setdefault(node.part, []).append(chosen)
        for group in ways.values():
            self.model.add_at_most_one(group)
        for node in self.problem.forced:
            self.model.add_bool_or([self.take[node]])

    def _answers(self) -> None:
        for options in {root.options for root in self.problem.roots}:
            self.model.add_bool_or([self.take[option] for option in options])
        for node, blocks in self.problem.blocks.items():
            for options in {block.options for block in blocks}:
                answered = [self.take[n] for n in options]
                self.model.add_bool_or([*answered, self.take[node].negated()])

    def _places(self) -> None:
        """Number the parts that could wait for each other, so that none waits for itself."""
        group_of = {part: group for group in waiting_groups(self.problem) for part in group}
        place = {
            part: self.model.new_int_var(0, len(group), "")
            for part, group in sorted(group_of.items())
        }
        for node, blocks in self.problem.blocks.items():
            for block in blocks:
                first, later = block.part, block.target.part
                if group_of.get(first) is None or group_of[first] != group_of.get(later):
                    continue
                rounds = [self.take[o].negated() for o in block.options if not o.is_way]
                before = self.model.add(place[first] + 1 <= place[later])
                before.only_enforce_if([self.take[node], *rounds])

    def _cost(self) -> None:
        own, changes = self.floor.own, self._changes()
        weights = [(self.problem.cost[o] + own.get(o, 0)) * TIE + 1 for o in self.take]
        weights += [price * TIE for _, price in changes]
        every = [*self.take.values(), *(value for value, _ in changes)]
        self.model.minimize(cp_model.LinearExpr.weighted_sum(every, weights))

    def _changes(self) -> list[tuple[cp_model.IntVar, int]]:
        """What the changes of set-up depend on, each with what it costs at least."""
        used = {
            kind: self.model.new_bool_var("")
            for kind in sorted({k for kinds in self.floor.kinds.values() for k in kinds})
        }
        for option, kinds in self.floor.kinds.items():
            for kind in kinds:
                self.model.add_implication(self.take[option], used[kind])
        return [(value, self.floor.price) for value in used.values()]

    def ask(
        self,
        hint: frozenset[Option] = frozenset(),
        work: float = WORK_LIMIT,
        without: Option | None = None,
    ) -> Asked:
        """The best choice found within ``work``, with its bound; ``without`` is ruled out."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for node, chosen in self.take.items() if hint else ():
            self.model.add_hint(chosen, node in hint and node != without)
        solver = solver_for(work)
        if len(self.take) <= UNPROBED:
            solver.parameters.cp_model_probing_level = 0
        with self._ruled_out(without):
            status = solver.solve(self.model)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            impossible = status == cp_model.INFEASIBLE
            return Asked(None, impossible=impossible, work=work_of(solver))
        chosen_nodes = frozenset(k for k, v in self.take.items() if solver.boolean_value(v))
        cost = sum(self.problem.cost[option] for option in chosen_nodes)
        value = cost + self.floor.of(chosen_nodes)
        bound = max(0, round(solver.best_objective_bound)) // TIE + self.floor.always
        return Asked(chosen_nodes, value, min(value, bound), work=work_of(solver))

    @contextmanager
    def _ruled_out(self, option: Option | None) -> Iterator[None]:
        """The model without an option, for as long as it is asked."""
        domain = None if option is None else self.take[option].proto.domain
        if domain is not None:
            domain[1] = 0
        yield
        if domain is not None:
            domain[1] = 1


def solver_for(work: float) -> cp_model.CpSolver:
    """A solver that gives the same answer anywhere, within ``work`` deterministic units."""
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.symmetry_level = 0  # finding symmetries takes longer than it saves here
    solver.parameters.max_deterministic_time = work
    return solver


def work_of(solver: cp_model.CpSolver) -> float:
    """What the last question took, in the solver's deterministic units."""
    return float(solver.response_proto.deterministic_time)
