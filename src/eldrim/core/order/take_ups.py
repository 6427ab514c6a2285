"""What the changes of set-up left to do cost at least, where blocks of work are done whole.

A run of a set-up is what is done without changing it. Each run but the one in hand is taken up
once. Blocks that need several set-ups lie across the ends of runs, at most one at each end.
"""

from collections.abc import Callable, Sequence
from functools import cached_property
from itertools import pairwise, permutations, product

from eldrim.core.order.entries import Chain, Entries, SetUp

# Blocks of more set-ups are not looked into: nothing is added for the changes inside them.
MOST_INSIDE = 4


class TakeUps:
    """How often set-ups are taken up at least for the blocks that are left, and what that costs."""

    def __init__(
        self,
        setups: Sequence[frozenset[SetUp]],
        chain: Chain,
        change: Callable[[SetUp, SetUp], float],
    ) -> None:
        """``setups`` are those of each block, ``chain`` what waits for what."""
        self._used = sorted({setup for block in setups for setup in block})
        self._change = change
        self.price = {setup: self._least_into(setup) for setup in self._used}
        self.surplus = [self._dearer_inside(block) for block in setups]
        self._runs = [(s, self.price[s], Entries(s, setups, chain)) for s in self._used]
        self._several = {
            setup: sum(
                1 << i for i, block in enumerate(setups) if len(block) > 1 and setup in block
            )
            for setup in self._used
        }
        self._kinds = self._sorted(setups)
        self._saved: dict[SetUp, float] = {}
        self._groups: dict[int, list[tuple[frozenset[SetUp], float, int]]] = {}

    def _least_into(self, setup: SetUp) -> float:
        """What taking a set-up up costs at least with another of these in hand."""
        others = [other for other in self._used if other != setup] or [()]
        return min(self._change(other, setup) for other in others)

    def _dearer_inside(self, block: frozenset[SetUp]) -> float:
        """By how much the changes inside a block are dearer than the cheapest into its set-ups."""
        if not 2 <= len(block) <= MOST_INSIDE:
            return 0.0
        return min(
            sum(self._dearer[pair] for pair in pairwise(order)) for order in permutations(block)
        )

    @cached_property
    def _dearer(self) -> dict[tuple[SetUp, SetUp], float]:
        """By how much it is dearer at least to come from one set-up to another, by any detour."""
        used = self._used
        least = {
            (a, b): self._change(a, b) - self.price[b] if a != b else 0.0
            for a, b in product(used, repeat=2)
        }
        for by, start, end in product(used, repeat=3):
            least[start, end] = min(least[start, end], least[start, by] + least[by, end])
        return least

    @staticmethod
    def _sorted(setups: Sequence[frozenset[SetUp]]) -> list[tuple[frozenset[SetUp], int]]:
        """The blocks of several set-ups, as bits, by these."""
        found: dict[frozenset[SetUp], int] = {}
        for index, block in enumerate(setups):
            if len(block) > 1:
                found[block] = found.get(block, 0) | 1 << index
        return sorted(found.items(), key=lambda kind: sorted(kind[0]))

    def at_least(self, left: int, in_hand: SetUp) -> float:
        """What the changes for the blocks ``left`` (as bits) cost at least, without the surplus."""
        often: dict[SetUp, int] = {}
        total = 0.0
        for setup, price, entries in self._runs:
            held = setup == in_hand
            across = (self._several[setup] & left).bit_count() + (not held)
            often[setup] = max(entries.least(left, in_hand=held), across // 2)
            total += price * often[setup]
        counts = [(mask & left).bit_count() for _, mask in self._kinds]
        present = sum(1 << kind for kind, count in enumerate(counts) if count)
        for group, least, kinds in self._together(present):
            inside = sum(
                counts[kind] * (len(self._kinds[kind][0]) - 1)
                for kind in range(len(counts))
                if kinds >> kind & 1
            )
            lacking = inside + (in_hand not in group) - sum(often[setup] for setup in group)
            total += max(0, lacking) * least
        return max(0.0, total - self._saved_from(in_hand))

    def _saved_from(self, in_hand: SetUp) -> float:
        """By how much the first change can be cheaper, where nothing of these is in hand."""
        if in_hand not in self._saved:
            known = in_hand in self.price or not self._used
            self._saved[in_hand] = (
                0.0 if known else max(self.price[s] - self._change(in_hand, s) for s in self._used)
            )
        return max(0.0, self._saved[in_hand])

    def _together(self, present: int) -> list[tuple[frozenset[SetUp], float, int]]:
        """Groups of set-ups that hang together by the kinds of blocks present, with the least
        price in each and its kinds as bits.
        """
        if present not in self._groups:
            groups: list[tuple[frozenset[SetUp], int]] = []
            for kind, (block, _) in enumerate(self._kinds):
                if not present >> kind & 1:
                    continue
                joined = [group for group in groups if group[0] & block]
                groups = [group for group in groups if not group[0] & block]
                together = block.union(*(group[0] for group in joined))
                groups.append((together, sum(group[1] for group in joined) | 1 << kind))
            self._groups[present] = [
                (group, min(self.price[setup] for setup in group), kinds) for group, kinds in groups
            ]
        return self._groups[present]
