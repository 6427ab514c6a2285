"""What the changes of set-up left to do cost at least, where blocks of work are done whole.

A run of a set-up is what is done without changing it. Each run but the one in hand is taken up
once. Blocks that need several set-ups lie across the ends of runs, at most one at each end.
"""

from collections.abc import Sequence
from functools import cached_property
from itertools import pairwise, permutations, product

from eldrim.core.order.entries import Chain, Change, Entries, SetUp, least_into, saved_at_first

# Blocks of more set-ups are not looked into: nothing is added for the changes inside them.
MOST_INSIDE = 4


class TakeUps:
    """How often set-ups are taken up at least for the blocks that are left, and what that costs."""

    def __init__(self, setups: Sequence[frozenset[SetUp]], chain: Chain, change: Change) -> None:
        """``setups`` are those of each block, ``chain`` what waits for what."""
        self._used = sorted({setup for block in setups for setup in block})
        self._change = change
        self.price = least_into(self._used, change)
        dearer = [(1 << i, self._dearer_inside(block)) for i, block in enumerate(setups)]
        self._surplus = [(bit, more) for bit, more in dearer if more]
        self._runs = [
            (setup, self.price[setup], Entries(setup, setups, chain), _several(setup, setups))
            for setup in self._used
        ]
        self._kinds = self._sorted(setups)
        self._saved: dict[SetUp, float] = {}
        self._groups: dict[int, list[tuple[frozenset[SetUp], float, list[int]]]] = {}
        self._known: dict[int, _FreeHanded] = {}
        self._across: dict[int, tuple[list[int], list[_Group]]] = {}
        self._wide = sum(mask for _, mask in self._kinds)

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
        """What the changes for the blocks ``left`` (as bits) cost at least."""
        total, spared, groups = self._free_handed(left)
        fewer, less = spared.get(in_hand, (0, 0.0))
        total -= less
        for group, least, lacking in groups:
            lacking += fewer - 1 if in_hand in group else 0
            if lacking > 0:
                total += lacking * least
        return max(0.0, total - self._saved_from(in_hand))

    def _free_handed(self, left: int) -> "_FreeHanded":
        """The same with none of the set-ups in hand, and what one in hand spares."""
        known = self._known.get(left)
        if known is None:
            known = self._known[left] = self._count(left)
        return known

    def _count(self, left: int) -> "_FreeHanded":
        across, groups = self._lying_across(left & self._wide)
        often: dict[SetUp, int] = {}
        spared: dict[SetUp, tuple[int, float]] = {}
        total = sum(more for bit, more in self._surplus if bit & left)
        for (setup, price, entries, _), several in zip(self._runs, across, strict=True):
            free = max(entries.least(left, in_hand=False), (several + 1) // 2)
            held = max(entries.least(left, in_hand=True), several // 2)
            often[setup], spared[setup] = free, (free - held, (free - held) * price)
            total += price * free
        lacking = [
            (group, least, changes - sum([often[setup] for setup in group]))
            for group, least, changes in groups
        ]
        return total, spared, lacking

    def _lying_across(self, wide: int) -> tuple[list[int], list["_Group"]]:
        """For the blocks of several set-ups left: how many need each, and the groups they form."""
        known = self._across.get(wide)
        if known is None:
            across = [(several & wide).bit_count() for *_, several in self._runs]
            counts = [(mask & wide).bit_count() for _, mask in self._kinds]
            present = sum(1 << kind for kind, count in enumerate(counts) if count)
            groups = [
                (group, least, 1 + sum(n * inside for n, inside in zip(counts, each, strict=True)))
                for group, least, each in self._together(present)
            ]
            known = self._across[wide] = (across, groups)
        return known

    def _saved_from(self, in_hand: SetUp) -> float:
        if in_hand not in self._saved:
            self._saved[in_hand] = saved_at_first(self.price, in_hand, self._change)
        return self._saved[in_hand]

    def _together(self, present: int) -> list[tuple[frozenset[SetUp], float, list[int]]]:
        """Groups of set-ups that hang together by the kinds of blocks present, with the least
        price in each and how many changes a block of each kind has inside, of other groups none.
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
                (group, min(self.price[setup] for setup in group), self._inside(kinds))
                for group, kinds in groups
            ]
        return self._groups[present]

    def _inside(self, kinds: int) -> list[int]:
        return [
            len(block) - 1 if kinds >> kind & 1 else 0
            for kind, (block, _) in enumerate(self._kinds)
        ]


def _several(setup: SetUp, setups: Sequence[frozenset[SetUp]]) -> int:
    """The blocks that need this set-up and others, as bits."""
    return sum(1 << i for i, block in enumerate(setups) if len(block) > 1 and setup in block)


# Set-ups that hang together, the least price among them, and how many changes they take.
_Group = tuple[frozenset[SetUp], float, int]
# Minutes, how often and by how many minutes a set-up in hand is taken up less, and for each group
# how many of its changes are not counted yet.
_FreeHanded = tuple[float, dict[SetUp, tuple[int, float]], list[_Group]]
