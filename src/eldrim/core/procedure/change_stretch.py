"""The changes of set-up of one direction, out or back, for any few of its options."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from eldrim.core.access.problem import Option
from eldrim.core.access.whole_model import Chained
from eldrim.core.order.blocks import blocks_cost_at_least, sequence_blocks
from eldrim.core.order.entries import SetUp
from eldrim.core.order.sequence import Change, Task, sequence, tasks_cost_at_least

# States of a search for what a choice costs, by the thousand tasks, and of one that only asks
# whether a few options cost so much.
STATES, STATES_ASKED = 30, 400


@dataclass(frozen=True)
class Stretch:
    """What one direction takes: the set-ups of each option, and what comes before what.

    ``starts`` are the set-ups that may be in hand before; with ``whole_parts`` each part is
    finished before the next is begun. Leaving tasks away never makes an order dearer, so what a few
    options cost holds for every choice with them.
    """

    setups: Mapping[Option, Sequence[SetUp]]
    before: Mapping[tuple[Option, Option], tuple[Option, ...]]
    change: Change
    starts: tuple[SetUp, ...] = ()
    whole_parts: bool = False

    def of(self, chosen: frozenset[Option]) -> "Stretch":
        """The same with what this choice waits for: where a work-round is taken, nothing waits."""
        waits = {pair: rounds for pair, rounds in self.before.items() if chosen.isdisjoint(rounds)}
        return replace(self, before=waits)

    def cost(self, options: Collection[Option]) -> int:
        """What these options cost at least, in hundredths of a minute."""
        tasks = self._tasks(options)
        if not self.whole_parts:
            return _hundredths(sequence(tasks, (), self.change, STATES, beam_width=1).bound)
        found = [
            sequence_blocks(tasks, start, self.change, STATES, beam_width=1).bound
            for start in self.starts or [()]
        ]
        return _hundredths(min(found))

    def costs_at_least(self, options: Collection[Option], least: int) -> bool:
        """Whether these options surely cost ``least`` or more."""
        tasks, minutes = self._tasks(options), least / 100
        if not self.whole_parts:
            return tasks_cost_at_least(tasks, self.change, minutes, STATES_ASKED)
        return blocks_cost_at_least(tasks, self.starts, self.change, minutes, STATES_ASKED)

    def rounds(self, options: Collection[Option]) -> set[Option]:
        """The work-rounds that would undo what these options wait for among each other."""
        pairs = (self.before.get((one, other), ()) for one in options for other in options)
        return {taken for pair in pairs for taken in pair}

    def _tasks(self, options: Collection[Option]) -> list[Task]:
        """One task for each set-up of each option, and one for the option done."""
        tasks: list[Task] = []
        for option in sorted(options):
            over = (first for first in options if (first, option) in self.before)
            after = frozenset(f"{first.part}/done" for first in over)
            made = [
                Task(f"{option.part}/{number}", setup, after, block=option.part)
                for number, setup in enumerate(self.setups[option])
            ]
            last = frozenset((*after, *(task.key for task in made)))
            tasks += [*made, Task(f"{option.part}/done", (), last, block=option.part)]
        return tasks

    def chained(self, price: int = 0) -> Chained:
        """The same for the model of the whole; ``price`` is what any change costs at least."""
        every = sorted({setup for setups in self.setups.values() for setup in setups})
        number = {setup: place for place, setup in enumerate(every)}
        prices = {setup: self._least_into(setup, (*every, *self.starts)) for setup in every}
        first = {setup: self._least_into(setup, self.starts or [()]) for setup in every}
        own = {option: price * (len(setups) - 1) for option, setups in self.setups.items()}
        return Chained(
            kinds={o: frozenset(number[s] for s in setups) for o, setups in self.setups.items()},
            prices={number[setup]: prices[setup] for setup in every},
            before=self.before,
            saved=max((0, *(prices[setup] - first[setup] for setup in every))),
            own={option: cost for option, cost in own.items() if cost > 0},
            begin=0 if set(self.starts) & set(every) else price,
        )

    def _least_into(self, setup: SetUp, others: Sequence[SetUp]) -> int:
        """What taking up a set-up costs at least with one of these in hand."""
        costs = (self.change(other, setup) for other in others if other != setup)
        return min(map(_hundredths, costs), default=0)


def smallest(
    options: Sequence[Option], enough: Callable[[Collection[Option]], bool], most_asked: int
) -> tuple[list[Option], int]:
    """A small part of ``options`` that is still ``enough``, and how many questions are left.

    Larger pieces are left away first.
    """
    kept, size = list(options), max(1, len(options) // 4)
    while size:
        place = 0
        while place < len(kept) and most_asked:
            most_asked -= 1
            fewer = kept[:place] + kept[place + size :]
            if enough(fewer):
                kept = fewer
            else:
                place += size
        size //= 2
    return kept, most_asked


def _hundredths(minutes: float) -> int:
    return int(100 * minutes + 1e-6)
