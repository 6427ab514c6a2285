"""Parts that wait for each other: each would have to be off before the other."""

from collections.abc import Iterable

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.base.graphs import strongly_connected


def find_loop(problem: AccessProblem, chosen: frozenset[Option]) -> list[MetHindrance]:
    """Return the blocks of one loop of "must be off before" among the chosen ways, or none."""
    before: dict[str, list[MetHindrance]] = {}
    for node in sorted(chosen):
        for block in problem.blocks.get(node, ()):
            round_taken = any(option in chosen for option in block.options if not option.is_way)
            if block.target.part and not round_taken:
                before.setdefault(block.target.part, []).append(block)
    done: set[str] = set()
    return next((loop for part in sorted(before) if (loop := _visit(part, before, done))), [])


def _visit(start: str, before: dict[str, list[MetHindrance]], done: set[str]) -> list[MetHindrance]:
    """The loop met when walking from a part to what must be off before it, if there is one."""
    trail: list[MetHindrance] = []
    left = [iter(before.get(start, ()))]
    while left:
        block = next(left[-1], None)
        if block is None:
            left.pop()
            done.add(trail.pop().part if trail else start)
            continue
        on_trail = [b.target.part for b in (*trail, block)]
        if block.part in on_trail:
            return [*trail, block][on_trail.index(block.part) :]
        if block.part not in done:
            trail.append(block)
            left.append(iter(before.get(block.part, ())))
    return []


def waiting_groups(problem: AccessProblem) -> list[frozenset[str]]:
    """The groups of parts that may have to wait for each other in a circle, whatever is chosen."""
    edges = _waits(problem)
    return [frozenset(group) for group in strongly_connected(edges) if _circles(group, edges)]


def _waits(problem: AccessProblem) -> dict[str, set[str]]:
    """For each part that may have to wait for others, these."""
    waits: dict[str, set[str]] = {}
    for blocks in problem.blocks.values():
        for block in blocks:
            if block.target.part:
                waits.setdefault(block.target.part, set()).add(block.part)
    return waits


def _circles(group: Iterable[str], edges: dict[str, set[str]]) -> bool:
    parts = list(group)
    return len(parts) > 1 or parts[0] in edges.get(parts[0], ())


def may_loop(problem: AccessProblem) -> bool:
    """Whether any choice could make parts wait for each other."""
    waits = _waits(problem)
    while waits:
        later = {part: over for part, over in waits.items() if not over.isdisjoint(waits)}
        if len(later) == len(waits):
            return True
        waits = later
    return False
