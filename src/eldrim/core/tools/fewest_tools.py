"""Fewest tools for a whole job: one stack for each act, chosen together, not one by one.

The cost counts each piece taken to the engine once, each combination put together once, and what
speaks against a single stack. Solved exactly, with fixed limits, so the answer is always the same.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from dataclasses import fields
from functools import lru_cache
from typing import TYPE_CHECKING

from eldrim.core.base.solver import LaterModule
from eldrim.core.tools.stack_finder import StackChoice, StackFinder, StackQuestion, offers

if TYPE_CHECKING:
    from ortools.sat.python import cp_model
else:
    cp_model = LaterModule("ortools.sat.python.cp_model")

# Weights in tenths: a piece to fetch, a combination to put together, a piece in a stack.
PIECE, SET_UP, IN_STACK = 100, 30, 10
# Of equal sums the one with the stacks that are best for themselves is taken.
TIE = 1000
DETERMINISTIC_LIMIT = 0.4


def choose_fewest_tools(
    finder: StackFinder, questions: tuple[StackQuestion, ...], supplied: StackFinder | None = None
) -> dict[StackQuestion, StackChoice]:
    """Return a stack for each question such that all together take the least.

    What the crib does not answer is asked of ``supplied``, the crib with what was got for it; a
    question that it does not answer either is left out. The answer does not depend on the order of
    the questions.
    """
    questions = tuple(sorted(questions, key=_place))
    with finder.lock:
        known = finder.chosen.get(questions)
    if known is None:
        offered = {
            question: found
            for question in questions
            if (found := tuple(_offered(question, finder, supplied or finder)))
        }
        known = dict(zip(offered, _choose(list(offered.values())), strict=True))
        with finder.lock:
            finder.chosen[questions] = known
    return known


@lru_cache(maxsize=4096)
def _place(question: StackQuestion) -> tuple[str, ...]:
    """Where a question stands among others, by all that makes it another."""
    demand, action, wanted = question
    compared = (getattr(demand, field.name) for field in fields(demand) if field.compare)
    return (*map(repr, compared), action, repr(wanted))


def _offered(
    question: StackQuestion, finder: StackFinder, supplied: StackFinder
) -> Iterator[StackChoice]:
    yield from offers((finder if finder.possible(*question) else supplied).answer(*question))


def _choose(offered: list[tuple[StackChoice, ...]]) -> list[StackChoice]:
    if all(len(need) == 1 for need in offered):
        return [need[0] for need in offered]
    model = cp_model.CpModel()
    picks = [[model.new_bool_var("") for _ in need] for need in offered]
    for row in picks:
        model.add_exactly_one(row)
    terms = [
        (TIE * round(IN_STACK * f.stack.cost) + place) * pick
        for row, need in zip(picks, offered, strict=True)
        for place, (pick, f) in enumerate(zip(row, need, strict=True))
    ]
    for weight, users in ((PIECE, _pieces(offered)), (SET_UP, _setups(offered))):
        for places in users.values():
            used = model.new_bool_var("")
            terms.append(TIE * weight * used)
            for i, j in places:
                model.add_implication(picks[i][j], used)
    model.minimize(sum(terms))
    return _solved(model, picks, offered)


def _solved(
    model: cp_model.CpModel,
    picks: list[list[cp_model.IntVar]],
    offered: list[tuple[StackChoice, ...]],
) -> list[StackChoice]:
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    # So few choices are found without these, which take longer than the search; raising the limit
    # from below is quicker than coming down from a first choice.
    solver.parameters.symmetry_level = 0
    solver.parameters.cp_model_probing_level = 0
    solver.parameters.linearization_level = 0
    solver.parameters.max_presolve_iterations = 1
    solver.parameters.optimize_with_core = True
    solver.parameters.max_deterministic_time = DETERMINISTIC_LIMIT
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return [need[0] for need in offered]
    return [
        next(f for pick, f in zip(row, need, strict=True) if solver.value(pick))
        for row, need in zip(picks, offered, strict=True)
    ]


Users = dict[Hashable, list[tuple[int, int]]]


def _pieces(offered: list[tuple[StackChoice, ...]]) -> Users:
    users: Users = {}
    for index, need in enumerate(offered):
        for j, found in enumerate(need):
            for key in found.stack.ids:
                users.setdefault(key, []).append((index, j))
    return users


def _setups(offered: list[tuple[StackChoice, ...]]) -> Users:
    users: Users = {}
    for index, need in enumerate(offered):
        for j, found in enumerate(need):
            users.setdefault(found.stack.ids, []).append((index, j))
    return users
