"""The choice of ways as a CP-SAT model, for problems too large for our own search alone."""

from ortools.sat.python import cp_model

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.access.solve import WayIn

# Deterministic units of work, not seconds: the same question gives the same answer anywhere.
WORK_LIMIT = 2.0


class CpSatModel:
    """One model, asked again after each loop that is cut."""

    def __init__(self, problem: AccessProblem, tie: int) -> None:
        """State nodes, blocks and the cost; loops are cut later, as they turn up."""
        self.problem, self.tie = problem, tie
        self.model = cp_model.CpModel()
        self.take = {n: self.model.new_bool_var("") for n in sorted(problem.cost)}
        ways: dict[str, list[cp_model.IntVar]] = {}
        for node, chosen in self.take.items():
            if node.is_way:
                ways.setdefault(node.part, []).append(chosen)
        for group in ways.values():
            self.model.add_at_most_one(group)
        for node in problem.forced:
            self.model.add_bool_or([self.take[node]])
        for options in {root.options for root in problem.roots}:
            self.model.add_bool_or([self.take[option] for option in options])
        for node, blocks in problem.blocks.items():
            for options in {block.options for block in blocks}:
                answered = [self.take[n] for n in options]
                self.model.add_bool_or([*answered, self.take[node].negated()])
        self.model.minimize(
            sum((problem.cost[key] * tie + 1) * value for key, value in self.take.items())
        )

    def ask(self, hint: frozenset[Option]) -> WayIn | None:
        """The best choice known now, with its bound; None when none was found in the limit."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for node, chosen in self.take.items():
            self.model.add_hint(chosen, node in hint)
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        solver.parameters.symmetry_level = 0  # finding symmetries takes longer than it saves here
        solver.parameters.max_deterministic_time = WORK_LIMIT
        if solver.solve(self.model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        chosen_nodes = frozenset(
            key for key, value in self.take.items() if solver.boolean_value(value)
        )
        cost = sum(self.problem.cost[option] for option in chosen_nodes)
        bound = min(cost, round(solver.best_objective_bound) // self.tie)
        return WayIn(chosen_nodes, cost, bound)

    def cut(self, loop: list[MetHindrance], chosen: frozenset[Option]) -> None:
        """Forbid this loop: a node that brings one of its hindrances goes, or one is worked round.

        As long as all those nodes stay and nothing is worked round, the loop is there.
        """
        bringers = {self._bringer(block, chosen) for block in loop}
        rounds = {option for b in loop for option in b.options if not option.is_way}
        out = [self.take[bringer].negated() for bringer in sorted(bringers)]
        self.model.add_bool_or([*out, *(self.take[n] for n in sorted(rounds))])

    def _bringer(self, block: MetHindrance, chosen: frozenset[Option]) -> Option:
        return next(
            option for option in sorted(chosen) if block in self.problem.blocks.get(option, ())
        )
