"""The changes of set-up of one direction, out or back, for any few of its options."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product
from math import floor
from typing import NamedTuple

from eldrim.core.access.problem import Option
from eldrim.core.access.whole_model import Chained
from eldrim.core.order.blocks import Endings, blocks_cost_at_least, sequence_blocks
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.frontier import Allowance
from eldrim.core.order.sequence import Task, sequence, tasks_cost_at_least

# States of a search for what a choice costs, by the thousand tasks.
STATES = 3000
# What does not matter is looked for in so many pieces at first, down to pieces of so many ways.
FIRST_PIECES, LEAST_PIECE = 4, 2


# What is done before what, where none of these work-rounds is taken.
Waits = Mapping[tuple[Option, Option], tuple[Option, ...]]


@dataclass(frozen=True)
class Stretch:
    """What one direction takes: the set-ups of each option, and what comes before what.

    ``starts`` are the set-ups that may be in hand before; with ``whole_parts`` each part is
    finished before the next is begun. ``also`` is taken up once besides, after the parts of
    ``also_after`` or after all; ``extra`` comes with every choice, in hundredths of a minute.
    Leaving tasks away never makes an order dearer, so what a few options cost holds for every
    choice with them.
    """

    setups: Mapping[Option, Sequence[SetUp]]
    before: Waits
    change: Change
    starts: tuple[SetUp, ...] = ()
    whole_parts: bool = False
    also: SetUp = ()
    also_after: frozenset[str] | None = None
    extra: int = 0
    _inside_parts: Endings = field(default_factory=dict, compare=False, repr=False)

    def of(self, chosen: frozenset[Option]) -> "Stretch":
        """The same with what this choice waits for: where a work-round is taken, nothing waits."""
        waits = {pair: rounds for pair, rounds in self.before.items() if chosen.isdisjoint(rounds)}
        return replace(self, before=waits)

    def cost_of(self, chosen: frozenset[Option]) -> int:
        """What a choice costs at least, in hundredths of a minute."""
        return self.of(chosen).cost([option for option in chosen if option.is_way])

    def cost(self, options: Collection[Option]) -> int:
        """What these options cost at least, in hundredths of a minute."""
        tasks, starts = self._tasks(options), self.starts or ((),)
        order = sequence_blocks if self.whole_parts else sequence
        found = [order(tasks, start, self.change, STATES, beam_width=1).bound for start in starts]
        return hundredths(min(found)) + self.extra

    def costs_at_least(self, options: Collection[Option], least: int, allowance: Allowance) -> bool:
        """Whether these options surely cost ``least`` or more."""
        tasks, minutes = self._tasks(options), (least - self.extra) / 100
        starts = self.starts or ((),)
        if not self.whole_parts:
            return tasks_cost_at_least(tasks, starts, self.change, minutes, allowance)
        known = self._inside_parts
        return blocks_cost_at_least(tasks, starts, self.change, minutes, allowance, known)

    def rounds(self, options: Collection[Option]) -> set[Option]:
        """The work-rounds that would undo what these options wait for among each other."""
        pairs = (self.before.get((one, other), ()) for one in options for other in options)
        return {taken for pair in pairs for taken in pair}

    def alike(self, options: Collection[Option]) -> "Few":
        """For each option the ways of its part that take as much and wait for as much."""
        alike = {
            o: {other for other in self.setups if self._takes_as_much(other, o)} for o in options
        }
        pairs = [(a, b) for a in alike for b in alike if (a, b) in self.before]
        changed = True
        while changed:
            unlike = {
                first if first != a else later
                for a, b in pairs
                for first in alike[a]
                for later in alike[b]
                if (first, later) not in self.before
            }
            alike = {option: others - unlike for option, others in alike.items()}
            changed = bool(unlike)
        rounds = {
            taken
            for a, b in pairs
            for pair in product(alike[a], alike[b])
            for taken in self.before[pair]
        }
        return Few(tuple(map(frozenset, alike.values())), frozenset(rounds))

    def _takes_as_much(self, other: Option, option: Option) -> bool:
        return other.part == option.part and set(self.setups[other]) >= set(self.setups[option])

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
        if self.also:
            parts = {option.part for option in options}
            parts &= parts if self.also_after is None else self.also_after
            done = frozenset(f"{part}/done" for part in parts)
            tasks.append(Task("also", self.also, done, block="also"))
        return tasks

    def chained(self) -> Chained:
        """The same for the model of the whole."""
        every = sorted({setup for setups in self.setups.values() for setup in setups})
        starts = self.starts or ((),)
        number = {setup: place for place, setup in enumerate(every)}
        first = {setup: self._least_into(setup, starts) for setup in every}
        among = every if len(every) > 1 else (*every, *starts)
        prices = {
            setup: self._least_into(setup, [s for s in among if s != setup]) for setup in every
        }
        also = self._least_into(self.also, (*every, *starts)) if self.also else 0
        return Chained(
            kinds={o: frozenset(number[s] for s in setups) for o, setups in self.setups.items()},
            prices={number[setup]: prices[setup] for setup in every},
            before=self.before,
            saved=max((0, *(prices[setup] - first[setup] for setup in every))),
            fixed=also + self.extra,
            whole_parts=self.whole_parts,
            begin=not set(starts) & set(every),
        )

    def _least_into(self, setup: SetUp, others: Sequence[SetUp]) -> int:
        """What having a set-up in hand costs at least with one of these in hand before."""
        return min((hundredths(self.change(other, setup)) for other in others), default=0)


class Few(NamedTuple):
    """What already costs so much: one way of each of these sets, and none of the work-rounds."""

    ways: tuple[frozenset[Option], ...]
    rounds: frozenset[Option]


def fewest(
    stretch: Stretch,
    ways: list[Option],
    cost: int,
    likely: Collection[Option],
    allowance: Allowance,
) -> Few:
    """A few of ``ways`` that still cost so much.

    What does not matter is left away: first ways, if it can be all but those that are ``likely`` to
    matter, then work-rounds, whose waits are dropped as if they were taken. Other ways of the same
    parts that take as much and wait alike do as well.
    """

    def enough(some: Collection[Option]) -> bool:
        return stretch.costs_at_least(some, cost, allowance)

    told = [way for way in ways if way in likely]
    few = told if told and enough(told) else smallest(ways, enough, LEAST_PIECE)
    rounds = stretch.rounds(few)

    def with_waits(kept: Collection[Option]) -> Stretch:
        return stretch.of(frozenset(rounds.difference(kept)))

    def enough_rounds(kept: Collection[Option]) -> bool:
        return with_waits(kept).costs_at_least(few, cost, allowance)

    return with_waits(smallest(sorted(rounds), enough_rounds, 1)).alike(few)


def smallest(
    options: Sequence[Option], enough: Callable[[Collection[Option]], bool], least_piece: int
) -> list[Option]:
    """A small part of ``options`` that is still ``enough``: larger pieces are left away first."""
    kept, size = list(options), len(options) // FIRST_PIECES or 1
    while size >= least_piece:
        place = 0
        while place < len(kept):
            fewer = kept[:place] + kept[place + size :]
            if enough(fewer):
                kept = fewer
            else:
                place += size
        size //= 2
    return kept


def hundredths(minutes: float) -> int:
    """Minutes as whole hundredths, never more than they are."""
    return floor(100 * minutes + 1e-6)
