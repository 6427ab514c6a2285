"""Small helpers on graphs: things by name, and what each leads to."""

from collections.abc import Mapping, Set


def strongly_connected(edges: Mapping[str, Set[str]]) -> list[list[str]]:
    """The groups of things that lead to each other, by two walks: down, then back up.

    Every thing is in one group; most are alone in theirs.
    """
    back: dict[str, set[str]] = {name: set() for name in edges}
    for source, goals in edges.items():
        for goal in goals:
            back.setdefault(goal, set()).add(source)
    order: list[str] = []
    seen: set[str] = set()
    for start in sorted(back):
        if start not in seen:
            order += _finished(start, edges, seen)
    groups, taken = [], set[str]()
    for start in reversed(order):
        if start not in taken:
            groups.append(_finished(start, back, taken))
    return groups


def _finished(start: str, edges: Mapping[str, Set[str]], seen: set[str]) -> list[str]:
    """What is reached from one thing and was not seen yet, each after all it leads to."""
    order: list[str] = []
    seen.add(start)
    stack = [(start, iter(sorted(edges.get(start, ()))))]
    while stack:
        name, goals = stack[-1]
        goal = next((g for g in goals if g not in seen), None)
        if goal is None:
            stack.pop()
            order.append(name)
        else:
            seen.add(goal)
            stack.append((goal, iter(sorted(edges.get(goal, ())))))
    return order
