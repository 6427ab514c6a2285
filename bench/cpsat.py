"""The same choice as a plain CP-SAT model: the baseline our search is held against."""

from ortools.sat.python import cp_model

from eldrim.core.access.problem import AccessProblem, Option


def solve(problem: AccessProblem, seconds: float) -> tuple[int | None, bool]:
    """Return the least cost found and whether CP-SAT proved it."""
    model = cp_model.CpModel()
    take = {n: model.new_bool_var(str(n)) for n in sorted(problem.cost)}
    _one_way_a_part(model, take)
    place = {p: model.new_int_var(0, len(take), f"place {p}") for p in {n.part for n in take}}
    for block in problem.roots:
        model.add_bool_or([take[n] for n in block.options])
    for node, blocks in problem.blocks.items():
        for block in blocks:
            model.add_bool_or([take[n] for n in block.options]).only_enforce_if(take[node])
            rounds = [take[n] for n in block.options if not n.is_way]
            if block.target.part:
                before = place[block.part] + 1 <= place[block.target.part]
                model.add(before).only_enforce_if([take[node], *(r.negated() for r in rounds)])
    model.minimize(sum(problem.cost[n] * v for n, v in take.items()))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None, False
    return round(solver.objective_value), status == cp_model.OPTIMAL


def _one_way_a_part(model: cp_model.CpModel, take: dict[Option, cp_model.IntVar]) -> None:
    for part in {n.part for n in take}:
        model.add_at_most_one(take[n] for n in take if n.part == part and n.is_way)
