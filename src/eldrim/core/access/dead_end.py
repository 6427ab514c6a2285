"""Why nothing opens a job, found in time that grows with the sheet and never with its choices.

What can be opened is worked out from the bottom: an option once each hindrance it brings has an
option that can be opened. What is never reached so has a hindrance without an answer at the end of
its chain, or waits for itself.
"""

from eldrim.core.access.errors import NoWayInError
from eldrim.core.access.problem import AccessProblem, MetHindrance, Option


def no_way_in(problem: AccessProblem) -> NoWayInError:
    """Return what closes an impossible problem, as an error that names it."""
    opened = _can_be_opened(problem)
    for option in problem.forced:
        if option not in opened:
            return _followed(problem, opened, _closed_block(problem, opened, option))
    shut = [root for root in problem.roots if not opened & set(root.options)]
    if shut:
        return _followed(problem, opened, shut[0])
    return NoWayInError(_at_odds(problem))


def _can_be_opened(problem: AccessProblem) -> set[Option]:
    opened: set[Option] = set()
    waiting = sorted(problem.cost)
    while True:
        free = [
            option
            for option in waiting
            if all(opened & set(b.options) for b in problem.blocks.get(option, ()))
        ]
        if not free:
            return opened
        opened |= set(free)
        waiting = [option for option in waiting if option not in opened]


def _closed_block(problem: AccessProblem, opened: set[Option], option: Option) -> MetHindrance:
    blocks = problem.blocks.get(option, ())
    return next(block for block in blocks if not opened & set(block.options))


def _followed(problem: AccessProblem, opened: set[Option], block: MetHindrance) -> NoWayInError:
    """Follow a shut hindrance down to one without options, or back to itself."""
    trail: list[MetHindrance] = []
    while block.options and block not in trail:
        trail.append(block)
        block = _closed_block(problem, opened, block.options[0])
    if block.options:
        loop = trail[trail.index(block) :]
        return NoWayInError((*(b.part for b in loop), loop[0].part), loop=True)
    above = [str(b.target) for b in trail[:1]] + [b.part for b in trail]
    start = above or [str(block.target)]
    return NoWayInError((*start, block.part), closed=block.closed)


def _at_odds(problem: AccessProblem) -> tuple[str, ...]:
    """A part that would have to move in two ways at once, as far as what is forced tells."""
    chosen = {option.part: option for option in problem.forced}
    waiting = [*problem.roots, *(b for o in problem.forced for b in problem.blocks.get(o, ()))]
    for block in waiting:
        if len(block.options) != 1:
            continue
        only = block.options[0]
        if only.is_way and chosen.get(only.part, only) != only:
            return (str(block.target), only.part)
        if chosen.setdefault(only.part, only) == only:
            waiting += [b for b in problem.blocks.get(only, ()) if b not in waiting]
    first = problem.roots[0] if problem.roots else None
    return (str(first.target), first.part) if first else tuple(chosen)
