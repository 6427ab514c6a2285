"""How often a set-up has to be taken up at least: a lower limit for whatever orders the work."""

from collections.abc import Callable, Collection, Mapping, Sequence

# What is in hand, by ids; empty where bare hands do.
SetUp = tuple[str, ...]

# What going from one set-up to another costs.
Change = Callable[[SetUp, SetUp], float]


def least_into(setups: Collection[SetUp], change: Change) -> dict[SetUp, float]:
    """What taking each set-up up costs at least with another of these in hand."""
    return {
        setup: min(change(other, setup) for other in [o for o in setups if o != setup] or [()])
        for setup in setups
    }


def saved_at_first(least: Mapping[SetUp, float], in_hand: SetUp, change: Change) -> float:
    """By how much the first change can be cheaper, where nothing of these is in hand."""
    if in_hand in least:
        return 0.0
    return max((0.0, *(cost - change(in_hand, setup) for setup, cost in least.items())))


class Chain:
    """What waits for what: ``following`` is, for each thing, what waits for it directly."""

    def __init__(self, following: Sequence[Sequence[int]]) -> None:
        """Order the things, each after all that wait for it; those in a loop are left away."""
        self.following = following
        waiting = [len(goals) for goals in following]
        before: list[list[int]] = [[] for _ in following]
        for index, goals in enumerate(following):
            for goal in goals:
                before[goal].append(index)
        self.last_first = [index for index, count in enumerate(waiting) if not count]
        for index in self.last_first:
            for first in before[index]:
                waiting[first] -= 1
                if not waiting[first]:
                    self.last_first.append(first)


class Entries:
    """How often one set-up is taken up.

    Along any chain of things that wait for each other it is taken up again each time another came
    between; the chain with the most of that counts. A thing that takes other set-ups too either
    begins with this one or ends with it, so a run of it has one such thing at each end.
    """

    def __init__(self, setup: SetUp, used: Sequence[frozenset[SetUp]], chain: Chain) -> None:
        """``used`` are the set-ups of each thing."""
        other, same = [0] * len(used), [0] * len(used)
        for index in chain.last_first:
            goals = chain.following[index]
            then_other = max([other[goal] for goal in goals], default=0)
            then_same = max([same[goal] for goal in goals], default=0)
            if setup in used[index]:
                after = then_same if len(used[index]) == 1 else then_other
                other[index], same[index] = 1 + then_same, after
            elif used[index]:
                other[index] = same[index] = then_other
            else:
                other[index], same[index] = then_other, then_same
        self._levels = (_levels(other), _levels(same))

    def least(self, left: int, *, in_hand: bool) -> int:
        """How often at least, for what is ``left`` (as bits), with this set-up in hand or not."""
        for count, things in self._levels[in_hand]:
            if things & left:
                return count
        return 0


def _levels(counts: list[int]) -> list[tuple[int, int]]:
    """Things with at least so many, as bits, for each count above none; the most first."""
    most = max(counts, default=0)
    return [
        (level, sum(1 << index for index, count in enumerate(counts) if count >= level))
        for level in range(most, 0, -1)
    ]
